"""Rows and columns of cells laid over a picture: whole pixels or parts of them, with or without leftovers.

Lengths are pixels, from the picture's top left. A cell may be a fraction of pixels wide (the sheet was scaled): its
edges are rounded once each, so that neighbours share them and no error adds up.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import ceil

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Fill
from kivel.core.pixels.pixels import Pair, Rect, Size

__all__ = ["Edges", "Lattice", "Run"]

Edges = NDArray[np.int64]


@dataclass(frozen=True, order=True)
class Run:
    """Cells along one direction: how many, how long each is, where the first begins, and what lies between two."""

    count: int
    cell: Fraction
    at: int = 0
    gap: int = 0

    @property
    def pitch(self) -> Fraction:
        """From the start of a cell to that of the next."""
        return self.cell + self.gap

    def edges(self) -> tuple[Edges, Edges]:
        """Where each cell starts and ends, (count,) each; the end is outside. Halves are rounded up."""
        parts = self.cell.denominator
        starts = self.at * parts + np.arange(self.count, dtype=np.int64) * self.pitch.numerator
        ends = starts + self.cell.numerator
        return (2 * starts + parts) // (2 * parts), (2 * ends + parts) // (2 * parts)

    @property
    def end(self) -> int:
        """Where the last cell ends."""
        return int(self.edges()[1][-1])


class Lattice(NamedTuple):
    """Cells in rows and columns; `fill` says whether frames go `across` a row or `down` a column."""

    across: Run
    down: Run
    fill: Fill = "across"

    @property
    def columns(self) -> int:
        return self.across.count

    @property
    def rows(self) -> int:
        return self.down.count

    @property
    def capacity(self) -> int:
        return self.columns * self.rows

    @property
    def canvas(self) -> Size:
        """Return what holds any of the cells, in whole pixels."""
        return Size(ceil(self.across.cell), ceil(self.down.cell))

    @property
    def at(self) -> Pair:
        return Pair(self.across.at, self.down.at)

    @property
    def gap(self) -> Pair:
        return Pair(self.across.gap, self.down.gap)

    @property
    def is_whole(self) -> bool:
        """Whether its cells are whole pixels."""
        return self.across.cell.denominator == self.down.cell.denominator == 1

    def places(self) -> Iterator[tuple[int, int]]:
        """Row and column of every cell, in the order of frames."""
        if self.fill == "across":
            return ((row, column) for row in range(self.rows) for column in range(self.columns))
        return ((row, column) for column in range(self.columns) for row in range(self.rows))

    def cells(self) -> list[Rect]:
        """Every cell in order; one at the edge may reach beyond the picture."""
        (left, right), (top, bottom) = ([edge.tolist() for edge in run.edges()] for run in (self.across, self.down))
        return [
            Rect(left[column], top[row], right[column] - left[column], bottom[row] - top[row])
            for row, column in self.places()
        ]
