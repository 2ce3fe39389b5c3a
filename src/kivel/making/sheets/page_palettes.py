"""The palette that frames share, on the pages that they are put on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.indexed import MOST_COLOURS, ColourTable, Indices, StoredPalette, distinct, packed_colours
from kivel.core.pixels.pixels import Pixels, Value, full_scale
from kivel.core.slicing.background import KeyColour
from kivel.core.wording import counted
from kivel.files.manifest.names import COLOR
from kivel.sequences.map_frames import MapFrames

if TYPE_CHECKING:
    from kivel.core.option_words import Indexed

__all__ = ["PagePalette", "shared_palettes"]


class PagePalette(NamedTuple):
    """The palette of one map's frames, and these with `indices` in place of colours where colours do not tell them.

    `tell` is given what a person should know when a page cannot have it.
    """

    name: str
    palette: StoredPalette
    indices: MapFrames | None
    tell: Callable[[str], object]

    @property
    def empty(self) -> Value:
        """Return the value of empty space: transparent black, unless the palette has another transparent colour."""
        nothing: list[Value] = [tuple(colour) for colour in self.palette.table.tolist() if colour[3] == 0]
        black = (0, 0, 0, 0)
        return black if black in nothing or not nothing else nothing[0]

    def on_page(
        self, image: Pixels, ground: Value, key: KeyColour | None, paint: Callable[[MapFrames, Pixels], object]
    ) -> StoredPalette | None:
        """The palette for a page, (H, W, 4), on which frames lie; None if the page has other colours.

        A palette without the colour of the `ground` gets it at its end where it is needed. `key` is the colour that the
        ground got last. `paint` puts frames on a page in their places.
        """
        palette = self.palette.recoloured(lambda table: _keyed(table, key)) if key else self.palette
        others = distinct(ColourTable(palette.table).strangers(packed_colours(image)))
        if others.size:
            wanted = np.array((*key, full_scale(image)) if key else ground, np.uint8)
            if others.size > 1 or palette.length == MOST_COLOURS or (others.view(np.uint8) != wanted).any():
                self.tell(f"{self._subject} is not kept: the page has other colours")
                return None
            self.tell(f"{self._subject} gets one more, for the space between frames")
        palette = StoredPalette(palette.colours + others.tobytes())
        if self.indices is None:
            return palette
        page = np.zeros_like(image)
        paint(self.indices, page)
        indices: Indices = np.ascontiguousarray(page[..., 0])
        return palette._replace(indices=lambda: indices)

    @property
    def _subject(self) -> str:
        where = "" if self.name == COLOR else f"map {self.name}: "
        return f"{where}the palette of {counted(self.palette.length, 'colour')}"


def _keyed(table: Pixels, key: KeyColour) -> Pixels:
    """Colours of which transparent black was the background's, as they are on the sheet."""
    result = table.copy()
    result[~table.any(axis=-1)] = (*key, full_scale(table))
    return result


def shared_palettes(
    maps: Sequence[MapFrames], indexed: Indexed, tell: Callable[[str], object]
) -> tuple[PagePalette | None, ...]:
    """The palette of each map, if it is to be kept and all its frames have one; `tell` hears where these differ."""
    if indexed != "keep":
        return (None,) * len(maps)
    found: list[PagePalette | None] = []
    for one in maps:
        palette = one.palette()
        if palette is None and all(frame and frame.palette for frame in one.frames):
            where = "" if one.name == COLOR else f"map {one.name}: "
            smallest = option("indexed", "smallest")
            tell(f"{where}the palettes of the frames differ, so the sheet has none; {smallest} may give it a new one")
        indices = one.indices() if palette and palette.repeats else None
        found.append(palette and PagePalette(one.name, palette, indices, tell))
    return tuple(found)
