"""Values of a step that change over the sequence: `opacity 0..1 over=0-7 pace=ease-in`."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from kivel.core.errors import KivelError, UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import NumberRange, SequenceError, parse_number_range
from kivel.core.pixels.pixels import Size
from kivel.core.playback.easing import Easing, parse_easing
from kivel.core.prepare.actions import Action, Each, Frame, Place
from kivel.core.prepare.parameters import Parameter
from kivel.core.wording import counted_from_0

__all__ = ["AT_PACE", "OVER_FRAMES", "Course", "Varying", "changing", "varied"]


class Varying(NamedTuple):
    """A number or a size that goes from one value to another, a number within its limits."""

    first: Any
    last: Any
    limits: tuple[float, float] = (-math.inf, math.inf)

    def at(self, share: float) -> Any:
        """The value after a share of the way; a share may lie outside 0 to 1 where a pace overshoots."""
        if isinstance(self.first, Size):
            return Size(*(max(1, round(a + (b - a) * share)) for a, b in zip(self.first, self.last, strict=True)))
        value = min(max(self.first + (self.last - self.first) * share, self.limits[0]), self.limits[1])
        return round(value) if isinstance(self.first, int) and isinstance(self.last, int) else value


class Course(NamedTuple):
    """Over which frames a value changes, both included (None: all), and how it goes."""

    over: NumberRange | None = None
    pace: Easing | None = None

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
        way = 1.0 if place.number >= last else max(0.0, (place.number - first) / (last - first))
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


def changing(parameter: Parameter) -> Parameter:
    """The same parameter, that may also be written `A..B`."""

    def read(text: str) -> Any:
        first, dots, last = text.partition("..")
        if not dots:
            return parameter.read(text)
        limits = parameter.limits or Varying._field_defaults["limits"]
        return Varying(parameter.read(first), parameter.read(last), limits)

    return parameter._replace(read=read)


def varied(build: Callable[..., Action], values: Mapping[str, Any], course: Course) -> Each:
    """A step built for each frame by the values that it has then.

    It is one that changes each frame by itself.
    """

    def built(share: float) -> Each:
        now = {name: value.at(share) if isinstance(value, Varying) else value for name, value in values.items()}
        action = build(**now)
        if not isinstance(action, Each):
            raise AssertionError(f"a step of varying values is no change of single frames: {action}")
        return action

    def transform(frame: Frame, place: Place) -> Frame:
        return built(course.share(place)).transform(frame, place)

    # what it does to maps does not depend on the values
    return built(0.0)._replace(transform=transform)
