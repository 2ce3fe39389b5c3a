"""Showing an image: scaled, over a backdrop, as 8 bits. For looking at; what is laid out is never changed this way."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.numbers import rational
from kivel.core.pixels.exposure import exposed
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.suggestions import did_you_mean

__all__ = [
    "Backdrop",
    "checkerboard",
    "over",
    "parse_backdrop",
    "parse_scale",
    "scaled_size",
    "to_8_bits",
]

Backdrop = tuple[int, int, int] | Literal["checker", "none"]

_CHECKER = (118, 146)
_CHECKER_PX = 8
_STRIP_ROWS = 64
"""A whole number of rows of squares, and again this many."""


def parse_backdrop(text: str, named: Mapping[str, str] | None = None) -> Backdrop:
    """`checker`, `none`, or a colour as `#rrggbb` or by a name.

    Raises
    ------
    UsageError
        If it is none of them.
    """
    if text == "checker":
        return "checker"
    if text == "none":
        return "none"
    named = named or {}
    digits = named.get(text.lower(), text).removeprefix("#")
    if len(digits) != 6 or any(digit not in "0123456789abcdefABCDEF" for digit in digits):
        hint = did_you_mean(text.lower(), named)
        raise UsageError(f"expected checker, none, or a colour like #20242c or slategray, found {text!r}{hint}")
    value = int(digits, 16)
    return value >> 16, value >> 8 & 255, value & 255


def parse_scale(text: str) -> Fraction:
    """`4`, `0.5` or `1/2`: above 0, at most 64.

    Raises
    ------
    UsageError
        If it is not.
    """
    scale = rational(text)
    if scale is None or not 0 < scale <= 64:
        raise UsageError(f"expected a scale above 0 and up to 64, like 4 or 1/2, found {text!r}")
    return scale


def scaled_size(size: Size, scale: Fraction) -> Size:
    """Rounded, at least one pixel."""
    return Size(max(1, round(size.w * scale)), max(1, round(size.h * scale)))


def to_8_bits(image: Pixels, *, is_color: bool = True) -> NDArray[np.uint8]:
    """Return (H, W, 4) `uint8`, as it can be shown and judged.

    16 bits are rounded to the nearest of 8. Float is light, and becomes sRGB at exposure 0; data that is no colour is
    stored as it is. What is above 1 or below 0 is cut off.
    """
    if image.dtype == np.uint8:
        return image
    if image.dtype == np.float32:
        if is_color:
            return np.asarray(exposed(image, 0), np.uint8)
        return np.asarray(np.rint(np.clip(np.nan_to_num(image), 0, 1) * 255), np.uint8)
    rounded = np.empty(image.shape, np.uint8)
    for first in range(0, len(image), _STRIP_ROWS):
        rows = slice(first, first + _STRIP_ROWS)
        rounded[rows] = (image[rows].astype(np.uint32) + 128) // 257
    return rounded


@lru_cache(maxsize=2)
def checkerboard(size: Size) -> NDArray[np.uint8]:
    """An opaque (H, W, 4) checkerboard of two middle greys, which neither dark nor bright art vanishes on.

    Many frames are laid on one: it cannot be changed.
    """
    rows = np.arange(size.h)[:, None] // _CHECKER_PX
    columns = np.arange(size.w) // _CHECKER_PX
    grey = np.where((rows + columns) % 2, *_CHECKER).astype(np.uint8)
    board = np.full((size.h, size.w, 4), 255, np.uint8)
    board[..., :3] = grey[..., None]
    board.setflags(write=False)
    return board


def over(image: NDArray[np.uint8], backdrop: Backdrop) -> NDArray[np.uint8]:
    """`image` over a backdrop, blended on sRGB values as browsers do; itself over `none`."""
    if backdrop == "none":
        return image
    height, width = image.shape[:2]
    if backdrop == "checker":
        below = checkerboard(Size(width, _STRIP_ROWS))  # every strip begins as the first does
    else:
        below = np.broadcast_to(np.array((*backdrop, 255), np.uint8), (_STRIP_ROWS, width, 4))
    blended = np.empty((height, width, 4), np.uint8)
    blended[..., 3] = 255
    for first in range(0, height, _STRIP_ROWS):
        rows = slice(first, first + _STRIP_ROWS)
        alpha = image[rows, :, 3].astype(np.uint16)
        rest = np.uint16(255) - alpha
        for channel in range(3):
            mixed = image[rows, :, channel] * alpha
            mixed += below[: len(rest), :, channel] * rest
            # a division by 255, rounded: exact for all that 16 bits hold here (Blinn 1995, Three Wrongs Make a Right)
            mixed += np.uint16(128)
            mixed += mixed >> np.uint16(8)
            mixed >>= np.uint16(8)
            blended[rows, :, channel] = mixed
    return blended
