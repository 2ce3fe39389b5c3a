"""From the time stamps that a video states to the exact holds of its frames."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

from kivel.core.named_tuples import NamedTuple

__all__ = ["StampedHolds", "holds_of_stamps"]

_LARGEST_DENOMINATOR = 1001
"""That of the rates of television; a rate with a larger one is an average of other rates."""
_LEAST_TICKS = 8
"""Holds of fewer ticks say little: on a clock of 30 ticks a second 0, 1, 3 may be a third more than what it seems."""


class StampedHolds(NamedTuple):
    """How long each frame shows, in seconds, and the frame rate whose rounded times the stamps are, if there is one."""

    holds: tuple[Fraction, ...]
    rate: Fraction | None = None


def holds_of_stamps(
    stamps: Sequence[int], tick: Fraction, *, last: int = 0, rates: Sequence[Fraction] = ()
) -> StampedHolds:
    """Holds from the times at which frames begin to show.

    Files count time in ticks that are often too coarse for their own frame rate: at 24000/1001 frames a second a clock
    of milliseconds says 0, 42, 83, 125. Where all stamps are those of a stated rate, rounded to ticks, that rate holds.

    Parameters
    ----------
    stamps : sequence of int
        Ticks, rising.
    tick : Fraction
        Seconds.
    last : int
        Ticks that the last frame shows, as the file states it; 0 if it does not. The frame is held as long as the one
        before then.
    rates : sequence of Fraction
        Frames a second that the file states, the likeliest first.

    >>> holds_of_stamps([0, 40, 120], Fraction(1, 1000), last=40).holds
    (Fraction(1, 25), Fraction(2, 25), Fraction(1, 25))
    >>> str(holds_of_stamps([0, 42, 83, 125], Fraction(1, 1000), rates=[Fraction(24000, 1001)]).rate)
    '24000/1001'
    """
    ticks = [after - before for before, after in pairwise(stamps)]
    if not ticks:
        return StampedHolds((last * tick if last > 0 else 1 / rates[0] if rates else Fraction(0),))
    ticks.append(last if last > 0 else ticks[-1])
    if len(set(ticks[:-1])) == 1:
        usual = ticks[0]
        ticks[-1] = usual if abs(ticks[-1] - usual) <= 1 else ticks[-1]  # its end is rounded, too
        return StampedHolds(tuple(each * tick for each in ticks))
    for rate in rates:
        if _is_at(rate, stamps, tick):
            end = ticks[-1] * tick
            return StampedHolds(
                (*[1 / rate] * (len(stamps) - 1), 1 / rate if abs(end - 1 / rate) <= tick else end), rate
            )
    return StampedHolds(tuple(each * tick for each in ticks))


def _is_at(rate: Fraction, stamps: Sequence[int], tick: Fraction) -> bool:
    """Whether each frame begins within half a tick of its time at this rate, wherever the first one does."""
    if rate.denominator > _LARGEST_DENOMINATOR or _LEAST_TICKS * tick * rate > 1:
        return False
    off = [(stamp - stamps[0]) * tick - index / rate for index, stamp in enumerate(stamps)]
    return max(off) - min(off) <= tick
