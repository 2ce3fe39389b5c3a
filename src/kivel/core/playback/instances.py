"""Several instances that play at once: each picks its clip and its phase; events are listed in one order."""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import accumulate

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.chance import drawn
from kivel.core.playback.clip import Clip
from kivel.core.playback.following import Chain
from kivel.core.playback.player import Happening, phase_at_share

__all__ = ["Instance", "happenings_of", "instances_of"]


class Instance(NamedTuple):
    """One thing that plays a clip, and those that follow it."""

    number: int
    chain: Chain

    @property
    def clip(self) -> Clip:
        """The clip that it begins with."""
        return self.chain.clip


def instances_of(
    clips: Sequence[Clip],
    *,
    count: int = 1,
    seed: int = 0,
    pick: str | None = None,
    weights: Sequence[int] | None = None,
    others: Sequence[Clip] = (),
    leave_at: Fraction | None = None,
    random_phase: bool = False,
    speed: Fraction = Fraction(1),
) -> list[Instance]:
    """Instances 0 to `count` - 1, each with all the clips or one that it picks.

    Parameters
    ----------
    pick : str or None
        The name of the group of which one clip is picked, by `weights` where there are any; None for all clips.
    others : sequence of Clip
        Those that may follow.
    leave_at : Fraction or None
        When a clip that plays forever is left, in seconds; None for never.
    random_phase : bool
        Each instance starts at a tick of the cycle that it picks.

    Raises
    ------
    UsageError
        If the speed is not above 0.
    """
    result = []
    for number in range(count):
        chosen = clips
        if pick is not None:
            chosen = [clips[_drawn_place(weights or [1] * len(clips), seed, number, f"clip of {pick}")]]
        for clip in chosen:
            own = _at_random_phase(clip, seed, number) if random_phase else clip
            result.append(Instance(number, Chain(own, [*others, own], speed=speed, leave_at=leave_at)))
    return result


def _drawn_place(weights: Sequence[int], seed: int, instance: int, purpose: str) -> int:
    """A place, each as likely as its weight says."""
    draw = drawn(sum(weights), seed=seed, instance=instance, purpose=purpose)
    return next(place for place, until in enumerate(accumulate(weights)) if draw < until)


def happenings_of(
    instances: Sequence[Instance], start: Fraction, ends: Sequence[Fraction | None]
) -> Iterator[tuple[Instance, Clip, Happening]]:
    """All that happens to each of them before its end, by time; at one time in the order of the instances.

    With the clip to which it happens.
    """

    def told(place: int) -> Iterator[tuple[Fraction, int, Clip, Happening]]:
        for player, happening in instances[place].chain.happenings(start, ends[place]):
            yield happening.time, place, player.clip, happening

    streams = [told(place) for place in range(len(instances))]
    for _, place, clip, happening in heapq.merge(*streams, key=lambda each: each[:2]):
        yield instances[place], clip, happening


def _at_random_phase(clip: Clip, seed: int, number: int) -> Clip:
    ticks = sum(step.hold for step in clip.cycle())
    draw = drawn(ticks, seed=seed, instance=number, purpose=f"phase of {clip.name}")
    return replace(clip, phase=phase_at_share(clip, Fraction(draw, ticks)))
