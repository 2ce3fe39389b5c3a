"""Look at frames: an animated image at their own timing, or a contact sheet (.png) of every frame."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import counted, counted_from_0
from kivel.making.options.clip_options import TimingOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import OutputOptions
from kivel.making.options.source_options import ChoosingOptions, MatchingOptions, ShowOptions
from kivel.making.options.value_kinds import BACKDROP, FLAG, PATH, SCALE, SCALING, SIZE, choice, moved_path, whole

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.compose import Backdrop
    from kivel.core.pixels import Pixels, Size
    from kivel.core.playback.clip import Clip
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence
    from kivel.views.layout_drawing import DrawnPage
    from kivel.views.looks import Marks

__all__ = ["PreviewMade", "PreviewOptions", "make_preview"]

_MOST_TILES = 100
_BLENDS = 30
"""Pictures a second that an animated image shows of a clip whose frames blend."""
_SUFFIXES = (".png", ".apng", ".gif", ".webp", ".html")

View = Literal["frames", "timing", "layout"]


class PreviewOptions(MatchingOptions, ChoosingOptions, ShowOptions, TimingOptions, OutputOptions):
    """What is looked at, and how."""

    title = "look"
    everyday: ClassVar = (
        "out", "clip", "view", "scale", "backdrop", "show", "tile", "mark", "beside", "fps", "hold", "repeat", "series",
        "range", "odd-size", "force",
    )  # fmt: skip
    out = OutputOptions.out.but(form="OUT.png|.apng|.gif|.webp|.html")
    clip = ChoosingOptions.clip.but(
        help="which clip of a manifest, by name or pattern", shown="the first; in a timing chart all", group="look"
    )
    view: Option[View] = Option(
        choice("frames", "timing", "layout"),
        "frames (default); timing: a timing chart, each clip's steps to scale with events, cycles and pace (.png); "
        "layout: the pages of a manifest, with cells, boxes, frame numbers, gaps and free space (.png)",
        default="frames",
    )
    scale: Option[Fraction | None] = Option(
        SCALE, "4, 0.5, 1/3", default=None, shown="small art is enlarged to about 256 px"
    )
    filter: Option[Literal["nearest", "smooth"] | None] = Option(
        SCALING,
        "how to scale",
        default=None,
        shown="nearest; smooth in a contact sheet that shrinks",
    )
    backdrop: Option[Backdrop] = Option(
        BACKDROP, "what transparent pixels show: a colour as #rrggbb or by its CSS name", default="checker",
        shown="checker",
    )  # fmt: skip
    tile: Option[Size | None] = Option(
        SIZE, "each frame so many times across and down, to see how a tile goes on: 3x3", default=None, form="CxR"
    )
    mark: Option[tuple[Literal["pivot", "outline"], ...]] = Option(
        choice("pivot", "outline"), "draw over frames where they turn, or the polygon of an atlas (many)",
        default=(), many=True,
    )  # fmt: skip

    beside: Option[tuple[str, ...]] = Option(
        PATH, "of a page (.html): another source, whose clips can be seen beside or wiped over (many)",
        default=(), many=True, form="SRC", from_folder=moved_path,
    )  # fmt: skip
    serve: Option[bool] = Option(
        FLAG, "show the page at 127.0.0.1, for this machine alone, and again when sources change", default=False,
        kept=False,
    )  # fmt: skip
    port: Option[int] = Option(whole(0, 65535), "where it is served", default=0, shown="any that is free", kept=False)

    @property
    def needs_out(self) -> bool:
        return super().needs_out and not self.serve

    def check(self) -> None:
        super().check()
        if self.serve and (self.out or self.view != "frames" or self.door == "python"):
            left_out = f"leave out {option('out')} and {option('view')}"
            raise UsageError(f"{option('serve', True)} is the command line's, and writes no file; {left_out}")
        if self.port and not self.serve:
            raise UsageError(f"{option('port')} is for {option('serve', True)}; give both")
        if self.tile and self.tile.w * self.tile.h > _MOST_TILES:
            raise UsageError(f"{option('tile')}: expected at most {_MOST_TILES} in all, found {self.tile}")
        if self.beside and not self.is_page:
            raise UsageError(
                f"{option('beside')} is for a page; expected a name that ends in .html, found {self.out!r}"
            )
        if not self.out:
            return
        if self.suffix not in _SUFFIXES:
            raise UsageError(f"expected a name that ends in {', '.join(_SUFFIXES)}, found {self.out!r}")
        if self.view != "frames" and self.suffix != ".png":
            raise UsageError(
                f"{option('view', self.view)} makes a picture; expected a name that ends in .png, found {self.out!r}"
            )

    def marks(self) -> Marks:
        from kivel.views.looks import Marks

        return Marks(pivot="pivot" in self.mark, outline="outline" in self.mark)

    @property
    def is_page(self) -> bool:
        """Whether it is a page for a browser."""
        return self.serve or self.suffix == ".html"

    @property
    def suffix(self) -> str:
        return Path(self.out or "x.apng").suffix.lower()


class PreviewMade(NamedTuple):
    """A preview: the file and what became of it, in words what it shows, and the clip.

    `images` are its pictures in order where nothing was written, and `seconds` how long each of an animation shows.
    """

    files: tuple[Written, ...]
    described: str
    clip: Clip | None
    frames: int
    used: tuple[float, ...]
    notes: tuple[str, ...]
    images: tuple[Pixels, ...]
    seconds: tuple[Fraction, ...]


class _Drawn(NamedTuple):
    """What came of drawing: pictures, how long each shows, in words what they show, how often all is played."""

    images: list[Pixels]
    described: str
    seconds: list[Fraction]
    repeat: int | Literal["forever"] = 1


def make_preview(options: PreviewOptions, work: Work) -> PreviewMade:
    """Draw a preview.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow; nothing is written then.
    """
    from kivel.files.seals import is_sealed, sealed

    with options.output_set(work, with_manifest=False, is_ours=is_sealed) as out:
        if options.out:
            out.check(Path(options.out))
        used: tuple[float, ...] = ()
        clip: Clip | None = None
        count = 0
        if options.view == "layout":
            drawn, used = _layout(options, work)
        elif options.serve:
            drawn, clip = _Drawn([], "", []), None
        elif options.is_page:
            from kivel.making.preview_page import page_of

            page = page_of(options, work)
            out.reads(page.files)
            out.add(Path(options.out or ""), [sealed(page.text.encode())])
            clip, count, drawn = page.clip, page.frames, _Drawn([], page.described, [])
        else:
            sequence, clips = _opened(options, work)
            out.reads(sequence.files())
            if options.out:
                out.check(Path(options.out))
            clip, count = clips[0], len(sequence.frames)
            drawn = _drawn(options, work, sequence, clips)
        if options.out and not options.is_page:
            out.add(Path(options.out), [_encoded(options, work, drawn)])
    images = () if options.out else tuple(drawn.images)
    seconds = () if options.out else tuple(drawn.seconds)
    return PreviewMade(tuple(out.written), drawn.described, clip, count, used, tuple(work.notes), images, seconds)


def _opened(options: PreviewOptions, work: Work) -> tuple[FrameSequence, list[Clip]]:
    """The frames to look at, and the clips that are meant, the first of which is shown."""
    from kivel.core.playback.groups import chosen_clips
    from kivel.sequences.clips import clips_for
    from kivel.sequences.matching import matched
    from kivel.sequences.opening import open_sources
    from kivel.sequences.sequence import shown_as, straightened

    sequence = shown_as(straightened(open_sources(options.sources, options.shown_settings(work))), options.show)
    if options.tile:
        sequence = sequence.tiled(options.tile)
    chosen = chosen_clips(clips_for(sequence, lambda _name: options.timing()), options.clip)
    if options.clip and len(chosen) > 1 and options.view == "frames":
        names = ", ".join(clip.name for clip in chosen)
        raise UsageError(f"{option('clip')}: several match, {names}; name one, or see {option('view', 'timing')}")
    if sequence.origin is None:
        sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    elif options.suffix != ".png":
        sequence, chosen = _of_one_size(options, sequence, chosen)
    work.note(*sequence.notes, *_beside_note(options.sources))
    return sequence, chosen


def _of_one_size(
    options: PreviewOptions, sequence: FrameSequence, chosen: list[Clip]
) -> tuple[FrameSequence, list[Clip]]:
    """The frames of a manifest that a clip and those that follow it show; others may be of any size."""
    from kivel.core.playback.following import Chain
    from kivel.sequences.matching import matched

    clips = [player.clip for player in Chain(chosen[0], sequence.clips).players]
    used = sorted({step.frame for clip in clips for step in clip.steps})
    part = sequence._replace(
        frames=tuple(sequence.frames[index] for index in used),
        maps=tuple(one.chosen(used) for one in sequence.maps),
    )
    places = {frame: place for place, frame in enumerate(used)}
    # frames of a manifest differ in size on purpose; there is nothing to refuse
    odd_size = "pad" if options.odd_size == "error" else options.odd_size
    return matched(part, odd_size=odd_size, align=options.align), [clip.renumbered(places) for clip in clips]


def _beside_note(sources: Sequence[str]) -> list[str]:
    """A single image that is a sheet was probably meant to be seen playing."""
    from kivel.files.manifest.names import manifest_beside

    if len(sources) != 1:
        return []
    path = Path(sources[0])
    beside = manifest_beside(path)
    if path.suffix == ".json" or not (path.is_file() and beside.is_file()):
        return []
    return [f"{path}: shown as one image; give {beside} to see its frames play"]


def _drawn(options: PreviewOptions, work: Work, sequence: FrameSequence, clips: list[Clip]) -> _Drawn:
    from kivel.core.pixels import size_of
    from kivel.making.stills import contact_sheet_of, timing_chart_of
    from kivel.views.timing_chart import MOST_CLIPS

    if options.view == "timing":
        text = f"timing of {counted(min(len(clips), MOST_CLIPS), 'clip')}"
        return _Drawn([timing_chart_of(sequence, clips)], text, [])
    if options.suffix == ".png":
        sheet = contact_sheet_of(options, work, sequence, clips[0])
        text = f"contact sheet of {counted(len(sheet.numbers), 'frame')}, {size_of(sheet.image)} px"
        return _Drawn([sheet.image], text, [])
    return _animation(options, work, sequence, clips)


def _encoded(options: PreviewOptions, work: Work, drawn: _Drawn) -> bytes:
    from kivel.files.animated import encode_animation
    from kivel.files.png.write import encode_png

    if options.suffix == ".png":
        return b"".join(encode_png(drawn.images[0], compress="small", jobs=options.threads))
    encoded = encode_animation(options.suffix, drawn.images, drawn.seconds, repeat=drawn.repeat, jobs=options.threads)
    work.note(*encoded.notes)
    return encoded.data


def _animation(options: PreviewOptions, work: Work, sequence: FrameSequence, clips: list[Clip]) -> _Drawn:
    from fractions import Fraction
    from functools import partial

    from kivel.core.compose import scaled_size
    from kivel.core.playback.following import Chain
    from kivel.core.playback.notation import format_seconds
    from kivel.core.playback.schedule import schedule
    from kivel.core.room import require_room
    from kivel.files.threads import in_order
    from kivel.sequences.between_frames import motion_for
    from kivel.views.looks import Look, default_scale
    from kivel.views.pictures import pictures, shown_picture

    scale = options.scale or default_scale(sequence.frames[0].size)
    look = Look(scale, options.filter or "nearest", options.backdrop)
    clip = clips[0]
    plan = schedule(clip, blends=Fraction(_BLENDS), others=clips)
    chain = Chain(clip, clips)
    if chain.length is None and len(chain.players) > 1 and not chain.is_circle:
        last = chain.players[-1].clip.name
        work.note(f'an animated image cannot repeat its end alone: after a cycle of "{last}" all of it begins again')
    wanted = pictures(plan)
    size = scaled_size(sequence.frames[0].size, look.scale)
    require_room(*size, frames=len(wanted), what="the preview would have", todo=f"make {option('scale')} smaller, or")
    with work.progress("reading frames", len(wanted)) as advance:
        shown = {}
        draw = partial(
            shown_picture, frames=sequence.frames, look=look, show=options.show, marks=options.marks(),
            motion=motion_for(clip, sequence.maps),
        )  # fmt: skip
        for picture, image in zip(wanted, in_order(draw, wanted, jobs=options.threads), strict=True):
            shown[picture] = image
            advance()
    height, width = shown[wanted[0]].shape[:2]
    text = (
        f'clip "{clip.name}": {counted(len(clip.order()), "step")}, {format_seconds(clip.length)}, {width}x{height} px'
    )
    if clip.blends:
        how = "warped" if motion_for(clip, sequence.maps) else "blended"
        text += f", {how} at {_BLENDS} pictures a second or more"
    return _Drawn([shown[shot.picture] for shot in plan.shots], text, [s.seconds for s in plan.shots], plan.repeat)


def _layout(options: PreviewOptions, work: Work) -> tuple[_Drawn, tuple[float, ...]]:
    """The pages of a manifest with everything that its numbers say drawn over them."""
    from kivel.files.manifest.names import SUFFIX
    from kivel.files.manifest.parsing import read_manifest
    from kivel.views.layout_drawing import draw_layout, used_share

    source = options.sources[0] if options.sources else ""
    if len(options.sources) != 1 or not source.endswith(".json"):
        what = option("view", "layout")
        raise UsageError(f"{what} draws what a manifest says; give one NAME.kivel.json, found {source!r}")
    path = Path(source)
    manifest = read_manifest(path)
    pages = _drawn_pages(options, work, manifest, path)
    title = f"{path.name.removesuffix(SUFFIX)}  {counted_from_0(len(manifest.frames), 'frame')}"
    picture = draw_layout(pages, title + (f"   map {options.show}" if options.show != "color" else ""))
    used = tuple(used_share(page) for page in pages)
    text = f"layout of {counted(len(pages), 'page')}, {', '.join(f'{share:.1%}' for share in used)} used"
    return _Drawn([picture], text, []), used


def _drawn_pages(options: PreviewOptions, work: Work, manifest: Manifest, path: Path) -> list[DrawnPage]:
    """The pages of a manifest, as one of its maps shows them."""
    from collections import defaultdict

    from kivel.core.pixels import Rect, Turn, size_of
    from kivel.core.scaling import nearest_scaled
    from kivel.files.page_store import stored_page
    from kivel.views.layout_drawing import DrawnFrame, DrawnPage, outline_on_page

    grid = manifest.grid.cells() if manifest.grid else None
    places: dict[tuple[int, Rect, Turn], list[int]] = defaultdict(list)
    for number, frame in enumerate(manifest.frames):
        if frame.rect.w and frame.rect.h:
            places[frame.page, frame.rect, frame.turn].append(number)
    pages = []
    for number, page in enumerate(manifest.pages):
        image = stored_page(
            manifest, path, number, options.show, max_pixels=options.pixel_limit, tell=work.note
        ).pixels()
        if size_of(image) != page.size:
            image = nearest_scaled(image, page.size)
        frames = tuple(
            DrawnFrame(rect, tuple(numbers), turn, outline_on_page(manifest.frames[numbers[0]]))
            for (of_page, rect, turn), numbers in places.items()
            if of_page == number
        )
        pages.append(DrawnPage(image, frames, grid))
    return pages
