"""Manifests whose clips are changed."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.named_tuples import NamedTuple
from kivel.core.pivots import PivotSeries
from kivel.core.playback.groups import chosen_clips
from kivel.core.wording import counted
from kivel.files.manifest.parsing import edited_since_written, read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.files.output_set import OutputSet
from kivel.files.ownership import manifest_for
from kivel.making.options.retime_options import RetimeOptions
from kivel.making.playback.retimed_clips import Retimed, retimed
from kivel.making.playback.set_pivots import pivots_for, series_of_clips
from kivel.sequences.placed import sequence_of_manifest

if TYPE_CHECKING:
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.playback.retimed_clips import ClipChange
    from kivel.making.work import Work

__all__ = ["RetimeMade", "make_retime"]


class RetimeMade(NamedTuple):
    """A manifest whose clips were changed, each before and after; None for what was or is not there."""

    files: tuple[Written, ...]
    manifest: Manifest
    changes: tuple[ClipChange, ...]
    notes: tuple[str, ...]


def make_retime(options: RetimeOptions, work: Work) -> RetimeMade:
    """Change clips.

    Raises
    ------
    KivelError
        What the options, the manifest or the disk do not allow; nothing is written then.
    """
    path = manifest_for(Path(options.manifest))
    # what was edited by hand is read, and is in the new file too, which keeps the mark of it
    with OutputSet(
        force=True, is_ours=lambda _path: True, dry_run=options.dry_run, tell=work.note, placed=work.placed
    ) as out:
        out.changes(path)
        edited = edited_since_written(path)
        manifest = _with_pivots(options, work, read_manifest(path), path)
        result = retimed(manifest, options.request()) if options.says_of_clips else Retimed(manifest, (), ())
        work.note(*result.notes)
        out.add(path, [manifest_text(result.manifest, edited=edited).encode()])
    return RetimeMade(tuple(out.written), result.manifest, result.pairs, tuple(work.notes))


def _with_pivots(options: RetimeOptions, work: Work, manifest: Manifest, path: Path) -> Manifest:
    """The manifest with the pivots that are asked for; of clips that are chosen, their frames' alone."""
    if not options.pivot:
        return manifest

    sequence = sequence_of_manifest(manifest, path, options.source_settings(work))
    series = series_of_clips(manifest.clips, sequence)
    if options.clip:
        series = [PivotSeries(clip.name, clip.own_frames) for clip in chosen_clips(manifest.clips, options.clip)]
    pivots = pivots_for(sequence.frames, options.pivot, series, jobs=options.threads)
    frames = tuple(
        replace(frame, pivot=pivots[number], set=("pivot",)) if number in pivots else frame
        for number, frame in enumerate(manifest.frames)
    )
    work.note(f"{counted(len(pivots), 'pivot')} of {counted(len(frames), 'frame')} set")
    return replace(manifest, frames=frames)
