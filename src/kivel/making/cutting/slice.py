"""Frames taken from sheets, from sources to files."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.contents import CONTENTS
from kivel.core.errors import option
from kivel.core.pixels.pixels import size_of
from kivel.files.manifest.names import manifest_beside
from kivel.files.ownership import knows
from kivel.files.scratch import Scratch
from kivel.making.cutting.handled_sheets import HandledSheet, HandledSheets
from kivel.making.cutting.region_cut import parted
from kivel.making.cutting.taken_apart import clips_of_sheet, each_sheet
from kivel.making.frames.frame_files import NewFrames, unchanged, write_frames
from kivel.making.options.slice_options import SliceOptions
from kivel.making.playback.manifests import relative_to
from kivel.making.playback.set_pivots import with_pivots
from kivel.making.sheets.layouts import stated_clips
from kivel.sequences.clips import with_clip_called
from kivel.sequences.sequence import require_straight

if TYPE_CHECKING:
    from kivel.files.manifest.model import CutFrom, SlicedFrom
    from kivel.files.scratch import Scratch
    from kivel.making.cutting.taken_apart import TakenApart
    from kivel.making.frames.frame_files import NewFrame
    from kivel.making.work import Work

__all__ = ["make_slice"]


def make_slice(options: SliceOptions, work: Work) -> HandledSheets:
    """Take sheets apart, each by itself.

    Raises
    ------
    KivelError
        What the options, the sheets or the disk do not allow. Of a sheet that is at fault nothing is written; the
        others are.
    """
    return each_sheet(options, work, lambda source, apart: _written(options, work, source, apart))


def _written(options: SliceOptions, work: Work, source: str, apart: TakenApart) -> HandledSheet:
    (sequence,) = with_pivots([apart.sequence], options.pivot, jobs=options.threads)
    sequence = with_clip_called(sequence, options.name, otherwise="")
    apart = apart._replace(sequence=sequence)
    work.hear(sequence)
    with Scratch() as scratch:
        frames = _frames(options, work, apart, scratch)
        clips = stated_clips(options, work, clips_of_sheet(options, source, apart))
        new = NewFrames.made_of(sequence, frames, clips, kind=sequence.content)
        new = new._replace(sources=_read_by(options, source, apart), sliced_from=_sliced_from(options, apart))
        folder = write_frames(options, work, new, command="slice", beside=True, keeps_stem=True, saves=apart.saves)
    files, saved = parted(folder.files, apart.saves)
    return HandledSheet(source, files, folder.manifest, apart.found, folder.images, saved)


def _frames(options: SliceOptions, work: Work, apart: TakenApart, scratch: Scratch) -> list[NewFrame]:
    """The frames to be written, each with where it was and what its file is called."""
    frames = _steadied(options, work, apart, scratch) if options.steady else unchanged(apart.sequence)
    cuts: tuple[CutFrom | None, ...] = apart.cuts or (None,) * len(frames)
    if options.steady and size_of(frames[0].load().image) != apart.sequence.frames[0].size:
        # on larger canvases they do not go back to where they were
        cuts = (None,) * len(frames)
    named = [region.name for region in apart.regions] or [""] * len(frames)
    return [frame._replace(cut=cut, file=file) for frame, cut, file in zip(frames, cuts, named, strict=True)]


def _steadied(options: SliceOptions, work: Work, apart: TakenApart, scratch: Scratch) -> list[NewFrame]:
    """The frames of each row moved to where they agree with those around them."""
    from kivel.core.prepare.steady import steadying
    from kivel.making.frames.prepared_frames import StepChain, prepared_sequence

    sequence = apart.sequence
    require_straight(sequence, option("steady"))
    rows = [row for row, _ in apart.places] or None
    chain = StepChain((steadying(smooth=options.steady == "smooth", rows=rows),), 1, premultiplied=False)
    with work.progress("steadying frames", len(sequence.frames)) as advance:
        made = prepared_sequence(
            sequence, chain, kind=CONTENTS[sequence.content].kind, shelf=scratch, jobs=options.threads, advance=advance
        )
    work.note(*made.notes, *(f"steadied: {effect.said}" for effect in made.effects))
    return list(made.frames)


def _sliced_from(options: SliceOptions, apart: TakenApart) -> SlicedFrom | None:
    """The sheet, its file as it is seen from the folder that the frames go to."""
    if apart.sliced_from is None:
        return None
    return replace(apart.sliced_from, file=relative_to(Path(options.out or "."))(apart.sliced_from.file))


def _read_by(options: SliceOptions, source: str, apart: TakenApart) -> set[Path]:
    """The sheet, and the manifest of it beside it, which says how it plays even where it is not asked."""
    path = Path(source)
    beside = manifest_beside(path)
    # to read it takes its time, and it is in danger in its own folder alone
    near = options.out and os.path.isdir(options.out) and os.path.samefile(options.out, path.parent)
    return {*apart.sequence.files(), *([beside] if near and knows(beside, path) else [])}
