"""Pictures in a terminal: two pixels to a character, in true colour."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.pixels.scaling import scaled

__all__ = ["fitted_size", "half_blocks", "scaled_to_window"]

_UPPER, _LOWER, _EMPTY = "\N{UPPER HALF BLOCK}", "\N{LOWER HALF BLOCK}", " "
_PLAIN = "\x1b[0m"
_VISIBLE_FROM = 128


def fitted_size(frame: Size, window: Size) -> Size:
    """As large as a window of this many pixels allows: enlarged by a whole number, or shrunk.

    >>> fitted_size(Size(32, 16), Size(100, 80)), fitted_size(Size(200, 100), Size(100, 80))
    (Size(w=96, h=48), Size(w=100, h=50))
    """
    whole = min(window.w // frame.w, window.h // frame.h)
    if whole:
        return Size(frame.w * whole, frame.h * whole)
    share = min(Fraction(window.w, frame.w), Fraction(window.h, frame.h))
    return Size(max(1, int(frame.w * share)), max(1, int(frame.h * share)))


def scaled_to_window(image: Pixels, window: Size) -> Pixels:
    """The image as large as the window allows."""
    height, width = image.shape[:2]
    size = fitted_size(Size(width, height), window)
    return scaled(image, size, filter="nearest" if size.w >= width else "box")


def half_blocks(image: NDArray[np.uint8]) -> list[str]:
    """A line of text for every two rows of a (H, W, 4) image; the terminal's own ground where alpha is below a half."""
    if image.shape[0] % 2:
        image = np.concatenate([image, np.zeros_like(image[:1])])
    return [_line(upper, lower) for upper, lower in zip(image[::2].tolist(), image[1::2].tolist(), strict=True)]


def _line(upper: list[list[int]], lower: list[list[int]]) -> str:
    parts: list[str] = []
    style = _PLAIN
    for above, below in zip(upper, lower, strict=True):
        wanted, sign = _cell(above, below)
        if wanted != style:
            parts.append(wanted)
            style = wanted
        parts.append(sign)
    return "".join([_PLAIN, *parts, _PLAIN])


def _cell(above: list[int], below: list[int]) -> tuple[str, str]:
    """How to set the colours, and the sign."""
    shown_above, shown_below = above[3] >= _VISIBLE_FROM, below[3] >= _VISIBLE_FROM
    if shown_above and shown_below:
        return f"\x1b[38;2;{_rgb(above)};48;2;{_rgb(below)}m", _UPPER
    if shown_above:
        return f"\x1b[0;38;2;{_rgb(above)}m", _UPPER
    if shown_below:
        return f"\x1b[0;38;2;{_rgb(below)}m", _LOWER
    return _PLAIN, _EMPTY


def _rgb(pixel: list[int]) -> str:
    return f"{pixel[0]};{pixel[1]};{pixel[2]}"
