"""The frames that a manifest places on its pages."""

from __future__ import annotations

import threading
from pathlib import Path

import numpy as np

from kivel.core.pixels import Pixels, Size, in_canvas, upright
from kivel.formats.files import shown
from kivel.formats.frames import Frames
from kivel.formats.images import FrameSource, ImageError, open_image
from kivel.formats.manifest.model import FramePlace, Manifest
from kivel.formats.manifest.names import COLOR, SUFFIX

__all__ = ["frames_of_manifest"]


def frames_of_manifest(manifest: Manifest, path: Path, *, max_pixels: int) -> Frames:
    """The frames that a manifest places, each on its full canvas.

    Raises
    ------
    ImageError
        If it has no frames, a page is not of the stated size, or a canvas is larger than the limit.
    OutputError, PngError
        If a page cannot be read.
    """
    where = shown(path)
    if not manifest.frames:
        raise ImageError("the manifest has no frames", where=where)
    pages = [_PageImage(path.parent / page.maps[COLOR].file, page.size, max_pixels) for page in manifest.pages]
    for number, frame in enumerate(manifest.frames):
        if frame.canvas[0] * frame.canvas[1] > max_pixels:
            raise ImageError(f"frames[{number}].canvas: {frame.canvas} px is more than the limit", where=where)
    stem = path.name.removesuffix(SUFFIX)
    frames = tuple(_placed_frame(place, pages[place.page]) for place in manifest.frames)
    multiplied = any(page.alpha == "premultiplied" for page in manifest.pages)
    notes = [f"{where}: its colours are premultiplied, and taken as they are; see kivel prep --steps unpremultiply"]
    return Frames(stem, frames, tuple(notes if multiplied else ()), manifest=manifest)


def _placed_frame(place: FramePlace, page: _PageImage) -> FrameSource:
    canvas = Size(*place.canvas)

    def load() -> Pixels:
        image = page.pixels()
        if not place.rect.w or not place.rect.h:
            return np.zeros((canvas.h, canvas.w, 4), image.dtype)
        frame = upright(place.rect.of(image), place.turn)
        return in_canvas(frame, canvas, place.offset)

    info = page.info
    return FrameSource(place.name, place.source, info.path, canvas, info.depth, info.mode, load, pivot=place.pivot)


class _PageImage:
    """A page's pixels, decoded once, when the first frame asks for them."""

    def __init__(self, path: Path, size: Size, max_pixels: int) -> None:
        self.info = open_image(path, max_pixels=max_pixels)[0]
        if self.info.size != size:
            raise ImageError(f"{self.info.size} px, its manifest says {size}; run the command again", where=shown(path))
        self._lock = threading.Lock()
        self._image: Pixels | None = None

    def pixels(self) -> Pixels:
        with self._lock:
            if self._image is None:
                self._image = self.info.load()
            return self._image
