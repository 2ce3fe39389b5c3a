"""Names on a layout and on a contact sheet, where they say more than the number and there is room."""

from __future__ import annotations

import numpy as np
import pytest

from kivel.core.pixels.pixels import Pixels, Rect
from kivel.views.layout_drawing import DrawnFrame, DrawnPage, draw_layout


def drawn(name: str, size: int, numbers: tuple[int, ...] = (3,)) -> Pixels:
    page = np.zeros((64, 64, 4), np.uint8)
    return draw_layout([DrawnPage(page, (DrawnFrame(Rect(0, 0, size, size), numbers, 0, name=name),), None)], "shed")


@pytest.mark.parametrize(("size", "numbers", "shows"), [(64, (3,), True), (64, (3, 5), True), (1, (3,), False)])
def test_a_name_is_drawn_where_there_is_room(size: int, numbers: tuple[int, ...], shows: bool) -> None:
    plain = drawn("", size, numbers)
    assert np.array_equal(plain, drawn("rake", size, numbers)) is not shows
    assert np.array_equal(drawn("a" * 400, size, numbers), plain)
