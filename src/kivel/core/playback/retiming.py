"""Changing how a clip plays: every change takes a clip and gives a new one."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import accumulate, pairwise
from math import lcm

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.chance import drawn
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.easing import Easing, PiecewiseLinear
from kivel.core.playback.notation import Ordered, format_seconds
from kivel.core.playback.player import Player, phase_at_share

__all__ = [
    "Paced",
    "at_share",
    "at_speed",
    "fitted",
    "keeps_share",
    "on_timebase",
    "paced",
    "reordered",
    "scattered",
    "staggered",
    "usual_hold",
    "with_events",
    "with_holds",
]

_FINEST_PACE = 1000
"""Ticks a second that a pace has at least, unless a timebase is asked for."""
_PLACES, _OF_A_TICK = 256, 1 / 64


def with_holds(clip: Clip, holds: Sequence[int | Fraction]) -> Clip:
    """A hold for each step: ticks as int, seconds as Fraction. The timebase becomes finer where it has to.

    Raises
    ------
    UsageError
        If there are more or fewer than the steps.
    """
    count = len(clip.steps)
    if len(holds) != count:
        raise UsageError(
            f'clip "{clip.name}": {_counted(len(holds), "hold")} for {_counted(count, "step")}; '
            f"give one for each step, 0-{count - 1}"
        )
    return _of_seconds(clip, [clip.seconds(hold) if isinstance(hold, int) else hold for hold in holds])


def usual_hold(clip: Clip) -> int:
    """The hold that most steps have, in ticks; the shorter one if two are as common."""
    holds = [step.hold for step in clip.steps]
    return min(set(holds), key=lambda hold: (-holds.count(hold), hold))


def reordered(clip: Clip, order: Sequence[Ordered]) -> Clip:
    """Other steps: frames in this order, each held that many times the usual hold. It starts again, without events."""
    hold = usual_hold(clip)
    steps = tuple(Step(entry.frame, entry.times * hold) for entry in order)
    return replace(clip, steps=steps, events=(), phase=Fraction(0))


def fitted(clip: Clip, length: Fraction) -> Clip:
    """One cycle as long as `length` seconds, every hold in proportion."""
    return at_speed(clip, clip.length / length)


def at_speed(clip: Clip, speed: Fraction) -> Clip:
    """This many times as fast."""
    return _of_seconds(clip, [clip.seconds(step.hold) / speed for step in clip.steps])


def on_timebase(clip: Clip, timebase: Fraction) -> Clip:
    """The same playback counted in other ticks.

    Raises
    ------
    UsageError
        If a hold is no whole number of them.
    """
    ticks = [clip.seconds(step.hold) * timebase for step in clip.steps]
    parts = lcm(*(each.denominator for each in ticks))
    if parts != 1:
        number = next(index for index, each in enumerate(ticks) if each.denominator != 1)
        raise UsageError(
            f'clip "{clip.name}", step {number}: {_counted(clip.steps[number].hold, "tick")} at {clip.timebase} a '
            f"second are {ticks[number]} at {timebase}; pass {option('convert', True)} to round them, or "
            f"choose {timebase * parts}"
        )
    return replace(clip, timebase=timebase, steps=_held(clip, [int(each) for each in ticks]))


class Paced(NamedTuple):
    """A clip whose frames go by unevenly, and the numbers of the steps that the pace jumps over."""

    clip: Clip
    skipped: tuple[int, ...]


def paced(clip: Clip, pace: Easing, *, timebase: Fraction | None = None) -> Paced:
    """The same frames in the same time, gone through as `pace` says; where it overshoots, it waits.

    A step begins when the pace first reaches what has passed of the clip by then. Events of steps that are jumped over
    go to the next one.

    Parameters
    ----------
    timebase : Fraction or None
        Ticks that holds are rounded to. By default the clip's own, or as many times finer as gives 1,000 a second.
    """
    # a whole multiple, so that the total keeps its length exactly
    finer = -(-_FINEST_PACE // clip.timebase) if clip.timebase < _FINEST_PACE else 1
    base = timebase or clip.timebase * finer
    total = sum(step.hold for step in clip.steps)
    ticks = clip.seconds(total) * base
    if ticks.denominator != 1:
        raise UsageError(
            f'clip "{clip.name}" lasts {format_seconds(clip.seconds(total))}, {ticks} ticks at {base} a second; '
            f"choose a timebase of {base * ticks.denominator}"
        )
    passed = [0, *accumulate(step.hold for step in clip.steps)][:-1]
    times = _times(pace, [Fraction(each, total) for each in passed], finest=_OF_A_TICK / float(ticks))
    begins = [_nearest_tick(time, int(ticks)) for time in times]
    holds = [after - before for before, after in pairwise([*begins, int(ticks)])]
    kept = [number for number, hold in enumerate(holds) if hold]
    events = tuple(
        replace(event, step=next((i for i, number in enumerate(kept) if number >= event.step), len(kept) - 1))
        for event in clip.events
    )
    steps = tuple(Step(clip.steps[number].frame, holds[number]) for number in kept)
    skipped = tuple(number for number, hold in enumerate(holds) if not hold)
    phase = clip.phase if not skipped else Fraction(0)
    return Paced(replace(clip, timebase=base, steps=steps, events=events, phase=phase), skipped)


def _times(pace: Easing, progresses: Sequence[Fraction], *, finest: float) -> Iterator[float | Fraction]:
    """The first times, 0 to 1, at which the pace has come so far, to `finest`; `progresses` rise from 0.

    Exactly where it goes straight from point to point. Any other may rise and fall: it is looked at in this many places
    first, then by halving between two of them.
    """
    if isinstance(pace, PiecewiseLinear):
        yield from (pace.first_time(progress) if progress > 0 else Fraction(0) for progress in progresses)
        return
    reached = [pace(place / _PLACES) for place in range(_PLACES + 1)]
    after = 1
    for progress in map(float, progresses):
        while after < _PLACES and reached[after] < progress:
            after += 1
        low, high = (after - 1) / _PLACES, after / _PLACES
        while high - low > finest and progress > 0:
            middle = (low + high) / 2
            if not low < middle < high:
                break  # floats get no finer: a tick of a clip of ages is shorter
            low, high = (low, middle) if pace(middle) >= progress else (middle, high)
        yield high if progress > 0 else 0.0


def _nearest_tick(time: float | Fraction, ticks: int) -> int:
    return round(Fraction(time) * ticks)


def with_events(clip: Clip, events: Sequence[tuple[int, str]]) -> Clip:
    """These events too, in the order of their steps.

    Raises
    ------
    UsageError
        If a step is past the end.
    """
    count = len(clip.steps)
    for step, name in events:
        if step >= count:
            raise UsageError(
                f'event "{name}" at step {step}: clip "{clip.name}" has {_counted(count, "step")}, 0-{count - 1}'
            )
    new = {(event.step, event.name): event for event in clip.events}
    new |= {(step, name): Event(step, name) for step, name in events if (step, name) not in new}
    return replace(clip, events=tuple(sorted(new.values(), key=lambda event: event.step)))


def at_share(clip: Clip, share: Fraction) -> Clip:
    """The clip, starting at a share of its cycle's time, which it keeps whatever becomes of its holds."""
    return replace(clip, phase=phase_at_share(clip, share), phase_share=share or None)


def keeps_share(clip: Clip) -> bool:
    """Whether its phase was given as a share, and is still that."""
    return clip.phase_share is not None and clip.phase == phase_at_share(clip, clip.phase_share)


def staggered(clip: Clip, count: int) -> list[Clip]:
    """This many clips at as many phases, evenly round the cycle from the clip's own on, named `lamp-1`, `lamp-2`, …"""
    own = Player(clip).phase_share
    return [_copied_at(clip, number, own + Fraction(number, count)) for number in range(count)]


def scattered(clip: Clip, count: int, *, seed: int) -> list[Clip]:
    """This many clips at phases picked from all ticks of a cycle."""
    ticks = sum(step.hold for step in clip.cycle())
    draws = [drawn(ticks, seed=seed, instance=number, purpose=f"phase of {clip.name}") for number in range(count)]
    return [_copied_at(clip, number, Fraction(draw, ticks)) for number, draw in enumerate(draws)]


def _copied_at(clip: Clip, number: int, share: Fraction) -> Clip:
    copy = replace(clip, name=f"{clip.name}-{number + 1}", staggered=clip.name, was=None, set=None)
    return at_share(copy, share % 1)


def _of_seconds(clip: Clip, seconds: Sequence[Fraction]) -> Clip:
    """With these holds, in the clip's own ticks or the fewest times finer ones in which all are whole."""
    finer = lcm(*((hold * clip.timebase).denominator for hold in seconds))
    timebase = clip.timebase * finer
    return replace(clip, timebase=timebase, steps=_held(clip, [int(hold * timebase) for hold in seconds]))


def _held(clip: Clip, holds: Sequence[int]) -> tuple[Step, ...]:
    return tuple(Step(step.frame, hold) for step, hold in zip(clip.steps, holds, strict=True))


def _counted(count: int, what: str) -> str:
    return f"{count} {what}" if count == 1 else f"{count} {what}s"
