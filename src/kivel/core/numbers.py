"""Numbers as people write them, within bounds: a text of a few characters must not mean a number without end."""

from __future__ import annotations

import re
from fractions import Fraction

__all__ = ["LONGEST", "decimal", "rational", "whole_number"]

LONGEST = 18
"""Digits of a number, before and behind the point together; as many as fit 64 bits."""
_DECIMAL = r"[+-]?(?:[0-9]+\.?[0-9]*|\.[0-9]+)"


def whole_number(text: str) -> int | None:
    """Digits and nothing else; None for what is no such number, or too long.

    >>> [whole_number(text) for text in ("42", "-1", "1e9", "9" * 19)]
    [42, None, None, None]
    """
    return int(text) if text.isascii() and text.isdigit() and len(text) <= LONGEST else None


def rational(text: str) -> Fraction | None:
    """`12`, `-29.97` or `24000/1001`, exactly; None for what is no such number, has an exponent, or is too long.

    >>> [rational(text) for text in ("29.97", "24000/1001", "1e9", "1/0")]
    [Fraction(2997, 100), Fraction(24000, 1001), None, None]
    """
    above, stroke, below = text.strip().partition("/")
    parts = [_exact(above), _exact(below) if stroke else Fraction(1)]
    if parts[0] is None or not parts[1]:
        return None
    return parts[0] / parts[1]


def decimal(text: str) -> float | None:
    """The nearest float; None for what is no number without an exponent, or too long.

    >>> [decimal(text) for text in ("-0.5", "nan", "inf", "1e3")]
    [-0.5, None, None, None]
    """
    exact = _exact(text.strip())
    return None if exact is None else float(exact)


def _exact(text: str) -> Fraction | None:
    if not re.fullmatch(_DECIMAL, text) or sum(map(str.isdigit, text)) > LONGEST:
        return None
    return Fraction(text)
