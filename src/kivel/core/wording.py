"""Counts and lists as people write them."""

from __future__ import annotations

from collections.abc import Sequence

__all__ = ["counted", "first_few"]


def counted(number: int, thing: str) -> str:
    """`1 cell`, `2 cells`.

    >>> [counted(number, "cell") for number in (1, 2)]
    ['1 cell', '2 cells']
    """
    return f"{number} {thing}" if number == 1 else f"{number} {thing}s"


def first_few(names: Sequence[str], most: int = 5) -> str:
    """
    >>> first_few(["a", "b", "c"], most=2)
    'a, b and 1 more'
    """
    rest = len(names) - most
    return ", ".join(names[:most]) + (f" and {rest} more" if rest > 0 else "")
