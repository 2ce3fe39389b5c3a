"""Counts and lists as people write them."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

__all__ = ["WARNING", "as_text", "counted", "counted_from_0", "first_few", "printable"]

_UNPRINTABLE = (
    # control characters; marks and overrides of direction, which turn round what follows; other ends of a line; halves
    # of characters, which no encoding has
    "[\x00-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff\ud800-\udfff]"
)


WARNING = "warning: "
"""Begins a note on what somebody may not have wanted."""


def unique_names(names: Sequence[str]) -> list[str]:
    """The names, those that were there before with a number: `moth`, `moth-2`.

    >>> unique_names(["a", "b", "a", "a-2", "a"])
    ['a', 'b', 'a-2', 'a-2-2', 'a-3']
    """
    taken: set[str] = set()
    result = []
    for name in names:
        own, number = name, 2
        while own in taken:
            own, number = f"{name}-{number}", number + 1
        taken.add(own)
        result.append(own)
    return result


def printable(text: str) -> str:
    """A line of text with whatever would act on a terminal, or on what follows, written as an escape.

    >>> printable("moth\\x1b[31m\\n")
    'moth\\\\x1b[31m\\\\n'
    """
    return as_text(text, lambda character: repr(character)[1:-1])


def as_text(text: str, escape: Callable[[str], str]) -> str:
    """The same with an escape of one's own."""
    if text.isprintable():  # nearly always; the expression is not even compiled then
        return text
    return re.sub(_UNPRINTABLE, lambda match: escape(match[0]), text)


def counted(number: int, thing: str) -> str:
    """`1 cell`, `2 cells`.

    >>> [counted(number, "cell") for number in (1, 2)]
    ['1 cell', '2 cells']
    """
    return f"{number} {thing}" if number == 1 else f"{number} {thing}s"


def counted_from_0(number: int, thing: str) -> str:
    """With what they are called by.

    >>> [counted_from_0(number, "frame") for number in (1, 2)]
    ['1 frame, 0', '2 frames, 0-1']
    """
    return f"{counted(number, thing)}, 0" + (f"-{number - 1}" if number > 1 else "")


def first_few(names: Sequence[str], most: int = 5) -> str:
    """
    >>> first_few(["a", "b", "c"], most=2)
    'a, b and 1 more'
    """
    rest = len(names) - most
    return ", ".join(names[:most]) + (f" and {rest} more" if rest > 0 else "")
