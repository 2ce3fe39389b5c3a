"""Heights that displace a picture, made by formulas: they tile, and the same seed gives the same everywhere.

Noise is gradient noise (Perlin 2002, "Improving Noise") on a lattice that repeats; turbulence adds up the amounts of
four octaves of it (Perlin 1985, "An Image Synthesizer").
"""

from __future__ import annotations

import math
from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = ["STOCK_MOVEMENTS", "StockMovement", "StockName", "stock_heights"]

StockName = Literal["waves", "ripples", "noise", "turbulence"]
STOCK_MOVEMENTS: tuple[StockName, ...] = get_args(StockName)
_OCTAVES = 4
_SHARE = 4
"""Where no size is stated, things are a quarter of the picture."""

Plane = NDArray[np.floating[Any]]


class StockMovement(NamedTuple):
    """Heights by their name; `size` is that of a wave or a lump in pixels, None for a quarter of the picture."""

    name: StockName
    size: float | None = None
    seed: int = 0


def stock_heights(movement: StockMovement, size: Size) -> NDArray[np.float32]:
    """(1, H, W) from -1 to 1, tileable: as many waves or lumps as go a whole number of times into the sides."""
    lump = movement.size or max(size) / _SHARE
    across, down = (max(1, round(length / lump)) for length in size)
    x, y = np.arange(size.w) / size.w, np.arange(size.h)[:, None] / size.h
    heights: Plane
    if movement.name == "waves":
        heights = np.sin(2 * math.pi * across * x) + np.zeros_like(y)
    elif movement.name == "ripples":
        heights = _ripples(x, y, size, lump)
    elif movement.name == "noise":
        heights = _noise(x * across, y * down, across, down, movement.seed)
    else:
        heights = _turbulence(x, y, across, down, movement.seed)
    result: NDArray[np.float32] = np.clip(heights, -1, 1).astype(np.float32)[None]
    return result


def _ripples(x: Plane, y: Plane, size: Size, lump: float) -> Plane:
    """Rings around the middle; the distance is measured on a torus, so that it meets at the sides."""
    right = np.sin(math.pi * (x - 0.5)) * size.w / math.pi
    below = np.sin(math.pi * (y - 0.5)) * size.h / math.pi
    rings: Plane = np.cos(2 * math.pi * np.hypot(right, below) / lump)
    return rings


def _turbulence(x: Plane, y: Plane, across: int, down: int, seed: int) -> Plane:
    total: Plane = np.zeros((y.size, x.size))
    for octave in range(_OCTAVES):
        times = 2**octave
        finer = _noise(x * across * times, y * down * times, across * times, down * times, seed * _OCTAVES + octave)
        total += np.abs(finer) / times
    return total * 2 - 1


def _noise(x: Plane, y: Plane, across: int, down: int, seed: int) -> Plane:
    """From -1 to 1: each corner of a cell pulls along a direction of its own."""
    column, row = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    u, v = x - column, y - row
    ease_u, ease_v = (share**3 * (share * (share * 6 - 15) + 10) for share in (u, v))

    def pull(right: int, below: int) -> Plane:
        angle = _angles((column + right) % across, (row + below) % down, seed)
        return np.asarray(np.cos(angle) * (u - right) + np.sin(angle) * (v - below))

    above = pull(0, 0) + ease_u * (pull(1, 0) - pull(0, 0))
    under = pull(0, 1) + ease_u * (pull(1, 1) - pull(0, 1))
    mixed: Plane = (above + ease_v * (under - above)) * math.sqrt(2)
    return mixed


def _angles(columns: NDArray[np.int64], rows: NDArray[np.int64], seed: int) -> Plane:
    """A direction for each corner, by the finaliser of SplitMix64 (Steele, Lea and Flood 2014)."""
    mixed = (columns + rows * 0x9E3779B1 + seed * 0x85EBCA77C2B2).astype(np.uint64)
    for shift, factor in ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB), (31, 1)):
        mixed = (mixed ^ (mixed >> np.uint64(shift))) * np.uint64(factor)
    return np.asarray((mixed >> np.uint64(11)) / 2.0**53 * (2 * math.pi))
