"""Frames in equal cells: scaled to them, placed in them, and the manifest that says where everything is."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import TYPE_CHECKING, Literal

from kivel.core.errors import option
from kivel.core.layout.page import LayoutError
from kivel.core.layout.placement import Placement
from kivel.core.layout.sheet_plan import SheetPlan
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Align
from kivel.core.pixels.pixels import Rect, Size, aligned_offset
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, GridInfo
from kivel.making.options.sheet_options import SheetOptions
from kivel.making.sheets.layouts import (
    all_frames,
    regathered,
    step_of,
)
from kivel.sequences.sequence import require_straight

if TYPE_CHECKING:
    from kivel.core.layout.placement import Placement
    from kivel.core.pixels.pixels import Pixels, Size
    from kivel.files.images import FrameSource
    from kivel.files.manifest.model import GridInfo, Manifest
    from kivel.files.output_set import Written
    from kivel.making.sheets.layouts import Gathered
    from kivel.making.work import Work
    from kivel.sequences.made_motion import MotionMade
    from kivel.sequences.map_frames import MapFrames
    from kivel.sequences.reconciling.frame_edits import FrameEdit

__all__ = [
    "SheetMade",
    "cells_for",
    "frame_place",
    "grid_info",
    "place_in_cells",
    "placed_in_cell",
    "scaled_alike",
    "scaled_to_cell",
    "thinned_to_page",
]


class SheetMade(NamedTuple):
    """A sheet: the files and what became of each, its manifest, and the number of the first frame that was put there.

    `images` are its pages by name where nothing was written. `motion` is the map of motion, if one was asked for.
    `edits` are what was done to the frames since a manifest said something of them.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    first: int
    notes: tuple[str, ...]
    images: dict[str, Pixels]
    motion: MotionMade | None = None
    edits: tuple[FrameEdit, ...] = ()


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
    """Return what a manifest says of a whole frame that lies upright on a page."""
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


def grid_info(plan: SheetPlan, *, skirt: int, wrap: bool) -> GridInfo:
    """Return what a manifest says of the grid."""
    grid = plan.grid
    return GridInfo(
        columns=grid.columns,
        rows=grid.rows,
        cell=grid.cell,
        gap=grid.gap,
        margin=grid.margin,
        fill=grid.fill,
        skirt=skirt,
        wrap=wrap or None,
    ).on_pages([plan.page])


class Cells(NamedTuple):
    """Frames and maps as they lie in cells of one size; `columns` and `rows` where a page to be fitted settles them."""

    frames: list[FrameSource]
    maps: list[MapFrames]
    cell: Size
    columns: int | None = None
    rows: int | None = None


def cells_for(options: SheetOptions, work: Work, found: Gathered, *, cell: Size | None = None) -> Cells:
    """The frames as they lie in cells, scaled where that is asked for, and the maps likewise.

    Cells are as large as `cell` says, else as the options do, else as the largest frame.
    """
    frames = list(all_frames(found.sequences))
    if options.fit_page:
        return _fitting(options, work, found, frames, options.fit_page)
    cell = cell or options.cell or _largest(frames)
    if options.scale_to_cell:
        return _scaled(options, work, found, frames, cell)
    sizes = list(dict.fromkeys(sequence.frames[0].size for sequence in found.sequences))
    if len(sizes) > 1:
        work.note(f"frames of {', '.join(map(str, sizes))} px share cells of {cell}")
    return Cells(frames, found.maps, cell)


def _largest(frames: list[FrameSource]) -> Size:
    return Size(max(frame.size.w for frame in frames), max(frame.size.h for frame in frames))


_SETS_TIMES = ("holds", "length", "speed", "pace", "order")
"""Options by which a clip lasts as they say."""


def thinned_to_page(options: SheetOptions, work: Work, found: Gathered, page: Size) -> Gathered:
    """As many frames of each sequence as fit the page, evenly spaced; they last as long as all did."""
    from kivel.core.layout.choices import thinned_lengths  # only for a page to be fitted, as below
    from kivel.making.frames.resampled_frames import thinned

    request = options.request(len(found.sequences), step_of(found.maps))
    lengths = [len(sequence.frames) for sequence in found.sequences]
    cell = _largest(list(all_frames(found.sequences)))
    kept = thinned_lengths(lengths, cell, page, request)
    if kept is None:
        raise LayoutError(f"not even one frame of {cell} px fits a page of {page}; use {option('fit-by', 'scale')}")
    if kept == lengths:
        work.note(f"all {sum(lengths)} frames fit {page} at their own size")
        return found
    timing = [options.timing(sequence.clip_name) for sequence in found.sequences]
    parts = [
        thinned(sequence, count, one_shot=said.repeat not in (None, "forever"))
        for sequence, count, said in zip(found.sequences, kept, timing, strict=True)
    ]
    stated = any(options.given(name) for name in _SETS_TIMES)
    for part, before, said in zip(parts, lengths, timing, strict=True):
        numbers = ", ".join(str(number) for number in part.numbers)
        lasting = "as long as before" if said.says_nothing and not stated else "at the stated times"
        work.note(f"{part.stem}: {len(part.frames)} of {before} frames, {lasting}: {numbers}")
    work.note(*(note for part in parts for note in part.notes))
    return regathered(parts)


def _fitting(options: SheetOptions, work: Work, found: Gathered, frames: list[FrameSource], page: Size) -> Cells:
    """The frames in the largest cells with which all fit the page; never larger than they are."""
    from kivel.core.layout.choices import largest_cell

    step = step_of(found.maps)
    request = options.request(len(found.sequences), step)
    lengths = [len(sequence.frames) for sequence in found.sequences]
    whole = _largest(frames)
    fitting = largest_cell(lengths, whole, page, request, step=step)
    if fitting is None:
        by = f" divided by {request.columns or 'any'} x {request.rows or 'any'}" if options.divided else ""
        raise LayoutError(f"{len(frames)} frames do not fit a page of {page} px{by} at any size; make it larger")
    rows = fitting.rows if options.divided else None
    if fitting.cell.w < whole.w or fitting.cell.h < whole.h:
        scaled = _scaled(options, work, found, frames, fitting.cell, within=whole)
        return scaled._replace(columns=fitting.columns, rows=rows)
    if not options.divided:
        work.note(f"{len(frames)} frames fit {page} at their own size; cells of {fitting.cell} would")
    return Cells(frames, found.maps, whole, fitting.columns, rows)


def _scaled(
    options: SheetOptions,
    work: Work,
    found: Gathered,
    frames: list[FrameSource],
    cell: Size,
    *,
    within: Size | None = None,
) -> Cells:
    """The frames scaled to the cell; with a size `within` which they lie, all by the share that it needs."""
    sizes = scaled_alike(frames, within, cell, step_of(found.maps)) if within else scaled_to_cell(frames, cell)
    scaled = [frame._replace(size=size) for frame, size in zip(frames, sizes, strict=True)]
    changes = dict.fromkeys(f"{a.size} to {b.size}" for a, b in zip(frames, scaled, strict=True) if a.size != b.size)
    if changes:
        for sequence in found.sequences:
            require_straight(sequence, option("fit-page" if within else "scale-to-cell"))
        work.note(f"frames scaled to the cell ({options.scale_to_cell or 'smooth'}): {', '.join(changes)} px")
    how: Literal["nearest"] | None = "nearest" if options.scale_to_cell == "nearest" else None
    return Cells(scaled, [one.resized(sizes, how) for one in found.maps], cell)
