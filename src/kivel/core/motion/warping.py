"""Warping: what a shader shows between two frames, and the sampling that it takes.

Images are planar, `(channels, height, width)` `float32`, as `kivel.core.pixels.light` has them. Vectors are `(2,
height, width)`, x to the right and y down, in pixels of the image that they are used on. They point from where a thing
is in the earlier frame to where it is in the later one, and lie where it is half way between.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["Planes", "Vectors", "enlarged", "faded", "halved", "places", "sampled", "warped"]

Planes = NDArray[np.float32]
Vectors = NDArray[np.float32]

_STRIP_PIXELS = 4096
"""Few enough at once that intermediate results stay in the processor's cache."""


def places(height: int, width: int, rows: slice = slice(None)) -> Planes:
    """(2, H, W): x and y of every pixel, or of those in some rows."""
    down = np.arange(height, dtype=np.float32)[rows, None]
    return np.stack(np.broadcast_arrays(np.arange(width, dtype=np.float32), down))


def sampled(image: Planes, at: Planes, *, wraps: bool = False) -> Planes:
    """Bilinear samples of an image, beyond its borders those of the border, or of its other side.

    Parameters
    ----------
    image : (C, H, W) float32 array
    at : (2, h, w) float32 array
        x and y in pixels; (0, 0) is the middle of the first pixel.

    Returns
    -------
    (C, h, w) float32 array
    """
    image = _at_least_two(image, wraps)
    result = np.empty((len(image), *at.shape[1:]), np.float32)
    rows = max(1, _STRIP_PIXELS // at.shape[2])
    for first in range(0, at.shape[1], rows):
        part = slice(first, first + rows)
        result[:, part] = _strip(image, at[0, part], at[1, part], wraps)
    return result


def _at_least_two(image: Planes, wraps: bool) -> Planes:
    """With a row and a column from the other side behind the last where it wraps; else none less than two."""
    if wraps:
        return np.pad(image, ((0, 0), (0, 1), (0, 1)), mode="wrap")
    more = [(0, 0), *((0, max(0, 2 - length)) for length in image.shape[1:])]
    return np.pad(image, more, mode="edge") if any(end for _, end in more) else image


def _strip(image: Planes, x: Planes, y: Planes, wraps: bool) -> Planes:
    height, width = image.shape[1:]
    if wraps:
        x, y = x % np.float32(width - 1), y % np.float32(height - 1)
    x, y = np.clip(x, 0, width - 1), np.clip(y, 0, height - 1)
    left, top = np.minimum(x.astype(np.int64), width - 2), np.minimum(y.astype(np.int64), height - 2)
    x -= left.astype(np.float32)
    y -= top.astype(np.float32)
    index = (top * width + left).reshape(-1)
    x, y = x.reshape(-1), y.reshape(-1)
    flat = image.reshape(len(image), -1)
    above = _mixed(flat, index, x)
    index += width
    above += (_mixed(flat, index, x) - above) * y
    return above.reshape(len(image), *top.shape)


def _mixed(flat: Planes, index: NDArray[np.int64], share: Planes) -> Planes:
    """Return views of the values at an index and after it."""
    first = flat.take(index, axis=1, mode="clip")
    more = flat.take(index + 1, axis=1, mode="clip")
    more -= first
    more *= share
    more += first
    return more


def warped(earlier: Planes, later: Planes, vectors: Vectors, time: float, *, wraps: bool = False) -> Planes:
    """Return what lies between two frames: both are warped towards each other, then faded.

    Parameters
    ----------
    earlier, later : (C, H, W) float32 arrays
        Premultiplied, in linear light.
    vectors : (2, H, W) float32 array
        In pixels. Where they are 0, it is the cross-fade.
    time : float
        0 is the earlier frame, 1 the later one.
    wraps : bool
        The frames are tiles: what leaves one side comes in at the other.
    """
    at = places(*earlier.shape[1:])
    first = sampled(earlier, at - np.float32(time) * vectors, wraps=wraps)
    second = sampled(later, at + np.float32(1 - time) * vectors, wraps=wraps)
    return faded(first, second, time)


def faded(first: Planes, second: Planes, share: float) -> Planes:
    """Return what lies between two images; the second is overwritten."""
    second -= first
    second *= np.float32(share)
    second += first
    return second


def halved(image: Planes) -> Planes:
    """(C, H, W) at half its size, odd ones rounded up: means of 2 x 2 pixels."""
    odd = [(0, 0), *((0, length % 2) for length in image.shape[1:])]
    if any(end for _, end in odd):
        image = np.pad(image, odd, mode="edge")
    result = image[:, ::2, ::2] + image[:, 1::2, ::2]
    result += image[:, ::2, 1::2]
    result += image[:, 1::2, 1::2]
    result *= np.float32(0.25)
    return result


def enlarged(vectors: Vectors, height: int, width: int, *, wraps: bool = False, rows: slice = slice(None)) -> Vectors:
    """Vectors at another size, or some rows of that, filtered as a texture is; their lengths stay as they are."""
    own_height, own_width = vectors.shape[1:]
    if (own_height, own_width) == (height, width):
        return vectors[:, rows]
    at = places(height, width, rows)
    at[0] = (at[0] + np.float32(0.5)) * np.float32(own_width / width) - np.float32(0.5)
    at[1] = (at[1] + np.float32(0.5)) * np.float32(own_height / height) - np.float32(0.5)
    return sampled(vectors, at, wraps=wraps)
