"""Pictures taken apart by the named rectangles of a regions file, which is brought up to date when they changed."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import option
from kivel.core.layout.page import LayoutError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Rect, Size, aligned_offset, size_of
from kivel.core.slicing.background import SEEN, KeyColour, drawn_part, is_key_like, lies_around, without_key
from kivel.core.slicing.islands import found_islands, in_rows
from kivel.core.slicing.picture_pieces import Piece
from kivel.core.slicing.regions import FoundAgain, Region, found_again, is_as_it_looked, look_of, moved_regions
from kivel.core.wording import counted, first_few
from kivel.files.regions_file import ImageRegions, RegionsFile, new_regions_text, read_regions
from kivel.files.safety import shown
from kivel.making.playback.manifests import relative_to
from kivel.sequences.cut import Cut, Divided

if TYPE_CHECKING:
    from kivel.files.output_set import OutputSet, Written
    from kivel.making.options.groups.cut_options import CutOptions

__all__ = ["RegionsText", "add_regions", "divided_by_regions", "parted", "saved_regions"]


class RegionsText(NamedTuple):
    """Holds what a regions file is to say; one that is brought up to date `replaces` what it said."""

    path: Path
    text: str
    replaces: bool


def divided_by_regions(options: CutOptions, image: Pixels, path: Path) -> tuple[Divided, RegionsText | None]:
    """The pieces that the regions of a picture are, and what the file is to say of them if that changes.

    Raises
    ------
    KivelError
        If the file cannot be read, says nothing of this picture, or a region is not inside it.
    """
    file = read_regions(Path(options.regions or ""))
    key = drawn_part(image, options.key).key
    if key and options.key == "find":
        size = size_of(image)
        key = key if is_key_like(key, image) and lies_around(image, key, [Rect(0, 0, size.w, size.h)]) else None
    if not options.find_again:
        if not options.as_written:
            _require_unmoved(options, image, file.of(path, size_of(image)).regions, file, key)
        return _as_pieces(options, file.of(path, size_of(image)).regions, file)._replace(key=key), None
    of = _known(file, path)
    found = _found(options, image, of, path)
    skipped = 0 if options.find_new else len(found.new)
    found = found if options.find_new else found._replace(new=())
    text = file.changed(of, found.kept, found.new)
    divided = _as_pieces(options, (*found.kept, *found.new), file)._replace(key=key)
    changed = RegionsText(file.path, text, replaces=True) if text != file.file.text else None
    add = option("find-new", True)
    notes = [f"{counted(skipped, 'shape')} without a region skipped; {add} takes them, too"] if skipped else []
    return divided._replace(notes=(*_told(found), *notes, *divided.notes)), changed


def saved_regions(options: CutOptions, image: Pixels, cut: Cut, path: Path) -> RegionsText:
    """Return what was found, as a new regions file."""
    target = Path(options.save_regions or "")
    keyed = without_key(image, cut.divided.key)
    regions = [
        Region(frame.name, piece.rect, look=look_of(keyed, piece.rect))
        for frame, piece in zip(cut.sequence.frames, cut.pieces, strict=True)
    ]

    return RegionsText(target, new_regions_text(relative_to(target.parent)(str(path)), regions), replaces=False)


def _require_unmoved(
    options: CutOptions, image: Pixels, regions: Sequence[Region], file: RegionsFile, key: KeyColour | None
) -> None:
    """Nothing that the regions of a picture were of lies elsewhere in it now, unchanged."""
    keyed = without_key(image, key)
    if all(region.lost or not region.look or is_as_it_looked(keyed, region) for region in regions):
        return  # as it mostly is
    above = SEEN if options.visible_above is None else (options.visible_above + 1) / 255
    islands = found_islands(drawn_part(image, options.key, seen_above=above).seen, join=options.join)
    moved = moved_regions(keyed, regions, islands.boxes)
    if moved:
        told = [f"{name} from {was.x},{was.y} to {now.x},{now.y}" for name, (was, now) in moved.items()]
        raise LayoutError(
            f"has changed since {shown(file.path)} was written: {first_few(told)}; "
            f"{option('find-again', True)} updates the file, {option('as-written', True)} cuts at the old places"
        )


def _known(file: RegionsFile, path: Path) -> ImageRegions:
    """The regions of the picture, which may have been larger."""
    return file.of(path, Size(1 << 31, 1 << 31))


def _found(options: CutOptions, image: Pixels, of: ImageRegions, path: Path) -> FoundAgain:
    above = SEEN if options.visible_above is None else (options.visible_above + 1) / 255
    drawn = drawn_part(image, options.key, seen_above=above)
    if drawn.is_full:
        raise LayoutError("it is fully opaque: moved regions are found by the empty pixels around them")
    islands = found_islands(drawn.seen, join=options.join, least=options.least)
    return found_again(without_key(image, drawn.key), of.regions, islands.boxes, stem=path.stem)


def _told(found: FoundAgain) -> list[str]:
    notes = [
        f"{what}: {first_few(list(names))}" for what, names in (("moved", found.moved), ("grown", found.grown)) if names
    ]
    if found.new:
        notes.append(f"new: {first_few([region.name for region in found.new])}")
    if found.lost:
        notes.append(f"lost, and marked as lost in the file: {first_few(list(found.lost))}")
    return notes


def _as_pieces(options: CutOptions, regions: tuple[Region, ...], file: RegionsFile) -> Divided:
    """A piece for each region that is not lost."""
    there = tuple(region for region in regions if not region.lost)
    if not there:
        raise LayoutError(f"{shown(file.path)} has only lost regions of it")
    order, rows = in_rows([region.rect for region in there])
    places = {
        number: (row, place - rows.index(row)) for place, (number, row) in enumerate(zip(order, rows, strict=True))
    }
    canvas = Size(max(region.rect.w for region in there), max(region.rect.h for region in there))
    pieces = []
    for number, region in enumerate(there):
        offset = aligned_offset(region.rect.size, canvas, options.align) if options.align else (0, 0)
        size = canvas if options.align else region.rect.size
        pieces.append(Piece(region.rect, size, offset, places[number]))
    lost = [region.name for region in regions if region.lost]
    notes = (f"lost regions skipped: {first_few(lost)}",) if lost and not options.find_again else ()
    return Divided(tuple(pieces), regions=there, notes=notes)


def add_regions(out: OutputSet, saves: RegionsText | None) -> None:
    """Write what a regions file is to say with a command's other files, as one set.

    One that is there is replaced where it is brought up to date.
    """
    if saves is None:
        return
    if saves.replaces:
        out.may_replace(saves.path)
    out.add(saves.path, [saves.text.encode()])


def parted(files: Sequence[Written], saves: RegionsText | None) -> tuple[tuple[Written, ...], tuple[Written, ...]]:
    """The files of a set, and the regions file among them by itself."""
    regions = [file for file in files if saves and file.path == saves.path]
    return tuple(file for file in files if file not in regions), tuple(regions)
