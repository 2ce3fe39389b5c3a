"""Clips over the frames that are there now: nothing is lost but what was removed."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.playback.clip import Clip, Event, Repeat, Step
from kivel.core.playback.groups import Group
from kivel.core.playback.reconciling import FramesNow, reconciled
from strategies import clips

RIGHT = Clip("right", Fraction(10), (Step(0, 1), Step(1, 2), Step(2, 3)), events=(Event(1, "step"),))
LEFT = Clip("left", Fraction(10), (Step(3, 4), Step(4, 5)))
NAMES = ("m0", "m1", "m2", "m3", "m4")


def now(text: str) -> FramesNow:
    """`0 1 +m1b 2`: the frames of before by their numbers, and new ones by their names."""
    words = text.split()
    was = tuple(None if word.startswith("+") else int(word) for word in words)
    names = tuple(word[1:] if word.startswith("+") else NAMES[int(word)] for word in words)
    return FramesNow(NAMES, names, was)


STEPS: dict[str, tuple[str, list[tuple[int, int]], list[tuple[int, int]]]] = {
    "between two of a clip": ("0 1 +m1b 2 3 4", [(0, 1), (1, 2), (2, 2), (3, 3)], [(4, 4), (5, 5)]),
    "behind the last of a clip": ("0 1 2 +m2b 3 4", [(0, 1), (1, 2), (2, 3), (3, 3)], [(4, 4), (5, 5)]),
    "before the first": ("+m 0 1 2 3 4", [(0, 1), (1, 1), (2, 2), (3, 3)], [(4, 4), (5, 5)]),
    "two in a row": ("0 1 2 3 4 +m5 +m6", [(0, 1), (1, 2), (2, 3)], [(3, 4), (4, 5), (5, 5), (6, 5)]),
    "of no clip": ("+blink 0 1 2 3 4", [(1, 1), (2, 2), (3, 3)], [(4, 4), (5, 5)]),
    "removed": ("0 2 4", [(0, 1), (1, 3)], [(2, 5)]),
    "in another order": ("1 0 2 3 4", [(0, 2), (1, 1), (2, 3)], [(3, 4), (4, 5)]),
}


@pytest.mark.parametrize(("frames", "right", "left"), STEPS.values(), ids=STEPS)
def test_steps_follow_their_frames(frames: str, right: list[tuple[int, int]], left: list[tuple[int, int]]) -> None:
    found = reconciled([RIGHT, LEFT], [], now(frames)).clips
    assert [[tuple(step) for step in clip.steps] for clip in found] == [right, left]


def test_an_event_of_a_removed_frame_moves_to_what_shows_at_its_time() -> None:
    cases: list[tuple[str, Repeat, int]] = [("0 2", "forever", 1), ("0", "forever", 0), ("0", 1, 0), ("2", 2, 0)]
    for steps, repeat, at in cases:
        found = reconciled([replace(RIGHT, repeat=repeat)], [], now(steps))
        assert found.clips[0].events == (Event(at, "step"),)
        assert "moved to the step that shows at its time" in found.warnings[0][1]
    backwards = replace(RIGHT, direction="reverse", events=(Event(1, "step"),))
    assert reconciled([backwards], [], now("0 2")).clips[0].events == (Event(0, "step"),)


def test_an_order_that_was_set_keeps_its_turn_and_takes_what_was_put_in_both_ways() -> None:
    there_and_back = replace(RIGHT, steps=tuple(Step(frame, 1) for frame in (0, 1, 2, 1)))
    found = reconciled([there_and_back], [], now("0 1 +m1b 2")).clips[0]
    assert [step.frame for step in found.steps] == [0, 1, 2, 3, 2, 1]
    only = replace(RIGHT, steps=(Step(0, 1), Step(2, 1)), frames=(0, 1, 2), events=())
    found = reconciled([only], [], now("0 +m0b 1 2")).clips[0]
    assert ([step.frame for step in found.steps], found.frames) == ([0, 3], (0, 1, 2, 3))


def test_a_clip_without_frames_goes_and_takes_its_names_with_it() -> None:
    then = replace(RIGHT, then="left")
    group, pair = Group("both", ("right", "left"), weights=(1, 2)), Group("one", ("left",))
    found = reconciled([then, LEFT], [group, pair], now("0 1 2"))
    assert [(clip.name, clip.then) for clip in found.clips] == [("right", None)]
    assert found.groups == (Group("both", ("right",), weights=(1,)),)
    assert found.gone == ("left",)
    assert len(found.warnings) == 4


def test_a_clip_is_called_after_its_frames_when_all_of_these_are_called_otherwise() -> None:
    walk = replace(RIGHT, name="walk_right")
    follows = replace(LEFT, then="walk_right")
    before = ("walk_right_0", "walk_right_1", "walk_right_2", "s_0", "s_1")
    frames = FramesNow(before, ("walk_east_0", "walk_east_1", "walk_east_2", "s_0", "s_1"), (0, 1, 2, 3, 4))
    found = reconciled([walk, follows], [Group("all", ("walk_right", "left"))], frames)
    assert [(clip.name, clip.then) for clip in found.clips] == [("walk_east", None), ("left", "walk_east")]
    assert found.groups[0].members == ("walk_east", "left")
    half = FramesNow(before, ("walk_east_0", *before[1:]), (0, 1, 2, 3, 4))
    assert reconciled([walk], [], half).clips[0].name == "walk_right"


@given(clips(), st.permutations(list(range(8))), st.integers(0, 8))
def test_a_clip_loses_the_time_of_what_was_removed_and_nothing_else(clip: Clip, order: list[int], left: int) -> None:
    """Whatever it plays, each step that is left shows the same frame for as long."""
    names = tuple(f"m{number}" for number in range(8))
    kept = order[:left]
    frames = FramesNow(names, tuple(names[number] for number in kept), tuple(kept))
    found = reconciled([clip], [], frames)
    expected = [(names[step.frame], step.hold) for step in clip.steps if step.frame in kept]
    steps = [(frames.now[step.frame], step.hold) for new in found.clips for step in new.steps]
    assert sorted(steps) == sorted(expected)
    assert bool(found.clips) == bool(expected)
    for new in found.clips:
        assert {event.name for event in new.events} == {event.name for event in clip.events}
        assert all(0 <= event.step < len(new.steps) for event in new.events)
        assert 0 <= new.phase < len(new.order())
