"""The manifest of a folder of frames as they are: no sheet, each frame in its own file."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.contents import CONTENTS
from kivel.core.errors import UsageError, option
from kivel.core.pixels.pixels import Rect, is_opaque
from kivel.core.wording import first_few, unique_names
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, Manifest, Page
from kivel.files.manifest.names import COLOR, manifest_in
from kivel.files.manifest.text import manifest_text
from kivel.files.page_store import StoredMap, map_file
from kivel.files.safety import shown
from kivel.files.threads import in_order
from kivel.making.cutting.handled_sheets import HandledSheet
from kivel.making.options.groups.cut_options import CutOptions
from kivel.making.playback.manifests import made_by
from kivel.making.playback.rebuilt import rebuilt_at
from kivel.making.playback.set_pivots import with_pivots
from kivel.making.sheets.layouts import all_groups, stated_clips
from kivel.sequences.clips import with_clip_called
from kivel.sequences.finding import series_in
from kivel.sequences.named_clips import clips_of
from kivel.sequences.opening import open_sources
from kivel.sequences.reconciling.same_frames import Seen

if TYPE_CHECKING:
    from kivel.making.options.adopt_options import AdoptOptions
    from kivel.making.work import Work

__all__ = ["adopted_folder"]

_OF_SHEETS = ("names", "row-clips", "look", "save-regions", "map")


def adopted_folder(options: AdoptOptions, work: Work, folder: Path) -> HandledSheet:
    """Describe the frames of a folder where they are.

    Raises
    ------
    KivelError
        If the options are those of a sheet, the frames cannot be read, or a file has several of them.
    """
    _require_none_of_sheets(options, folder)
    settings = options.source_settings(work, keep_float=True, undescribed=True)
    several = [each.name for each in series_in(str(folder), settings)]
    if len(several) > 1:
        raise UsageError(
            f"{shown(folder)} has {len(several)} sequences, {first_few(several)}; move each into a folder of its own"
        )
    sequence = open_sources([str(folder)], settings)
    (sequence,) = with_pivots([sequence], options.pivot, jobs=options.threads)
    work.hear(sequence)
    sequence = with_clip_called(sequence, options.name, otherwise="")
    for frame in sequence.frames:
        if "#" in frame.source[len(frame.path.name) :]:
            raise UsageError(f"{shown(frame.path)} has several frames; kivel slice takes it apart")
    clips = stated_clips(options, work, clips_of([sequence], options.timing, options.clip_requests()))
    clips = clips._replace(groups=all_groups(clips, options))
    target = manifest_in(folder)
    rebuilt = rebuilt_at(options, work, target, "adopt")
    pages = tuple(in_order(_page, sequence.frames, jobs=options.threads))
    names = unique_names([frame.name for frame in sequence.frames])
    places = tuple(
        _place(frame, name, number) for number, (frame, name) in enumerate(zip(sequence.frames, names, strict=True))
    )
    digests = [page.maps[COLOR].digest for page in pages]
    seen = [Seen(place.name, place.canvas, digest) for place, digest in zip(places, digests, strict=True)]
    clips = rebuilt.clips(clips, seen)
    manifest = rebuilt.manifest(
        Manifest(
            pages=pages, frames=places, clips=clips.clips, groups=clips.groups, made=made_by("adopt", options, target)
        )
    )
    with options.output_set(work) as out:
        out.reads([*sequence.files(), *(Path(name) for name in options.paths() if Path(name) != folder)])
        out.add(target, [manifest_text(manifest).encode()])
    return HandledSheet(str(folder), tuple(out.written), manifest, (), {})


def _require_none_of_sheets(options: AdoptOptions, folder: Path) -> None:
    given = [name for name in (*CutOptions.declared(), *_OF_SHEETS) if options.given(name)]
    if given:
        raise UsageError(
            f"{option(given[0])} is for a sheet, and {shown(folder)} is a folder of frames; kivel sheet and kivel prep "
            "make new images of them"
        )


def _page(frame: FrameSource) -> Page:
    image = frame.load()
    color = map_file(os.fspath(frame.path.name), StoredMap(COLOR, CONTENTS["color"]), image, None)
    return Page(frame.size, {COLOR: color}, "opaque" if is_opaque(image) else "straight")


def _place(frame: FrameSource, name: str, page: int) -> FramePlace:
    return FramePlace(
        name=name,
        source=frame.source,
        page=page,
        rect=Rect(0, 0, *frame.size),
        turn=0,
        canvas=frame.size,
        offset=(0, 0),
        pivot=frame.pivot,
        extra=dict(frame.extra or {}),
    )
