"""Smaller and smaller levels of frames, each made of its own pixels alone.

Colour is averaged in linear light and as far as it covers, data as it is; normals are made unit vectors again. A level
has half the side of the one before, rounded down, one pixel at least; where that does not divide, pixels count by the
area that they share (box filter).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.light import Kind, Light, from_light, to_light
from kivel.core.pixels.pixels import Pixels, Rect, full_scale

__all__ = ["cell_levels", "full_levels", "layer_mips", "page_mips"]

Stack = NDArray[np.float32]
"""(planes, layers, height, width)"""

_BATCH_PIXELS = 1 << 20


def full_levels(width: int, height: int) -> int:
    """How many levels there are down to one pixel.

    >>> full_levels(256, 100), full_levels(1, 1)
    (9, 1)
    """
    return max(width, height).bit_length()


def cell_levels(rects: Sequence[Rect]) -> int:
    """How many levels keep every side of every rectangle on a whole pixel.

    >>> cell_levels([Rect(0, 0, 12, 8), Rect(12, 0, 12, 8)])
    3
    """
    bits = 0
    for rect in rects:
        bits |= rect.x | rect.y | rect.w | rect.h
    return (bits & -bits).bit_length() if bits else 1


def layer_mips(layers: Pixels, kind: Kind, *, premultiplied: bool, count: int) -> list[Pixels]:
    """The levels of layers, the first being these.

    Parameters
    ----------
    layers : (N, H, W, 4) array
        uint8, or float32.
    premultiplied : bool
        Whether colours were multiplied by alpha before they were stored.

    Returns
    -------
    list of (N, h, w, 4) arrays of the same depth, `count` of them or as many as there can be
    """
    number, height, width = layers.shape[:3]
    count = min(count, full_levels(width, height))
    parts: list[list[Pixels]] = [[] for _ in range(count - 1)]
    step = max(1, _BATCH_PIXELS // (height * width))
    for first in range(0, number if count > 1 else 0, step):
        batch = layers[first : first + step]
        for level, made in enumerate(_halvings(batch, kind, premultiplied=premultiplied, count=count)):
            parts[level].append(made)
    return [layers, *(np.concatenate(part) for part in parts)]


def page_mips(page: Pixels, rects: Sequence[Rect], kind: Kind, *, premultiplied: bool, count: int) -> list[Pixels]:
    """The levels of a page, (H, W, 4), in which no frame mixes with its neighbours; as many as `cell_levels`."""
    whole = layer_mips(page[None], kind, premultiplied=premultiplied, count=min(count, cell_levels(rects)))
    levels = [level[0] for level in whole]
    by_size: dict[tuple[int, int], list[Rect]] = {}
    for rect in rects:
        by_size.setdefault(rect.size, []).append(rect)
    for alike in by_size.values():
        stack = np.stack([rect.of(page) for rect in alike])
        mips = layer_mips(stack, kind, premultiplied=premultiplied, count=len(levels))
        for number, cells in enumerate(mips[1:], 1):
            for rect, cell in zip(alike, cells, strict=True):
                Rect(*(value >> number for value in rect)).of(levels[number])[:] = cell
    return levels


def _halvings(batch: Pixels, kind: Kind, *, premultiplied: bool, count: int) -> Iterator[Pixels]:
    number, height, width = batch.shape[:3]
    image = batch.reshape(number * height, width, 4)
    alpha = image[..., 3]
    if premultiplied:
        image = image.copy()
        image[..., 3] = full_scale(image)
    light = to_light(image, kind)
    planes = [light] if not premultiplied else [light, to_light(np.repeat(alpha[..., None], 4, axis=-1), "mask")[:1]]
    for _ in range(count - 1):
        planes = [_halved(plane, height) for plane in planes]
        height, width = max(1, height // 2), max(1, width // 2)
        made = from_light(planes[0], batch.dtype, kind)
        if premultiplied:
            made[..., 3] = planes[1][0] if batch.dtype == np.float32 else np.rint(planes[1][0] * 255)
        yield made.reshape(number, height, width, 4)


def _halved(light: Light, height: int) -> Light:
    """Planes of layers that lie below each other, each `height` high, at half their sides."""
    planes, rows, width = light.shape
    stacked = light.reshape(planes, rows // height, height, width)
    halved = _halved_along(_halved_along(stacked, 2), 3)
    return halved.reshape(planes, -1, halved.shape[3])


def _halved_along(stacked: Stack, axis: int) -> Stack:
    side = stacked.shape[axis]
    if side == 1:
        return stacked
    if side % 2 == 0:
        even, odd = (_taken(stacked, axis, slice(start, None, 2)) for start in (0, 1))
        return (even + odd) * np.float32(0.5)
    # of 2n + 1 pixels each output has the area of 2 + 1/n: parts of three
    half = side // 2
    place = np.arange(half, dtype=np.float32)
    weights = np.stack([half - place, np.full(half, half), place + 1]) / side
    shape = [-1 if number == axis else 1 for number in range(stacked.ndim)]
    taps = (_taken(stacked, axis, slice(tap, tap + 2 * half - 1, 2)) for tap in range(3))
    first, second, third = (
        tap * weight.astype(np.float32).reshape(shape) for tap, weight in zip(taps, weights, strict=True)
    )
    whole: Stack = first + second + third
    return whole


def _taken(stacked: Stack, axis: int, part: slice) -> Stack:
    return stacked[(slice(None),) * axis + (part,)]
