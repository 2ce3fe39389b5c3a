"""Finding the cells of a sheet from what is known about it: columns and rows, or the size of a cell.

Lengths are pixels. A side of `length` holds `count` cells of `cell` when
`2 * margin + count * cell + (count - 1) * gap == length`.
"""

from __future__ import annotations

from typing import NamedTuple

from kivel.core.errors import option
from kivel.core.layout.grid import Grid
from kivel.core.layout.page import LayoutError
from kivel.core.pixels import Pair, Pixels, Size

__all__ = ["SliceRequest", "fit_grid", "frame_count"]


class SliceRequest(NamedTuple):
    """What is known of a sheet; None is for Kivel to work out."""

    columns: int | None = None
    rows: int | None = None
    cell: Size | None = None
    gap: int = 0
    margin: int = 0

    @property
    def says_nothing(self) -> bool:
        return not (self.columns or self.rows or self.cell)


class _Side(NamedTuple):
    """One direction of a sheet."""

    name: str
    cells: str
    length: int
    gap: int
    margin: int

    def counted(self, count: int | None) -> str:
        """`1 column`, `2 columns`."""
        return f"{count} {self.cells if count != 1 else self.cells[:-1]}"

    def cell_for(self, count: int) -> int | None:
        """The cell length at which `count` cells fill the side, if a whole one does."""
        room = self.length - 2 * self.margin - (count - 1) * self.gap
        return room // count if room >= count and room % count == 0 else None

    def count_for(self, cell: int) -> int | None:
        """How many cells of that length fill the side, if a whole number does."""
        room = self.length - 2 * self.margin + self.gap
        return room // (cell + self.gap) if room >= cell + self.gap and room % (cell + self.gap) == 0 else None


def fit_grid(size: Size, request: SliceRequest) -> Grid:
    """The grid that divides an image of `size` without a remainder.

    Columns alone, or rows alone, stand for square cells.

    Raises
    ------
    LayoutError
        If nothing is known, or it does not divide: by how many pixels, and which near grids would fit.
    """
    across = _Side("wide", "columns", size.w, request.gap, request.margin)
    down = _Side("high", "rows", size.h, request.gap, request.margin)
    spacing = Pair(request.gap, request.gap), Pair(request.margin, request.margin)
    if request.cell:
        columns = _count(across, request.cell.w, request.columns)
        rows = _count(down, request.cell.h, request.rows)
        return Grid(columns, rows, request.cell, *spacing)
    if request.columns and request.rows:
        cell = Size(_cell(across, request.columns), _cell(down, request.rows))
        return Grid(request.columns, request.rows, cell, *spacing)
    if request.columns:
        edge = _cell(across, request.columns)
    elif request.rows:
        edge = _cell(down, request.rows)
    else:
        raise LayoutError(
            f"say how it divides: {option('columns')} and {option('rows')}, or {option('cell', 'WxH')}"
            f"{_square_grids(across, down)}"
        )
    return fit_grid(size, request._replace(columns=None, rows=None, cell=Size(edge, edge)))


def _cell(side: _Side, count: int) -> int:
    cell = side.cell_for(count)
    if cell is not None:
        return cell
    room = side.length - 2 * side.margin - (count - 1) * side.gap
    if room < count:
        raise LayoutError(f"{side.length} px {side.name} is too small for {side.counted(count)}{_spacing(side)}")
    hints = [f"{side.counted(n)} (cells of {side.cell_for(n)})" for n in _near(count) if side.cell_for(n)]
    hints += [
        f"{count} with {_options(s)} (cells of {s.cell_for(count)})" for s in _respaced(side) if s.cell_for(count)
    ]
    raise LayoutError(
        f"{side.length} px {side.name} do not divide into {side.counted(count)}{_spacing(side)}: "
        f"{room % count} px left over ({count} x {room // count}){_would_fit(hints)}"
    )


def _count(side: _Side, cell: int, wanted: int | None) -> int:
    count = side.count_for(cell)
    if count is None:
        room = side.length - 2 * side.margin + side.gap
        pitch = cell + side.gap
        hints = [f"cells of {n} ({side.counted(side.count_for(n))})" for n in _near(cell) if side.count_for(n)]
        hints += [
            f"{cell} with {_options(s)} ({side.counted(s.count_for(cell))})"
            for s in _respaced(side)
            if s.count_for(cell)
        ]
        raise LayoutError(
            f"{side.length} px {side.name} do not divide into cells of {cell}{_spacing(side)}: {room % pitch} px left "
            f"over ({side.counted(room // pitch)}){_would_fit(hints)}"
        )
    if wanted and wanted != count:
        raise LayoutError(f"cells of {cell} px make {side.counted(count)} in {side.length} px, not {wanted}")
    return count


def _near(wanted: int) -> list[int]:
    """Counts or lengths from half to twice the one wanted, the nearest first."""
    return sorted(range(max(1, wanted // 2), 2 * wanted + 1), key=lambda n: (abs(n - wanted), n))


def _respaced(side: _Side) -> list[_Side]:
    """The same side with other small gaps and margins, the smallest first."""
    spacings = sorted(((g, m) for g in range(9) for m in range(9 - g)), key=lambda s: (sum(s), s))
    return [side._replace(gap=g, margin=m) for g, m in spacings if (g, m) != (side.gap, side.margin)]


def _spacing(side: _Side) -> str:
    return f" with {_options(side)}" if side.gap or side.margin else ""


def _options(side: _Side) -> str:
    named = [option(name, value) for name, value in (("gap", side.gap), ("margin", side.margin)) if value]
    return " ".join(named) or "no gap and margin"


def _would_fit(hints: list[str]) -> str:
    """The two nearest other counts and the least change of spacing that would divide."""
    plain = [hint for hint in hints if " with " not in hint][:2]
    spaced = [hint for hint in hints if " with " in hint][:1]
    chosen = plain + spaced
    return f"; what would fit: {', or '.join(chosen)}" if chosen else ""


def _square_grids(across: _Side, down: _Side) -> str:
    """The grids of square cells with up to sixteen columns, as a hint."""
    fits = [
        f"{columns}x{down.count_for(cell)} of {cell} px"
        for columns in range(1, 17)
        if (cell := across.cell_for(columns)) and down.count_for(cell)
    ]
    return f"; square cells that fit: {', '.join(fits[:6])}" if fits else ""


def frame_count(sheet: Pixels, grid: Grid) -> int:
    """How many cells are frames: the wholly transparent ones at the end of the order are the rest of a short row.

    At least one; empty cells between frames count.
    """
    count = grid.capacity
    while count > 1 and not grid.cell_rect(count - 1).of(sheet)[..., 3].any():
        count -= 1
    return count
