"""Where the frames of a sheet go: back where they were, or in a new grid of cells; and putting them there."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from kivel.core.errors import option
from kivel.core.layout.page import PageRule
from kivel.core.layout.sheet_plan import plan_sheet
from kivel.core.layout.spacing import Spacing
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pair, Size
from kivel.core.wording import counted
from kivel.making.options.sheet_options import SheetOptions
from kivel.making.sheets.layouts import pivoted, step_of
from kivel.making.sheets.page_palettes import shared_palettes
from kivel.making.sheets.pages import PageGround, PageLook, put_pages, whole_frame
from kivel.making.sheets.placed_back import PlacedBack, back_in_rows
from kivel.making.sheets.sheet_again import sheet_again
from kivel.making.sheets.sheet_cells import cells_for, grid_info, place_in_cells

if TYPE_CHECKING:
    from pathlib import Path

    from kivel.core.layout.placement import Placement
    from kivel.core.layout.sheet_plan import SheetRequest
    from kivel.core.pixels.pixels import Size
    from kivel.files.images import FrameSource
    from kivel.files.manifest.model import GridInfo, Page
    from kivel.files.page_store import PageArrays, PageFiles
    from kivel.making.sheets.layouts import Gathered
    from kivel.making.sheets.pages import PageGround
    from kivel.making.work import Work
    from kivel.sequences.map_frames import MapFrames

__all__ = ["SheetLayout", "as_before", "painted", "planned"]


class SheetLayout(NamedTuple):
    """Frames and maps, where each lies on which page, in which row and column, and what is under them.

    `replaces` is a file of which all is there again.
    """

    frames: list[FrameSource]
    maps: list[MapFrames]
    pages: tuple[Size, ...]
    placements: tuple[Placement, ...]
    places: list[tuple[int, int]]
    grid: GridInfo | None
    ground: PageGround
    replaces: Path | None = None


def painted(
    options: SheetOptions, work: Work, store: PageArrays | PageFiles, layout: SheetLayout, *, premultiplied: bool
) -> tuple[Page, ...]:
    """Put the pixels of all frames and maps on their pages."""
    grid = layout.grid
    palettes = shared_palettes(layout.maps, options.indexed, work.note)
    look = PageLook(grid.skirt if grid else 0, bool(grid and grid.wrap), premultiplied, layout.ground, palettes)
    with work.progress("reading frames", len(layout.frames) * len(layout.maps)) as advance:
        return put_pages(
            store, layout.pages, layout.maps, layout.placements, look,
            load=whole_frame, jobs=options.threads, advance=advance,
        )  # fmt: skip


def as_before(options: SheetOptions, work: Work, found: Gathered) -> SheetLayout | None:
    """The layout of the sheet that the frames were sliced from, unless one is stated."""
    if len(found.sequences) == 1 and options.states_spacing_alone:
        return _rows_apart(options, work, found)
    if len(found.sequences) > 1 or options.states_layout:
        return None
    (sequence,) = found.sequences
    again = sheet_again(options, work, sequence, found.maps)
    if again is None:
        return None
    frames, back = pivoted(options, found.sequences, list(sequence.frames)), again.back
    places = [(place.page * back.pages[0].h + place.rect.y, place.rect.x) for place in back.placements]
    return SheetLayout(
        frames, found.maps, back.pages, back.placements, places, _on_pages(back), again.ground, again.unchanged
    )


def _rows_apart(options: SheetOptions, work: Work, found: Gathered) -> SheetLayout | None:
    """Rows that are clips, as far apart as is stated; None where they are none."""
    (sequence,) = found.sequences
    sheet = sequence.sheet
    grid, step = sheet and sheet.sliced_from.grid, step_of(found.maps)
    if not sheet or not sheet.cuts or not grid or len(sheet.sliced_from.pages) > 1:
        return None
    spacing = _spacing_now(options, grid, step)
    between, start = spacing.gap + 2 * spacing.skirt, spacing.margin + spacing.skirt
    around = replace(
        grid, gap=Pair(between, between), margin=Pair(start, start), skirt=spacing.skirt, wrap=_wraps(options, grid)
    )
    back = back_in_rows(sequence.frames, sheet.cuts, sequence.clips, grid, around)
    if back is None or any(side % step for place in back.placements for side in place.rect):
        return None
    work.note(f"{counted(grid.rows, 'row')} as before, one clip each")
    frames = pivoted(options, found.sequences, list(sequence.frames))
    places = [(place.rect.y, place.rect.x) for place in back.placements]
    return SheetLayout(frames, found.maps, back.pages, back.placements, places, _on_pages(back), PageGround())


def _on_pages(back: PlacedBack) -> GridInfo | None:
    return back.grid and back.grid.on_pages(back.pages)


def _spacing_now(options: SheetOptions, grid: GridInfo, step: int) -> Spacing:
    """Return what lies between, around and beside cells of a grid that there was; what is stated takes its place."""
    stated = options.spacing(parts=step)
    skirt = options.skirt if options.given("skirt") else grid.skirt
    gap = options.gap if options.given("gap") else max(0, max(grid.gap) - 2 * grid.skirt)
    margin = options.margin if options.given("margin") else max(0, max(grid.margin) - grid.skirt)
    return stated._replace(gap=gap, margin=margin, skirt=skirt)


def _wraps(options: SheetOptions, grid: GridInfo | None) -> bool | None:
    return options.skirt_wrap or bool(grid and grid.wrap and not options.given("skirt")) or None


def planned(options: SheetOptions, work: Work, found: Gathered) -> SheetLayout:
    """A grid of cells that hold the frames."""
    cells = cells_for(options, work, found)
    frames = pivoted(options, found.sequences, cells.frames)
    request, before = options.request(len(found.sequences), step_of(cells.maps)), None
    if cells.columns:
        request = request._replace(columns=cells.columns, rows=cells.rows, rule=PageRule(exact=options.fit_page))
    else:
        before = _grid_before(options, found)
        request = _in_the_same_grid(options, work, found, request)
    plan = plan_sheet([len(sequence.frames) for sequence in found.sequences], cells.cell, request)
    if plan.pages > 1 and plan.grid.capacity == 1 and options.page_limit:
        twice = Size(2 * plan.grid.cell.w + plan.grid.gap.x, plan.grid.cell.h)
        more = Size(twice.w + 2 * plan.grid.margin.x, twice.h + 2 * plan.grid.margin.y)
        work.note(f"each page holds one frame; {option('page-limit', more)} would hold two of {cells.cell} px")
    if plan.grid.cell != cells.cell:
        why = "columns and rows divide the page evenly" if options.divided else "each begins on its own mip texel"
        work.note(f"cells grow from {cells.cell} to {plan.grid.cell} px, so that {why}")
    placements = tuple(place_in_cells(frames, plan, options.align, step=step_of(cells.maps)))
    corners = [(slot.page, plan.grid.cell_rect(slot.cell)) for slot in plan.slots()]
    return SheetLayout(
        frames,
        cells.maps,
        (plan.page,) * plan.pages,
        placements,
        [(page * plan.page.h + cell.y, cell.x) for page, cell in corners],
        grid_info(plan, skirt=request.spacing.skirt, wrap=bool(_wraps(options, before))),
        PageGround(),
    )


def _grid_before(options: SheetOptions, found: Gathered) -> GridInfo | None:
    """The grid that the frames were sliced from, unless another one is stated."""
    sheet = found.sequences[0].sheet if len(found.sequences) == 1 else None
    if sheet is None or (options.states_layout and not options.states_spacing_alone):
        return None
    return sheet.sliced_from.grid


def _in_the_same_grid(options: SheetOptions, work: Work, found: Gathered, request: SheetRequest) -> SheetRequest:
    """Return the layout for sliced frames whose number has changed: as many to a line, as far apart."""
    grid, sheet = _grid_before(options, found), found.sequences[0].sheet
    if sheet is None or grid is None:
        return request
    request = request._replace(spacing=_spacing_now(options, grid, step_of(found.maps)), fill=grid.fill)
    lines = counted(grid.rows, "row") if grid.fill == "down" else counted(grid.columns, "column")
    all_here = sheet.cuts and not sheet.gone
    which = "frames or maps no longer fit their places" if all_here else "not all frames of the sheet"
    work.note(f"{lines} as before" if options.states_layout else f"{which}: {lines} as before")
    return request._replace(rows=grid.rows) if grid.fill == "down" else request._replace(columns=grid.columns)
