"""Rows that jitter are brought to rest, and what is steady stays as it is."""

from __future__ import annotations

import numpy as np
import pytest
from drawn_sheets import jittered_row
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Pixels
from kivel.core.pixels.sampling import shifted_light
from kivel.core.prepare.actions import Frame, Place
from kivel.core.prepare.steady import steadying
from kivel.core.steadying import steady_shifts

ROWS = range(40)
EXACT, WITHIN_ONE = 0.75, 0.9
"""Share of frames, over all rows."""


def _off(moves: NDArray[np.float64], jitter: NDArray[np.int64]) -> NDArray[np.float64]:
    """How far each frame is from where the others are once it was moved."""
    left = moves + jitter
    far: NDArray[np.float64] = np.abs(left - np.median(left, axis=0)).max(axis=1)
    return far


def test_jitter_of_four_pixels_is_taken_out() -> None:
    off = np.concatenate([_off(steady_shifts(frames), jitter) for frames, jitter in map(jittered_row, ROWS)])
    assert np.mean(off == 0) >= EXACT
    assert np.mean(off <= 1) >= WITHIN_ONE


@pytest.mark.parametrize("number", range(6))
def test_a_long_row_does_not_wander(number: int) -> None:
    frames, _ = jittered_row(number, far=0)
    long = [frames[place % len(frames)] for place in range(60)]
    assert np.abs(steady_shifts(long)).max() <= 1


def test_steadying_twice_changes_nothing_more() -> None:
    frames, _ = jittered_row(3)
    moves = steady_shifts(frames).astype(int)
    again = [np.roll(frame, (y, x), (0, 1)) for frame, (x, y) in zip(frames, moves.tolist(), strict=True)]
    assert not steady_shifts(again).any()


def test_parts_of_pixels_are_found_where_they_are_asked_for() -> None:
    y, x = np.mgrid[:48, :48]
    light = np.exp(-((x - 22) ** 2 / 60 + (y - 25) ** 2 / 90)).astype(np.float32)
    jitter = np.array([(0, 0), (0.5, 0), (-0.25, 1.5), (2.25, -0.75), (0, 0)])
    images: list[Pixels] = []
    for dx, dy in jitter.tolist():
        plane = shifted_light(np.stack([light] * 4), dx, dy, edge="clear")
        images.append(np.moveaxis(np.clip(np.rint(plane * 255), 0, 255), 0, -1).astype(np.uint8))
    left = steady_shifts(images, smooth=True) + jitter
    assert np.abs(left - np.median(left, axis=0)).max() < 0.15


def test_empty_and_single_frames_stay() -> None:
    empty = np.zeros((8, 8, 4), np.uint8)
    assert not steady_shifts([empty] * 3).any()
    assert not steady_shifts([jittered_row(1)[0][0]]).any()
    assert steady_shifts([]).shape == (0, 2)


def test_nothing_visible_is_cut_off_and_the_pivot_stays_on_the_canvas() -> None:
    still = np.zeros((10, 10, 4), np.uint8)
    still[2:8, 4:9] = np.arange(6 * 5 * 4).reshape(6, 5, 4) + 100
    frames = [Frame(image, (0.5, 0.5)) for image in (still, np.roll(still, -4, 1), still)]
    step = steadying(8)
    places = [Place(number, 3) for number in range(3)]
    decision = step.decide([step.measure(frame, place) for frame, place in zip(frames, places, strict=True)])
    made = [decision.transform(frame, place) for frame, place in zip(frames, places, strict=True)]
    assert decision.said == "shifts 0,0 +4,0 0,0"
    assert all(np.array_equal(frame.image, still) and frame.pivot == (0.5, 0.5) for frame in made)
    reaching = np.roll(still, -4, 1)
    reaching[4, 9] = 255
    frames[1] = Frame(reaching)
    decision = step.decide([step.measure(frame, place) for frame, place in zip(frames, places, strict=True)])
    made = [decision.transform(frame, place) for frame, place in zip(frames, places, strict=True)]
    assert decision.said == "shifts 0,0 +4,0 0,0; frames grow to 14x10 px so that nothing is cut off"
    assert [frame.image.shape[1] for frame in made] == [14] * 3
    assert made[1].image[4, 13].all()
    assert made[0].pivot[0] * 14 == 5
