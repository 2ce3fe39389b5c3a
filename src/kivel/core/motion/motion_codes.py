"""Vectors as pixels of a map: red is to the right, green is down, 128 of 255 is exactly no motion."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

import numpy as np

from kivel.core.motion.warping import Vectors
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Size, full_scale

__all__ = ["MotionReach", "MotionStorage", "decoded", "encoded", "reach_of", "recoded"]

_SMALL = 64
"""Pixels: frames up to this size are pixel art mostly, whose edges need all their vectors, and take little memory."""
_READABLE = 8
"""A reach is a whole number of this many parts of a pixel."""


class MotionReach(NamedTuple):
    """The longest motion across and down that a map can say, in pixels of the frame."""

    x: float
    y: float

    def scaled(self, across: float, down: float) -> MotionReach:
        """For frames of another size."""
        return MotionReach(self.x * across, self.y * down)


class MotionStorage(NamedTuple):
    """How a map is stored: bits a channel, and whether it is as large as the frames; None leaves that to their size."""

    bits: int = 8
    full: bool | None = None

    def parts(self, sizes: Iterable[Size]) -> int:
        """One side of frames of these sizes is this many of the map's."""
        sides = [side for size in sizes for side in size]
        full = max(sides) <= _SMALL if self.full is None else self.full
        return 1 if full or any(side % 2 for side in sides) else 2


def reach_of(fields: Iterable[Vectors]) -> MotionReach:
    """The smallest one that holds all vectors, rounded up; the same in both directions.

    Parameters
    ----------
    fields : iterable of (2, h, w) arrays
        In pixels of the frame.
    """
    longest = max((float(np.abs(vectors).max(initial=0)) for vectors in fields), default=0.0)
    parts = max(1, math.ceil(longest * _READABLE))
    return MotionReach(parts / _READABLE, parts / _READABLE)


def encoded(vectors: Vectors, reach: MotionReach, dtype: Any = np.uint8) -> Pixels:
    """An opaque image, (h, w, 4), of vectors, (2, h, w), in pixels of the frame.

    A component is `(code - middle) / (middle - 1) * reach`, where the middle is 128 in 8 bits, 32768 in 16. What is
    beyond the reach is cut off.
    """
    shares = np.stack([vectors[0] / np.float32(reach.x), vectors[1] / np.float32(reach.y)])
    shares = np.clip(shares, -1, 1)
    image = np.zeros((*vectors.shape[1:], 4), dtype)
    full = full_scale(image)
    middle = full // 2 + 1
    image[..., :2] = np.moveaxis(np.rint(shares * np.float32(middle - 1)) + middle, 0, -1)
    image[..., 3] = full
    return image


def recoded(image: Pixels, reach: MotionReach, other: MotionReach) -> Pixels:
    """The same vectors by another reach."""
    return encoded(decoded(image, reach), other, image.dtype)


def decoded(image: Pixels, reach: MotionReach) -> Vectors:
    """The vectors of a map, (2, h, w), in pixels of the frame."""
    middle = full_scale(image) // 2 + 1
    scale = np.array(reach, np.float32) / np.float32(middle - 1)
    codes = np.moveaxis(image[..., :2], -1, 0).astype(np.float32) - np.float32(middle)
    vectors: Vectors = codes * scale[:, None, None]
    return vectors
