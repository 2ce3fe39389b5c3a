"""Documents and the models of what they say: what a type expects, where a value is none of it, within which bounds.

A model is a record, a named tuple or a struct of msgspec, of which types and `Holds` say what its fields are.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import fields, is_dataclass
from fractions import Fraction
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, NamedTuple, Union, get_args, get_origin, get_type_hints

from kivel.core.fields import Holds
from kivel.core.suggestions import did_you_mean

__all__ = [
    "FieldType",
    "KeyPath",
    "Problem",
    "bounds_problem",
    "expected",
    "field_types",
    "key_path_text",
    "type_of",
    "value_problem",
    "without_problem",
]

KeyPath = tuple[str | int, ...]
"""Keys, and the numbers of items in lists, from 0: ("frames", 2, "rect")."""

_LONG = 40
_PLAIN: dict[Any, str] = {int: "a whole number", float: "a number", str: "text", bool: "true or false"}


class Problem(NamedTuple):
    """A fault in a document: what is wrong and where; `at` is where the value is, or should be."""

    place: KeyPath
    message: str
    at: KeyPath


class FieldType(NamedTuple):
    """A type without what Python writes around it: the one that a document may state, and what it holds.

    `kind` is a class, `Literal`, `tuple`, `list` or `dict`, with its `arguments`; `nullable` where it may be nothing.
    """

    kind: Any
    arguments: tuple[Any, ...]
    holds: tuple[Holds, ...]
    nullable: bool

    def stated(self, name: str) -> Any:
        """Return what the outermost description says, of those that say anything."""
        usual = Holds._field_defaults[name]
        return next((value for one in reversed(self.holds) if (value := getattr(one, name)) != usual), usual)

    @property
    def is_model(self) -> bool:
        """Whether it has fields: a record, or a struct."""
        return isinstance(self.kind, type) and (is_dataclass(self.kind) or hasattr(self.kind, "__struct_fields__"))

    @property
    def items(self) -> tuple[FieldType, ...]:
        """The types of the items of a list of fixed length, of a fraction's two numbers; none of anything else."""
        stated, inner = self.stated("items"), self.arguments
        if isinstance(stated, tuple):
            inner, stated = stated, None
        elif hasattr(self.kind, "_fields"):
            inner = tuple(_hints(self.kind)[name] for name in self.kind._fields)
        elif self.kind is not tuple or inner[-1] is ...:
            return ()
        return tuple(type_of(one if stated is None else stated) for one in inner)

    def inner(self, key: str | int) -> FieldType:
        """The type of what is under a key, or at a place in a list."""
        if self.is_model:
            return field_types(self.kind)[str(key)]
        return self.each or self.items[int(key)]

    @property
    def each(self) -> FieldType | None:
        """The type of every item of a list of any length, or of every value of a table."""
        if self.kind is dict:
            return None if self.arguments[1] is Any else type_of(self.arguments[1])
        return type_of(self.arguments[0]) if self.kind is list or (self.kind is tuple and not self.items) else None


@cache
def type_of(hint: Any) -> FieldType:
    """
    >>> type_of(Annotated[int, Holds(least=1)] | None)[:2]
    (<class 'int'>, ())
    """
    if get_origin(hint) is Annotated:
        first, *holds = get_args(hint)
        inner = type_of(first)
        return inner._replace(holds=(*inner.holds, *(one for one in holds if isinstance(one, Holds))))
    if get_origin(hint) in (Union, UnionType):
        inner_types = [type_of(one) for one in get_args(hint) if one is not NoneType]
        wider = next((one for one in inner_types if one.kind is float), inner_types[0])
        return wider._replace(nullable=NoneType in get_args(hint) or _is_forever(inner_types[-1]))
    return FieldType(get_origin(hint) or hint, get_args(hint), (), nullable=False)


def _is_forever(kind: FieldType) -> bool:
    """A word in the place of a number, which documents write as null."""
    return kind.kind is Literal and kind.arguments == ("forever",)


@cache
def _hints(model: type) -> dict[str, Any]:
    """The types of a class's attributes, which are slow to ask for."""
    return get_type_hints(model, include_extras=True)


@cache
def field_types(model: type) -> dict[str, FieldType]:
    """Return the types of a model's fields but `extra`, in their order, with the text about them."""
    hints = _hints(model)
    if not is_dataclass(model):
        return {name: type_of(hints[name]) for name in model.__struct_fields__}  # type: ignore[attr-defined]
    found = {}
    for field in fields(model):
        kind, holds = type_of(hints[field.name]), field.metadata.get("holds")
        if field.name != "extra":
            found[field.name] = kind._replace(holds=(*kind.holds, holds)) if holds else kind
    return found


def key_path_text(place: KeyPath) -> str:
    """
    >>> key_path_text(("region", 2, "rect"))
    'region[2].rect'
    """
    return "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in place).removeprefix(".")


def value_problem(error: Exception, content: Any, model: type) -> Problem:
    """Return where a value is not what its model expects, and what is expected there, from what msgspec says.

    `content` is the document that it would not convert.
    """
    said, _, where = str(error).partition(" - at `")
    missing = re.search(r"missing required field `(.*?)`", said)
    unknown = re.search(r"unknown field `(.*?)`", said)
    place: KeyPath = ()
    kind, found = type_of(model), content
    parts = [key or index for key, index in re.findall(r"\.([^.\[\]`]+)|\[(\d+|\.\.\.)\]", where)]
    for number, part in enumerate(parts):
        key: str | int = int(part) if part.isdigit() and isinstance(found, list) else part
        if part == "...":  # a value of a table, whose key it does not tell
            key = _odd_key(found, kind, parts[number + 1 :], missing and missing[1])
        kind, found, place = kind.inner(key), found[key], (*place, key)
    if missing:
        like, at = kind.inner(missing[1]).stated("like"), (*place, missing[1])
        if like:
            return Problem(at, f"expected {like}, found nothing", at)
        return Problem(place, f"{missing[1]} is needed", at)
    if unknown:
        known = list(field_types(kind.kind))
        meant = did_you_mean(unknown[1], known, otherwise=f"there are {', '.join(known)}")
        return Problem((*place, unknown[1]), f"unknown key{meant}", (*place, unknown[1]))
    return Problem(place, f"expected {expected(kind)}, found {_shown(found)}", place)


def without_problem(content: Any, place: KeyPath, model: type) -> bool:
    """Leave out what does not fit at a place, or put something there that does, to find what else is wrong.

    `content` is changed; False where neither can be done. Items of lists stay where they are, for others are counted.
    """
    *way, last = place or ("",)
    holder: Any = content
    kind = type_of(model)
    for part in way:
        holder, kind = holder[part], kind.inner(part)
    if not isinstance(holder, dict):
        return without_problem(content, tuple(way), model)
    known = field_types(kind.kind).get(str(last)) if kind.is_model else None
    fitting = known and {str: "x", int: 1, float: 1.0, bool: False, Literal: next(iter(known.arguments), 0)}.get(
        known.kind
    )
    if fitting is not None:
        holder[last] = fitting
    elif last in holder:
        del holder[last]
    else:
        return False
    return True


def _odd_key(table: dict[str, Any], kind: FieldType, rest: list[str], missing: str | None) -> str:
    """The key of a table under which, by the rest of the way, is what is not expected, or something is missing."""
    for name, value in table.items():
        inner, found, follows = kind.inner(name), value, True
        for part in rest:
            key: str | int = int(part) if part.isdigit() and isinstance(found, list) else part
            follows = isinstance(found, (dict, list)) and (key in found if isinstance(found, dict) else True)
            if not follows:
                break
            inner, found = inner.inner(key), found[key]
        odd = isinstance(found, dict) and missing not in found if missing else not _fits(inner, found)
        if follows and odd:
            return name
    return next(iter(table))


def _fits(kind: FieldType, value: Any) -> bool:
    """Whether a value looks as one of a type does in a document; its contents are not checked."""
    if kind.kind is Literal:
        return value in kind.arguments and not isinstance(value, bool)
    if kind.is_model or kind.kind is dict:
        return isinstance(value, dict)
    if kind.items or kind.each:
        return isinstance(value, list) and len(value) == (len(kind.items) or len(value))
    return isinstance(value, (int, float) if kind.kind is float else kind.kind) and (
        kind.kind is bool or not isinstance(value, bool)
    )


def expected(kind: FieldType) -> str:
    """Return what a value of a type is, in words.

    >>> expected(type_of(Annotated[int, Holds(least=1)]))
    'a whole number, 1 or more'
    """
    if kind.stated("like"):
        return str(kind.stated("like"))
    if kind.kind is Literal:
        *first, last = map(str, kind.arguments)
        return f"{', '.join(first)} or {last}" if first else last
    if kind.is_model or kind.kind is dict:
        return "a table"
    if kind.items:
        return f"a list of {len(kind.items)}"
    if kind.each:
        return "a list"
    least, above = kind.stated("least"), kind.stated("above")
    limit = f", {least} or more" if least is not None else f" above {above}" if above is not None else ""
    return _PLAIN[kind.kind] + limit


def _shown(value: Any) -> str:
    if isinstance(value, bool) or value is None:
        return {True: "true", False: "false", None: "null"}[value]
    words: dict[Any, str] = {dict: "a table", list: "a list"}
    text = repr(value)
    return text if len(text) <= _LONG else words.get(type(value), f"{text[: _LONG - 3]}...")


def bounds_problem(value: Any, model: type) -> Problem | None:
    """Return where a value of a model is not within the bounds that its descriptions state; None if it all is."""
    look = _checker(type_of(model))
    found = look(value) if look else None
    return Problem(*found, found[0]) if found else None


Check = Callable[[Any], tuple[KeyPath, str] | None]


@cache
def _checker(kind: FieldType) -> Check | None:
    """Return what looks at values of a type, made once; None where nothing in them has bounds."""
    if kind.is_model:
        return _of_fields(kind)
    if kind.items:
        return _of_items(kind)
    if kind.each:
        return _of_each(kind)
    has_bounds = kind.stated("least") is not None or kind.stated("above") is not None
    return _of_number(kind) if has_bounds else None


def _of_fields(kind: FieldType) -> Check | None:
    inner = [(name, look) for name, one in field_types(kind.kind).items() if (look := _checker(one))]

    def check(value: Any) -> tuple[KeyPath, str] | None:
        for name, look in inner:
            item = getattr(value, name)
            if item is not None and (problem := look(item)):
                return (name, *problem[0]), problem[1]
        return None

    return check if inner else None


def _of_items(kind: FieldType) -> Check | None:
    checks = [_checker(one) for one in kind.items]

    def check(value: Any) -> tuple[KeyPath, str] | None:
        items = (value.numerator, value.denominator) if isinstance(value, Fraction) else value
        for number, look in enumerate(checks):
            if look and (problem := look(items[number])):
                return (number, *problem[0]), problem[1]
        return None

    return check if any(checks) else None


def _of_each(kind: FieldType) -> Check | None:
    assert kind.each
    look, fewest = _checker(kind.each), kind.stated("fewest")

    def check(value: Any) -> tuple[KeyPath, str] | None:
        if len(value) < fewest:
            return (), f"expected at least {fewest}, found {len(value) or 'none'}"
        for key, item in value.items() if kind.kind is dict else enumerate(value):
            if look and (problem := look(item)):
                return (key, *problem[0]), problem[1]
        return None

    return check if look or fewest else None


def _of_number(kind: FieldType) -> Check:
    least, above, most = (kind.stated(name) for name in ("least", "above", "most"))

    def check(value: Any) -> tuple[KeyPath, str] | None:
        if not isinstance(value, (int, float)):
            return None  # nothing, or the word for one
        if (least is not None and value < least) or (above is not None and value <= above):
            return (), f"expected {expected(kind)}, found {_shown(value)}"
        if most is not None and value > most:
            return (), f"expected at most {most}, found {_shown(value)}"
        return None

    return check
