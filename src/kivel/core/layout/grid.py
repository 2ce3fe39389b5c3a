"""Equal cells in rows and columns.

Lengths are pixels. `gap` lies between cells, `margin` around them all; cell 0 is at the top left.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal, NamedTuple, get_args

from kivel.core.errors import KivelError
from kivel.core.pixels import Rect, Size

__all__ = ["LAYOUTS", "Fill", "Grid", "GridRequest", "Layout", "LayoutError", "plan_grid"]

Fill = Literal["across", "down"]
Layout = Literal["grid", "row", "column"]

LAYOUTS: tuple[Layout, ...] = get_args(Layout)
_LONGEST_SIDE_RATIO = 2


class LayoutError(KivelError):
    """The frames do not fit the layout that was asked for."""


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
        """The whole sheet."""
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


class GridRequest(NamedTuple):
    """What was asked of a sheet; None is for Kivel to choose."""

    layout: Layout = "grid"
    columns: int | None = None
    rows: int | None = None
    gap: int = 0
    margin: int = 0


def plan_grid(count: int, cell: Size, request: GridRequest) -> Grid:
    """The grid for `count` cells.

    When neither columns nor rows are given, the sheet of least area is taken among those no more than twice as long
    as wide, the one nearest to a square among equals, the wider one after that. (Least area alone would lay out 61
    frames as one strip.) If every one is longer, the nearest to a square is taken.

    Raises
    ------
    LayoutError
        If the frames do not fit into the columns and rows given.
    """
    columns, rows = request.columns, request.rows
    if request.layout == "row":
        columns, rows = columns or count, rows or 1
    elif request.layout == "column":
        columns, rows = columns or 1, rows or count
    if columns and rows:
        if columns * rows < count:
            raise LayoutError(
                f"{count} frames do not fit into {columns} columns x {rows} rows, {columns * rows} cells; "
                f"{-(-count // columns)} rows would hold them"
            )
        return _grid(columns, rows, cell, request)
    if columns:
        return _grid(columns, -(-count // columns), cell, request)
    if rows:
        return _grid(-(-count // rows), rows, cell, request)
    candidates = [_grid(c, -(-count // c), cell, request) for c in range(1, count + 1)]
    return min(candidates, key=_preference)


def _grid(columns: int, rows: int, cell: Size, request: GridRequest) -> Grid:
    return Grid(columns, rows, cell, request.gap, request.margin)


def _preference(grid: Grid) -> tuple[bool, int, int, int]:
    long, short = max(grid.size), min(grid.size)
    too_long = long > _LONGEST_SIDE_RATIO * short
    area = long * short
    return (too_long, long - short if too_long else area, long - short, -grid.size.w)
