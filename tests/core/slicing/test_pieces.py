"""The parts of a picture that become frames, against the same looked at pixel by pixel."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from kivel.core.option_words import EmptyCells
from kivel.core.pixels.pixels import Pixels, Rect, Size
from kivel.core.slicing.islands import found_islands
from kivel.core.slicing.lattice import Lattice, Run
from kivel.core.slicing.picture_pieces import Piece, kept_pieces, pieces_of_grid, pieces_of_islands, taken

DRAWN = arrays(bool, st.tuples(st.integers(3, 14), st.integers(3, 14)), elements=st.sampled_from([False, False, True]))


def picture(drawn: np.typing.NDArray[np.bool_]) -> Pixels:
    image: Pixels = np.random.default_rng(1).integers(1, 255, (*drawn.shape, 4)).astype(np.uint8)
    image[~drawn] = 0
    return image


@given(DRAWN)
def test_islands_hold_their_own_pixels_and_those_of_no_other(drawn: np.typing.NDArray[np.bool_]) -> None:
    """Though their boxes overlap; together they are all that is drawn."""
    image, islands = picture(drawn), found_islands(drawn)
    whole = np.zeros_like(image)
    for number, piece in enumerate(pieces_of_islands(islands, None), 1):
        part = taken(image, piece, islands.labels)
        own = piece.rect.of(islands.labels) == number
        assert (part[own] == piece.rect.of(image)[own]).all()
        assert not part[(piece.rect.of(islands.labels) != 0) & ~own].any()
        piece.rect.of(whole)[own] = part[own]
    assert (whole == image).all()


def test_a_piece_of_a_grid_has_all_that_lies_in_it() -> None:
    image = picture(np.ones((4, 4), bool))
    labels = np.array([[1, 1, 2, 2]] * 4, np.int32)
    assert (taken(image, Piece(Rect(0, 0, 4, 4), Size(4, 4)), labels) == image).all()
    inside = taken(image, Piece(Rect(0, 0, 4, 4), Size(6, 5), (1, 1), island=2), labels)
    assert (inside[1:, 3:5] == image[:, 2:]).all()
    assert not inside[:, :3].any()


def test_a_cell_that_reaches_beyond_the_picture_is_cut_and_keeps_its_canvas() -> None:
    lattice = Lattice(Run(2, Fraction(5)), Run(2, Fraction(4)))
    pieces = pieces_of_grid(lattice, Size(9, 7), first_row=3)
    assert [piece.rect for piece in pieces] == [Rect(0, 0, 5, 4), Rect(5, 0, 4, 4), Rect(0, 4, 5, 3), Rect(5, 4, 4, 3)]
    assert {piece.canvas for piece in pieces} == {Size(5, 4)}
    assert [piece.place for piece in pieces] == [(3, 0), (3, 1), (4, 0), (4, 1)]


EMPTY: dict[str, tuple[EmptyCells, list[int]]] = {
    "the last go": ("drop-last", [0, 1, 2, 3]), "the last of its row go": ("drop-row-ends", [0, 1, 2, 3]),
    "all go": ("drop", [1, 3]), "all stay": ("keep", [0, 1, 2, 3, 4, 5]),
}  # fmt: skip


@pytest.mark.parametrize(("empty", "kept"), EMPTY.values(), ids=EMPTY)
def test_empty_cells_go_as_is_asked_for_and_faint_ones_are_told(empty: EmptyCells, kept: list[int]) -> None:
    image = np.zeros((2, 12, 4), np.uint8)
    image[0, 2], image[1, 7] = (9, 9, 9, 255), (9, 9, 9, 7)
    pieces = pieces_of_grid(Lattice(Run(6, Fraction(2)), Run(1, Fraction(2))), Size(12, 2))
    found = kept_pieces(image, pieces, empty)
    assert [piece.rect.x // 2 for piece in found.pieces] == kept
    assert found.dropped == 6 - len(kept)
    assert [kept[place] for place in found.faint] == [3]
    nothing = kept_pieces(np.zeros_like(image), pieces, "drop-last")
    assert (len(nothing.pieces), nothing.dropped) == (1, 5)


def test_of_ragged_rows_the_empty_ends_go_and_gaps_stay() -> None:
    """A row in which nothing is drawn goes as a whole."""
    image = np.zeros((8, 10, 4), np.uint8)
    for row, column in ((0, 0), (0, 1), (0, 4), (1, 1), (3, 0), (3, 2)):
        image[2 * row, 2 * column] = 255
    pieces = pieces_of_grid(Lattice(Run(5, Fraction(2)), Run(4, Fraction(2))), Size(10, 8))
    places = [piece.place for piece in kept_pieces(image, pieces, "drop-row-ends").pieces]
    assert places == [*((0, n) for n in range(5)), (1, 0), (1, 1), (3, 0), (3, 1), (3, 2)]
