"""Displacing frames by a grey image: flames that waver, water that ripples, tiles that stay tiles."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.light import Kind, Light, from_light, to_light
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.pixels.sampling import Edge, sampled
from kivel.core.prepare.ramp import luma
from kivel.core.survey import Point

__all__ = ["Heights", "displaced", "displacements", "heights_of", "pulled"]

Heights = NDArray[np.float32]
"""(1, H, W): -1 for black, 0 for the grey in the middle, 1 for white."""
_BAND_ROWS = 64


def heights_of(image: Pixels, size: Size) -> Heights:
    """A grey map (H, W, 4) stretched over `size`, so that it tiles where the frame does."""
    grey = (luma(image) * 2 - 1).astype(np.float32)[None]
    if grey.shape[1:] == (size.h, size.w):
        return grey
    stretched = np.empty((1, size.h, size.w), np.float32)
    for first in range(0, size.h, _BAND_ROWS):
        y, x = np.mgrid[first : min(first + _BAND_ROWS, size.h), : size.w].astype(np.float64)
        rows = (y + 0.5) * grey.shape[1] / size.h - 0.5
        columns = (x + 0.5) * grey.shape[2] / size.w - 0.5
        stretched[:, first : first + _BAND_ROWS] = sampled(grey, columns, rows, edge="wrap")
    return stretched


def displacements(heights: Heights, scroll: Point) -> NDArray[np.float32]:
    """(H, W) from -1 to 1: the map moved right and down by `scroll`, in fractions of itself."""
    _, height, width = heights.shape
    dx, dy = (share % 1 * length for share, length in zip(scroll, (width, height), strict=True))
    if dx == round(dx) and dy == round(dy):
        moved: NDArray[np.float32] = np.roll(heights[0], (int(dy), int(dx)), (0, 1))
        return moved
    clipped = np.empty((height, width), np.float32)
    for first in range(0, height, _BAND_ROWS):
        y, x = np.mgrid[first : min(first + _BAND_ROWS, height), :width].astype(np.float64)
        np.clip(sampled(heights, x - dx, y - dy, edge="wrap")[0], -1, 1, out=clipped[first : first + _BAND_ROWS])
    return clipped


def pulled(light: Light, by: NDArray[np.float32], strength: float, angle: float, *, edge: Edge) -> Light:
    """Each pixel fetched from `by * strength` pixels along `angle` (degrees clockwise from right)."""
    across, down = strength * math.cos(math.radians(angle)), strength * math.sin(math.radians(angle))
    fetched = np.empty_like(light)
    for first in range(0, light.shape[1], _BAND_ROWS):
        band = slice(first, first + _BAND_ROWS)
        y, x = np.mgrid[first : min(first + _BAND_ROWS, light.shape[1]), : light.shape[2]].astype(np.float64)
        fetched[:, band] = sampled(light, x + by[band] * across, y + by[band] * down, edge=edge)
    return fetched


def displaced(
    image: Pixels, by: NDArray[np.float32], strength: float, angle: float, *, edge: Edge, smooth: bool, kind: Kind
) -> Pixels:
    """`image` displaced by `by`, (H, W) from -1 to 1, times `strength` pixels along `angle`.

    `smooth` interpolates between pixels, premultiplied and in linear light; else each pixel is one of the frame's own.
    """
    if smooth:
        light = pulled(to_light(image, kind), by, strength, angle, edge=edge)
        return from_light(light, image.dtype, kind)
    height, width = image.shape[:2]
    y, x = np.mgrid[:height, :width]
    columns = np.rint(x + by * (strength * math.cos(math.radians(angle)))).astype(np.intp)
    rows = np.rint(y + by * (strength * math.sin(math.radians(angle)))).astype(np.intp)
    inside = (columns >= 0) & (columns < width) & (rows >= 0) & (rows < height)
    picked = image[rows % height, columns % width]
    return picked if edge == "wrap" else np.where(inside[..., None], picked, 0).astype(image.dtype)
