"""A sheet as a profile wants it: its pages copied, referred to, or laid out again, and what it lacks written out."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from kivel.core.errors import KivelError, UsageError, located, option
from kivel.core.exporting.layer_plan import layer_plan
from kivel.core.exporting.name_patterns import filled_name
from kivel.core.exporting.playback_table import PlaybackTable
from kivel.core.exporting.texture_places import texture_place
from kivel.core.layout.grid import Grid
from kivel.core.motion.motion_forms import MotionForm, reformed
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Fade
from kivel.core.pixels.pixels import NO_PAIR, Pixels, Rect, Size
from kivel.core.playback.clip import Clip, Step
from kivel.core.playback.groups import Group, groups_of
from kivel.core.room import require_room
from kivel.files.manifest.names import COLOR
from kivel.files.png.write import encode_png
from kivel.files.profile_file import ProfileFile
from kivel.files.safety import file_bytes
from kivel.making.exports.exported_sheets import ExportedSheet
from kivel.making.playback.manifests import relative_to
from kivel.sequences.placed import stated_motion

__all__ = ["PackedSheet", "group_of", "packed_sheets"]

_MOST_FILE_BYTES = 1 << 32
_MOST_CELLS = 10_000


class PackedSheet(NamedTuple):
    """A sheet in a pack: its name, the clip where each clip has a page of its own, and all that is known of it.

    `images` are the names of pages in the pack by map and number; `files` are those that are written there.
    """

    name: str
    clip: str | None
    path: Path
    table: PlaybackTable
    images: dict[str, list[str]]
    files: dict[str, bytes]
    groups: tuple[Group, ...]
    others: Sequence[Clip]
    where: str
    faded: tuple[Fade, ...] = ()

    @property
    def grid(self) -> Grid | None:
        return self.table.sheet_grid


class _Cells(NamedTuple):
    """Holds what a new page shows: the frame of each cell (None for nothing), and clips that count cells."""

    clip: Clip | None
    frames: tuple[int | None, ...]
    clips: tuple[Clip, ...]


def packed_sheets(sheet: ExportedSheet, file: ProfileFile, pack: Path, *, with_files: bool = True) -> list[PackedSheet]:
    """Return what becomes of a sheet: one, or one for each clip; its pages only `with_files`.

    Raises
    ------
    KivelError
        If a page cannot be copied or laid out as the profile says.
    """
    if file.profile.image.layout == "keep":
        return [_kept(sheet, file, pack, with_files=with_files)]
    return [_laid_out(sheet, file, pack, cells, with_files=with_files) for cells in _cells(sheet, file)]


def _kept(sheet: ExportedSheet, file: ProfileFile, pack: Path, *, with_files: bool) -> PackedSheet:
    """Pages as they are: copied byte for byte, or referred to where they lie."""
    image, manifest = file.profile.image, sheet.manifest
    images: dict[str, list[str]] = {}
    files: dict[str, bytes] = {}
    moved = relative_to(pack)
    for kind in _wanted_maps(sheet, file):
        rule = image.file if kind == COLOR else file.profile.maps[kind].file
        for number, page in enumerate(manifest.pages):
            source = sheet.path.parent / page.maps[kind].file
            if rule is None:
                images.setdefault(kind, []).append(moved(str(source)))
                continue
            name = _named(sheet, file, rule, kind, number, None)
            if Path(name).suffix.lower() != source.suffix.lower():
                raise UsageError(
                    f"{source}: is copied to {name!r}, a different file type; use a layout, or the same ending"
                )
            images.setdefault(kind, []).append(name)
            if not with_files:
                continue
            form = None if kind == COLOR else file.profile.maps[kind].motion_form()
            if form is None:
                files[name] = file_bytes(source, most=_MOST_FILE_BYTES)
            else:
                files[name] = _reformed_page(sheet, file, kind, number, form)
    table = sheet.table(sheet.clips, pack)
    groups, others = manifest.groups, sheet.others
    return PackedSheet(
        sheet.name, None, sheet.path, table, images, files, groups, others, str(sheet.path), manifest.faded or ()
    )


def _cells(sheet: ExportedSheet, file: ProfileFile) -> Iterator[_Cells]:
    image, lacks = file.profile.image, file.profile.lacks
    if image.each == "sheet":
        yield _Cells(None, tuple(range(len(sheet.manifest.frames))), tuple(sheet.clips))
        return
    for clip in sheet.clips:
        if image.cells == "frames":
            used = clip.own_frames
            renumbered = clip.renumbered({frame: cell for cell, frame in enumerate(used)})
            yield _Cells(clip, used, (renumbered,))
            continue
        equal = lacks.unequal_holds == "write-out"
        frames, holds, timebase = _written_out(clip, sheet.others, equal=equal)
        if len(frames) > _MOST_CELLS:
            raise UsageError(
                f'{sheet.path}: clip "{clip.name}": its holds would make {len(frames)} cells, above {_MOST_CELLS}'
            )
        steps = tuple(Step(cell, hold) for cell, hold in enumerate(holds))
        events = () if equal or clip.order() != tuple(range(len(clip.steps))) else clip.events
        flat = replace(
            clip,
            steps=steps,
            timebase=timebase,
            direction="normal",
            phase=Fraction(0) if equal else clip.phase % 1,
            events=events,
            frames=None,
        )
        yield _Cells(clip, frames, (flat,))


def _written_out(
    clip: Clip, others: Sequence[Clip], *, equal: bool
) -> tuple[tuple[int | None, ...], tuple[int, ...], Fraction]:
    """The frames that show one after the other, how many ticks each, and the ticks a second."""
    if equal:
        plan = layer_plan(replace(clip, repeat="forever", then=None), others)
        return plan.frames, (1,) * len(plan.frames), 1 / plan.seconds
    order = clip.cycle()
    first = int(clip.phase)
    turned = order[first:] + order[:first]
    return tuple(step.frame for step in turned), tuple(step.hold for step in turned), clip.timebase


def _laid_out(sheet: ExportedSheet, file: ProfileFile, pack: Path, cells: _Cells, *, with_files: bool) -> PackedSheet:
    """Frames on a page of equal cells, as deep as they are."""
    clip = cells.clip.name if cells.clip else None
    canvases = [sheet.manifest.frames[number].canvas for number in cells.frames if number is not None]
    cell = Size(max(size[0] for size in canvases), max(size[1] for size in canvases))
    grid = _grid(file, len(cells.frames), cell)
    require_room(*grid.size, what="page", limit=sheet.options.pixel_limit)
    images: dict[str, list[str]] = {}
    files: dict[str, bytes] = {}
    for kind in _wanted_maps(sheet, file):
        rule = file.profile.image.file if kind == COLOR else file.profile.maps[kind].file
        assert rule is not None
        name = _named(sheet, file, rule, kind, 0, clip)
        if Path(name).suffix.lower() != ".png":
            raise UsageError(f"{name!r}: with a layout, pages are PNG; the name must end in .png")
        images[kind] = [name]
        if not with_files:
            continue
        form = None if kind == COLOR else file.profile.maps[kind].motion_form()
        files[name] = _page(sheet, cells.frames, grid, kind, form and _reformer(sheet, file, kind, form))
    groups, others = sheet.manifest.groups, sheet.others
    table = _table(sheet, pack, cells, grid)
    where = f'{sheet.path}: clip "{clip}"' if clip else str(sheet.path)
    return PackedSheet(
        sheet.name, clip, sheet.path, table, images, files, groups, others, where, sheet.manifest.faded or ()
    )


def _grid(file: ProfileFile, count: int, cell: Size) -> Grid:
    image = file.profile.image
    columns, rows = {"row": (count, 1), "column": (1, count)}.get(image.layout, (image.columns, image.rows))
    if columns is None and rows is None:
        columns = _squarest(count)
    columns = columns or -(-count // (rows or 1))
    rows = rows or -(-count // columns)
    if columns * rows < count:
        place = ("image", "rows")
        raise file.error(place, f"{count} frames do not fit {columns} columns x {rows} rows")
    return Grid(columns, rows, cell, NO_PAIR, NO_PAIR, image.fill)


def _squarest(count: int) -> int:
    return int(np.ceil(np.sqrt(count)))


def _reformer(sheet: ExportedSheet, file: ProfileFile, kind: str, form: MotionForm) -> Callable[[Pixels], Pixels]:
    """Gives frames of a map of motion in another form."""
    motion = stated_motion(sheet.manifest, kind)
    if motion is None:
        raise UsageError(
            f'{sheet.path}: nothing says what the vectors of its map "{kind}" mean, which {file.path.name} wants '
            "otherwise; kivel sheet with "
            f"{option('motion', True)} makes one that says it"
        )
    parts = sheet.manifest.pages[0].maps[kind].parts

    def reform(image: Pixels) -> Pixels:
        with located(str(sheet.path)):
            return reformed(image, motion, form, parts=parts)

    return reform


def _reformed_page(sheet: ExportedSheet, file: ProfileFile, kind: str, number: int, form: MotionForm) -> bytes:
    """A page of motion in another form, its frames where they are."""
    reform = _reformer(sheet, file, kind, form)
    page, parts = sheet.manifest.pages[number], sheet.manifest.pages[0].maps[kind].parts
    frames = {index: frame for index, frame in enumerate(sheet.manifest.frames) if frame.page == number}
    if any(frame.turn or frame.flip for frame in frames.values()):
        raise UsageError(f"{sheet.path}: motion of turned frames cannot be changed; pack without rotation")
    images = {index: reform(sheet.map_frame(index, kind)) for index in frames}
    dtype = np.result_type(np.uint8, *(image.dtype for image in images.values()))
    whole = np.zeros((page.size.h // parts, page.size.w // parts, 4), dtype)
    for index, frame in frames.items():
        rect = Rect(*(value // parts for value in frame.rect))
        x, y = (value // parts for value in frame.offset)
        rect.of(whole)[:] = images[index][y : y + rect.h, x : x + rect.w]
    return b"".join(encode_png(whole, compress="small", jobs=sheet.options.threads))


def _page(
    sheet: ExportedSheet,
    frames: Sequence[int | None],
    grid: Grid,
    kind: str,
    reform: Callable[[Pixels], Pixels] | None = None,
) -> bytes:
    """Frames in cells, unchanged or `reform`."""
    parts = sheet.manifest.pages[0].maps[kind].parts
    images = {number: sheet.map_frame(number, kind) for number in sorted({one for one in frames if one is not None})}
    if reform:
        images = {number: reform(image) for number, image in images.items()}
    dtype = np.result_type(*(image.dtype for image in images.values()))
    if dtype == np.float32:
        raise KivelError(
            f'the map "{kind}" is OpenEXR, which can be copied but not laid out; use layout = "keep"',
            where=str(sheet.path),
        )
    width, height = grid.size
    page: Pixels = np.zeros((height // parts, width // parts, 4), dtype)
    for cell, number in enumerate(frames):
        if number is not None:
            rect = grid.cell_rect(cell)
            image = images[number]
            x, y = rect.x // parts, rect.y // parts
            page[y : y + image.shape[0], x : x + image.shape[1]] = image
    return b"".join(encode_png(page, compress="small", jobs=sheet.options.threads))


def _table(sheet: ExportedSheet, pack: Path, cells: _Cells, grid: Grid) -> PlaybackTable:
    """The table of the new page."""
    table = sheet.table((), pack)
    frames = []
    for cell, number in enumerate(cells.frames):
        old = table.frames[number if number is not None else 0]
        rect = grid.cell_rect(cell)._replace(w=old.canvas.w, h=old.canvas.h)
        place = texture_place(rect, grid.size, table.origin, half_texel=table.half_texel)
        new = old._replace(page=0, rect=rect, turn=0, flip="", offset=NO_PAIR, place=place)
        frames.append(new.in_cell_of(grid))
    pages = (table.pages[0]._replace(size=grid.size),)
    motion = table.motion
    if motion:
        pairs = motion.motion.chosen([0 if number is None else number for number in cells.frames])
        motion = motion._replace(motion=pairs)
    clips = sheet.tables(cells.clips)
    return table._replace(
        pages=pages, frames=tuple(frames), grid=None, clips=clips, motion=motion, sheet_grid=grid,
        groups=groups_of(sheet.manifest.groups, cells.clips),
    )  # fmt: skip


def _wanted_maps(sheet: ExportedSheet, file: ProfileFile) -> list[str]:
    """The colour and the maps that the profile has a place for."""
    rules, there = file.profile.maps, set.intersection(*(set(page.maps) for page in sheet.manifest.pages))
    for name, rule in rules.items():
        if rule.required and name not in there:
            raise UsageError(
                f'{sheet.path}: there is no map "{name}", and {file.path.name} needs one; make it with one'
            )
    return [COLOR, *(name for name in rules if name in there)]


def _named(sheet: ExportedSheet, file: ProfileFile, rule: str, kind: str, page: int, clip: str | None) -> str:
    fields = {
        "name": sheet.name,
        "folder": sheet.path.absolute().parent.name,
        "clip": clip,
        "group": group_of(sheet.manifest.groups, clip),
        "map": kind,
        "page": str(page + file.profile.units.first_index),
    }
    try:
        return filled_name(rule, fields)
    except UsageError as error:
        raise UsageError(f"{file.path.name}: {rule!r}: {error}", where=str(sheet.path)) from error


def group_of(groups: Sequence[Group], clip: str | None) -> str | None:
    """The first group that a clip is in."""
    return next((group.name for group in groups if clip in group.members), None)
