"""Coarser clocks: errors never add up, nothing is lost unsaid."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from itertools import accumulate

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.clock import converted, on_clock
from kivel.core.playback.player import Player
from strategies import clips

positive = st.fractions(min_value=Fraction(1, 5000), max_value=30, max_denominator=50_000)


@given(st.lists(positive, min_size=1, max_size=60), st.fractions(Fraction(1, 1000), Fraction(1, 5)))
def test_every_end_stays_within_half_a_tick(holds: list[Fraction], tick: Fraction) -> None:
    clocked = on_clock(holds, tick)
    ends = [ticks * tick for ticks in accumulate(clocked.ticks)]
    errors = [abs(end - exact) for end, exact in zip(ends, accumulate(holds), strict=True)]
    assert clocked.largest_error == max(errors)
    assert clocked.merged == tuple(index for index, ticks in enumerate(clocked.ticks) if ticks == 0)
    assert sum(clocked.ticks) >= 1
    if sum(holds) >= tick / 2:
        assert max(errors) <= tick / 2
    if (sum(holds) / tick).denominator == 1:
        assert ends[-1] == sum(holds)


@given(clips(), st.fractions(Fraction(1, 3), 300, max_denominator=1001))
def test_a_converted_cycle_stays_within_half_a_tick(clip: Clip, timebase: Fraction) -> None:
    """Whatever its direction; and what shows at a time is what showed at most half a tick earlier or later."""
    clip = replace(clip, phase=Fraction(0), repeat="forever")
    result = converted(clip, timebase)
    before, after = Player(clip), Player(result.clip)
    assert result.clip.timebase == timebase
    assert result.longer == after.cycle_length - before.cycle_length
    if before.cycle_length < 1 / timebase:
        return
    assert result.largest_error <= 1 / timebase / 2
    for happening in after.happenings(Fraction(0), after.cycle_length):
        if happening.kind == "show":
            near = [before.at(max(happening.time + side * 1 / timebase / 2, Fraction(0))).frame for side in (-1, 0, 1)]
            shown = {
                h.frame for h in before.happenings(happening.time - 1 / timebase / 2, happening.time + 1 / timebase)
            }
            assert happening.frame in {*near, *shown}


@given(clips(), st.integers(1, 6))
def test_a_clock_that_shows_it_exactly_changes_nothing(clip: Clip, finer: int) -> None:
    result = converted(clip, clip.timebase * finer)
    assert result.merged == ()
    assert result.written_out is None
    assert result.largest_error == 0
    assert replace(result.clip, timebase=clip.timebase, steps=clip.steps) == clip


STEPS = tuple(Step(frame, hold) for frame, hold in enumerate((3, 3, 3, 4)))


@pytest.mark.parametrize(
    ("clip", "timebase", "steps", "direction", "merged"),
    [
        (Clip("a", Fraction(12), STEPS), 6, ((0, 2), (1, 1), (2, 2), (3, 2)), "normal", ()),
        (Clip("a", Fraction(60), (Step(0, 6), Step(1, 1), Step(2, 6))), 10, ((0, 1), (2, 1)), "normal", (1,)),
        (Clip("a", Fraction(8), (Step(0, 1), Step(1, 3)), direction="reverse"), 4, ((1, 2),), "reverse", (0,)),
        (Clip("a", Fraction(60), (Step(0, 1), Step(1, 2))), 10, ((1, 1),), "normal", (0,)),
    ],
    ids=["halves upwards", "merged", "in the order that it plays", "all shorter than half a tick"],
)
def test_what_becomes_of_steps(
    clip: Clip, timebase: int, steps: tuple[Step, ...], direction: str, merged: tuple[int, ...]
) -> None:
    result = converted(clip, Fraction(timebase))
    assert (result.clip.steps, result.clip.direction, result.merged) == (steps, direction, merged)


def test_a_ping_pong_whose_rounding_would_add_up_on_its_way_back_is_written_out() -> None:
    steps = (Step(0, 1), Step(1, 1), Step(2, 1), Step(3, 1))
    clip = Clip("a", Fraction(12), steps, direction="alternate", events=(Event(1, "chirp"),))
    result = converted(clip, Fraction(10))
    assert result.written_out == len(result.clip.steps)
    assert result.clip.direction == "normal"
    assert [result.clip.steps[event.step].frame for event in result.clip.events] == [1, 1]


def test_events_and_phase_follow_what_still_shows() -> None:
    clip = Clip("a", Fraction(60), (Step(0, 6), Step(1, 1), Step(2, 6)), events=(Event(1, "chirp"), Event(2, "end")))
    result = converted(replace(clip, phase=Fraction(2)), Fraction(10)).clip
    assert [(event.step, event.name) for event in result.events] == [(1, "chirp"), (1, "end")]
    assert result.phase == 1
