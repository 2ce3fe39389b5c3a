"""The manifest of a sheet: where everything is and how it plays."""

from __future__ import annotations

from collections.abc import Sequence

from kivel.core.digest import pixel_digest
from kivel.core.layout.grid import Grid
from kivel.core.pixels import Pixels, Rect, is_opaque
from kivel.core.playback.clip import Clip
from kivel.formats.frames import Frames
from kivel.formats.manifest.model import FramePlace, GridInfo, Manifest, MapFile, Page, PageAlpha
from kivel.formats.manifest.names import COLOR

__all__ = ["sheet_manifest"]


def sheet_manifest(
    frames: Frames, places: Sequence[Rect], grid: Grid, page: Pixels, *, file: str, clips: Sequence[Clip]
) -> Manifest:
    """The manifest of a sheet whose image is called `file`."""
    alpha: PageAlpha = "opaque" if is_opaque(page) else "straight"
    return Manifest(
        pages=(Page(grid.size, {COLOR: MapFile(file, pixel_digest(page))}, alpha),),
        grid=GridInfo(grid.columns, grid.rows, grid.cell, grid.gap, grid.margin, grid.fill),
        frames=tuple(
            FramePlace(frame.name, frame.source, 0, place, 0, frame.size, (0, 0), frame.pivot)
            for frame, place in zip(frames.frames, places, strict=True)
        ),
        clips=tuple(clips),
        groups=frames.manifest.groups if frames.manifest and tuple(clips) == frames.clips else (),
    )
