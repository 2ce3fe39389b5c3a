"""Scaling frames: nearest, box and Lanczos, the latter two on premultiplied values in linear light."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any, Literal, NamedTuple, get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.light import Kind, Light, from_light, to_light
from kivel.core.pixels import Pixels, Size

__all__ = ["FILTERS", "Filter", "nearest_scaled", "scaled", "scaled_light"]

Filter = Literal["nearest", "box", "lanczos"]
FILTERS: tuple[Filter, ...] = get_args(Filter)

_LOBES = 3
_BLOCK = 16
"""Outputs whose weights are multiplied at once: a band of the matrix is nearly all zeros otherwise."""
_VALUE_BITS = 24
_WEIGHT_BITS = 24
"""Together with a few for the sum, fewer than the 53 of a float64."""
_FEW_TAPS = 5

Plane = NDArray[np.float32]


def scaled(image: Pixels, size: Size, *, filter: Filter, kind: Kind = "color") -> Pixels:
    """`image` at another size, the same depth.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight alpha, any depth.
    filter : "nearest", "box" or "lanczos"
        `box` averages what lies under each pixel. `lanczos` is the windowed sinc of three lobes (Duchon 1979,
        "Lanczos Filtering in One and Two Dimensions"), stretched when it shrinks; its weights sum to 1 at the borders.

    Returns
    -------
    (size.h, size.w, 4) array
    """
    height, width = image.shape[:2]
    if Size(width, height) == size:
        return image
    if filter == "nearest":
        return nearest_scaled(image, size)
    return from_light(scaled_light(to_light(image, kind), size, filter), image.dtype, kind)


def nearest_scaled(image: Pixels, size: Size) -> Pixels:
    """`image` at another size, each pixel taken from where its centre falls: crisp, for pixel art."""
    height, width = image.shape[:2]
    rows = (2 * np.arange(size.h) + 1) * height // (2 * size.h)
    columns = (2 * np.arange(size.w) + 1) * width // (2 * size.w)
    picked: Pixels = image[rows[:, None], columns]
    return picked


def scaled_light(light: Light, size: Size, filter: Filter) -> Light:
    """(4, H, W) to (4, size.h, size.w), by `box` or `lanczos`, down first and then across."""
    axes = (light.shape[1], size.h, filter), (light.shape[2], size.w, filter)
    down, across = (_taps(*axis) for axis in axes)
    if max(down.weights.shape[1], across.weights.shape[1]) <= _FEW_TAPS:
        return np.stack([_scaled_by_taps(plane, down, across) for plane in light])
    return np.stack([_scaled_by_product(plane, _bands(*axes[0]), _bands(*axes[1]), size) for plane in light])


class _Taps(NamedTuple):
    """For each output along an axis the first input that it reaches, and the weights of that and the following ones."""

    first: NDArray[np.intp]
    weights: NDArray[np.float64]
    length: int


@lru_cache(maxsize=64)
def _taps(length: int, wanted: int, filter: Filter) -> _Taps:
    ratio = length / wanted
    kernel, lobes = _KERNELS[filter]
    reach = lobes * max(ratio, 1.0)
    centres = (np.arange(wanted) + 0.5) * ratio
    first = np.clip(np.floor(centres - reach + 1e-9), 0, length - 1).astype(np.intp)
    count = int((np.clip(np.ceil(centres + reach - 1e-9), 1, length) - first).max())
    inputs = first[:, None] + np.arange(count)
    weights = np.where(inputs < length, kernel(inputs + 0.5 - centres[:, None], ratio), 0)
    return _Taps(first, weights / weights.sum(axis=1, keepdims=True), length)


def _scaled_by_taps(plane: Plane, down: _Taps, across: _Taps) -> Plane:
    """One weighted input after the other: quick while there are few."""
    rows = np.zeros((len(down.first), plane.shape[1]), np.float32)
    for tap, weights in enumerate(down.weights.T.astype(np.float32)):
        rows += plane.take(down.first + tap, axis=0, mode="clip") * weights[:, None]
    whole = np.zeros((len(rows), len(across.first)), np.float32)
    for tap, weights in enumerate(across.weights.T.astype(np.float32)):
        whole += rows.take(across.first + tap, axis=1, mode="clip") * weights
    return whole


def _scaled_by_product(plane: Plane, down: _Bands, across: _Bands, size: Size) -> Plane:
    """As products of matrices, in whole numbers small enough that no sum is ever rounded.

    A matrix product adds up in an order that differs from processor to processor, and the pixels must not.
    """
    largest = max(1.0, float(plane.max()), -float(plane.min()))
    unit = 2.0 ** (_VALUE_BITS - math.ceil(math.log2(largest)))
    values = np.rint(np.multiply(plane, unit, dtype=np.float64))
    rows = np.empty((size.h, plane.shape[1]))
    for band in down:
        np.matmul(band.weights, values[band.source], out=rows[band.target])
    rows *= 2.0**-_WEIGHT_BITS
    np.rint(rows, out=rows)
    whole = np.empty((size.h, size.w))
    for band in across:
        whole[:, band.target] = np.matmul(rows[:, band.source], band.weights.T)
    whole *= 2.0**-_WEIGHT_BITS / unit
    return whole.astype(np.float32)


class _Band(NamedTuple):
    """Weights (outputs, inputs) of a run of outputs, in units of 2**-24, and the run of inputs that they reach."""

    target: slice
    source: slice
    weights: NDArray[np.float64]


_Bands = tuple[_Band, ...]


@lru_cache(maxsize=64)
def _bands(length: int, wanted: int, filter: Filter) -> _Bands:
    taps = _taps(length, wanted, filter)
    bands = []
    weights = _whole_weights(taps.weights)
    for start in range(0, len(weights), _BLOCK):
        block, first = weights[start : start + _BLOCK], taps.first[start : start + _BLOCK]
        low = int(first[0])
        high = min(taps.length, int(first[-1]) + weights.shape[1])
        matrix = np.zeros((len(block), high - low + weights.shape[1]))
        for row, offset in enumerate(first - low):
            matrix[row, offset : offset + weights.shape[1]] = block[row]
        bands.append(_Band(slice(start, start + len(block)), slice(low, high), matrix[:, : high - low]))
    return tuple(bands)


def _whole_weights(weights: NDArray[Any]) -> NDArray[np.float64]:
    """Whole numbers whose rows sum up exactly; what rounding leaves over goes to the heaviest."""
    whole = np.rint(weights * 2.0**_WEIGHT_BITS)
    rows = np.arange(len(whole))
    whole[rows, whole.argmax(axis=1)] += 2.0**_WEIGHT_BITS - whole.sum(axis=1)
    return whole


def _box(offsets: NDArray[Any], ratio: float) -> NDArray[Any]:
    """How much of each input pixel an output pixel covers, `ratio` inputs wide; offsets are in inputs."""
    overlap = np.minimum(offsets + 0.5, ratio / 2) - np.maximum(offsets - 0.5, -ratio / 2)
    covered: NDArray[Any] = np.maximum(overlap, 0)
    return covered


def _lanczos(offsets: NDArray[Any], ratio: float) -> NDArray[Any]:
    stretched = offsets / max(ratio, 1.0)
    return np.where(np.abs(stretched) < _LOBES, np.sinc(stretched) * np.sinc(stretched / _LOBES), 0)


_KERNELS: dict[Filter, tuple[Callable[[NDArray[Any], float], NDArray[Any]], float]] = {
    "box": (_box, 0.5),
    "lanczos": (_lanczos, float(_LOBES)),
}
"""By name: the kernel, and how far it reaches, in outputs or inputs, whichever are larger."""
