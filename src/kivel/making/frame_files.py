"""A folder of frame files and the manifest that goes with them: a page for each frame."""

from __future__ import annotations

import glob
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np

from kivel.core.digest import pixel_digest
from kivel.core.pixels import Rect, Size, is_opaque
from kivel.core.playback.clip import Clip
from kivel.core.prepare.actions import Frame
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, Group, Manifest, MapFile, Page, PageAlpha
from kivel.files.manifest.names import COLOR
from kivel.files.png.write import Compress, encode_png

__all__ = ["FrameFile", "NewFrame", "encoded_frame", "frame_file_name", "frames_manifest", "older_frames", "unchanged"]

_LEAST_DIGITS = 4


class NewFrame(NamedTuple):
    """A frame to be written: its name, the file it comes from, and how to get it."""

    name: str
    source: str
    load: Callable[[], Frame]


def unchanged(frame: FrameSource) -> NewFrame:
    """A frame to be written as it is."""
    return NewFrame(frame.name, frame.source, lambda: Frame(frame.load(), frame.pivot))


class FrameFile(NamedTuple):
    """What the manifest needs to know of a frame's file once the pixels are gone."""

    name: str
    source: str
    suffix: str
    size: Size
    digest: str
    alpha: PageAlpha
    pivot: tuple[float, float]


def frame_file_name(stem: str, index: int, count: int, suffix: str = ".png") -> str:
    """`moth_0000.png`: at least four digits, more when there are more frames."""
    digits = max(_LEAST_DIGITS, len(str(count - 1)))
    return f"{stem}_{index:0{digits}d}{suffix}"


def encoded_frame(frame: NewFrame, *, compress: Compress, premultiplied: bool = False) -> tuple[FrameFile, list[bytes]]:
    """A frame's file, PNG or for float OpenEXR, and what to keep of it."""
    image, pivot = frame.load()
    alpha: PageAlpha = "opaque" if is_opaque(image) else "premultiplied" if premultiplied else "straight"
    if image.dtype == np.float32:
        from kivel.files.exr import encode_exr, stored_and_back

        suffix, pieces, image = ".exr", [encode_exr(image)], stored_and_back(image)
    else:
        suffix, pieces = ".png", list(encode_png(image, compress=compress))
    size = Size(image.shape[1], image.shape[0])
    return FrameFile(frame.name, frame.source, suffix, size, pixel_digest(image), alpha, pivot), pieces


def frames_manifest(
    frames: Sequence[FrameFile], files: Sequence[Path], clips: tuple[Clip, ...], groups: tuple[Group, ...] = ()
) -> Manifest:
    """A manifest with a page for each frame's file."""
    pages = tuple(
        Page(frame.size, {COLOR: MapFile(file.name, frame.digest)}, frame.alpha)
        for frame, file in zip(frames, files, strict=True)
    )
    places = tuple(
        FramePlace(frame.name, frame.source, page, Rect(0, 0, *frame.size), 0, frame.size, (0, 0), frame.pivot)
        for page, frame in enumerate(frames)
    )
    return Manifest(pages, places, clips, groups=groups)


def older_frames(folder: Path, stem: str, files: Sequence[Path]) -> list[str]:
    """Frames of an earlier run that this one does not write again, and that would be taken for its own."""
    found = [path for suffix in (".png", ".exr") for path in folder.glob(f"{glob.escape(stem)}_[0-9]*{suffix}")]
    older = sorted(set(found) - set(files))
    return [f"{folder}: {len(older)} older frames stay, from {older[0].name} on; remove them"] if older else []
