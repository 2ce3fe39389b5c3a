"""Scrolling tiles: what moves where, and that it always closes."""

from __future__ import annotations

import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import plain
from kivel.core.errors import KivelError
from kivel.core.pixels.pixels import Pixels
from kivel.core.scrolling import Tile, scrolling
from program import art

turns = st.tuples(st.integers(-2, 2), st.integers(-2, 2))


def tile(number: int, width: int = 8, height: int = 6) -> Pixels:
    image = art(number, width=width, height=height)
    image[..., 3] = 255
    return image


@given(turns, turns, st.booleans(), st.integers(1, 30))
def test_every_scroll_closes_bit_for_bit(
    scroll: tuple[int, int], by: tuple[int, int], smooth: bool, count: int
) -> None:
    moved = Tile(tile(1), scroll, tile(2), strength=2.5, by_scroll=by)
    frame_at = scrolling([moved, Tile(tile(3), by, opacity=0.5, blend="screen")], smooth=smooth)
    assert np.array_equal(frame_at(Fraction(0)), frame_at(Fraction(count, count)))
    single = scrolling([Tile(tile(1), scroll)], smooth=smooth)
    assert np.array_equal(single(Fraction(0)), tile(1))


@pytest.mark.parametrize(
    ("scroll", "time", "expected"), [((1, 0), "1/4", (2, 0)), ((-1, 2), "1/2", (4, 6)), ((0, 1), "1/3", (0, 2))]
)
@pytest.mark.parametrize("smooth", [True, False])
def test_whole_pixels_are_moved_as_they_are(
    scroll: tuple[int, int], time: str, expected: tuple[int, int], smooth: bool
) -> None:
    frame = scrolling([Tile(tile(1), scroll)], smooth=smooth)(Fraction(time))
    assert np.array_equal(frame, np.roll(tile(1), expected[::-1], (0, 1)))


@pytest.mark.parametrize("pull", [False, True])
def test_a_smooth_scroll_matches_a_plain_loop(pull: bool) -> None:
    grey = tile(2)
    grey[..., :3] = grey[..., :1]
    moved = Tile(tile(1), (1, -1), grey if pull else None, strength=3, angle=20, by_scroll=(-1, 0))
    frame = scrolling([moved])(Fraction(3, 16))
    values, heights = plain.light(tile(1)), grey[..., :1] / 255 * 2 - 1
    expected = np.empty_like(values)
    for y, x in np.ndindex(6, 8):
        level = 0.0
        if pull:
            level = 3 * float(np.clip(plain.sampled(heights, x + 8 * 3 / 16, y, wrap=True)[0], -1, 1))
        at = x - 1.5 + level * math.cos(math.radians(20)), y + 6 * 3 / 16 + level * math.sin(math.radians(20))
        expected[y, x] = plain.sampled(values, *at, wrap=True)
    assert np.abs(frame.astype(int) - plain.stored(expected)).max() <= 1


def test_pixel_art_keeps_its_colours() -> None:
    frame_at = scrolling([Tile(tile(1), (1, 1), tile(2), strength=5, by_scroll=(0, 1))], smooth=False)
    colours = {tuple(pixel) for pixel in tile(1).reshape(-1, 4).tolist()}
    for index in range(7):
        assert {tuple(pixel) for pixel in frame_at(Fraction(index, 7)).reshape(-1, 4).tolist()} <= colours


def test_smaller_tiles_repeat_and_others_are_refused() -> None:
    frame = scrolling([Tile(tile(1)), Tile(tile(2, 4, 3))])(Fraction(0))
    assert np.array_equal(frame, np.tile(tile(2, 4, 3), (2, 2, 1)))
    with pytest.raises(KivelError, match="a tile of 5x3 px does not go a whole number of times"):
        scrolling([Tile(tile(1)), Tile(tile(2, 5, 3))])
