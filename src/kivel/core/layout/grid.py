"""Equal cells in rows and columns.

Lengths are pixels. `gap` lies between cells, `margin` around them all; cell 0 is at the top left.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal, NamedTuple, get_args

from kivel.core.layout.page import LayoutError
from kivel.core.pixels import Rect, Size

__all__ = ["FILLS", "Fill", "Grid"]

Fill = Literal["across", "down"]
FILLS: tuple[Fill, ...] = get_args(Fill)


class Grid(NamedTuple):
    """A sheet's cells. `fill` says whether consecutive frames go `across` a row or `down` a column."""

    columns: int
    rows: int
    cell: Size
    gap: int = 0
    margin: int = 0
    fill: Fill = "across"

    @property
    def capacity(self) -> int:
        return self.columns * self.rows

    @property
    def size(self) -> Size:
        """All cells, with what lies between and around them."""
        return Size(
            2 * self.margin + self.columns * self.cell.w + (self.columns - 1) * self.gap,
            2 * self.margin + self.rows * self.cell.h + (self.rows - 1) * self.gap,
        )

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
        return Rect(
            self.margin + column * (self.cell.w + self.gap), self.margin + row * (self.cell.h + self.gap), *self.cell
        )

    def cells(self) -> Iterator[Rect]:
        """Every cell in order."""
        return (self.cell_rect(index) for index in range(self.capacity))
