"""Stated grids: what divides is taken, all else is refused with grids that fit."""

from __future__ import annotations

import re
from fractions import Fraction

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from kivel.core.errors import spelled
from kivel.core.layout.page import LayoutError
from kivel.core.pixels.pixels import Pair, Size
from kivel.core.slicing.fitting import CellSize, GridRequest, fit_grid, request_for
from kivel.core.slicing.lattice import Lattice, Run

LENGTHS, COUNTS, SPACES = st.integers(1, 60), st.integers(1, 9), st.integers(0, 3)


@given(LENGTHS, LENGTHS, COUNTS, COUNTS, SPACES, SPACES)
def test_counts_are_taken_where_they_divide(w: int, h: int, columns: int, rows: int, gap: int, margin: int) -> None:
    request = GridRequest(columns, rows, gap=Pair(gap, gap), margin=Pair(margin, margin))
    rooms = [(length - 2 * margin - (n - 1) * gap, n) for length, n in ((w, columns), (h, rows))]
    if all(room >= n and room % n == 0 for room, n in rooms):
        lattice = fit_grid(Size(w, h), request).lattice
        cells = [Fraction(room, n) for room, n in rooms]
        assert lattice == Lattice(Run(columns, cells[0], margin, gap), Run(rows, cells[1], margin, gap))
    else:
        with pytest.raises(LayoutError):
            fit_grid(Size(w, h), request)


@given(LENGTHS, LENGTHS, st.integers(1, 20), st.integers(1, 20), SPACES)
def test_cells_are_counted_and_the_last_may_lack_a_pixel(w: int, h: int, cell_w: int, cell_h: int, gap: int) -> None:
    request = GridRequest(cell=CellSize(Fraction(cell_w), Fraction(cell_h)), gap=Pair(gap, gap))
    counts = []
    for length, cell in ((w, cell_w), (h, cell_h)):
        exact = [n for n in range(1, length + 1) if n * cell + (n - 1) * gap == length]
        short = [n for n in range(1, length + 2) if n * cell + (n - 1) * gap == length + 1 and cell > 1]
        counts.append((exact or short or [0])[0])
    if all(counts):
        fitted = fit_grid(Size(w, h), request)
        assert [fitted.lattice.columns, fitted.lattice.rows] == counts
        sides = zip(counts, (cell_w, cell_h), (w, h), strict=True)
        lacks = [n * cell + (n - 1) * gap > length for n, cell, length in sides]
        assert sum("1 px short" in note for note in fitted.notes) == sum(lacks)
    else:
        with pytest.raises(LayoutError, match=r"do not divide|too small"):
            fit_grid(Size(w, h), request)


@given(COUNTS, COUNTS, st.integers(1, 12), st.integers(1, 12), SPACES, SPACES, st.integers(0, 4), st.integers(0, 4))
def test_the_shortest_request_for_a_grid_gives_it_back(
    columns: int, rows: int, cell_w: int, cell_h: int, gap: int, at: int, right: int, below: int
) -> None:
    lattice = Lattice(Run(columns, Fraction(cell_w), at, gap), Run(rows, Fraction(cell_h), at, gap))
    size = Size(lattice.across.end + right, lattice.down.end + below)
    request = request_for(lattice, size)
    assert fit_grid(size, request).lattice == lattice
    assert (request.cell is None) == (right == below == at)


def pair(text: str) -> Pair:
    """`2`, or `2x0`."""
    across, _, down = text.partition("x")
    return Pair(int(across), int(down or across))


def test_the_same_gap_across_and_down_is_offered_first() -> None:
    """Of square cells, though rows alone would divide without."""
    with pytest.raises(LayoutError) as error:
        fit_grid(Size(270, 66), GridRequest(8, 2))
    assert "what would fit: --columns 8 --rows 2 --gap 2 (cells of 32x32)" in spelled(error.value.message, "command")


@given(LENGTHS, LENGTHS, COUNTS, COUNTS)
def test_every_grid_that_is_offered_fits(w: int, h: int, columns: int, rows: int) -> None:
    try:
        fit_grid(Size(w, h), GridRequest(columns, rows))
        assume(False)
    except LayoutError as error:
        said = spelled(error.message, "command")
    for offer in re.findall(r"(--[^()]*) \(([^()]*)\)", said.partition("what would fit: ")[2]):
        stated = dict(re.findall(r"--([a-z]+) (\S+)", offer[0]))
        cell = stated.get("cell")
        gap, margin = (pair(stated.get(name, "0")) for name in ("gap", "margin"))
        request = GridRequest(
            int(stated["columns"]) if "columns" in stated else None,
            int(stated["rows"]) if "rows" in stated else None,
            CellSize(*(Fraction(part) for part in cell.split("x"))) if cell else None,
            gap=gap,
            margin=margin,
        )
        lattice = fit_grid(Size(w, h), request).lattice
        what = (
            f"{lattice.columns} x {lattice.rows} cells"
            if cell
            else f"cells of {lattice.across.cell}x{lattice.down.cell}"
        )
        assert what == offer[1]
