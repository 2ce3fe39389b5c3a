"""Looking at a picture for what it is made of: drawn lines, a grid, or islands; and how sure that is."""

from __future__ import annotations

from functools import cached_property
from math import exp, log
from typing import Literal, NamedTuple

import numpy as np

from kivel.core.pixels import Pixels, Rect, full_scale
from kivel.core.slicing.background import Drawn, KeyRequest, drawn_part
from kivel.core.slicing.cell_sums import cell_sums
from kivel.core.slicing.evidence import gathered_evidence
from kivel.core.slicing.islands import Islands, found_islands
from kivel.core.slicing.lattice import Lattice
from kivel.core.slicing.lines import drawn_grid
from kivel.core.slicing.ranking import GridRank, ranked_grids

__all__ = ["SURE", "Division", "PictureLook", "look_at"]

SURE = 0.9
"""Confidence from which a picture is cut without asking."""

_MOST_FOUND = 5
_LARGE = 0.25
"""Of the median area: islands that count where grids are held against them."""

DivisionKind = Literal["lines", "grid", "islands"]


class Division(NamedTuple):
    """One way to take a picture apart. `lattice` is None for islands; `confidence` is from 0 to 1."""

    kind: DivisionKind
    lattice: Lattice | None
    confidence: float


class PictureLook:
    """What a look at a picture found: the likeliest first; nothing where nothing is drawn."""

    def __init__(self, found: tuple[Division, ...], drawn: Drawn, islands: Islands | None) -> None:
        self.found = found
        self.drawn = drawn
        self._islands = islands

    @property
    def is_sure(self) -> bool:
        return bool(self.found) and self.found[0].confidence >= SURE

    @cached_property
    def islands(self) -> Islands:
        """The islands, found when somebody asks, if they were not before."""
        return self._islands or found_islands(self.drawn.seen)


def look_at(image: Pixels, key: KeyRequest = "find") -> PictureLook:
    """What a picture is made of.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight-alpha RGBA of any depth.
    key : "find", "corner", "none" or colour
        The colour that stands for nothing.
    """
    drawn = drawn_part(image, key)
    if not drawn.seen.any():
        return PictureLook((), drawn, None)
    shown = _in_8_bits(image)
    ranks = ranked_grids(drawn, gathered_evidence(shown, drawn))
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


def _best(found: list[Division]) -> tuple[Division, ...]:
    return tuple(sorted(found, key=lambda one: -one.confidence)[:_MOST_FOUND])


def _grid_share(ranks: list[GridRank], islands: Islands, drawn: Drawn) -> float:
    """How likely it is that there is a grid at all: a logistic of how the islands lie in the likeliest one."""
    best = ranks[0]
    lattice = best.lattice
    cells = lattice.capacity
    of_cells = cell_sums(drawn.seen, [lattice.across], [lattice.down]).of(lattice)
    large = [
        box for box, area in zip(islands.boxes, islands.areas, strict=True) if area >= _LARGE * np.median(islands.areas)
    ]
    cut, alone = _cut_and_alone(large, lattice)
    score = (
        3.3 * best.likelihood
        - 2.4 * cut
        + 1.9 * alone
        - 1.0 * log(len(islands.boxes))
        - 1.6 * (of_cells.spread_x + of_cells.spread_y)
        + 0.4 * log(cells)
        - 3.7 * (cells == 1)
        - 0.2 * of_cells.filled / cells
        - 0.2
    )
    return 1 / (1 + exp(-score))


def _cut_and_alone(boxes: list[Rect], lattice: Lattice) -> tuple[float, float]:
    """Share of the islands that lie in more than one cell, and of cells that hold exactly one."""
    if not boxes:
        return 0.0, 0.0
    x, y, w, h = np.array(boxes).T
    (left, _), (top, _) = lattice.across.edges(), lattice.down.edges()
    column, row = np.searchsorted(left, x, side="right"), np.searchsorted(top, y, side="right")
    cut = (column != np.searchsorted(left, x + w - 1, side="right")) | (
        row != np.searchsorted(top, y + h - 1, side="right")
    )
    held = np.bincount((row * (lattice.columns + 1) + column)[~cut], minlength=1)
    return float(cut.mean()), float((held == 1).sum() / lattice.capacity)
