"""Values of a step that change over the sequence: `opacity 0..1 over=0-7 pace=ease-in`."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from kivel.core.errors import KivelError, UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import NumberRange, SequenceError, parse_number_range
from kivel.core.pixels.light import linear_to_srgb, srgb_to_linear
from kivel.core.pixels.pixels import Size
from kivel.core.playback.easing import Easing, parse_easing
from kivel.core.prepare.actions import Action, Each, Frame, Place
from kivel.core.prepare.parameters import Parameter
from kivel.core.prepare.ramp import Stop
from kivel.core.wording import counted_from_0

__all__ = [
    "AT_ENDS",
    "AT_PACE",
    "OVER_FRAMES",
    "Course",
    "Varying",
    "changing",
    "is_varying",
    "opened_at_zero",
    "varied",
]


class Varying(NamedTuple):
    """A number, a size or a colour that goes from one value to another; numbers have limits, colours mix as light."""

    first: Any
    last: Any
    limits: tuple[float, float] = (-math.inf, math.inf)

    def at(self, share: float) -> Any:
        """The value after a share of the way; a share may lie outside 0 to 1 where a pace overshoots."""
        if isinstance(self.first, Size):
            return Size(*(max(1, round(a + (b - a) * share)) for a, b in zip(self.first, self.last, strict=True)))
        if isinstance(self.first, Stop):
            return _mixed_stop(self.first, self.last, share)
        if isinstance(self.first, tuple):
            return _mixed_colour(self.first, self.last, share)
        value = min(max(self.first + (self.last - self.first) * share, self.limits[0]), self.limits[1])
        return round(value) if isinstance(self.first, int) and isinstance(self.last, int) else value


def _mixed_colour(first: tuple[float, ...], last: tuple[float, ...], share: float) -> tuple[float, ...]:
    """In linear light, from 0 to 1 also where a pace overshoots."""
    start, end = (srgb_to_linear(np.array(colour)) for colour in (first, last))
    mixed = linear_to_srgb(np.clip(start + (end - start) * share, 0, 1))
    return tuple(map(float, mixed))


def _mixed_stop(first: Stop, last: Stop, share: float) -> Stop:
    """Where only one of both has a position, that is the place all the time."""
    red, green, blue = _mixed_colour(first.colour, last.colour, share)
    places = [stop.position for stop in (first, last) if stop.position is not None]
    position = places[0] + (places[-1] - places[0]) * min(max(share, 0.0), 1.0) if places else None
    return Stop((red, green, blue), position)


class Course(NamedTuple):
    """Over which frames a value changes, both included (None: all), and how it goes.

    `open` ends, the first and the last, are not reached by frames of the range.
    """

    over: NumberRange | None = None
    pace: Easing | None = None
    open: tuple[bool, bool] = (False, False)

    def share(self, place: Place) -> float:
        """How much of the way a frame is; held outside of the range.

        Raises
        ------
        KivelError
            If the range reaches beyond the sequence.
        """
        first, last = self.over or (0, place.total - 1)
        if last >= place.total:
            frames = counted_from_0(place.total, "frame")
            raise KivelError(f"over={first}-{last}: there are {frames}; choose some of them")
        before, behind = self.open
        steps = last - first + before + behind
        if not first <= place.number <= last or not steps:
            way = float(place.number >= last)
        else:
            way = (place.number - first + before) / steps
        return self.pace(way) if self.pace else way


def _over(text: str) -> NumberRange:
    try:
        return parse_number_range(text)
    except SequenceError as error:
        raise UsageError(str(error)) from None


OVER_FRAMES = Parameter(
    "over", "A-B", "the frames over which values change, from 0, both included; all if not given", _over, None
)
AT_PACE = Parameter("pace", "EASING", "easing of the change: a CSS function, like ease-in", parse_easing, None)


AT_ENDS = Parameter(
    "ends",
    "closed|open",
    "open: an end at 0 is not reached, so that no frame is spent on nothing; default: closed",
    lambda text: _one_of(text, ("closed", "open")),
    "closed",
)


def _one_of(text: str, words: tuple[str, ...]) -> str:
    if text not in words:
        raise UsageError(f"expected {' or '.join(words)}, found {text!r}")
    return text


def opened_at_zero(values: Mapping[str, Any]) -> tuple[bool, bool]:
    """Return whether a number among the values begins at 0, and whether one ends there."""
    found = [value for value in values.values() if isinstance(value, Varying)]
    return any(one.first == 0 for one in found), any(one.last == 0 for one in found)


def changing(parameter: Parameter) -> Parameter:
    """The same parameter, that may also be written `A..B`."""

    def read(text: str) -> Any:
        first, dots, last = text.partition("..")
        if not dots:
            return parameter.read(text)
        limits = parameter.limits or Varying._field_defaults["limits"]
        return Varying(parameter.read(first), parameter.read(last), limits)

    return parameter._replace(read=read)


def is_varying(value: Any) -> bool:
    """Whether a value, or one of several, changes."""
    return isinstance(value, Varying) or (type(value) is tuple and any(isinstance(one, Varying) for one in value))


def _now(value: Any, share: float) -> Any:
    if isinstance(value, Varying):
        return value.at(share)
    return tuple(_now(one, share) for one in value) if is_varying(value) else value


def varied(build: Callable[..., Action], values: Mapping[str, Any], course: Course) -> Each:
    """A step built for each frame by the values that it has then.

    It is one that changes each frame by itself.
    """

    def built(share: float) -> Each:
        now = {name: _now(value, share) for name, value in values.items()}
        action = build(**now)
        if not isinstance(action, Each):
            raise AssertionError(f"a step of varying values is no change of single frames: {action}")
        return action

    def transform(frame: Frame, place: Place) -> Frame:
        return built(course.share(place)).transform(frame, place)

    # what it does to maps does not depend on the values
    return built(0.0)._replace(transform=transform)
