"""MotionPairs: what is warped, what is estimated and fitted, how it is stored, and which frames are kept."""

from __future__ import annotations

from itertools import combinations, pairwise
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from moving_spots import spot

from kivel.core.errors import UsageError
from kivel.core.motion.blind_motion import blind_motion, distrust
from kivel.core.motion.fitted_motion import fitted_motion
from kivel.core.motion.frame_choice import best_frames, cut_places, gap_limit, step_between
from kivel.core.motion.motion_blend import warped_frames
from kivel.core.motion.motion_codes import MotionReach, decoded, encoded, reach_of
from kivel.core.motion.motion_error import missed, total_missed
from kivel.core.motion.motion_forms import MotionForm, at_earlier, reformed
from kivel.core.motion.pairs import MotionPairs
from kivel.core.motion.warping import Planes, enlarged, halved, places, sampled, warped

QUARTERS = (0.25, 0.5, 0.75)


def plain_sample(image: Planes, x: float, y: float, wraps: bool) -> list[float]:
    """One bilinear sample, by the book."""
    height, width = image.shape[1:]
    left, top = int(np.floor(x)), int(np.floor(y))
    total = np.zeros(len(image))
    for row, column, share in (
        (top, left, (1 - (x - left)) * (1 - (y - top))),
        (top, left + 1, (x - left) * (1 - (y - top))),
        (top + 1, left, (1 - (x - left)) * (y - top)),
        (top + 1, left + 1, (x - left) * (y - top)),
    ):
        place = (
            (row % height, column % width) if wraps else (min(max(row, 0), height - 1), min(max(column, 0), width - 1))
        )
        total += image[:, place[0], place[1]] * share
    return list(total)


@given(
    arrays(np.float32, (2, 3, 5), elements=st.floats(0, 1, width=32)),
    st.floats(-7, 9, width=16), st.floats(-7, 9, width=16), st.booleans(),
)  # fmt: skip
def test_samples_are_bilinear_and_end_at_the_border_or_wrap(image: Planes, x: float, y: float, wraps: bool) -> None:
    found = sampled(image, np.array([[[x]], [[y]]], np.float32), wraps=wraps)
    np.testing.assert_allclose(found[:, 0, 0], plain_sample(image, x, y, wraps), atol=1e-5)


@pytest.mark.parametrize("shape", [(1, 1), (1, 4), (3, 1)])
def test_an_image_of_one_pixel_a_side_can_be_sampled(shape: tuple[int, int]) -> None:
    image = np.full((4, *shape), 0.5, np.float32)
    assert np.all(sampled(image, places(*shape) + np.float32(0.3)) == 0.5)


def test_no_motion_is_the_cross_fade_and_the_ends_are_the_frames() -> None:
    first, last = spot(14, 20), spot(30, 22)
    still = np.zeros((2, 48, 48), np.float32)
    np.testing.assert_allclose(warped(first, last, still, 0.25), 0.75 * first + 0.25 * last, atol=1e-6)
    vectors = np.full((2, 48, 48), 3.7, np.float32)
    np.testing.assert_array_equal(warped(first, last, vectors, 0), first)
    np.testing.assert_allclose(warped(first, last, vectors, 1), last, atol=1e-6)


@pytest.mark.parametrize("wraps", [False, True])
@pytest.mark.parametrize("step", [(6.0, -3.0), (-8.0, 2.0)])
def test_a_spot_that_moves_is_found_blind_and_fitted(step: tuple[float, float], wraps: bool) -> None:
    start = (2, 4) if wraps else (24 - step[0] / 2, 24 - step[1] / 2)
    frames = [spot(start[0] + step[0] * t, start[1] + step[1] * t, wraps=wraps) for t in (0, *QUARTERS, 1)]
    first, *between, last = frames
    blind = blind_motion(first, last, wraps=wraps)
    fitted = fitted_motion(first, last, between, QUARTERS, wraps=wraps)
    middle = spot(start[0] + step[0] / 2, start[1] + step[1] / 2, wraps=wraps)
    seen = halved(middle)[3] > 0.5
    for vectors, most in ((blind, 0.35), (fitted, 0.2)):
        assert vectors.shape == (2, 24, 24)
        np.testing.assert_allclose(np.median(vectors[:, seen], axis=1), step, atol=0.7)
        assert missed(first, last, between, QUARTERS, vectors, wraps=wraps).ratio < most
    assert distrust(first, last, blind, wraps=wraps) < 0.4


def test_vectors_are_spread_beyond_what_is_visible() -> None:
    """Between the pixels of a map they are mixed: next to an edge there may be no zero."""
    frames = [spot(18 + 8 * t, 24) for t in (0, *QUARTERS, 1)]
    vectors = fitted_motion(frames[0], frames[-1], frames[1:-1], QUARTERS)
    around = (halved(frames[2])[3] == 0) & (halved(spot(22, 24))[3] == 0)
    near = around & (np.hypot(*(places(24, 24) - np.float32(11.5))) < 8)
    assert near.sum() > 20
    assert np.median(vectors[0][near]) > 4


def test_what_stands_still_has_no_motion() -> None:
    frame = spot(24, 24)
    assert not np.round(fitted_motion(frame, frame, [frame] * 3, QUARTERS), 3).any()
    assert distrust(frame, frame, blind_motion(frame, frame)) == 0


@given(arrays(np.float32, (2, 2, 3), elements=st.floats(-40, 40, width=32)), st.sampled_from([np.uint8, np.uint16]))
def test_codes_are_within_half_a_step_and_128_is_no_motion(vectors: Planes, dtype: type) -> None:
    vectors[:, 0, 0] = 0
    reach = reach_of([vectors])
    image = encoded(vectors, reach, dtype)
    middle = 128 if dtype == np.uint8 else 32768
    assert image[0, 0].tolist() == [middle, middle, 0, 2 * middle - 1]
    back = decoded(image, reach)
    assert not back[:, 0, 0].any()
    np.testing.assert_allclose(back, vectors, atol=reach.x / (middle - 1) / 2 + 1e-4)
    np.testing.assert_array_equal(decoded(encoded(-vectors, reach, dtype), reach), -back)


def test_beyond_its_reach_a_vector_is_cut_off() -> None:
    image = encoded(np.array([[[9.0]], [[-9.0]]], np.float32), MotionReach(4, 8))
    assert image[0, 0, :2].tolist() == [255, 1]


def test_errors_add_up_over_what_is_visible() -> None:
    black, white = np.zeros((4, 2, 2), np.float32), np.ones((4, 2, 2), np.float32)
    still = np.zeros((2, 1, 1), np.float32)
    one = missed(black, white, [white], [0.5], still)
    assert (one.visible, one.fading, one.ratio) == (4, 4.0, 1.0)
    assert total_missed([one, one]).error == pytest.approx(127.5)
    assert missed(black, white, [black], [0.5], still).error == 0  # nothing is to be seen there


@given(st.integers(3, 10), st.integers(2, 9), st.booleans(), st.randoms(use_true_random=False))
def test_frames_are_chosen_as_by_trying_all(length: int, count: int, loops: bool, random: Random) -> None:
    count = min(count, length - 1)
    costs = {(a, b): random.randrange(50) for a in range(length) for b in range(a + 1, length + 1)}

    def total(kept: tuple[int, ...]) -> float:
        way = (*kept, length) if loops else kept
        wide = any(b - a > gap_limit(length, count) for a, b in pairwise(way))
        return np.inf if wide else sum(costs[pair] for pair in pairwise(way))

    ends = () if loops else (length - 1,)
    inner = combinations(range(1, length - len(ends)), count - 1 - len(ends))
    best = min(total((0, *some, *ends)) for some in inner)
    kept = best_frames(length, count, loops=loops, missed=lambda a, b: costs[a, b])
    assert (len(kept), kept[0], total(tuple(kept))) == (count, 0, best)


def test_a_change_of_scene_is_found() -> None:
    frames = [spot(10 + 2 * n, 20) for n in range(6)] + [spot(36, 40 - 2 * n)[[2, 1, 0, 3]] for n in range(6)]
    rests = [step_between(a, b, wraps=False).rest for a, b in pairwise(frames)]
    assert cut_places(frames, rests) == [5]
    assert cut_places(frames[:6], rests[:5]) == []


@pytest.mark.parametrize("shape", [(60, 21), (2, 9), (1, 8), (33, 1)], ids=str)
@pytest.mark.parametrize("dtype", ["uint8", "uint16", "float32"])
def test_what_lies_between_large_frames_is_the_same_a_band_at_a_time(
    monkeypatch: pytest.MonkeyPatch, shape: tuple[int, int], dtype: str
) -> None:
    random = np.random.default_rng(5)
    most = 1 if dtype == "float32" else np.iinfo(dtype).max
    earlier, later = ((random.random((*shape, 4)) * most).astype(dtype) for _ in range(2))
    vectors = random.normal(0, 20, (2, (shape[0] + 1) // 2, (shape[1] + 1) // 2)).astype(np.float32)
    for time in (0.0, 0.25, 1.0):
        whole = warped_frames(earlier, later, vectors, time)
        monkeypatch.setattr("kivel.core.motion.motion_blend._AT_A_TIME", shape[1] * 5)
        np.testing.assert_array_equal(warped_frames(earlier, later, vectors, time), whole)
        monkeypatch.undo()


def test_vectors_enlarge_as_a_texture_is_filtered() -> None:
    found = enlarged(np.array([[[0, 4]], [[0, 0]]], np.float32), 1, 4)
    assert found[0, 0].tolist() == [0, 1, 3, 4]


@pytest.mark.parametrize("step", [(4.0, -3.0), (-6.0, 0.0)])
def test_vectors_that_lie_in_the_earlier_frame_lead_from_there(step: tuple[float, float]) -> None:
    """A motion that differs from place to place, so that it matters where it lies."""
    at = places(40, 40)
    ramp = (at[0] / 40).astype(np.float32)
    middle = np.stack([step[0] * ramp, step[1] * ramp]).astype(np.float32)
    earlier = at_earlier(middle)
    inner = (slice(None), slice(8, 32), slice(8, 32))
    back = sampled(middle, at + earlier * np.float32(0.5))
    np.testing.assert_allclose(earlier[inner], back[inner], atol=1e-4)
    assert np.abs(earlier - middle)[inner].max() > 0.05


@pytest.mark.parametrize(
    ("form", "expected"),
    [
        (MotionForm(), (255, 64, 0, 255)),
        (MotionForm(y="up"), (255, 192, 0, 255)),
        (MotionForm(leads="backward"), (1, 192, 0, 255)),
        (MotionForm(reach=16), (192, 96, 0, 255)),
        (MotionForm(channels="ba"), (0, 0, 255, 64)),
    ],
)
def test_motion_is_stored_as_others_want_it(form: MotionForm, expected: tuple[int, ...]) -> None:
    motion = MotionPairs(MotionReach(8, 8), (0,))
    image = encoded(np.array([[[8.0]], [[-4.0]]], np.float32), motion.reach)
    assert tuple(reformed(image, motion, form)[0, 0]) == expected


def test_a_reach_that_is_too_short_is_refused() -> None:
    motion = MotionPairs(MotionReach(8, 8), (0,))
    image = encoded(np.array([[[8.0]], [[-4.0]]], np.float32), motion.reach)
    with pytest.raises(UsageError, match="motion of 8 px is longer than a reach of 4 px"):
        reformed(image, motion, MotionForm(reach=4))
