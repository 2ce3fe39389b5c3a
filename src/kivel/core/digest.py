"""Telling whether two images are the same without keeping both."""

from __future__ import annotations

import numpy as np
import xxhash

from kivel.core.pixels.pixels import Pixels, bit_depth

__all__ = ["pixel_digest"]

_ROWS = 256


def pixel_digest(image: Pixels) -> str:
    """The digest of an image's size, depth and every pixel, whatever file it is stored in.

    XXH3 with 128 bits over `WIDTHxHEIGHTxDEPTH` and the RGBA samples in rows, 16-bit samples low byte first. It tells
    whether an image has changed; it is no protection against someone who wants it not to.
    """
    height, width = image.shape[:2]
    digest = xxhash.xxh3_128(f"{width}x{height}x{bit_depth(image)}".encode())
    little = image.astype(image.dtype.newbyteorder("<"), copy=False)
    for row in range(0, height, _ROWS):
        digest.update(np.ascontiguousarray(little[row : row + _ROWS]).data)
    return f"xxh3-128:{digest.hexdigest()}"
