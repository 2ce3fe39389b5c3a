"""Describes what companion maps hold: how their values are filtered, and which value says nothing.

Known by their names: `normal`, `motion` and `mask` are data, all others colour.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import ContentName
from kivel.core.pixels.light import Kind, from_light, to_light
from kivel.core.pixels.pixels import Pixels, Value
from kivel.core.room import require_room

__all__ = ["CONTENTS", "Content", "content_of", "empty", "grounded"]


class Content(NamedTuple):
    """How values are filtered, and the neutral red, green and blue as shares of full."""

    name: ContentName
    kind: Kind
    neutral: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def ground(self, dtype: Any, *, opaque: bool) -> Value:
        """The value of empty space, red, green, blue and alpha as stored.

        >>> CONTENTS["normal"].ground(np.uint8, opaque=True)
        (128, 128, 255, 255)
        """
        if np.dtype(dtype) == np.float32:
            return (*self.neutral, 1.0 if opaque else 0.0)
        full = int(np.iinfo(dtype).max)
        red, green, blue = (int(share * full + 0.5) for share in self.neutral)
        return red, green, blue, full if opaque else 0


CONTENTS: dict[str, Content] = {
    content.name: content
    for content in (
        Content("color", "color"),
        Content("mask", "mask"),
        Content("normal", "normal", (0.5, 0.5, 1.0)),
        Content("normal-down", "normal-down", (0.5, 0.5, 1.0)),
        Content("motion", "mask", (0.5, 0.5, 0.0)),
    )
}
"""Says what a map may be said to hold."""


def content_of(name: str) -> Content:
    """Return what a map of this name holds unless stated otherwise."""
    return CONTENTS.get(name, CONTENTS["color"])


def grounded(image: Pixels, cover: NDArray[np.float32], content: Content, *, opaque: bool) -> Pixels:
    """A frame of a map that was moved, with the neutral value where nothing of it lies any more.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight alpha; transparent where nothing came to lie.
    cover : (H, W) array
        How much of each pixel is the frame's own, 0 to 1.
    opaque : bool
        The frame was, before it was moved: it stays so, and what it covers in part is mixed with the neutral value.
    """
    if (cover >= 1).all():
        return image
    if not opaque:
        ground = np.array(content.ground(image.dtype, opaque=False), image.dtype)
        return np.where((cover <= 0)[..., None], ground, image)
    light = to_light(image, content.kind)
    ground_light = to_light(np.array([[content.ground(image.dtype, opaque=True)]], image.dtype), content.kind)
    # what covers a part is weighted by it already: alpha of colours and normals, the values of a mask
    light += ground_light * (1 - cover)
    light[3] = 1
    mixed = from_light(light, image.dtype, content.kind)
    return np.where((cover >= 1)[..., None], image, mixed)


def empty(content: Content, shape: tuple[int, int], dtype: Any, *, opaque: bool) -> Pixels:
    """(H, W, 4) of nothing but the ground."""
    require_room(shape[1], shape[0], bits=8 * np.dtype(dtype).itemsize, what="the page would have")
    page = np.zeros((*shape, 4), dtype)
    ground = content.ground(dtype, opaque=opaque)
    if any(ground):
        page[...] = np.array(ground, dtype)
    return page
