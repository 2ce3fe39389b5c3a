"""Layouts to choose from: what fits a page, what the next smaller one holds, and what pages weigh."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.layout.choices import largest_cell, next_page_down, worth_having
from kivel.core.layout.memory import FORMATS, texture_bytes
from kivel.core.layout.page import PageRule
from kivel.core.layout.sheet_plan import SheetRequest, plan_sheet
from kivel.core.layout.spacing import Spacing
from kivel.core.pixels.pixels import Size

sizes = st.builds(Size, st.integers(1, 60), st.integers(1, 60))
spacings = st.builds(Spacing, st.integers(0, 3), st.integers(0, 3), st.integers(0, 2), st.sampled_from((1, 4)))


@given(st.integers(1, 60), sizes, spacings)
def test_the_best_line_is_what_sheet_makes(count: int, frame: Size, spacing: Spacing) -> None:
    request = SheetRequest(spacing=spacing)
    layouts = worth_having(count, frame, request)
    assert layouts[0].plan == plan_sheet([count], frame, request)
    assert layouts[0].label.startswith("best")
    seen = [(one.plan.page, one.plan.grid.columns, one.plan.grid.rows) for one in layouts]
    assert len(seen) == len(set(seen))
    for one in layouts:
        assert one.plan.grid.capacity * one.plan.pages >= count
        assert 0 < one.used(frame) <= 1


@given(st.integers(1, 60), sizes, st.builds(Size, st.integers(40, 300), st.integers(40, 300)), spacings)
def test_the_largest_cell_fits_and_no_larger_one_does(count: int, frame: Size, page: Size, spacing: Spacing) -> None:
    request = SheetRequest(spacing=spacing)
    found = largest_cell([count], frame, page, request)
    if found is None:
        return
    assert found.columns * found.rows >= count
    assert min(found.unused) >= 0
    size = request.grid(found.columns, found.rows, found.cell).size
    assert (size.w + found.unused.w, size.h + found.unused.h) == page
    side = max(found.cell) + 1
    next_up = Size(frame.w * side // max(frame), frame.h * side // max(frame))
    for columns in range(1, count + 1):
        larger = request.grid(columns, -(-count // columns), next_up).size
        assert larger.w > page.w or larger.h > page.h


def test_pages_are_told_as_people_ask() -> None:
    found = largest_cell([48], Size(64, 64), Size(2048, 2048), SheetRequest())
    assert found is not None
    assert (found.cell, found.columns, found.rows, found.unused) == (Size(292, 292), 7, 7, Size(4, 4))
    half = next_page_down(120, Size(128, 128), Size(2048, 2048), SheetRequest(spacing=Spacing(gap=2)))
    assert (half.page, half.holds) == (Size(2048, 1024), 105)
    assert half.all_at is not None
    assert half.all_at.cell == Size(126, 126)
    limited = worth_having(5, Size(32, 32), SheetRequest(rule=PageRule(limit=Size(64, 64))))
    assert [one.plan.pages for one in limited] == [2]


@pytest.mark.parametrize(("name", "block", "size"), [
    ("RGBA8", 1, 4), ("BC1", 4, 8), ("BC7", 4, 16), ("ETC2 RGBA", 4, 16), ("ASTC 6x6", 6, 16)
])  # fmt: skip
def test_memory_is_counted_in_whole_blocks(name: str, block: int, size: int) -> None:
    levels = [(-(-side // block)) ** 2 * size for side in (1000, 500, 250, 125, 62, 31, 15, 7, 3, 1)]
    assert texture_bytes(Size(1000, 1000), FORMATS[name]) == levels[0]
    assert texture_bytes(Size(1000, 1000), FORMATS[name], mips=True) == sum(levels)


def test_sheets_without_an_empty_cell_are_offered() -> None:
    layouts = worth_having(12, Size(8, 8), SheetRequest())
    full = {(one.plan.grid.columns, one.plan.grid.rows) for one in layouts if "no cell empty" in one.label}
    assert full == {(4, 3), (3, 4), (6, 2)}
    assert all(one.plan.pages == 1 and not one.plan.empty for one in layouts if "no cell empty" in one.label)
