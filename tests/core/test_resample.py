"""Which frames are taken, how they are mixed, how long they show, and at what pace."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import plain
from kivel.core.errors import UsageError
from kivel.core.playback.easing import parse_easing
from kivel.core.resampling import Share, mixed, resampled_holds, sample_positions, samples
from program import art

counts = st.integers(1, 40)


def taken(length: int, count: int, *, one_shot: bool) -> list[int]:
    spans = samples(length, sample_positions(length, count, one_shot=one_shot), one_shot=one_shot, mix=False)
    return [span.shares[0].frame for span in spans]


@pytest.mark.parametrize(
    ("length", "count", "one_shot", "expected"),
    [
        (8, 4, False, [0, 2, 4, 6]),
        (120, 48, False, [round(i * 2.5 + 1e-6) for i in range(48)]),
        (5, 3, True, [0, 2, 4]),
        (4, 8, True, [0, 0, 1, 1, 2, 2, 3, 3]),
        (2, 4, False, [0, 1, 1, 0]),
        (7, 1, True, [0]),
        (1, 3, False, [0, 0, 0]),
    ],
)
def test_frames_are_taken_evenly(length: int, count: int, one_shot: bool, expected: list[int]) -> None:
    assert taken(length, count, one_shot=one_shot) == expected


@given(counts, counts, st.booleans())
def test_fewer_frames_are_all_different_and_in_order(length: int, count: int, one_shot: bool) -> None:
    numbers = taken(length, count, one_shot=one_shot)
    assert numbers == sorted(numbers) or not one_shot
    if count <= length:
        assert numbers == sorted(set(numbers))
        assert max(np.diff([*numbers, numbers[0] + length]), default=0) <= -(-length // count) or one_shot
    if one_shot and count > 1:
        assert (numbers[0], numbers[-1]) == (0, length - 1)


@given(counts, counts)
def test_mixing_a_loop_gives_every_frame_its_share(length: int, count: int) -> None:
    spans = samples(length, sample_positions(length, count, one_shot=False), one_shot=False, mix=True)
    weights = np.zeros(length)
    for span in spans:
        assert sum(share.weight for share in span.shares) == pytest.approx(1)
        for share in span.shares:
            weights[share.frame] += share.weight
    if count <= length:
        assert weights == pytest.approx(np.full(length, count / length))
    if count == length:
        assert [span.shares for span in spans] == [(Share(index, 1.0),) for index in range(length)]


@given(counts, counts, st.booleans())
def test_one_shots_mix_within_their_ends(length: int, count: int, paced: bool) -> None:
    pace = parse_easing("ease-in-out") if paced else None
    spans = samples(length, sample_positions(length, count, one_shot=True, pace=pace), one_shot=True, mix=True)
    assert all(sum(share.weight for share in span.shares) == pytest.approx(1) for span in spans)
    assert spans[0].shares[0].frame == 0


def test_in_betweens_are_mixed_in_linear_light() -> None:
    frames = [art(1), art(2), art(3)]
    result = mixed((Share(0, 0.25), Share(2, 0.75)), frames.__getitem__)
    expected = plain.stored(plain.light(frames[0]) * 0.25 + plain.light(frames[2]) * 0.75)
    assert np.abs(result.astype(int) - expected)[expected[..., 3] > 0].max() <= 1
    assert mixed((Share(1, 1.0),), frames.__getitem__) is frames[1]
    normals = [np.array([[[x, 128, 230, 255]]], np.uint8) for x in (28, 228)]
    assert mixed((Share(0, 0.5), Share(1, 0.5)), normals.__getitem__, kind="normal").tolist() == [
        [[128, 128, 255, 255]]
    ]


@given(st.lists(st.fractions(Fraction(1, 1000), 3), min_size=1, max_size=12), counts)
def test_the_clip_lasts_as_long_as_before(holds: list[Fraction], count: int) -> None:
    new = resampled_holds(holds, count)
    assert sum(new) == sum(holds)
    assert min(new) > 0
    assert resampled_holds(holds, len(holds)) == holds


@pytest.mark.parametrize(
    ("text", "time", "expected"),
    [
        ("linear", 0.3, 0.3),
        ("ease", 0.5, 0.8024),
        ("ease-in", 0.5, 0.3154),
        ("ease-out", 0.5, 0.6846),
        ("cubic-bezier(0.3, -0.5, 0.7, 1.5)", 0.1, -0.0808),
        ("CUBIC-BEZIER( 0 ,0, 1,1 )", 0.7, 0.7),
        ("steps(4)", 0.49, 0.25),
        ("steps(4)", 0.5, 0.5),
        ("steps(4, start)", 0.0, 0.25),
        ("steps(3, jump-none)", 0.4, 0.5),
        ("steps(1, jump-both)", 0.5, 0.5),
        ("step-end", 0.99, 0.0),
        ("linear(0, 0.5 20%, 1)", 0.1, 0.25),
        ("linear(0, 0.2, 0.9, 1)", 0.5, 0.55),
        ("linear(0, 1 50%, 0.5)", 0.75, 0.75),
    ],
)
def test_paces_are_those_of_css(text: str, time: float, expected: float) -> None:
    ease = parse_easing(text)
    assert ease(time) == pytest.approx(expected, abs=5e-4)


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("eas-in", "'eas-in' is not an easing function: did you mean ease-in?"),
        ("bounce", "'bounce' is not an easing function: expected a CSS easing function"),
        ("cubic-bezier(2, 0, 0, 1)", "x1 and x2 must be from 0 to 1"),
        ("cubic-bezier(0, 0, 1)", "expected four numbers"),
        ("steps(0)", "expected a whole number of steps from 1"),
        ("steps(1, jump-none)", "expected a whole number of steps from 2"),
        ("steps(2, middle)", "jump one of jump-start"),
        ("linear(0)", "expected two numbers or more"),
        ("linear(0, 1 2 3)", "expected a number, or a number and one or two percentages, found '1 2 3'"),
    ],
)
def test_what_is_no_pace_is_refused(text: str, message: str) -> None:
    with pytest.raises(UsageError) as caught:
        parse_easing(text)
    assert message in str(caught.value)
