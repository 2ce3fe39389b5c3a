"""Sheets: frames in equal cells on pages, with their manifest."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import FADES
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
    stated_clips,
)
from kivel.making.sheets.pages import check_page
from kivel.making.sheets.sheet_cells import (
    SheetMade,
    frame_place,
    thinned_to_page,
)
from kivel.making.sheets.sheet_layout import SheetLayout, as_before, painted, planned
from kivel.sequences.clips import ClipSet, stated_holds
from kivel.sequences.named_clips import clips_of, requested_clips, row_clips
from kivel.sequences.sequence import all_fades, common_alpha, require_straight

if TYPE_CHECKING:
    from collections.abc import Mapping
    from typing import Any

    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import OutputSet
    from kivel.making.sheets.layouts import Gathered
    from kivel.making.work import Work
    from kivel.sequences.clips import ClipSet
    from kivel.sequences.made_motion import MotionMade
    from kivel.sequences.sequence import FrameSequence

__all__ = ["make_sheet"]


def make_sheet(options: SheetOptions, work: Work) -> SheetMade:
    """Make a sheet, or add to one.

    Raises
    ------
    KivelError
        What the options, the sources, the layout or the disk do not allow; nothing is written then.
    """
    if options.into:
        from kivel.making.sheets.sheet_into import sheet_into  # few sheets are added to, or edited

        return sheet_into(options, work)
    if options.edits:
        from kivel.making.sheets.sheet_edited import sheet_edited

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
            faded=all_fades(content.found.sequences, *([options.fade] if options.inbetween else [])) or None,
            extra=dict(content.extra),
        )
        manifest = rebuilt.manifest(manifest)
        work.note(*add_manifest(options, out, manifest, store))
    return SheetMade(
        tuple(out.written), manifest, 0, tuple(work.notes), images_of(store), content.motion, tuple(work.edits)
    )


class _Content(NamedTuple):
    """Holds what is to be laid out: frames and maps, the clips over them, and what else is known of them."""

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
    """The clips of a sheet whose layout is settled, after it has passed its limits."""
    for page in layout.pages:
        check_page(page, layout.maps)
    if layout.replaces and options.out and layout.replaces.resolve() == options.target.resolve():
        out.may_replace(options.target)
    clips = content.clips
    if options.row_clips:
        clips = stated_clips(options, work, _row_clips(options, content.found.sequences, layout))
    return clips._replace(groups=all_groups(clips, options))


def _other_frames(options: SheetOptions, work: Work, found: Gathered, clips: ClipSet) -> tuple[Gathered, ClipSet]:
    """More frames between those that there are, or duplicates merged, that play as was asked for."""
    if not (options.inbetween or options.fold):
        return found, clips
    from kivel.making.sheets.other_frames import GatheredClips, blended_between, each_picture_once

    gathered = GatheredClips(found, clips.clips)
    if options.inbetween:
        for sequence in found.sequences:
            require_straight(sequence, option("inbetween"))
        before = gathered.frames
        gathered = blended_between(gathered, options.inbetween, fade=options.fade)
        blended = counted(gathered.frames - before, "blended frame")
        work.note(f"{blended} between {before}, premultiplied, {FADES[options.fade]}; holds are divided")
    if options.fold:
        with work.progress("comparing frames", gathered.frames) as advance:
            mirror = options.fold == "alternate"
            gathered, notes = each_picture_once(gathered, mirror=mirror, jobs=options.threads, advance=advance)
        work.note(*notes)
    return gathered.found, clips._replace(clips=gathered.clips)


def _row_clips(options: SheetOptions, sequences: list[FrameSequence], layout: SheetLayout) -> ClipSet:
    holds = [hold for sequence in sequences for hold in stated_holds(sequence)]
    rows = row_clips(options.row_clips, layout.places, holds, options.timing)
    return ClipSet(requested_clips(sequences, options.timing, options.clip_requests(), rows=rows))
