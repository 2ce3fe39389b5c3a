"""Frames, maps and clips as plain rows, for programs that know nothing of manifests."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

from kivel.core.exporting.step_tables import StepTable
from kivel.core.exporting.texture_places import TexturePlace
from kivel.core.layout.grid import Grid
from kivel.core.motion.pairs import MotionPairs
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import TextureOrigin
from kivel.core.pixels.pixels import Pair, Rect, Size
from kivel.core.playback.groups import Group

__all__ = ["PlaybackTable", "ShownMap", "TableFrame", "TableMotion", "TablePage"]


class TablePage(NamedTuple):
    """The size of a page, and its files by map."""

    size: Size
    files: dict[str, str]


class TableFrame(NamedTuple):
    """A frame: `rect` on its page, turned clockwise there by `turn` degrees; `offset` of those pixels on its `canvas`.

    `pivot` is a share of the canvas, from the top left, and `cell_pivot` the same place as a share of the cell in a
    grid; `place` is that of `rect` in texture coordinates.
    """

    name: str
    page: int
    rect: Rect
    turn: int
    flip: Literal["", "x", "y", "xy"]
    canvas: Size
    offset: Pair
    pivot: tuple[Fraction, Fraction]
    place: TexturePlace
    cell_pivot: tuple[Fraction, Fraction] | None = None

    def in_cell_of(self, grid: Grid) -> TableFrame:
        """The same frame in the grid of a sheet."""
        x, y = (share * side - at for share, side, at in zip(self.pivot, self.canvas, self.offset, strict=True))
        x, y = self.rect.w - x if "x" in self.flip else x, self.rect.h - y if "y" in self.flip else y
        cell = grid.cell_at(*grid.place_of(self.rect))
        return self._replace(cell_pivot=((self.rect.x - cell.x + x) / cell.w, (self.rect.y - cell.y + y) / cell.h))


class ShownMap(NamedTuple):
    """A map: its name, whether its values are a colour's, how its alpha is stored; a page is `parts` of its sides."""

    name: str
    is_color: bool
    parts: int
    alpha: Literal["straight", "premultiplied", "opaque"]


class TableMotion(NamedTuple):
    """The map of motion, by name: what its vectors mean, into how many parts of a page's sides it is divided, and bits
    a channel."""

    map: str
    motion: MotionPairs
    parts: int
    depth: int


class PlaybackTable(NamedTuple):
    """All of a sheet or an atlas. Texture coordinates count from `origin`; `shown` is the map that is meant.

    `sheet_grid` is the grid of a sheet, and `grid` the same if frame number n fills its cell n, on one page. `groups`
    are of the clips that are here.
    """

    name: str
    shown: ShownMap
    origin: TextureOrigin
    half_texel: bool
    pages: tuple[TablePage, ...]
    frames: tuple[TableFrame, ...]
    grid: Grid | None
    clips: tuple[StepTable, ...]
    motion: TableMotion | None = None
    sheet_grid: Grid | None = None
    groups: tuple[Group, ...] = ()

    @property
    def is_divided(self) -> bool:
        """Whether an engine that divides its pages by columns and rows finds the cells."""
        grid = self.sheet_grid
        return grid is not None and all(grid.divides(page.size) for page in self.pages)
