"""Pace: the easing functions of CSS (Easing Functions Level 2), from progress in time to progress in motion."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from fractions import Fraction
from itertools import pairwise

from kivel.core.errors import UsageError
from kivel.core.numbers import decimal, rational, whole_number
from kivel.core.suggestions import did_you_mean

__all__ = ["Easing", "PiecewiseLinear", "parse_easing"]

Easing = Callable[[float], float]
"""From 0..1 to where the motion is then: 0 at its start, 1 at its end; some overshoot."""

_CALL = re.compile(r"(?P<name>[a-z-]+)\s*\(\s*(?P<arguments>[^()]*)\)")
_HALVINGS = 60
_JUMPS = {
    "jump-start": "start",
    "start": "start",
    "jump-end": "end",
    "end": "end",
    "jump-none": "none",
    "jump-both": "both",
}
_KEYWORDS = {
    "linear": "linear(0, 1)",
    "ease": "cubic-bezier(0.25, 0.1, 0.25, 1)",
    "ease-in": "cubic-bezier(0.42, 0, 1, 1)",
    "ease-out": "cubic-bezier(0, 0, 0.58, 1)",
    "ease-in-out": "cubic-bezier(0.42, 0, 0.58, 1)",
    "step-start": "steps(1, start)",
    "step-end": "steps(1, end)",
}


def parse_easing(text: str) -> Easing:
    """Read `ease-in`, `cubic-bezier(0.3, 0, 0.7, 1)`, `steps(4, jump-end)`, `linear(0, 0.2 30% 50%, 1)`.

    >>> [round(parse_easing("ease-in-out")(t), 3) for t in (0, 0.25, 0.5, 1)]
    [0, 0.129, 0.5, 1]

    Raises
    ------
    UsageError
        If it is no easing function of CSS, or its numbers are out of range.
    """
    plain = text.strip().lower()
    match = _CALL.fullmatch(_KEYWORDS.get(plain, plain))
    if not match or match["name"] not in _FUNCTIONS:
        hint = did_you_mean(plain, _KEYWORDS, otherwise="expected a CSS easing function", sign="")
        known = f"{', '.join(_KEYWORDS)}, cubic-bezier(x1, y1, x2, y2), steps(n, jump-end) or linear(0, 0.5 20%, 1)"
        raise UsageError(f"{text!r} is not an easing function: {hint} ({known})")
    arguments = [part.strip() for part in match["arguments"].split(",")]
    try:
        return _FUNCTIONS[match["name"]](arguments)
    except ValueError as error:
        raise UsageError(f"{text!r}: {error}") from None


def _cubic_bezier(arguments: list[str]) -> Easing:
    if len(arguments) != 4:
        raise ValueError("expected four numbers, x1, y1, x2, y2")
    x1, y1, x2, y2 = (_number(part) for part in arguments)
    if not (0 <= x1 <= 1 and 0 <= x2 <= 1):
        raise ValueError("x1 and x2 must be from 0 to 1")

    def curve(a: float, b: float, s: float) -> float:
        return ((1 - s) * 3 * a + 3 * s * b) * (1 - s) * s + s * s * s

    def ease(time: float) -> float:
        low, high = 0.0, 1.0
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            low, high = (middle, high) if curve(x1, x2, middle) < time else (low, middle)
        return time if time in (0, 1) else curve(y1, y2, (low + high) / 2)

    return ease


def _steps(arguments: list[str]) -> Easing:
    jump = _JUMPS.get(arguments[1] if len(arguments) > 1 else "end")
    if jump is None or len(arguments) > 2:
        raise ValueError(f"expected steps(n) or steps(n, jump), jump one of {', '.join(_JUMPS)}")
    count = whole_number(arguments[0])
    if count is None or count < (2 if jump == "none" else 1):
        raise ValueError(f"expected a whole number of steps from {2 if jump == 'none' else 1}")
    jumps = {"start": count, "end": count, "none": count - 1, "both": count + 1}[jump]

    def ease(time: float) -> float:
        step = math.floor(time * count + 1e-12) + (jump in ("start", "both"))
        return min(max(step, 0), jumps) / jumps

    return ease


class PiecewiseLinear:
    """Straight from point to point, exactly: a value that is reached at a peak alone is not missed for a rounding."""

    def __init__(self, points: Sequence[tuple[Fraction, Fraction]]) -> None:
        first, last = _beyond(points[0], points[1], Fraction(0)), _beyond(points[-1], points[-2], Fraction(1))
        before = [first] if points[0][0] > 0 else []
        after = [last] if points[-1][0] < 1 else []
        self._points = [*before, *points, *after]

    def __call__(self, time: float) -> float:
        exact = Fraction(time)
        for (x0, y0), (x1, y1) in pairwise(self._points):
            if exact < x1:
                return float(y0 if x1 == x0 else y0 + (y1 - y0) * (exact - x0) / (x1 - x0))
        return float(self._points[-1][1])

    def first_time(self, value: Fraction) -> Fraction:
        """When it first comes so far, from 0 to 1; 1 if it never does."""
        for (x0, y0), (x1, y1) in pairwise(self._points):
            if y0 >= value:
                return self._within(x0)
            if y1 >= value:
                return self._within(x0 + (x1 - x0) * (value - y0) / (y1 - y0))
        return Fraction(1)

    @staticmethod
    def _within(time: Fraction) -> Fraction:
        return min(max(time, Fraction(0)), Fraction(1))


def _beyond(
    point: tuple[Fraction, Fraction], other: tuple[Fraction, Fraction], time: Fraction
) -> tuple[Fraction, Fraction]:
    """Where the line through an outermost point and the one next to it is at a time (CSS Easing Functions Level 2)."""
    (x0, y0), (x1, y1) = point, other
    return time, y0 if x0 == x1 else y0 + (y1 - y0) * (time - x0) / (x1 - x0)


def _linear(arguments: list[str]) -> Easing:
    points = _filled([stop for part in arguments for stop in _linear_stops(part)])
    if len(points) < 2:
        raise ValueError("expected two numbers or more")
    return PiecewiseLinear(points)


def _linear_stops(text: str) -> list[tuple[Fraction | None, Fraction]]:
    """Where in time (None if it does not say), and how far; two of them where it stays so far for a while."""
    words = text.split()
    values = [word for word in words if not word.endswith("%")]
    places = [word.removesuffix("%") for word in words if word.endswith("%")]
    if len(values) != 1 or len(places) > 2 or values[0] not in (words[0], words[-1]):
        raise ValueError(f"expected a number, or a number and one or two percentages, found {text!r}")
    value = _exact(values[0])
    return [(_exact(place) / 100, value) for place in places] or [(None, value)]


def _exact(text: str) -> Fraction:
    value = rational(text)
    if value is None or "/" in text:
        raise ValueError(f"expected a number, found {text!r}")
    return value


def _number(text: str) -> float:
    value = decimal(text)
    if value is None:
        raise ValueError(f"expected a number, found {text!r}")
    return value


def _filled(stops: list[tuple[Fraction | None, Fraction]]) -> list[tuple[Fraction, Fraction]]:
    """Times spread evenly between those given; never falling."""
    times = [time for time, _ in stops]
    times[0] = Fraction(0) if times[0] is None else times[0]
    times[-1] = Fraction(1) if times[-1] is None else times[-1]
    filled: list[Fraction] = []
    for index, time in enumerate(times):
        if time is None:
            following = next(i for i in range(index, len(times)) if times[i] is not None)
            time = filled[-1] + ((times[following] or 0) - filled[-1]) / (following - index + 1)
        filled.append(max(time, filled[-1]) if filled else time)
    return [(time, value) for time, (_, value) in zip(filled, stops, strict=True)]


_FUNCTIONS: dict[str, Callable[[list[str]], Easing]] = {
    "cubic-bezier": _cubic_bezier,
    "steps": _steps,
    "linear": _linear,
}
