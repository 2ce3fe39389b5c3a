"""Describes what the values of a document's model are, beyond their types: said once, for readers, errors and schemas.

A type says it as `Annotated[int, Holds(least=0)]`, which nothing evaluates before a document is read; a field of a
record by `described("What it is.", default=0)`.
"""

from __future__ import annotations

import dataclasses
from typing import Annotated, Any

from kivel.core.named_tuples import NamedTuple
from kivel.core.numbers import LONGEST

__all__ = ["MOST", "Count", "From1", "Holds", "described"]


class Holds(NamedTuple):
    """Holds what a value means, and which values it may have.

    `about` describes it in a schema, where what has a `name` is a definition of its own. Numbers lie from `least` or
    `above`, up to `most`. A list has at least `fewest` items; `items` is the type of them all, in place of those that
    Python states. A table has the `keys`, and perhaps others. A text has the `pattern`, as JSON Schema writes it.
    `like` says in an error what is expected, with an example.
    """

    about: str = ""
    name: str = ""
    least: int | None = None
    above: int | None = None
    most: int | None = None
    fewest: int = 0
    items: Any = None
    keys: tuple[str, ...] = ()
    pattern: str = ""
    like: str = ""


MOST = 10**LONGEST - 1
Count = Annotated[int, Holds("At most 18 digits, as any number here.", name="count", least=0, most=MOST)]
From1 = Annotated[int, Holds(name="from1", least=1, most=MOST)]


def described(about: str, *, default: Any = dataclasses.MISSING, **holds: Any) -> Any:
    """Return the field of a record, with what it means and may hold."""
    return dataclasses.field(default=default, metadata={"holds": Holds(about, **holds)})
