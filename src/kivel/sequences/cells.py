"""Taking an image apart by a grid."""

from __future__ import annotations

from kivel.core.layout.grid import Grid
from kivel.core.pixels import Pixels, Rect
from kivel.core.slicing.fitting import SliceRequest, fit_grid, frame_count
from kivel.files.images import FrameSource, ImageError
from kivel.sequences.sequence import Frames

__all__ = ["cells_of_image"]


def cells_of_image(image: FrameSource, request: SliceRequest, *, keep_empty: bool) -> tuple[Frames, Grid]:
    """The cells of a plain image as frames; the empty ones after the last drawn one only with `keep_empty`.

    Raises
    ------
    LayoutError
        If the image does not divide into the grid.
    ImageError
        If nothing is drawn on it.
    """
    grid = fit_grid(image.size, request)
    sheet = image.load()
    if not keep_empty and not sheet[..., 3].any():
        raise ImageError(
            "every pixel is transparent, nothing is drawn on it; pass --keep-empty to slice it all the same"
        )
    count = grid.capacity if keep_empty else frame_count(sheet, grid)
    frames = tuple(_cell_frame(image, sheet, grid.cell_rect(index), index) for index in range(count))
    dropped = grid.capacity - count
    notes = [f"{dropped} empty cell{'s' if dropped > 1 else ''} at the end left out; --keep-empty keeps them"]
    return Frames(image.path.stem, frames, tuple(notes if dropped else ())), grid


def _cell_frame(image: FrameSource, sheet: Pixels, cell: Rect, index: int) -> FrameSource:
    return image._replace(
        name=f"{image.path.stem}_{index:04d}",
        source=f"{image.path.name}#{index}",
        size=cell.size,
        load=lambda: cell.of(sheet),
    )
