"""Atlases: frames trimmed and packed on pages, with their manifest."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import first_few
from kivel.files.manifest.model import Manifest
from kivel.files.manifest.names import manifest_beside
from kivel.making.atlases.atlas_pages import atlas_places, packed_frames
from kivel.making.atlases.trimmed import Kept, trimmed
from kivel.making.options.atlas_options import AtlasOptions
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
from kivel.making.sheets.page_palettes import shared_palettes
from kivel.making.sheets.pages import PageLook, put_pages
from kivel.sequences.named_clips import clips_of
from kivel.sequences.sequence import all_fades, common_alpha

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels, Size
    from kivel.files.images import FrameSource
    from kivel.files.manifest.model import Manifest, Page
    from kivel.files.output_set import Written
    from kivel.files.page_store import PageArrays, PageFiles
    from kivel.making.atlases.atlas_pages import PackedFrames
    from kivel.making.atlases.trimmed import Trimmed
    from kivel.making.sheets.layouts import Gathered
    from kivel.making.work import Work
    from kivel.sequences.clips import ClipSet
    from kivel.sequences.map_frames import MapFrames
    from kivel.sequences.reconciling.frame_edits import FrameEdit

__all__ = ["AtlasFigures", "AtlasMade", "PageFigures", "make_atlas"]

_FAINT_ALPHA = 8
_WORTH_SAYING = 0.03


class PageFigures(NamedTuple):
    """A page: how many frames have pixels of their own on it, and the share of it that they cover."""

    size: Size
    packed: int
    used: float


class AtlasFigures(NamedTuple):
    """Holds what came of packing: frames in all, with pixels of their own, the same as others (`mirrored` ones among
    them).

    `trimmed_share` is the share of the canvases that is packed, `share_at_alpha_8` that which alpha above 8 would need.
    Unseen are square pixels that are rendered but not visible, by outlines and by boxes; None without outlines.
    """

    pages: tuple[PageFigures, ...]
    frames: int
    packed: int
    shared: int
    mirrored: int
    turned: int
    empty: int
    trimmed_share: float
    share_at_alpha_8: float
    outline_unseen: float | None
    box_unseen: float | None


class AtlasMade(NamedTuple):
    """An atlas: the files and what became of each, its manifest, and figures.

    `images` are its pages by name where nothing was written. `edits` are what was done to the frames since a manifest
    said something of them.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    figures: AtlasFigures
    notes: tuple[str, ...]
    images: dict[str, Pixels]
    edits: tuple[FrameEdit, ...] = ()


def make_atlas(options: AtlasOptions, work: Work) -> AtlasMade:
    """Make an atlas.

    Raises
    ------
    KivelError
        What the options, the sources, the layout or the disk do not allow; nothing is written then.
    """
    with options.output_set(work) as out:
        if options.out:
            out.check(options.target)
        align = options.align if options.given("align") else None
        found = gathered(options, work, keep_float=options.keeps_float, series=True, align=align)
        out.reads(found.files())
        if options.out:
            out.check(options.target)
        premultiplied = common_alpha(found.sequences)
        maps, reduced = maps_reduced(options, work, found.maps, premultiplied=premultiplied)
        frames = pivoted(options, found.sequences, [frame for frame in maps[0].frames if frame is not None])
        clips = _clips_over(options, work, found)
        rebuilt = rebuilt_at(options, work, options.target if options.out else None, "atlas")
        maps[0], seen = rebuilt.watched(maps[0])
        kept = Kept()
        with work.progress("measuring frames", len(frames)) as advance:
            request = options.trim_request(maps)._replace(outlined_together=_outlined_together(options, clips))
            looked_at = trimmed(maps, request, kept, jobs=options.threads, advance=advance)
        extra, notes = kept_keys(found.sequences)
        work.note(*notes, *_notes(options, frames, looked_at, maps))
        packed = packed_frames(frames, looked_at, options.request(step_of(maps)), maps)
        store = page_store(options, out, len(packed.pages), work, "atlas")
        pages = _painted(options, work, store, packed, maps, kept, premultiplied=premultiplied)
        work.note(*(one.note() for one in reduced))
        clips = rebuilt.clips(clips, seen(frames))
        manifest = Manifest(
            pages=pages,
            frames=atlas_places(frames, looked_at, packed.placements, pages),
            clips=clips.clips,
            groups=clips.groups,
            made=made_by("atlas", options, manifest_beside(options.target)),
            faded=all_fades(found.sequences) or None,
            extra=dict(extra),
        )
        manifest = rebuilt.manifest(manifest)
        work.note(*add_manifest(options, out, manifest, store))
    figures = _figures(frames, looked_at, packed)
    return AtlasMade(tuple(out.written), manifest, figures, tuple(work.notes), images_of(store), tuple(work.edits))


def _clips_over(options: AtlasOptions, work: Work, found: Gathered) -> ClipSet:
    clips = clips_of(found.sequences, options.timing, options.clip_requests(), only_moving=True)
    clips = stated_clips(options, work, clips)
    return clips._replace(groups=all_groups(clips, options))


def _outlined_together(options: AtlasOptions, clips: ClipSet) -> tuple[frozenset[int], ...]:
    """Return the frames that have one outline: those of a clip, and of all clips that have frames in common."""
    sets: list[frozenset[int]] = []
    for clip in clips.clips if options.outline_of == "clip" else ():
        joined = frozenset(clip.shown_frames)
        joined = joined.union(*(each for each in sets if each & joined))
        sets = [each for each in sets if not each & joined] + [joined]
    return tuple(sets)


def _painted(
    options: AtlasOptions,
    work: Work,
    store: PageArrays | PageFiles,
    packed: PackedFrames,
    maps: Sequence[MapFrames],
    kept: Kept,
    *,
    premultiplied: bool,
) -> tuple[Page, ...]:
    """Put what is kept of each frame on its page."""
    # frames that share the pixels of others are not placed, and need not be kept
    kept.keep_only(packed.packed)
    palettes = shared_palettes(maps, options.indexed, work.note)
    look = PageLook(options.skirt, options.skirt_wrap, premultiplied, palettes=palettes)
    with work.progress("placing frames", len(packed.packed) * len(maps)) as advance:
        return put_pages(
            store, [page.size for page in packed.pages], maps, packed.placements, look,
            load=kept.part, jobs=options.threads, advance=advance,
        )  # fmt: skip


def _notes(
    options: AtlasOptions, frames: Sequence[FrameSource], looked_at: Sequence[Trimmed], maps: Sequence[MapFrames]
) -> list[str]:
    """Return what trimming gave up, or could."""
    notes = []
    for one in maps:
        lost = [frame.name for frame, seen in zip(frames, looked_at, strict=True) if len(seen.grounds[one.name]) > 1]
        if lost and not options.visible_above and (one.name == "color" or options.trim_by == "all"):
            where = "" if one.name == "color" else f"map {one.name}: "
            left = f"{where}colour under alpha 0 outside the boxes is dropped ({first_few(lost)})"
            notes.append(f"{left}; {option('keep-hidden', True)} keeps it")
    boxes = sum(seen.box.w * seen.box.h for seen in looked_at if seen.box)
    tighter = sum(seen.tighter for seen in looked_at)
    exact = options.no_trim or options.keep_hidden
    if options.visible_above < _FAINT_ALPHA and not exact and tighter < boxes * (1 - _WORTH_SAYING):
        notes.append(f"boxes would be {1 - tighter / boxes:.0%} smaller with {option('visible-above', _FAINT_ALPHA)}")
    return notes


def _figures(frames: Sequence[FrameSource], looked_at: Sequence[Trimmed], packed: PackedFrames) -> AtlasFigures:
    canvases = sum(frame.size.w * frame.size.h for frame in frames)
    boxes = sum(seen.box.w * seen.box.h for seen in looked_at if seen.box)
    outlines = [seen.outline for seen in looked_at if seen.outline]
    placed = list(zip(packed.placements, looked_at, strict=True))
    return AtlasFigures(
        pages=tuple(PageFigures(page.size, len(page.places), page.used) for page in packed.pages),
        frames=len(frames),
        packed=len(packed.packed),
        shared=sum(place.shared for place, seen in placed if seen.box),
        mirrored=sum(place.flip is not None for place in packed.placements),
        turned=sum(place.turn == 90 for place in packed.placements),
        empty=sum(seen.box is None for seen in looked_at),
        trimmed_share=boxes / canvases,
        share_at_alpha_8=sum(seen.tighter for seen in looked_at) / canvases,
        outline_unseen=sum(outline.unseen for outline in outlines) if outlines else None,
        box_unseen=boxes - sum(outline.area - outline.unseen for outline in outlines) if outlines else None,
    )
