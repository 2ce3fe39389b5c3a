"""Exact time: what is typed, what files state, and what a coarser clock makes of it."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.errors import UsageError
from kivel.core.option_words import Direction
from kivel.core.playback.clip import Clip, Step, Timing, clip_of_frames
from kivel.core.playback.notation import parse_hold, parse_rate, parse_repeat

positive = st.fractions(min_value=Fraction(1, 5000), max_value=30, max_denominator=50_000)


@given(st.lists(positive, min_size=1, max_size=40))
def test_stated_durations_are_kept_exactly(durations: list[Fraction]) -> None:
    clip = clip_of_frames("moth", durations, Timing())
    assert [clip.seconds(step.hold) for step in clip.steps] == durations
    assert clip.length == sum(durations)


TIMINGS = {
    "default": (Timing(), [Fraction(1, 12)] * 2),
    "rate": (Timing(fps=Fraction(24000, 1001)), [Fraction(1001, 24000)] * 2),
    "ticks": (Timing(hold=2), [Fraction(1, 30)] * 2),
    "ticks of a timebase": (Timing(hold=2, timebase=Fraction(24)), [Fraction(1, 12)] * 2),
    "time": (Timing(hold=Fraction(2, 25)), [Fraction(2, 25)] * 2),
    "rate in ticks": (Timing(fps=Fraction(12), timebase=Fraction(24)), [Fraction(1, 12)] * 2),
}


@pytest.mark.parametrize(("timing", "holds"), TIMINGS.values(), ids=TIMINGS)
def test_holds_are_what_was_asked_for(timing: Timing, holds: list[Fraction]) -> None:
    clip = clip_of_frames("moth", [None, None], timing)
    assert [clip.seconds(step.hold) for step in clip.steps] == holds


def test_a_rate_overrides_what_files_state_and_nothing_else_does() -> None:
    stated = [Fraction(1, 10), Fraction(0), None]
    assert [s.hold for s in clip_of_frames("a", stated, Timing(fps=Fraction(8))).steps] == [1, 1, 1]
    kept = clip_of_frames("a", stated, Timing(repeat=2))
    assert [kept.seconds(s.hold) for s in kept.steps] == [Fraction(1, 10), Fraction(1, 10), Fraction(1, 12)]
    assert kept.repeat == 2


def test_a_hold_between_ticks_is_refused() -> None:
    with pytest.raises(UsageError, match="choose a timebase of 25"):
        clip_of_frames("a", [None], Timing(hold=Fraction(1, 25), timebase=Fraction(30)))


@pytest.mark.parametrize(
    ("direction", "shown"),
    [("normal", [0, 1, 2, 3]), ("reverse", [3, 2, 1, 0]), ("alternate", [0, 1, 2, 3, 2, 1])],
    ids=str,
)
def test_a_cycle_shows_each_end_once(direction: Direction, shown: list[int]) -> None:
    steps = tuple(Step(frame, 1) for frame in range(4))
    assert [step.frame for step in Clip("a", Fraction(8), steps, direction=direction).cycle()] == shown
    one = Clip("a", Fraction(8), steps[:1], direction=direction)
    assert one.cycle() == steps[:1]


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("2", 2),
        ("80ms", Fraction(2, 25)),
        ("0.5s", Fraction(1, 2)),
        ("1/12s", Fraction(1, 12)),
        ("1.5 s", Fraction(3, 2)),
    ],
)
def test_holds_are_read_as_people_write_them(text: str, value: int | Fraction) -> None:
    assert parse_hold(text) == value
    assert type(parse_hold(text)) is type(value)


@pytest.mark.parametrize("text", ["0", "-1", "80", "0ms", "ms", "1/0s", "2.5", "٣", "nan"])
def test_other_holds_are_refused(text: str) -> None:
    if text == "80":
        assert parse_hold(text) == 80
        return
    with pytest.raises(UsageError, match="80ms or 1/12s"):
        parse_hold(text)


def test_rates_and_repeats() -> None:
    assert parse_rate("24000/1001") == Fraction(24000, 1001)
    assert parse_rate("29.97") == Fraction(2997, 100)
    assert [parse_repeat(text) for text in ("0", "7", "forever")] == [0, 7, "forever"]
    for bad in ("0", "-12", "x", "1/0", "inf"):
        with pytest.raises(UsageError, match="above 0"):
            parse_rate(bad)
    with pytest.raises(UsageError, match="'forever', found '-1'"):
        parse_repeat("-1")
