"""How an option is declared: once, for the command line, for Python and for a recipe.

Whatever a door hands over becomes text first, and is read in one way. Nothing heavy is imported to declare or to name
options: readers load what they need when there is something to read.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from importlib import import_module
from typing import TYPE_CHECKING, Any, ClassVar, Generic, NamedTuple, Self, TypeVar, overload

from kivel.core.errors import Door, UsageError, located, option, python_name

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.compose import Backdrop
    from kivel.core.numbering import NumberRange
    from kivel.core.pixels import Size
    from kivel.core.playback.clip import Repeat
    from kivel.core.playback.easing import Easing
    from kivel.core.playback.notation import CycleShare, Ordered

__all__ = [
    "ANY_TEXT",
    "BACKDROP",
    "EVENT",
    "FLAG",
    "HOLD",
    "HOLDS",
    "LENGTH_RANGE",
    "NAMES",
    "ORDER",
    "PACE",
    "PATH",
    "PHASE",
    "RANGE",
    "RATE",
    "REPEAT",
    "SCALE",
    "SIZE",
    "TIME",
    "Option",
    "Options",
    "ValueKind",
    "choice",
    "named",
    "number",
    "whole",
    "written_path",
]  # fmt: skip

T = TypeVar("T")


_RANKS = {"frames": 1, "output": 3, "general": 4}
"""Groups that are listed before the others, and behind them."""


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


class ValueKind(NamedTuple, Generic[T]):
    """What values an option takes.

    `form` shows how one looks. `read` reads its text, and raises `UsageError` saying what it expected. `text` gives the
    text of what a program hands over instead. `stored` is how a manifest's `made` keeps that text.
    """

    form: str
    read: Callable[[str], T]
    text: Callable[[Any], str] = _plain
    stored: Callable[[str], Any] = str


def whole(least: int, most: int | None = None) -> ValueKind[int]:
    """A whole number within a range, both ends included."""
    limits = f"from {least}" + ("" if most is None else f" to {most}")

    def read(text: str) -> int:
        digits = text.isascii() and text.isdigit()
        if not digits or int(text) < least or (most is not None and int(text) > most):
            raise UsageError(f"expected a whole number {limits}, found {text!r}")
        return int(text)

    return ValueKind("N", read, stored=int)


def number(least: float, most: float, form: str = "N") -> ValueKind[float]:
    """A number within a range, both ends included."""

    def read(text: str) -> float:
        try:
            value = float(text)
        except ValueError:
            value = float("nan")
        if not least <= value <= most:
            raise UsageError(f"expected a number from {least:g} to {most:g}, found {text!r}")
        return value

    return ValueKind(form, read)


def choice(*words: str, form: str = "") -> ValueKind[Any]:
    """One of a few words."""

    def read(text: str) -> str:
        if text not in words:
            from difflib import get_close_matches

            close = get_close_matches(text, words, n=1)
            hint = f"; did you mean {close[0]}?" if close else ""
            raise UsageError(f"expected {', '.join(words[:-1])} or {words[-1]}, found {text!r}{hint}")
        return text

    return ValueKind(form or "|".join(words), read)


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

    return ValueKind(form, read, _pair)


def _lengths(text: str) -> tuple[int, int]:
    first, separator, last = text.partition("-")
    if not (first.isdigit() and (last.isdigit() or not separator) and 2 <= int(first) <= int(last or first)):
        raise UsageError(f"expected MIN-MAX frames from 2 on, like 24-48, found {text!r}")
    return int(first), int(last or first)


def _size(text: str) -> Size:
    from kivel.core.pixels import Size

    width, separator, height = text.lower().partition("x")
    if not (separator and width.isdigit() and height.isdigit() and int(width) and int(height)):
        raise UsageError(f"expected WIDTHxHEIGHT in pixels, like 64x64, found {text!r}")
    return Size(int(width), int(height))


ANY_TEXT: ValueKind[str] = ValueKind("TEXT", str, _no_text)
PATH: ValueKind[str] = ValueKind("FILE", str, written_path)
FLAG: ValueKind[bool] = ValueKind("", _flag, str, stored=_flag)
SIZE: ValueKind[Size] = ValueKind("WxH", _size, _joined("x"))
NAMES: ValueKind[tuple[str, ...]] = ValueKind("A,B,C", _names, _joined(","))
LENGTH_RANGE: ValueKind[tuple[int, int]] = ValueKind("MIN-MAX", _lengths, _joined("-"))
RANGE: ValueKind[NumberRange] = ValueKind("A-B", _by("numbering", "parse_number_range"), _joined("-"))
RATE: ValueKind[Fraction] = ValueKind("R", _by("playback.notation", "parse_rate"))
HOLD: ValueKind[int | Fraction] = ValueKind("T", _by("playback.notation", "parse_hold"), _ticks_or_seconds)
HOLDS: ValueKind[list[int | Fraction]] = ValueKind(
    "LIST", _by("playback.notation", "parse_holds"), _joined(",", _ticks_or_seconds)
)
TIME: ValueKind[Fraction] = ValueKind("T", _by("playback.notation", "parse_time"), _seconds)
REPEAT: ValueKind[Repeat] = ValueKind("N", _by("playback.notation", "parse_repeat"))
ORDER: ValueKind[list[Ordered]] = ValueKind("FRAMES", _by("playback.notation", "parse_order"), _joined(","))
PHASE: ValueKind[Fraction | CycleShare] = ValueKind("P", _by("playback.notation", "parse_phase"))
EVENT: ValueKind[tuple[int, str]] = ValueKind("STEP:NAME", _by("playback.notation", "parse_event"), _joined(":"))
PACE: ValueKind[Easing] = ValueKind("EASING", _by("playback.easing", "parse_easing"))
BACKDROP: ValueKind[Backdrop] = ValueKind("checker|none|#rrggbb", _by("compose", "parse_backdrop"))
SCALE: ValueKind[Fraction] = ValueKind("N", _by("compose", "parse_scale"))


class Option(Generic[T]):
    """One option of a class of `Options`: its values, what it does in one line, and its default.

    Parameters
    ----------
    default : T
        What it is when nobody gives it; `shown` says it in the help, where that says more.
    many : bool
        It may be given several times; its value is a tuple, in the order given.
    positional : bool
        Written without its name. `needed` if there must be one (of several, at least one).
    bare : str
        The text that the name alone stands for, where a value may be left out.
    negatable : bool
        A flag that can also be turned off: `--no-hold-ends`.
    from_folder : callable or None
        For texts that name files: the same text, its paths passed through the function it is given.
    kept : bool
        Whether it changes what is made, and so stands in the manifest's `made`.
    direct : bool
        Only Python gives it, and it is taken as it is: arrays.
    """

    def __init__(
        self,
        kind: ValueKind[Any],
        help: str,
        *,
        default: T,
        form: str = "",
        shown: str = "",
        many: bool = False,
        positional: bool = False,
        needed: bool = False,
        bare: str = "",
        negatable: bool = False,
        from_folder: Callable[[str, Callable[[str], str]], str] | None = None,
        kept: bool = True,
        direct: bool = False,
        group: str = "",
    ) -> None:
        self.kind = kind
        self.help = help
        self.default = default
        self.form = form or kind.form
        self.shown = shown
        self.many = many
        self.positional = positional
        self.needed = needed
        self.bare = bare
        self.negatable = negatable
        self.from_folder = from_folder
        self.kept = kept
        self.direct = direct
        self.group = group
        self.name = ""

    def __set_name__(self, owner: type[Options], name: str) -> None:
        self.name = name.rstrip("_").replace("_", "-")
        self.group = self.group or owner.title

    @overload
    def __get__(self, instance: None, owner: type[Options]) -> Option[T]: ...
    @overload
    def __get__(self, instance: Options, owner: type[Options]) -> T: ...
    def __get__(self, instance: Options | None, owner: type[Options]) -> Option[T] | T:
        if instance is None:
            return self
        value: T = instance.values.get(self.name, self.default)
        return value

    def but(self, **changes: Any) -> Option[T]:
        """The same option with another default or help, for a command where these differ."""
        other: Option[T] = object.__new__(type(self))
        other.__dict__ = {**self.__dict__, **changes}
        return other

    @property
    def python(self) -> str:
        """The keyword in Python."""
        return python_name(self.name)

    @property
    def rank(self) -> int:
        """Where it is listed, by its group."""
        return 0 if self.positional else _RANKS.get(self.group, 2)

    @property
    def is_flag(self) -> bool:
        return self.kind is FLAG

    def texts(self, given: Any) -> list[str]:
        """What was given, as text, one for each time."""
        if not self.many:
            return [self._text(given)]
        if isinstance(given, Mapping):
            given = given.items()
        elif isinstance(given, (str, os.PathLike)) or not isinstance(given, Iterable):
            given = [given]
        return [self._text(each) for each in given]

    def _text(self, value: Any) -> str:
        if isinstance(value, str):
            return value
        if self.bare and value is True:
            return self.bare
        # True is a whole number to Python, and columns=True a mistake
        if isinstance(value, bool) and not self.is_flag:
            raise UsageError(f"expected {self.form}, found {value}")
        try:
            return self.kind.text(value)
        except (TypeError, ValueError):
            raise UsageError(f"expected {self.form}, found {value!r}") from None


class Options:
    """The options of a command, or a group of them that commands share.

    A subclass declares each as a class attribute; a command's class derives from its groups. Attributes of an instance
    are the values. Built by `of`, which reads and checks them.
    """

    title: ClassVar[str] = "options"
    exclusive: ClassVar[tuple[tuple[str, ...], ...]] = ()
    """Names of which at most one may be given."""

    values: dict[str, Any]
    texts: dict[str, list[str]]
    """What was given, as it is written."""
    door: Door

    @classmethod
    def declared(cls) -> dict[str, Option[Any]]:
        """Every option by its name, in the order in which they are listed: sources, what is done to them, where to."""
        found: dict[str, Option[Any]] = {}
        for owner in cls.__mro__:
            for value in vars(owner).values():
                if isinstance(value, Option):
                    found.setdefault(value.name, value)
        return dict(sorted(found.items(), key=lambda item: item[1].rank))

    @classmethod
    def of(cls, given: Mapping[str, Any], *, door: Door = "python") -> Self:
        """Options from what a door hands over, by their names; None is not given.

        Raises
        ------
        UsageError
            If there is no such option, a value cannot be read, or options contradict each other.
        """
        declared = cls.declared()
        options = cls.__new__(cls)
        options.values, options.texts, options.door = {}, {}, door
        for name, value in given.items():
            if name not in declared:
                raise UsageError(f"there is no option {_written(name, door)}{_suggestion(name, declared, door)}")
            if value is None or (declared[name].many and isinstance(value, (list, tuple)) and not value):
                continue
            options._take(declared[name], value)
        for name, one in declared.items():
            if one.needed and name not in options.values:
                raise UsageError(f"{_named(one)} is needed: {one.help}")
        options._check_exclusive()
        options.check()
        return options

    def _take(self, one: Option[Any], value: Any) -> None:
        if one.direct:
            self.values[one.name] = _arrays(one, value)
            return
        with located(_named(one)):
            texts = one.texts(value)
            read = [one.kind.read(text) for text in texts]
        self.texts[one.name] = texts
        self.values[one.name] = tuple(read) if one.many else read[0]

    def _check_exclusive(self) -> None:
        for owner in type(self).__mro__:
            for names in vars(owner).get("exclusive", ()):
                given = [name for name in names if name in self.values]
                if len(given) > 1:
                    raise UsageError(f"{option(given[1])} is not allowed with {option(given[0])}; give one of them")

    def check(self) -> None:
        """Raise `UsageError` where options contradict each other. Subclasses check theirs and call this."""

    def given(self, name: str) -> bool:
        return name in self.values

    def made(self, move: Callable[[str], str]) -> dict[str, Any]:
        """What was given, for the manifest: by which the same can be made again; `move` makes paths relative to it."""
        kept: dict[str, Any] = {}
        for name, one in self.declared().items():
            if not one.kept or name not in self.texts or self.values[name] == one.default:
                continue
            texts = [one.from_folder(text, move) if one.from_folder else text for text in self.texts[name]]
            stored = [one.kind.stored(text) for text in texts]
            kept[name] = stored if one.many else stored[0]
        return kept


def _arrays(one: Option[Any], given: Any) -> tuple[Any, ...]:
    """Arrays as they are, of images; one array of four dimensions is several."""
    found = tuple(given) if isinstance(given, Iterable) else ()
    if not found or not all(hasattr(each, "ndim") and hasattr(each, "dtype") for each in found):
        raise UsageError(f"{_named(one)}: expected {one.help}")
    return found


def _named(one: Option[Any]) -> str:
    return one.form if one.positional else option(one.name)


def _written(name: str, door: Door) -> str:
    return repr(python_name(name)) if door == "python" else repr(name)


def _suggestion(name: str, declared: Sequence[str] | Mapping[str, Any], door: Door) -> str:
    from difflib import get_close_matches

    close = get_close_matches(name, list(declared), n=1)
    return f"; did you mean {_written(close[0], door)}?" if close else ""
