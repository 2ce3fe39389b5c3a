"""Take sheets apart into frames: by their manifest, by a grid that is stated or found, or by islands."""

from __future__ import annotations

import os
from collections import Counter
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, NamedTuple

from kivel.core.errors import NEW_LINE, KivelError, UsageError, option
from kivel.making.options.clip_options import MadeClipOptions, RowClipOptions
from kivel.making.options.cut_options import CutOptions
from kivel.making.options.layout_options import CompanionOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import FrameOutputOptions, PivotOptions
from kivel.making.options.source_options import ShowOptions
from kivel.making.options.value_kinds import PATH, ValueKind, moved_path, written_path

if TYPE_CHECKING:
    from kivel.core.pixels import Pixels
    from kivel.files.manifest.model import CutFrom, Manifest, Origin
    from kivel.files.output_set import Written
    from kivel.making.cutting import FoundWay
    from kivel.making.taken_apart import TakenApart
    from kivel.making.work import Work
    from kivel.sequences.clips import ClipSet

__all__ = ["SliceMade", "SliceOptions", "SlicedSheet", "make_slice"]


class SliceOptions(
    ShowOptions, MadeClipOptions, RowClipOptions, CompanionOptions, CutOptions, PivotOptions, FrameOutputOptions
):
    """Sheets taken apart."""

    title = "frames"
    command: ClassVar = "slice"
    everyday: ClassVar = (
        "out", "columns", "rows", "cell", "gap", "margin", "at", "islands", "pick", "look", "key", "empty", "row-clips",
        "map", "map-suffix", "fps", "pivot", "compress", "fresh-clips", "force",
    )  # fmt: skip
    sources: Option[tuple[str, ...]] = Option(
        ValueKind("IMAGE-or-MANIFEST", str, written_path),
        "sheets, or the .kivel.json beside one",
        default=(),
        many=True,
        positional=True,
        needed=True,
        from_folder=moved_path,
    )
    show = ShowOptions.show.but(
        help="one map of a manifest alone, as the colour of the frames", shown="all of them", group="frames"
    )
    look: Option[str | None] = Option(
        PATH,
        "draw the likeliest ways side by side, over the picture",
        default=None,
        form="OUT.png",
        from_folder=moved_path,
        kept=False,
        group="output",
    )

    def check(self) -> None:
        super().check()
        stems = Counter(Path(source).name.removesuffix(".json").removesuffix(".kivel") for source in self.sources)
        twice = [stem for stem, count in stems.items() if count > 1]
        if twice:
            raise UsageError(f"{twice[0]} is there twice, and its frames would be too; slice each into its own folder")
        if self.look and len(self.sources) > 1:
            raise UsageError(f"{option('look')} draws one picture; give one image")


class SlicedSheet(NamedTuple):
    """Frames of one sheet: files with what became of each, and the manifest.

    `found` is how it may divide, the likeliest first, where that was looked for. `images` are by name where nothing was
    written. One that was only looked at, and is not sure, has no frames.
    """

    source: str
    files: tuple[Written, ...]
    manifest: Manifest | None
    found: tuple[FoundWay, ...]
    images: dict[str, Pixels]


class SliceMade(NamedTuple):
    """The sheets that were taken apart, in the order given, and the picture of how they may divide."""

    sheets: tuple[SlicedSheet, ...]
    looks: tuple[Written, ...]
    notes: tuple[str, ...]

    @property
    def files(self) -> tuple[Written, ...]:
        """All that was written."""
        return tuple(file for sheet in self.sheets for file in sheet.files)

    @property
    def manifest(self) -> Manifest:
        """That of the first sheet."""
        manifest = self.sheets[0].manifest
        if manifest is None:
            raise UsageError("it was looked at alone, and is not sure how it divides")
        return manifest

    @property
    def images(self) -> dict[str, Pixels]:
        """The frames of all sheets by name, where nothing was written."""
        return {name: image for sheet in self.sheets for name, image in sheet.images.items()}


def make_slice(options: SliceOptions, work: Work) -> SliceMade:
    """Take sheets apart, each by itself.

    Raises
    ------
    KivelError
        What the options, the sheets or the disk do not allow. Of a sheet that is at fault nothing is written; the
        others are.
    """
    sheets: list[SlicedSheet] = []
    looks: list[Written] = []
    errors: list[KivelError] = []
    for source in options.sources:
        try:
            sheets.append(_sliced_sheet(options, work, source, looks))
        except KivelError as error:
            if len(options.sources) == 1:
                raise
            errors.append(error)
    if errors:
        raise _all_errors(errors, len(options.sources))
    return SliceMade(tuple(sheets), tuple(looks), tuple(work.notes))


def _all_errors(errors: list[KivelError], sheets: int) -> KivelError:
    """What is wrong with each; a usage error only if all are."""
    kind = (
        UsageError if len(errors) == sheets and all(isinstance(error, UsageError) for error in errors) else KivelError
    )
    done = sheets - len(errors)
    texts = [str(error).replace("\n", NEW_LINE) for error in errors]
    return kind(NEW_LINE.join([*texts, f"{len(errors)} of {sheets} were not sliced, {done} were"]))


def _sliced_sheet(options: SliceOptions, work: Work, source: str, looks: list[Written]) -> SlicedSheet:
    from kivel.making.cutting import UnsureError
    from kivel.making.taken_apart import taken_apart

    drawn = _Looks(options, work, looks)
    try:
        apart = taken_apart(options, work, Path(source), on_found=drawn)
    except UnsureError as error:
        if not options.dry_run:
            raise
        work.note(f"{source}: not sure how it divides; {option('pick', 'N')} takes one of those that it may be")
        return SlicedSheet(source, (), None, error.ways, {})
    return _written(options, work, source, apart)


class _Looks:
    """Draws the ways that were found, where that is asked for, sure or not."""

    def __init__(self, options: SliceOptions, work: Work, looks: list[Written]) -> None:
        self._options, self._work, self._looks = options, work, looks

    def __call__(self, image: Pixels, found: tuple[FoundWay, ...]) -> None:
        if not self._options.look:
            return
        from kivel.core.pixels import size_of
        from kivel.files.png.write import encode_png
        from kivel.views.layout_drawing import DrawnFrame, DrawnPage, draw_layout

        pages = [
            DrawnPage(
                image,
                tuple(DrawnFrame(rect, (frame,), 0) for frame, rect in enumerate(way.rects)),
                None,
                f"{number}:  {way.described()}, {way.percent}",
            )
            for number, way in enumerate(found, 1)
        ]
        title = f"{Path(self._options.sources[0]).name}  {size_of(image)} px, the likeliest ways to divide it"
        with self._options.output_set(self._work, with_manifest=False) as out:
            out.reads([Path(source) for source in self._options.sources])
            out.add(Path(self._options.look), encode_png(draw_layout(pages, title), compress="small"))
        self._looks += out.written


def _written(options: SliceOptions, work: Work, source: str, apart: TakenApart) -> SlicedSheet:
    from kivel.making.frame_files import unchanged, write_frames
    from kivel.making.layouts import stated_clips
    from kivel.making.set_pivots import with_pivots

    (sequence,) = with_pivots([apart.sequence], options.pivot, jobs=options.threads)
    apart = apart._replace(sequence=sequence)
    work.note(*sequence.notes)
    cuts: tuple[CutFrom | None, ...] = apart.cuts or (None,) * len(sequence.frames)
    frames = [frame._replace(cut=cut) for frame, cut in zip(unchanged(sequence), cuts, strict=True)]
    folder = write_frames(
        options,
        work,
        frames,
        command="slice",
        stem=sequence.stem,
        clips=stated_clips(options, work, _clips(options, source, apart)),
        sources=_read_by(options, source, apart),
        beside=True,
        keeps_stem=True,
        premultiplied=sequence.premultiplied,
        kind=sequence.content,
        origin=_origin_from(options, apart),
        extra=sequence.extra,
    )
    return SlicedSheet(source, folder.files, folder.manifest, apart.found, folder.images)


def _origin_from(options: SliceOptions, apart: TakenApart) -> Origin | None:
    """The sheet, its file as it is seen from the folder that the frames go to."""
    from kivel.making.manifests import relative_to

    if apart.origin is None:
        return None
    return replace(apart.origin, file=relative_to(Path(options.out or "."))(apart.origin.file))


def _read_by(options: SliceOptions, source: str, apart: TakenApart) -> set[Path]:
    """The sheet, and the manifest of it beside it, which says how it plays even where it is not asked."""
    from kivel.files.manifest.names import manifest_beside
    from kivel.files.ownership import knows

    path = Path(source)
    beside = manifest_beside(path)
    # to read it takes its time, and it is in danger in its own folder alone
    near = options.out and os.path.isdir(options.out) and os.path.samefile(options.out, path.parent)
    return {*apart.sequence.files(), *([beside] if near and knows(beside, path) else [])}


def _clips(options: SliceOptions, source: str, apart: TakenApart) -> ClipSet:
    from kivel.sequences.clips import ClipSet, clips_for, stated_holds
    from kivel.sequences.named_clips import row_clips

    sequence = apart.sequence
    if not options.row_clips:
        return ClipSet(clips_for(sequence, options.timing), sequence.groups)
    if not apart.places:
        raise UsageError(f"{option('row-clips')} names the rows of a grid, {source} has none")
    return ClipSet(row_clips(options.row_clips, apart.places, stated_holds(sequence), options.timing))
