"""One sheet as a sequence of frames, by whatever says how it divides; nothing is written."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from kivel.core.errors import UsageError, located
from kivel.core.pixels import Pair, Size
from kivel.files.images import FrameSource, ImageError, open_image
from kivel.files.manifest.model import CutFrom, GridInfo, Manifest, MapFile, Origin, Page
from kivel.files.manifest.names import COLOR, manifest_beside
from kivel.files.safety import shown
from kivel.making.cutting import FoundWay, divided_as_stated, divided_by_look, found_ways
from kivel.sequences.cut import Cut, cut_apart, same_pieces
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.map_sheets import map_sheets, with_map
from kivel.sequences.pairing import MapRequest
from kivel.sequences.sequence import FrameSequence

if TYPE_CHECKING:
    from kivel.core.pixels import Pixels
    from kivel.making.slice import SliceOptions
    from kivel.making.work import Work

__all__ = ["TakenApart", "taken_apart"]

OnFound = Callable[["Pixels", tuple[FoundWay, ...]], object]


class TakenApart(NamedTuple):
    """The frames, the row and column of each where there are such, where on the sheet each was, and the sheet itself.

    `found` is how it may divide, where that was looked for.
    """

    sequence: FrameSequence
    places: list[tuple[int, int]]
    cuts: tuple[CutFrom, ...] = ()
    origin: Origin | None = None
    found: tuple[FoundWay, ...] = ()


def taken_apart(options: SliceOptions, work: Work, path: Path, *, on_found: OnFound) -> TakenApart:
    """The frames of a manifest, or the pieces of an image; an image beside its manifest is sliced by that.

    `on_found` is given the picture and the ways that were found, sure or not.

    Raises
    ------
    KivelError
        If it cannot be read, does not divide so, or it is not sure how it does.
    """
    if path.suffix == ".json":
        if options.states_cut:
            raise UsageError("a manifest says where the cells are; leave out the grid's options, or give the image")
        return _by_manifest(options, work, path)
    beside = manifest_beside(path)
    if not options.states_cut and beside.exists():
        found = _by_manifest(options, work, beside)
        return found._replace(sequence=found.sequence.noted(f"{path}: sliced as {beside.name} beside it says"))
    if options.like:
        return _like_another(options, work, path, Path(options.like))
    return _by_pieces(options, path, on_found)


def _by_manifest(options: SliceOptions, work: Work, path: Path) -> TakenApart:
    from kivel.files.manifest.parsing import read_manifest

    manifest = read_manifest(path)
    sequence = _frames_of(options, work, manifest, path)
    return TakenApart(sequence, manifest.cells_in_rows(), *_as_cut(manifest, path))


def _frames_of(options: SliceOptions, work: Work, manifest: Manifest, path: Path) -> FrameSequence:
    from kivel.sequences.placed import sequence_of_manifest

    settings = options.source_settings(work, keep_float=True, show=options.show, with_maps=not options.given("show"))
    for request in options.map_requests():
        files = map_sheets(request, [path.parent / page.maps[COLOR].file for page in manifest.pages])
        manifest = with_map(manifest, path, request, files)
    return sequence_of_manifest(manifest, path, settings)


def _as_cut(manifest: Manifest, path: Path) -> tuple[tuple[CutFrom, ...], Origin | None]:
    """Where the frames of a sheet are, so that it can be made again; of an atlas, which is packed anew, nothing."""
    if any(frame.turn or frame.flip for frame in manifest.frames) or not (manifest.grid or _is_adopted(manifest)):
        return (), None
    cuts = tuple(CutFrom(frame.rect, frame.page, frame.offset) for frame in manifest.frames)
    color = manifest.pages[0].maps[COLOR]
    file = str(path.parent / color.file)
    return cuts, Origin(file, tuple(page.size for page in manifest.pages), manifest.grid, color.key)


def _is_adopted(manifest: Manifest) -> bool:
    return manifest.made is not None and manifest.made.command == "adopt"


def _like_another(options: SliceOptions, work: Work, path: Path, other: Path) -> TakenApart:
    """The frames that another sheet's manifest says, of this picture."""
    from kivel.files.manifest.parsing import read_manifest

    manifest = read_manifest(other)
    (image,) = _opened(options, path)
    if len(manifest.pages) > 1:
        raise UsageError(
            f"{other}: its frames are on {len(manifest.pages)} pages, of which this may be one; slice it by hand"
        )
    beyond = [frame for frame in manifest.frames if not frame.rect.fits(image.size)]
    if beyond:
        size, names = manifest.pages[0].size, f"frame {beyond[0].name!r} at {list(beyond[0].rect)}"
        raise ImageError(
            f"{image.size} px; {shown(other)} is of {size} px, and its {names} lies outside", where=shown(path)
        )
    file = MapFile(os.path.relpath(path, other.parent), "", manifest.pages[0].maps[COLOR].kind)
    page = Page(image.size, {COLOR: file}, manifest.pages[0].alpha)
    manifest = replace(manifest, pages=(page,), made=None)
    sequence = _frames_of(options, work, manifest, other)._replace(stem=path.stem, origin=None)
    cuts, origin = _as_cut(manifest, other)
    return TakenApart(sequence, manifest.cells_in_rows(), cuts, origin)


def _opened(options: SliceOptions, path: Path) -> Sequence[FrameSource]:
    images = open_image(path, max_pixels=options.pixel_limit)
    if len(images) > 1:
        raise UsageError(f"{path}: an animated image of {len(images)} frames, not a sheet; see kivel sheet")
    return images


def _by_pieces(options: SliceOptions, path: Path, on_found: OnFound) -> TakenApart:
    (image,) = _opened(options, path)
    sheet = image.load()
    found: tuple[FoundWay, ...] = ()
    with located(shown(path)):
        divided = divided_as_stated(options, sheet)
        if divided is None:
            found, look = found_ways(sheet, options.key, options.empty)
            on_found(sheet, found)
            divided = divided_by_look(options, sheet, found, look, source=str(path))
        cut = cut_apart(image, sheet, divided, empty=options.empty)
    maps = [_map_pieces(options, request, path, cut) for request in options.map_requests()]
    sequence = cut.sequence._replace(maps=tuple(maps))
    cuts = tuple(CutFrom(piece.rect, 0, piece.offset) for piece in cut.pieces)
    return TakenApart(sequence, [piece.place for piece in cut.pieces], cuts, _origin(path, cut), found)


def _origin(path: Path, cut: Cut) -> Origin:
    lattice = cut.divided.grid
    grid = None
    if lattice is not None and lattice.is_whole:
        cell = Size(int(lattice.across.cell), int(lattice.down.cell))
        grid = GridInfo(lattice.columns, lattice.rows, cell, Pair(*lattice.gap), Pair(*lattice.at), lattice.fill)
    return Origin(str(path), (cut.sheet,), grid, cut.divided.key)


def _map_pieces(options: SliceOptions, request: MapRequest, path: Path, cut: Cut) -> MapFrames:
    """The same pieces of a sheet of another map."""
    (sheet,) = map_sheets(request, [path])
    (image,) = _opened(options, sheet)
    with located(str(sheet)):
        return same_pieces(image, cut, request)
