"""Previews: animated images, contact sheets, charts and pages."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Rect, Turn, size_of
from kivel.core.pixels.scaling import nearest_scaled
from kivel.core.playback.following import Chain
from kivel.core.playback.groups import chosen_clips
from kivel.core.wording import counted, counted_from_0
from kivel.files.animated import encode_animation
from kivel.files.manifest.names import SUFFIX, is_manifest_name, manifest_beside
from kivel.files.manifest.parsing import read_manifest
from kivel.files.own_digest import is_unedited, with_own_digest
from kivel.files.page_store import stored_page
from kivel.files.png.write import encode_png
from kivel.making.looking.moving_pictures import encoded_as_video, moving_pictures
from kivel.making.looking.preview_page import page_of
from kivel.making.looking.stills import contact_sheet_of, timing_chart_of
from kivel.making.options.preview_options import PreviewOptions
from kivel.sequences.clips import clips_for
from kivel.sequences.matching import matched
from kivel.sequences.opening import open_sources
from kivel.sequences.sequence import shown_as, straightened
from kivel.views.drawing import spoken_name
from kivel.views.layout_drawing import DrawnFrame, DrawnPage, draw_layout, outline_on_page, used_share
from kivel.views.timing_chart import MOST_CLIPS

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.pixels.pixels import Pixels
    from kivel.core.playback.clip import Clip
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence
    from kivel.views.layout_drawing import DrawnPage

__all__ = ["PreviewMade", "make_preview"]


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
    """Holds what came of drawing: pictures, how long each shows, in words what they show, how often all is played.

    Of a video there is the file alone: its pictures are not kept.
    """

    images: list[Pixels]
    described: str
    seconds: list[Fraction]
    repeat: int | Literal["forever"] = 1
    video: bytes = b""


def make_preview(options: PreviewOptions, work: Work) -> PreviewMade:
    """Draw a preview.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow; nothing is written then.
    """
    with options.output_set(work, with_manifest=False, is_ours=is_unedited) as out:
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
            page = page_of(options, work)
            out.reads(page.files)
            out.add(Path(options.out or ""), [with_own_digest(page.text.encode())])
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
    sequence = shown_as(straightened(open_sources(options.sources, options.shown_settings(work))), options.show)
    if options.tile:
        sequence = sequence.tiled(options.tile)
    chosen = chosen_clips(clips_for(sequence, lambda _name: options.timing()), options.clip)
    if options.clip and len(chosen) > 1 and options.view == "frames":
        names = ", ".join(clip.name for clip in chosen)
        raise UsageError(f"{option('clip')}: several match, {names}; name one, or see {option('view', 'timing')}")
    if sequence.described_by is None:
        sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    elif options.suffix != ".png":
        sequence, chosen = _of_one_size(options, sequence, chosen)
    work.hear(sequence)
    work.note(*_beside_note(options.sources))
    return sequence, chosen


def _of_one_size(
    options: PreviewOptions, sequence: FrameSequence, chosen: list[Clip]
) -> tuple[FrameSequence, list[Clip]]:
    """The frames of a manifest that a clip and those that follow it show; others may be of any size."""
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
    if len(sources) != 1:
        return []
    path = Path(sources[0])
    beside = manifest_beside(path)
    if is_manifest_name(path) or not (path.is_file() and beside.is_file()):
        return []
    return [f"{path}: shown as one image; use {beside} to see its frames play"]


def _drawn(options: PreviewOptions, work: Work, sequence: FrameSequence, clips: list[Clip]) -> _Drawn:
    if options.view == "timing":
        text = f"timing of {counted(min(len(clips), MOST_CLIPS), 'clip')}"
        return _Drawn([timing_chart_of(sequence, clips)], text, [])
    if options.suffix == ".png":
        sheet = contact_sheet_of(options, work, sequence, clips[0])
        text = f"contact sheet of {counted(len(sheet.numbers), 'frame')}, {size_of(sheet.image)} px"
        return _Drawn([sheet.image], text, [])
    moving = moving_pictures(options, work, sequence, clips)
    if options.is_video:
        return _Drawn([], moving.described, [], video=encoded_as_video(options, work, moving))
    images = moving.all_drawn(options, work)
    return _Drawn(images, moving.described, [shot.seconds for shot in moving.plan.shots], moving.plan.repeat)


def _encoded(options: PreviewOptions, work: Work, drawn: _Drawn) -> bytes:
    if drawn.video:
        return drawn.video
    if options.suffix == ".png":
        return b"".join(encode_png(drawn.images[0], compress="small", jobs=options.threads))
    encoded = encode_animation(options.suffix, drawn.images, drawn.seconds, repeat=drawn.repeat, jobs=options.threads)
    work.note(*encoded.notes)
    return encoded.data


def _layout(options: PreviewOptions, work: Work) -> tuple[_Drawn, tuple[float, ...]]:
    """The pages of a manifest with everything that its numbers say drawn over them."""
    source = options.sources[0] if options.sources else ""
    if len(options.sources) != 1 or not is_manifest_name(source):
        what = option("view", "layout")
        raise UsageError(f"{what} draws a manifest; give one NAME.kivel.json, found {source!r}")
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
            DrawnFrame(
                rect,
                tuple(numbers),
                turn,
                outline_on_page(manifest.frames[numbers[0]]),
                spoken_name(manifest.frames[numbers[0]].name),
            )
            for (of_page, rect, turn), numbers in places.items()
            if of_page == number
        )
        pages.append(DrawnPage(image, frames, grid))
    return pages
