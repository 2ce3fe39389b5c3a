"""Adding frames to a sheet that exists: into its free cells, moving nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

import numpy as np

from kivel.core.layout.grid import Grid
from kivel.core.layout.page import LayoutError
from kivel.core.layout.placement import Placement
from kivel.core.layout.sheet_plan import Slot
from kivel.core.pixels import Align, Pixels, Rect, Size, widened
from kivel.core.playback.clip import Clip
from kivel.files.images import FrameSource, open_image
from kivel.files.manifest.model import FramePlace, Manifest, MapFile, Page
from kivel.files.safety import shown
from kivel.making.sheet_cells import placed_in_cell
from kivel.sequences.clips import with_own_names
from kivel.sequences.pairing import MapFrames

__all__ = ["OldPage", "added_to", "free_slots", "grid_of", "place_in_free_cells", "require_same_maps"]


def grid_of(manifest: Manifest, path: Path) -> Grid:
    """The grid of a sheet; raises `LayoutError` if there is none."""
    info = manifest.grid
    if info is None:
        raise LayoutError("is no sheet, it has no grid of cells; make a new sheet instead", where=shown(path))
    return Grid(info.columns, info.rows, Size(*info.cell), info.gap, info.margin, info.fill)


def free_slots(manifest: Manifest, grid: Grid) -> list[Slot]:
    """The cells, page by page in their order, that no frame reaches into."""
    slots = []
    for number in range(len(manifest.pages)):
        taken = [Rect(*frame.rect) for frame in manifest.frames if frame.page == number]
        slots += [
            Slot(number, index)
            for index, cell in enumerate(grid.cells())
            if not any(_overlap(cell, rect) for rect in taken)
        ]
    return slots


def _overlap(one: Rect, other: Rect) -> bool:
    return one.x < other.right and other.x < one.right and one.y < other.bottom and other.y < one.bottom


def place_in_free_cells(
    frames: Sequence[FrameSource], manifest: Manifest, path: Path, align: Align, *, step: int
) -> list[Placement]:
    """A free cell for each frame.

    Raises
    ------
    LayoutError
        If there are too few: how many are missing; or if a frame is larger than a cell.
    """
    grid = grid_of(manifest, path)
    slots = free_slots(manifest, grid)
    if len(slots) < len(frames):
        missing = "1 is" if len(frames) == len(slots) + 1 else f"{len(frames) - len(slots)} are"
        have = f"{len(slots)} are free" if slots else "none is free"
        raise LayoutError(
            f"{len(frames)} frames need {len(frames)} cells, {have} of {len(manifest.pages) * grid.capacity}: "
            f"{missing} missing; make a new sheet of both",
            where=shown(path),
        )
    return [
        placed_in_cell(frame, slot.page, grid.cell_rect(slot.cell), align, step)
        for frame, slot in zip(frames, slots[: len(frames)], strict=True)
    ]


def require_same_maps(manifest: Manifest, maps: Sequence[MapFrames], path: Path) -> None:
    """Raise `LayoutError` unless the frames come with the very maps that the sheet has, and no deeper ones."""
    names = {one.name: one for one in maps}
    for number, page in enumerate(manifest.pages):
        where = f"{shown(path)}: pages[{number}]"
        if set(page.maps) != set(names):
            missing = sorted(set(page.maps) - set(names))
            surplus = sorted(set(names) - set(page.maps))
            what = f"it has maps {', '.join(page.maps)}, the frames come with {', '.join(names)}"
            todo = [f"pass --map {name}=SRC (and --missing-map neutral where there is none)" for name in missing]
            raise LayoutError("; ".join([what, *todo, *(f"leave out {name}" for name in surplus)]), where=where)
        for name, file in page.maps.items():
            parts = file.scale.denominator if file.scale else 1
            if parts != names[name].parts:
                raise LayoutError(f'map "{name}" is at 1/{parts}; pass --map-scale {name}=1/{parts}', where=where)


class OldPage(NamedTuple):
    """One map of a page as it is: its pixels can be changed."""

    path: Path
    image: Pixels

    @classmethod
    def read(cls, path: Path, map: MapFrames, size: Size, *, max_pixels: int) -> OldPage:
        """Read a page; raises `LayoutError` if it is not as its manifest says, or shallower than the frames."""
        source = open_image(path, max_pixels=max_pixels)[0]
        expected = Size(size[0] // map.parts, size[1] // map.parts)
        if source.size != expected:
            raise LayoutError(f"{source.size} px, its manifest says {expected}", where=shown(path))
        if source.depth < map.depth:
            raise LayoutError(
                f"it has {source.depth} bits a channel, the frames have {map.depth}; make a new sheet of both",
                where=shown(path),
            )
        return cls(path, np.array(widened(source.load(), source.depth)))


def added_to(
    manifest: Manifest,
    frames: Sequence[FrameSource],
    placements: Sequence[Placement],
    files: dict[int, dict[str, MapFile]],
    clips: Sequence[Clip],
) -> Manifest:
    """The manifest with the frames and clips behind those that are there, and the pages that changed.

    New frames and clips whose names are taken get a number.
    """
    before = len(manifest.frames)
    taken = {frame.name for frame in manifest.frames}
    places = []
    for frame, place in zip(frames, placements, strict=True):
        name, number = frame.name, 2
        while name in taken:
            name, number = f"{frame.name}-{number}", number + 1
        taken.add(name)
        places.append(FramePlace(name, frame.source, place.page, place.rect, 0, frame.size, (0, 0), frame.pivot))
    later = [replace(clip, steps=tuple(s._replace(frame=s.frame + before) for s in clip.steps)) for clip in clips]
    new_clips = with_own_names(later, [clip.name for clip in manifest.clips])
    pages = tuple(
        _with_files(page, files[number]) if number in files else page for number, page in enumerate(manifest.pages)
    )
    return replace(manifest, pages=pages, frames=manifest.frames + tuple(places), clips=manifest.clips + new_clips)


def _with_files(page: Page, files: dict[str, MapFile]) -> Page:
    return replace(page, maps={name: replace(old, digest=files[name].digest) for name, old in page.maps.items()})
