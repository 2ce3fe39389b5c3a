"""Playback on a coarser clock: whole target ticks whose error never accumulates.

The ends of steps are rounded, not their lengths, so that each lies within half a tick of its exact time. A step whose
both ends fall on one tick cannot be shown; it is merged into its neighbours.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import accumulate, pairwise

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.player import Player

__all__ = ["ClockedHolds", "Conversion", "converted", "on_clock"]


class ClockedHolds(NamedTuple):
    """Holds in target ticks, 0 for what cannot be shown, and the largest distance of a step's end from its time (s)."""

    ticks: tuple[int, ...]
    largest_error: Fraction

    @property
    def merged(self) -> tuple[int, ...]:
        """The numbers of what cannot be shown."""
        return tuple(index for index, ticks in enumerate(self.ticks) if not ticks)


def on_clock(holds: Sequence[Fraction], tick: Fraction) -> ClockedHolds:
    """Holds in whole ticks of another clock.

    Parameters
    ----------
    holds : sequence of Fraction
        Seconds, each above 0.
    tick : Fraction
        Length of a target tick in seconds.

    Notes
    -----
    If all together are shorter than half a tick, the longest shows for one.

    >>> on_clock([Fraction(1, 12)] * 3, Fraction(1, 100)).ticks
    (8, 9, 8)
    >>> on_clock([Fraction(1, 12), Fraction(1, 500), Fraction(1, 12)], Fraction(1, 100)).ticks
    (8, 1, 8)
    >>> on_clock([Fraction(1, 10), Fraction(1, 500), Fraction(1, 10)], Fraction(1, 100)).ticks
    (10, 0, 10)
    """
    exact = list(accumulate(holds))
    ends = [0, *(_nearest(end / tick) for end in exact)]
    ticks = [after - before for before, after in pairwise(ends)]
    if not ends[-1]:
        ticks[holds.index(max(holds))] = 1
    reached = accumulate(ticks)
    largest = max(abs(ticks * tick - end) for ticks, end in zip(reached, exact, strict=True))
    return ClockedHolds(tuple(ticks), largest)


class Conversion(NamedTuple):
    """A clip on another clock.

    `merged` are the numbers of the steps that it cannot show; `written_out` is how many steps a clip became whose
    direction could not be kept. Errors are in seconds: of a step's end in a cycle, and by how much a cycle is longer.
    """

    clip: Clip
    merged: tuple[int, ...]
    written_out: int | None
    largest_error: Fraction
    longer: Fraction


def converted(clip: Clip, timebase: Fraction) -> Conversion:
    """The same playback in whole ticks of another timebase, no step's end off by more than half a tick.

    Direction and steps are kept if that holds for the whole cycle; else the cycle is written out, and plays as listed.
    An event of a step that cannot be shown goes to the next that is; so does the phase.

    Notes
    -----
    The one exception: a cycle shorter than half a tick becomes one tick.
    """
    tick = 1 / timebase
    kept = _kept_direction(clip, timebase)
    whole = on_clock([clip.seconds(step.hold) for step in clip.cycle()], tick)
    # keeping the direction is worth it only where its way back stays as near as its way there
    if _direction_stays(clip, kept) and _cycle_error(clip, kept, tick) <= max(tick / 2, whole.largest_error):
        return _conversion(clip, kept, timebase)
    order = clip.order()
    events = tuple(
        replace(event, step=place) for place, step in enumerate(order) for event in clip.events if event.step == step
    )
    flat = replace(clip, steps=clip.cycle(), direction="normal", hold_ends=None, events=events)
    result = _conversion(flat, whole.ticks, timebase)
    merged = tuple(dict.fromkeys(order[place] for place in result.merged))
    return result._replace(merged=merged, written_out=len(result.clip.steps))


def _direction_stays(clip: Clip, ticks: Sequence[int]) -> bool:
    """Whether the same direction shows the same without the steps of no ticks; back and forth may turn elsewhere."""
    turns = clip.alternates and not clip.hold_ends
    return not turns or (ticks[0] > 0 and ticks[-1] > 0)


def _kept_direction(clip: Clip, timebase: Fraction) -> tuple[int, ...]:
    """Ticks for the steps as they are listed, in the order in which they first show."""
    holds = [clip.seconds(step.hold) for step in clip.steps]
    if clip.begins_at_end:
        return on_clock(holds[::-1], 1 / timebase).ticks[::-1]
    return on_clock(holds, 1 / timebase).ticks


def _cycle_error(clip: Clip, ticks: Sequence[int], tick: Fraction) -> Fraction:
    order = clip.order()
    exact = accumulate(clip.seconds(clip.steps[step].hold) for step in order)
    reached = accumulate(ticks[step] for step in order)
    return max(abs(ticks * tick - end) for ticks, end in zip(reached, exact, strict=True))


def _conversion(clip: Clip, ticks: Sequence[int], timebase: Fraction) -> Conversion:
    """The clip with these holds, and without the steps that have none."""
    shown = [step for step, hold in enumerate(ticks) if hold]
    new_number = {step: number for number, step in enumerate(shown)}
    steps = tuple(Step(clip.steps[step].frame, ticks[step]) for step in shown)
    events = [replace(event, step=new_number[_shown_from(event, shown)]) for event in clip.events]
    result = replace(clip, timebase=timebase, steps=steps, events=tuple(events), phase=_phase(clip, ticks))
    error = _cycle_error(clip, ticks, 1 / timebase)
    merged = tuple(step for step, hold in enumerate(ticks) if not hold)
    return Conversion(result, merged, None, error, Player(result).cycle_length - Player(clip).cycle_length)


def _shown_from(event: Event, shown: Sequence[int]) -> int:
    """The step that begins when this event's would; the last if none does."""
    return next((step for step in shown if step >= event.step), shown[-1])


def _phase(clip: Clip, ticks: Sequence[int]) -> Fraction:
    """Where the same step is as far as before; the beginning of the next where it does not show."""
    place = math.floor(clip.phase)
    shown = [ticks[step] > 0 for step in clip.order()]
    phase = sum(shown[:place]) + (clip.phase - place if shown[place] else 0)
    return Fraction(phase) % sum(shown)


def _nearest(value: Fraction) -> int:
    """Halves upwards, the same way every time."""
    return (2 * value.numerator + value.denominator) // (2 * value.denominator)
