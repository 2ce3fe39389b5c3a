"""Holds on a coarser clock: whole target ticks whose error never accumulates."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import NamedTuple

__all__ = ["ClockedHolds", "on_clock"]


class ClockedHolds(NamedTuple):
    """Holds in target ticks, each at least 1, and the largest distance of a step's end from its exact time (s)."""

    ticks: tuple[int, ...]
    largest_error: Fraction


def on_clock(holds: Sequence[Fraction], tick: Fraction) -> ClockedHolds:
    """Round the ends of the steps, not their lengths, so that each stays within half a tick of the exact time.

    Parameters
    ----------
    holds : sequence of Fraction
        Seconds, each above 0.
    tick : Fraction
        Length of a target tick in seconds.

    Notes
    -----
    A hold shorter than a tick may push the later ends beyond the half tick, since nothing can show for less than one;
    the error says by how much.

    >>> on_clock([Fraction(1, 12)] * 3, Fraction(1, 100)).ticks
    (8, 9, 8)
    """
    ticks: list[int] = []
    exact = Fraction(0)
    reached = 0
    largest = Fraction(0)
    for hold in holds:
        exact += hold
        end = max(reached + 1, _nearest(exact / tick))
        ticks.append(end - reached)
        reached = end
        largest = max(largest, abs(reached * tick - exact))
    return ClockedHolds(tuple(ticks), largest)


def _nearest(value: Fraction) -> int:
    """Halves upwards, the same way every time."""
    return (2 * value.numerator + value.denominator) // (2 * value.denominator)
