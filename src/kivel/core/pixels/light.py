"""Light: what frames are turned into before they are filtered, mixed or blended.

A `Light` is planar, `(4, height, width)` `float32`: red, green, blue and alpha, the colours in linear light and
multiplied by alpha. Float frames may hold light that has no alpha, to be added to what is behind, as OpenEXR has fire:
where alpha is 0 their colours are that light, and are neither multiplied nor divided. Data maps are never taken for
colour: a mask keeps its four values as they are, a normal map becomes vectors weighted by alpha, and vectors of unit
length again on the way back.
"""

from __future__ import annotations

from functools import cache
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Pixels, full_scale, require_rgba

__all__ = ["KINDS", "Kind", "Light", "from_light", "linear_to_srgb", "srgb_to_linear", "to_light"]

Light = NDArray[np.float32]
Levels = NDArray[np.floating[Any]]
Kind = Literal["color", "stored", "mask", "normal", "normal-down"]
"""Says what a frame's values mean. `normal` has +Y (green) up, as glTF 2.0 has it, `normal-down` has it down; `stored`
is colour that is mixed by its stored values, as programs do that blend bytes.
"""

KINDS: tuple[Kind, ...] = ("color", "mask", "normal", "normal-down")
"""Those that a map may have."""

_FINE = 65535
"""Steps of the table that turns linear light into 8 bits; at its steepest it is off by a twentieth of a level."""
_LEAST_ALPHA = 1e-6
_NEUTRAL = (0.0, 0.0, 1.0)


def srgb_to_linear(values: Levels) -> Levels:
    """The transfer function of IEC 61966-2-1, from 0..1 to 0..1."""
    return np.where(values <= 0.04045, values / 12.92, ((np.maximum(values, 0) + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(values: Levels) -> Levels:
    """Its inverse."""
    return np.where(values <= 0.0031308, values * 12.92, 1.055 * np.maximum(values, 0.0031308) ** (1 / 2.4) - 0.055)


@cache
def _linear_of(full: int) -> Light:
    return srgb_to_linear(np.arange(full + 1) / full).astype(np.float32)


@cache
def _srgb_of_linear() -> NDArray[np.uint8]:
    return np.rint(linear_to_srgb(np.arange(_FINE + 1) / _FINE) * 255).astype(np.uint8)


def to_light(image: Pixels, kind: Kind = "color") -> Light:
    """A frame, (H, W, 4) of any depth with straight alpha, as light, (4, H, W).

    Raises
    ------
    PixelError
        If `image` is not such an array.
    """
    require_rgba(image)
    full = full_scale(image)
    light = np.empty((4, *image.shape[:2]), np.float32)
    light[3] = _shares(image[..., 3], full)
    added = full == 1 and kind in ("color", "stored")
    weight = np.where(light[3] > 0, light[3], 1) if added else light[3]
    for channel in range(3):
        values = image[..., channel]
        if kind == "color" and full > 1:
            _linear_of(full).take(values, out=light[channel], mode="clip")
        else:
            light[channel] = _shares(values, full)
        if kind.startswith("normal"):
            light[channel] = light[channel] * 2 - 1
        if kind != "mask":
            light[channel] *= weight
    return light


@cache
def _share_of(full: int) -> Light:
    return (np.arange(full + 1) / full).astype(np.float32)


def _shares(values: NDArray[Any], full: int) -> Light:
    """From 0 to 1."""
    shares: Light = values if full == 1 else _share_of(full).take(values, mode="clip")
    return shares


def from_light(light: Light, dtype: Any, kind: Kind = "color") -> Pixels:
    """Light, (4, H, W), as a frame of the depth that `dtype` means, (H, W, 4), straight alpha.

    What is brighter than full is cut off in 8 and 16 bits. Where alpha is 0 the colour is 0, a normal the neutral one;
    in float it is light without alpha.
    """
    dtype = np.dtype(dtype)
    alpha = np.clip(light[3], 0, 1)
    image = np.empty((*alpha.shape, 4), dtype)
    if kind == "mask":
        image[...] = _stored(np.moveaxis(light, 0, -1), dtype)
        return image
    if dtype == np.float32:
        alpha = np.where(alpha > _LEAST_ALPHA, alpha, 0)  # divided by less it would lose its precision
    image[..., 3] = _stored(alpha, dtype)
    if kind.startswith("normal"):
        image[..., :3] = _stored(_unit_vectors(light) * 0.5 + 0.5, dtype)
        return image
    none = np.ones_like(alpha) if dtype == np.float32 else np.zeros_like(alpha)
    share = np.divide(1, alpha, out=none, where=alpha > _LEAST_ALPHA)
    for channel in range(3):
        straight = light[channel] * share
        image[..., channel] = _encoded(straight, dtype) if kind == "color" else _stored(straight, dtype)
    return image


def _encoded(linear: Light, dtype: np.dtype[Any]) -> NDArray[Any]:
    """Straight linear light in the stored form of a colour."""
    if dtype == np.float32:
        return np.maximum(linear, 0)
    if dtype == np.uint8:
        np.clip(linear, 0, 1, out=linear)
        linear *= _FINE
        linear += 0.5
        return _srgb_of_linear().take(linear.astype(np.uint16), mode="clip")
    return _stored(linear_to_srgb(np.clip(linear, 0, 1)), dtype)


def _stored(values: Levels, dtype: np.dtype[Any]) -> NDArray[Any]:
    if dtype == np.float32:
        return values.astype(np.float32)
    full = int(np.iinfo(dtype).max)
    return np.rint(np.clip(values, 0, 1) * full).astype(dtype)


def _unit_vectors(light: Light) -> Light:
    """(H, W, 3); where nothing weighs, or vectors cancel out, straight up."""
    vectors = np.moveaxis(light[:3], 0, -1)
    length = np.sqrt((vectors * vectors).sum(axis=-1, keepdims=True))
    weighs = length > 1e-6
    units = np.where(weighs, vectors / np.where(weighs, length, 1), np.array(_NEUTRAL, np.float32))
    return units.astype(np.float32)
