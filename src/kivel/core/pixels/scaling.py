"""Scaling frames: nearest, box and Lanczos, the latter two on premultiplied values in linear light."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from functools import lru_cache
from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.light import Kind, from_light, to_light
from kivel.core.pixels.pixels import Pixels, Size, bit_depth
from kivel.core.room import require_room

__all__ = ["FILTERS", "Filter", "nearest_scaled", "scaled"]

Filter = Literal["nearest", "box", "lanczos"]
FILTERS: tuple[Filter, ...] = get_args(Filter)

_LOBES = 3
_BLOCK = 16
"""Outputs whose weights are multiplied at once: a band of the matrix is nearly all zeros otherwise."""
_VALUE_BITS = 24
_WEIGHT_BITS = 24
"""Together with a few for the sum, fewer than the 53 of a float64."""
_FEW_TAPS = 5
_PART_PIXELS = 1 << 18

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
    require_room(*size, bits=bit_depth(image))
    down, across = _taps(height, size.h, filter), _taps(width, size.w, filter)
    few = max(down.weights.shape[1], across.weights.shape[1]) <= _FEW_TAPS
    result = np.empty((size.h, size.w, 4), image.dtype)
    for part, rows in _in_parts(down, max(1, _PART_PIXELS // width)):
        light = to_light(image[rows], kind)
        scale = _scaled_by_taps if few else _scaled_by_product
        result[part] = from_light(np.stack([scale(plane, down.of(part), across) for plane in light]), image.dtype, kind)
    return result


def nearest_scaled(image: Pixels, size: Size) -> Pixels:
    """`image` at another size, each pixel taken from where its centre falls: crisp, for pixel art."""
    require_room(*size, bits=bit_depth(image))
    height, width = image.shape[:2]
    rows = (2 * np.arange(size.h) + 1) * height // (2 * size.h)
    columns = (2 * np.arange(size.w) + 1) * width // (2 * size.w)
    picked: Pixels = image[rows[:, None], columns]
    return picked


class _Taps:
    """For each output along an axis the first input that it reaches, and the weights of that and the following ones."""

    def __init__(self, first: NDArray[np.intp], weights: NDArray[np.float64]) -> None:
        self.first = first
        self.weights = weights
        self._parts: dict[tuple[int, int], _Taps] = {}
        self._bands: tuple[_Band, ...] = ()

    def reach(self, part: slice) -> slice:
        """The inputs that a run of outputs needs."""
        return slice(int(self.first[part.start]), int(self.first[part.stop - 1]) + self.weights.shape[1])

    def of(self, part: slice) -> _Taps:
        """Those of a run of outputs, over the inputs that it needs."""
        key = part.start, part.stop
        if key not in self._parts:
            self._parts[key] = _Taps(self.first[part] - self.first[part.start], self.weights[part])
        return self._parts[key]

    def bands(self) -> tuple[_Band, ...]:
        """The same as small matrices."""
        if not self._bands:
            self._bands = tuple(_bands(self))
        return self._bands


def _in_parts(down: _Taps, input_rows: int) -> Iterator[tuple[slice, slice]]:
    """Runs of outputs, and the inputs that each needs: so few at once that they stay in the processor's cache."""
    count, start = len(down.first), 0
    while start < count:
        limit = int(down.first[start]) + input_rows - down.weights.shape[1]
        stop = max(start + 1, int(np.searchsorted(down.first, limit, side="right")))
        part = slice(start, min(stop, count))
        yield part, down.reach(part)
        start = part.stop


@lru_cache(maxsize=64)
def _taps(length: int, wanted: int, filter: Filter) -> _Taps:
    ratio = length / wanted
    kernel, lobes = _KERNELS[filter]
    reach = lobes * max(ratio, 1.0)
    centres = (np.arange(wanted) + 0.5) * ratio
    # an input that is only touched, by a rounding error, does not count
    first = np.clip(np.floor(centres - reach + 1e-9), 0, length - 1).astype(np.intp)
    count = int((np.clip(np.ceil(centres + reach - 1e-9), 1, length) - first).max())
    inputs = first[:, None] + np.arange(count)
    weights = np.where(inputs < length, kernel(inputs + 0.5 - centres[:, None], ratio), 0)
    return _Taps(first, weights / weights.sum(axis=1, keepdims=True))


def _scaled_by_taps(plane: Plane, down: _Taps, across: _Taps) -> Plane:
    """One weighted input after the other: quick while there are few."""
    rows = np.zeros((len(down.first), plane.shape[1]), np.float32)
    for tap, weights in enumerate(down.weights.T.astype(np.float32)):
        rows += plane.take(down.first + tap, axis=0, mode="clip") * weights[:, None]
    whole = np.zeros((len(rows), len(across.first)), np.float32)
    for tap, weights in enumerate(across.weights.T.astype(np.float32)):
        whole += rows.take(across.first + tap, axis=1, mode="clip") * weights
    return whole


def _scaled_by_product(plane: Plane, down: _Taps, across: _Taps) -> Plane:
    """As products of matrices, in whole numbers small enough that no sum is ever rounded.

    A matrix product adds up in an order that differs from processor to processor, and the pixels must not.
    """
    largest = max(1.0, float(plane.max()), -float(plane.min()))
    # a power of two: multiplying by it and back loses nothing
    unit = 2.0 ** (_VALUE_BITS - math.ceil(math.log2(largest)))
    values = np.rint(np.multiply(plane, unit, dtype=np.float64))
    rows = np.empty((len(down.first), plane.shape[1]))
    for band in down.bands():
        source = values[band.source]  # shorter than its weights where they reach over the end, and are 0
        np.matmul(band.weights[:, : len(source)], source, out=rows[band.target])
    rows *= 2.0**-_WEIGHT_BITS
    np.rint(rows, out=rows)
    whole = np.empty((len(rows), len(across.first)))
    for band in across.bands():
        source = rows[:, band.source]
        whole[:, band.target] = np.matmul(source, band.weights[:, : source.shape[1]].T)
    whole *= 2.0**-_WEIGHT_BITS / unit
    return whole.astype(np.float32)


class _Band(NamedTuple):
    """Weights (outputs, inputs) of a run of outputs, in units of 2**-24, and the run of inputs that they reach."""

    target: slice
    source: slice
    weights: NDArray[np.float64]


def _bands(taps: _Taps) -> Iterator[_Band]:
    weights = _whole_weights(taps.weights)
    reach = weights.shape[1]
    for start in range(0, len(weights), _BLOCK):
        part = slice(start, min(start + _BLOCK, len(weights)))
        source = taps.reach(part)
        matrix = np.zeros((part.stop - start, source.stop - source.start))
        for row, first in enumerate(taps.first[part] - source.start):
            matrix[row, first : first + reach] = weights[start + row]
        yield _Band(part, source, matrix)


def _whole_weights(weights: NDArray[Any]) -> NDArray[np.float64]:
    """Whole numbers whose rows sum up exactly; what rounding leaves over goes to the heaviest."""
    whole = np.rint(weights * 2.0**_WEIGHT_BITS)
    rows = np.arange(len(whole))
    # so that a plain surface stays exactly as it is
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
