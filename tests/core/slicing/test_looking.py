"""Grids and islands found in pictures that were drawn by known ones."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from drawn_sheets import GRIDS, drawn_sheet, irregular_sheet

from kivel.core.pixels.pixels import Pixels
from kivel.core.slicing.lattice import Lattice
from kivel.core.slicing.looking import Division, look_at

NUMBERS = range(200, 206)

FOUND_FIRST = {"plain": 0.9, "strip": 0.9, "keyed": 0.9, "lines": 0.95}
"""Share of the drawn sheets of a kind whose grid must be the first that is found."""


def _cells(lattice: Lattice | None) -> list[tuple[int, ...]]:
    return [tuple(rect) for rect in lattice.cells()] if lattice else []


@cache
def _first(kind: str, number: int) -> Division:
    return look_at(drawn_sheet(kind, number).image).found[0]


@pytest.mark.parametrize("kind", FOUND_FIRST)
def test_a_drawn_grid_is_found_first(kind: str) -> None:
    right = [_cells(_first(kind, number).lattice) == _cells(drawn_sheet(kind, number).lattice) for number in NUMBERS]
    assert np.mean(right) >= FOUND_FIRST[kind]


@pytest.mark.parametrize("kind", sorted(GRIDS.keys() - {"lines"}))
def test_no_lines_are_seen_where_none_are(kind: str) -> None:
    assert not any(_first(kind, number).kind == "lines" for number in NUMBERS)


def test_islands_have_the_boxes_that_were_drawn() -> None:
    for number in NUMBERS:
        sheet = irregular_sheet(number)
        assert sorted(look_at(sheet.image).islands.boxes) == sorted(sheet.boxes)


@pytest.mark.parametrize("depth", [np.uint16, np.float32])
def test_depth_changes_nothing(depth: type) -> None:
    image = drawn_sheet("plain", 201).image
    deep: Pixels = image.astype(np.uint16) * 257 if depth is np.uint16 else (image / 255).astype(np.float32)
    assert look_at(deep).found[0] == look_at(image).found[0]


def test_where_nothing_is_drawn_nothing_is_found() -> None:
    assert look_at(np.zeros((9, 9, 4), np.uint8)).found == ()
