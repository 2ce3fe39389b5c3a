"""Which frames of what is made now are which of what was made before in its place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from kivel.core.digest import pixel_digest
from kivel.core.errors import KivelError
from kivel.core.pixels.pixels import Size
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, Manifest
from kivel.files.manifest.names import COLOR
from kivel.files.threads import in_order
from kivel.sequences.placed import sequence_of_manifest
from kivel.sequences.same_frames import Seen, same_frames
from kivel.sequences.settings import SourceSettings

__all__ = ["matched_frames", "seen_frames"]


def seen_frames(frames: Sequence[FrameSource]) -> list[Seen]:
    """Frames by their names, and their pixels for whoever has to look at them."""
    return [Seen(frame.name, frame.size, pixels=frame.load) for frame in frames]


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

    Pixels are looked at only where the names are not the same.

    Parameters
    ----------
    called : callable
        What a frame of the manifest is called by, as the names of `new` are.
    """
    old = [Seen(called(frame), Size(*frame.canvas)) for frame in manifest.frames]
    if sorted(one.name for one in old) == sorted(one.name for one in new):
        return same_frames(old, [one._replace(digest="") for one in new])
    known = _with_digests(new, jobs)
    return same_frames(_as_they_were(manifest, path, old, max_pixels, jobs), known)


def _as_they_were(manifest: Manifest, path: Path, old: Sequence[Seen], max_pixels: int, jobs: int) -> list[Seen]:
    """The old frames with their digests, as far as these are known or their pages are as they were."""
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
    return frame if pixels is None else frame._replace(digest=pixel_digest(pixels))
