"""What a manifest holds. Every object keeps in `extra` the keys that this version does not know.

`docs/manifest.md` describes each field, `manifest.schema.json` beside this file states it for machines.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field, replace
from fractions import Fraction
from typing import Any, Literal

from kivel.core.contents import ContentName
from kivel.core.layout.grid import Fill, Grid
from kivel.core.layout.placement import Flip
from kivel.core.pixels.pixels import NO_PAIR, Pair, Rect, Size, Turn, Value
from kivel.core.playback.clip import Clip
from kivel.core.playback.groups import Group
from kivel.core.records import record
from kivel.core.slicing.background import KeyColour

__all__ = [
    "CutFrom",
    "FramePlace",
    "GridInfo",
    "Made",
    "Manifest",
    "MapFile",
    "MapMotion",
    "Origin",
    "Outline",
    "Page",
    "PageAlpha",
]


PageAlpha = Literal["straight", "premultiplied", "opaque"]


@record
class MapMotion:
    """What the vectors of a motion map say, of the frames on one page.

    `reach` is the longest motion across and down, in pixels of the page. `pairs` are the earlier and the later frame
    between which they lead; they lie in the earlier one's place, where things are half way (`at`). `ratios` say how
    much of fading's error warping makes, for each pair, where that is known. Under `wrap` frames are tiles.
    """

    reach: tuple[int | float, int | float]
    pairs: tuple[tuple[int, int], ...]
    at: Literal["middle"] = "middle"
    ratios: tuple[int | float | None, ...] | None = None
    wrap: bool | None = None
    extra: dict[str, Any] = field(default_factory=dict)

    def renumbered(self, number: Mapping[int, int]) -> MapMotion:
        """The pairs of which both frames have a number, by these."""
        ratios = self.ratios or (None,) * len(self.pairs)
        kept = sorted(
            ((number[first], number[second]), ratio)
            for (first, second), ratio in zip(self.pairs, ratios, strict=True)
            if {first, second} <= number.keys()
        )
        pairs, ratios = tuple(pair for pair, _ in kept), tuple(ratio for _, ratio in kept)
        return replace(self, pairs=pairs, ratios=ratios if self.ratios else None)


@record
class MapFile:
    """An image file, its path relative to the manifest, and the digest of its pixels.

    `kind` is what its values mean. `scale` is its size as a share of the page's, None for all of it; `ground` is what
    lies where no frame does, None for transparent black. `key` is the colour that stands for nothing, as stored.
    `motion` says what the vectors of a motion map mean, where that is known.
    """

    file: str
    digest: str
    kind: ContentName = "color"
    scale: Fraction | None = None
    ground: Value | None = None
    key: KeyColour | None = None
    motion: MapMotion | None = None
    extra: dict[str, Any] = field(default_factory=dict)

    @property
    def parts(self) -> int:
        """One side of the page is so many of its own."""
        return self.scale.denominator if self.scale else 1


@record
class Page:
    """One page and its maps, all of one size in pixels."""

    size: Size
    maps: dict[str, MapFile]
    alpha: PageAlpha = "straight"
    extra: dict[str, Any] = field(default_factory=dict)

    def renumbered(self, number: Mapping[int, int]) -> Page:
        """The same page where frames have other numbers, or are not there any more: motion leads between those left."""
        maps = {
            name: replace(file, motion=file.motion and file.motion.renumbered(number))
            for name, file in self.maps.items()
        }
        return replace(self, maps=maps)


@record
class GridInfo:
    """The grid of a sheet. A `skirt` lies within the gap and the margin, around each frame."""

    columns: int
    rows: int
    cell: Size
    gap: Pair = NO_PAIR
    margin: Pair = NO_PAIR
    fill: Fill = "across"
    skirt: int = 0
    extra: dict[str, Any] = field(default_factory=dict)

    def cells(self) -> Grid:
        """The grid to compute with."""
        return Grid(self.columns, self.rows, Size(*self.cell), self.gap, self.margin, self.fill)


@record
class Origin:
    """The sheet that frames were sliced from: its file, as seen from here, its pages' sizes, its grid if it has one.

    What had the colour `key` there is transparent in the frames. `digest` is that of the pixels of its first page.
    """

    file: str
    pages: tuple[Size, ...]
    grid: GridInfo | None = None
    key: KeyColour | None = None
    digest: str | None = None
    extra: dict[str, Any] = field(default_factory=dict)


@record
class CutFrom:
    """Where on the sheet that it was sliced from a frame was, and where these pixels lie on its canvas."""

    rect: Rect
    page: int = 0
    offset: tuple[int, int] = (0, 0)
    extra: dict[str, Any] = field(default_factory=dict)


@record
class Outline:
    """A convex polygon around all visible pixels, in pixels of the canvas; it holds `wasted` square pixels more."""

    points: tuple[tuple[int | float, int | float], ...]
    wasted: int | float
    extra: dict[str, Any] = field(default_factory=dict)


@record
class FramePlace:
    """One frame: `rect` on its page, `offset` of those pixels in the full `canvas`, `pivot` as fractions of it.

    What lies on the page was turned clockwise; turned back, it is mirrored by `flip`. `ground` has, by map, what
    surrounds the pixels on the canvas where that is not the map's own ground. `cut` is where on its sheet it was
    sliced from. `set` names what was set since it was made: the pivot.
    """

    name: str
    source: str
    page: int
    rect: Rect
    turn: Turn
    canvas: Size
    offset: tuple[int, int]
    pivot: tuple[float, float] = (0.5, 0.5)
    flip: Flip | None = None
    ground: dict[str, Value] | None = None
    outline: Outline | None = None
    cut: CutFrom | None = None
    set: tuple[str, ...] | None = None
    extra: dict[str, Any] = field(default_factory=dict)


@record
class Made:
    """What made it, so that it can be made again: a command and its options, paths relative to the manifest."""

    command: str
    options: dict[str, Any]
    extra: dict[str, Any] = field(default_factory=dict)


@record
class Manifest:
    """A sheet, an atlas, or the files of a sequence.

    `grid` is None but for a sheet; `origin` is the sheet that sliced frames came from. `made` is None where no single
    command made it. `removed` names the clips that were made with it, and are not there any more.
    """

    pages: tuple[Page, ...]
    frames: tuple[FramePlace, ...]
    clips: tuple[Clip, ...] = ()
    grid: GridInfo | None = None
    groups: tuple[Group, ...] = ()
    origin: Origin | None = None
    made: Made | None = None
    removed: tuple[str, ...] | None = None
    extra: dict[str, Any] = field(default_factory=dict)

    def cells_in_rows(self) -> list[tuple[int, int]]:
        """The row of the grid that each frame lies in, counted over all pages, and the column; none without a grid."""
        if self.grid is None:
            return []
        grid = self.grid.cells()
        places = []
        for frame in self.frames:
            row, column = grid.place_of(frame.rect)
            places.append((frame.page * grid.rows + row, column))
        return places

    @property
    def is_layout(self) -> bool:
        """Whether its pages hold frames side by side; otherwise each is one frame's own file."""
        if self.made and self.made.command in ("sheet", "atlas"):
            return True
        whole = {(frame.page, frame.rect.size) for frame in self.frames}
        own = {(number, page.size) for number, page in enumerate(self.pages)}
        return bool(self.grid) or len(self.pages) != len(self.frames) or whole != own
