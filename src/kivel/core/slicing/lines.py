"""Grids that are drawn into a picture: thin lines of one colour between the cells."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from fractions import Fraction
from math import gcd

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels
from kivel.core.slicing.background import Drawn
from kivel.core.slicing.lattice import Lattice, Run

__all__ = ["DrawnGrid", "drawn_grid"]

_TOLERANCES = (0, 48)
"""How far a line's colour may be off, of 255 in each channel: first not at all."""
_UNIFORM = 0.30
"""Share of neighbours that are alike in a row or column from which it may be a line."""
_COLOURS, _VOTERS = 4, 64
_THICKEST = 4
_LEVELS = (0.9, 0.8, 0.6, 0.45)
_LEAST_COVER, _LEAST_CONTRAST, _LEAST_LINES = 0.25, 0.40, 0.75
_LEAST_CELL = 6
_ONE_EDGE = 0.6
_ONE_WAY = 0.9
"""How much of each line must be there where lines run in one direction only."""
_WIDEST_MARGIN = 4
_FOUND = 0.6

Mask = NDArray[np.bool_]
Shares = NDArray[np.float64]


class DrawnGrid(NamedTuple):
    """A grid of drawn lines, how much of them is there, 0 to 1, and what of the picture belongs to them."""

    lattice: Lattice
    certainty: float


class _Lines(NamedTuple):
    """Lines along one direction: the start of the first, the distance, the thickness and the confidence."""

    first: int
    pitch: int
    thick: int
    certainty: float
    cover: float
    length: int

    def cells(self) -> Run:
        """Return what lies between them, and before the first and behind the last where a whole cell has room."""
        cell = self.pitch - self.thick
        at = self.first - cell if self.first >= cell else self.first + self.thick
        count = (self.length - at + self.thick) // self.pitch
        return Run(max(1, count), Fraction(cell), at, self.thick)


def drawn_grid(image: Pixels, drawn: Drawn) -> DrawnGrid | None:
    """The grid that a picture's lines draw, if they do.

    Parameters
    ----------
    image : (H, W, 4) uint8 array
        Straight-alpha RGBA.
    """
    best: DrawnGrid | None = None
    for tolerance in _TOLERANCES:
        for colour in _line_colours(image, drawn, tolerance):
            found = _grid_of(_alike(image, colour, tolerance))
            if found and (best is None or found.certainty > best.certainty):
                best = found
        if best and best.certainty >= _FOUND:
            return best
    return None


def _line_colours(image: Pixels, drawn: Drawn, tolerance: int) -> list[Pixels]:
    """The colours of rows and columns that are uniform over a good part, the commonest first."""
    votes: Counter[int] = Counter()
    whole = _as_numbers(image)
    for lines, numbers, seen in ((image, whole, drawn.seen), (image.swapaxes(0, 1), whole.T, drawn.seen.T)):
        alike = _close(lines[:, 1:], lines[:, :-1], tolerance) & seen[:, 1:]
        uniform = np.count_nonzero(alike, axis=1) / max(1, alike.shape[1])
        for line in np.argsort(-uniform, kind="stable")[:_VOTERS]:
            if uniform[line] >= _UNIFORM:
                colours, counts = np.unique(numbers[line, 1:][alike[line]], return_counts=True)
                votes[int(colours[counts.argmax()])] += 1
    common = np.array([colour for colour, _ in votes.most_common(_COLOURS)], np.uint32)
    return list(common.view(np.uint8).reshape(-1, 4))


def _as_numbers(image: Pixels) -> NDArray[np.uint32]:
    """Each pixel as one number."""
    numbers: NDArray[np.uint32] = np.ascontiguousarray(image).view(np.uint32)[..., 0]
    return numbers


def _close(one: Pixels, other: Pixels, tolerance: int) -> Mask:
    # the larger less the smaller: unsigned values cannot go below 0
    apart = np.maximum(one, other) - np.minimum(one, other)
    near: Mask = np.less_equal(apart, tolerance).all(axis=-1)
    return near


def _alike(image: Pixels, colour: Pixels, tolerance: int) -> Mask:
    if tolerance == 0:
        same: Mask = np.equal(_as_numbers(image), colour.view(np.uint32)[0])
        return same
    return _close(image, np.broadcast_to(colour, image.shape), tolerance)


def _grid_of(of_colour: Mask) -> DrawnGrid | None:
    height, width = of_colour.shape
    across, down = _lines_of(of_colour.mean(axis=0)), _lines_of(of_colour.mean(axis=1))
    if across is None or down is None:
        only = across or down
        if only is None or only.cover < _ONE_WAY:
            return None
    sure = [one.certainty for one in (across, down) if one]
    runs = [lines.cells() if lines else Run(1, Fraction(length)) for lines, length in ((across, width), (down, height))]
    lattice = Lattice(runs[0], runs[1])
    return DrawnGrid(lattice, min(sure)) if lattice.capacity > 1 else None


def _lines_of(shares: Shares) -> _Lines | None:
    """The best regular lines in the shares of each row (or column) that has the colour."""
    found = [
        lines
        for pitch, first, thick, strong in _guesses(shares)
        if (lines := _fitted(shares, pitch, first, thick, strong))
    ]
    return max(found, key=lambda lines: (lines.certainty, -lines.pitch), default=None)


def _guesses(shares: Shares) -> Iterator[tuple[int, int, int, list[int]]]:
    """Pitches with a first place, from runs of lines at several levels."""
    for level in _LEVELS:
        starts, thick = _thin_runs(shares >= level)
        if len(starts) < 2:
            continue
        apart = np.diff(starts).tolist()
        mode = Counter(apart).most_common(1)[0][0]
        pitches = {mode, min(apart), gcd(*apart)}
        pitches |= {pitch // part for pitch in pitches for part in range(2, 7) if pitch % part == 0}
        for pitch in sorted(pitches):
            if pitch >= _LEAST_CELL + thick:
                first = Counter(start % pitch for start in starts).most_common(1)[0][0]
                yield pitch, first, thick, starts


def _thin_runs(strong: Mask) -> tuple[list[int], int]:
    """Where runs of at most four begin, and how thick they mostly are."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], strong, [False])).astype(np.int8)))
    runs = [(int(start), int(end - start)) for start, end in zip(edges[::2], edges[1::2], strict=True)]
    runs = [run for run in runs if run[1] <= _THICKEST]
    thick = Counter(length for _, length in runs).most_common(1)[0][0] if runs else 0
    return [start for start, length in runs if length == thick], thick


def _fitted(shares: Shares, pitch: int, first: int, thick: int, strong: list[int]) -> _Lines | None:
    """Lines at every such place, if enough of them are there."""
    length = len(shares)
    places = np.arange(first, length - thick + 1, pitch)
    if len(places) < 2:
        return None
    cover = np.min([shares[places + k] for k in range(thick)], axis=0)
    padded = np.concatenate(([0.0], shares, [0.0]))
    beside = np.maximum(padded[places], padded[places + thick + 1])
    there = (cover >= _LEAST_COVER) & (cover - beside >= _LEAST_CONTRAST * cover)
    if there.mean() < _LEAST_LINES:
        return None
    explained = np.isin(strong, places).mean()
    certainty = float(there.mean() * explained)
    inner = places[(places > 0) & (places + thick < length)]
    if len(inner) == 0:
        certainty *= _ONE_EDGE
    lines = _Lines(int(first), int(pitch), int(thick), certainty, float(np.median(cover)), length)
    return lines if lines.cells().at <= max(thick, _WIDEST_MARGIN) else None
