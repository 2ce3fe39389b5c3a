"""Trim frames of any size and pack them tight on pages, with a manifest that puts every frame back where it was."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import first_few
from kivel.making.layouts import LayoutOptions
from kivel.making.options.layout_options import MapOptions, PageOptions, SpacingOptions
from kivel.making.options.option import Option
from kivel.making.options.source_options import MatchingOptions
from kivel.making.options.value_kinds import FLAG, choice, whole

if TYPE_CHECKING:
    from kivel.core.layout.packing import Effort
    from kivel.core.layout.paging import AtlasRequest, Paging
    from kivel.core.pixels import Pixels, Size
    from kivel.files.images import FrameSource
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.atlas_pages import PackedFrames
    from kivel.making.trimmed import Trimmed, TrimRequest
    from kivel.making.work import Work
    from kivel.sequences.map_frames import MapFrames

__all__ = ["AtlasFigures", "AtlasMade", "AtlasOptions", "PageFigures", "make_atlas"]

_DEFAULT_LIMIT = (4096, 4096)
_FAINT_ALPHA = 8
_WORTH_SAYING = 0.03
_FEWEST_POINTS, _MOST_POINTS = 3, 64
_MOST_ALPHA = 254


class AtlasOptions(LayoutOptions):
    """Frames of any size, packed."""

    title = "packing"
    everyday: ClassVar = (
        "out", "turn", "gap", "skirt", "page-limit", "pow2", "outline", "fps", "hold", "repeat", "order",
        "make-clip", "event", "map", "map-suffix", "pivot", "series", "compress", "fresh-clips",
    )  # fmt: skip
    turn: Option[bool] = Option(FLAG, "frames may lie turned by a quarter", default=False)
    align = MatchingOptions.align.but(
        help="frames of several sizes in one series: put on one canvas, so aligned",
        shown="each on its own canvas",
    )
    gap = SpacingOptions.gap.but(default=1, shown="1", group="packing")
    margin = SpacingOptions.margin.but(group="packing")
    skirt = SpacingOptions.skirt.but(group="packing")
    skirt_wrap = SpacingOptions.skirt_wrap.but(group="packing")
    mip_safe = SpacingOptions.mip_safe.but(group="packing")
    effort: Option[Effort] = Option(
        choice("quick", "normal", "high"),
        "how much is tried; never a clock, so that the result is the same everywhere",
        default="normal",
        shown="normal",
    )
    page_limit = PageOptions.page_limit.but(help="the largest page", shown="4096x4096")
    pages: Option[Paging] = Option(
        choice("fill", "balance", "together"),
        "of several: one full after the other (default), all about as full, or a folder's frames together",
        default="fill",
        group="page",
    )
    trim_by: Option[Literal["all", "color"]] = Option(
        choice("all", "color"),
        "the box of all maps together (default), or of color",
        default="all",
        group=MapOptions.title,
    )
    no_trim: Option[bool] = Option(FLAG, "pack whole frames", default=False, group="trimming and sharing")
    visible_above: Option[int] = Option(
        whole(0, _MOST_ALPHA),
        "alpha up to N, of 255, is cut off where it lies outside the rest",
        default=0,
        shown="0",
        group="trimming and sharing",
    )
    keep_hidden: Option[bool] = Option(
        FLAG, "keep all colour under alpha 0 (boxes grow to hold it)", default=False, group="trimming and sharing"
    )
    ignore_hidden: Option[bool] = Option(
        FLAG, "frames that differ only in colour under alpha 0 are the same", default=False,
        group="trimming and sharing",
    )  # fmt: skip
    share_flips: Option[bool] = Option(
        FLAG, "store mirrored frames once; the manifest says which", default=False, group="trimming and sharing"
    )
    outline: Option[int] = Option(
        whole(_FEWEST_POINTS, _MOST_POINTS),
        "a convex polygon of up to N points for each frame",
        default=0,
        group="trimming and sharing",
    )

    def check(self) -> None:
        super().check()
        if self.keep_hidden and (self.visible_above or self.ignore_hidden):
            others = f"{option('visible-above')} and {option('ignore-hidden', True)}"
            raise UsageError(f"{option('keep-hidden', True)} keeps what {others} give up; choose one")

    def request(self, parts: int) -> AtlasRequest:
        """What is asked of an atlas whose places are divided by `parts`."""
        from kivel.core.layout.paging import AtlasRequest
        from kivel.core.pixels import Size

        rule = self.page_rule()
        rule = rule._replace(limit=rule.limit or Size(*_DEFAULT_LIMIT))
        return AtlasRequest(
            spacing=self.spacing(parts=parts), rule=rule, turn=self.turn, effort=self.effort, paging=self.pages
        )

    def trim_request(self, maps: Sequence[MapFrames]) -> TrimRequest:
        """How the frames of these maps are trimmed."""
        from kivel.making.layouts import step_of
        from kivel.making.trimmed import TrimRequest

        if self.share_flips and any(one.content.name in ("normal", "normal-down", "motion") for one in maps):
            raise UsageError(
                f"{option('share-flips', True)}: mirroring would change the vectors; leave it out where there is a "
                "normal or motion map"
            )
        return TrimRequest(
            visible_above=self.visible_above,
            trim=not self.no_trim,
            by_color=self.trim_by == "color",
            keep_hidden=self.keep_hidden,
            hidden_counts=not self.ignore_hidden,
            share_flips=self.share_flips,
            step=step_of(maps),
            outline=self.outline,
        )


class PageFigures(NamedTuple):
    """A page: how many frames have pixels of their own on it, and the share of it that they cover."""

    size: Size
    packed: int
    used: float


class AtlasFigures(NamedTuple):
    """What came of packing: frames in all, with pixels of their own, the same as others (`mirrored` ones among them).

    `trimmed_share` is the share of the canvases that is packed, `share_at_alpha_8` that which alpha above 8 would need.
    Wasted are square pixels that are drawn but not visible, by outlines and by boxes; None without outlines.
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
    outline_wasted: float | None
    box_wasted: float | None


class AtlasMade(NamedTuple):
    """An atlas: the files and what became of each, its manifest, and figures.

    `images` are its pages by name where nothing was written.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    figures: AtlasFigures
    notes: tuple[str, ...]
    images: dict[str, Pixels]


def make_atlas(options: AtlasOptions, work: Work) -> AtlasMade:
    """Make an atlas.

    Raises
    ------
    KivelError
        What the options, the sources, the layout or the disk do not allow; nothing is written then.
    """
    from kivel.files.manifest.model import Manifest
    from kivel.files.manifest.names import manifest_beside
    from kivel.making.atlas_pages import atlas_places, packed_frames
    from kivel.making.fewer_colours import maps_in_few_colours
    from kivel.making.layouts import (
        add_manifest,
        all_groups,
        gathered,
        images_of,
        page_store,
        pivoted,
        stated_clips,
        step_of,
    )
    from kivel.making.manifests import kept_keys, made_by
    from kivel.making.pages import PageLook, put_pages
    from kivel.making.rebuilt import rebuilt_at
    from kivel.making.trimmed import Kept, trimmed
    from kivel.sequences.named_clips import clips_of
    from kivel.sequences.sequence import common_alpha

    with options.output_set(work) as out:
        if options.out:
            out.check(options.target)
        align = options.align if options.given("align") else None
        found = gathered(options, work, keep_float=options.keeps_float, series=True, align=align)
        out.reads(found.files())
        if options.out:
            out.check(options.target)
        premultiplied = common_alpha(found.sequences)
        maps, reduced = maps_in_few_colours(
            options, work, found.maps, premultiplied=premultiplied, jobs=options.threads
        )
        frames = pivoted(options, found.sequences, [frame for frame in maps[0].frames if frame is not None])
        clips = clips_of(found.sequences, options.timing, options.clip_requests(), only_moving=True)
        clips = stated_clips(options, work, clips)
        clips = clips._replace(groups=all_groups(clips, options))
        rebuilt = rebuilt_at(options, work, options.target if options.out else None, "atlas")
        clips = rebuilt.clips(clips, [frame.name for frame in frames])
        kept = Kept()
        request = options.request(step_of(maps))
        with work.progress("measuring frames", len(frames)) as advance:
            looked_at = trimmed(maps, options.trim_request(maps), kept, jobs=options.threads, advance=advance)
        extra, notes = kept_keys(found.sequences)
        work.note(*notes, *_notes(options, frames, looked_at, maps))
        packed = packed_frames(frames, looked_at, request, maps)
        # frames that share the pixels of others are not placed, and need not be kept
        kept.keep_only(packed.packed)
        look = PageLook(skirt=options.skirt, wrap=options.skirt_wrap, premultiplied=premultiplied)
        store = page_store(options, out, len(packed.pages), work, "atlas")
        with work.progress("placing frames", len(packed.packed) * len(maps)) as advance:
            pages = put_pages(
                store, [page.size for page in packed.pages], maps, packed.placements, look,
                load=kept.part, jobs=options.threads, advance=advance,
            )  # fmt: skip
        work.note(*(one.note() for one in reduced))
        manifest = Manifest(
            pages=pages,
            frames=atlas_places(frames, looked_at, packed.placements, pages),
            clips=clips.clips,
            groups=clips.groups,
            made=made_by("atlas", options, manifest_beside(options.target)),
            extra=dict(extra),
        )
        manifest = rebuilt.manifest(manifest)
        work.note(*add_manifest(options, out, manifest, store))
    figures = _figures(frames, looked_at, packed)
    return AtlasMade(tuple(out.written), manifest, figures, tuple(work.notes), images_of(store))


def _notes(
    options: AtlasOptions, frames: Sequence[FrameSource], looked_at: Sequence[Trimmed], maps: Sequence[MapFrames]
) -> list[str]:
    """What trimming gave up, or could."""
    notes = []
    for one in maps:
        lost = [frame.name for frame, seen in zip(frames, looked_at, strict=True) if len(seen.grounds[one.name]) > 1]
        if lost and not options.visible_above and (one.name == "color" or options.trim_by == "all"):
            where = "" if one.name == "color" else f"map {one.name}: "
            left = f"{where}colour under alpha 0 outside the boxes is left out ({first_few(lost)})"
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
        outline_wasted=sum(outline.wasted for outline in outlines) if outlines else None,
        box_wasted=boxes - sum(outline.area - outline.wasted for outline in outlines) if outlines else None,
    )
