"""How an option is declared: once, for the command line, for Python and for a recipe.

Whatever a door hands over becomes text first, and is read in one way.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any, ClassVar, Generic, NamedTuple, Self, TypeVar, overload

from kivel.core.errors import Door, UsageError, located, option, python_name
from kivel.core.suggestions import did_you_mean
from kivel.making.options.value_kinds import FLAG, ValueKind

__all__ = ["ForClip", "Option", "Options"]

T = TypeVar("T")


_RANKS = {"frames": 1, "output": 3, "general": 4}
"""Groups that are listed before the others, and behind them."""


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
        The text that the name alone means, where a value may be left out.
    negatable : bool
        A flag that can also be turned off: `--no-hold-ends`.
    from_folder : callable or None
        For texts that name files: the same text, its paths passed through the function it is given.
    kept : bool
        Whether it changes what is made, and so is in the manifest's `made`.
    direct : bool
        Only Python gives it, and it is taken as it is: arrays.
    command_only : bool
        Only the command line gives it: what goes on until somebody interrupts.
    per_clip : bool
        What is given is for all clips, or for those whose names come first: `walk:0-3`, in Python
        `{"walk": "0-3"}`. Its value is a tuple of `ForClip`.
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
        command_only: bool = False,
        per_clip: bool = False,
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
        self.command_only = command_only
        self.per_clip = per_clip
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

    @property
    def repeats(self) -> bool:
        """Whether it may be given several times."""
        return self.many or self.per_clip

    def texts(self, given: Any, *, typed: bool = False) -> list[str]:
        """Return what was given, as text, one for each time; a command line's is `typed`."""
        if self.per_clip and isinstance(given, Mapping):
            return [f"{clip}:{text}" for clip, value in given.items() for text in self.texts(value)]
        if self.per_clip and isinstance(given, (list, tuple)) and (typed or all(":" in str(each) for each in given)):
            return list(map(str, given))
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
            by_name = ', or one for each clip, as {"walk": ...}' if self.per_clip else ""
            raise UsageError(f"expected {self.form}{by_name}, found {value!r}") from None


class Options:
    """The options of a command, or a group of them that commands share.

    A subclass declares each as a class attribute; a command's class derives from its groups. Attributes of an instance
    are the values. Built by `of`, which reads and checks them.
    """

    title: ClassVar[str] = "options"
    exclusive: ClassVar[tuple[tuple[str, ...], ...]] = ()
    """Names of which at most one may be given."""
    everyday: ClassVar[tuple[str, ...]] = ()
    """Names of the options that its short help shows; none: all."""

    _declared: ClassVar[dict[str, Option[Any]]]
    _needed: ClassVar[tuple[Option[Any], ...]]
    _excluding: ClassVar[tuple[tuple[str, ...], ...]]
    values: dict[str, Any]
    texts: dict[str, list[str]]
    """Says what was given, as it is written."""
    door: Door

    @classmethod
    def declared(cls) -> dict[str, Option[Any]]:
        """Every option by its name, in the order in which they are listed: sources, what is done to them, where to."""
        known: dict[str, Option[Any]] | None = cls.__dict__.get("_declared")
        if known is not None:
            return known
        found: dict[str, Option[Any]] = {}
        for owner in cls.__mro__:
            for value in vars(owner).values():
                if isinstance(value, Option):
                    found.setdefault(value.name, value)
        cls._declared = dict(sorted(found.items(), key=lambda item: item[1].rank))
        cls._needed = tuple(one for one in cls._declared.values() if one.needed)
        return cls._declared

    @classmethod
    def excluding(cls) -> tuple[tuple[str, ...], ...]:
        """Names of which at most one may be given, of the class and of those that it derives from."""
        known: tuple[tuple[str, ...], ...] | None = cls.__dict__.get("_excluding")
        if known is None:
            known = tuple(names for owner in cls.__mro__ for names in vars(owner).get("exclusive", ()))
            cls._excluding = known
        return known

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
        for one in cls._needed:
            if one.name not in options.values:
                raise UsageError(f"{_named(one)} is needed: {one.help}")
        options._check_exclusive()
        options.check()
        return options

    def _take(self, one: Option[Any], value: Any) -> None:
        if one.direct:
            self.values[one.name] = _arrays(one, value)
            return
        with located(_named(one)):
            texts = one.texts(value, typed=self.door != "python")
            for text in texts:
                _check_text(text, one)
            read = [_for_clip(one, text) if one.per_clip else one.kind.read(text) for text in texts]
        self.texts[one.name] = texts
        self.values[one.name] = tuple(read) if one.repeats else read[0]

    def _check_exclusive(self) -> None:
        for names in self.excluding():
            given = [name for name in names if name in self.values]
            if len(given) > 1 and not _for_different_clips([self.values[name] for name in given]):
                raise UsageError(f"{option(given[1])} cannot be combined with {option(given[0])}; use one of them")

    def check(self) -> None:
        """Raise `UsageError` where options contradict each other. Subclasses check theirs and call this."""

    def given(self, name: str) -> bool:
        return name in self.values

    def paths(self) -> list[str]:
        """Every file, folder and pattern that was given."""
        found: list[str] = []

        def noted(path: str) -> str:
            found.append(path)
            return path

        for name, one in self.declared().items():
            if one.from_folder:
                for text in self.texts.get(name, ()):
                    one.from_folder(text, noted)
        return found

    def made(self, move: Callable[[str], str]) -> dict[str, Any]:
        """Return what was given, for the manifest: by which the same can be made again; `move` makes paths relative to
        it.
        """
        kept: dict[str, Any] = {}
        for name, one in self.declared().items():
            if not one.kept or name not in self.texts or self.values[name] == one.default:
                continue
            texts = [one.from_folder(text, move) if one.from_folder else text for text in self.texts[name]]
            stored = [one.kind.stored(text) for text in texts]
            kept[name] = stored if one.many or len(stored) > 1 else stored[0]
        return kept


class ForClip(NamedTuple, Generic[T]):
    """A value for all clips (None), or for those whose names match a shell-style pattern."""

    clip: str | None
    value: T


def _for_clip(one: Option[Any], text: str) -> ForClip[Any]:
    """A value with or without the name of a clip in front of it."""
    name, colon, rest = (part.strip() for part in text.partition(":"))
    # a step may be before a colon too, and further on in an order a clip whose frames are meant
    if not colon or name.isdigit() or not name or "," in name:
        return ForClip(None, one.kind.read(text))
    with located(name):
        return ForClip(name, one.kind.read(rest))


def _for_different_clips(values: Sequence[Any]) -> bool:
    """Whether these are values for clips, no two for the same."""
    if not all(isinstance(each, tuple) and all(isinstance(one, ForClip) for one in each) for each in values):
        return False
    names = [clip for each in values for clip in {one.clip for one in each}]
    return len(names) == len(set(names))


def _check_text(text: str, one: Option[Any]) -> None:
    """Nothing is no value (a variable of a shell that was not set); and names go into manifests, which are UTF-8."""
    if not text.strip():
        raise UsageError(f"expected {one.form or 'a value'}, found nothing")
    try:
        text.encode()
    except UnicodeEncodeError as error:
        raise UsageError(f"{text} is not UTF-8; rename it") from error
    if "\0" in text:
        raise UsageError(f"{text} contains a NUL character; remove it")


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
    return did_you_mean(name, declared, kind="option", written=lambda close: _written(close, door))
