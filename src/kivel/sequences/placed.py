"""The frames that a manifest places on its pages."""

from __future__ import annotations

import threading
from pathlib import Path

import numpy as np

from kivel.core.layout.placement import taken_from_page
from kivel.core.pixels import Pixels, Rect, Size, Value, full_scale
from kivel.files.images import FrameSource, ImageError, open_image
from kivel.files.manifest.model import FramePlace, Manifest, MapFile
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.safety import shown
from kivel.sequences.sequence import Frames

__all__ = ["frames_of_manifest"]


def frames_of_manifest(manifest: Manifest, path: Path, *, map: str = COLOR, max_pixels: int) -> Frames:
    """The frames that a manifest places, each on its full canvas, as one of its maps shows them.

    Raises
    ------
    ImageError
        If it has no frames or no such map, a page is not of the stated size, or a canvas is larger than the limit.
    OutputError, PngError
        If a page cannot be read.
    """
    where = shown(path)
    if not manifest.frames:
        raise ImageError("the manifest has no frames", where=where)
    for number, page in enumerate(manifest.pages):
        if map not in page.maps:
            raise ImageError(f"pages[{number}] has no map {map!r}; there are {', '.join(page.maps)}", where=where)
    pages = [_PageImage(path.parent, page.maps[map], page.size, max_pixels) for page in manifest.pages]
    for number, frame in enumerate(manifest.frames):
        if frame.canvas[0] * frame.canvas[1] > max_pixels:
            raise ImageError(f"frames[{number}].canvas: {frame.canvas} px is more than the limit", where=where)
    stem = path.name.removesuffix(SUFFIX)
    frames = tuple(_placed_frame(place, pages[place.page], map) for place in manifest.frames)
    multiplied = any(page.alpha == "premultiplied" for page in manifest.pages)
    notes = [f"{where}: its colours are premultiplied, and taken as they are; see kivel prep --steps unpremultiply"]
    return Frames(stem, frames, tuple(notes if multiplied else ()), manifest=manifest)


def _placed_frame(place: FramePlace, page: _PageImage, map: str) -> FrameSource:
    parts = page.parts
    canvas = Size(place.canvas[0] // parts, place.canvas[1] // parts)
    ground = (place.ground or {}).get(map, page.ground)

    def load() -> Pixels:
        image = page.pixels()
        rect = Rect(*(value // parts for value in place.rect))
        if rect.size == canvas and place.turn == 0 and place.flip is None:
            return rect.of(image)
        whole = np.empty((canvas.h, canvas.w, 4), image.dtype)
        whole[...] = np.clip(ground or (0, 0, 0, 0), 0, full_scale(image)).astype(image.dtype)
        part = taken_from_page(image, rect, place.turn, place.flip)
        x, y = (value // parts for value in place.offset)
        Rect(x, y, part.shape[1], part.shape[0]).of(whole)[:] = part
        return whole

    info = page.info
    return FrameSource(place.name, place.source, info.path, canvas, info.depth, info.mode, load, pivot=place.pivot)


class _PageImage:
    """A page's pixels as one map, decoded once, when the first frame asks for them.

    Its sides are one part of so many `parts` of the page's.
    """

    def __init__(self, folder: Path, map: MapFile, size: Size, max_pixels: int) -> None:
        path = folder / map.file
        self.parts = map.scale.denominator if map.scale else 1
        self.ground: Value | None = map.ground
        self.info = open_image(path, max_pixels=max_pixels)[0]
        size = Size(size[0] // self.parts, size[1] // self.parts)
        if self.info.size != size:
            raise ImageError(f"{self.info.size} px, its manifest says {size}; run the command again", where=shown(path))
        self._lock = threading.Lock()
        self._image: Pixels | None = None

    def pixels(self) -> Pixels:
        with self._lock:
            if self._image is None:
                self._image = self.info.load()
            return self._image
