"""Displacing frames by a grey image: flames that waver, water that ripples, tiles that stay tiles."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.light import Kind, Light, from_light, to_light
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.pixels.sampling import Edge, sampled
from kivel.core.prepare.ramp import luma
from kivel.core.prepare.stock_movement import STOCK_MOVEMENTS, StockMovement, stock_heights
from kivel.core.survey import Point

__all__ = ["TAPS", "Heights", "detailed", "displaced", "displacements", "heights_of", "light_of_rows"]

Heights = NDArray[np.float32]
"""(1, H, W): -1 for black, 0 for the grey in the middle, 1 for white."""
TAPS = 3
"""Rows that interpolation reads beyond a position, and one for rounding."""
_AT_A_TIME = 1 << 20


def detailed(by: Pixels | StockMovement, size: float | None, seed: int | None) -> Pixels | StockMovement:
    """The image that displaces others, or the stock movement with its size and seed.

    Raises
    ------
    UsageError
        If an image has a size or a seed.
    """
    if isinstance(by, StockMovement):
        return by._replace(size=size, seed=seed or 0)
    if size is not None or seed is not None:
        raise UsageError(f"size and seed are for a stock movement ({', '.join(STOCK_MOVEMENTS)}), not for an image")
    return by


def heights_of(image: Pixels | StockMovement, size: Size) -> Heights:
    """A grey map (H, W, 4) stretched over `size`, or a stock movement, so that it tiles where the frame does."""
    if isinstance(image, StockMovement):
        return stock_heights(image, size)
    grey = np.empty((1, *image.shape[:2]), np.float32)
    for rows in row_bands(*image.shape[:2]):
        grey[0, rows] = luma(image[rows]) * 2 - 1
    if grey.shape[1:] == (size.h, size.w):
        return grey
    stretched = np.empty((1, size.h, size.w), np.float32)
    for band in row_bands(size.h, size.w):
        y, x = np.mgrid[band, : size.w].astype(np.float64)
        rows = (y + 0.5) * grey.shape[1] / size.h - 0.5
        columns = (x + 0.5) * grey.shape[2] / size.w - 0.5
        stretched[:, band] = sampled(grey, columns, rows, edge="wrap")
    return stretched


def displacements(heights: Heights, scroll: Point) -> NDArray[np.float32]:
    """(H, W) from -1 to 1, not to be written to: the map moved right and down by `scroll`, in fractions of itself."""
    _, height, width = heights.shape
    dx, dy = (share % 1 * length for share, length in zip(scroll, (width, height), strict=True))
    moved: NDArray[np.float32] = heights[0]
    if dx == dy == 0:
        return moved
    if dx == round(dx) and dy == round(dy):
        return np.roll(moved, (int(dy), int(dx)), (0, 1))
    clipped = np.empty((height, width), np.float32)
    for band in row_bands(height, width):
        y, x = np.mgrid[band, :width].astype(np.float64)
        np.clip(sampled(heights, x - dx, y - dy, edge="wrap")[0], -1, 1, out=clipped[band])
    return clipped


def _pulled(image: Pixels, by: NDArray[np.float32], strength: float, angle: float, *, edge: Edge, kind: Kind) -> Pixels:
    """Each pixel fetched from `by * strength` pixels along `angle` (degrees clockwise from right)."""
    height, width = image.shape[:2]
    across, down = strength * math.cos(math.radians(angle)), strength * math.sin(math.radians(angle))
    fetched = np.empty_like(image)
    for band in row_bands(height, width, pixels=_AT_A_TIME):
        y, x = np.mgrid[band, :width].astype(np.float64)
        reach = math.ceil(abs(down) * float(np.abs(by[band]).max())) + TAPS
        first = band.start - reach
        light = light_of_rows(image, np.arange(first, band.stop + reach), edge, kind)
        rows = y + by[band] * down - first
        fetched[band] = from_light(sampled(light, x + by[band] * across, rows, edge=edge), image.dtype, kind)
    return fetched


def light_of_rows(image: Pixels, rows: NDArray[np.intp], edge: Edge, kind: Kind) -> Light:
    """All that a band can fetch from; the whole frame's light would be twice to four times its size."""
    light = to_light(image[rows % len(image)], kind)
    if edge != "wrap":
        light[:, (rows < 0) | (rows >= len(image))] = 0
    return light


def displaced(
    image: Pixels, by: NDArray[np.float32], strength: float, angle: float, *, edge: Edge, smooth: bool, kind: Kind
) -> Pixels:
    """`image` displaced by `by`, (H, W) from -1 to 1, times `strength` pixels along `angle`.

    `smooth` interpolates between pixels, premultiplied and in linear light; else each pixel is one of the frame's own.
    """
    if smooth:
        return _pulled(image, by, strength, angle, edge=edge, kind=kind)
    height, width = image.shape[:2]
    across, down = strength * math.cos(math.radians(angle)), strength * math.sin(math.radians(angle))
    picked = np.empty_like(image)
    for band in row_bands(height, width):
        y, x = np.mgrid[band, :width]
        columns = np.rint(x + by[band] * across).astype(np.intp)
        rows = np.rint(y + by[band] * down).astype(np.intp)
        picked[band] = image[rows % height, columns % width]
        if edge != "wrap":
            picked[band][(columns < 0) | (columns >= width) | (rows < 0) | (rows >= height)] = 0
    return picked
