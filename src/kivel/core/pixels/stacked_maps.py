"""Companion maps of stacked layers: the map of each layer goes where its colour shows.

Maps that hold colour, such as emission, are light: a layer covers the light of what is below it, and adds its own.
Data, such as normals, belong to the surface that is seen: they are mixed by how much of each layer shows, and stay as
they are where no layer that has such a map does. A layer that is blended otherwise than normally changes the look of
what is below and covers nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.blend import OPERATORS, Layer, layer_planes, straight_colours
from kivel.core.pixels.light import Kind, from_light, to_light
from kivel.core.pixels.pixels import Pixels, Size, depth_dtype, on_canvas, widened

__all__ = ["MappedLayer", "stacked_map"]

Plane = NDArray[np.float32]
_COVERS = ("src-over", "src-atop")


class MappedLayer(NamedTuple):
    """A layer, and its companion map, (H, W, 4) of the layer's size; None if it has none."""

    layer: Layer
    map: Pixels | None


def stacked_map(size: Size, layers: Sequence[MappedLayer], kind: Kind, *, depth: int, linear: bool = False) -> Pixels:
    """One companion map of layers, from the bottom up, on a canvas.

    Parameters
    ----------
    size : Size
        Of the canvas.
    layers : sequence of MappedLayer
        The lowest first; of data it must have a map.
    kind : Kind
        What the map's values mean.
    depth : int
        Bits of the result, no fewer than any map has.
    linear : bool
        Mix colour in linear light, instead of by stored values.

    Returns
    -------
    (size.h, size.w, 4) array
        Straight alpha. Pixels of one map alone are that map's, unchanged.
    """
    result = np.empty((size.h, size.w, 4), depth_dtype(depth))
    for rows in row_bands(size.h, size.w):
        stack = _Light(rows, size, result.dtype, linear=linear) if kind == "color" else _Data(rows, size, kind)
        below: Plane = np.zeros((rows.stop - rows.start, size.w), np.float32)
        for one in layers:
            above = to_light(stack.placed(one.layer.image, one.layer), "mask")[3] * np.float32(one.layer.opacity)
            stack.lay(one.layer, one.map if one.map is None else widened(one.map, depth), above, below)
            below = _alpha(one.layer, above, below)
        result[rows] = np.where(stack.is_exact[..., None], stack.exact, stack.mixed(result.dtype))
    return result


def _alpha(layer: Layer, above: Plane, below: Plane) -> Plane:
    """How opaque the stack is with one more layer."""
    if layer.blend == "plus-lighter":
        added: Plane = np.minimum(above + below, 1)
        return added
    keep_above, keep_below = OPERATORS[layer.operator](above, below)
    alpha: Plane = above * keep_above + below * keep_below
    return alpha


class _Stack:
    """The rows of a map as layers are laid over each other, and where they are one map's own, unchanged."""

    def __init__(self, rows: slice, size: Size) -> None:
        self._top = rows.start
        self._size = Size(size.w, rows.stop - rows.start)
        self.is_exact = np.ones((self._size.h, self._size.w), bool)
        self.exact: Pixels = np.zeros((self._size.h, self._size.w, 4), np.uint8)

    def placed(self, image: Pixels, layer: Layer) -> Pixels:
        """These rows of an image where its layer lies."""
        x, y = layer.offset
        return on_canvas(image, self._size, (x, y - self._top))

    def _note(self, image: Pixels, takes: NDArray[np.bool_], stays: NDArray[np.bool_]) -> None:
        """See where the new map alone is seen, and where what was there goes on unchanged."""
        self.exact = np.where(takes[..., None], image, self.exact).astype(image.dtype)
        self.is_exact = takes | (self.is_exact & stays)


class _Light(_Stack):
    """Maps of colour."""

    def __init__(self, rows: slice, size: Size, dtype: np.dtype[Any], *, linear: bool) -> None:
        super().__init__(rows, size)
        self._linear = linear or dtype == np.float32
        self._has_map = False
        self._total = np.zeros((4, self._size.h, self._size.w), np.float32)
        self.exact = self.exact.astype(dtype)

    def lay(self, layer: Layer, map: Pixels | None, above: Plane, below: Plane) -> None:
        keep_above, keep_below = _shares_of_light(layer, above, below)
        if map is None:
            self.is_exact &= (np.asarray(keep_below) == 1) | ~self._total.any(axis=0)
            self._total = self._total * keep_below
            return
        x, y = layer.offset
        placed = layer._replace(image=map, offset=(x, y - self._top))
        added = layer_planes(placed, self._size, linear=self._linear)
        is_whole = np.asarray(keep_above) * layer.opacity == 1
        stays = self._has_map & (np.asarray(keep_below) == 1) & ((np.asarray(keep_above) == 0) | ~added.any(axis=0))
        takes = ~stays & is_whole & ((np.asarray(keep_below) == 0) | ~self._total.any(axis=0))
        self._note(self.placed(map, layer), takes, stays)
        self._has_map = True
        self._total = np.minimum(
            added * keep_above + self._total * keep_below, 1 if map.dtype != np.float32 else np.inf
        )

    def mixed(self, dtype: np.dtype[Any]) -> Pixels:
        if self._linear:
            return from_light(self._total, dtype)
        straight = self._total.copy()
        straight[:3] = np.clip(straight_colours(straight), 0, 1)
        return from_light(straight, dtype, "mask")


class _Data(_Stack):
    """Maps of data."""

    def __init__(self, rows: slice, size: Size, kind: Kind) -> None:
        super().__init__(rows, size)
        self._kind = kind
        self._total: NDArray[np.float32] | None = None

    def lay(self, layer: Layer, map: Pixels | None, above: Plane, below: Plane) -> None:
        if map is None:
            return
        image = self.placed(map, layer)
        values = to_light(image, self._kind)
        if self._total is None:
            self.exact, self._total = image, values
            return
        keep_above, keep_below = _shares_of_data(layer, above, below)
        shown = keep_above * above
        whole = shown + keep_below * below
        share: Plane = np.divide(shown, whole, out=np.zeros_like(above), where=whole > 0)
        self._note(image, share == 1, share == 0)
        self._total = values * share + self._total * (1 - share)

    def mixed(self, dtype: np.dtype[Any]) -> Pixels:
        if self._total is None:
            raise AssertionError("the lowest layer has no map")
        return from_light(self._total, dtype, self._kind)


def _shares_of_light(layer: Layer, above: Plane, below: Plane) -> tuple[Plane | float, Plane | float]:
    """How much is kept of a layer's light, and of that below it."""
    if layer.blend == "plus-lighter":
        return 1.0, 1.0
    keep_above, keep_below = OPERATORS[layer.operator](above, below)
    return keep_above, 1.0 if layer.blend != "normal" and layer.operator in _COVERS else keep_below


def _shares_of_data(layer: Layer, above: Plane, below: Plane) -> tuple[Plane | float, Plane | float]:
    """How much of a layer's surface is seen, and of that below it."""
    if layer.blend != "normal" and (layer.operator in _COVERS or layer.blend == "plus-lighter"):
        return (0.0 if layer.operator == "src-atop" else 1 - below), 1.0
    return OPERATORS[layer.operator](above, below)
