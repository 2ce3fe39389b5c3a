"""The steps of one cycle of a clip as they show, with the ticks at which they begin."""

from __future__ import annotations

from fractions import Fraction

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip
from kivel.core.playback.clock import converted

__all__ = ["StepTable", "TimedStep", "step_table"]


class TimedStep(NamedTuple):
    """A frame that shows from tick `start` of a cycle on, for `hold` ticks; `step` is its number in the clip."""

    step: int
    frame: int
    start: int
    hold: int


class StepTable(NamedTuple):
    """One cycle of a clip, ping-pong written out, in ticks of `clip.timebase`.

    `error` is how far a step's end may be from its exact time, and `longer` by how much a cycle is longer, in seconds,
    where the clip was put on another clock; `merged` are the steps that this cannot show.
    """

    clip: Clip
    steps: tuple[TimedStep, ...]
    error: Fraction = Fraction(0)
    longer: Fraction = Fraction(0)
    merged: tuple[int, ...] = ()

    @property
    def cycle_ticks(self) -> int:
        return sum(step.hold for step in self.steps)

    @property
    def phase_ticks(self) -> Fraction:
        """Where in the cycle it starts."""
        place = self.clip.phase % len(self.steps)
        step = self.steps[int(place)]
        return step.start + (place - int(place)) * step.hold

    def events(self) -> list[tuple[int, str]]:
        """The tick of a cycle at which each happens, and what it is called."""
        return [
            (step.start, event.name) for step in self.steps for event in self.clip.events if event.step == step.step
        ]

    def at(self, seconds: Fraction) -> TimedStep:
        """Return what shows so long after the beginning of a cycle; wrapped to one cycle."""
        ticks = seconds * self.clip.timebase % self.cycle_ticks
        return next(step for step in reversed(self.steps) if step.start <= ticks)


def step_table(clip: Clip, clock: Fraction | None = None) -> StepTable:
    """The steps of a clip, on its own clock or in whole ticks of another, `clock` a second."""
    if clock is None:
        return StepTable(clip, _timed(clip))
    conversion = converted(clip, clock)
    return StepTable(
        conversion.clip, _timed(conversion.clip), conversion.largest_error, conversion.longer, conversion.merged
    )


def _timed(clip: Clip) -> tuple[TimedStep, ...]:
    steps = []
    start = 0
    for number in clip.order():
        frame, hold = clip.steps[number]
        steps.append(TimedStep(number, frame, start, hold))
        start += hold
    return tuple(steps)
