"""Frames in equal cells: scaled to them, placed in them, and the manifest that says where everything is."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from kivel.core.errors import option
from kivel.core.layout.page import LayoutError
from kivel.core.layout.placement import Placement
from kivel.core.layout.sheet_plan import SheetPlan
from kivel.core.pixels.pixels import Align, Rect, Size, aligned_offset
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, GridInfo

__all__ = ["frame_place", "grid_info", "place_in_cells", "placed_in_cell", "scaled_alike", "scaled_to_cell"]


def place_in_cells(frames: Sequence[FrameSource], plan: SheetPlan, align: Align, *, step: int = 1) -> list[Placement]:
    """Where each frame's pixels go: aligned in its cell, at a multiple of `step` pixels from its corner.

    Raises
    ------
    LayoutError
        If a frame is larger than a cell.
    """
    return [
        placed_in_cell(frame, slot.page, plan.grid.cell_rect(slot.cell), align, step)
        for frame, slot in zip(frames, plan.slots(), strict=True)
    ]


def placed_in_cell(frame: FrameSource, page: int, cell: Rect, align: Align, step: int = 1) -> Placement:
    """Where a frame's pixels go in one cell; raises `LayoutError` if it is larger."""
    if frame.size.w > cell.w or frame.size.h > cell.h:
        raise LayoutError(
            f"{frame.source}: {frame.size} px does not fit a cell of {cell.size}; "
            f"pass {option('cell', frame.size)} or more, or {option('scale-to-cell')}"
        )
    x, y = aligned_offset(frame.size, cell.size, align)
    x, y = x - x % step, y - y % step
    return Placement(page, Rect(cell.x + x, cell.y + y, *frame.size), Rect(0, 0, *frame.size))


def scaled_to_cell(frames: Sequence[FrameSource], cell: Size) -> list[Size]:
    """The size of each frame scaled into a cell, its aspect kept."""
    shares = [min(Fraction(cell.w, frame.size.w), Fraction(cell.h, frame.size.h)) for frame in frames]
    return [
        Size(max(1, round(frame.size.w * share)), max(1, round(frame.size.h * share)))
        for frame, share in zip(frames, shares, strict=True)
    ]


def scaled_alike(frames: Sequence[FrameSource], within: Size, cell: Size, step: int) -> list[Size]:
    """The size of each frame where one of size `within` fills the cell, in multiples of `step` and no larger."""
    share = min(Fraction(cell.w, within.w), Fraction(cell.h, within.h))
    return [
        Size(
            *(
                min(most, max(step, round(length * share / step) * step))
                for length, most in zip(f.size, cell, strict=True)
            )
        )
        for f in frames
    ]


def frame_place(frame: FrameSource, place: Placement) -> FramePlace:
    """What a manifest says of a whole frame that lies upright on a page."""
    return FramePlace(
        name=frame.name,
        source=frame.source,
        page=place.page,
        rect=place.rect,
        turn=0,
        canvas=frame.size,
        offset=(place.box.x, place.box.y),
        pivot=frame.pivot,
        extra=dict(frame.extra or {}),
    )


def grid_info(plan: SheetPlan, *, skirt: int) -> GridInfo:
    """What a manifest says of the grid."""
    grid = plan.grid
    return GridInfo(
        columns=grid.columns,
        rows=grid.rows,
        cell=grid.cell,
        gap=grid.gap,
        margin=grid.margin,
        fill=grid.fill,
        skirt=skirt,
    )
