"""Laying sequences out on sheets: how many columns and rows, on what page, on how many of them, and who lies where."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import get_args

from kivel.core.errors import option
from kivel.core.layout.grid import Grid
from kivel.core.layout.page import LayoutError, PageRule
from kivel.core.layout.spacing import Spacing, up_to_multiple
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Fill, Layout
from kivel.core.pixels.pixels import Pair, Size

__all__ = ["LAYOUTS", "SheetPlan", "SheetRequest", "Slot", "lines_needed", "plan_sheet", "possible_sheets"]

LAYOUTS: tuple[Layout, ...] = get_args(Layout)

_LONGEST_RATIO = 2
_LONGEST_RATIO_OF_LINES = 4


class SheetRequest(NamedTuple):
    """Holds what was asked of a sheet; None is for Kivel to choose. Under `new_lines` each sequence begins a line.

    Under `divided` the page is exactly columns x cells and rows x cells, cells as large as that needs.
    """

    layout: Layout = "grid"
    columns: int | None = None
    rows: int | None = None
    spacing: Spacing = Spacing()
    fill: Fill = "across"
    rule: PageRule = PageRule()
    new_lines: bool = False
    divided: bool = False

    def grid(self, columns: int, rows: int, cell: Size) -> Grid:
        """The grid with everything between and around its cells; with blocks, cells grow until all begin at one."""
        gap, _, skirt, block = self.spacing
        between = gap + 2 * skirt
        w, h = (up_to_multiple(length + between, block) - between for length in cell)
        start = self.spacing.start + skirt
        return Grid(columns, rows, Size(w, h), Pair(between, between), Pair(start, start), self.fill)

    @property
    def page_rule(self) -> PageRule:
        return self.rule._replace(multiple_of=up_to_multiple(self.rule.multiple_of, self.spacing.block))


class Slot(NamedTuple):
    """A cell of a page."""

    page: int
    cell: int


class SheetPlan(NamedTuple):
    """Pages of one size and one grid, for sequences of some lengths, one after the other."""

    grid: Grid
    page: Size
    pages: int
    lengths: tuple[int, ...]
    new_lines: bool = False

    @property
    def empty(self) -> int:
        """Cells without a frame."""
        return self.pages * self.grid.capacity - sum(self.lengths)

    @property
    def along(self) -> int:
        """Cells in a line."""
        return self.grid.columns if self.grid.fill == "across" else self.grid.rows

    def slots(self) -> list[Slot]:
        """Where each frame lies."""
        slots: list[Slot] = []
        first = 0
        for length in self.lengths:
            slots += [Slot(*divmod(cell, self.grid.capacity)) for cell in range(first, first + length)]
            first += up_to_multiple(length, self.along) if self.new_lines else length
        return slots


class _Shape(NamedTuple):
    """Cells in a line, lines on a page, pages."""

    along: int
    lines: int
    pages: int

    def counts(self, fill: Fill) -> tuple[int, int]:
        """Columns and rows."""
        return (self.along, self.lines) if fill == "across" else (self.lines, self.along)


def plan_sheet(lengths: Sequence[int], cell: Size, request: SheetRequest) -> SheetPlan:
    """The sheet for sequences of this many frames, each in a cell of a size.

    When neither columns nor rows are given, the fewest pages of least area are taken among those no more than twice as
    long as wide, the one nearest to a square among equals, the wider one after that. (Least area alone would lay out 61
    frames as one strip.) If every one is longer, the nearest to a square is taken. Sequences that begin new lines get
    one line each where the page does not become longer than four times its width.

    Raises
    ------
    LayoutError
        If the frames do not fit into the columns and rows given, or a cell not into the page limit.
    """
    return min(possible_sheets(lengths, cell, request), key=lambda plan: _preference(plan, cell))


def possible_sheets(lengths: Sequence[int], cell: Size, request: SheetRequest) -> list[SheetPlan]:
    """Every sheet that `plan_sheet` chooses from."""
    shapes = _shapes(lengths, cell, request)
    if request.divided:
        return _divided_sheets(lengths, cell, request, shapes)
    grid, rule = request.grid(1, 1, cell), request.page_rule
    plans = []
    for shape in shapes:
        columns, rows = shape.counts(request.fill)
        larger = grid._replace(columns=columns, rows=rows)
        plans.append(SheetPlan(larger, rule.smallest(larger.size), shape.pages, tuple(lengths), request.new_lines))
    return plans


def _divided_sheets(
    lengths: Sequence[int], cell: Size, request: SheetRequest, shapes: Sequence[_Shape]
) -> list[SheetPlan]:
    """Sheets whose columns and rows divide the page; some lines, or cells of a line, may be empty for that."""
    rule, plans = request.rule, []
    for shape in dict.fromkeys(roomier for one in shapes for roomier in _roomier(lengths, one, request)):
        columns, rows = shape.counts(request.fill)
        page = rule.smallest_divided(columns, rows, cell, request.spacing.block)
        if page is not None and rule.within_limit(page):
            grid = Grid(columns, rows, Size(page.w // columns, page.h // rows), fill=request.fill)
            plans.append(SheetPlan(grid, page, shape.pages, tuple(lengths), request.new_lines))
    if not plans:
        raise LayoutError(_indivisible(cell, request))
    return plans


def _roomier(lengths: Sequence[int], shape: _Shape, request: SheetRequest) -> Iterator[_Shape]:
    """The shape, and others of more cells where their number is free."""
    stated = request.columns or request.layout == "column", request.rows or request.layout == "row"
    along_stated, lines_stated = stated if request.fill == "across" else stated[::-1]
    alongs = [shape.along] if along_stated else [shape.along, _power_of_two_from(shape.along)]
    lines = [shape.lines] if lines_stated else [shape.lines, _power_of_two_from(shape.lines), shape.along]
    for along in dict.fromkeys(alongs):
        needed = _shape(lengths, along, None, None, request).lines
        for each in dict.fromkeys(lines):
            if each >= shape.lines:
                yield _Shape(along, each, -(-needed // each))


def _shapes(lengths: Sequence[int], cell: Size, request: SheetRequest) -> list[_Shape]:
    count = sum(lengths)
    most = _most(cell, request)
    columns, rows = request.columns, request.rows
    if request.layout == "row":
        columns, rows = columns or (count if most is None else min(count, most[0])), rows or 1
    elif request.layout == "column":
        columns, rows = columns or 1, rows or (count if most is None else min(count, most[1]))
    along, lines = (columns, rows) if request.fill == "across" else (rows, columns)
    most_along, most_lines = (None, None) if most is None else most if request.fill == "across" else most[::-1]
    _check_asked(along, most_along, lines, most_lines, cell, request)
    longest = max(lengths) if request.new_lines else count
    choices = [along] if along else range(1, min(longest, most_along or longest) + 1)
    shapes = [_shape(lengths, one, lines, most_lines, request) for one in choices]
    if not lines:
        return shapes
    fitting = [shape for shape in shapes if shape.pages == 1]
    if fitting and not along:
        return fitting[:1]  # the shortest lines that need no more than the lines asked for
    if not fitting and most is None:
        raise LayoutError(_too_many(lengths, shapes[-1].along, lines, request))
    return fitting or shapes


def _most(cell: Size, request: SheetRequest) -> tuple[int, int] | None:
    """How many columns and rows there is room for within the limit."""
    largest = request.page_rule.largest()
    if largest is None:
        return None
    grid = request.grid(1, 1, cell)
    most = grid.counts_within(largest)
    if min(most) < 1:
        around = f" with {request.spacing.skirt} px of skirt" if request.spacing.skirt else ""
        raise LayoutError(
            f"a cell of {grid.cell} px{around} does not fit a page limit of {request.rule.limit} px; "
            f"raise {option('page-limit')}, or use smaller frames"
        )
    return most


def _check_asked(
    along: int | None,
    most_along: int | None,
    lines: int | None,
    most_lines: int | None,
    cell: Size,
    request: SheetRequest,
) -> None:
    names = ("columns", "rows") if request.fill == "across" else ("rows", "columns")
    for name, asked, most in ((names[0], along, most_along), (names[1], lines, most_lines)):
        if asked and most and asked > most:
            raise LayoutError(
                f"{asked} {name} of {cell} px do not fit a page limit of {request.rule.limit} px; "
                f"{option(name, most)} is the most that fits"
            )


def lines_needed(lengths: Sequence[int], along: int, request: SheetRequest) -> int:
    """How many lines of this many cells sequences of these lengths fill."""
    return _shape(lengths, along, None, None, request).lines


def _shape(
    lengths: Sequence[int], along: int, lines: int | None, most_lines: int | None, request: SheetRequest
) -> _Shape:
    needed = sum(-(-length // along) for length in lengths) if request.new_lines else -(-sum(lengths) // along)
    if lines:
        return _Shape(along, lines, -(-needed // lines))
    pages = 1 if most_lines is None else -(-needed // most_lines)
    return _Shape(along, -(-needed // pages), pages)


def _power_of_two_from(number: int) -> int:
    return 1 << (number - 1).bit_length()


def _indivisible(cell: Size, request: SheetRequest) -> str:
    rule = request.rule
    stated = [(name, count) for name, count in (("columns", request.columns), ("rows", request.rows)) if count]
    page = f"a page of {rule.exact} px" if rule.exact else f"a page of {rule.sides()}" if rule.sides() else "a page"
    within = f" within the limit of {rule.limit} px" if rule.limit else ""
    for name, count in stated:
        if rule.pow2 and count & (count - 1):
            most = _power_of_two_from(count)
            raise_or_lower = f"{option(name, most // 2)} or {option(name, most)}"
            return f"{count} {name} cannot divide a page of powers of two evenly; use {raise_or_lower}"
    given = " and ".join(f"{count} {name}" for name, count in stated)
    which = f"{given} cannot" if given else "no number of columns and rows can"
    return f"{which} divide {page}{within} evenly into cells of {cell} px or more"


def _too_many(lengths: Sequence[int], along: int, lines: int, request: SheetRequest) -> str:
    count = sum(lengths)
    columns, rows = (along, lines) if request.fill == "across" else (lines, along)
    needed = _shape(lengths, along, None, None, request).lines
    name = "rows" if request.fill == "across" else "columns"
    each = f", each of the {len(lengths)} sequences on its own" if request.new_lines else ""
    return (
        f"{count} frames do not fit into {columns} columns x {rows} rows, {columns * rows} cells{each}; "
        f"{needed} {name} would hold them"
    )


def _preference(plan: SheetPlan, cell: Size) -> tuple[bool | int, ...]:
    long, short = max(plan.page), min(plan.page)
    a_line_each = plan.new_lines and plan.along == max(plan.lengths) and long <= _LONGEST_RATIO_OF_LINES * short
    too_long = long > _LONGEST_RATIO * short
    area = long * short
    size = plan.grid.size
    return (
        plan.pages,
        not a_line_each,
        too_long,
        long - short if too_long else area,
        long - short,
        abs(plan.grid.cell.w * cell.h - plan.grid.cell.h * cell.w),
        size.w * size.h,
        abs(size.w * plan.page.h - size.h * plan.page.w),
        -size.w,
    )
