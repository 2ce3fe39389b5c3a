"""Looking at a picture for what it is made of: drawn lines, a grid, or islands; and how sure that is."""

from __future__ import annotations

from functools import cached_property
from math import exp, log
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, full_scale
from kivel.core.slicing.background import Drawn, KeyRequest, drawn_part
from kivel.core.slicing.cell_sums import cell_sums
from kivel.core.slicing.evidence import gathered_evidence
from kivel.core.slicing.islands import Islands, found_islands
from kivel.core.slicing.lattice import Lattice, Run
from kivel.core.slicing.lines import drawn_grid
from kivel.core.slicing.ranking import GridRank, ranked_grids

__all__ = ["SURE", "Division", "PictureLook", "look_at"]

SURE = 0.9
"""Confidence from which a picture is cut without asking."""

_MOST_FOUND = 5
_LARGE = 0.25
"""As a share of the median area: islands that count where grids are held against them."""

DivisionKind = Literal["lines", "grid", "islands"]


class Division(NamedTuple):
    """One way to take a picture apart. `lattice` is None for islands; `confidence` is from 0 to 1."""

    kind: DivisionKind
    lattice: Lattice | None
    confidence: float


class PictureLook:
    """Holds what a look at a picture found: the likeliest first; nothing where nothing is drawn."""

    def __init__(self, found: tuple[Division, ...], drawn: Drawn, islands: Islands | None) -> None:
        self.found = found
        self.drawn = drawn
        self._islands = islands

    @cached_property
    def islands(self) -> Islands:
        """The islands, found when somebody asks, if they were not before."""
        return self._islands or found_islands(self.drawn.seen)


def look_at(image: Pixels, key: KeyRequest = "find") -> PictureLook:
    """Return what a picture is made of.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight-alpha RGBA of any depth.
    key : "find", "corner", "none" or colour
        The background colour.
    """
    drawn = drawn_part(image, key)
    if not drawn.seen.any():
        return PictureLook((), drawn, None)
    shown = _in_8_bits(image)
    ranks = _distinct(ranked_grids(drawn, gathered_evidence(shown, drawn)), drawn)
    lined = drawn_grid(shown, drawn)
    if lined:
        left = 1 - lined.certainty
        others = [Division("grid", rank.lattice, left * rank.likelihood) for rank in ranks]
        return PictureLook(_best([Division("lines", lined.lattice, lined.certainty), *others]), drawn, None)
    if drawn.is_full:
        return PictureLook(_best([Division("grid", rank.lattice, rank.likelihood) for rank in ranks]), drawn, None)
    islands = found_islands(drawn.seen)
    share = _grid_share(ranks, islands, drawn)
    grids = [Division("grid", rank.lattice, share * rank.likelihood) for rank in ranks]
    return PictureLook(_best([*grids, Division("islands", None, 1 - share)]), drawn, islands)


def _in_8_bits(image: Pixels) -> Pixels:
    if image.dtype == np.uint8:
        return image
    values = np.clip(image.astype(np.float32) / full_scale(image), 0, 1)
    return np.rint(values * 255).astype(np.uint8)


def _distinct(ranks: list[GridRank], drawn: Drawn) -> list[GridRank]:
    """Return the likeliest of the grids of one pitch that separate the shapes alike, with what all of them have.

    They differ in how much of the empty space between two cells is taken to be gap.
    """
    columns, rows = (np.flatnonzero(drawn.seen.any(axis=axis)) for axis in (0, 1))
    found: dict[tuple[object, ...], GridRank] = {}
    for rank in ranks:
        across, down = rank.lattice.across, rank.lattice.down
        pitches = tuple(run.pitch for run in (across, down) if run.count > 1)
        alike = (pitches, _cells_of(across, columns), _cells_of(down, rows))
        first = found.get(alike)
        found[alike] = first._replace(likelihood=first.likelihood + rank.likelihood) if first else rank
    return sorted(found.values(), key=lambda rank: -rank.likelihood)


def _cells_of(run: Run, places: NDArray[np.intp]) -> bytes:
    """In which cell each place lies, -1 between them."""
    starts, ends = run.edges()
    cell = np.searchsorted(starts, places, side="right") - 1
    return np.where((cell >= 0) & (places < ends[cell]), cell, -1).astype(np.int32).tobytes()


def _best(found: list[Division]) -> tuple[Division, ...]:
    return tuple(sorted(found, key=lambda one: -one.confidence)[:_MOST_FOUND])


_SHARE_WEIGHTS = {
    "family": 4.57, "dip": 0.71, "cut": -6.80, "centre_spread": -23.92, "ln_cells": 0.82, "ln_islands": -0.60,
    "ln_islands_a_cell": -3.70, "size_spread": 5.27, "constant": -0.58,
}  # fmt: skip
"""Weights of each feature of the likeliest grid, and of how the islands lie in it, for there being a grid at all."""


_MOST_LN_CELLS, _LEAST_LN_RATIO = log(400), -1.5
"""Beyond these, more says no more: a grid of thousands of cells for a dozen islands is none."""


def _grid_share(ranks: list[GridRank], islands: Islands, drawn: Drawn) -> float:
    """How likely it is that there is a grid at all: a logistic of how the islands lie in the likeliest one."""
    score = float(np.dot(_share_features(ranks, islands, drawn), list(_SHARE_WEIGHTS.values())))
    return 1 / (1 + exp(-score))


def _share_features(ranks: list[GridRank], islands: Islands, drawn: Drawn) -> list[float]:
    """In the order of `_SHARE_WEIGHTS`."""
    best = ranks[0]
    lattice = best.lattice
    of_cells = cell_sums(drawn.seen, [lattice.across], [lattice.down]).of(lattice)
    areas = np.array(islands.areas)
    large = np.array(islands.boxes)[areas >= _LARGE * np.median(areas)]
    return [
        sum(rank.likelihood for rank in ranks if _counts(rank) == _counts(best)),
        best.dip,
        _cut(large, lattice),
        of_cells.spread_x + of_cells.spread_y,
        min(log(lattice.capacity), _MOST_LN_CELLS),
        log(len(areas)),
        max(log(len(areas) / lattice.capacity), _LEAST_LN_RATIO),
        float(np.std(np.log(large[:, 2] * large[:, 3]))),
        1.0,
    ]


def _counts(rank: GridRank) -> tuple[int, int]:
    return rank.lattice.columns, rank.lattice.rows


def _cut(boxes: NDArray[np.int64], lattice: Lattice) -> float:
    """Share of the islands that lie in more than one cell."""
    x, y, w, h = boxes.T
    (left, _), (top, _) = lattice.across.edges(), lattice.down.edges()
    column, last_column = (np.searchsorted(left, place, side="right") for place in (x, x + w - 1))
    row, last_row = (np.searchsorted(top, place, side="right") for place in (y, y + h - 1))
    return float(np.mean((column != last_column) | (row != last_row)))
