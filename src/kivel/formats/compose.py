"""Putting the pixels of frames on a page."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from kivel.core.layout.grid import Grid, LayoutError
from kivel.core.pixels import Align, Pixels, Rect, Size, aligned_offset, widened
from kivel.formats.frames import Frames
from kivel.formats.images import FrameSource
from kivel.formats.threads import in_order

__all__ = ["check_page", "compose_sheet", "place_in_cells"]

_DTYPES = {8: np.uint8, 16: np.uint16}


def place_in_cells(frames: Sequence[FrameSource], grid: Grid, align: Align) -> list[Rect]:
    """Where each frame's pixels go: aligned in its cell.

    Raises
    ------
    LayoutError
        If a frame is larger than a cell.
    """
    places: list[Rect] = []
    for index, frame in enumerate(frames):
        cell = grid.cell_rect(index)
        if frame.size.w > cell.w or frame.size.h > cell.h:
            raise LayoutError(
                f"{frame.source}: {frame.size} px does not fit a cell of {cell.size}; pass --cell {frame.size} or more"
            )
        x, y = aligned_offset(frame.size, cell.size, align)
        places.append(Rect(cell.x + x, cell.y + y, *frame.size))
    return places


def check_page(size: Size, max_pixels: int) -> None:
    """Raise `LayoutError` if a page would have more pixels than the limit, before anything is allocated."""
    if size.w * size.h > max_pixels:
        raise LayoutError(
            f"the sheet would have {size} px, more than the limit of {max_pixels:,} pixels; "
            "use fewer or smaller frames, or pass --max-pixels"
        )


def compose_sheet(
    frames: Frames, places: Sequence[Rect], size: Size, *, jobs: int, advance: Callable[[], None]
) -> Pixels:
    """The sheet's pixels, (H, W, 4) at the depth of the deepest frame, transparent where no frame is.

    Each frame is read, put in its place and let go, on `jobs` threads; `advance` is called after each.
    """
    page = np.zeros((size.h, size.w, 4), _DTYPES[frames.depth])

    def put(item: tuple[FrameSource, Rect]) -> None:
        frame, place = item
        place.of(page)[:] = widened(frame.load(), frames.depth)

    for _ in in_order(put, zip(frames.frames, places, strict=True), jobs=jobs):
        advance()
    return page
