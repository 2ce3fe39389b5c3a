"""The sheet that frames were sliced from, made again: every frame where it was, all else as before."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from functools import partial
from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from kivel.core.digest import pixel_digest
from kivel.core.errors import KivelError, option
from kivel.core.layout.placement import Placement
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Rect, Size, size_of
from kivel.core.slicing.background import KeyColour, without_key
from kivel.core.wording import counted, first_few
from kivel.files.images import FrameSource, open_image
from kivel.files.manifest.model import GridInfo
from kivel.files.safety import shown
from kivel.making.sheets.layouts import step_of
from kivel.making.sheets.pages import PageGround
from kivel.making.sheets.placed_back import PlacedBack, back_in_place, back_in_rows

if TYPE_CHECKING:
    from kivel.files.manifest.model import SlicedFrom
    from kivel.making.options.sheet_options import SheetOptions
    from kivel.making.work import Work
    from kivel.sequences.map_frames import MapFrames
    from kivel.sequences.sequence import CutSheet, FrameSequence

__all__ = ["SheetAgain", "sheet_again"]


class SheetAgain(NamedTuple):
    """Where frames go on which pages, what lies under them, and the skirt around them.

    `unchanged` is the file of the sheet, if it still has the pixels that were sliced: all of them are here.
    """

    back: PlacedBack
    ground: PageGround
    unchanged: Path | None


def sheet_again(
    options: SheetOptions, work: Work, sequence: FrameSequence, maps: Sequence[MapFrames]
) -> SheetAgain | None:
    """The layout that the frames were sliced from; None where they were not, or where cells of one grid close up.

    Where there was no single grid, what was removed leaves its place empty, and what is new goes where there is room.
    Rows that are clips stay rows.
    """
    sheet = sequence.sheet
    if sheet is None or not sheet.cuts:
        return None
    was = sheet.sliced_from
    before = _as_it_was(options, work, sheet, maps[0].dtype)
    held = [*(cut.rect for cut in sheet.cuts if cut), *(cut.rect for cut in sheet.gone)]

    cleared = partial(_without_frames, key=was.key, held=held, skirt=_skirt_of(was))
    drawn = (lambda: cleared(before)) if before is not None else (lambda: None)
    back = _placed_back(sequence, sheet, drawn, step_of(maps))
    if back is None or not _divide(back, step_of(maps)):
        return None
    _tell(work, sheet, sequence.frames, back)
    overlap, as_it_was = _overlap(back.placements), not sheet.gone and not back.moved
    if before is None:
        return SheetAgain(back, PageGround((), was.key, overlap), None)
    # what is put in place covers what was there, but for what was around it
    is_covered = as_it_was and not overlap and not _skirt_of(was)
    under = without_key(before, was.key).copy() if is_covered else cleared(before)
    ground = PageGround((_on_page(under, back.pages[0]),), was.key, overlap)
    unchanged = as_it_was and pixel_digest(before) == was.digest
    return SheetAgain(back, ground, _file_of(sheet) if unchanged else None)


def _placed_back(
    sequence: FrameSequence, sheet: CutSheet, drawn: Callable[[], Pixels | None], step: int
) -> PlacedBack | None:
    was, frames = sheet.sliced_from, sequence.frames
    grid = was.grid
    if grid is None:
        return back_in_place(frames, sheet.cuts, sheet.gone, was.pages, drawn, step)
    cuts = [cut for cut in sheet.cuts if cut]
    boxes = [Rect(*cut.offset, *cut.rect.size) for cut in cuts]
    as_many = len(cuts) == len(sheet.cuts) and not sheet.gone
    if as_many and all(box.size == frame.size for box, frame in zip(boxes, frames, strict=True)):
        placements = tuple(Placement(cut.page, cut.rect, box) for cut, box in zip(cuts, boxes, strict=True))
        return PlacedBack(was.pages, placements, _grid_on(grid, was.pages))
    if len(was.pages) > 1 or _grid_on(grid, was.pages) is None:
        return None
    return back_in_rows(frames, sheet.cuts, sequence.clips, grid)


def _tell(work: Work, sheet: CutSheet, frames: Sequence[FrameSource], back: PlacedBack) -> None:
    where = shown(_file_of(sheet))
    work.note(f"same layout as {where}; to change it, use {option('columns')} or any other layout option")
    if sheet.gone and back.grid is None:
        places = "its cell stays" if len(sheet.gone) == 1 else "their cells stay"
        work.note(f"{counted(len(sheet.gone), 'frame')} removed, {places} empty")
    if back.moved:
        names = first_few([frames[number].name for number in back.moved])
        work.note(f"in a new place: {names}")
    if back.pages != sheet.sliced_from.pages:
        work.note(f"the sheet grows from {sheet.sliced_from.pages[-1]} to {back.pages[-1]} px")


def _skirt_of(was: SlicedFrom) -> int:
    return was.grid.skirt if was.grid else 0


def _divide(back: PlacedBack, step: int) -> bool:
    """Whether every place is one on smaller maps, too."""
    sides = chain(*back.pages, *(place.rect for place in back.placements), *(place.box for place in back.placements))
    return all(side % step == 0 for side in sides)


def _grid_on(grid: GridInfo | None, pages: Sequence[Size]) -> GridInfo | None:
    """The grid, if its last cells are not short of a pixel: then it is none that could be made."""
    if grid is None:
        return None
    size = grid.cells().size
    reach = Rect(0, 0, size.w - grid.margin.x, size.h - grid.margin.y)
    return grid if all(reach.fits(page) for page in pages) else None


def _overlap(placements: Sequence[Placement]) -> bool:
    """Whether the boxes of any two do, as those of islands may."""
    for page in {place.page for place in placements}:
        boxes = np.array([place.rect for place in placements if place.page == page])
        left, top, w, h = boxes.T
        across = np.minimum.outer(left + w, left + w) > np.maximum.outer(left, left)
        down = np.minimum.outer(top + h, top + h) > np.maximum.outer(top, top)
        if int((across & down).sum()) > len(boxes):
            return True
    return False


def _as_it_was(options: SheetOptions, work: Work, sheet: CutSheet, dtype: str) -> Pixels | None:
    """The sheet, if its file still is there and as large."""
    path = _file_of(sheet)
    if len(sheet.sliced_from.pages) > 1:
        return None
    try:
        images = open_image(path, max_pixels=options.pixel_limit)
        page = images[0].load() if len(images) == 1 else None
    except KivelError:
        page = None
    if page is None or size_of(page) != sheet.sliced_from.pages[0] or page.dtype != dtype:
        work.note(f"{shown(path)} is missing or was changed: the space between the frames is left empty")
        return None
    return page


def _without_frames(page: Pixels, key: KeyColour | None, held: Sequence[Rect], skirt: int) -> Pixels:
    """Return what lay under the frames and their skirts; what these boxes show is taken away."""
    page = without_key(page, key).copy()
    for rect in held:
        left, top = max(0, rect.x - skirt), max(0, rect.y - skirt)
        part = page[top : rect.bottom + skirt, left : rect.right + skirt]
        part[part[..., 3] > 0] = 0
    return page


def _on_page(under: Pixels, size: Size) -> Pixels:
    """Return what lies under the frames, on a page that may have grown."""
    if size_of(under) == size:
        return under
    page = np.zeros((max(size.h, under.shape[0]), max(size.w, under.shape[1]), 4), under.dtype)
    page[: under.shape[0], : under.shape[1]] = under
    return page[: size.h, : size.w].copy()


def _file_of(sheet: CutSheet) -> Path:
    return Path(os.path.normpath(sheet.folder / sheet.sliced_from.file))
