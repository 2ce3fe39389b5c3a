"""Reading a frame between its pixels: for shifts by part of a pixel, displacement and scrolling.

Cubic convolution (Keys 1981, "Cubic Convolution Interpolation for Digital Image Processing", a = -1/2): whole positions
give the pixels themselves, so that nothing softens that does not move.
"""

from __future__ import annotations

from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.light import Light

__all__ = ["EDGES", "Edge", "sampled", "shifted_light"]

Edge = Literal["wrap", "clear"]
"""Says what lies beyond the border: the other side, as in a tile, or nothing."""
EDGES: tuple[Edge, ...] = get_args(Edge)

Positions = NDArray[np.floating[Any]]


def sampled(light: Light, x: Positions, y: Positions, *, edge: Edge) -> Light:
    """Values at any positions.

    Parameters
    ----------
    light : (C, H, W) array
    x, y : arrays of one shape
        In pixels, where 0 is the centre of the first pixel.

    Returns
    -------
    (C, *x.shape) array, float32
    """
    # the four neighbours on each axis: one before this, this, and two after
    left, top = np.floor(x).astype(np.intp), np.floor(y).astype(np.intp)
    across, down = ([w.astype(np.float32) for w in _weights(at)] for at in (x - left, y - top))
    columns = [_indices(left + (tap - 1), light.shape[2], edge) for tap in range(4)]
    across = [weight * inside for weight, (_, inside) in zip(across, columns, strict=True)]
    flat = light.reshape(light.shape[0], -1)
    total = np.zeros((light.shape[0], *x.shape), np.float32)
    for row in range(4):
        rows, inside = _indices(top + (row - 1), light.shape[1], edge)
        rows *= light.shape[2]
        line = np.zeros_like(total)
        for tap in range(4):
            line += flat.take(rows + columns[tap][0], axis=1, mode="clip") * across[tap]
        total += line * (down[row] * inside)
    return total


def shifted_light(light: Light, dx: float, dy: float, *, edge: Edge, rows: slice | None = None) -> Light:
    """Moved right by `dx` and down by `dy` pixels: `sampled` where all move alike, one axis after the other.

    With `rows` only these of what comes of it.
    """
    down = _shifted_axis(light, dy, 1, edge, rows or slice(0, light.shape[1]))
    return _shifted_axis(down, dx, 2, edge, slice(0, light.shape[2]))


def _shifted_axis(light: Light, distance: float, axis: int, edge: Edge, wanted: slice) -> Light:
    whole = int(np.floor(-distance))
    weights = _weights(np.float64(-distance - whole))
    positions = np.arange(wanted.start, wanted.stop) + whole
    shape = list(light.shape)
    shape[axis] = wanted.stop - wanted.start
    total = np.zeros(shape, np.float32)
    for tap in range(4):
        # whole shifts have one tap, and copy
        if not weights[tap]:
            continue
        indices, inside = _indices(positions + (tap - 1), light.shape[axis], edge)
        by_axis = [1, 1, 1]
        by_axis[axis] = -1
        total += light.take(indices, axis=axis) * (weights[tap] * inside).astype(np.float32).reshape(by_axis)
    return total


def _indices(positions: NDArray[np.intp], length: int, edge: Edge) -> tuple[NDArray[np.intp], NDArray[np.bool_]]:
    """Indices within the image, and which of them count."""
    if edge == "wrap":
        return positions % length, np.ones(positions.shape, bool)
    return np.clip(positions, 0, length - 1), (positions >= 0) & (positions < length)


def _weights(t: Any) -> tuple[Any, Any, Any, Any]:
    """Return it for the four neighbours, for a position `t` of the way from the second to the third."""
    return (
        ((2 - t) * t - 1) * t / 2,
        ((3 * t - 5) * t * t + 2) / 2,
        ((4 - 3 * t) * t + 1) * t / 2,
        (t - 1) * t * t / 2,
    )
