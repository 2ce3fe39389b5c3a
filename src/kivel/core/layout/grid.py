"""Equal cells in rows and columns.

Lengths are pixels. `gap` lies between cells, `margin` around them all; cell 0 is at the top left.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import get_args

from kivel.core.layout.page import LayoutError
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Fill
from kivel.core.pixels.pixels import Pair, Rect, Size

__all__ = ["FILLS", "Grid"]

FILLS: tuple[Fill, ...] = get_args(Fill)


class Grid(NamedTuple):
    """A sheet's cells. `fill` says whether consecutive frames go `across` a row or `down` a column."""

    columns: int
    rows: int
    cell: Size
    gap: Pair = Pair()
    margin: Pair = Pair()
    fill: Fill = "across"

    @property
    def capacity(self) -> int:
        return self.columns * self.rows

    @property
    def size(self) -> Size:
        """All cells, with what lies between and around them."""
        return Size(
            2 * self.margin.x + self.columns * self.cell.w + (self.columns - 1) * self.gap.x,
            2 * self.margin.y + self.rows * self.cell.h + (self.rows - 1) * self.gap.y,
        )

    def divides(self, page: Size) -> bool:
        """Whether a page divided by columns and rows gives these cells, and nothing is left."""
        exact = (self.columns * self.cell.w, self.rows * self.cell.h) == page
        return exact and not any((*self.gap, *self.margin))

    def cell_rect(self, index: int) -> Rect:
        """Cell `index`, from 0.

        Raises
        ------
        LayoutError
            If there is no such cell.
        """
        if not 0 <= index < self.capacity:
            raise LayoutError(f"cell {index} is outside a grid of {self.capacity} cells, 0-{self.capacity - 1}")
        if self.fill == "across":
            row, column = divmod(index, self.columns)
        else:
            column, row = divmod(index, self.rows)
        return self.cell_at(row, column)

    def cell_at(self, row: int, column: int) -> Rect:
        """The cell of a row and a column, from 0; beyond the grid, too."""
        x = self.margin.x + column * (self.cell.w + self.gap.x)
        y = self.margin.y + row * (self.cell.h + self.gap.y)
        return Rect(x, y, *self.cell)

    def place_of(self, rect: Rect) -> tuple[int, int]:
        """The row and column of the cell that a rectangle begins in."""
        row = (rect.y - self.margin.y) // (self.cell.h + self.gap.y)
        column = (rect.x - self.margin.x) // (self.cell.w + self.gap.x)
        return row, column

    def counts_within(self, page: Size) -> tuple[int, int]:
        """How many columns and rows of such cells a page has room for; 0 where it has none."""
        columns, rows = (
            max(0, (length - 2 * margin + gap) // (side + gap))
            for length, side, margin, gap in zip(page, self.cell, self.margin, self.gap, strict=True)
        )
        return columns, rows

    def cells(self) -> Iterator[Rect]:
        """Every cell in order."""
        return (self.cell_rect(index) for index in range(self.capacity))
