"""Frames made ready to be looked at: scaled, over a backdrop, 8 bits a channel."""

from __future__ import annotations

from fractions import Fraction
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.compose import Backdrop, nearest_scaled, over, scaled_size, to_8_bits
from kivel.core.pixels import Pixels, Size

__all__ = ["Filter", "Look", "default_scale", "shown_frame", "smooth_scaled"]

Levels = NDArray[np.floating[Any]]
Filter = Literal["nearest", "smooth"]

_COMFORTABLE_PX = 256


class Look(NamedTuple):
    """How to show frames."""

    scale: Fraction
    filter: Filter
    backdrop: Backdrop


def default_scale(size: Size) -> Fraction:
    """Small art is shown larger by a whole number, so that its longer side comes near 256 pixels."""
    return Fraction(max(1, _COMFORTABLE_PX // max(size)))


def shown_frame(image: Pixels, look: Look) -> NDArray[np.uint8]:
    """(H, W, 4) uint8."""
    height, width = image.shape[:2]
    size = scaled_size(Size(width, height), look.scale)
    plain = to_8_bits(image)
    if look.scale != 1:
        plain = smooth_scaled(plain, size) if look.filter == "smooth" else nearest_scaled(plain, size)
    return over(plain, look.backdrop)


def smooth_scaled(image: NDArray[np.uint8], size: Size) -> NDArray[np.uint8]:
    """`image` resized by Lanczos, on premultiplied values in linear light."""
    import PIL.Image

    values = image.astype(np.float32) / 255
    alpha = values[..., 3]
    channels = [_linear(values[..., channel]) * alpha for channel in range(3)] + [alpha]
    resized = [
        np.asarray(PIL.Image.fromarray(channel).resize(size, PIL.Image.Resampling.LANCZOS)) for channel in channels
    ]
    alpha = np.clip(resized[3], 0, 1)
    colour = np.stack(resized[:3], axis=-1)
    straight = np.divide(colour, alpha[..., None], out=np.zeros_like(colour), where=alpha[..., None] > 0)
    whole = np.concatenate((_encoded(np.clip(straight, 0, 1)), alpha[..., None]), axis=-1)
    rounded: NDArray[np.uint8] = np.rint(whole * 255).astype(np.uint8)
    return rounded


def _linear(srgb: Levels) -> Levels:
    """The transfer function of IEC 61966-2-1."""
    return np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4).astype(np.float32)


def _encoded(linear: Levels) -> Levels:
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055).astype(np.float32)
