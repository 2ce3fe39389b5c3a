"""One sheet as a sequence of frames, by whatever says how it divides; nothing is written."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.digest import pixel_digest
from kivel.core.errors import NEW_LINE, KivelError, UsageError, located, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pivots import PivotSeries
from kivel.core.pixels.pixels import Pair, Size, size_of
from kivel.core.slicing.background import drawn_part
from kivel.core.slicing.regions import Region
from kivel.core.wording import counted
from kivel.files.images import FrameSource, ImageError, open_image
from kivel.files.manifest.model import CutFrom, GridInfo, Manifest, MapFile, Page, SlicedFrom
from kivel.files.manifest.names import COLOR, manifest_beside
from kivel.files.manifest.parsing import read_manifest
from kivel.files.png.write import encode_png
from kivel.files.safety import shown
from kivel.making.cutting.dividing import FoundWay, UnsureError, divided_as_stated, divided_by_look, found_ways
from kivel.making.cutting.handled_sheets import HandledSheet, HandledSheets
from kivel.making.cutting.region_cut import RegionsText, divided_by_regions, saved_regions
from kivel.making.playback.set_pivots import pivots_for
from kivel.sequences.clips import ClipSet, clips_for, stated_holds
from kivel.sequences.cut import Cut, cut_apart, same_pieces
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.map_sheets import map_sheets, with_map
from kivel.sequences.named_clips import clips_of_members, row_clips
from kivel.sequences.pairing import MapRequest
from kivel.sequences.placed import sequence_of_manifest
from kivel.sequences.sequence import FrameSequence

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels
    from kivel.files.output_set import Written
    from kivel.making.options.groups.cut_options import SheetCutOptions
    from kivel.making.work import Work
    from kivel.sequences.clips import ClipSet

__all__ = ["TakenApart", "clips_of_sheet", "each_sheet", "taken_apart"]

OnFound = Callable[["Pixels", tuple[FoundWay, ...]], object]


class TakenApart(NamedTuple):
    """The frames, the row and column of each where there are such, where on the sheet each was, and the sheet itself.

    `found` is how it may divide, where that was looked for. `regions` are those that the frames are, if they are any,
    and `saves` is what a regions file is to say.
    """

    sequence: FrameSequence
    places: list[tuple[int, int]]
    cuts: tuple[CutFrom, ...] = ()
    sliced_from: SlicedFrom | None = None
    found: tuple[FoundWay, ...] = ()
    regions: tuple[Region, ...] = ()
    saves: RegionsText | None = None


def taken_apart(
    options: SheetCutOptions, work: Work, path: Path, *, on_found: OnFound, ignore_manifest: bool = False
) -> TakenApart:
    """The frames of a manifest, or the pieces of an image; by the manifest beside it, unless `ignore_manifest`.

    `on_found` is given the picture and the ways that were found, sure or not.

    Raises
    ------
    KivelError
        If it cannot be read, does not divide so, or it is not sure how it does.
    """
    if path.suffix == ".json":
        if options.states_cut:
            raise UsageError("a manifest knows its cells; remove the grid options, or give the image")
        return _by_manifest(options, work, path)
    beside = manifest_beside(path)
    if not options.states_cut and not ignore_manifest and beside.exists() and _is_of(beside, path):
        found = _by_manifest(options, work, beside)
        return found._replace(sequence=found.sequence.noted(f"{path}: sliced by {beside.name} beside it"))
    if options.like:
        return _like_another(options, work, path, Path(options.like))
    return _by_pieces(options, path, on_found)


def _is_of(manifest: Path, path: Path) -> bool:
    """Whether a manifest is that of a page, and not of frames that are called so; raises if it cannot be read."""
    return any(manifest.parent / page.maps[COLOR].file == path for page in read_manifest(manifest).pages)


def _by_manifest(options: SheetCutOptions, work: Work, path: Path) -> TakenApart:
    manifest = read_manifest(path)
    sequence = _frames_of(options, work, manifest, path)
    return TakenApart(sequence, manifest.cells_in_rows(), *_as_cut(manifest, path))


def _frames_of(options: SheetCutOptions, work: Work, manifest: Manifest, path: Path) -> FrameSequence:
    show = options.values.get("show")
    settings = options.source_settings(work, keep_float=True, show=show or COLOR, with_maps=not show)
    for request in options.map_requests():
        files = map_sheets(request, [path.parent / page.maps[COLOR].file for page in manifest.pages])
        manifest = with_map(manifest, path, request, files)
    return sequence_of_manifest(manifest, path, settings)


def _as_cut(manifest: Manifest, path: Path) -> tuple[tuple[CutFrom, ...], SlicedFrom | None]:
    """Where the frames of a sheet are, so that it can be made again; of an atlas, which is packed again, and of several
    pictures, nothing."""
    turned = any(frame.turn or frame.flip for frame in manifest.frames)
    if turned or not (manifest.grid or (_is_adopted(manifest) and len(manifest.pages) == 1)):
        return (), None
    cuts = tuple(CutFrom(frame.rect, frame.page, frame.offset) for frame in manifest.frames)
    color = manifest.pages[0].maps[COLOR]
    file = str(path.parent / color.file)
    return cuts, SlicedFrom(file, tuple(page.size for page in manifest.pages), manifest.grid, color.key, color.digest)


def _is_adopted(manifest: Manifest) -> bool:
    return manifest.made is not None and manifest.made.command == "adopt"


def _like_another(options: SheetCutOptions, work: Work, path: Path, other: Path) -> TakenApart:
    """The frames that another sheet's manifest says, of this picture."""
    manifest = read_manifest(other)
    (image,) = _opened(options, path)
    if len(manifest.pages) > 1:
        raise UsageError(
            f"{other}: its frames are on {len(manifest.pages)} pages, and this may be one of them; "
            "slice it with its own grid"
        )
    beyond = [frame for frame in manifest.frames if not frame.rect.fits(image.size)]
    if beyond:
        size, names = manifest.pages[0].size, f"frame {beyond[0].name!r} at {list(beyond[0].rect)}"
        raise ImageError(
            f"{image.size} px; {shown(other)} is of {size} px, and its {names} lies outside", where=shown(path)
        )
    pixels, known = image.load(), manifest.pages[0].maps[COLOR]
    key = drawn_part(pixels, options.key).key if options.given("key") else known.key
    file = MapFile(os.path.relpath(path, other.parent), pixel_digest(pixels), known.kind, key=key)
    page = Page(image.size, {COLOR: file}, manifest.pages[0].alpha)
    manifest = replace(manifest, pages=(page,))
    cuts, sliced_from = _as_cut(manifest, other)
    sequence = _frames_of(options, work, manifest, other)._replace(stem=path.stem, described_by=None)
    return TakenApart(sequence, manifest.cells_in_rows(), cuts, sliced_from)


def _opened(options: SheetCutOptions, path: Path) -> Sequence[FrameSource]:
    images = open_image(path, max_pixels=options.pixel_limit)
    if len(images) > 1:
        raise UsageError(f"{path}: an animated image of {len(images)} frames, not a sheet; see kivel sheet")
    return images


def _by_pieces(options: SheetCutOptions, path: Path, on_found: OnFound) -> TakenApart:
    (image,) = _opened(options, path)
    sheet = image.load()
    found: tuple[FoundWay, ...] = ()
    with located(shown(path)):
        divided, saves = (
            divided_by_regions(options, sheet, path) if options.regions else (divided_as_stated(options, sheet), None)
        )
        if divided is None:
            found, look = found_ways(sheet, options.key, options.empty_cells)
            on_found(sheet, found)
            divided = divided_by_look(options, sheet, found, look, source=str(path))
        cut = cut_apart(image, sheet, divided, empty="keep" if divided.regions else options.empty_cells)
    if options.save_regions:
        saves = saved_regions(options, sheet, cut, path)
    maps = [_map_pieces(options, request, path, cut) for request in options.map_requests()]
    sequence = _with_region_pivots(options, cut.sequence._replace(maps=tuple(maps)), divided.regions)
    cuts = tuple(CutFrom(piece.rect, 0, piece.offset) for piece in cut.pieces)
    places = [piece.place for piece in cut.pieces]
    return TakenApart(
        sequence, places, cuts, _sliced_from(path, cut, pixel_digest(sheet)), found, divided.regions, saves
    )


def _with_region_pivots(options: SheetCutOptions, sequence: FrameSequence, regions: Sequence[Region]) -> FrameSequence:
    """The frames with the pivots that their regions state."""
    frames = list(sequence.frames)
    for number, region in enumerate(regions):
        if region.pivot:
            of_it = [PivotSeries(region.name, [number])]
            pivots = pivots_for(frames, [region.pivot], of_it, jobs=options.threads)
            frames[number] = frames[number]._replace(pivot=pivots[number])
    return sequence._replace(frames=tuple(frames))


def _sliced_from(path: Path, cut: Cut, digest: str) -> SlicedFrom:
    lattice = cut.divided.grid
    grid = None
    if lattice is not None and lattice.is_whole:
        cell = Size(int(lattice.across.cell), int(lattice.down.cell))
        grid = GridInfo(lattice.columns, lattice.rows, cell, Pair(*lattice.gap), Pair(*lattice.at), lattice.fill)
        grid = grid.on_pages([cut.sheet])
    return SlicedFrom(str(path), (cut.sheet,), grid, cut.divided.key, digest)


def _map_pieces(options: SheetCutOptions, request: MapRequest, path: Path, cut: Cut) -> MapFrames:
    """The same pieces of a sheet of another map."""
    (sheet,) = map_sheets(request, [path])
    (image,) = _opened(options, sheet)
    with located(str(sheet)):
        return same_pieces(image, cut, request)


def each_sheet(
    options: SheetCutOptions,
    work: Work,
    made: Callable[[str, TakenApart], HandledSheet],
    *,
    of_folder: Callable[[Path], HandledSheet] | None = None,
    ignore_manifest: bool = False,
) -> HandledSheets:
    """Return what is made of each picture, or folder where these are taken, and the drawing of how one may divide.

    Raises
    ------
    KivelError
        What is wrong with any of them, once what can be made of the others is.
    """
    sheets: list[HandledSheet] = []
    errors: list[KivelError] = []
    drawn = _WaysDrawn(options, work)
    for source in options.sources:
        try:
            if of_folder and Path(source).is_dir():
                sheets.append(of_folder(Path(source)))
                continue
            try:
                apart = taken_apart(options, work, Path(source), on_found=drawn, ignore_manifest=ignore_manifest)
            except UnsureError as error:
                if not options.dry_run:
                    raise
                work.note(f"{source}: the grid is not clear; {option('pick', 'N')} uses one of the candidates")
                sheets.append(HandledSheet(source, (), None, error.ways, {}))
                continue
            sheets.append(made(source, apart))
        except KivelError as error:
            if len(options.sources) == 1:
                raise
            errors.append(error)
    if errors:
        raise _all_errors(errors, len(options.sources))
    return HandledSheets(tuple(sheets), tuple(drawn.written), tuple(work.notes))


def _all_errors(errors: list[KivelError], sheets: int) -> KivelError:
    """Return what is wrong with each; a usage error only if all are."""
    of_usage = len(errors) == sheets and all(isinstance(error, UsageError) for error in errors)
    texts = [str(error).replace("\n", NEW_LINE) for error in errors]
    done = f"{len(errors)} of {counted(sheets, 'picture')} were not sliced, {sheets - len(errors)} were"
    return (UsageError if of_usage else KivelError)(NEW_LINE.join([*texts, done]))


def clips_of_sheet(options: SheetCutOptions, source: str, apart: TakenApart) -> ClipSet:
    """The clips of a sheet's frames: of its rows, where they are named; those of its regions; else what it has."""
    sequence = apart.sequence
    if options.row_clips:
        if not apart.places:
            raise UsageError(f"{option('row-clips')} needs a grid, and {source} has none")
        return ClipSet(row_clips(options.row_clips, apart.places, stated_holds(sequence), options.timing))
    named = dict.fromkeys(region.clip for region in apart.regions if region.clip)
    if not named:
        return ClipSet(clips_for(sequence, options.timing), sequence.groups)
    members = {name: [number for number, one in enumerate(apart.regions) if one.clip == name] for name in named}
    return ClipSet(clips_of_members(members, stated_holds(sequence), options.timing))


class _WaysDrawn:
    """Draws the ways that were found, where that is asked for, sure or not."""

    def __init__(self, options: SheetCutOptions, work: Work) -> None:
        self._options, self._work = options, work
        self.written: list[Written] = []

    def __call__(self, image: Pixels, found: tuple[FoundWay, ...]) -> None:
        if not self._options.look:
            return
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
        title = f"{Path(self._options.sources[0]).name}  {size_of(image)} px, the likeliest divisions"
        with self._options.output_set(self._work, with_manifest=False) as out:
            out.reads([Path(source) for source in self._options.sources])
            out.add(Path(self._options.look), encode_png(draw_layout(pages, title), compress="small"))
        self.written += out.written
