"""Spacing on a page: gaps, margins and skirts."""

from __future__ import annotations

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = ["Spacing", "up_to_multiple"]


def up_to_multiple(length: int, of: int) -> int:
    """
    >>> up_to_multiple(9, 4)
    12
    """
    return -(-length // of) * of


class Spacing(NamedTuple):
    """Pixels between things (`gap`), around all (`margin`), and of repeated edges around each (`skirt`).

    With a `block`, each thing and its skirt begin at a multiple of it, and no two share one: what shrinks the page to
    one texel a block mixes nothing.
    """

    gap: int = 0
    margin: int = 0
    skirt: int = 0
    block: int = 1

    @property
    def start(self) -> int:
        """Where the first footprint begins, from the page's left and top."""
        return up_to_multiple(self.margin, self.block)

    def footprint(self, size: Size) -> Size:
        """Return what a thing takes with its skirt and a gap, in blocks: counted once, wherever it lies."""
        w, h = (-(-(length + 2 * self.skirt + self.gap) // self.block) for length in size)
        return Size(w, h)

    def page(self, blocks: Size) -> Size:
        """The least page for footprints that take this many blocks."""
        w, h = (self.start + length * self.block - self.gap + self.margin for length in blocks)
        return Size(w, h)

    def room(self, page: Size) -> Size:
        """How many blocks a page has for footprints; 0 or less when it has none."""
        w, h = ((length - self.start - self.margin + self.gap) // self.block for length in page)
        return Size(w, h)

    def pixel(self, block: int) -> int:
        """Where a thing itself begins, whose footprint is at a block, across or down."""
        return self.start + block * self.block + self.skirt
