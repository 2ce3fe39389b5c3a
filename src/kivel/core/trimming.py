"""What of a frame is worth its place on a page: the box of what it shows, what surrounds that, and what is the same."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kivel.core.digest import pixel_digest
from kivel.core.maps import Content
from kivel.core.pixels import Box, Pixels, Rect, Value, is_opaque, opaque_bounds, size_of

__all__ = ["content_box", "drawn_box", "mask_bounds", "same_key", "surroundings"]


def mask_bounds(mask: NDArray[np.bool_]) -> Box:
    """The smallest rectangle that holds every True of an (H, W) mask; None when there is none."""
    rows = np.flatnonzero(mask.any(axis=1))
    if not rows.size:
        return None
    columns = np.flatnonzero(mask.any(axis=0))
    x, y = int(columns[0]), int(rows[0])
    return Rect(x, y, int(columns[-1]) + 1 - x, int(rows[-1]) + 1 - y)


def content_box(image: Pixels, content: Content, *, threshold: float = 0) -> Box:
    """The box of what a frame of a map shows.

    That is where alpha exceeds `threshold` (in the image's own units); where a data map or a companion has no alpha at
    all, what is not neutral.
    """
    if not is_opaque(image):
        return opaque_bounds(image, threshold=threshold)
    neutral = np.array(content.ground(image.dtype, opaque=True), image.dtype)
    return mask_bounds((image != neutral).any(axis=-1))


def drawn_box(image: Pixels) -> Box:
    """The box of every pixel that is visible, or of another colour under alpha 0 than the top left corner.

    What lies outside has one value: nothing is lost with it.
    """
    corner = image[0, 0]
    if corner[3]:
        return opaque_bounds(image) if not image[..., 3].all() else Rect(0, 0, *size_of(image))
    return mask_bounds((image != corner).any(axis=-1))


def surroundings(image: Pixels, box: Rect) -> list[Value]:
    """The values around a box: none if it fills the frame, the only one, or two of several."""
    parts = [
        image[: box.y],
        image[box.bottom :],
        image[box.y : box.bottom, : box.x],
        image[box.y : box.bottom, box.right :],
    ]
    parts = [part for part in parts if part.size]
    if not parts:
        return []
    first = parts[0][0, 0]
    for part in parts:
        other = (part != first).any(axis=-1)
        if other.any():
            row, column = np.argwhere(other)[0]
            return [_value(first), _value(part[row, column])]
    return [_value(first)]


def _value(pixel: Pixels) -> Value:
    red, green, blue, alpha = pixel.tolist()
    return red, green, blue, alpha


def same_key(part: Pixels, *, hidden_counts: bool = True) -> str:
    """Equal for equal pixels; unless `hidden_counts`, whatever colour lies under alpha 0."""
    if not hidden_counts:
        part = np.where(part[..., 3:] == 0, np.zeros(4, part.dtype), part)
    return pixel_digest(part)
