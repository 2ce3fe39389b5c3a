"""Clips: what plays, for how long, in which direction."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from fractions import Fraction
from math import gcd, lcm
from typing import Annotated, Any, Literal

from kivel.core.errors import UsageError
from kivel.core.fields import MOST, Count, From1, Holds, described
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Direction, End, Interpolation
from kivel.core.records import record

__all__ = [
    "DEFAULT_HOLD",
    "DEFAULT_TIMEBASE",
    "ZERO_HOLD",
    "Clip",
    "Event",
    "Repeat",
    "Step",
    "Timing",
    "clip_of_frames",
]

DEFAULT_HOLD = Fraction(1, 12)
"""Seconds, for frames whose files state nothing: twelve a second, animation on twos."""
DEFAULT_TIMEBASE = Fraction(60)
"""Ticks a second, for holds given in ticks: the usual game clock."""
ZERO_HOLD = Fraction(1, 10)
"""Seconds, for frames whose files state 0: what most players make of it."""

Repeat = int | Literal["forever"]

_Positive = Annotated[
    Fraction,
    Holds(
        "A fraction as numerator and denominator, such as [24000, 1001].", name="positive", items=(From1, From1),
        like="a fraction as two whole numbers, like [24000, 1001]",
    ),
]  # fmt: skip
_From0 = Annotated[
    Fraction,
    Holds(
        "A fraction as numerator and denominator, 0 or more.", name="from0", items=(Count, From1),
        like="a fraction as two whole numbers, like [1, 3]",
    ),
]  # fmt: skip


class Step(NamedTuple):
    """One entry of a clip: which frame, held for how many ticks."""

    frame: Count
    hold: From1


@record
class Event:
    """Something that happens when a step begins to show."""

    step: Count
    name: str
    extra: dict[str, Any] = field(default_factory=dict)


@record
class Clip:
    """A named thing that plays. `docs/playback.md` says what each part means."""

    name: str
    timebase: _Positive = described("Ticks a second, above 0.")
    steps: tuple[Step, ...] = described(
        "Frame number, counted from 0, and how many ticks it is held.", fewest=1
    )  # fmt: skip
    direction: Direction = "normal"
    repeat: Repeat = described("Number of cycles; null for ever.", least=0, most=MOST, default="forever")
    end: End = "last"
    then: str | None = described(
        "The clip that follows at the end, or when an endless clip is left; absent: none.", default=None
    )
    interpolation: Interpolation = described(
        "With motion, every change from frame to frame is a pair of a motion map, in either direction.",
        default="step",
    )
    phase: _From0 = described(
        "Where it starts, in steps of a cycle, from 0 up to below their number.", default=Fraction(0)
    )
    phase_share: _From0 | None = described(
        "The share of a cycle's time that the phase was given as, and is kept at; absent: given in steps.",
        default=None,
    )
    events: tuple[Event, ...] = ()
    hold_ends: bool | None = described("Ping-pong shows each end twice; absent: false.", default=None)
    frames: tuple[Count, ...] | None = described(
        "The frames that the clip was made of; absent: those that its steps show.", default=None
    )
    staggered: str | None = described("The clip that it is a copy of, at another phase; absent: none.", default=None)
    set: tuple[str, ...] | None = described(
        "The options that were set since the clip was made; absent: none.", default=None
    )
    was: str | None = described("Its name when it was made; absent: unchanged.", default=None)
    extra: dict[str, Any] = field(default_factory=dict)

    def seconds(self, ticks: int) -> Fraction:
        return ticks / self.timebase

    @property
    def own_frames(self) -> tuple[int, ...]:
        """The frames that it was made of, in rising order: what an order counts."""
        return self.frames or self.shown_frames

    @property
    def shown_frames(self) -> tuple[int, ...]:
        """Those that its steps show, in rising order."""
        return tuple(sorted({step.frame for step in self.steps}))

    def renumbered(self, number: Mapping[int, int]) -> Clip:
        """The same clip where each frame has the number given; of `frames`, those that have none are left out."""
        steps = tuple(Step(number[step.frame], step.hold) for step in self.steps)
        own = self.frames and tuple(sorted({number[frame] for frame in self.frames if frame in number}))
        return replace(self, steps=steps, frames=own)

    @property
    def blends(self) -> bool:
        """Whether what shows changes within a step: frames are faded, or warped and faded."""
        return self.interpolation != "step"

    def changes(self) -> list[tuple[int, int]]:
        """Which frame changes into which other, each once, in playing order; from the last to the first if it loops."""
        shown = [step.frame for step in self.cycle()]
        comes_again = self.end == "first" or self.repeat not in (0, 1)
        following = shown[1:] + (shown[:1] if comes_again else [])
        pairs = zip(shown, following, strict=False)
        return list(dict.fromkeys(pair for pair in pairs if pair[0] != pair[1]))

    @property
    def alternates(self) -> bool:
        """Whether a cycle goes back and forth."""
        return self.direction.startswith("alternate")

    @property
    def begins_at_end(self) -> bool:
        """Whether a cycle begins with the last step."""
        return self.direction.endswith("reverse")

    def order(self) -> tuple[int, ...]:
        """The steps of one cycle, by number, as they show. To and fro shows each end once, also where cycles meet.

        >>> steps = (Step(5, 1), Step(6, 1), Step(7, 1))
        >>> Clip("moth", Fraction(12), steps, direction="alternate").order()
        (0, 1, 2, 1)
        >>> Clip("moth", Fraction(12), steps, direction="alternate", hold_ends=True).order()
        (0, 1, 2, 2, 1, 0)
        >>> Clip("moth", Fraction(12), steps, direction="alternate-reverse").order()
        (2, 1, 0, 1)
        """
        to = tuple(range(len(self.steps)))[:: -1 if self.begins_at_end else 1]
        if not self.alternates:
            return to
        fro = to[::-1]
        return to + (fro if self.hold_ends else fro[1:-1])

    def cycle(self) -> tuple[Step, ...]:
        """The steps of one cycle as they show."""
        return tuple(self.steps[step] for step in self.order())

    @property
    def length(self) -> Fraction:
        """One cycle, in seconds."""
        return self.seconds(sum(step.hold for step in self.cycle()))


class Timing(NamedTuple):
    """How long frames show, as asked for; None is for the frames' own durations, or the default, to say.

    `hold` is in ticks of the timebase as an int, or in seconds as a Fraction. Rates are per second.
    """

    fps: Fraction | None = None
    hold: int | Fraction | None = None
    timebase: Fraction | None = None
    repeat: Repeat | None = None

    @property
    def says_nothing(self) -> bool:
        return self.fps is None and self.hold is None


_MOST_WHOLE_TICKS = 1000
"""Ticks a second that people count in; for more of them, larger ticks are looked for that are no part of a second."""


def clip_of_frames(name: str, durations: Sequence[Fraction | None], timing: Timing) -> Clip:
    """One clip over all frames in order.

    Parameters
    ----------
    durations : sequence of Fraction or None
        What each frame's file states, in seconds; it counts only when `timing` names neither rate nor hold. A frame
        that states none, or 0, is held for `DEFAULT_HOLD` or `ZERO_HOLD`.

    Raises
    ------
    UsageError
        If a hold is no whole number of ticks of the timebase asked for.
    """
    seconds = [_held(duration, timing) for duration in durations]
    if timing.says_nothing and timing.timebase and None in durations:  # nobody gave a hold: the nearest that there is
        usual = max(1, round(DEFAULT_HOLD * timing.timebase)) / timing.timebase
        seconds = [usual if given is None else hold for given, hold in zip(durations, seconds, strict=True)]
    timebase = timing.timebase or _coarsest_timebase(seconds, timing)
    steps = tuple(Step(frame, _ticks(hold, timebase)) for frame, hold in enumerate(seconds))
    return Clip(name, timebase, steps, repeat="forever" if timing.repeat is None else timing.repeat)


def _held(stated: Fraction | None, timing: Timing) -> Fraction:
    if timing.fps is not None:
        return 1 / timing.fps
    if isinstance(timing.hold, int):
        return timing.hold / (timing.timebase or DEFAULT_TIMEBASE)
    if timing.hold is not None:
        return timing.hold
    return DEFAULT_HOLD if stated is None else stated or ZERO_HOLD


def _coarsest_timebase(seconds: Sequence[Fraction], timing: Timing) -> Fraction:
    """The rate itself, the default for whole ticks, else the fewest whole ticks a second in which all are whole."""
    if timing.fps is not None:
        return timing.fps
    if isinstance(timing.hold, int):
        return DEFAULT_TIMEBASE
    whole = lcm(*(hold.denominator for hold in seconds))
    if whole <= _MOST_WHOLE_TICKS:
        return Fraction(whole)
    # 24000/1001 rather than 24000 ticks a second, in which each frame has 1001
    return Fraction(whole, gcd(*(int(hold * whole) for hold in seconds)))


def _ticks(seconds: Fraction, timebase: Fraction) -> int:
    ticks = seconds * timebase
    if ticks.denominator != 1:
        raise UsageError(
            f"a hold of {seconds} s is {ticks} ticks at {timebase} a second, not a whole number; "
            f"choose a timebase of {seconds.denominator}, or another hold"
        )
    return int(ticks)
