"""Describes what a clip shows at a moment, and what happens when: exact, and the same for everything that Kivel writes.

Times are seconds from when the clip begins to play, as fractions; the state has no floats. `docs/playback.md` is the
description in words, with the cases that the tests read.
"""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterator
from fractions import Fraction
from itertools import accumulate, count, takewhile
from typing import Literal

from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip

__all__ = ["Happening", "HappeningKind", "Moment", "Player", "phase_at_share"]

HappeningKind = Literal["show", "event", "cycle", "end"]


class Moment(NamedTuple):
    """Holds what shows at one time.

    `step` and `frame` are None where nothing shows. `fraction` is how much of the step's hold has passed. Under linear
    interpolation `weight` is the share of the frame `following`; it is 0 under `step`.
    """

    step: int | None
    frame: int | None
    fraction: Fraction
    cycle: int
    ended: bool
    following: int | None
    weight: Fraction


class Happening(NamedTuple):
    """A step begins to show ("show"; None for nothing), an event, the end of a cycle or of the whole clip."""

    time: Fraction
    kind: HappeningKind
    cycle: int
    step: int | None = None
    frame: int | None = None
    name: str | None = None


class Player:
    """A clip that plays, at a given speed.

    Parameters
    ----------
    speed : Fraction
        Above 0; 2 is twice as fast.

    Raises
    ------
    UsageError
        If the speed is not above 0, or the clip's phase lies outside its cycle.
    """

    def __init__(self, clip: Clip, *, speed: Fraction = Fraction(1)) -> None:
        if speed <= 0:
            raise UsageError(f"expected a speed above 0, found {speed}")
        self.clip = clip
        self.speed = speed
        self.order = clip.order()
        self._starts = [0, *accumulate(clip.steps[step].hold for step in self.order)]
        # the end of the last step is the length of the cycle
        self._ticks = self._starts.pop()
        self._per_second = clip.timebase * speed
        self._first = self._phase_ticks()
        self._events: dict[int, list[str]] = defaultdict(list)
        for event in clip.events:
            self._events[event.step].append(event.name)

    @property
    def cycle_length(self) -> Fraction:
        """In seconds."""
        return self._ticks / self._per_second

    @property
    def phase_share(self) -> Fraction:
        """How much of a cycle's time has passed at its phase."""
        return self._first / self._ticks

    @property
    def length(self) -> Fraction | None:
        """How long it plays, in seconds: 0 if it shows its first step only, None if forever.

        A phase is skipped, not made up for at the end.
        """
        if self.clip.repeat == "forever":
            return None
        return max(Fraction(0), self.clip.repeat * self._ticks - self._first) / self._per_second

    def at(self, time: Fraction) -> Moment:
        """Return what shows at a time from 0, in as many comparisons as the logarithm of the steps.

        Raises
        ------
        UsageError
            If the time is below 0.
        """
        if time < 0:
            raise UsageError(f"{time} s: a clip starts at 0 s")
        repeat = self.clip.repeat
        position = self._first + (0 if repeat == 0 else time * self._per_second)
        cycle, ticks = divmod(position, self._ticks)
        if repeat != "forever" and cycle >= repeat > 0:
            return self._ended(repeat)
        place = bisect_right(self._starts, ticks) - 1
        step, frame = self._shown(place)
        hold = self.clip.steps[step].hold
        fraction = Fraction(ticks - self._starts[place]) / hold
        following = self._following(place, cycle)
        weight = fraction if self.clip.blends and following != frame else Fraction(0)
        return Moment(step, frame, fraction, cycle, ended=False, following=following, weight=weight)

    def begun(self, time: Fraction) -> Fraction:
        """When the step began that shows at a time, at 0 s at the earliest; of an ended clip, the last that played."""
        if self.length is not None and time >= self.length:
            time = max(Fraction(0), self.length - 1 / (2 * self._per_second))
        moment = self.at(time)
        hold = self.clip.steps[self.order[0] if moment.step is None else moment.step].hold
        return max(Fraction(0), time - moment.fraction * hold / self._per_second)

    def happenings(self, start: Fraction = Fraction(0), end: Fraction | None = None) -> Iterator[Happening]:
        """All that happens from `start` on and before `end`, in order; without an end for as long as it plays.

        At one time a cycle ends first, then the clip, then a step begins to show, then its events follow. What shows
        at 0 is reported also if the phase lies within its hold; its events belong to the moment before, then.
        """
        if end is None:
            return self._from(start)
        return takewhile(lambda happening: happening.time < end, self._from(start))

    def _from(self, start: Fraction) -> Iterator[Happening]:
        repeat = self.clip.repeat
        position = self._first + max(start, Fraction(0)) * self._per_second
        if start <= 0:
            place = bisect_right(self._starts, self._first) - 1
            if repeat == 0 or self._first > self._starts[place]:
                yield Happening(Fraction(0), "show", 0, *self._shown(place))
        if repeat == 0:
            return
        for cycle in count(math.floor(position / self._ticks)):
            begins = cycle * self._ticks
            # what lies before the phase has passed before the clip began to play
            if begins >= position and begins > self._first:
                yield Happening(self._time(begins), "cycle", cycle - 1)
            if repeat != "forever" and cycle >= repeat:
                if cycle == repeat and begins >= position:
                    yield from self._ending(self._time(begins), cycle - 1)
                return
            for place in range(bisect_left(self._starts, position - begins), len(self.order)):
                step, frame = self._shown(place)
                time = self._time(begins + self._starts[place])
                yield Happening(time, "show", cycle, step, frame)
                for name in self._events.get(step, ()):
                    yield Happening(time, "event", cycle, step, frame, name)

    def _ending(self, time: Fraction, cycle: int) -> Iterator[Happening]:
        yield Happening(time, "end", cycle)
        if self.clip.end == "first":
            yield Happening(time, "show", cycle, *self._shown(0))
        if self.clip.end == "none":
            yield Happening(time, "show", cycle)

    def _ended(self, repeat: int) -> Moment:
        place, fraction = {"last": (-1, Fraction(1)), "first": (0, Fraction(0))}.get(self.clip.end, (None, Fraction(0)))
        step, frame = (None, None) if place is None else self._shown(place)
        return Moment(step, frame, fraction, repeat - 1, ended=True, following=frame, weight=Fraction(0))

    def _shown(self, place: int) -> tuple[int, int]:
        """Step and frame at one place of a cycle."""
        step = self.order[place]
        return step, self.clip.steps[step].frame

    def _following(self, place: int, cycle: int) -> int:
        """The frame that shows next; the same once nothing follows."""
        repeat = self.clip.repeat
        # the last step of the last cycle blends towards nothing, unless the first shows behind it
        is_last = repeat != "forever" and cycle + 1 >= repeat and place + 1 == len(self.order)
        if repeat == 0 or (is_last and self.clip.end != "first"):
            return self._shown(place)[1]
        return self._shown((place + 1) % len(self.order))[1]

    def _time(self, ticks: int) -> Fraction:
        return (ticks - self._first) / self._per_second

    def _phase_ticks(self) -> Fraction:
        phase = self.clip.phase
        if not 0 <= phase < len(self.order):
            raise UsageError(
                f"a phase of {phase} steps, expected from 0 up to below {len(self.order)}, the steps of a cycle"
            )
        place = math.floor(phase)
        return self._starts[place] + (phase - place) * self.clip.steps[self.order[place]].hold


def phase_at_share(clip: Clip, share: Fraction) -> Fraction:
    """Where in a cycle a share of its time has passed, in steps.

    >>> from kivel.core.playback.clip import Step
    >>> phase_at_share(Clip("moth", Fraction(12), (Step(0, 1), Step(1, 3))), Fraction(1, 2))
    Fraction(4, 3)

    Raises
    ------
    UsageError
        If the share is not from 0 up to below 1.
    """
    if not 0 <= share < 1:
        raise UsageError(f"a phase of {float(100 * share):g} % of a cycle, expected from 0 up to below 100 %")
    starts = [0, *accumulate(step.hold for step in clip.cycle())]
    ticks = share * starts[-1]
    place = bisect_right(starts, ticks) - 1
    return place + (ticks - starts[place]) / (starts[place + 1] - starts[place])
