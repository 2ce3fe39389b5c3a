"""Sheets: frames in equal cells on pages, with their manifest."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.core.errors import option
from kivel.core.layout.page import PageRule
from kivel.core.layout.sheet_plan import plan_sheet
from kivel.core.layout.spacing import Spacing
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size
from kivel.core.wording import counted
from kivel.files.manifest.model import Manifest
from kivel.files.manifest.names import manifest_beside
from kivel.making.options.sheet_options import SheetOptions
from kivel.making.playback.manifests import kept_keys, made_by
from kivel.making.playback.rebuilt import rebuilt_at
from kivel.making.sheets.layouts import (
    add_manifest,
    all_groups,
    gathered,
    images_of,
    maps_reduced,
    page_store,
    pivoted,
    stated_clips,
    step_of,
)
from kivel.making.sheets.pages import PageGround, PageLook, check_page, put_pages, whole_frame
from kivel.making.sheets.sheet_again import sheet_again
from kivel.making.sheets.sheet_cells import (
    SheetMade,
    cells_for,
    frame_place,
    grid_info,
    place_in_cells,
    thinned_to_page,
)
from kivel.sequences.clips import ClipSet, stated_holds
from kivel.sequences.named_clips import clips_of, row_clips
from kivel.sequences.sequence import common_alpha, require_straight

if TYPE_CHECKING:
    from collections.abc import Mapping
    from pathlib import Path
    from typing import Any

    from kivel.core.layout.placement import Placement
    from kivel.core.layout.sheet_plan import SheetRequest
    from kivel.core.pixels.pixels import Size
    from kivel.core.playback.clip import Clip
    from kivel.files.images import FrameSource
    from kivel.files.manifest.model import GridInfo, Manifest, Page
    from kivel.files.output_set import OutputSet
    from kivel.files.page_store import PageArrays, PageFiles
    from kivel.making.sheets.layouts import Gathered
    from kivel.making.sheets.pages import PageGround
    from kivel.making.work import Work
    from kivel.sequences.clips import ClipSet
    from kivel.sequences.made_motion import MotionMade
    from kivel.sequences.map_frames import MapFrames
    from kivel.sequences.sequence import FrameSequence

__all__ = ["SheetLayout", "as_before", "make_sheet", "painted", "planned"]


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


def make_sheet(options: SheetOptions, work: Work) -> SheetMade:
    """Make a sheet, or add to one.

    Raises
    ------
    KivelError
        What the options, the sources, the layout or the disk do not allow; nothing is written then.
    """
    if options.into:
        from kivel.making.sheets.sheet_into import sheet_into  # which needs what is made here

        return sheet_into(options, work)
    if options.edits:
        from kivel.making.sheets.sheet_edited import sheet_edited  # which needs what is made here

        return sheet_edited(options, work)
    with options.output_set(work) as out:
        if options.out:
            out.check(options.target)
        content = _content(options, work, out)
        layout = as_before(options, work, content.found) or planned(options, work, content.found)
        clips = _clips_over(options, work, out, content, layout)
        rebuilt = rebuilt_at(options, work, options.target if options.out else None, "sheet")
        maps, reduced = maps_reduced(options, work, layout.maps, premultiplied=content.premultiplied)
        maps[0], seen = rebuilt.watched(maps[0])
        store = page_store(options, out, len(layout.pages), work, "sheet")
        pages = painted(options, work, store, layout._replace(maps=maps), premultiplied=content.premultiplied)
        work.note(*(one.note() for one in reduced))
        clips = rebuilt.clips(clips, seen(layout.frames))
        manifest = Manifest(
            pages=pages,
            grid=layout.grid,
            frames=tuple(map(frame_place, layout.frames, layout.placements)),
            clips=clips.clips,
            groups=clips.groups,
            made=made_by("sheet", options, manifest_beside(options.target)),
            extra=dict(content.extra),
        )
        manifest = rebuilt.manifest(manifest)
        work.note(*add_manifest(options, out, manifest, store))
    return SheetMade(
        tuple(out.written), manifest, 0, tuple(work.notes), images_of(store), content.motion, tuple(work.edits)
    )


class _Content(NamedTuple):
    """What is to be laid out: frames and maps, the clips over them, and what else is known of them."""

    found: Gathered
    clips: ClipSet
    motion: MotionMade | None
    premultiplied: bool
    extra: Mapping[str, Any]


def _content(options: SheetOptions, work: Work, out: OutputSet) -> _Content:
    """Gather the frames, as many as there are to be."""
    found = gathered(options, work, keep_float=options.keeps_float, stated=options.states_layout)
    if options.fit_page and options.fit_by == "thin":
        found = thinned_to_page(options, work, found, options.fit_page)
    out.reads(found.files())
    if options.out:
        out.check(options.target)
    premultiplied = common_alpha(found.sequences)
    clips = stated_clips(options, work, clips_of(found.sequences, options.timing, options.clip_requests()))
    extra, notes = kept_keys(found.sequences)
    work.note(*notes)
    # before cells are counted: this changes how many frames there are
    found, clips = _other_frames(options, work, found, clips)
    motion = None
    if options.motion:
        from kivel.making.sheets.sheet_motion import with_motion  # loads what fits motion, a fifth of a second

        found, clips, motion = with_motion(options, work, found, clips)
    return _Content(found, clips, motion, premultiplied, extra)


def _clips_over(options: SheetOptions, work: Work, out: OutputSet, content: _Content, layout: SheetLayout) -> ClipSet:
    """The clips of a sheet whose layout stands, after it has passed its limits."""
    for page in layout.pages:
        check_page(page, layout.maps)
    if layout.replaces and options.out and layout.replaces.resolve() == options.target.resolve():
        out.may_replace(options.target)
    clips = content.clips
    if options.row_clips:
        clips = stated_clips(options, work, _row_clips(options, content.found.sequences, layout))
    return clips._replace(groups=all_groups(clips, options))


def painted(
    options: SheetOptions, work: Work, store: PageArrays | PageFiles, layout: SheetLayout, *, premultiplied: bool
) -> tuple[Page, ...]:
    """Put the pixels of all frames and maps on their pages."""
    grid = layout.grid
    look = PageLook(grid.skirt if grid else 0, bool(grid and grid.wrap), premultiplied, layout.ground)
    with work.progress("reading frames", len(layout.frames) * len(layout.maps)) as advance:
        return put_pages(
            store, layout.pages, layout.maps, layout.placements, look,
            load=whole_frame, jobs=options.threads, advance=advance,
        )  # fmt: skip


def as_before(options: SheetOptions, work: Work, found: Gathered) -> SheetLayout | None:
    """The layout of the sheet that the frames were sliced from, unless one is stated."""
    if len(found.sequences) > 1 or options.states_layout:
        return None
    (sequence,) = found.sequences
    again = sheet_again(options, work, sequence, found.maps)
    if again is None:
        return None
    frames, back = pivoted(options, found.sequences, list(sequence.frames)), again.back
    places = [(place.page * back.pages[0].h + place.rect.y, place.rect.x) for place in back.placements]
    return SheetLayout(
        frames, found.maps, back.pages, back.placements, places, back.grid, again.ground, again.unchanged
    )


def planned(options: SheetOptions, work: Work, found: Gathered) -> SheetLayout:
    """A grid of cells that hold the frames."""
    cells = cells_for(options, work, found)
    frames = pivoted(options, found.sequences, cells.frames)
    request = options.request(len(found.sequences), step_of(cells.maps))
    if cells.columns:
        request = request._replace(columns=cells.columns, rule=PageRule(exact=options.fit_page))
    else:
        request = _in_the_same_grid(options, work, found, request)
    plan = plan_sheet([len(sequence.frames) for sequence in found.sequences], cells.cell, request)
    if plan.pages > 1 and plan.grid.capacity == 1 and options.page_limit:
        twice = Size(2 * plan.grid.cell.w + plan.grid.gap.x, plan.grid.cell.h)
        more = Size(twice.w + 2 * plan.grid.margin.x, twice.h + 2 * plan.grid.margin.y)
        work.note(f"each page holds one frame; {option('page-limit', more)} would hold two of {cells.cell} px")
    if plan.grid.cell != cells.cell:
        grown = f"cells grow from {cells.cell} to {plan.grid.cell} px"
        work.note(f"{grown}, so that each begins on a mip texel of its own")
    placements = tuple(place_in_cells(frames, plan, options.align, step=step_of(cells.maps)))
    corners = [(slot.page, plan.grid.cell_rect(slot.cell)) for slot in plan.slots()]
    return SheetLayout(
        frames,
        cells.maps,
        (plan.page,) * plan.pages,
        placements,
        [(page * plan.page.h + cell.y, cell.x) for page, cell in corners],
        grid_info(plan, skirt=options.skirt, wrap=options.skirt_wrap),
        PageGround(),
    )


def _in_the_same_grid(options: SheetOptions, work: Work, found: Gathered, request: SheetRequest) -> SheetRequest:
    """Of frames that were sliced from a grid and are not as many any more: as many to a line, as far apart."""
    sheet = found.sequences[0].sheet if len(found.sequences) == 1 else None
    grid = sheet.origin.grid if sheet else None
    if sheet is None or grid is None or options.states_layout:
        return request
    spacing = Spacing(max(grid.gap), max(grid.margin))
    request = request._replace(spacing=spacing, fill=grid.fill)
    all_here = sheet.cuts and not sheet.gone
    which = "frames or maps do not fit where they were sliced" if all_here else "not all the frames that were sliced"
    if grid.fill == "down":
        work.note(f"{which}: {counted(grid.rows, 'row')} as before")
        return request._replace(rows=grid.rows)
    work.note(f"{which}: {counted(grid.columns, 'column')} as before")
    return request._replace(columns=grid.columns)


def _other_frames(options: SheetOptions, work: Work, found: Gathered, clips: ClipSet) -> tuple[Gathered, ClipSet]:
    """More frames between those that there are, or each picture once, that play as was asked for."""
    if not (options.inbetween or options.fold):
        return found, clips
    from kivel.making.sheets.other_frames import GatheredClips, blended_between, each_picture_once

    gathered = GatheredClips(found, clips.clips)
    if options.inbetween:
        for sequence in found.sequences:
            require_straight(sequence, option("inbetween"))
        before = gathered.frames
        gathered = blended_between(gathered, options.inbetween)
        blended = counted(gathered.frames - before, "blended frame")
        work.note(f"{blended} between {before}, premultiplied, in linear light; holds are divided")
    if options.fold:
        with work.progress("comparing frames", gathered.frames) as advance:
            mirror = options.fold == "alternate"
            gathered, notes = each_picture_once(gathered, mirror=mirror, jobs=options.threads, advance=advance)
        work.note(*notes)
    return gathered.found, clips._replace(clips=gathered.clips)


def _row_clips(options: SheetOptions, sequences: list[FrameSequence], layout: SheetLayout) -> ClipSet:
    holds = [hold for sequence in sequences for hold in stated_holds(sequence)]
    found: tuple[Clip, ...] = row_clips(options.row_clips, layout.places, holds, options.timing)
    return ClipSet(found)
