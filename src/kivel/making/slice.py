"""Take a sheet apart into frames: by its manifest, or by a grid laid over any image."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, NamedTuple

from kivel.core.errors import UsageError, located, option
from kivel.making.options.clip_options import MadeClipOptions, RowClipOptions
from kivel.making.options.layout_options import CompanionOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import FrameOutputOptions, PivotOptions
from kivel.making.options.source_options import ShowOptions
from kivel.making.options.value_kinds import FARTHEST, PATH, SIZE, choice, moved_path, whole

if TYPE_CHECKING:
    from kivel.core.pixels import Pixels, Size
    from kivel.core.slicing.fitting import SliceRequest
    from kivel.files.manifest.model import GridInfo, Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work
    from kivel.sequences.cells import Cut, EmptyCells
    from kivel.sequences.clips import ClipSet
    from kivel.sequences.map_frames import MapFrames
    from kivel.sequences.pairing import MapRequest
    from kivel.sequences.sequence import FrameSequence

__all__ = ["SliceMade", "SliceOptions", "make_slice"]

_OF_THE_GRID = ("columns", "rows", "cell", "gap", "margin", "empty")
"""Options that a manifest settles."""


class SliceOptions(ShowOptions, MadeClipOptions, RowClipOptions, CompanionOptions, PivotOptions, FrameOutputOptions):
    """A sheet taken apart."""

    title = "grid of a plain image"
    everyday: ClassVar = (
        "out", "columns", "rows", "cell", "gap", "margin", "empty", "row-clips", "show", "map", "map-suffix", "fps",
        "repeat", "order", "event", "pivot", "compress", "fresh-clips", "force",
    )  # fmt: skip
    source: Option[str] = Option(
        PATH,
        "a sheet, or the .kivel.json beside one",
        default="",
        form="IMAGE-or-MANIFEST",
        positional=True,
        needed=True,
        from_folder=moved_path,
    )
    show = ShowOptions.show.but(
        help="one map of a manifest alone, as the colour of the frames", shown="all of them", group="frames"
    )
    columns: Option[int | None] = Option(whole(1, FARTHEST), "alone: the cells are square", default=None)
    rows: Option[int | None] = Option(whole(1, FARTHEST), "alone: the cells are square", default=None)
    cell: Option[Size | None] = Option(SIZE, "cell size in pixels", default=None)
    gap: Option[int] = Option(whole(0, FARTHEST), "pixels between cells", default=0, shown="0")
    margin: Option[int] = Option(whole(0, FARTHEST), "pixels around all", default=0, shown="0")
    empty: Option[EmptyCells] = Option(
        choice("drop-last", "drop", "keep"),
        "transparent cells: leave out those after the last drawn one (default), all, or none",
        default="drop-last",
    )

    @property
    def asks_nothing(self) -> bool:
        return not any(self.given(name) for name in _OF_THE_GRID)

    def request(self) -> SliceRequest:
        from kivel.core.slicing.fitting import SliceRequest

        return SliceRequest(columns=self.columns, rows=self.rows, cell=self.cell, gap=self.gap, margin=self.margin)


class SliceMade(NamedTuple):
    """Frames of a sheet: files with what became of each, and the manifest.

    `images` are by name where nothing was written.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    notes: tuple[str, ...]
    images: dict[str, Pixels]


class _Sliced(NamedTuple):
    """The frames, the row of the grid in which each lies and where in it, and the grid itself."""

    sequence: FrameSequence
    places: list[tuple[int, int]]
    grid: GridInfo | None


def make_slice(options: SliceOptions, work: Work) -> SliceMade:
    """Take a sheet apart.

    Raises
    ------
    KivelError
        What the options, the sheet or the disk do not allow; nothing is written then.
    """
    from kivel.making.frame_files import unchanged, write_frames
    from kivel.making.layouts import stated_clips
    from kivel.making.set_pivots import with_pivots

    sliced = _sliced(options, work)
    (pivoted,) = with_pivots([sliced.sequence], options.pivot, jobs=options.threads)
    sliced = sliced._replace(sequence=pivoted)
    sequence = sliced.sequence
    work.note(*sequence.notes)
    folder = write_frames(
        options,
        work,
        unchanged(sequence),
        command="slice",
        stem=sequence.stem,
        clips=stated_clips(options, work, _clips(options, sliced)),
        sources=_read_by(options, sequence),
        beside=True,
        keeps_stem=True,
        premultiplied=sequence.premultiplied,
        kind=sequence.content,
        origin=sliced.grid,
        extra=sequence.extra,
    )
    return SliceMade(folder.files, folder.manifest, tuple(work.notes), folder.images)


def _read_by(options: SliceOptions, sequence: FrameSequence) -> set[Path]:
    """The sheet, and the manifest of it beside it, which says how it plays even where it is not asked."""
    from kivel.files.manifest.names import manifest_beside
    from kivel.files.ownership import knows

    source = Path(options.source)
    beside = manifest_beside(source)
    # to read it takes its time, and it is in danger in its own folder alone
    near = options.out and os.path.isdir(options.out) and os.path.samefile(options.out, source.parent)
    return {*sequence.files(), *([beside] if near and knows(beside, source) else [])}


def _clips(options: SliceOptions, sliced: _Sliced) -> ClipSet:
    from kivel.sequences.clips import ClipSet, clips_for, stated_holds
    from kivel.sequences.named_clips import row_clips

    sequence = sliced.sequence
    if not options.row_clips:
        return ClipSet(clips_for(sequence, options.timing), sequence.groups)
    if not sliced.places:
        raise UsageError(f"{option('row-clips')} names the rows of a grid, {options.source} has none")
    return ClipSet(row_clips(options.row_clips, sliced.places, stated_holds(sequence), options.timing))


def _sliced(options: SliceOptions, work: Work) -> _Sliced:
    """The frames of a manifest, or the cells of an image; an image beside its manifest is sliced by that."""
    from kivel.files.manifest.names import manifest_beside

    source = Path(options.source)
    if source.suffix == ".json":
        if not options.asks_nothing:
            raise UsageError("a manifest says where the cells are; leave out the grid's options, or give the image")
        return _by_manifest(options, work, source)
    beside = manifest_beside(source)
    if options.asks_nothing and beside.exists():
        found = _by_manifest(options, work, beside)
        return found._replace(sequence=found.sequence.noted(f"{source}: sliced as {beside.name} beside it says"))
    return _by_grid(options, source)


def _by_manifest(options: SliceOptions, work: Work, path: Path) -> _Sliced:
    from kivel.files.manifest.names import COLOR
    from kivel.files.manifest.parsing import read_manifest
    from kivel.sequences.map_sheets import map_sheets, with_map
    from kivel.sequences.placed import sequence_of_manifest

    settings = options.source_settings(work, keep_float=True, show=options.show, with_maps=not options.given("show"))
    manifest = read_manifest(path)
    for request in options.map_requests():
        files = map_sheets(request, [path.parent / page.maps[COLOR].file for page in manifest.pages])
        manifest = with_map(manifest, path, request, files)
    sequence = sequence_of_manifest(manifest, path, settings)
    return _Sliced(sequence, manifest.cells_in_rows(), manifest.grid)


def _by_grid(options: SliceOptions, path: Path) -> _Sliced:
    from kivel.files.images import open_image
    from kivel.files.manifest.model import GridInfo
    from kivel.sequences.cells import cells_of_image

    images = open_image(path, max_pixels=options.pixel_limit)
    if len(images) > 1:
        raise UsageError(f"{path}: an animated image of {len(images)} frames, not a sheet; see kivel sheet")
    with located(options.source):
        cut = cells_of_image(images[0], options.request(), empty=options.empty)
    maps = [_map_cells(options, request, path, cut) for request in options.map_requests()]
    cut = cut._replace(sequence=cut.sequence._replace(maps=tuple(maps)))
    rects = [cut.grid.cell_rect(cell) for cell in cut.cells]
    grid = cut.grid
    info = GridInfo(
        columns=grid.columns, rows=grid.rows, cell=grid.cell, gap=grid.gap, margin=grid.margin, fill=grid.fill
    )
    return _Sliced(cut.sequence, [(rect.y, rect.x) for rect in rects], info)


def _map_cells(options: SliceOptions, request: MapRequest, path: Path, cut: Cut) -> MapFrames:
    """The same cells of a sheet of another map."""
    from kivel.files.images import open_image
    from kivel.sequences.cells import same_cells
    from kivel.sequences.map_sheets import map_sheets

    (sheet,) = map_sheets(request, [path])
    images = open_image(sheet, max_pixels=options.pixel_limit)
    with located(str(sheet)):
        return same_cells(images[0], cut, request)
