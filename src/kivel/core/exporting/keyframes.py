"""One play of a clip as keyframes in percent of an animation, for what holds each value until the next."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import accumulate
from math import floor

from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Repeat
from kivel.core.playback.schedule import schedule

__all__ = ["Keyframe", "Keyframes", "keyframes_of"]

_MOST_KEYFRAMES = 4000
_DIGITS = 10**6


class Keyframe(NamedTuple):
    """A frame from a share of the animation on, in millionths of a percent; None for nothing."""

    at: int
    frame: int | None

    @property
    def percent(self) -> str:
        """
        >>> Keyframe(33_333_332, 1).percent, Keyframe(0, 0).percent
        ('33.333332%', '0%')
        """
        whole, rest = divmod(self.at, _DIGITS)
        return f"{whole}{f'.{rest:06}'.rstrip('0') if rest else ''}%"


class Keyframes(NamedTuple):
    """Keyframes of an animation of `milliseconds`, which is played `repeat` times; the last frame stays at the end.

    `milliseconds` is whole where this many cycles can be put into one animation; else `error` is by how much of a
    millisecond a cycle is off once it is printed with six digits.
    """

    keyframes: tuple[Keyframe, ...]
    milliseconds: Fraction
    repeat: Repeat
    error: Fraction

    @property
    def last(self) -> int | None:
        return self.keyframes[-1].frame


def keyframes_of(clip: Clip, others: Sequence[Clip] = ()) -> Keyframes:
    """The keyframes of a clip from its start on; its phase and what follows it are written out.

    Each begins a hair before its time, by a millionth of a percent or two: at the very boundary the new frame shows.

    Raises
    ------
    UsageError
        If it blends frames: places that change smoothly would slide over the page.
    """
    if clip.interpolation != "step":
        raise UsageError(f'clip "{clip.name}" blends its frames, and these would slide; set its interpolation to step')
    plan = schedule(clip, blends=Fraction(1), others=others)
    length = sum((shot.seconds for shot in plan.shots), Fraction(0)) * 1000
    cycles = _whole_cycles(length, len(plan.shots), plan.repeat)
    repeat: Repeat = "forever" if plan.repeat == "forever" else plan.repeat // cycles
    shots = plan.shots * cycles
    total = length * cycles
    starts = [Fraction(0), *accumulate(shot.seconds * 1000 for shot in shots)][:-1]
    keyframes = [Keyframe(_millionths(start, total), shot.frame) for start, shot in zip(starts, shots, strict=True)]
    # rounded down: the next cycle begins a hair before its time, as every frame does
    shown = Fraction(floor(total * _DIGITS), _DIGITS)
    return Keyframes(tuple(keyframes), shown, repeat, (total - shown) / cycles)


def _whole_cycles(length: Fraction, shots: int, repeat: Repeat) -> int:
    """How many cycles make whole milliseconds, or all that there are; one where that would be too many keyframes."""
    cycles = length.denominator if repeat == "forever" else repeat if length.denominator > 1 else 1
    return cycles if cycles * shots <= _MOST_KEYFRAMES else 1


def _millionths(start: Fraction, total: Fraction) -> int:
    return max(0, floor(start / total * 100 * _DIGITS) - 1) if start else 0
