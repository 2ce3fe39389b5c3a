"""The layouts worth having for a sequence, and what would fit a page."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from kivel.core.layout.grid import Grid
from kivel.core.layout.page import LayoutError, PageRule
from kivel.core.layout.sheet_plan import SheetPlan, SheetRequest, lines_needed, plan_sheet, possible_sheets
from kivel.core.layout.spacing import Spacing
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = [
    "LargestCell",
    "NextPage",
    "WorthHaving",
    "largest_cell",
    "next_page_down",
    "thinned_lengths",
    "worth_having",
]

_FULL_SHEETS = 3
_LONGEST_RATIO = 4


class WorthHaving(NamedTuple):
    """A layout, and what is good about it."""

    label: str
    plan: SheetPlan

    def used(self, frame: Size) -> Fraction:
        """The share of its pages that frames cover."""
        area = self.plan.page.w * self.plan.page.h * self.plan.pages
        return Fraction(sum(self.plan.lengths) * frame.w * frame.h, area)


class LargestCell(NamedTuple):
    """The largest cells in which all fit a page: of the frames' shape, unless they divide it."""

    page: Size
    cell: Size
    columns: int
    rows: int
    unused: Size


class NextPage(NamedTuple):
    """A smaller page: how many frames fit at their size, and the cell size with which all would fit."""

    page: Size
    holds: int
    all_at: LargestCell | None


def worth_having(count: int, cell: Size, request: SheetRequest) -> list[WorthHaving]:
    """The layout that `plan_sheet` chooses first, then others, each page and grid once.

    Raises
    ------
    LayoutError
        If nothing fits the request.
    """
    found = [WorthHaving("best", plan_sheet([count], cell, request))]
    full = [plan for plan in possible_sheets([count], cell, request) if not plan.empty and plan.pages == 1]
    full = [plan for plan in full if max(plan.page) <= _LONGEST_RATIO * min(plan.page)]
    nearest = sorted(full, key=lambda plan: (plan.page.w * plan.page.h, abs(plan.page.w - plan.page.h), -plan.page.w))
    found += [WorthHaving("no cell empty", plan) for plan in nearest[:_FULL_SHEETS]]
    limit = request.rule.limit
    variants = {
        "multiple of 4": PageRule(multiple_of=4, limit=limit),
        "power of two": PageRule(pow2=True, limit=limit),
        "square": PageRule(square=True, limit=limit),
        "square power of two": PageRule(pow2=True, square=True, limit=limit),
    }
    divided = {
        f"divided {label}": rule for label, rule in variants.items()
        if rule.pow2 and not request.divided and request.spacing == Spacing(block=request.spacing.block)
    }  # fmt: skip
    for label, rule in (variants | divided).items():
        asked = request._replace(rule=rule, divided=request.divided or label in divided)
        try:
            found.append(WorthHaving(label, plan_sheet([count], cell, asked)))
        except LayoutError:
            continue  # no such page is within the limit
    return _merged(found)


def _merged(found: list[WorthHaving]) -> list[WorthHaving]:
    """Equal layouts once, with all that is good about them."""
    labels: dict[tuple[Size, Grid, int], list[str]] = {}
    plans: dict[tuple[Size, Grid, int], SheetPlan] = {}
    for label, plan in found:
        key = plan.page, plan.grid, plan.pages
        labels.setdefault(key, []).append(label)
        plans.setdefault(key, plan)
    return [WorthHaving(", ".join(dict.fromkeys(labels[key])), plan) for key, plan in plans.items()]


def largest_cell(
    lengths: Sequence[int], frame: Size, page: Size, request: SheetRequest, *, step: int = 1
) -> LargestCell | None:
    """The largest cell of the frames' shape with which sequences of this many frames all fit one `page`.

    Sides are multiples of `step`. None if not even the smallest cells do.
    """
    if request.divided:
        return _largest_dividing(lengths, frame, page, request)
    best: LargestCell | None = None
    for columns in range(1, _longest(lengths, request) + 1):
        rows = lines_needed(lengths, columns, request)
        cell = _cell_for(columns, rows, frame, page, request, step)
        if cell is not None and (best is None or cell.w * cell.h > best.cell.w * best.cell.h):
            grid = request.grid(columns, rows, cell)
            best = LargestCell(page, cell, columns, rows, Size(page.w - grid.size.w, page.h - grid.size.h))
    return best


def _longest(lengths: Sequence[int], request: SheetRequest) -> int:
    """The most cells of a line that can have a frame."""
    return max(lengths) if request.new_lines else sum(lengths)


def _largest_dividing(lengths: Sequence[int], frame: Size, page: Size, request: SheetRequest) -> LargestCell | None:
    """The cells in which frames are largest, at most as large as they are, among those that divide the page.

    Of equal ones the fewest cells, then the ones shaped most like the frames.
    """
    best: tuple[Fraction, int, int, LargestCell] | None = None
    for columns in _parts(page.w, request, request.columns):
        needed = lines_needed(lengths, columns, request)
        rows = next((count for count in _parts(page.h, request, request.rows) if count >= needed), None)
        if rows is None:
            continue
        cell = Size(page.w // columns, page.h // rows)
        share = min(Fraction(cell.w, frame.w), Fraction(cell.h, frame.h), Fraction(1))
        value = share, -columns * rows, -abs(cell.w * frame.h - cell.h * frame.w)
        if best is None or value > best[:3]:
            best = (*value, LargestCell(page, cell, columns, rows, Size(0, 0)))
    return best and best[3]


def _parts(length: int, request: SheetRequest, stated: int | None) -> list[int]:
    """Into how many cells, that begin at blocks, a side divides evenly; the number that is stated, if it does."""
    whole, left = divmod(length, request.spacing.block)
    counts = [stated] if stated else range(1, whole + 1)
    return [] if left else [count for count in counts if whole % count == 0]


def _cell_for(columns: int, rows: int, frame: Size, page: Size, request: SheetRequest, step: int) -> Size | None:
    around = request.grid(1, 1, Size(1, 1))
    room = [
        (length - 2 * margin - (parts - 1) * gap) // parts
        for length, parts, margin, gap in zip(page, (columns, rows), around.margin, around.gap, strict=True)
    ]
    if min(room) < 1:
        return None
    longer = max(frame)
    most = min(((room[axis] + 1) * longer - 1) // frame[axis] for axis in (0, 1))
    for side in range(most, 0, -1):  # the first does, unless blocks make cells grow
        cell = Size(*(length * side // longer // step * step for length in frame))
        size = request.grid(columns, rows, cell).size
        if min(cell) >= 1 and size.w <= page.w and size.h <= page.h:
            return cell
    return None


def next_page_down(count: int, frame: Size, page: Size, request: SheetRequest) -> NextPage:
    """Half of a page, cut across its longer side: how many frames to keep, or how small to make them."""
    smaller = Size(page.w // 2, page.h) if page.w > page.h else Size(page.w, page.h // 2)
    grid = request.grid(1, 1, frame)
    columns, rows = grid.counts_within(smaller)
    fits = min(smaller) > 0
    all_at = largest_cell([count], frame, smaller, request) if fits else None
    return NextPage(smaller, min(count, columns * rows), all_at)


def thinned_lengths(lengths: Sequence[int], cell: Size, page: Size, request: SheetRequest) -> list[int] | None:
    """How many frames to keep of each sequence, in proportion, so that they fit one page; None if none do."""
    columns, rows = request.grid(1, 1, cell).counts_within(page)
    if request.divided:
        columns, rows = (
            max((count for count in _parts(length, request, stated) if count <= most), default=0)
            for length, most, stated in zip(page, (columns, rows), (request.columns, request.rows), strict=True)
        )
    total = sum(lengths)
    if min(columns, rows) < 1:
        return None
    for kept in range(min(total, columns * rows), 0, -1):
        # whole numbers rounded so that they add up to no more
        found = [max(1, length * kept // total) for length in lengths]
        if lines_needed(found, columns, request) <= rows:
            return found
    return None
