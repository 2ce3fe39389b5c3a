"""The sheet that frames were sliced from, made again: every frame where it was, all else as it was."""

from __future__ import annotations

import os
from collections.abc import Sequence
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

if TYPE_CHECKING:
    from kivel.making.options.sheet_options import SheetOptions
    from kivel.making.work import Work
    from kivel.sequences.map_frames import MapFrames
    from kivel.sequences.sequence import CutSheet, FrameSequence

__all__ = ["SheetAgain", "sheet_again"]


class SheetAgain(NamedTuple):
    """The pages' sizes, where each frame goes, the grid if there was one, and what lies under the frames.

    `unchanged` is the file of the sheet, if it still has the pixels that were sliced: all of them are here.
    """

    pages: tuple[Size, ...]
    placements: tuple[Placement, ...]
    grid: GridInfo | None
    ground: PageGround
    unchanged: Path | None


def sheet_again(
    options: SheetOptions, work: Work, sequence: FrameSequence, maps: Sequence[MapFrames]
) -> SheetAgain | None:
    """The layout that the frames were sliced from; None where they were not, or some have grown.

    Where some are gone their places are left empty, unless there was one grid: there the others close up.
    """
    sheet = sequence.sheet
    if sheet is None or not sheet.cuts or (sheet.gone and sheet.origin.grid):
        return None
    cuts = [cut for cut in sheet.cuts if cut]
    if len(cuts) < len(sheet.cuts):
        return None
    placements = tuple(Placement(cut.page, cut.rect, Rect(*cut.offset, *cut.rect.size)) for cut in cuts)
    fits = all(place.box.fits(frame.size) for place, frame in zip(placements, sequence.frames, strict=True))
    if not fits or not _divide(placements, sheet.origin.pages, step_of(maps)):
        return None
    _tell_what_is_lost(work, sequence.frames, placements)
    origin = sheet.origin
    where = shown(_file_of(sheet))
    work.note(f"laid out as {where} was; {option('columns')}, or what else a layout has, lays it out anew")
    overlap = _overlap(placements)
    before = _as_it_was(options, work, sheet, maps[0].dtype)
    cleared = [place.rect for place in placements] if overlap else []
    pages = () if before is None else (_without_frames(before, origin.key, [*cleared, *(c.rect for c in sheet.gone)]),)
    unchanged = before is not None and not sheet.gone and pixel_digest(before) == origin.digest
    if sheet.gone:
        work.note(f"{counted(len(sheet.gone), 'frame')} deleted since they were sliced, left empty on the sheet")
    return SheetAgain(
        origin.pages,
        placements,
        _grid_on(origin.grid, origin.pages),
        PageGround(pages, origin.key, overlap),
        _file_of(sheet) if unchanged else None,
    )


def _divide(placements: Sequence[Placement], pages: Sequence[Size], step: int) -> bool:
    """Whether every place is one on smaller maps, too."""
    sides = chain(*pages, *(place.rect for place in placements), *(place.box for place in placements))
    return all(side % step == 0 for side in sides)


def _grid_on(grid: GridInfo | None, pages: Sequence[Size]) -> GridInfo | None:
    """The grid, if its last cells are not short of a pixel: then it is none that could be made."""
    if grid is None:
        return None
    size = grid.cells().size
    reach = Rect(0, 0, size.w - grid.margin.x, size.h - grid.margin.y)
    return grid if all(reach.fits(page) for page in pages) else None


def _tell_what_is_lost(work: Work, frames: Sequence[FrameSource], placements: Sequence[Placement]) -> None:
    """What was painted beside the box that a frame had on the sheet has no place there."""
    lost = []
    for frame, place in zip(frames, placements, strict=True):
        if place.box.size != frame.size:
            alpha = frame.load()[..., 3].copy()
            place.box.of(alpha)[...] = 0
            lost += [frame.name] if alpha.any() else []
    if lost:
        work.note(f"what is painted beside the box that it had on the sheet is left out: {first_few(lost)}")


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
    if len(sheet.origin.pages) > 1:
        return None
    try:
        images = open_image(path, max_pixels=options.pixel_limit)
        page = images[0].load() if len(images) == 1 else None
    except KivelError:
        page = None
    if page is None or size_of(page) != sheet.origin.pages[0] or page.dtype != dtype:
        work.note(f"{shown(path)} is not there as it was: what lay between the frames is left empty")
        return None
    return page


def _without_frames(page: Pixels, key: KeyColour | None, cleared: Sequence[Rect]) -> Pixels:
    """What lay under the frames; what the `cleared` boxes show is taken away."""
    page = without_key(page, key).copy()
    for rect in cleared:
        part = rect.of(page)
        part[part[..., 3] > 0] = 0
    return page


def _file_of(sheet: CutSheet) -> Path:
    return Path(os.path.normpath(sheet.folder / sheet.origin.file))
