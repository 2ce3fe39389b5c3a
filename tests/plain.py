"""Plain loops in float64, written from the definitions: what the quick code is held against."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Any

import numpy as np

from kivel.core.pixels.pixels import Pixels

Colour = tuple[float, float, float]


def linear(value: float) -> float:
    return value / 12.92 if value <= 0.04045 else ((value + 0.055) / 1.055) ** 2.4


def encoded(value: float) -> float:
    value = min(max(value, 0.0), 1.0)
    return value * 12.92 if value <= 0.0031308 else 1.055 * value ** (1 / 2.4) - 0.055


def light(image: Pixels) -> Any:
    """(H, W, 4), premultiplied and linear, from 0 to 1."""
    full = np.iinfo(image.dtype).max
    values = image / full
    result = np.empty(image.shape)
    for y, x in np.ndindex(image.shape[:2]):
        alpha = values[y, x, 3]
        result[y, x] = (*(linear(v) * alpha for v in values[y, x, :3]), alpha)
    return result


def stored(values: Any, dtype: Any = np.uint8) -> Pixels:
    """Premultiplied linear values as straight sRGB of a depth."""
    full = np.iinfo(dtype).max
    image = np.zeros(values.shape, dtype)
    for y, x in np.ndindex(values.shape[:2]):
        alpha = min(max(float(values[y, x, 3]), 0.0), 1.0)
        if alpha > 1e-6:
            image[y, x, :3] = [round(encoded(v / alpha) * full) for v in values[y, x, :3]]
        image[y, x, 3] = round(alpha * full)
    return image


def over(image: Pixels, backdrop: Colour) -> Any:
    """Straight alpha over a colour, on stored values from 0 to 1."""
    values = image / np.iinfo(image.dtype).max
    return values[..., :3] * values[..., 3:] + np.array(backdrop) * (1 - values[..., 3:])


def box(offset: float, ratio: float) -> float:
    return max(0.0, min(offset + 0.5, ratio / 2) - max(offset - 0.5, -ratio / 2))


def lanczos(offset: float, ratio: float) -> float:
    t = offset / max(ratio, 1)
    return (
        0.0
        if abs(t) >= 3
        else 1.0
        if t == 0
        else 3 * math.sin(math.pi * t) * math.sin(math.pi * t / 3) / (math.pi * t) ** 2
    )


def scaled(values: Any, width: int, height: int, kernel: Callable[[float, float], float]) -> Any:
    def weights(length: int, wanted: int) -> Any:
        ratio = length / wanted
        rows = [[kernel(j + 0.5 - (i + 0.5) * ratio, ratio) for j in range(length)] for i in range(wanted)]
        return np.array([[w / sum(row) for w in row] for row in rows])

    down, across = weights(values.shape[0], height), weights(values.shape[1], width)
    return np.einsum("ij,jkc,lk->ilc", down, values, across)


def cubic(t: float) -> float:
    """Keys 1981, equation 4 with a = -1/2."""
    t = abs(t)
    if t < 1:
        return 1.5 * t**3 - 2.5 * t**2 + 1
    return -0.5 * t**3 + 2.5 * t**2 - 4 * t + 2 if t < 2 else 0.0


def sampled(values: Any, x: float, y: float, *, wrap: bool) -> Any:
    """(H, W, C) between its pixels; 0 is the centre of the first."""
    height, width = values.shape[:2]
    total = np.zeros(values.shape[2])
    for row in range(math.floor(y) - 1, math.floor(y) + 3):
        for column in range(math.floor(x) - 1, math.floor(x) + 3):
            if wrap or (0 <= row < height and 0 <= column < width):
                total += values[row % height, column % width] * cubic(x - column) * cubic(y - row)
    return total


def ramp(level: float, stops: Sequence[tuple[Colour, float]]) -> list[float]:
    """Stops (colour, position), mixed in linear light, encoded again."""
    for (low, start), (high, end) in pairwise(stops):
        if level <= end:
            share = max(0.0, (level - start) / (end - start)) if end > start else 1.0
            return [encoded(linear(a) * (1 - share) + linear(b) * share) for a, b in zip(low, high, strict=True)]
    return list(stops[-1][0])
