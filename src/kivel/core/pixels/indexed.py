"""Palettes as files store them: colours in an order, used or not, and which of them each pixel has."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels

__all__ = ["MOST_COLOURS", "ColourTable", "Indices", "StoredPalette", "agreed_palette", "distinct", "packed_colours"]

MOST_COLOURS = 256
_SLOT_BITS = 16
_STRIP_ROWS = 256

Indices = NDArray[np.uint8]
"""(H, W): which colour of a palette each pixel has, from 0."""

Packed = NDArray[np.uint32]
"""RGBA of 8 bits as one number for each pixel."""


class StoredPalette(NamedTuple):
    """The palette that an image is stored with.

    `colours` are RGBA of 8 bits one behind the other, at most 256, in the file's order, used or not. `indices` gives
    which of them each pixel has; it is a hint, for two entries may have one colour, and None where only colours count.
    """

    colours: bytes
    indices: Callable[[], Indices] | None = None

    @property
    def table(self) -> NDArray[np.uint8]:
        """(n, 4): the colours, read-only."""
        return np.frombuffer(self.colours, np.uint8).reshape(-1, 4)

    @property
    def length(self) -> int:
        """Return how many colours it has."""
        return len(self.colours) // 4

    @property
    def repeats(self) -> bool:
        """Whether several entries have the same colour, so that a pixel does not tell which one is meant."""
        return distinct(packed_colours(self.table)).size < self.length

    def moved(self, move: Callable[[Pixels], Pixels]) -> StoredPalette:
        """The same where pixels are moved as `move` does it to an image; what comes to be empty has index 0."""
        indices = self.indices
        if indices is None:
            return self
        return self._replace(indices=lambda: move(np.repeat(indices()[..., None], 4, axis=2))[..., 0])

    def recoloured(self, change: Callable[[Pixels], Pixels]) -> StoredPalette:
        """The same with its colours changed as an image of (1, n, 4) would be."""
        return self._replace(colours=np.ascontiguousarray(change(self.table[None])).tobytes())


class ColourTable:
    """The colours of a palette, (n, 4) uint8, and by which index a pixel has one: the first of several alike.

    Indices are looked up in a table of 65,536 slots, at the upper bits of a product with a number under which no two
    of the colours meet (multiplicative hashing; Knuth, The Art of Computer Programming 3, 6.4): several times as quick
    as a search.
    """

    def __init__(self, table: NDArray[np.uint8]) -> None:
        self.table = table
        colours = packed_colours(table)
        known = distinct(colours)
        self._factor = next(factor for factor in _factors() if _all_differ(_slots(known, factor)))
        slots = _slots(colours, self._factor)
        self._indices = np.zeros(1 << _SLOT_BITS, np.uint8)
        self._indices[slots[::-1]] = np.arange(slots.size)[::-1]
        # a colour that no other slot holds, so that an empty one is never taken for a colour
        self._known = np.full(1 << _SLOT_BITS, colours[0], np.uint32)
        self._known[slots] = colours

    def indices(self, pixels: Packed) -> Indices:
        """The index of each; of a stranger any."""
        found: Indices = self._indices[_slots(pixels, self._factor)]
        return found

    def strangers(self, pixels: Packed) -> Packed:
        """Those that it does not have."""
        found: Packed = pixels[self._known[_slots(pixels, self._factor)] != pixels]
        return found

    def indices_of(self, image: Pixels, hint: Indices | None = None) -> Indices | None:
        """Which colour each pixel of an image has, by the hint where that is right; None if it has others.

        Parameters
        ----------
        image : (H, W, 4) array
            Of `uint8`; an image of another depth has other colours.
        hint : (H, W) array of uint8, optional
            Indices that may be out of date; of another size they count for nothing.
        """
        if image.dtype != np.uint8:
            return None
        hint = hint if hint is not None and hint.shape == image.shape[:2] else None
        found = np.empty(image.shape[:2], np.uint8)
        for top in range(0, len(image), _STRIP_ROWS):
            rows = slice(top, top + _STRIP_ROWS)
            pixels = packed_colours(image[rows])
            if self.strangers(pixels).size:
                return None
            found[rows] = self.indices(pixels)
            if hint is not None:
                stated = np.minimum(hint[rows], len(self.table) - 1)
                found[rows] = np.where(packed_colours(self.table)[stated] == pixels, stated, found[rows])
        return found


def packed_colours(image: NDArray[np.uint8]) -> Packed:
    """(..., 4) of uint8 as (...) of uint32."""
    return np.ascontiguousarray(image).view(np.uint32)[..., 0]


def distinct(values: Packed) -> Packed:
    """In order; `np.unique` would load `numpy.ma`, which takes a tenth of the time to a small sheet."""
    ordered = np.sort(values, axis=None)
    different = np.ones(ordered.shape, np.bool_)
    np.not_equal(ordered[1:], ordered[:-1], out=different[1:])
    return ordered[different]


def agreed_palette(palettes: Sequence[StoredPalette | None]) -> StoredPalette | None:
    """The one palette of several images: that which all have, or into which theirs fit where their entries are used.

    An entry that one of them uses has that one's colour; one that none uses has that of the first palette that has it.
    None where an image has no palette, or two disagree. Its `indices` are those of the first.
    """
    first = palettes[0] if palettes else None
    if first is None or any(each is None for each in palettes):
        return None
    different = {each.colours: None for each in palettes if each}
    if len(different) == 1:
        return first
    table = np.zeros((MOST_COLOURS, 4), np.uint8)
    stated, used = np.zeros(MOST_COLOURS, bool), np.zeros(MOST_COLOURS, bool)
    for each in palettes:
        if each is None or each.indices is None:
            return None
        mine = np.bincount(each.indices().reshape(-1), minlength=MOST_COLOURS)[: each.length] > 0
        own = each.table
        both = mine & used[: each.length]
        if (own[both] != table[: each.length][both]).any():
            return None
        taken = mine | ~stated[: each.length]
        table[: each.length][taken] = own[taken]
        stated[: each.length] = True
        used[: each.length] |= mine
    return first._replace(colours=table[: max(each.length for each in palettes if each)].tobytes())


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
    return distinct(values).size == values.size
