"""Two pictures that should be one: each over a checkerboard, and where they differ."""

from __future__ import annotations

import numpy as np

from kivel.core.pixels.compose import over
from kivel.core.pixels.pixels import Pixels

__all__ = ["draw_difference"]

_LEAST_PX, _GAP_PX = 256, 16
_DIFFERENT = (255, 64, 160, 255)


def draw_difference(source: Pixels, sheet: Pixels) -> Pixels:
    """The source, the sheet, and both again where they are the same with what differs in pink; enlarged if small."""
    height = max(source.shape[0], sheet.shape[0])
    width = max(source.shape[1], sheet.shape[1])
    padded = [_padded(image, height, width) for image in (source, sheet)]
    differs = (padded[0] != padded[1]).any(axis=-1) & ((padded[0][..., 3] > 0) | (padded[1][..., 3] > 0))
    marked = padded[1] // 3
    marked[..., 3] = 255
    marked[differs] = _DIFFERENT
    scale = max(1, -(-_LEAST_PX // max(height, width)))
    tiles = [np.repeat(np.repeat(over(image, "checker"), scale, axis=0), scale, axis=1) for image in (*padded, marked)]
    gap = np.full((tiles[0].shape[0], _GAP_PX, 4), 255, np.uint8)
    drawn: Pixels = np.concatenate([tiles[0], gap, tiles[1], gap, tiles[2]], axis=1)
    return drawn


def _padded(image: Pixels, height: int, width: int) -> Pixels:
    return np.pad(image, ((0, height - image.shape[0]), (0, width - image.shape[1]), (0, 0)))
