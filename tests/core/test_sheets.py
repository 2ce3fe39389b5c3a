"""Sheets planned for frames: whatever is asked for, cells lie apart, inside, on allowed pages."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from kivel.core.layout.grid import FILLS
from kivel.core.layout.page import LayoutError, PageRule
from kivel.core.layout.placement import skirted
from kivel.core.layout.sheet_plan import LAYOUTS, SheetPlan, SheetRequest, plan_sheet
from kivel.core.layout.spacing import Spacing
from kivel.core.pixels.pixels import Pixels, Rect, Size

sizes = st.builds(Size, st.integers(1, 40), st.integers(1, 40))
few = st.integers(0, 5)
spacings = st.builds(Spacing, few, few, st.integers(0, 3), st.sampled_from((1, 1, 2, 8)))
limits = st.none() | st.builds(Size, st.integers(60, 300), st.integers(60, 300))
rules = st.builds(PageRule, st.booleans(), st.booleans(), st.sampled_from((1, 4)), limits, st.none())
requests = st.builds(
    SheetRequest,
    st.sampled_from(LAYOUTS),
    st.none(),
    st.none(),
    spacings,
    st.sampled_from(FILLS),
    rules,
    st.booleans(),
    st.just(False),
)
divided = st.builds(
    SheetRequest, st.sampled_from(LAYOUTS), st.none() | st.integers(1, 8), st.none(),
    st.builds(Spacing, st.just(0), st.just(0), st.just(0), st.sampled_from((1, 1, 2))), st.sampled_from(FILLS), rules,
    st.booleans(), st.just(True),
)  # fmt: skip
lengths = st.lists(st.integers(1, 20), min_size=1, max_size=4)


def planned(lengths: list[int], cell: Size, request: SheetRequest) -> SheetPlan:
    try:
        return plan_sheet(lengths, cell, request)
    except LayoutError:
        assume(False)
        raise


def grown(rect: Rect, by: int) -> Rect:
    return Rect(rect.x - by, rect.y - by, rect.w + 2 * by, rect.h + 2 * by)


@given(lengths, sizes, requests)
def test_cells_keep_their_distance_and_lie_inside_pages_that_are_allowed(
    lengths: list[int], cell: Size, request: SheetRequest
) -> None:
    plan = planned(lengths, cell, request)
    rule, (gap, margin, skirt, block) = request.rule, request.spacing
    assert rule.within_limit(plan.page)
    assert not rule.square or plan.page.w == plan.page.h
    for side in plan.page:
        assert side % rule.multiple_of == 0
        assert side % block == 0
        assert not rule.pow2 or side & (side - 1) == 0
    cells = list(plan.grid.cells())
    for rect in cells:
        assert rect.w >= cell.w
        assert rect.h >= cell.h
        assert grown(rect, skirt + margin).fits(plan.page)
        assert min(rect.x, rect.y) - skirt - margin >= 0
    for one, other in combinations(cells[:12], 2):
        apart = max(other.x - one.right, one.x - other.right, other.y - one.bottom, one.y - other.bottom)
        assert apart >= gap + 2 * skirt


@given(lengths, sizes, divided)
def test_a_divided_page_is_columns_and_rows_of_cells_and_no_allowed_one_of_these_is_smaller(
    lengths: list[int], cell: Size, request: SheetRequest
) -> None:
    plan = planned(lengths, cell, request)
    rule, (columns, rows, found, *_), block = request.rule, plan.grid, request.spacing.block
    assert plan.page == (columns * found.w, rows * found.h) == plan.grid.size
    assert found.w >= cell.w
    assert found.h >= cell.h
    assert not (found.w % block)
    assert not (found.h % block)
    assert rule.within_limit(plan.page)
    assert rule.smallest(plan.page) == plan.page
    smaller = [
        Size(columns * w, rows * h)
        for w in range(cell.w, found.w + 1) for h in range(cell.h, found.h + 1) if not (w % block or h % block)
    ]  # fmt: skip
    assert all(page == plan.page for page in smaller if rule.smallest(page) == page)


@given(lengths, sizes, requests | divided)
def test_every_frame_has_a_cell_of_its_own_in_order(lengths: list[int], cell: Size, request: SheetRequest) -> None:
    plan = planned(lengths, cell, request)
    slots = plan.slots()
    assert len(slots) == sum(lengths)
    assert slots == sorted(set(slots))
    assert {slot.page for slot in slots} == set(range(plan.pages))
    assert all(slot.cell < plan.grid.capacity for slot in slots)
    if request.new_lines:
        firsts = [slots[sum(lengths[:number])] for number in range(len(lengths))]
        assert all(slot.cell % plan.along == 0 for slot in firsts)


@given(lengths, sizes, st.integers(1, 4), st.integers(0, 2), st.booleans())
def test_mip_levels_of_safe_sheets_mix_no_two_cells(
    lengths: list[int], cell: Size, levels: int, skirt: int, pow2: bool
) -> None:
    """Painted cell by cell with its own colour, then really shrunk: no texel knows two."""
    spacing = Spacing(skirt=skirt, block=1 << levels)
    plan = plan_sheet(lengths, cell, SheetRequest(spacing=spacing, rule=PageRule(pow2=pow2)))
    owners = np.zeros((plan.page.h, plan.page.w), np.int64)
    for number, rect in enumerate(plan.grid.cells(), 1):
        grown(rect, skirt).of(owners)[:] = number
    for level in range(1, levels + 1):
        texel = 1 << level
        blocks = owners.reshape(plan.page.h // texel, texel, plan.page.w // texel, texel)
        least = np.where(blocks == 0, 1 << 40, blocks).min(axis=(1, 3))
        most = blocks.max(axis=(1, 3))
        assert ((most == 0) | (most == least)).all()


CHOSEN = {1: (1, 1), 2: (2, 1), 5: (3, 2), 7: (4, 2), 12: (4, 3), 25: (5, 5), 40: (8, 5), 61: (9, 7), 64: (8, 8)}
ASKED = {
    "row": ([5], SheetRequest("row"), (5, 1, 1)),
    "column": ([5], SheetRequest("column"), (1, 5, 1)),
    "columns": ([5], SheetRequest(columns=4), (4, 2, 1)),
    "rows": ([5], SheetRequest(rows=2), (3, 2, 1)),
    "both": ([5], SheetRequest(columns=3, rows=4), (3, 4, 1)),
    "columns, down": ([5], SheetRequest(columns=4, fill="down"), (4, 2, 1)),
    "a row each": ([7, 7, 5], SheetRequest(new_lines=True), (7, 3, 1)),
    "a column each": ([7, 7, 5], SheetRequest(new_lines=True, fill="down"), (3, 7, 1)),
    "long ones wrap": ([40, 40], SheetRequest(new_lines=True), (10, 8, 1)),
    "pages alike": ([61], SheetRequest(rule=PageRule(limit=Size(50, 50))), (6, 6, 2)),
    "a strip on pages": ([9], SheetRequest("row", rule=PageRule(limit=Size(33, 99))), (4, 1, 3)),
    "the page decides": ([40], SheetRequest(rule=PageRule(pow2=True)), (8, 5, 1)),
    **{f"compact {count}": ([count], SheetRequest(), (*shape, 1)) for count, shape in CHOSEN.items()},
}


@pytest.mark.parametrize(("lengths", "request_", "expected"), ASKED.values(), ids=ASKED)
def test_what_is_asked_for_is_kept(lengths: list[int], request_: SheetRequest, expected: tuple[int, int, int]) -> None:
    plan = plan_sheet(lengths, Size(8, 8), request_)
    assert (plan.grid.columns, plan.grid.rows, plan.pages) == expected


def test_the_shape_follows_the_cell() -> None:
    assert plan_sheet([12], Size(10, 40), SheetRequest()).grid.columns == 6
    assert plan_sheet([4], Size(300, 10), SheetRequest()).grid.columns == 1


REFUSED = {
    "too few cells": (SheetRequest(columns=2, rows=2), "5 frames do not fit into 2 columns x 2 rows, 4 cells; 3 rows"),
    "a small page": (
        SheetRequest(rule=PageRule(limit=Size(9, 7))),
        "a cell of 8x8 px does not fit a page limit of 9x7",
    ),
    "a wide row": (
        SheetRequest(columns=5, rule=PageRule(limit=Size(39, 80))),
        "5 columns of 8x8 px do not fit a page limit of 39x80 px; ",
    ),
    "columns that divide no such page": (
        SheetRequest(columns=5, rule=PageRule(pow2=True), divided=True),
        "5 columns cannot divide a page of powers of two evenly; use --columns 4 or --columns 8",
    ),
    "an exact page that they do not divide": (
        SheetRequest(columns=5, rule=PageRule(exact=Size(64, 64)), divided=True),
        "5 columns cannot divide a page of 64x64 px evenly",
    ),
    "no such page": (SheetRequest(rule=PageRule(multiple_of=64, limit=Size(63, 80))), "multiples of 64 fits"),
    "a skirt too much": (
        SheetRequest(spacing=Spacing(skirt=2), rule=PageRule(limit=Size(11, 11))),
        "a cell of 8x8 px with 2 px of skirt does not fit",
    ),
}


@pytest.mark.parametrize(("request_", "words"), REFUSED.values(), ids=REFUSED)
def test_what_does_not_fit_is_refused(request_: SheetRequest, words: str) -> None:
    with pytest.raises(LayoutError) as error:
        plan_sheet([5], Size(8, 8), request_)
    assert words in str(error.value)


@pytest.mark.parametrize(("wrap", "row"), [(False, "aaabcccc"), (True, "bcabcabc")], ids=["repeated", "wrapped"])
def test_skirts_repeat_what_is_at_the_edge(wrap: bool, row: str) -> None:
    page: Pixels = np.zeros((5, 8, 4), np.uint8)
    page[2, 2:5] = [[ord(letter)] * 4 for letter in "abc"]
    skirted(page, Rect(2, 2, 3, 1), 2, wrap=wrap)
    for y in range(5):
        assert "".join(map(chr, page[y, :7, 0])) == row[:7]
    assert not page[:, 7].any()
