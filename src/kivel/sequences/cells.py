"""Taking an image apart by a grid."""

from __future__ import annotations

from typing import Literal, NamedTuple, get_args

from kivel.core.contents import content_of
from kivel.core.errors import option
from kivel.core.layout.grid import Grid
from kivel.core.pixels import Pixels, Rect, Size
from kivel.core.slicing.fitting import SliceRequest, fit_grid, frame_count
from kivel.core.wording import counted
from kivel.files.images import FrameSource, ImageError
from kivel.sequences.map_frames import MapError, MapFrames
from kivel.sequences.pairing import MapRequest
from kivel.sequences.sequence import FrameSequence

__all__ = ["EMPTY_CELLS", "Cut", "EmptyCells", "cells_of_image", "same_cells"]

EmptyCells = Literal["drop-last", "drop", "keep"]
EMPTY_CELLS: tuple[EmptyCells, ...] = get_args(EmptyCells)
"""What becomes of transparent cells: those after the last drawn one go, all go, or all stay."""


class Cut(NamedTuple):
    """An image taken apart: the frames, the grid, the cell that each frame comes from, and the size of it all."""

    sequence: FrameSequence
    grid: Grid
    cells: tuple[int, ...]
    sheet: Size


def cells_of_image(image: FrameSource, request: SliceRequest, *, empty: EmptyCells) -> Cut:
    """The cells of a plain image as frames.

    Raises
    ------
    LayoutError
        If the image does not divide into the grid.
    ImageError
        If nothing is drawn on it.
    """
    grid = fit_grid(image.size, request)
    sheet = image.load()
    if empty != "keep" and not sheet[..., 3].any():
        raise ImageError(
            "every pixel is transparent, nothing is drawn on it; "
            f"pass {option('empty', 'keep')} to slice it all the same"
        )
    cells = _kept(sheet, grid, empty)
    frames = tuple(_cell_frame(image, sheet, grid.cell_rect(cell), number) for number, cell in enumerate(cells))
    dropped = grid.capacity - len(cells)
    where = " at the end" if empty == "drop-last" else ""
    note = f"{counted(dropped, 'empty cell')}{where} left out; {option('empty', 'keep')} keeps them"
    return Cut(FrameSequence(image.path.stem, frames, notes=(note,) if dropped else ()), grid, cells, image.size)


def same_cells(image: FrameSource, cut: Cut, request: MapRequest) -> MapFrames:
    """The cells of a companion map's sheet that are those of the colour's.

    Raises
    ------
    MapError
        If the sheet is not as large.
    """
    first = cut.sequence.frames[0]
    expected = cut.sheet
    if image.size != expected:
        raise MapError(f"map {request.name}: {image.size} px, the sheet has {expected}; render it again")
    sheet = image.load()
    cells = [cut.grid.cell_rect(cell) for cell in cut.cells]
    frames = tuple(_cell_frame(image, sheet, cell, number) for number, cell in enumerate(cells))
    content = request.content or content_of(request.name)
    return MapFrames(request.name, content, frames, (first.size,) * len(frames), image.depth)


def _kept(sheet: Pixels, grid: Grid, empty: EmptyCells) -> tuple[int, ...]:
    if empty == "drop":
        return tuple(cell for cell in range(grid.capacity) if grid.cell_rect(cell).of(sheet)[..., 3].any())
    return tuple(range(grid.capacity if empty == "keep" else frame_count(sheet, grid)))


def _cell_frame(image: FrameSource, sheet: Pixels, cell: Rect, number: int) -> FrameSource:
    return image._replace(
        name=f"{image.path.stem}_{number:04d}",
        source=f"{image.path.name}#{number}",
        size=cell.size,
        load=lambda: cell.of(sheet),
    )
