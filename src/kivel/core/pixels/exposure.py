"""From float frames in linear light to stored ones."""

from __future__ import annotations

import numpy as np

from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.light import linear_to_srgb
from kivel.core.pixels.pixels import Pixels

__all__ = ["exposed"]


def exposed(image: Pixels, stops: float, *, depth: int = 8) -> Pixels:
    """A float frame brightened by `stops`, as sRGB of 8 or 16 bits; what is brighter than white is cut off.

    Alpha is not brightened. Light that has no alpha gets its brightest channel as alpha, and shows as much over black.
    A frame of 8 or 16 bits stays as it is.
    """
    if image.dtype != np.float32:
        return image
    stored = np.empty(image.shape, np.uint8 if depth == 8 else np.uint16)
    for rows in row_bands(*image.shape[:2]):
        values = np.nan_to_num(image[rows].astype(np.float64), nan=0.0)
        values[..., :3] = linear_to_srgb(np.clip(values[..., :3] * 2.0**stops, 0, 1))
        brightest = values[..., :3].max(axis=-1)
        added = (values[..., 3] <= 0) & (brightest > 0)
        values[added, 3] = brightest[added]
        values[added, :3] /= brightest[added, None]
        stored[rows] = np.rint(np.clip(values, 0, 1) * np.iinfo(stored.dtype).max)
    return stored
