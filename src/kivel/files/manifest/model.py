"""Describes what a manifest holds. Every object keeps in `extra` the keys that this version does not know.

The text about a field is its description in the schema, its bounds are those within which it is read.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import field, replace
from fractions import Fraction
from typing import Annotated, Any, Literal

from kivel.core.fields import Count, From1, Holds, described
from kivel.core.layout.grid import Grid
from kivel.core.layout.placement import Flip
from kivel.core.option_words import ContentName, Fade, Fill
from kivel.core.pixels.pixels import NO_PAIR, Pair, Rect, Size, Turn, Value
from kivel.core.playback.clip import Clip
from kivel.core.playback.groups import Group
from kivel.core.records import record
from kivel.core.slicing.background import KeyColour
from kivel.files.manifest.names import COLOR

__all__ = [
    "CutFrom",
    "FramePlace",
    "GridInfo",
    "Made",
    "Manifest",
    "MapFile",
    "MapMotion",
    "Outline",
    "Page",
    "PageAlpha",
    "SlicedFrom",
]


PageAlpha = Literal["straight", "premultiplied", "opaque"]

Digest = Annotated[str, Holds("ALGORITHM:HEX; this version writes xxh3-128.", name="digest")]
PixelSize = Annotated[Size, Holds("Width and height in pixels.", name="size", items=From1)]
PixelPair = Annotated[Pair, Holds("Pixels across and down.", name="pair", items=Count)]
PixelValue = Annotated[Value, Holds("Red, green, blue and alpha as stored.", name="value")]
Key = Annotated[
    KeyColour,
    Holds(
        "Red, green and blue, as stored, of the background colour that was made transparent; absent: none.", name="key"
    ),
]
Share = Annotated[Fraction, Holds("One part of N, such as [1, 2].", name="share", items=(Literal[1], From1))]


@record
class MapMotion:
    """Holds what the vectors of a motion map say, of the frames on one page."""

    reach: tuple[int | float, int | float] = described(
        "The longest motion across and down, in pixels of the page: the one stored as 255.",
        items=Annotated[float, Holds(above=0)],
    )
    pairs: tuple[Annotated[tuple[int, int], Holds(items=Count)], ...] = described(
        "The earlier and the later frame of the vectors, which are stored in the earlier frame's place."
    )
    at: Literal["middle"] = described(
        "The moment at which things are where their vectors are stored: half way.", default="middle"
    )
    ratios: tuple[Annotated[int | float | None, Holds(least=0)], ...] | None = described(
        "For each pair, the error of warping as a share of cross-fading's; null if not known; absent: for none.",
        default=None,
    )
    wrap: bool | None = described("Frames are tiles, motion wraps around the edges; absent: false.", default=None)
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
    """An image file of a page."""

    file: str = described(
        "Relative to the manifest, with forward slashes, inside its folder.",
        pattern=r"^(?!/)(?!(.*/)?\.\.(/|$))[^\\:\u0000]+$",
    )
    digest: Digest = described("Digest of the pixels, however they are stored.")
    kind: ContentName = described("The meaning of its values.", default="color")
    scale: Share | None = described(
        "Its size as a share of the page's, such as [1, 2]; absent: the same.", default=None
    )
    ground: PixelValue | None = described("The value outside the frames; absent: transparent black.", default=None)
    key: Key | None = None
    motion: Annotated[MapMotion, Holds(name="motion")] | None = described(
        "For a motion map: red is across, green is down, 128 of 255 (32768 of 65535) is none.", default=None
    )
    extra: dict[str, Any] = field(default_factory=dict)

    @property
    def parts(self) -> int:
        """One side of the page is this many of its own."""
        return self.scale.denominator if self.scale else 1


@record
class Page:
    """One page and its maps, all of one size in pixels."""

    size: PixelSize
    maps: dict[str, Annotated[MapFile, Holds(name="map")]] = described(
        "Image files by map name; color is the base, the others have the same layout.", keys=(COLOR,)
    )
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
    """The grid of a sheet."""

    columns: From1
    rows: From1
    cell: PixelSize
    gap: PixelPair = NO_PAIR
    margin: PixelPair = NO_PAIR
    fill: Fill = "across"
    skirt: Count = described("Repeated edge pixels around each frame, within gap and margin.", default=0)
    wrap: bool | None = described(
        "The skirt of each frame is its opposite edge, for tiles; absent: false.", default=None
    )
    divided: bool | None = described(
        "Every page is exactly columns x cells and rows x cells, so an engine may divide it; absent: false.",
        default=None,
    )
    extra: dict[str, Any] = field(default_factory=dict)

    def cells(self) -> Grid:
        """The grid to compute with."""
        return Grid(self.columns, self.rows, Size(*self.cell), self.gap, self.margin, self.fill)

    def on_pages(self, sizes: Iterable[Size]) -> GridInfo:
        """The same grid, with whether it divides pages of these sizes."""
        cells = self.cells()
        return replace(self, divided=all(cells.divides(size) for size in sizes) or None)


SheetGrid = Annotated[GridInfo, Holds("The grid of a sheet; absent for an atlas. Lengths in pixels.", name="grid")]


@record
class SlicedFrom:
    """The sheet that frames were sliced from."""

    file: str = described("Its first page, relative to the manifest; it may be gone.")
    pages: tuple[PixelSize, ...] = described("", fewest=1)
    grid: SheetGrid | None = None
    key: Key | None = None
    digest: Digest | None = described("Digest of the pixels of its first page.", default=None)
    extra: dict[str, Any] = field(default_factory=dict)


@record
class CutFrom:
    """Where on the sheet that it was sliced from a frame was."""

    rect: Rect = described("x, y, width, height on its page of that sheet.", items=Count)
    page: Count = 0
    offset: tuple[int, int] = described("x, y of those pixels in the canvas.", items=Count, default=(0, 0))
    extra: dict[str, Any] = field(default_factory=dict)


@record
class Outline:
    """A convex polygon around all visible pixels."""

    points: tuple[tuple[int | float, int | float], ...] = described("In pixels of the canvas, clockwise.", fewest=3)
    unseen: int | float = described("Square pixels in it that are not visible.", least=0)
    extra: dict[str, Any] = field(default_factory=dict)


@record
class FramePlace:
    """One frame: where its pixels lie on its page, and where on its full canvas."""

    name: str
    source: str = described("The file it came from, #INDEX inside an animated image.")
    page: Count
    rect: Rect = described("x, y, width, height of its pixels on the page, from the top left.", items=Count)
    turn: Turn = described("Degrees clockwise by which it is rotated on the page.")
    canvas: PixelSize = described("Its full size before trimming.")
    offset: tuple[int, int] = described("x, y of the pixels in the canvas.", items=Count)
    pivot: tuple[float, float] = described(
        "u, v as fractions of the canvas, from the top left.", default=(0.5, 0.5)
    )  # fmt: skip
    flip: Flip | None = described(
        "After undoing the turn, the pixels are mirrored: left and right (x), top and bottom (y), or both.",
        default=None,
    )
    ground: dict[str, PixelValue] | None = described(
        "By map: the value around the pixels on the canvas, if it is not the map's own.", default=None
    )
    outline: Outline | None = described("A convex polygon around all visible pixels.", default=None)
    cut: CutFrom | None = described(
        "Where a frame was on that sheet, and where those pixels are on its canvas.", default=None
    )
    digest: Digest | None = described(
        "Digest of its pixels, if the page is not Kivel's and may be repainted; absent: not kept.", default=None
    )
    set: tuple[str, ...] | None = described(
        "The options that were set since the frame was made: its pivot; absent: none.", default=None
    )
    extra: dict[str, Any] = field(default_factory=dict)


@record
class Made:
    """The command that made it and its options, with paths relative to the manifest."""

    command: str
    options: dict[str, Any]
    extra: dict[str, Any] = field(default_factory=dict)


@record
class Manifest:
    """A sheet, an atlas, or the files of a sequence."""

    pages: tuple[Annotated[Page, Holds(name="page")], ...]
    frames: tuple[Annotated[FramePlace, Holds(name="frame")], ...]
    clips: tuple[Annotated[Clip, Holds(name="clip")], ...] = ()
    grid: SheetGrid | None = None
    groups: tuple[Annotated[Group, Holds(name="group")], ...] = ()
    sliced_from: Annotated[SlicedFrom, Holds(name="sliced-from")] | None = described(
        "The sheet that frames were sliced from. Pixels in the colour of its key are transparent in them.", default=None
    )
    made: Made | None = described(
        "The command that made it and its options, paths relative to the manifest; absent if no single command did.",
        default=None,
    )
    faded: tuple[Fade, ...] | None = described(
        "How frames were cross-faded to make some of these: in linear light, by stored values, or both; absent: they "
        "were not.",
        default=None,
    )
    removed: tuple[str, ...] | None = described(
        "Clips that were made with it and removed later; absent: none.", default=None
    )
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
