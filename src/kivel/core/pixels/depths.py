"""Frames with fewer or more bits a channel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kivel.core.option_words import Dither
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.pixels import Pixels, associated, bit_depth, colour_weight, widened

__all__ = ["BAYER", "MOST_HALF", "at_depth", "rounded_to_half"]

_STEP = 257
"""How many steps of 16 bits are one of 8."""
MOST_HALF = 65504.0
"""The largest half float."""


def _bayer(side: int) -> NDArray[np.float32]:
    order = np.zeros((1, 1))
    while len(order) < side:
        order = np.block([[4 * order, 4 * order + 2], [4 * order + 3, 4 * order + 1]])
    return ((order + 0.5) / order.size).astype(np.float32)


BAYER = _bayer(8)
"""(8, 8) of thresholds from 0 to 1, like ones far from each other (Bayer 1973, "An optimum method for two-level
rendition of continuous-tone pictures").
"""


def at_depth(image: Pixels, bits: int, *, dither: Dither = "none") -> Pixels:
    """A frame of 8 or 16 bits a channel with 8 or 16 of them.

    Parameters
    ----------
    image : (H, W, 4) array
        uint8 or uint16.
    bits : int
        8 become 16 exactly, as v x 257. 16 become the nearest of 8.
    dither : Dither
        Under `ordered` 16 bits become one of the two of 8 between which they lie, the more often the nearer that is, by
        where in the frame it is; what 8 bits hold exactly stays. The mean of a flat area is kept.

    Returns
    -------
    (H, W, 4) array
    """
    if bit_depth(image) == bits:
        return image
    if bits == 16:
        return widened(image, 16)
    result = np.empty(image.shape, np.uint8)
    height, width = image.shape[:2]
    tiles = np.tile(BAYER, (1, -(-width // len(BAYER))))[:, :width, None]
    for rows in row_bands(height, width, multiple=len(BAYER)):
        if dither == "none":
            result[rows] = (image[rows].astype(np.uint32) + _STEP // 2) // _STEP
            continue
        whole, rest = np.divmod(image[rows], np.uint16(_STEP))
        thresholds = np.tile(tiles, (-(-len(whole) // len(BAYER)), 1, 1))[: len(whole)]
        result[rows] = whole + (rest > thresholds * _STEP)
    return result


def rounded_to_half(image: Pixels) -> Pixels:
    """A float frame whose values, multiplied by alpha as OpenEXR holds them, are half floats; the largest is 65504."""
    stored = np.clip(associated(image), -MOST_HALF, MOST_HALF).astype(np.float16).astype(np.float32)
    stored[..., :3] /= colour_weight(stored)[..., None]
    return stored
