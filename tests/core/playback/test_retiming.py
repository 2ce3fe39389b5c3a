"""Changing how clips play, and folding them into fewer frames and steps."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from itertools import accumulate, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.errors import UsageError
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.easing import parse_easing
from kivel.core.playback.folding import folded, plays_the_same
from kivel.core.playback.inbetween import inbetweened
from kivel.core.playback.notation import parse_order
from kivel.core.playback.player import Player
from kivel.core.playback.retiming import (
    at_speed,
    fitted,
    on_timebase,
    paced,
    reordered,
    scattered,
    staggered,
    with_events,
    with_holds,
)
from strategies import clips

MOTH = Clip("moth", Fraction(12), tuple(Step(frame, hold) for frame, hold in enumerate((4, 2, 2, 8))))
positive = st.fractions(Fraction(1, 100), 20, max_denominator=500)


@given(clips(), positive, positive)
def test_lengths_and_speeds_are_exact(clip: Clip, length: Fraction, speed: Fraction) -> None:
    assert fitted(clip, length).length == length
    assert at_speed(clip, speed).length == clip.length / speed
    assert (fitted(clip, length).timebase / clip.timebase).denominator == 1
    shares = [[Fraction(s.hold, sum(t.hold for t in c.steps)) for s in c.steps] for c in (clip, fitted(clip, length))]
    assert shares[0] == shares[1]


def test_holds_one_by_one() -> None:
    assert [step.hold for step in with_holds(MOTH, [1, 2, 3, 4]).steps] == [1, 2, 3, 4]
    mixed = with_holds(MOTH, [1, Fraction(1, 8), 3, 4])
    assert [mixed.seconds(step.hold) for step in mixed.steps] == [
        Fraction(1, 12),
        Fraction(1, 8),
        Fraction(1, 4),
        Fraction(1, 3),
    ]
    assert mixed.timebase == 24


def test_an_order_counts_in_usual_holds() -> None:
    assert reordered(MOTH, parse_order("0-1*2,3,2-1")).steps == ((0, 4), (1, 4), (3, 2), (2, 2), (1, 2))


def test_of_two_usual_holds_the_shorter_counts() -> None:
    clip = replace(MOTH, steps=(Step(0, 6), Step(1, 4), Step(2, 6), Step(3, 4)))
    assert reordered(clip, parse_order("3*2,0")).steps == ((3, 8), (0, 4))


def test_another_timebase_keeps_every_time() -> None:
    assert on_timebase(MOTH, Fraction(30)).steps == ((0, 10), (1, 5), (2, 5), (3, 20))
    assert on_timebase(MOTH, Fraction(30)).length == MOTH.length


@pytest.mark.parametrize(
    ("change", "message"),
    [
        (lambda: with_holds(MOTH, [1, 2]), 'clip "moth": 2 holds for 4 steps; give one for each step, 0-3'),
        (lambda: on_timebase(MOTH, Fraction(25)), "step 0: 4 ticks at 12 a second are 25/3 at 25; pass --convert"),
        (lambda: with_events(MOTH, [(4, "chirp")]), 'event "chirp" at step 4: clip "moth" has 4 steps, 0-3'),
        (
            lambda: paced(MOTH, parse_easing("ease"), timebase=Fraction(20)),
            "80/3 ticks at 20 a second; choose a timebase of 60",
        ),
    ],
    ids=["holds", "timebase", "event", "pace"],
)
def test_what_does_not_fit_is_refused(change: object, message: str) -> None:
    with pytest.raises(UsageError, match=message):
        change()  # type: ignore[operator]


@pytest.mark.parametrize(
    "pace", ["linear", "ease", "ease-in", "cubic-bezier(0.5, -1, 0.5, 2)", "steps(3)", "linear(0, 0.8, 0.3, 1)"]
)
def test_a_pace_keeps_the_total_and_the_order(pace: str) -> None:
    clip = Clip("a", Fraction(24), tuple(Step(frame, 2) for frame in range(12)), events=(Event(5, "chirp"),))
    result = paced(clip, parse_easing(pace))
    assert result.clip.length == clip.length
    assert result.clip.timebase >= 1000
    frames = [step.frame for step in result.clip.steps]
    assert frames == [frame for frame in range(12) if frame not in result.skipped]
    assert result.clip.steps[result.clip.events[0].step].frame >= 5 or not frames[-1] >= 5
    assert (pace == "linear") == (len({step.hold for step in result.clip.steps}) == 1 and not result.skipped)


PEAKS = {
    # the middle of four steps is reached at the very peak, a third of the way, and not again before two thirds
    "linear(0, 0.5, 0.25, 1)": [0, Fraction(1, 6), Fraction(1, 3), Fraction(8, 9)],
    "linear(0, 0.75, 0.5, 1)": [0, Fraction(1, 9), Fraction(2, 9), Fraction(1, 3)],
    "linear(0, 0.5 20% 60%, 1)": [0, Fraction(1, 10), Fraction(1, 5), Fraction(4, 5)],
    "linear(0, 20% 60% 0.5, 1)": [0, Fraction(1, 10), Fraction(1, 5), Fraction(4, 5)],
    "linear(0.5, 0.5 50%, 1)": [0, 0, 0, Fraction(3, 4)],
    "linear(0, 0.1)": [0, 1, 1, 1],
}


@pytest.mark.parametrize(("pace", "begins"), PEAKS.items())
def test_what_a_straight_pace_reaches_at_a_peak_is_not_missed(pace: str, begins: list[Fraction]) -> None:
    clip = Clip("a", Fraction(90), tuple(Step(frame, 45) for frame in range(4)))
    found = paced(clip, parse_easing(pace), timebase=Fraction(90))
    ends = [0, *accumulate(step.hold for step in found.clip.steps)]
    shown = {step.frame: Fraction(begin, 180) for step, begin in zip(found.clip.steps, ends, strict=False)}
    kept = {number: begin for number, begin in enumerate(begins) if number not in found.skipped}
    assert shown == kept
    assert found.skipped == tuple(n for n in range(4) if begins[n] == [*begins, 1][n + 1])


def test_a_pace_goes_slowly_where_it_is_flat() -> None:
    clip = Clip("a", Fraction(10), tuple(Step(frame, 1) for frame in range(10)))
    holds = [step.hold for step in paced(clip, parse_easing("ease-in")).clip.steps]
    assert all(before > after for before, after in pairwise(holds))
    assert paced(clip, parse_easing("steps(5)")).skipped == (1, 3, 5, 7, 9)
    assert paced(clip, parse_easing("ease-in"), timebase=Fraction(60)).clip.timebase == 60


@given(clips(), st.integers(1, 12))
def test_staggered_clips_are_evenly_apart(clip: Clip, count: int) -> None:
    clip = replace(clip, repeat="forever", events=())
    spread = staggered(clip, count)
    length = Player(clip).cycle_length
    for number, each in enumerate(spread):
        assert each.name == f"moth-{number + 1}"
        later = Player(clip).at(number * length / count)
        assert Player(each).at(Fraction(0))[:3] == later[:3]


def test_scattered_clips_depend_on_the_seed_alone() -> None:
    first = [clip.phase for clip in scattered(MOTH, 5, seed=7)]
    assert first == [clip.phase for clip in scattered(MOTH, 9, seed=7)][:5]
    assert first != [clip.phase for clip in scattered(MOTH, 5, seed=8)]


@given(clips(), st.lists(st.integers(0, 7), min_size=8, max_size=8), st.booleans())
def test_folding_is_never_seen(clip: Clip, kinds: list[int], mirror: bool) -> None:
    same = [kinds.index(kind) for kind in kinds]
    fold = folded([clip], same, mirror=mirror)
    number = [fold.kept.index(first) for first in same]
    result = fold.clips[0]
    assert len(result.steps) <= len(clip.steps)
    before, after = Player(clip), Player(result)
    assert after.length == before.length
    for part in range(40):
        time = before.cycle_length * part / 13
        old, new = before.at(time), after.at(time)
        assert (None if old.frame is None else number[old.frame]) == new.frame
        assert old.weight == new.weight or number[old.frame or 0] == number[old.following or 0]


@pytest.mark.parametrize(
    ("frames", "steps", "direction"),
    [
        ("01234321", 5, "alternate"),
        ("0112", 3, "normal"),
        ("011232", 5, "normal"),
        ("0011223322", 5, "normal"),
        ("00112211", 3, "alternate"),
    ],
)
def test_what_folds(frames: str, steps: int, direction: str) -> None:
    clip = Clip("a", Fraction(12), tuple(Step(index, 1) for index in range(len(frames))))
    same = [frames.index(letter) for letter in frames]
    result = folded([clip], same).clips[0]
    assert (len(result.steps), result.direction) == (steps, direction)
    assert folded([clip], same, mirror=False).clips[0].direction == "normal"


def test_other_playback_is_told_apart() -> None:
    same = range(4)
    assert plays_the_same(MOTH, MOTH, same)
    for other in (
        replace(MOTH, timebase=Fraction(13)),
        replace(MOTH, repeat=2),
        replace(MOTH, direction="reverse"),
        replace(MOTH, phase=Fraction(1, 2)),
        replace(MOTH, events=(Event(1, "chirp"),)),
        replace(MOTH, interpolation="linear"),
        replace(MOTH, steps=(*MOTH.steps[:2], Step(2, 3), Step(3, 7))),
    ):
        assert not plays_the_same(MOTH, other, same)


@given(clips(), st.integers(1, 4))
def test_frames_in_between_stand_for_the_blends(clip: Clip, count: int) -> None:
    """At each of the new steps' beginnings the frame is the blend that linear interpolation shows then."""
    clip = replace(clip, interpolation="linear")
    result = inbetweened([clip], 8, count)
    stepped = result.clips[0]
    before, after = Player(clip), Player(stepped)
    assert after.length == before.length
    assert after.cycle_length == before.cycle_length
    assert [content for content in result.frames if isinstance(content, int)] == list(range(8))
    moving = clip.repeat == "forever"
    for happening in after.happenings(Fraction(0), after.cycle_length) if moving else ():
        old, new = before.at(happening.time), after.at(happening.time)
        content = result.frames[new.frame or 0]
        if new.fraction:
            continue
        mix = {old.frame: 1 - old.weight, old.following: old.weight} if old.weight else {old.frame: 1}
        shown = (
            {content: 1}
            if isinstance(content, int)
            else {content.frame: 1 - content.weight, content.following: content.weight}
        )
        assert shown == mix
