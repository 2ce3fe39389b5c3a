"""What a manifest holds. Every object keeps in `extra` the keys that this version does not know.

`docs/manifest.md` describes each field, `manifest.schema.json` beside this file states it for machines.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, Literal

from kivel.core.layout.grid import Fill
from kivel.core.layout.placement import Flip
from kivel.core.pixels import Rect, Size, Turn, Value
from kivel.core.playback.clip import Clip

__all__ = ["FramePlace", "GridInfo", "Group", "Manifest", "MapFile", "Outline", "Page", "PageAlpha"]


PageAlpha = Literal["straight", "premultiplied", "opaque"]


@dataclass(frozen=True)
class MapFile:
    """An image file, its path relative to the manifest, and the digest of its pixels.

    `scale` is its size as a share of the page's, None for all of it; `ground` is what lies where no frame does, None
    for transparent black.
    """

    file: str
    digest: str
    scale: Fraction | None = None
    ground: Value | None = None
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Page:
    """One page and its maps, all of one size in pixels."""

    size: Size
    maps: dict[str, MapFile]
    alpha: PageAlpha = "straight"
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class GridInfo:
    """The grid of a sheet. A `skirt` lies within the gap and the margin, around each frame."""

    columns: int
    rows: int
    cell: Size
    gap: int = 0
    margin: int = 0
    fill: Fill = "across"
    skirt: int = 0
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Outline:
    """A convex polygon around all visible pixels, in pixels of the canvas; it holds `wasted` square pixels more."""

    points: tuple[tuple[int | float, int | float], ...]
    wasted: int | float
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class FramePlace:
    """One frame: `rect` on its page, `offset` of those pixels in the full `canvas`, `pivot` as fractions of it.

    What lies on the page was turned clockwise; turned back, it is mirrored by `flip`. `ground` has, by map, what
    surrounds the pixels on the canvas where that is not the map's own ground.
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
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Group:
    """Clips that are chosen from together."""

    name: str
    members: tuple[str, ...]
    choose: Literal["all", "random"] = "all"
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Manifest:
    """A sheet or an atlas; `grid` is None for an atlas."""

    pages: tuple[Page, ...]
    frames: tuple[FramePlace, ...]
    clips: tuple[Clip, ...] = ()
    grid: GridInfo | None = None
    groups: tuple[Group, ...] = ()
    extra: dict[str, Any] = field(default_factory=dict)

    @property
    def is_layout(self) -> bool:
        """Whether its pages hold frames side by side; otherwise each is one frame's own file."""
        whole = {(frame.page, frame.rect.size) for frame in self.frames}
        own = {(number, page.size) for number, page in enumerate(self.pages)}
        return bool(self.grid) or len(self.pages) != len(self.frames) or whole != own
