"""Stacking images: the blend modes and operators of W3C Compositing and Blending (Level 1; `plus-lighter` of Level 2).

As the recommendation has it, and browsers and painting programs do, on stored (sRGB) values; or in linear light, as
engines blend. Inside, images are planar, `(4, height, width)` `float32`, the colours multiplied by alpha.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.light import from_light, to_light
from kivel.core.pixels.pixels import Pixels, Size, bit_depth, depth_dtype, on_canvas, size_of
from kivel.core.room import require_room

__all__ = ["BLENDS", "OPERATORS", "Layer", "layer_planes", "stacked", "straight_colours"]

Planes = NDArray[np.float32]
Blend = Callable[[Planes, Planes], Planes]
"""Straight colours below and above, (3, H, W) each, to the blended one."""

_BAND_PX = 1 << 18
_LUMINANCE = np.array([0.3, 0.59, 0.11], np.float32)[:, None, None]


class Layer(NamedTuple):
    """An image to lay over what is below it; `offset` (x, y) in pixels is where its top left goes.

    `operator` is how its shape meets the one below: as a rule it lies over it.
    """

    image: Pixels
    blend: str = "normal"
    opacity: float = 1.0
    offset: tuple[int, int] = (0, 0)
    operator: str = "src-over"


def stacked(
    size: Size, layers: Sequence[Layer], *, opacity: float = 1.0, linear: bool = False, depth: int | None = None
) -> Pixels:
    """The layers from the bottom up, on a transparent canvas.

    Parameters
    ----------
    size : Size
        Of the canvas; what reaches over it is cut off.
    layers : sequence of Layer
        With images of any depth. Float ones are linear, so if there is one all are blended in linear light.
    opacity : float
        Of the result, from 0 to 1.
    linear : bool
        Blend in linear light instead of on stored values.
    depth : int or None
        Bits of the result; None for the deepest of the layers.

    Returns
    -------
    (size.h, size.w, 4) array, straight alpha
    """
    depth = depth or max(bit_depth(layer.image) for layer in layers)
    linear = linear or any(layer.image.dtype == np.float32 for layer in layers)
    require_room(*size, bits=depth, what="the result would have")
    stack: Pixels = np.empty((size.h, size.w, 4), depth_dtype(depth))
    # band by band: planes of float take four times the room of bytes, and several are there at a time
    rows = max(1, _BAND_PX // size.w)
    for top in range(0, size.h, rows):
        band = stack[top : top + rows]
        band[:] = _stacked_band(layers, band, top, opacity=opacity, linear=linear)
    return stack


def _stacked_band(layers: Sequence[Layer], band: Pixels, top: int, *, opacity: float, linear: bool) -> Pixels:
    """The rows of a stack from `top` on, as many and as deep as `band` has."""
    size = size_of(band)
    total = np.zeros((4, size.h, size.w), np.float32)
    for layer in layers:
        x, y = layer.offset
        planes = layer_planes(layer._replace(offset=(x, y - top)), size, linear=linear)
        total = _laid_over(total, planes, layer.blend, layer.operator)
    total *= opacity
    if linear:
        return from_light(total, band.dtype)
    total[:3] = np.clip(straight_colours(total), 0, 1)
    return from_light(total, band.dtype, "mask")


def layer_planes(layer: Layer, size: Size, *, linear: bool) -> Planes:
    """A layer on a canvas, (4, size.h, size.w), colours multiplied by alpha: in linear light, or as stored."""
    whole = on_canvas(layer.image, size, layer.offset)
    planes = to_light(whole, "color" if linear else "mask")
    if not linear:
        planes[:3] *= planes[3]
    planes *= layer.opacity
    return planes


def straight_colours(planes: Planes) -> Planes:
    """Colours that are multiplied by alpha, divided by it: (3, H, W), 0 where alpha is."""
    alpha = planes[3]
    straight: Planes = np.divide(planes[:3], alpha, out=np.zeros_like(planes[:3]), where=alpha > 1e-6)
    return straight


def _laid_over(below: Planes, above: Planes, blend: str, operator: str) -> Planes:
    """Section 5 of the recommendation: the blended source, then the operator."""
    if blend == "plus-lighter":
        added: Planes = np.minimum(below + above, 1)
        return added
    alpha_below, alpha_above = below[3], above[3]
    source = above
    if blend != "normal":
        mixed = BLENDS[blend](straight_colours(below), straight_colours(above))
        source = above.copy()
        source[:3] = (1 - alpha_below) * above[:3] + alpha_above * alpha_below * mixed
    keep_above, keep_below = OPERATORS[operator](alpha_above, alpha_below)
    return source * keep_above + below * keep_below


def _multiply(b: Planes, s: Planes) -> Planes:
    return b * s


def _screen(b: Planes, s: Planes) -> Planes:
    return b + s - b * s


def _hard_light(b: Planes, s: Planes) -> Planes:
    return np.where(s <= 0.5, _multiply(b, 2 * s), _screen(b, 2 * s - 1))


def _overlay(b: Planes, s: Planes) -> Planes:
    return _hard_light(s, b)


def _color_dodge(b: Planes, s: Planes) -> Planes:
    lit = np.minimum(1, np.divide(b, 1 - s, out=np.ones_like(b), where=s < 1))
    return np.where(b <= 0, 0, lit)


def _color_burn(b: Planes, s: Planes) -> Planes:
    burnt = 1 - np.minimum(1, np.divide(1 - b, s, out=np.ones_like(b), where=s > 0))
    return np.where(b >= 1, 1, burnt)


def _soft_light(b: Planes, s: Planes) -> Planes:
    deep = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(np.maximum(b, 0)))
    return np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (deep - b))


def _exclusion(b: Planes, s: Planes) -> Planes:
    return b + s - 2 * b * s


def _lum(c: Planes) -> Planes:
    lum: Planes = (c * _LUMINANCE).sum(axis=0)
    return lum


def _sat(c: Planes) -> Planes:
    sat: Planes = c.max(axis=0) - c.min(axis=0)
    return sat


def _set_lum(c: Planes, lum: Planes) -> Planes:
    c = c + (lum - _lum(c))
    middle, low, high = _lum(c), c.min(axis=0), c.max(axis=0)
    raised = middle + (c - middle) * (middle / np.maximum(middle - low, 1e-9))
    c = np.where(low < 0, raised, c)
    lowered = middle + (c - middle) * ((1 - middle) / np.maximum(high - middle, 1e-9))
    return np.where(high > 1, lowered, c)


def _set_sat(c: Planes, sat: Planes) -> Planes:
    """The lowest channel to 0, the highest to `sat`, the middle one in proportion."""
    low, spread = c.min(axis=0), _sat(c)
    share = np.divide(sat, spread, out=np.zeros_like(sat), where=spread > 0)
    return np.asarray((c - low) * share)


BLENDS: dict[str, Blend] = {
    "normal": lambda b, s: s,  # noqa: ARG005 - the signature of a blend
    "multiply": _multiply,
    "screen": _screen,
    "overlay": _overlay,
    "darken": np.minimum,
    "lighten": np.maximum,
    "color-dodge": _color_dodge,
    "color-burn": _color_burn,
    "hard-light": _hard_light,
    "soft-light": _soft_light,
    "difference": lambda b, s: np.abs(b - s),
    "exclusion": _exclusion,
    "hue": lambda b, s: _set_lum(_set_sat(s, _sat(b)), _lum(b)),
    "saturation": lambda b, s: _set_lum(_set_sat(b, _sat(s)), _lum(b)),
    "color": lambda b, s: _set_lum(s, _lum(b)),
    "luminosity": lambda b, s: _set_lum(b, _lum(s)),
    "plus-lighter": np.add,  # with alpha added too, and both cut off at 1
}
"""Every blend by its name."""

_Shares = Callable[[Planes, Planes], tuple[Planes | float, Planes | float]]

OPERATORS: dict[str, _Shares] = {
    "src-over": lambda above, below: (1.0, 1 - above),  # noqa: ARG005 - the signature of an operator
    "src-in": lambda above, below: (below, 0.0),  # noqa: ARG005
    "src-out": lambda above, below: (1 - below, 0.0),  # noqa: ARG005
    "src-atop": lambda above, below: (below, 1 - above),
    "xor": lambda above, below: (1 - below, 1 - above),
    "copy": lambda above, below: (1.0, 0.0),  # noqa: ARG005
    "clear": lambda above, below: (0.0, 0.0),  # noqa: ARG005
    "dst-over": lambda above, below: (1 - below, 1.0),  # noqa: ARG005
    "dst-in": lambda above, below: (0.0, above),  # noqa: ARG005
    "dst-out": lambda above, below: (0.0, 1 - above),  # noqa: ARG005
    "dst-atop": lambda above, below: (1 - below, above),
}
"""Shares of what is above and below, by the alphas of both (Porter and Duff 1984, "Compositing Digital Images").

Of the recommendation's section 9; `lighter` is the blend `plus-lighter`.
"""
