"""Clips that follow each other: each plays as it does by itself, from the very time at which the one before ends."""

from __future__ import annotations

from fractions import Fraction
from itertools import islice

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.following import Chain
from kivel.core.playback.player import Player
from kivel.core.playback.schedule import schedule


def clip(name: str, frames: str, *, repeat: int | None = 1, then: str | None = None, phase: int = 0) -> Clip:
    steps = tuple(Step(int(frame), 1) for frame in frames)
    events = (Event(0, f"{name}!"),)
    kind = "forever" if repeat is None else repeat
    return Clip(name, Fraction(1), steps, repeat=kind, then=then, phase=Fraction(phase), events=events)  # type: ignore[arg-type]


def told(chain: Chain, until: Fraction | int) -> str:
    """`2:6` frame 6 shows from 2 s, `|` a cycle, `.` a clip ends, `+` an event."""
    words = {"show": "", "cycle": "|", "end": ".", "event": "+"}
    return " ".join(
        f"{h.time}:{words[h.kind]}{h.frame if h.kind == 'show' else h.name or ''}"
        for _, h in chain.happenings(Fraction(0), Fraction(until))
    )


INTRO = clip("intro", "01", then="loop")
LOOP = clip("loop", "567", repeat=None, phase=1, then="out")
OUT = clip("out", "9", repeat=2)
HALF = Fraction(1, 2)

CHAINS: dict[str, tuple[Chain, Fraction | int, str]] = {
    "a start, then a loop": (
        Chain(INTRO, [INTRO, LOOP]), 6, "0:0 0:+intro! 1:1 2:| 2:. 2:6 3:7 4:| 4:5 4:+loop! 5:6",
    ),
    "the loop is left within a step": (
        Chain(INTRO, [LOOP, OUT], leave_at=3 + HALF), 9,
        "0:0 0:+intro! 1:1 2:| 2:. 2:6 3:7 7/2:. 7/2:9 7/2:+out! 9/2:| 9/2:9 9/2:+out! 11/2:| 11/2:.",
    ),
    "left before it begins": (
        Chain(INTRO, [LOOP, OUT], leave_at=Fraction(1)), 4, "0:0 0:+intro! 1:1 2:| 2:. 2:. 2:9 2:+out! 3:| 3:9 3:+out!",
    ),
    "in a circle": (
        Chain(clip("a", "01", then="b"), [clip("b", "2", then="a")]), 5,
        "0:0 0:+a! 1:1 2:| 2:. 2:2 2:+b! 3:| 3:. 3:0 3:+a! 4:1",
    ),
    "itself": (Chain(clip("a", "01", then="a")), 3, "0:0 0:+a! 1:1 2:| 2:. 2:0 2:+a!"),
    "a still is never over": (Chain(clip("a", "01", repeat=0, then="b"), [OUT]), 9, "0:0"),
    "nobody of that name": (Chain(clip("a", "0", then="x")), 9, "0:0 0:+a! 1:| 1:."),
    "twice as fast": (
        Chain(INTRO, [LOOP, OUT], speed=Fraction(2)), 2, "0:0 0:+intro! 1/2:1 1:| 1:. 1:6 3/2:7",
    ),
}  # fmt: skip


@pytest.mark.parametrize(("chain", "until", "expected"), CHAINS.values(), ids=CHAINS)
def test_one_goes_over_into_the_next(chain: Chain, until: Fraction | int, expected: str) -> None:
    assert told(chain, until) == expected


@pytest.mark.parametrize(("chain", "until", "_"), CHAINS.values(), ids=CHAINS)
def test_what_shows_at_a_time_is_what_was_told_last(chain: Chain, until: Fraction | int, _: str) -> None:
    for quarter in range(int(until * 4)):
        time = Fraction(quarter, 4)
        shows = [h.frame for _, h in chain.happenings(Fraction(0), time + Fraction(1, 8)) if h.kind == "show"]
        assert chain.at(time).moment.frame == shows[-1]


@given(st.integers(0, 10**9), st.integers(0, 7))
def test_a_circle_is_the_same_in_every_round(rounds: int, eighths: int) -> None:
    chain = Chain(clip("start", "8", then="a"), [clip("a", "01", then="b"), clip("b", "2", then="a")])
    time = 1 + Fraction(eighths, 8) * 3 / 8
    later = chain.at(time + 3 * rounds)
    assert (later.moment, later.player.clip) == (chain.at(time).moment, chain.at(time).player.clip)
    assert [h.frame for _, h in islice(chain.happenings(Fraction(1 + 3 * rounds)), 6) if h.kind == "show"][:1] == [0]


def test_a_chain_of_one_is_the_clip() -> None:
    alone, player = Chain(LOOP), Player(LOOP)
    assert [h for _, h in alone.happenings(Fraction(0), Fraction(9))] == list(
        player.happenings(Fraction(0), Fraction(9))
    )
    assert alone.length is None
    assert (alone.settled, Chain(OUT).length) == (Fraction(3), Fraction(2))


def test_an_animated_image_shows_the_start_and_a_cycle_of_the_loop() -> None:
    plan = schedule(INTRO, blends=Fraction(1), others=[LOOP])
    assert ([shot.frame for shot in plan.shots], plan.repeat) == ([0, 1, 6, 7, 5], "forever")
    plan = schedule(INTRO, blends=Fraction(1), others=[clip("loop", "34", then="last"), clip("last", "5")])
    assert ([shot.frame for shot in plan.shots], plan.repeat) == ([0, 1, 3, 4, 5], 1)
