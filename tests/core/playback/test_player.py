"""What shows when: the written cases, and properties over clips of every kind."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any, SupportsIndex

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kivel.core.errors import UsageError
from kivel.core.motion.motion_codes import MotionReach
from kivel.core.motion.pairs import MotionPairs, why_not_warped
from kivel.core.playback.chance import drawn
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.player import Happening, Moment, Player, phase_at_share
from kivel.core.playback.rendered import rendered_steps
from kivel.core.playback.schedule import schedule
from strategies import clips

WRITTEN = (Path(__file__).parents[3] / "docs" / "playback.md").read_text()
times = st.fractions(0, 2000, max_denominator=5000)


def rows(table: str) -> list[list[str]]:
    """The rows of one table of the document, cells without their backquotes."""
    lines = WRITTEN.split(f"<!-- {table} -->\n")[1].split("\n\n")[0].splitlines()[2:]
    cells = [re.split(r"(?<!\\)\|", line.strip("|")) for line in lines]
    return [[cell.strip().replace("`", "").replace("\\|", "|") for cell in row] for row in cells]


def clip_of(text: str, timebase: str) -> tuple[Clip, Fraction]:
    """`0*1,1*2 alternate repeat=1 events=1:chirp` as a clip, and its speed."""
    steps, *words = text.split()
    settings = dict(word.split("=") for word in words if "=" in word)
    events = [each.split(":") for each in settings.get("events", "").split(",") if each]
    repeat = settings.get("repeat", "forever")
    direction: Any = next((word for word in words if word in ("reverse", "alternate", "alternate-reverse")), "normal")
    end: Any = settings.get("end", "last")
    interpolation: Any = next((word for word in words if word in ("linear", "motion")), "step")
    clip = Clip(
        "moth",
        Fraction(timebase),
        tuple(Step(int(frame), int(hold)) for frame, hold in (step.split("*") for step in steps.split(","))),
        direction=direction,
        repeat="forever" if repeat == "forever" else int(repeat),
        end=end,
        interpolation=interpolation,
        phase=Fraction(settings.get("phase", 0)),
        events=tuple(Event(int(step), name) for step, name in events),
        hold_ends="hold-ends" in words or None,
    )
    return clip, Fraction(settings.get("speed", 1))


def written(happening: Happening) -> str:
    return {"cycle": "|", "end": ".", "event": f"+{happening.name}"}.get(
        happening.kind, "-" if happening.frame is None else str(happening.frame)
    )


CASES = rows("cases")


@pytest.mark.parametrize(("text", "timebase", "expected", "until"), CASES, ids=[row[0] for row in CASES])
def test_clips_play_as_the_document_says(text: str, timebase: str, expected: str, until: str) -> None:
    clip, speed = clip_of(text, timebase)
    player = Player(clip, speed=speed)
    found: dict[Fraction, list[str]] = {}
    for happening in player.happenings(Fraction(0), Fraction(until)):
        found.setdefault(happening.time, []).append(written(happening))
    assert "; ".join(f"{time}: {' '.join(signs)}" for time, signs in found.items()) == expected


BLENDS = rows("blends")


@pytest.mark.parametrize(("text", "timebase", "expected"), BLENDS, ids=[row[0] for row in BLENDS])
def test_frames_blend_as_the_document_says(text: str, timebase: str, expected: str) -> None:
    player = Player(clip_of(text, timebase)[0])
    for case in expected.split("; "):
        time, look = case.split(": ")
        moment = player.at(Fraction(time))
        mixed = f"{moment.frame}+{moment.following}*{moment.weight}" if moment.weight else str(moment.frame)
        assert mixed.replace("None", "-") == look


MOTION = rows("motion")


@pytest.mark.parametrize(("text", "pairs", "expected"), MOTION, ids=[row[0] for row in MOTION])
def test_frames_are_warped_as_the_document_says(text: str, pairs: str, expected: str) -> None:
    clip, _ = clip_of(text, "1")
    later: list[int | None] = [None] * 3
    for pair in pairs.split(", "):
        first, second = pair.split("-")
        later[int(first)] = int(second)
    motion = MotionPairs(MotionReach(1, 1), tuple(later))
    assert (clip.interpolation == "motion") == (why_not_warped(clip, motion) is None and "linear" not in text)
    for case in expected.split("; "):
        time, look = case.split(": ")
        moment = Player(clip).at(Fraction(time))
        assert warped_look(moment, motion if clip.interpolation == "motion" else None) == look


def warped_look(moment: Moment, motion: MotionPairs | None) -> str:
    if not moment.weight:
        return str(moment.frame)
    assert moment.frame is not None
    assert moment.following is not None
    way = motion.way(moment.frame, moment.following) if motion else None
    if way == "forward":
        return f"({moment.frame}-{moment.following})*{moment.weight}"
    if way == "backward":
        return f"({moment.following}-{moment.frame})*{1 - moment.weight}"
    return f"{moment.frame}+{moment.following}*{moment.weight}"


def plainly(clip: Clip, time: Fraction) -> tuple[int | None, int | None, bool]:
    """Step, cycle and whether it has ended, by walking through the steps as they play."""
    order = clip.order()
    holds = [clip.steps[step].hold / clip.timebase for step in order]
    whole = int(clip.phase)
    time += sum(holds[:whole]) + (clip.phase - whole) * holds[whole] if clip.repeat else 0
    if clip.repeat == 0:
        return order[whole], 0, False
    cycle, rest = divmod(time, sum(holds))
    if clip.repeat != "forever" and cycle >= clip.repeat:
        return {"last": order[-1], "first": order[0], "none": None}[clip.end], clip.repeat - 1, True
    for step, hold in zip(order, holds, strict=True):
        if rest < hold:
            return step, int(cycle), False
        rest -= hold
    raise AssertionError("a cycle is longer than its steps")


@given(clips(), times)
def test_a_moment_is_what_walking_through_the_steps_finds(clip: Clip, time: Fraction) -> None:
    moment = Player(clip).at(time)
    assert (moment.step, moment.cycle, moment.ended) == plainly(clip, time)
    assert moment.frame == (None if moment.step is None else clip.steps[moment.step].frame)
    assert 0 <= moment.weight < 1
    assert 0 <= moment.fraction <= 1


@given(clips(), times, times)
def test_between_two_happenings_nothing_changes(clip: Clip, start: Fraction, length: Fraction) -> None:
    player = Player(clip)
    end = start + min(length, 3 * player.cycle_length)
    showing: int | None = player.at(start).step
    before = start
    for happening in [*player.happenings(start, end), None]:
        time = happening.time if happening else end
        assert start <= before <= time <= end
        if before < time:
            assert player.at((before + time) / 2).step == showing
        before = time
        if happening and happening.kind == "show":
            showing = happening.step
            assert player.at(time).step == showing


@given(clips(), times)
def test_a_step_began_when_it_was_shown(clip: Clip, time: Fraction) -> None:
    clip = replace(clip, repeat=clip.repeat or 1)
    player = Player(clip)
    time %= 3 * player.cycle_length
    if player.length is not None:
        time = min(time, player.length)
    shown = [each for each in player.happenings(Fraction(0), time + 1) if each.kind == "show" and each.time <= time]
    played = [each for each in shown if player.length is None or each.time < player.length]
    assert player.begun(time) == (played[-1].time if played else 0)


@given(clips(), times, times, times)
def test_spans_put_together_are_the_whole_span(clip: Clip, a: Fraction, b: Fraction, c: Fraction) -> None:
    cycle = Player(clip).cycle_length
    a, b, c = sorted(time % (3 * cycle) for time in (a, b, c))
    player = Player(clip)
    assert [*player.happenings(a, b), *player.happenings(b, c)] == list(player.happenings(a, c))


@given(clips(), times, st.fractions(Fraction(1, 9), 9))
def test_speed_only_divides_times(clip: Clip, time: Fraction, speed: Fraction) -> None:
    assert Player(clip, speed=speed).at(time) == Player(clip).at(time * speed)


@given(clips(), times)
def test_a_billion_cycles_later_it_is_still_exact(clip: Clip, time: Fraction) -> None:
    player = Player(replace(clip, repeat="forever"))
    late = player.at(time + 10**9 * player.cycle_length)
    assert late == player.at(time)._replace(cycle=late.cycle)
    assert late.cycle == player.at(time).cycle + 10**9


@given(clips(), times)
def test_direction_and_phase_compose(clip: Clip, time: Fraction) -> None:
    """Ping-pong is its written order forward; a phase is a later time of the same clip without one."""
    clip = replace(clip, repeat="forever", events=())
    flat = replace(clip, steps=clip.cycle(), direction="normal")
    skipped = Player(replace(clip, phase=Fraction(0)))
    passed = skipped.cycle_length - (Player(replace(clip, repeat=1)).length or 0)
    for other in (Player(flat).at(time), skipped.at(time + passed)):
        assert Player(clip).at(time)[1:3] == other[1:3]
    assert phase_at_share(clip, passed / skipped.cycle_length) == clip.phase


def test_looking_up_a_moment_compares_few_steps() -> None:
    class Counted(list[int]):
        asked = 0

        def __getitem__(self, index: SupportsIndex) -> int:  # type: ignore[override]
            Counted.asked += 1
            return super().__getitem__(index)

    clip = Clip("moth", Fraction(60), tuple(Step(frame, 2) for frame in range(10_000)))
    player = Player(clip)
    player._starts = Counted(player._starts)
    assert player.at(Fraction(7777, 30)).step == 7777
    assert 5 < Counted.asked <= 20


@pytest.mark.parametrize(
    ("clip", "act", "message"),
    [
        (Clip("a", Fraction(1), (Step(0, 1),)), lambda c: Player(c).at(Fraction(-1)), "a clip starts at 0 s"),
        (Clip("a", Fraction(1), (Step(0, 1),)), lambda c: Player(c, speed=Fraction(0)), "speed above 0, found 0"),
        (Clip("a", Fraction(1), (Step(0, 1),), phase=Fraction(1)), Player, "phase of 1 steps, expected from 0 up to"),
        (Clip("a", Fraction(1), (Step(0, 1),)), lambda c: phase_at_share(c, Fraction(3, 2)), "150 % of a cycle"),
    ],
    ids=["before it begins", "no speed", "phase off the end", "share off the end"],
)
def test_what_cannot_play_is_refused(clip: Clip, act: object, message: str) -> None:
    with pytest.raises(UsageError, match=re.escape(message)):
        act(clip)  # type: ignore[operator]


def test_draws_are_fair_repeatable_and_never_off_the_end() -> None:
    draws = [drawn(3, seed=7, instance=number, purpose="lamps") for number in range(3000)]
    assert draws == [drawn(3, seed=7, instance=number, purpose="lamps") for number in range(3000)]
    assert draws[:8] == [1, 0, 2, 0, 0, 2, 2, 1]
    assert all(900 < count < 1100 for count in Counter(draws).values())
    assert set(draws) == {0, 1, 2}


@settings(max_examples=30)
@given(clips(), st.fractions(1, 144, max_denominator=1001))
def test_rendered_frames_are_counted_as_they_fall(clip: Clip, clock: Fraction) -> None:
    """Against really looking at every rendered frame of many cycles."""
    clip = replace(clip, repeat="forever", timebase=Fraction(round(clip.timebase) or 1))
    clock = Fraction(round(clock))
    player = Player(clip)
    cycles = (player.cycle_length * clock).denominator
    shows = [h for h in player.happenings(player.cycle_length, (cycles + 2) * player.cycle_length) if h.kind == "show"]
    seen: dict[int, list[int]] = {}
    for before, after in pairwise(shows):
        frames = [k for k in range(int(before.time * clock), int(after.time * clock) + 1) if k / clock >= before.time]
        seen.setdefault(before.step or 0, []).append(sum(k / clock < after.time for k in frames))
    found = rendered_steps(player, clock)
    assert [(each.step, each.least, each.most) for each in found] == [
        (step, min(counts), max(counts)) for step, counts in sorted(seen.items())
    ]


@pytest.mark.slow
def test_what_plays_once_or_never_is_counted_too() -> None:
    """However many steps it has."""
    clip = Clip("moth", Fraction(60), tuple(Step(frame % 2, 1 + frame % 2) for frame in range(201_000)), repeat=1)
    found = rendered_steps(Player(clip), Fraction(30))
    assert len(found) == 201_000
    assert {(each.step % 2, each.most) for each in found} == {(0, 0), (0, 1), (1, 1)}
    many = replace(clip, steps=clip.steps[:1000], repeat=201)
    assert len(rendered_steps(Player(many), Fraction(30))) == 1000
    assert rendered_steps(Player(replace(many, repeat=0)), Fraction(30)) == []


@settings(max_examples=30)
@given(clips(), times)
def test_a_schedule_shows_what_the_clip_does(clip: Clip, time: Fraction) -> None:
    player = Player(clip)
    plan = schedule(clip, blends=Fraction(100))
    once = sum((shot.seconds for shot in plan.shots), Fraction(0))
    passed = time % once if plan.repeat == "forever" else min(time, plan.repeat * once)
    shown, into = plan.shots[-1], Fraction(0)
    is_over = plan.repeat != "forever" and passed == plan.repeat * once
    rest = passed % once
    for shot in () if is_over else plan.shots:
        if rest < shot.seconds:
            shown, into = shot, rest
            break
        rest -= shot.seconds
    moment = player.at(time)
    assert shown.frame == moment.frame
    if not moment.ended:
        begun = player.at(time - into)
        assert (shown.frame, shown.weight) == (begun.frame, begun.weight)
        assert shown.following in (None, begun.following)
        assert begun.step == moment.step
