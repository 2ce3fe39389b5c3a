"""Frames made ready to be looked at: scaled, over a backdrop, 8 bits a channel."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.compose import Backdrop, over, scaled_size, to_8_bits
from kivel.core.pixels import Pixels, Size
from kivel.core.scaling import scaled

__all__ = ["Look", "Smoothing", "default_scale", "shown_frame"]

Smoothing = Literal["nearest", "smooth"]

_COMFORTABLE_PX = 256


class Look(NamedTuple):
    """How to show frames."""

    scale: Fraction
    filter: Smoothing
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
        plain = scaled(plain, size, filter="lanczos" if look.filter == "smooth" else "nearest")
    return over(plain, look.backdrop)
