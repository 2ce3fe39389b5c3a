"""Rates, holds and repeats as people write them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction
from typing import Literal

from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import NumberRange, parse_number_range
from kivel.core.numbers import rational, whole_number
from kivel.core.playback.clip import Repeat
from kivel.core.suggestions import did_you_mean
from kivel.core.wording import counted_from_0

__all__ = [
    "CycleShare",
    "CycleTime",
    "Ordered",
    "Phase",
    "TimeRange",
    "format_order",
    "format_repeat",
    "format_seconds",
    "parse_event",
    "parse_hold",
    "parse_holds",
    "parse_order",
    "parse_phase",
    "parse_range",
    "parse_rate",
    "parse_repeat",
    "parse_time",
    "within_count",
]

_HOLD = re.compile(r"(?P<amount>[0-9./]+)\s*(?P<unit>ms|s)")
_TIME = re.compile(r"(?P<amount>[0-9./]+)\s*(?P<unit>ms|s|m|h)")
_PHASE = re.compile(r"(?P<amount>[0-9./]+)\s*(?P<unit>%|t|ms|s)?")
_MOST_FRAMES = 1_000_000
_UNITS = {"ms": Fraction(1, 1000), "s": Fraction(1), "m": Fraction(60), "h": Fraction(3600)}


def parse_rate(text: str) -> Fraction:
    """`12`, `29.97` or `24000/1001`, in units a second, exactly.

    Raises
    ------
    UsageError
        If it is no number above 0.
    """
    rate = _positive(text)
    if rate is None:
        raise UsageError(f"expected a rate above 0, like 12 or 24000/1001, found {text!r}")
    return rate


def parse_hold(text: str) -> int | Fraction:
    """`2` or `2t`: ticks, an int. `80ms`, `0.5s` or `1/12s`: seconds, a Fraction.

    Raises
    ------
    UsageError
        If it is neither, or not above 0.
    """
    if ticks := whole_number(text.strip().removesuffix("t")):
        return ticks
    match = _HOLD.fullmatch(text.strip())
    amount = _positive(match["amount"]) if match else None
    if match is None or amount is None:
        raise UsageError(f"expected a hold above 0, in ticks, like 2, or as a time, like 80ms or 1/12s, found {text!r}")
    return amount * _UNITS[match["unit"]]


def parse_holds(text: str) -> list[int | Fraction]:
    """`4,2,2,8`, `80ms,2`, `4*3,8`: a hold for each step, `*3` for three in a row.

    Raises
    ------
    UsageError
        If a part is no hold.
    """
    holds: list[int | Fraction] = []
    for part in text.split(","):
        hold, _, times = part.strip().partition("*")
        count = whole_number(times) if "*" in part else 1
        if not count or len(holds) + count > _MOST_FRAMES:
            raise UsageError(
                f"expected holds like 4,2,2,8, 80ms,2 or 4*3,8, of at most {_MOST_FRAMES:,} steps, "
                f"found {part.strip()!r}"
            )
        holds += [parse_hold(hold)] * count
    return holds


def parse_time(text: str) -> Fraction:
    """`0.5s`, `80ms`, `1/12s`, `2m`, `1h`: seconds, from 0; `0` alone is nothing else.

    Raises
    ------
    UsageError
        If it is none of them.
    """
    if text.strip() == "0":
        return Fraction(0)
    match = _TIME.fullmatch(text.strip())
    amount = rational(match["amount"]) if match else None
    if match is None or amount is None or amount < 0:
        raise UsageError(f"expected a time, like 0.5s, 80ms, 1/12s, 2m or 1h, found {text!r}")
    return amount * _UNITS[match["unit"]]


class TimeRange(NamedTuple):
    """From a time to another, in seconds; what begins at the second is no part of it."""

    first: Fraction
    end: Fraction

    def __str__(self) -> str:
        return f"{float(self.first):g}s-{float(self.end):g}s"


def parse_range(text: str) -> NumberRange | TimeRange:
    """Read `20-83` as numbers, and `1.5s-3s` as times.

    Raises
    ------
    SequenceError, UsageError
        If it is neither, or ends before it begins.
    """
    first, dash, end = text.strip().partition("-")
    if not text.strip().endswith(("s", "m", "h")):
        return parse_number_range(text)
    if not dash:
        raise UsageError(f"expected two times, like 1.5s-3s, found {text!r}")
    times = TimeRange(parse_time(first), parse_time(end))
    if times.first >= times.end:
        raise UsageError(f"the range {text!r} ends before it begins; write {end}-{first}")
    return times


class CycleShare(NamedTuple):
    """A share of a cycle, 0 to 1."""

    of_cycle: Fraction


class CycleTime(NamedTuple):
    """A time within a cycle: in seconds, or in ticks of the clip."""

    time: Fraction
    unit: Literal["s", "ticks"] = "s"


Phase = Fraction | CycleShare | CycleTime
"""Where a clip starts; a plain number counts steps."""


def parse_phase(text: str) -> Phase:
    """`3` or `2.5`: steps. `25%`: a share of the cycle's time. `0.5s`, `80ms`, `12t`: a time or ticks within it.

    Raises
    ------
    UsageError
        If it is none of them, or below 0, or a share of a whole cycle or more.
    """
    match = _PHASE.fullmatch(text.strip())
    number = rational(match["amount"]) if match else None
    if match is None or number is None or number < 0:
        raise UsageError(
            "expected a phase in steps, like 3 or 2.5, as a share, like 25%, or a time, like 0.5s or 12t, "
            f"found {text!r}"
        )
    unit = match["unit"]
    if unit == "%" and number >= 100:
        raise UsageError(f"expected a phase from 0% up to below 100%, found {text!r}")
    if unit == "%":
        return CycleShare(number / 100)
    if unit == "t":
        return CycleTime(number, "ticks")
    return CycleTime(number * _UNITS[unit]) if unit else number


def parse_event(text: str) -> tuple[int, str]:
    """`3:chirp`: a step and what happens with it.

    Raises
    ------
    UsageError
        If it is not written so.
    """
    step, separator, name = text.partition(":")
    number = whole_number(step)
    if not separator or number is None or not name.strip():
        raise UsageError(f"expected STEP:NAME, like 3:chirp, found {text!r}")
    return number, name.strip()


def parse_repeat(text: str) -> Repeat:
    """A count from 0, or `forever`; `once` and `infinite` are such, too.

    Raises
    ------
    UsageError
        If it is neither.
    """
    if text in ("forever", "infinite"):
        return "forever"
    count = 1 if text == "once" else whole_number(text)
    if count is None:
        hint = did_you_mean(text, ("forever", "1"), kind="value")
        raise UsageError(f"expected a count or 'forever', found {text!r}{hint}")
    return count


def _positive(text: str) -> Fraction | None:
    value = rational(text)
    return value if value is not None and value > 0 else None


def format_repeat(repeat: Repeat) -> str:
    """For people.

    >>> [format_repeat(n) for n in ("forever", 0, 1, 3)]
    ['plays forever', 'shows its first step', 'plays once', 'plays 3 times']
    """
    if repeat == "forever":
        return "plays forever"
    return {0: "shows its first step", 1: "plays once"}.get(repeat, f"plays {repeat} times")


def format_seconds(value: Fraction) -> str:
    """For people: milliseconds to a tenth below a second, else seconds to a thousandth; exact values stay so.

    >>> [format_seconds(Fraction(n)) for n in ("1/12", "5/12", "3/2", "10")]
    ['83.3 ms', '416.7 ms', '1.5 s', '10 s']
    """
    if value < 1:
        return f"{_trimmed(float(value * 1000), 1)} ms"
    return f"{_trimmed(float(value), 3)} s"


def _trimmed(value: float, digits: int) -> str:
    text = f"{value:.{digits}f}"
    return text.rstrip("0").rstrip(".")


class Ordered(NamedTuple):
    """One entry of an order: which frame, and how many times as long it is held.

    Frames are those of the clip that is ordered, counted from 0, or of the clip that is named.
    """

    frame: int
    times: int = 1
    of: str | None = None


_ORDERED = re.compile(
    r"(?:(?P<of>[^,*:]+):)?(?P<first>[0-9]{1,18})(?:-(?P<last>[0-9]{1,18}))?(?:\*(?P<times>[0-9]{1,6}))?"
)


def parse_order(text: str) -> list[Ordered]:
    """Frames as `0-7`, `0-3,2-1`, `5*3` (held three times as long), `0-3*2`: ranges in either direction.

    `walk:3-4` are frames of the clip `walk`.

    >>> [entry.frame for entry in parse_order("0-3,2-1")]
    [0, 1, 2, 3, 2, 1]

    Raises
    ------
    UsageError
        If a part is none of them.
    """
    order: list[Ordered] = []
    for part in text.split(","):
        match = _ORDERED.fullmatch(part.strip())
        if not match or match["times"] == "0":
            raise UsageError(f"expected frames like 0-7, 0-3,2-1 or 5*3, found {part.strip()!r}")
        first, times = int(match["first"]), int(match["times"] or 1)
        last = int(match["last"] or first)
        if len(order) + abs(last - first) >= _MOST_FRAMES:
            raise UsageError(f"with {part.strip()!r} there are more than {_MOST_FRAMES:,} frames")
        run = range(first, last + 1) if last >= first else range(first, last - 1, -1)
        order += [Ordered(frame, times, match["of"]) for frame in run]
    return order


def format_order(frames: Sequence[int]) -> str:
    """Runs of frames as people write them.

    >>> format_order([0, 1, 2, 3, 2, 1, 5, 5])
    '0-3,2-1,5,5'
    """
    runs: list[list[int]] = []
    for frame in frames:
        run = runs[-1] if runs else []
        follows = run and abs(frame - run[-1]) == 1 and (len(run) == 1 or frame - run[-1] == run[1] - run[0])
        if follows:
            run.append(frame)
        else:
            runs.append([frame])
    return ",".join(f"{run[0]}-{run[-1]}" if len(run) > 1 else str(run[0]) for run in runs)


def within_count(order: Sequence[Ordered], count: int, of: str = "") -> None:
    """Raise `UsageError` if the order names a frame that a sequence of `count` frames does not have."""
    for entry in order:
        if entry.frame >= count:
            whose = f'clip "{of}" has' if of else "there are"
            raise UsageError(f"there is no frame {entry.frame}; {whose} {counted_from_0(count, 'frame')}")
