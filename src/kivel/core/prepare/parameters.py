"""The kinds of value that a written step takes: each reads its text, or says what was expected."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any, Final

from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbers import decimal
from kivel.core.pixels.pixels import ALIGNMENTS, Size
from kivel.core.playback.notation import parse_order
from kivel.core.prepare.drawn_around import ColourPair
from kivel.core.prepare.ramp import Stop
from kivel.core.prepare.stock_movement import STOCK_MOVEMENTS, StockMovement
from kivel.core.suggestions import did_you_mean

__all__ = [
    "REQUIRED",
    "STOCK_DETAILS",
    "NamedFile",
    "NamedImage",
    "Parameter",
    "align",
    "choice",
    "colour",
    "file",
    "flag",
    "heights",
    "image",
    "number",
    "order",
    "point",
    "size",
    "stop",
]

REQUIRED: Final = object()
"""The default of a parameter that has none."""


class NamedFile(str):
    """The path of a file that a step needs; whoever knows about files puts its bytes in its place."""

    __slots__ = ()


class NamedImage(NamedFile):
    """The path of an image; its pixels, (H, W, 4), are put in its place."""

    __slots__ = ()


class NamedHeights(NamedImage):
    """The path of an image that displaces others, or the name of a stock movement, which is no file."""

    __slots__ = ()

    def __new__(cls, text: str) -> Any:
        stock = next((name for name in STOCK_MOVEMENTS if name == text), None)
        if stock is not None:
            return StockMovement(stock)
        if not set("./\\") & set(text):  # no image has such a name
            meant = did_you_mean(text, STOCK_MOVEMENTS)
            raise UsageError(f"expected an image or {', '.join(STOCK_MOVEMENTS)}, found {text!r}{meant}")
        return super().__new__(cls, text)


class Parameter(NamedTuple):
    """One value of a step. `read` raises `UsageError` saying what it expected; `form` shows how the value looks.

    Positional ones may be without their name, in their order; `many` takes all words that follow. A flag is on when
    its name is alone. A measure is a number, a size or a colour, which may change over a sequence.
    """

    name: str
    form: str
    help: str
    read: Callable[[str], Any]
    default: Any = REQUIRED
    positional: bool = False
    many: bool = False
    is_flag: bool = False
    is_measure: bool = False
    limits: tuple[float, float] | None = None

    @property
    def names_a_file(self) -> bool:
        return isinstance(self.read, type) and issubclass(self.read, NamedFile)

    def first(self) -> Parameter:
        """The same, positional."""
        return self._replace(positional=True)


def number(
    name: str, help: str, *, least: float, most: float, default: Any = REQUIRED, whole: bool = False, unit: str = ""
) -> Parameter:
    """A number within a range, both ends included; as a share it may be written with a percent sign."""
    kind = "a whole number" if whole else "a number"
    share = (least, most) == (0, 1)
    limits = f"from {least:g} to {most:g}{f' {unit}' if unit else ''}"

    def read(text: str) -> float:
        percent = share and text.endswith("%")
        value = decimal(text.removesuffix("%") if percent else text)
        if value is not None and percent:
            value /= 100
        if value is None or not least <= value <= most or (whole and value != int(value)):
            raise UsageError(f"expected {kind} {limits}, found {text!r}")
        return int(value) if whole else value

    return Parameter(name, "N", f"{help}, {limits}", read, default, is_measure=True, limits=(least, most))


def choice(name: str, options: Sequence[str], help: str, *, default: Any = REQUIRED) -> Parameter:
    """One of a few words."""

    def read(text: str) -> str:
        if text not in options:
            raise UsageError(f"expected {', '.join(options[:-1])} or {options[-1]}, found {text!r}")
        return text

    return Parameter(name, "|".join(options), help, read, default)


def align(help: str) -> Parameter:
    return choice("align", ALIGNMENTS, help, default="center")._replace(form="PLACE")


def flag(name: str, help: str) -> Parameter:
    """On when its name is there, or `name=yes`."""
    words = {"yes": True, "no": False}

    def read(text: str) -> bool:
        if text not in words:
            raise UsageError(f"expected yes or no, found {text!r}")
        return words[text]

    return Parameter(name, "", help, read, default=False, is_flag=True)


def size(name: str, help: str, *, default: Any = REQUIRED) -> Parameter:
    """`64x32`."""

    def read(text: str) -> Size:
        match = re.fullmatch(r"([1-9]\d{0,4})x([1-9]\d{0,4})", text)
        if not match:
            raise UsageError(f"expected WIDTHxHEIGHT in pixels, like 64x32, found {text!r}")
        return Size(int(match[1]), int(match[2]))

    return Parameter(name, "WxH", help, read, default, is_measure=True)


_FARTHEST = 100_000


def point(name: str, help: str, *, default: Any = REQUIRED, whole: bool = False) -> Parameter:
    """`12,8` or `0.5,1`."""
    return Parameter(name, "X,Y", help, read_whole_point if whole else read_point, default)


def read_point(text: str) -> tuple[float, float]:
    found = _point(text)
    if found is None:
        raise UsageError(f"expected X,Y, like 0.5,1, found {text!r}")
    return found


def _point(text: str) -> tuple[float, float] | None:
    across, _, down = text.partition(",")
    x, y = decimal(across), decimal(down)
    if x is None or y is None or max(abs(x), abs(y)) >= _FARTHEST:
        return None
    return x, y


def read_whole_point(text: str) -> tuple[int, int]:
    found = _point(text)
    if found is None or any(value != int(value) for value in found):
        raise UsageError(f"expected whole numbers X,Y, like 12,8, found {text!r}")
    return int(found[0]), int(found[1])


_COLOUR = re.compile(r"#(?:[0-9a-fA-F]{3}|[0-9a-fA-F]{6})")


def read_colour(text: str) -> tuple[float, float, float]:
    """`#rrggbb` or `#rgb`, as CSS writes colours: three values from 0 to 1."""
    if not _COLOUR.fullmatch(text):
        raise UsageError(f"expected a colour like #00b140, found {text!r}")
    digits = text[1:] if len(text) == 7 else "".join(digit * 2 for digit in text[1:])
    red, green, blue = (int(digits[start : start + 2], 16) / 255 for start in (0, 2, 4))
    return red, green, blue


def colour(name: str, help: str, *, default: Any = REQUIRED, varies: bool = False) -> Parameter:
    """A colour, which may change over a sequence where it `varies`."""
    return Parameter(name, "#rrggbb", help, read_colour, default, is_measure=varies)


def colour_pair(name: str, help: str) -> Parameter:
    """Colours with what each becomes: `#8a2b2b=#2b5d8a`."""

    def read(text: str) -> ColourPair:
        old, sign, new = text.partition("=")
        if not sign:
            raise UsageError(f"expected a pair like #8a2b2b=#2b5d8a, found {text!r}")
        whole = [tuple(round(255 * share) for share in read_colour(one)) for one in (old, new)]
        return ColourPair(*whole)  # type: ignore[arg-type]

    return Parameter(name, "#rrggbb=#rrggbb", help, read, (), positional=True, many=True)


def stop(name: str, help: str) -> Parameter:
    """Colours, each with `@` and a position if it is not to be spread evenly."""

    def read(text: str) -> Stop:
        value, separator, place = text.partition("@")
        try:
            position = float(place) if separator else None
        except ValueError:
            position = -1.0
        if position is not None and not 0 <= position <= 1:
            raise UsageError(f"expected a position from 0 to 1 after @, found {place!r}")
        return Stop(read_colour(value), position)

    return Parameter(name, "#rrggbb[@P]", help, read, (), positional=True, many=True, is_measure=True)


def image(name: str, help: str, *, default: Any = REQUIRED) -> Parameter:
    """The path of an image."""
    return Parameter(name, "IMAGE", help, NamedImage, default)


def heights(name: str, help: str, *, default: Any = REQUIRED) -> Parameter:
    """The path of an image, or a stock movement by its name."""
    return Parameter(name, f"IMAGE|{'|'.join(STOCK_MOVEMENTS)}", help, NamedHeights, default)


def file(name: str, help: str, *, default: Any = REQUIRED) -> Parameter:
    """The path of a file that is no image."""
    return Parameter(name, "FILE", help, NamedFile, default)


STOCK_DETAILS = (
    number("size", "waves and the like: how large one is; a quarter of the picture if not given", least=1, most=16384,
           unit="px", default=None)._replace(is_measure=False),
    number("seed", "noise and turbulence: another number gives another pattern", least=0, most=1_000_000, default=None,
           whole=True)._replace(is_measure=False),
)  # fmt: skip
"""Says what a stock movement may be told."""


def order(name: str, help: str) -> Parameter:
    """Frames as `0-7`, `0-3,2-1`, `5*3`."""
    return Parameter(name, "FRAMES", help, parse_order, positional=True)
