"""Describes what a viewer page shows of a source: pages and frames as they lie there, each image once."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.digest import pixel_digest
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.pixels import Pixels, Rect, Size
from kivel.core.playback.clip import Clip
from kivel.files.manifest.model import Manifest
from kivel.files.manifest.names import COLOR
from kivel.files.page_store import page_files, stored_page
from kivel.files.png.write import encode_png
from kivel.sequences.between_frames import motion_map
from kivel.views.viewer_page import ViewedFrame, ViewedMotion, ViewedPage, ViewedSource, viewer_html

if TYPE_CHECKING:
    from kivel.sequences.sequence import FrameSequence

__all__ = ["pictures_in", "viewer_of"]


class _Images:
    """PNG files, duplicates merged."""

    def __init__(self, jobs: int) -> None:
        self._jobs = jobs
        self._numbers: dict[str, int] = {}
        self.files: list[bytes] = []

    def number(self, pixels: Pixels) -> int:
        image = to_8_bits(pixels)
        digest = pixel_digest(image)
        if digest not in self._numbers:
            self._numbers[digest] = len(self.files)
            self.files.append(b"".join(encode_png(image, compress="fast", jobs=self._jobs)))
        return self._numbers[digest]


def viewer_of(
    viewed: Sequence[tuple[FrameSequence, Sequence[Clip]]],
    *,
    view: Mapping[str, object],
    contact: Pixels,
    timing: Pixels | None,
    max_pixels: int,
    jobs: int,
    advance: Callable[[], None],
    reload: str | None = None,
) -> str:
    """The page of sequences and their clips; of a manifest with its own pages, turned and trimmed as they are there.

    Raises
    ------
    KivelError
        If a page cannot be read.
    """
    images = _Images(jobs)
    sources = []
    for sequence, clips in viewed:
        pages, frames = _pages_and_frames(sequence, images, max_pixels, advance)
        sources.append(ViewedSource(sequence.stem, pages, frames, clips, sequence.groups, _motion_of(sequence)))

    def png(image: Pixels) -> bytes:
        return b"".join(encode_png(to_8_bits(image), compress="small", jobs=jobs))

    chart = None if timing is None else png(timing)
    return viewer_html(sources, images.files, view=view, contact=png(contact), timing=chart, reload=reload)


def _motion_of(sequence: FrameSequence) -> ViewedMotion | None:
    one = motion_map(sequence.maps)
    return ViewedMotion(one.name, one.motion) if one and one.motion else None


def pictures_in(sequence: FrameSequence) -> int:
    """How many images will be packed, about."""
    manifest = sequence.described_by
    return sum(len(page.maps) for page in manifest.pages) if manifest else len(sequence.frames)


def _pages_and_frames(
    sequence: FrameSequence, images: _Images, max_pixels: int, advance: Callable[[], None]
) -> tuple[list[ViewedPage], list[ViewedFrame]]:
    manifest = sequence.described_by
    if manifest is None or not manifest.is_layout or not sequence.manifests or sequence.premultiplied:
        return _frames_alone(sequence, images, advance)
    if any(file.file.endswith(".exr") for file in page_files(manifest)):  # shown as its frames were developed
        return _frames_alone(sequence, images, advance)
    pages = _pages_of(manifest, sequence.manifests[0], images, max_pixels, advance)
    frames = [
        ViewedFrame(
            frame.name,
            frame.page,
            Rect(*frame.rect),
            frame.turn,
            frame.flip or "",
            Size(*frame.canvas),
            frame.offset,
            frame.pivot,
            frame.outline.points if frame.outline else None,
        )
        for frame in manifest.frames
    ]
    return pages, frames


def _pages_of(
    manifest: Manifest, path: Path, images: _Images, max_pixels: int, advance: Callable[[], None]
) -> list[ViewedPage]:
    tell: Callable[[str], object] = lambda _text: None  # noqa: E731 - said when the frames were opened
    pages = []
    for number, page in enumerate(manifest.pages):
        maps = {}
        for name, file in page.maps.items():
            stored = stored_page(manifest, path, number, name, max_pixels=max_pixels, tell=tell)
            maps[name] = (images.number(stored.pixels()), file.parts)
            advance()
        pages.append(ViewedPage((page.size[0], page.size[1]), maps))
    return pages


def _frames_alone(
    sequence: FrameSequence, images: _Images, advance: Callable[[], None]
) -> tuple[list[ViewedPage], list[ViewedFrame]]:
    """Each frame a page of its own, with the maps that all frames have."""
    whole = [one for one in sequence.maps if all(frame is not None for frame in one.frames)]
    pages, frames = [], []
    for number, frame in enumerate(sequence.frames):
        size = (frame.size.w, frame.size.h)
        maps = {COLOR: (images.number(frame.load()), 1)}
        for one in whole:
            maps[one.name] = (images.number(one.load(number)), one.parts)
        advance()
        pages.append(ViewedPage(size, maps))
        frames.append(ViewedFrame(frame.name, number, (0, 0, *size), 0, "", size, (0, 0), frame.pivot or (0.5, 0.5)))
    return pages, frames
