"""Grids, and finding them again in an image."""

from __future__ import annotations

import re
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.errors import spelled
from kivel.core.layout.grid import Grid
from kivel.core.layout.page import LayoutError
from kivel.core.pixels.pixels import Pair, Rect, Size
from kivel.core.slicing.fitting import CellSize, GridRequest, fit_grid, request_for

sizes = st.builds(Size, st.integers(1, 40), st.integers(1, 40))
spacing = st.integers(0, 5)


def cell_of(w: int, h: int | None = None) -> CellSize:
    return CellSize(Fraction(w), Fraction(h or w))


def read_request(text: str) -> GridRequest:
    """`--columns 7 --margin 1x0` as a request."""
    words = text.split()
    stated = {name.removeprefix("--"): value for name, value in zip(words[::2], words[1::2], strict=True)}
    pairs = {
        name: Pair(*map(int, value.split("x") * (1 if "x" in value else 2)))
        for name, value in stated.items()
        if name in ("gap", "margin")
    }
    at = stated.get("at")
    cell = stated.get("cell")
    return GridRequest(
        int(stated["columns"]) if "columns" in stated else None,
        int(stated["rows"]) if "rows" in stated else None,
        CellSize(*map(Fraction, cell.split("x"))) if cell else None,
        pairs.get("gap", Pair()),
        pairs.get("margin", Pair()),
        Pair(*map(int, at.split(","))) if at else None,
    )


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
    around = GridRequest(gap=grid.gap, margin=grid.margin)
    for request_ in (around._replace(columns=columns, rows=rows), around._replace(cell=cell_of(*cell))):
        assert fit_grid(grid.size, request_).lattice.cells() == list(grid.cells())


def test_a_fraction_of_a_pixel_is_cut_at_edges_rounded_once() -> None:
    fitted = fit_grid(Size(70, 18), GridRequest(cell=CellSize(Fraction(35, 2), Fraction(18))))
    assert [(cell.x, cell.w) for cell in fitted.lattice.cells()] == [(0, 18), (18, 17), (35, 18), (53, 17)]
    assert fitted.lattice.canvas == Size(18, 18)


TAKEN = {
    "padded": (GridRequest(3, 2, cell_of(32)), (3, 2), ("4 px on the right are not in any cell", "6 px at the bottom")),
    "from a place": (GridRequest(cell=cell_of(30), at=Pair(5, 5)), (3, 2), ("5 px on the right", "5 px at the bottom")),
    "one pixel short": (GridRequest(cell=CellSize(Fraction(101), Fraction(70))), (1, 1), ("is 1 px short",)),
    "within a margin": (GridRequest(cell=cell_of(30), margin=Pair(5, 5)), (3, 2), ()),
}


@pytest.mark.parametrize(("request_", "counts", "notes"), TAKEN.values(), ids=TAKEN)
def test_what_is_stated_is_believed_and_leftovers_are_told(
    request_: GridRequest, counts: tuple[int, int], notes: tuple[str, ...]
) -> None:
    fitted = fit_grid(Size(100, 70), request_)
    assert (fitted.lattice.columns, fitted.lattice.rows) == counts
    assert len(fitted.notes) == len(notes)
    assert all(part in note for part, note in zip(notes, fitted.notes, strict=True))


UNFIT = {
    "columns": (GridRequest(7, 3), "226 px wide do not divide into 7 columns: 2 px left over (7 x 32)"),
    "a margin would do": (GridRequest(7, 3), "--columns 7 --rows 3 --margin 1x0 (cells of 32x32)"),
    "cell": (GridRequest(cell=cell_of(31, 32)), "226 px wide do not divide into cells of 31: 9 px left over (7 col"),
    "rows": (GridRequest(2, 5), "96 px high do not divide into 5 rows: 1 px left over (5 x 19); "
             "what would fit: --columns 2 --rows 4 (cells of 113x24), or --columns 2 --rows 6 (cells of 113x16)"),
    "nothing said": (GridRequest(), "--columns and --rows, or --cell WxH"),
    "too many": (GridRequest(300, 1), "226 px wide is too small for 300"),
    "too large": (GridRequest(3, 1, cell_of(113, 96)), "3 columns of 113 px need 339 px, the image is 226 px wide"),
    "not square": (GridRequest(5), "226 px wide do not divide into 5 columns"),
}  # fmt: skip


@pytest.mark.parametrize(("request_", "words"), UNFIT.values(), ids=UNFIT)
def test_what_does_not_divide_says_by_how_much_and_what_would(request_: GridRequest, words: str) -> None:
    with pytest.raises(LayoutError) as error:
        fit_grid(Size(226, 96), request_)
    assert words in str(spelled(str(error.value)))


counts_ = st.none() | st.integers(1, 12)
requests = st.builds(
    GridRequest, counts_, counts_, st.none() | st.builds(cell_of, st.integers(1, 30), st.integers(1, 30)),
    st.builds(Pair, spacing, spacing), st.builds(Pair, spacing, spacing), st.none() | st.builds(Pair, spacing, spacing),
)  # fmt: skip


@given(requests, st.builds(Size, st.integers(8, 120), st.integers(8, 120)))
def test_every_grid_that_is_offered_fits(request_: GridRequest, size: Size) -> None:
    try:
        fit_grid(size, request_)
    except LayoutError as error:
        offers = spelled(str(error)).partition("what would fit: ")[2]
        for offer in re.findall(r"(--\w+ [^()]*) \(", offers):
            fit_grid(size, read_request(offer))


@given(requests, st.builds(Size, st.integers(8, 120), st.integers(8, 120)))
def test_a_grid_can_be_asked_for_again(request_: GridRequest, size: Size) -> None:
    try:
        lattice = fit_grid(size, request_).lattice
    except LayoutError:
        return
    assert fit_grid(size, request_for(lattice, size)).lattice == lattice


def test_columns_alone_mean_square_cells() -> None:
    for request_ in (GridRequest(4), GridRequest(rows=3)):
        lattice = fit_grid(Size(64, 48), request_).lattice
        assert (lattice.columns, lattice.rows, lattice.canvas) == (4, 3, Size(16, 16))


def test_a_rect_knows_whether_it_fits() -> None:
    assert Rect(2, 3, 4, 5).fits(Size(6, 8))
    assert not Rect(3, 3, 4, 5).fits(Size(6, 8))
    assert not Rect(-1, 0, 1, 1).fits(Size(6, 8))
