"""From luma and chroma, as video stores colour, to RGB (ITU-T H.273, section 8.3)."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.pixels import Pixels

__all__ = ["MATRICES", "LumaWeights", "rgb_of_luma_chroma"]


class LumaWeights(NamedTuple):
    """The shares of red and blue in luma; green has the rest."""

    red: float
    blue: float


MATRICES = {
    "BT.601": LumaWeights(0.299, 0.114),
    "BT.709": LumaWeights(0.2126, 0.0722),
    "BT.2020": LumaWeights(0.2627, 0.0593),
    "FCC": LumaWeights(0.30, 0.11),
    "SMPTE 240M": LumaWeights(0.212, 0.087),
}


def rgb_of_luma_chroma(planes: list[NDArray[Any]], bits: int, weights: LumaWeights, *, is_full_range: bool) -> Pixels:
    """Return (H, W, 4) RGBA, uint8 of 8 bits and uint16 of more; colours that RGB does not have are clipped.

    Parameters
    ----------
    planes : list of (H, W) arrays
        Luma, both chroma and, if there is one, alpha, of one size; luma alone is grey.
    bits : int
        Of each value, 8 to 16.
    is_full_range : bool
        Luma has all values; else 16 to 235 of 255, and chroma 16 to 240.
    """
    height, width = planes[0].shape
    deep = bits > 8
    image = np.empty((height, width, 4), np.uint16 if deep else np.uint8)
    for band in row_bands(height, width):
        _fill(image[band], [plane[band] for plane in planes], bits, weights, is_full_range=is_full_range)
    return image


def _fill(image: Pixels, planes: list[NDArray[Any]], bits: int, weights: LumaWeights, *, is_full_range: bool) -> None:
    largest = 65535 if image.dtype == np.uint16 else 255
    unit, most = 1 << (bits - 8), (1 << bits) - 1
    black, luma_span, chroma_span = (0, most, most) if is_full_range else (16 * unit, 219 * unit, 224 * unit)
    luma = (planes[0].astype(np.float32) - np.float32(black)) * np.float32(largest / luma_span)
    if len(planes) > 2:
        blue, red = (
            (plane.astype(np.float32) - np.float32(128 * unit)) * np.float32(largest / chroma_span)
            for plane in planes[1:3]
        )
        green = 1 - weights.red - weights.blue
        from_red, from_blue = 2 * (1 - weights.red), 2 * (1 - weights.blue)
        channels = (
            luma + red * np.float32(from_red),
            luma
            - red * np.float32(from_red * weights.red / green)
            - blue * np.float32(from_blue * weights.blue / green),
            luma + blue * np.float32(from_blue),
        )
    else:
        channels = (luma, luma, luma)
    for number, channel in enumerate(channels):
        image[..., number] = np.clip(channel + np.float32(0.5), 0, largest)
    image[..., 3] = largest if len(planes) < 4 else _to_full_scale(planes[3], most, largest)


def _to_full_scale(plane: NDArray[Any], most: int, largest: int) -> NDArray[Any]:
    if most == largest:
        return plane
    return (plane.astype(np.uint32) * (2 * largest) + most) // (2 * most)
