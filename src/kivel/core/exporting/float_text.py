"""Rationals as 32-bit floats, rounded once, and the shortest text that gives the same float back."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache

import numpy as np

__all__ = ["float32_text"]

_MOST_EXACT = 1 << 24


@lru_cache(maxsize=1 << 12)
def float32_text(value: Fraction) -> str:
    """The shortest decimal text of the 32-bit float that is nearest to a rational.

    Of whole numbers below 2^24 over each other, the quotient in 64 bits rounded to 32 is the one rounded once
    (Figueroa 1995, When is double rounding innocuous?); of others it is searched among the neighbours.

    >>> float32_text(Fraction(1, 10)), float32_text(Fraction(-3)), float32_text(Fraction(1, 3))
    ('0.1', '-3.0', '0.33333334')
    """
    nearest = np.float32(value.numerator / value.denominator)
    if max(abs(value.numerator), value.denominator) >= _MOST_EXACT:
        near = (np.nextafter(nearest, np.float32(-np.inf)), nearest, np.nextafter(nearest, np.float32(np.inf)))
        nearest = min(near, key=lambda one: (abs(Fraction(float(one)) - value), one != nearest))
    return str(np.format_float_positional(nearest, unique=True, trim="0"))
