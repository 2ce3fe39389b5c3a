"""Change how clips play: rates, holds, order, direction, repeat, phase, pace, events; new clips from old ones."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.making.options.clip_options import ChangeOptions, GroupOptions, RowClipOptions
from kivel.making.options.common_options import CommonOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import PivotOptions, WritingOptions
from kivel.making.options.source_options import ChoosingOptions
from kivel.making.options.value_kinds import ANY_TEXT, FLAG, PATH, moved_path, whole

if TYPE_CHECKING:
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.retimed_clips import ClipChange, RetimeRequest
    from kivel.making.work import Work

__all__ = ["RetimeMade", "RetimeOptions", "make_retime"]


class RetimeOptions(ChoosingOptions, RowClipOptions, ChangeOptions, GroupOptions, PivotOptions, CommonOptions):
    """Changes to the clips of a manifest."""

    title = "which clips"
    everyday: ClassVar = (
        "clip", "order", "fps", "hold", "holds", "length", "speed", "pace", "direction", "hold-ends", "repeat",
        "end", "then", "interpolation", "phase", "event", "no-events", "new", "rename", "remove", "stagger",
        "make-group", "choose", "pivot", "dry-run",
    )  # fmt: skip
    manifest: Option[str] = Option(
        PATH,
        "NAME.kivel.json; it is changed in place",
        default="",
        form="MANIFEST",
        positional=True,
        needed=True,
        from_folder=moved_path,
    )
    new: Option[str | None] = Option(
        ANY_TEXT, "keep the clip, and give the changed copy this name", default=None, form="NAME"
    )
    rename: Option[str | None] = Option(ANY_TEXT, "give the clip another name", default=None, form="NAME")
    remove: Option[bool] = Option(FLAG, "remove the clips that are chosen", default=False)
    row_clips = RowClipOptions.row_clips.but(
        help="a new clip for each row of the sheet, by these names", group="which clips"
    )
    make_group = GroupOptions.make_group.but(group="many instances")
    choose = GroupOptions.choose.but(group="many instances")
    stagger: Option[int | None] = Option(
        whole(1, 100_000), "add N clips at evenly spread phases", default=None, group="many instances"
    )
    stagger_seed: Option[int | None] = Option(
        whole(0), "scatter their phases instead, by this seed", default=None, form="SEED", group="many instances"
    )
    dry_run = WritingOptions.dry_run.but(help="show what would change, and write nothing")

    def check(self) -> None:
        super().check()
        if self.stagger_seed is not None and not self.stagger:
            raise UsageError(f"{option('stagger-seed')} says how, {option('stagger', 'N')} how many; give both")
        others = bool(self.new or self.rename or self.stagger or self.changes().entries)
        if self.row_clips and (self.clip or self.new or self.rename or self.remove):
            raise UsageError(f"{option('row-clips')} makes clips of rows; choose others in a run of its own")
        if self.remove and others:
            raise UsageError(f"{option('remove', True)} takes clips away; change others in a run of its own")
        if not (self.says_of_clips or self.pivot):
            raise UsageError("nothing to change; see kivel retime --help, or kivel trace to look at what plays")

    @property
    def says_of_clips(self) -> bool:
        return bool(
            self.new or self.rename or self.stagger or self.remove or self.row_clips or self.make_group
            or self.changes().entries
        )  # fmt: skip

    def request(self) -> RetimeRequest:
        from kivel.making.retimed_clips import RetimeRequest

        return RetimeRequest(
            patterns=self.clip,
            changes=self.changes(),
            new=self.new,
            rename=self.rename,
            remove=self.remove,
            stagger=self.stagger or 0,
            seed=self.stagger_seed,
            groups=self.group_requests(),
            row_clips=self.row_clips,
        )


class RetimeMade(NamedTuple):
    """A manifest whose clips were changed, each as it was and as it is; None for what was or is not there."""

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
    from kivel.files.manifest.parsing import edited_since_written, read_manifest
    from kivel.files.manifest.text import manifest_text
    from kivel.files.output_set import OutputSet
    from kivel.files.ownership import manifest_for
    from kivel.making.retimed_clips import Retimed, retimed

    path = manifest_for(Path(options.manifest))
    # what was edited by hand is read, and stands in the new file too, which keeps the mark of it
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
    from dataclasses import replace

    from kivel.core.pivots import PivotSeries
    from kivel.core.playback.groups import chosen_clips
    from kivel.core.wording import counted
    from kivel.making.set_pivots import pivots_for, series_of_clips
    from kivel.sequences.placed import sequence_of_manifest

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
