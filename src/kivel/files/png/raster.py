"""An image as the rows of bytes that PNG stores, in one of the forms that store it without loss."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, bit_depth, is_grey, is_opaque
from kivel.files.png.chunks import GREY, GREY_ALPHA, PALETTE, RGB, RGBA, Header

__all__ = ["Form", "Raster", "lossless_forms"]

_MOST_COLOURS = 256
_SAMPLE_STRIDE = 97
_STRIP_ROWS = 64
_SLOT_BITS = 16
_CHANNELS = {GREY: slice(0, 1), RGB: slice(0, 3), GREY_ALPHA: slice(2, 4), RGBA: slice(0, 4)}

Packed = NDArray[np.uint32]
"""RGBA of 8 bits as one number for each pixel."""


class _Palette:
    """Up to 256 colours, and by which index a pixel has one.

    Indices are looked up in a table of 65,536 slots, at the upper bits of a product with a number under which no two
    of the colours meet (multiplicative hashing; Knuth, The Art of Computer Programming 3, 6.4): several times as quick
    as a search.
    """

    def __init__(self, colours: Packed) -> None:
        table = colours.view(np.uint8).reshape(-1, 4)
        # by alpha, so that tRNS stays short, then by colour: an order that does not depend on where colours occur
        order = np.lexsort((*table[:, 2::-1].T, table[:, 3]))
        self.colours = colours[order]
        self.table = table[order]
        self._factor = next(factor for factor in _factors() if _all_differ(_slots(self.colours, factor)))
        slots = _slots(self.colours, self._factor)
        self._indices = np.zeros(1 << _SLOT_BITS, np.uint8)
        self._indices[slots] = np.arange(slots.size)
        # a colour that no other slot holds, so that an empty one is never taken for a colour
        self._known = np.full(1 << _SLOT_BITS, self.colours[0], np.uint32)
        self._known[slots] = self.colours

    def indices(self, pixels: Packed) -> NDArray[np.uint8]:
        found: NDArray[np.uint8] = self._indices[_slots(pixels, self._factor)]
        return found

    def strangers(self, pixels: Packed) -> Packed:
        """Those that it does not have."""
        found: Packed = pixels[self._known[_slots(pixels, self._factor)] != pixels]
        return found


def _factors() -> Iterator[np.uint32]:
    """Odd numbers, always the same; more than half of them tell 256 colours apart."""
    value = 0x9E3779B1
    while True:
        yield np.uint32(value)
        value = (value * 0x2C1B3C6D + 0x297A2D39) & 0xFFFFFFFF | 1


def _slots(pixels: Packed, factor: np.uint32) -> Packed:
    product: Packed = pixels * factor
    product >>= np.uint32(32 - _SLOT_BITS)
    return product


def _all_differ(values: Packed) -> bool:
    return _distinct(values).size == values.size


def _distinct(values: Packed) -> Packed:
    """In order; `np.unique` would load `numpy.ma`, which takes a tenth of the time to a small sheet."""
    ordered = np.sort(values, axis=None)
    different = np.ones(ordered.shape, np.bool_)
    np.not_equal(ordered[1:], ordered[:-1], out=different[1:])
    return ordered[different]


class Form(NamedTuple):
    """Which samples are stored, of how many bits; those of a palette are indices."""

    colour: int
    depth: int
    palette: _Palette | None = None


class Raster(NamedTuple):
    """Pixels in a form; rows are made ready when asked for."""

    image: Pixels
    form: Form

    @property
    def header(self) -> Header:
        height, width = self.image.shape[:2]
        return Header(width, height, self.form.depth, self.form.colour)

    @property
    def palette(self) -> bytes:
        return b"" if self.form.palette is None else self.form.palette.table[:, :3].tobytes()

    @property
    def transparency(self) -> bytes:
        """Return the alpha of the colours that are not opaque, which come first."""
        if self.form.palette is None:
            return b""
        alpha = self.form.palette.table[:, 3]
        return alpha[: int((alpha < 255).sum())].tobytes()

    @property
    def step(self) -> int:
        """Bytes from one pixel to the next, at least 1: the distance the row filters look left."""
        return max(1, self.header.depth * self.header.channels // 8)

    def rows(self, first: int, last: int) -> NDArray[np.uint8]:
        """Rows `first` to `last` - 1 as (rows, bytes) uint8, 16-bit samples high byte first."""
        part = self.image[first:last]
        if self.form.palette is not None:
            return _packed_bits(self.form.palette.indices(_numbers(part)), self.form.depth)
        part = part[..., _CHANNELS[self.form.colour]]
        if part.dtype == np.uint16:
            # PNG stores the high byte first (PNG, third edition, 7.1)
            part = part.astype(">u2")
        return np.ascontiguousarray(part).view(np.uint8).reshape(last - first, -1)


def lossless_forms(images: Sequence[Pixels]) -> list[Form]:
    """Every form worth trying that stores all of these, which have one depth, the leanest first.

    Palettes of fewer bits and of whole bytes, else the leanest of grey and colour, with alpha only where there is some.
    """
    depth = bit_depth(images[0])
    opaque = all(is_opaque(image) for image in images)
    if all(map(is_grey, images)):
        lean = Form(GREY if opaque else GREY_ALPHA, depth)
    else:
        lean = Form(RGB if opaque else RGBA, depth)
    palette = _palette(images) if depth == 8 else None
    if palette is None:
        return [lean]
    bits = next(bits for bits in (1, 2, 4, 8) if 2**bits >= len(palette.table))
    if lean.colour == GREY and bits == 8:
        return [lean]  # as many bytes, and no palette
    return [*(Form(PALETTE, each, palette) for each in dict.fromkeys((bits, 8))), lean]


def _palette(images: Sequence[Pixels]) -> _Palette | None:
    """The colours of all, or None where there are more than 256.

    A sparse look first: most rendered art has too many, and shows it at once.
    """
    known = _distinct(_numbers(images[0]).reshape(-1)[::_SAMPLE_STRIDE])
    palette = _Palette(known) if known.size <= _MOST_COLOURS else None
    for image in images:
        for first in range(0, len(image), _STRIP_ROWS):
            if palette is None:
                return None
            more = palette.strangers(_numbers(image[first : first + _STRIP_ROWS]))
            if more.size:
                known = _distinct(np.concatenate((known, more)))
                palette = _Palette(known) if known.size <= _MOST_COLOURS else None
    return palette


def _numbers(image: Pixels) -> Packed:
    """(H, W) of uint32."""
    return np.ascontiguousarray(image).view(np.uint32)[..., 0]


def _packed_bits(indices: NDArray[np.uint8], depth: int) -> NDArray[np.uint8]:
    """Indices of `depth` bits, the leftmost pixel in the highest bits of a byte; rows are filled up with zeros."""
    if depth == 8:
        return indices
    height, width = indices.shape
    per_byte = 8 // depth
    packed = np.zeros((height, -(-width // per_byte)), np.uint8)
    for place in range(per_byte):
        part = indices[:, place::per_byte]
        packed[:, : part.shape[1]] |= part << np.uint8(8 - depth * (place + 1))
    return packed
