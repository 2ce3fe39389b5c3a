"""Describes what of a frame is worth its place on a page: the box of what it shows, what surrounds that, and what is
the same.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.contents import Content
from kivel.core.digest import pixel_digest
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Box, Pixels, Rect, Value, is_opaque, size_of, visibility

__all__ = ["AlphaProfile", "content_box", "drawn_box", "mask_bounds", "same_key", "surroundings"]


def mask_bounds(mask: NDArray[np.bool_]) -> Box:
    """The smallest rectangle that holds every True of an (H, W) mask; None when there is none."""
    rows = np.flatnonzero(mask.any(axis=1))
    if not rows.size:
        return None
    columns = np.flatnonzero(mask.any(axis=0))
    x, y = int(columns[0]), int(rows[0])
    return Rect(x, y, int(columns[-1]) + 1 - x, int(rows[-1]) + 1 - y)


class AlphaProfile(NamedTuple):
    """The greatest alpha of each row and of each column: the bounds above any threshold follow from it."""

    rows: NDArray[Any]
    columns: NDArray[Any]

    @classmethod
    def of(cls, image: Pixels) -> AlphaProfile:
        alpha = np.ascontiguousarray(visibility(image))
        return cls(alpha.max(axis=1), alpha.max(axis=0))

    def bounds(self, threshold: float) -> Box:
        """The box of alpha above a threshold, in the image's own units; None when there is none."""
        rows, columns = (np.flatnonzero(greatest > threshold) for greatest in self)
        if not rows.size:
            return None
        x, y = int(columns[0]), int(rows[0])
        return Rect(x, y, int(columns[-1]) + 1 - x, int(rows[-1]) + 1 - y)


def content_box(image: Pixels, content: Content, *, threshold: float = 0) -> Box:
    """The box of what a frame of a companion map shows.

    That is where alpha exceeds `threshold` (in the image's own units); where it has no alpha at all, what is not
    neutral.
    """
    if not is_opaque(image):
        return AlphaProfile.of(image).bounds(threshold)
    neutral = np.array(content.ground(image.dtype, opaque=True), image.dtype)
    return mask_bounds((image != neutral).any(axis=-1))


def drawn_box(image: Pixels) -> Box:
    """The box of every pixel that is visible, or of another colour under alpha 0 than the top left corner.

    What lies outside has one value: nothing is lost with it. Where that corner is visible, all of the frame.
    """
    corner = image[0, 0]
    if corner[3]:
        return Rect(0, 0, *size_of(image))
    return mask_bounds((image != corner).any(axis=-1))


def surroundings(image: Pixels, box: Rect) -> list[Value]:
    """The values around a box: none if it fills the frame, the only one, or two of several."""
    whole = _words(image)
    beside = slice(box.y, box.bottom)
    around = (whole[: box.y], whole[box.bottom :], whole[beside, : box.x], whole[beside, box.right :])
    parts = [part for part in around if part.size]
    if not parts:
        return []
    first = parts[0][0, 0]
    for part in parts:
        other = (part != first).any(axis=-1)
        if other.any():
            row, column = np.argwhere(other)[0]
            return [_value(first, image), _value(part[row, column], image)]
    return [_value(first, image)]


def _words(image: Pixels) -> NDArray[Any]:
    """(H, W, n): pixels as the fewest whole numbers, to be compared at once."""
    return np.ascontiguousarray(image).view(np.uint32 if image.dtype == np.uint8 else np.uint64)


def _value(words: NDArray[Any], image: Pixels) -> Value:
    red, green, blue, alpha = np.ascontiguousarray(words).view(image.dtype).tolist()
    return red, green, blue, alpha


def same_key(part: Pixels, *, hidden_counts: bool = True) -> str:
    """Equal for equal pixels; unless `hidden_counts`, whatever colour lies under alpha 0."""
    if not hidden_counts:
        part = np.where(part[..., 3:] == 0, np.zeros(4, part.dtype), part)
    return pixel_digest(part)
