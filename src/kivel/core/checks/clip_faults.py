"""Clips that do not play as intended: steps and events that never show, ends that show twice."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise
from math import ceil, floor

from kivel.core.playback.clip import Clip

__all__ = ["doubled_turns", "phases_repeated", "seen_on_clock", "unseen_events"]

_MOST_FRAMES = 100_000


def seen_on_clock(clip: Clip, rate: int) -> tuple[list[int], list[int]]:
    """Steps of a cycle that a game of `rate` frames a second may never show, and those that show unevenly.

    A step that begins at t and lasts h is on the screen for floor(h * rate) rendered frames or one more, as the cycle
    happens to begin; unseen where that may be none. Uneven are steps that last alike and are shown differently long in
    one cycle that begins on a rendered frame. Both as numbers of steps, in order.
    """
    starts = [0]
    for step in clip.cycle():
        starts.append(starts[-1] + step.hold)
    ticks = [Fraction(start * rate) / clip.timebase for start in starts]
    holds = [clip.steps[number].hold for number in clip.order()]
    counts = [ceil(end) - ceil(start) for start, end in pairwise(ticks)]
    by_hold: dict[int, set[int]] = {}
    for hold, count in zip(holds, counts, strict=True):
        by_hold.setdefault(hold, set()).add(count)
    order = clip.order()
    unseen = {number for number, hold in zip(order, holds, strict=True) if floor(hold * rate / clip.timebase) == 0}
    uneven = {number for number, hold in zip(order, holds, strict=True) if len(by_hold[hold]) > 1}
    return sorted(unseen), sorted(uneven - unseen)


def doubled_turns(clip: Clip) -> list[int]:
    """Steps at which a clip that goes back and forth shows one frame twice in a row, its ends not held on purpose."""
    if not clip.alternates or clip.hold_ends:
        return []
    order = clip.order()
    turns = []
    for here, following in zip(order, order[1:] + order[:1], strict=True):
        at_turn = {here, following} & {0, len(clip.steps) - 1}
        if len(order) > 1 and at_turn and here != following and clip.steps[here].frame == clip.steps[following].frame:
            turns.append(following)
    return turns


def unseen_events(clip: Clip) -> list[str]:
    """The names of events on steps that do not show: those of a finite clip before the phase that it starts at."""
    if clip.repeat == "forever":
        return []
    order = clip.order()
    begins = ceil(clip.phase) if clip.phase else 0
    played = order[begins:] if clip.repeat == 1 else order
    shown = set(played if clip.repeat else ())
    return [event.name for event in clip.events if event.step not in shown]


def phases_repeated(clips: Sequence[Clip]) -> list[tuple[str, str]]:
    """Pairs of clips of which the second plays exactly as the first does."""
    first: dict[tuple[object, ...], str] = {}
    pairs = []
    for clip in clips:
        plays = (clip.timebase, clip.steps, clip.direction, clip.phase, clip.hold_ends)
        if plays in first:
            pairs.append((first[plays], clip.name))
        first.setdefault(plays, clip.name)
    return pairs
