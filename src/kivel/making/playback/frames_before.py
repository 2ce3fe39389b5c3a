"""Which frames of what is made now are which of what was made before in its place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from kivel.core.digest import pixel_digest
from kivel.core.errors import KivelError
from kivel.core.pixels.pixels import Pixels, Size, opaque_bounds
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, Manifest
from kivel.files.manifest.names import COLOR
from kivel.files.threads import in_order
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.placed import sequence_of_manifest
from kivel.sequences.reconciling.same_frames import Seen, same_frames
from kivel.sequences.settings import SourceSettings

__all__ = ["WatchedFrames", "matched_frames"]


class WatchedFrames:
    """A map whose frames' digests are taken as they are read, by whoever reads them for something else."""

    def __init__(self, map: MapFrames) -> None:
        self._digests: dict[int, tuple[str, str]] = {}
        frames = (each and each._replace(load=partial(self._load, n, each)) for n, each in enumerate(map.frames))
        self.map = map._replace(frames=tuple(frames))

    def _load(self, number: int, frame: FrameSource) -> Pixels:
        image = frame.load()
        self._digests[number] = _digests(image)
        return image

    def seen(self, frames: Sequence[FrameSource]) -> list[Seen]:
        """The frames by their names, with the digests of those that were read."""
        return [
            Seen(frame.name, frame.size, *self._digests.get(number, ("", "")), frame.load)
            for number, frame in enumerate(frames)
        ]


def matched_frames(
    manifest: Manifest,
    path: Path,
    new: Sequence[Seen],
    *,
    called: Callable[[FramePlace], str],
    max_pixels: int,
    jobs: int,
) -> tuple[int | None, ...]:
    """Return for each new frame the number of the one in a manifest that it was; None: it was added.

    Parameters
    ----------
    called : callable
        What a frame of the manifest is called by, as the names of `new` are.
    """
    old = [Seen(called(frame), Size(*frame.canvas)) for frame in manifest.frames]
    return same_frames(_as_they_were(manifest, path, old, max_pixels, jobs), _with_digests(new, jobs))


def _as_they_were(manifest: Manifest, path: Path, old: Sequence[Seen], max_pixels: int, jobs: int) -> list[Seen]:
    """The old frames with their digests, as far as these are known or their pages are as before."""
    stated = [frame.digest for frame in manifest.frames]
    if not manifest.is_layout:
        stated = [manifest.pages[frame.page].maps[COLOR].digest for frame in manifest.frames]
    if all(stated):
        return [one._replace(digest=digest or "") for one, digest in zip(old, stated, strict=True)]
    edited: list[str] = []
    try:
        settings = SourceSettings(max_pixels, tell=edited.append)
        frames = sequence_of_manifest(manifest, path, settings).frames
        seen = [one._replace(pixels=frame.load) for one, frame in zip(old, frames, strict=True)]
        digested = _with_digests(seen, jobs)
    except KivelError:
        return list(old)  # what is not there any more, nobody can look at
    return list(old) if edited else digested


def _with_digests(frames: Sequence[Seen], jobs: int) -> list[Seen]:
    return list(in_order(_with_digest, frames, jobs=jobs))


def _with_digest(frame: Seen) -> Seen:
    pixels = frame.pixels() if frame.pixels and not frame.digest else None
    if pixels is None:
        return frame
    digest, drawn = _digests(pixels)
    return frame._replace(digest=digest, drawn=drawn)


def _digests(image: Pixels) -> tuple[str, str]:
    """That of a picture, and of what is drawn in it."""
    bounds = opaque_bounds(image)
    return pixel_digest(image), pixel_digest(bounds.of(image)) if bounds else ""
