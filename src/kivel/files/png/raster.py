"""An image as the rows of bytes that PNG stores, in one of the forms that store it without loss."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.indexed import MOST_COLOURS, ColourTable, Indices, distinct, packed_colours
from kivel.core.pixels.pixels import Pixels, bit_depth, is_grey, is_opaque
from kivel.files.png.chunks import GREY, GREY_ALPHA, PALETTE, RGB, RGBA, Header

__all__ = ["Channels", "Form", "Raster", "indexed_forms", "lossless_forms", "needed_channels"]

_SAMPLE_STRIDE = 97
_STRIP_ROWS = 64
_CHANNELS = {GREY: slice(0, 1), RGB: slice(0, 3), GREY_ALPHA: slice(2, 4), RGBA: slice(0, 4)}
_COLOURS = {(False, False): GREY, (False, True): GREY_ALPHA, (True, False): RGB, (True, True): RGBA}
"""PNG's colour types, by whether there are colour and alpha."""


class _Palette(ColourTable):
    """The colours of an image that has no palette of its own, in an order that does not depend on where they occur."""

    def __init__(self, colours: NDArray[np.uint32]) -> None:
        table = colours.view(np.uint8).reshape(-1, 4)
        # by alpha, so that tRNS stays short, then by colour
        super().__init__(table[np.lexsort((*table[:, 2::-1].T, table[:, 3]))])

    def of(self, part: Pixels) -> Indices:
        return self.indices(packed_colours(part))


class _StatedPalette:
    """A palette that is kept: what is given for pixels are their indices already."""

    def __init__(self, table: NDArray[np.uint8]) -> None:
        self.table = table

    def of(self, part: Indices) -> Indices:
        return part


class Channels(NamedTuple):
    """Which samples an image is stored with that has no palette."""

    colour: bool = False
    alpha: bool = False

    def __or__(self, other: Channels) -> Channels:
        return Channels(self.colour or other.colour, self.alpha or other.alpha)


class Form(NamedTuple):
    """Which samples are stored, of how many bits; those of a palette are indices."""

    colour: int
    depth: int
    palette: _Palette | _StatedPalette | None = None


class Raster(NamedTuple):
    """Pixels in a form, or the indices of a palette that is kept; rows are made ready when asked for."""

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
        """Return the alpha of the colours, up to the last that is not opaque."""
        if self.form.palette is None:
            return b""
        alpha = self.form.palette.table[:, 3]
        return alpha[: int(np.flatnonzero(alpha < 255)[-1]) + 1].tobytes() if (alpha < 255).any() else b""

    @property
    def step(self) -> int:
        """Bytes from one pixel to the next, at least 1: the distance the row filters look left."""
        return max(1, self.header.depth * self.header.channels // 8)

    def rows(self, first: int, last: int) -> NDArray[np.uint8]:
        """Rows `first` to `last` - 1 as (rows, bytes) uint8, 16-bit samples high byte first."""
        part = self.image[first:last]
        if self.form.palette is not None:
            return _packed_bits(self.form.palette.of(part), self.form.depth)
        part = part[..., _CHANNELS[self.form.colour]]
        if part.dtype == np.uint16:
            # PNG stores the high byte first (PNG, third edition, 7.1)
            part = part.astype(">u2")
        return np.ascontiguousarray(part).view(np.uint8).reshape(last - first, -1)


def needed_channels(images: Sequence[Pixels]) -> Channels:
    """The fewest samples that store all of these without loss."""
    return Channels(colour=not all(map(is_grey, images)), alpha=not all(is_opaque(image) for image in images))


def lossless_forms(images: Sequence[Pixels], *, channels: Channels | None = None, palettes: bool = True) -> list[Form]:
    """Every form worth trying that stores all of these, which have one depth, the leanest first.

    Palettes of fewer bits and of whole bytes where they may have one, else grey or colour, with alpha or without:
    these channels, or those that are needed.
    """
    depth = bit_depth(images[0])
    lean = Form(_COLOURS[channels or needed_channels(images)], depth)
    palette = _palette(images) if palettes and depth == 8 else None
    if palette is None:
        return [lean]
    bits = _index_bits(palette.table)
    if lean.colour == GREY and bits == 8:
        return [lean]  # as many bytes, and no palette
    return [*(Form(PALETTE, each, palette) for each in dict.fromkeys((bits, 8))), lean]


def indexed_forms(table: NDArray[np.uint8]) -> list[Form]:
    """The forms that store indices of a palette that is kept, (n, 4) uint8."""
    return [Form(PALETTE, each, _StatedPalette(table)) for each in dict.fromkeys((_index_bits(table), 8))]


def _index_bits(table: NDArray[np.uint8]) -> int:
    return next(bits for bits in (1, 2, 4, 8) if 2**bits >= len(table))


def _palette(images: Sequence[Pixels]) -> _Palette | None:
    """The colours of all, or None where there are more than 256.

    A sparse look first: most rendered art has too many, and shows it at once.
    """
    known = distinct(packed_colours(images[0]).reshape(-1)[::_SAMPLE_STRIDE])
    palette = _Palette(known) if known.size <= MOST_COLOURS else None
    for image in images:
        for first in range(0, len(image), _STRIP_ROWS):
            if palette is None:
                return None
            more = palette.strangers(packed_colours(image[first : first + _STRIP_ROWS]))
            if more.size:
                known = distinct(np.concatenate((known, more)))
                palette = _Palette(known) if known.size <= MOST_COLOURS else None
    return palette


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
