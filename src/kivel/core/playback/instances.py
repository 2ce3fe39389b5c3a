"""Several instances that play at once: each draws its clip and its phase; what happens is told in one order."""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import NamedTuple

from kivel.core.playback.chance import drawn
from kivel.core.playback.clip import Clip
from kivel.core.playback.player import Happening, Player, phase_at_share

__all__ = ["Instance", "happenings_of", "instances_of"]


class Instance(NamedTuple):
    """One thing that plays a clip."""

    number: int
    player: Player


def instances_of(
    clips: Sequence[Clip],
    *,
    count: int = 1,
    seed: int = 0,
    pick: str | None = None,
    random_phase: bool = False,
    speed: Fraction = Fraction(1),
) -> list[Instance]:
    """Instances 0 to `count` - 1, each with all the clips or one that it draws.

    Parameters
    ----------
    pick : str or None
        The name of the group of which one clip is drawn; None for all clips.
    random_phase : bool
        Each instance starts at a tick of the cycle that it draws.

    Raises
    ------
    UsageError
        If the speed is not above 0.
    """
    result = []
    for number in range(count):
        chosen = clips
        if pick is not None:
            chosen = [clips[drawn(len(clips), seed=seed, instance=number, purpose=f"clip of {pick}")]]
        for clip in chosen:
            own = _at_random_phase(clip, seed, number) if random_phase else clip
            result.append(Instance(number, Player(own, speed=speed)))
    return result


def happenings_of(
    instances: Sequence[Instance], start: Fraction, end: Fraction | None
) -> Iterator[tuple[Instance, Happening]]:
    """All that happens to all of them, by time; at one time in the order of the instances."""

    def told(place: int) -> Iterator[tuple[Fraction, int, Happening]]:
        for happening in instances[place].player.happenings(start, end):
            yield happening.time, place, happening

    streams = [told(place) for place in range(len(instances))]
    for _, place, happening in heapq.merge(*streams, key=lambda each: each[:2]):
        yield instances[place], happening


def _at_random_phase(clip: Clip, seed: int, number: int) -> Clip:
    ticks = sum(step.hold for step in clip.cycle())
    draw = drawn(ticks, seed=seed, instance=number, purpose=f"phase of {clip.name}")
    return replace(clip, phase=phase_at_share(clip, Fraction(draw, ticks)))
