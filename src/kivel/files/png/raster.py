"""An image as the rows of bytes that PNG stores, and the smallest form that stores it without loss."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels import Pixels, bit_depth, is_opaque
from kivel.files.png.chunks import GREY, GREY_ALPHA, PALETTE, RGB, RGBA, Header

__all__ = ["Raster", "forms", "truecolour"]

_MOST_COLOURS = 256
_SAMPLE_STRIDE = 97


class Raster(NamedTuple):
    """`samples` is (H, W, channels), or (H, row bytes) uint8 for a palette; rows are made ready when asked for."""

    header: Header
    samples: NDArray[Any]
    palette: bytes = b""
    transparency: bytes = b""

    @property
    def step(self) -> int:
        """Bytes from one pixel to the next, at least 1: the distance the row filters look left."""
        return max(1, self.header.depth * self.header.channels // 8)

    def rows(self, first: int, last: int) -> NDArray[np.uint8]:
        """Rows `first` to `last` - 1 as (rows, bytes) uint8, 16-bit samples high byte first."""
        part = self.samples[first:last]
        if part.dtype == np.uint16:
            # PNG stores the high byte first (PNG, third edition, 7.1)
            part = part.astype(">u2")
        return np.ascontiguousarray(part).view(np.uint8).reshape(last - first, -1)


def truecolour(image: Pixels) -> Raster:
    """RGBA as it is."""
    return _raster(image, RGBA)


def _raster(samples: NDArray[Any], colour: int) -> Raster:
    height, width = samples.shape[:2]
    return Raster(Header(width, height, bit_depth(samples), colour), samples)


def forms(image: Pixels) -> list[Raster]:
    """Every form worth trying, all without loss: the leanest of grey and colour, and a palette where one will do."""
    opaque = is_opaque(image)
    if _is_grey(image):
        lean = _raster(image[..., 0], GREY) if opaque else _raster(image[..., 2:], GREY_ALPHA)
    else:
        lean = _raster(image[..., :3], RGB) if opaque else truecolour(image)
    indexed = _indexed(image) if image.dtype == np.uint8 else None
    return [lean, indexed] if indexed else [lean]


def _is_grey(image: Pixels) -> bool:
    """Whether red, green and blue agree everywhere; a sparse look first, which settles most colour images."""
    sample = image.reshape(-1, 4)[::_SAMPLE_STRIDE]
    return _channels_agree(sample) and _channels_agree(image)


def _channels_agree(image: Pixels) -> bool:
    return bool((image[..., 0] == image[..., 1]).all() and (image[..., 1] == image[..., 2]).all())


def _indexed(image: Pixels) -> Raster | None:
    """A palette of up to 256 colours, those with transparency first so that tRNS stays short; None if there are more.

    Colours are looked up once for each run of equal pixels: drawn art has few runs.
    """
    height, width = image.shape[:2]
    flat = np.ascontiguousarray(image).view(np.uint32).reshape(-1)
    # a sparse look first: most rendered art has too many colours, and shows it at once
    if np.unique(flat[::_SAMPLE_STRIDE]).size > _MOST_COLOURS:
        return None
    starts = np.flatnonzero(np.concatenate(([True], flat[1:] != flat[:-1])))
    firsts = flat[starts]
    colours = _distinct(firsts)
    if colours is None:
        return None
    table = colours.view(np.uint8).reshape(-1, 4)
    # by alpha, then by colour: an order that does not depend on where colours occur
    order = np.lexsort((*table[:, 2::-1].T, table[:, 3]))
    rank = np.empty(order.size, np.uint8)
    rank[order] = np.arange(order.size)
    lengths = np.diff(starts, append=flat.size)
    indices = np.repeat(rank[np.searchsorted(colours, firsts)], lengths).reshape(height, width)
    table = table[order]
    depth = next(bits for bits in (1, 2, 4, 8) if 2**bits >= order.size)
    header = Header(width, height, depth, PALETTE)
    transparent = int((table[:, 3] < 255).sum())
    return Raster(header, _packed(indices, depth), table[:, :3].tobytes(), table[:transparent, 3].tobytes())


def _distinct(values: NDArray[np.uint32]) -> NDArray[np.uint32] | None:
    """The sorted distinct values, or None as soon as there are too many."""
    known = np.empty(0, np.uint32)
    for start in range(0, values.size, 1 << 18):
        known = np.union1d(known, values[start : start + (1 << 18)])
        if known.size > _MOST_COLOURS:
            return None
    return known


def _packed(indices: NDArray[np.uint8], depth: int) -> NDArray[np.uint8]:
    """Indices of `depth` bits, the leftmost pixel in the highest bits of a byte; rows are filled up with zeros."""
    if depth == 8:
        return indices
    height, width = indices.shape
    per_byte = 8 // depth
    padded = np.zeros((height, -(-width // per_byte) * per_byte), np.uint8)
    padded[:, :width] = indices
    groups = padded.reshape(height, -1, per_byte)
    shifts = np.arange(8 - depth, -1, -depth, dtype=np.uint8)
    packed: NDArray[np.uint8] = np.bitwise_or.reduce(groups << shifts, axis=2)
    return packed
