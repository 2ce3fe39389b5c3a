"""Rationals as 32-bit floats, rounded once, and the shortest text that gives the same float back."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache

import numpy as np

__all__ = ["float32_below", "float32_quotient_text", "float32_text", "float32_text_above"]

_MOST_EXACT = 1 << 24


def float32_text(value: Fraction) -> str:
    """The shortest decimal text of the 32-bit float that is nearest to a rational.

    Of whole numbers below 2^24 over each other, the quotient in 64 bits rounded to 32 is the one rounded once
    (Figueroa 1995, When is double rounding innocuous?); of others it is searched among the neighbours.

    >>> float32_text(Fraction(1, 10)), float32_text(Fraction(-3)), float32_text(Fraction(1, 3))
    ('0.1', '-3.0', '0.33333334')
    """
    return float32_quotient_text(value.numerator, value.denominator)


@lru_cache(maxsize=1 << 16)
def float32_quotient_text(over: int, under: int) -> str:
    """The same of two whole numbers, which need not be the smallest: thousands go by more quickly so."""
    return _text(_nearest(over, under))


def float32_text_above(value: Fraction) -> str:
    """The shortest decimal text of the smallest 32-bit float that is not below a rational.

    A float is below the rational exactly if it is below this float: what is compared with it errs at no boundary.

    >>> float32_text_above(Fraction(1, 4)), float32_text_above(Fraction(2, 3)), float32_text(Fraction(2, 3))
    ('0.25', '0.6666667', '0.6666667')
    """
    nearest = _nearest(value.numerator, value.denominator)
    return _text(nearest if Fraction(float(nearest)) >= value else np.nextafter(nearest, np.float32(np.inf)))


def float32_below(value: Fraction) -> np.float32:
    """The largest 32-bit float that is not above a rational.

    >>> float(float32_below(Fraction(2, 3))), float(float32_below(Fraction(1, 4)))
    (0.6666666269302368, 0.25)
    """
    nearest = _nearest(value.numerator, value.denominator)
    return nearest if Fraction(float(nearest)) <= value else np.nextafter(nearest, np.float32(-np.inf))


def _nearest(over: int, under: int) -> np.float32:
    nearest = np.float32(over / under)
    if not -_MOST_EXACT < over < _MOST_EXACT > under:
        value = Fraction(over, under)
        near = (np.nextafter(nearest, np.float32(-np.inf)), nearest, np.nextafter(nearest, np.float32(np.inf)))
        nearest = min(near, key=lambda one: (abs(Fraction(float(one)) - value), one != nearest))
    return nearest


def _text(value: np.float32) -> str:
    return str(np.format_float_positional(value, unique=True, trim="0"))
