"""Displacing frames by a grey image: flames that waver, water that ripples, tiles that stay tiles."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from kivel.core.light import Kind, Light, from_light, to_light
from kivel.core.pixels import Pixels, Size
from kivel.core.prepare.ramp import luma
from kivel.core.sampling import Edge, sampled
from kivel.core.survey import Point

__all__ = ["Heights", "displaced", "displacements", "heights_of", "pulled"]

Heights = NDArray[np.float32]
"""(1, H, W): -1 for black, 0 for the grey in the middle, 1 for white."""


def heights_of(image: Pixels, size: Size) -> Heights:
    """A grey map (H, W, 4) stretched over `size`, so that it tiles where the frame does."""
    grey = (luma(image) * 2 - 1).astype(np.float32)[None]
    if grey.shape[1:] == (size.h, size.w):
        return grey
    y, x = np.mgrid[: size.h, : size.w].astype(np.float64)
    rows = (y + 0.5) * grey.shape[1] / size.h - 0.5
    columns = (x + 0.5) * grey.shape[2] / size.w - 0.5
    return sampled(grey, columns, rows, edge="wrap")


def displacements(heights: Heights, scroll: Point) -> NDArray[np.float32]:
    """(H, W) from -1 to 1: the map moved right and down by `scroll`, in fractions of itself."""
    _, height, width = heights.shape
    dx, dy = (share % 1 * length for share, length in zip(scroll, (width, height), strict=True))
    if dx == round(dx) and dy == round(dy):
        moved: NDArray[np.float32] = np.roll(heights[0], (int(dy), int(dx)), (0, 1))
        return moved
    y, x = np.mgrid[:height, :width].astype(np.float64)
    clipped: NDArray[np.float32] = np.clip(sampled(heights, x - dx, y - dy, edge="wrap")[0], -1, 1)
    return clipped


def pulled(light: Light, by: NDArray[np.float32], strength: float, angle: float, *, edge: Edge) -> Light:
    """Each pixel fetched from `by * strength` pixels along `angle` (degrees clockwise from right)."""
    y, x = np.mgrid[: light.shape[1], : light.shape[2]].astype(np.float64)
    across, down = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    return sampled(light, x + by * (strength * across), y + by * (strength * down), edge=edge)


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
