"""Taking a sheet apart: from a manifest, or from an image and a grid, to frame files and a manifest of their own."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from kivel.core.digest import pixel_digest
from kivel.core.layout.grid import Grid
from kivel.core.pixels import Pixels, Rect, Size, is_opaque
from kivel.core.playback.clip import Timing, clip_of_frames
from kivel.core.slicing.grid import SliceRequest, fit_grid, frame_count
from kivel.formats.frames import Frames
from kivel.formats.images import FrameSource, ImageError
from kivel.formats.manifest.model import FramePlace, Manifest, MapFile, Page
from kivel.formats.manifest.names import COLOR

__all__ = ["SlicedFrame", "cells_of_image", "frame_file_name", "manifest_of_frames", "sliced_frame"]

_LEAST_DIGITS = 4


class SlicedFrame(NamedTuple):
    """What the manifest needs to know of a frame's file once the pixels are gone."""

    name: str
    source: str
    size: Size
    digest: str
    opaque: bool
    pivot: tuple[float, float]


def cells_of_image(image: FrameSource, request: SliceRequest, *, keep_empty: bool) -> tuple[Frames, Grid]:
    """The cells of a plain image as frames; the empty ones after the last drawn one only with `keep_empty`.

    Raises
    ------
    LayoutError
        If the image does not divide into the grid.
    ImageError
        If nothing is drawn on it.
    """
    grid = fit_grid(image.size, request)
    sheet = image.load()
    if not keep_empty and not sheet[..., 3].any():
        raise ImageError(
            "every pixel is transparent, nothing is drawn on it; pass --keep-empty to slice it all the same"
        )
    count = grid.capacity if keep_empty else frame_count(sheet, grid)
    frames = tuple(_cell_frame(image, sheet, grid.cell_rect(index), index) for index in range(count))
    dropped = grid.capacity - count
    notes = [f"{dropped} empty cell{'s' if dropped > 1 else ''} at the end left out; --keep-empty keeps them"]
    return Frames(image.path.stem, frames, tuple(notes if dropped else ())), grid


def _cell_frame(image: FrameSource, sheet: Pixels, cell: Rect, index: int) -> FrameSource:
    return image._replace(
        name=f"{image.path.stem}_{index:04d}",
        source=f"{image.path.name}#{index}",
        size=cell.size,
        load=lambda: cell.of(sheet),
    )


def frame_file_name(stem: str, index: int, count: int) -> str:
    """`moth_0000.png`: at least four digits, more when there are more frames."""
    digits = max(_LEAST_DIGITS, len(str(count - 1)))
    return f"{stem}_{index:0{digits}d}.png"


def sliced_frame(frame: FrameSource, pixels: Pixels) -> SlicedFrame:
    """What to keep of a frame that is written."""
    return SlicedFrame(frame.name, frame.source, frame.size, pixel_digest(pixels), is_opaque(pixels), frame.pivot)


def manifest_of_frames(frames: Frames, sliced: Sequence[SlicedFrame], files: Sequence[Path]) -> Manifest:
    """A manifest with a page for each frame's file, and the clips that the frames came with."""
    pages = tuple(
        Page(frame.size, {COLOR: MapFile(file.name, frame.digest)}, "opaque" if frame.opaque else "straight")
        for frame, file in zip(sliced, files, strict=True)
    )
    places = tuple(
        FramePlace(frame.name, frame.source, page, Rect(0, 0, *frame.size), 0, frame.size, (0, 0), frame.pivot)
        for page, frame in enumerate(sliced)
    )
    clips = frames.clips or (clip_of_frames(frames.stem, [frame.duration for frame in frames.frames], Timing()),)
    return Manifest(pages, places, clips, groups=frames.manifest.groups if frames.manifest else ())
