"""Colours of single pixels: brightness, contrast, saturation and hue as CSS has them, a tint, and one colour kept.

The formulas are those of the W3C's Filter Effects Module Level 1 (the `brightness`, `contrast`, `saturate` and
`hue-rotate` functions), on stored (sRGB) values with straight alpha. Results outside of 0 to 1 are cut off, but for
float frames, whose light may be above 1.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.bands import in_bands
from kivel.core.pixels.light import linear_to_srgb, srgb_to_linear
from kivel.core.pixels.pixels import Pixels, full_scale, visibility

__all__ = ["brightened", "contrasted", "hue_turned", "only_color", "saturated", "tinted"]

Colours = NDArray[np.floating[Any]]
"""(..., 3), red, green and blue, stored values from 0 to 1."""
_LUMINANCE = np.array([0.213, 0.715, 0.072])
_COSINE = np.array([[0.787, -0.715, -0.072], [-0.213, 0.285, -0.072], [-0.213, -0.715, 0.928]])
_SINE = np.array([[-0.213, -0.715, 0.928], [0.143, 0.140, -0.283], [-0.787, 0.715, 0.072]])


def brightened(image: Pixels, amount: float) -> Pixels:
    """Colour times `amount`. (H, W, 4), any depth."""
    return _changed(image, lambda colours: colours * amount)


def contrasted(image: Pixels, amount: float) -> Pixels:
    """Colour `amount` times as far from middle grey. (H, W, 4), any depth."""
    return _changed(image, lambda colours: (colours - 0.5) * amount + 0.5)


def saturated(image: Pixels, amount: float) -> Pixels:
    """Colour `amount` times as far from its grey: 0 is grey, 1 changes nothing. (H, W, 4), any depth."""
    grey = np.tile(_LUMINANCE, (3, 1))
    return _by_matrix(image, grey + amount * (np.eye(3) - grey))


def hue_turned(image: Pixels, degrees: float) -> Pixels:
    """Hue rotated by `degrees`, from red towards yellow and green. (H, W, 4), any depth."""
    angle = math.radians(degrees)
    return _by_matrix(image, np.tile(_LUMINANCE, (3, 1)) + math.cos(angle) * _COSINE + math.sin(angle) * _SINE)


def tinted(image: Pixels, color: tuple[float, float, float], amount: float = 1.0) -> Pixels:
    """Colour multiplied by another one, as engines tint a sprite; an `amount` of 0 changes nothing. (H, W, 4)."""
    factors = 1 + (np.array(color) - 1) * amount
    return _changed(image, lambda colours: colours * factors)


@in_bands
def only_color(image: Pixels, color: tuple[float, float, float], tolerance: float) -> Pixels:
    """The visible pixels of one colour, unchanged; all others become empty. (H, W, 4), any depth.

    `tolerance`, from 0 to 1, is the largest difference of a channel on stored values.
    """
    colours = np.minimum(_stored(image), 1)  # what is brighter than white is white
    differences = np.abs(colours - np.array(color)).max(axis=-1)
    # what was stored as a whole number is not lost to the way there
    kept = (differences <= tolerance + 1e-9) & (visibility(image) > 0)
    result: Pixels = np.where(kept[..., None], image, np.zeros((), image.dtype))
    return result


def _by_matrix(image: Pixels, matrix: NDArray[np.float64]) -> Pixels:
    return _changed(image, lambda colours: colours @ matrix.T)


@in_bands
def _changed(image: Pixels, change: Callable[[Colours], Colours]) -> Pixels:
    """Stored colours changed; alpha stays."""
    result = image.copy()
    colours = change(_stored(image))
    if image.dtype == np.float32:
        result[..., :3] = np.where(visibility(image)[..., None] > 0, srgb_to_linear(colours), image[..., :3])
    else:
        full = full_scale(image)
        result[..., :3] = np.rint(np.clip(colours, 0, 1) * full)
    return result


def _stored(image: Pixels) -> Colours:
    if image.dtype == np.float32:
        return linear_to_srgb(image[..., :3].astype(np.float64))
    shares: Colours = image[..., :3] / np.float64(full_scale(image))
    return shares
