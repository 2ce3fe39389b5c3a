"""A single frame that lies beside its neighbours is told, and by how much; steady motion is not."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.checks.shifted import Shifted, shifted_frames
from kivel.core.pixels.pixels import Pixels

NOISE = np.random.default_rng(4).integers(40, 255, (12, 12, 4)).astype(np.uint8)


def at(x: int, y: int) -> Pixels:
    image = np.zeros((48, 48, 4), np.uint8)
    image[y : y + 12, x : x + 12] = NOISE
    return image


@given(
    step=st.tuples(st.integers(-1, 1), st.integers(-1, 1)),
    off=st.tuples(st.integers(-2, 2), st.integers(-2, 2)),
    which=st.integers(1, 6),
)
def test_a_frame_off_its_way_is_told_with_how_far_and_the_way_is_not(
    step: tuple[int, int], off: tuple[int, int], which: int
) -> None:
    places = [(18 + step[0] * (number - 4), 18 + step[1] * (number - 4)) for number in range(8)]
    places[which] = (places[which][0] + off[0], places[which][1] + off[1])
    found = shifted_frames(at(*place) for place in places)
    if off == (0, 0):
        assert found == []
    else:
        assert Shifted(which, *off) in found


@pytest.mark.parametrize("count", [0, 1, 2])
def test_fewer_than_three_frames_tell_nothing(count: int) -> None:
    assert shifted_frames([at(number, 0) for number in range(count)]) == []
