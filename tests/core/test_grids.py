"""Grids, and finding them again in an image."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.layout.grid import Grid
from kivel.core.layout.page import LayoutError
from kivel.core.pixels import Pair, Rect, Size
from kivel.core.slicing.fitting import SliceRequest, fit_grid

sizes = st.builds(Size, st.integers(1, 40), st.integers(1, 40))
spacing = st.integers(0, 5)


def test_cells_can_run_down_the_columns() -> None:
    grid = Grid(2, 3, Size(4, 5), fill="down")
    assert [grid.cell_rect(i)[:2] for i in range(4)] == [(0, 0), (0, 5), (0, 10), (4, 0)]
    with pytest.raises(LayoutError, match="cell 6 is outside a grid of 6 cells, 0-5"):
        grid.cell_rect(6)


@given(st.integers(1, 9), st.integers(1, 9), sizes, spacing, spacing)
def test_a_grid_is_found_again_by_its_counts_and_by_its_cell(
    columns: int, rows: int, cell: Size, gap: int, margin: int
) -> None:
    grid = Grid(columns, rows, cell, Pair(gap, gap), Pair(margin, margin))
    assert fit_grid(grid.size, SliceRequest(columns, rows, None, gap, margin)) == grid
    assert fit_grid(grid.size, SliceRequest(None, None, cell, gap, margin)) == grid


UNFIT = {
    "columns": (SliceRequest(columns=7, rows=3), "226 px wide do not divide into 7 columns: 2 px left over (7 x 32)"),
    "a margin would do": (SliceRequest(columns=7, rows=3), "what would fit: 7 with --margin 1 (cells of 32)"),
    "cell": (SliceRequest(cell=Size(31, 32)), "226 px wide do not divide into cells of 31: 9 px left over (7 columns)"),
    "rows": (SliceRequest(columns=2, rows=5), "96 px high do not divide into 5 rows: 1 px left over (5 x 19); "
             "what would fit: 4 rows (cells of 24), or 6 rows (cells of 16)"),
    "nothing said": (SliceRequest(), "--columns and --rows, or --cell WxH"),
    "too many": (SliceRequest(columns=300, rows=1), "226 px is too small for 300"),
    "against itself": (SliceRequest(columns=3, cell=Size(113, 96)), "cells of 113 px make 2 columns in 226 px, not 3"),
}  # fmt: skip


@pytest.mark.parametrize(("request_", "words"), UNFIT.values(), ids=UNFIT)
def test_what_does_not_divide_says_by_how_much_and_what_would(request_: SliceRequest, words: str) -> None:
    with pytest.raises(LayoutError) as error:
        fit_grid(Size(226, 96), request_)
    assert words.replace("is too small", "wide is too small") in str(error.value)


def test_columns_alone_mean_square_cells() -> None:
    assert fit_grid(Size(64, 48), SliceRequest(columns=4)) == Grid(4, 3, Size(16, 16))
    assert fit_grid(Size(64, 48), SliceRequest(rows=3)) == Grid(4, 3, Size(16, 16))


def test_a_rect_knows_whether_it_fits() -> None:
    assert Rect(2, 3, 4, 5).fits(Size(6, 8))
    assert not Rect(3, 3, 4, 5).fits(Size(6, 8))
    assert not Rect(-1, 0, 1, 1).fits(Size(6, 8))
