"""Working through a picture a band of rows at a time, where each pixel is looked at by itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import wraps
from typing import Concatenate, ParamSpec

import numpy as np

from kivel.core.pixels.pixels import Pixels

__all__ = ["in_bands", "row_bands"]

P = ParamSpec("P")

_PIXELS = 1 << 16
"""In a band: what is worked out on the way stays in the cache, and is small beside the picture."""


def row_bands(height: int, width: int, *, pixels: int = _PIXELS, multiple: int = 1) -> Iterator[slice]:
    """Yield the rows of a picture from the top, in bands of this many pixels; each begins at a multiple."""
    rows = max(1, pixels // max(1, width) // multiple) * multiple
    for first in range(0, height, rows):
        yield slice(first, min(first + rows, height))


def in_bands(change: Callable[Concatenate[Pixels, P], Pixels]) -> Callable[Concatenate[Pixels, P], Pixels]:
    """Return `change`, done by bands: for one that changes each pixel of (H, W, 4) by itself, and no depth."""

    @wraps(change)
    def by_bands(image: Pixels, /, *args: P.args, **options: P.kwargs) -> Pixels:
        if getattr(image, "ndim", 0) != 3 or image.shape[0] * image.shape[1] <= _PIXELS:
            return change(image, *args, **options)
        changed: Pixels = np.empty_like(image)
        for rows in row_bands(*image.shape[:2]):
            changed[rows] = change(image[rows], *args, **options)
        return changed

    return by_bands
