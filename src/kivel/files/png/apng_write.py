"""Writing APNG on the same chunks as PNG (PNG specification, third edition, section 11.3.6)."""

from __future__ import annotations

import struct
from collections.abc import Iterator, Sequence
from fractions import Fraction

import numpy as np

from kivel.core.option_words import Compress
from kivel.core.pixels.pixels import Box, Pixels, Rect, opaque_bounds
from kivel.files.png.apng_read import FCTL, KEEP, SOURCE
from kivel.files.png.chunks import chunk
from kivel.files.png.raster import Raster, lossless_forms
from kivel.files.png.ways import way_for
from kivel.files.png.write import image_data, opening

__all__ = ["LARGEST_DELAY_TERM", "encode_apng"]

LARGEST_DELAY_TERM = 65535


def encode_apng(
    frames: Sequence[Pixels], delays: Sequence[Fraction], *, plays: int, compress: Compress, jobs: int = 1
) -> Iterator[bytes]:
    """An animated PNG in pieces; each frame after the first stores only the rectangle that changed.

    Parameters
    ----------
    frames : sequence of (H, W, 4) arrays
        All of one size and depth.
    delays : sequence of Fraction
        Seconds; numerator and denominator at most 65,535.
    plays : int
        How often it plays, 0 for without end.
    """
    forms = lossless_forms(frames)
    # the first frame speaks for all: they have one form, and look alike
    way = way_for(frames[0], forms, compress)
    yield from opening(Raster(frames[0], way.form))
    yield chunk(b"acTL", struct.pack(">II", len(frames), plays))
    number = 0
    previous: Pixels | None = None
    for frame, delay in zip(frames, delays, strict=True):
        rect = _changed(previous, frame)
        yield chunk(b"fcTL", struct.pack(">I", number), _control_bytes(rect, delay))
        number += 1
        for data in image_data(Raster(rect.of(frame), way.form), way, compress=compress, jobs=jobs):
            if previous is None:
                yield chunk(b"IDAT", data)
            else:
                yield chunk(b"fdAT", struct.pack(">I", number), data)
                number += 1
        previous = frame
    yield chunk(b"IEND")


def _control_bytes(rect: Rect, delay: Fraction) -> bytes:
    fields = FCTL.pack(0, rect.w, rect.h, rect.x, rect.y, delay.numerator, delay.denominator, KEEP, SOURCE)
    return fields[4:]


def _changed(before: Pixels | None, after: Pixels) -> Rect:
    """The smallest rectangle outside of which two frames agree; a single pixel when they agree everywhere."""
    height, width = after.shape[:2]
    if before is None:
        return Rect(0, 0, width, height)
    differs = (before != after).any(axis=2)
    mask = np.zeros_like(after, np.uint8)
    mask[..., 3] = differs
    bounds: Box = opaque_bounds(mask)
    return bounds or Rect(0, 0, 1, 1)
