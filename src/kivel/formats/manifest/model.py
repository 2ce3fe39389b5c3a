"""What a manifest holds. Every object keeps in `extra` the keys that this version does not know.

`docs/manifest.md` describes each field, `manifest.schema.json` beside this file states it for machines.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from kivel.core.layout.grid import Fill
from kivel.core.pixels import Rect, Size, Turn
from kivel.core.playback.clip import Clip

__all__ = ["FramePlace", "GridInfo", "Group", "Manifest", "MapFile", "Page", "PageAlpha"]


PageAlpha = Literal["straight", "premultiplied", "opaque"]


@dataclass(frozen=True)
class MapFile:
    """An image file, its path relative to the manifest, and the digest of its pixels."""

    file: str
    digest: str
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
    """The grid of a sheet."""

    columns: int
    rows: int
    cell: Size
    gap: int = 0
    margin: int = 0
    fill: Fill = "across"
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class FramePlace:
    """One frame: `rect` on its page, `offset` of those pixels in the full `canvas`, `pivot` as fractions of it."""

    name: str
    source: str
    page: int
    rect: Rect
    turn: Turn
    canvas: Size
    offset: tuple[int, int]
    pivot: tuple[float, float] = (0.5, 0.5)
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
