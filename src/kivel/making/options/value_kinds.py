"""Describes what values options take: how each is read from text, and how a program's own value is put into text.

Nothing heavy is imported to declare them: readers load what they need when there is something to read.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping
from importlib import import_module
from types import MappingProxyType
from typing import TYPE_CHECKING, Any, Generic, Literal, NamedTuple, TypeVar, get_args

from kivel.core.errors import UsageError
from kivel.core.numbers import decimal, whole_number
from kivel.core.option_words import Align, Fill
from kivel.core.suggestions import did_you_mean

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.numbering import NumberRange
    from kivel.core.pivots import PivotRequest
    from kivel.core.pixels.compose import Backdrop
    from kivel.core.pixels.pixels import Size
    from kivel.core.playback.clip import Repeat
    from kivel.core.playback.easing import Easing
    from kivel.core.playback.notation import Ordered, Phase, TimeRange

__all__ = [
    "ANY_TEXT",
    "A_PATH",
    "BACKDROP",
    "EVENT",
    "FILL",
    "FLAG",
    "FRAME",
    "HOLD",
    "HOLDS",
    "LENGTH_RANGE",
    "NAMES",
    "ORDER",
    "PACE",
    "PATH",
    "PHASE",
    "PIVOT",
    "PLACE",
    "PLACES",
    "RANGE",
    "RATE",
    "REPEAT",
    "SCALE",
    "SCALING",
    "SIZE",
    "TIME",
    "WEIGHT",
    "ValueKind",
    "choice",
    "moved_path",
    "named",
    "number",
    "whole",
    "written_path",
]

T = TypeVar("T")


def _plain(value: Any) -> str:
    if not isinstance(value, (int, float)) and not hasattr(value, "denominator"):
        raise TypeError(f"no number: {value!r}")
    return str(value)


def _no_text(value: Any) -> str:
    raise TypeError(f"no text: {value!r}")


def written_path(value: Any) -> str:
    """A path as text; raises `TypeError` for what is none."""
    path = os.fspath(value)
    if not isinstance(path, str):
        raise TypeError(f"no path: {value!r}")
    return path


def moved_path(text: str, move: Callable[[str], str]) -> str:
    """A text that is a path."""
    return move(text)


class ValueKind(NamedTuple, Generic[T]):
    """Holds what values an option takes.

    `form` shows how one looks. `read` reads its text, and raises `UsageError` saying what it expected. `text` gives the
    text of what a program hands over instead. `stored` is how a manifest's `made` keeps that text. `words` are all that
    it may be, where it is one of a few. `python` is the type of what a program may hand over, as `kivel/__init__.pyi`
    has it; with `by_name` several may be in a mapping from names to such values.
    """

    form: str
    read: Callable[[str], T]
    text: Callable[[Any], str] = _plain
    stored: Callable[[str], Any] = str
    words: tuple[str, ...] = ()
    python: str = "str"
    by_name: str = ""


A_PATH = "str | PathLike[str]"
_NUMBER, _HOLD = "float | Fraction | str", "int | Fraction | str"
_NAMED, _POINT = "float | str | PathLike[str]", "str | tuple[float, float]"

FARTHEST = 1_000_000
"""Pixels, columns or rows that an option may ask for; what comes of it has to pass its own limits."""
_HEAVIEST = 1_000_000
MOST_FRAMES = 10_000
"""Frames that one run makes, or instances that it plays."""


def whole(least: int, most: int | None = None) -> ValueKind[int]:
    """A whole number within a range, both ends included."""
    limits = f"from {least}" + ("" if most is None else f" to {most:,}")

    def read(text: str) -> int:
        value = whole_number(text)
        if value is None or value < least or (most is not None and value > most):
            raise UsageError(f"expected a whole number {limits}, found {text!r}")
        return value

    return ValueKind("N", read, stored=int, python="int | str")


def number(least: float, most: float, form: str = "N") -> ValueKind[float]:
    """A number within a range, both ends included."""

    def read(text: str) -> float:
        value = decimal(text)
        if value is None or not least <= value <= most:
            raise UsageError(f"expected a number from {least:g} to {most:g}, found {text!r}")
        return value

    return ValueKind(form, read, python="float | str")


def choice(*words: Any, form: str = "", also: Mapping[str, str] = MappingProxyType({})) -> ValueKind[Any]:
    """One of a few words, or of those of a `Literal`; `also` are what the trade calls some of them."""
    words = tuple(one for word in words for one in (get_args(word) or (word,)))

    def read(text: str) -> str:
        text = also.get(text, text)
        if text not in words:
            expected = f"{', '.join(words[:-1])} or {words[-1]}"
            raise UsageError(f"expected {expected}, found {text!r}{did_you_mean(text, words, kind='value')}")
        return text

    literal = f"Literal[{', '.join(map(repr, words))}]"
    return ValueKind(form or "|".join(words), read, words=words, python=literal)


def _by(module: str, reader: str) -> Callable[[str], Any]:
    """A reader that is imported when there is something to read."""
    return lambda text: getattr(import_module(f"kivel.core.{module}"), reader)(text)


def _word(value: Any) -> str:
    return value if isinstance(value, str) else _plain(value)


def _joined(sign: str, each: Callable[[Any], str] = _word) -> Callable[[Any], str]:
    """The text of several values: `(64, 32)` becomes `64x32`."""
    return lambda value: sign.join(map(each, value)) if isinstance(value, Iterable) else each(value)


def _pair(value: Any) -> str:
    """`{name: value}`, given one at a time, or `(name, value)`."""
    name, what = value
    return f"{name}={what if isinstance(what, (int, float)) else written_path(what)}"


def _pivot(value: Any) -> str:
    """A point, or `(pattern, place)`."""
    if len(value) == 2 and isinstance(value[0], str):
        return f"{value[0]}={value[1] if isinstance(value[1], str) else _joined(',')(value[1])}"
    return _joined(",")(value)


def _seconds(value: Any) -> str:
    return f"{_plain(value)}s"


def _ticks_or_seconds(value: Any) -> str:
    """A fraction is a time; a whole number counts ticks."""
    if isinstance(value, str):
        return value
    return f"{value}s" if hasattr(value, "denominator") and not isinstance(value, int) else _plain(value)


def _flag(text: str) -> bool:
    if text not in ("True", "False"):
        raise UsageError(f"expected yes or no (True or False), found {text!r}")
    return text == "True"


def _names(text: str) -> tuple[str, ...]:
    found = tuple(name.strip() for name in text.split(","))
    if not all(found) or len(set(found)) < len(found):
        raise UsageError(f"expected different names, like walk,run,rest, found {text!r}")
    return found


def named(example: str, form: str) -> ValueKind[tuple[str, str]]:
    """`NAME=VALUE`."""

    def read(text: str) -> tuple[str, str]:
        name, separator, value = text.partition("=")
        if not (separator and name.strip() and value.strip()):
            raise UsageError(f"expected {form}, like {example}, found {text!r}")
        return name.strip(), value.strip()

    return ValueKind(form, read, _pair, python=f"str | tuple[str, {_NAMED}]", by_name=_NAMED)


def _weight(text: str) -> tuple[str, int]:
    name, _, value = text.rpartition("=")
    weight = whole_number(value)
    if not name.strip() or weight is None or weight > _HEAVIEST:
        raise UsageError(f"expected CLIPS=N, like lamp-3=2, N from 0 to {_HEAVIEST:,}, found {text!r}")
    return name.strip(), weight


def _lengths(text: str) -> tuple[int, int]:
    low, separator, high = text.partition("-")
    first, last = whole_number(low), whole_number(high if separator else low)
    if first is None or last is None or not 2 <= first <= last:
        raise UsageError(f"expected MIN-MAX frames from 2 on, like 24-48, found {text!r}")
    return first, last


def _backdrop(text: str) -> Backdrop:
    """Colours of CSS Color 4 by their names, too."""
    from PIL import ImageColor

    from kivel.core.pixels.compose import parse_backdrop

    return parse_backdrop(text, {name: value for name, value in ImageColor.colormap.items() if isinstance(value, str)})


def _size(text: str) -> Size:
    from kivel.core.pixels.pixels import Size

    across, by, down = text.lower().partition("x")
    width, height = whole_number(across), whole_number(down if by else across)  # 32 is 32x32
    if not width or not height:
        raise UsageError(f"expected WIDTHxHEIGHT in pixels, like 64x64, found {text!r}")
    if max(width, height) > FARTHEST:
        raise UsageError(f"expected WIDTHxHEIGHT in pixels, neither above {FARTHEST:,}, found {text!r}")
    return Size(width, height)


ANY_TEXT: ValueKind[str] = ValueKind("TEXT", str, _no_text)


FRAME: ValueKind[str] = ValueKind("FRAME", str, str, python="int | str")


PATH: ValueKind[str] = ValueKind("FILE", str, written_path, python=A_PATH)


FLAG: ValueKind[bool] = ValueKind("", _flag, str, stored=_flag, python="bool")


SIZE: ValueKind[Size] = ValueKind("WxH", _size, _joined("x"), python="tuple[int, int] | str")


NAMES: ValueKind[tuple[str, ...]] = ValueKind("A,B,C", _names, _joined(","), python="Sequence[str] | str")


LENGTH_RANGE: ValueKind[tuple[int, int]] = ValueKind("MIN-MAX", _lengths, _joined("-"), python="tuple[int, int] | str")


RANGE: ValueKind[NumberRange | TimeRange] = ValueKind(
    "A-B", _by("playback.notation", "parse_range"), _joined("-"), python="tuple[int, int] | str"
)


RATE: ValueKind[Fraction] = ValueKind("R", _by("playback.notation", "parse_rate"), python=_NUMBER)


HOLD: ValueKind[int | Fraction] = ValueKind(
    "T", _by("playback.notation", "parse_hold"), _ticks_or_seconds, python=_HOLD
)


HOLDS: ValueKind[list[int | Fraction]] = ValueKind(
    "LIST",
    _by("playback.notation", "parse_holds"),
    _joined(",", _ticks_or_seconds),
    python=f"{_HOLD} | Sequence[{_HOLD}]",
)


TIME: ValueKind[Fraction] = ValueKind("T", _by("playback.notation", "parse_time"), _seconds, python=_NUMBER)


REPEAT: ValueKind[Repeat] = ValueKind("N", _by("playback.notation", "parse_repeat"), python="int | str")


ORDER: ValueKind[list[Ordered]] = ValueKind(
    "FRAMES", _by("playback.notation", "parse_order"), _joined(","), python="int | str | Sequence[int | str]"
)


PHASE: ValueKind[Phase] = ValueKind("P", _by("playback.notation", "parse_phase"), python=_NUMBER)


EVENT: ValueKind[tuple[int, str]] = ValueKind(
    "STEP:NAME", _by("playback.notation", "parse_event"), _joined(":"), python="tuple[int, str] | str"
)


PACE: ValueKind[Easing] = ValueKind("EASING", _by("playback.easing", "parse_easing"))


WEIGHT: ValueKind[tuple[str, int]] = ValueKind(
    "CLIPS=N", _weight, _pair, python=f"str | tuple[str, {_NAMED}]", by_name=_NAMED
)


PIVOT: ValueKind[PivotRequest] = ValueKind(
    "PLACE|X,Y|mass", _by("pivots", "parse_pivot"), _pivot, python=f"{_POINT} | tuple[str, {_POINT}]", by_name=_POINT
)


BACKDROP: ValueKind[Backdrop] = ValueKind("checker|none|COLOUR", _backdrop)


SCALE: ValueKind[Fraction] = ValueKind("N", _by("pixels.compose", "parse_scale"), python=_NUMBER)


PLACES: tuple[Align, ...] = get_args(Align)
"""Places of a smaller thing in a larger one."""


PLACE: ValueKind[Align] = choice(*PLACES, form="PLACE", also={"centre": "center", "middle": "center"})


SCALING: ValueKind[Literal["nearest", "smooth"]] = choice("nearest", "smooth")
"""Pixels as squares, or one running into the other."""

FILL: ValueKind[Fill] = choice(Fill)
