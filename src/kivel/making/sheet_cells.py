"""Sheets: sequences in equal cells, and the manifest that says where everything is and how it plays."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from fractions import Fraction

from kivel.core.layout.page import LayoutError
from kivel.core.layout.placement import Placement
from kivel.core.layout.sheet_plan import SheetPlan
from kivel.core.pixels import Align, Rect, Size, aligned_offset
from kivel.core.playback.clip import Clip
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, GridInfo, Group, Manifest, Page
from kivel.sequences.sequence import Frames

__all__ = ["all_frames", "place_in_cells", "placed_in_cell", "scaled_to_cell", "sheet_manifest"]


def all_frames(sequences: Sequence[Frames]) -> tuple[FrameSource, ...]:
    """The frames of all sequences; where names are the same, the sequence's own is put before them."""
    times = Counter(frame.name for sequence in sequences for frame in sequence.frames)
    return tuple(
        frame._replace(name=f"{sequence.stem}/{frame.name}") if times[frame.name] > 1 and len(sequences) > 1 else frame
        for sequence in sequences
        for frame in sequence.frames
    )


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
            f"pass --cell {frame.size} or more, or --scale-to-cell"
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


def sheet_manifest(
    frames: Sequence[FrameSource],
    placements: Sequence[Placement],
    plan: SheetPlan,
    pages: tuple[Page, ...],
    *,
    skirt: int,
    clips: tuple[Clip, ...],
    groups: tuple[Group, ...],
) -> Manifest:
    """The manifest of a sheet."""
    grid = plan.grid
    return Manifest(
        pages=pages,
        grid=GridInfo(grid.columns, grid.rows, grid.cell, grid.gap, grid.margin, grid.fill, skirt),
        frames=tuple(
            FramePlace(frame.name, frame.source, place.page, place.rect, 0, frame.size, (0, 0), frame.pivot)
            for frame, place in zip(frames, placements, strict=True)
        ),
        clips=clips,
        groups=groups,
    )
