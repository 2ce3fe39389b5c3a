"""Fewer or more frames over the same motion, evenly spaced or at a pace; the clip lasts as long as before."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, NamedTuple

from kivel.core.errors import option
from kivel.making.options.layout_options import CompanionOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import FrameOutputOptions
from kivel.making.options.source_options import KindOptions, MatchingOptions
from kivel.making.options.value_kinds import FLAG, MOST_FRAMES, PACE, whole

if TYPE_CHECKING:
    from kivel.core.pixels import Pixels
    from kivel.core.playback.easing import Easing
    from kivel.core.resampling import Span
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work

__all__ = ["ResampleMade", "ResampleOptions", "make_resample"]


class ResampleOptions(MatchingOptions, KindOptions, CompanionOptions, FrameOutputOptions):
    """Fewer or more frames."""

    title = "resampling"
    everyday: ClassVar = (
        "out", "count", "one-shot", "mix", "pace", "map", "map-suffix", "as", "series", "range", "odd-size",
        "compress", "force",
    )  # fmt: skip
    count: Option[int] = Option(whole(1, MOST_FRAMES), "how many frames to make", default=0, needed=True)
    one_shot: Option[bool] = Option(
        FLAG, "include both ends (default: a loop, whose end is its start again)", default=False
    )
    mix: Option[bool] = Option(
        FLAG,
        "average what lies between, premultiplied and in linear light, instead of taking the nearest frame; "
        "with more frames than before: in-betweens",
        default=False,
    )
    pace: Option[Easing | None] = Option(
        PACE, 'a CSS easing function: ease-in, "cubic-bezier(...)", "steps(...)"', default=None
    )


class ResampleMade(NamedTuple):
    """Resampled frames: what each was made of, `numbers` what the source frames are called by.

    `images` are by name where nothing was written.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    taken: tuple[Span, ...]
    numbers: tuple[int, ...]
    notes: tuple[str, ...]
    images: dict[str, Pixels]


def make_resample(options: ResampleOptions, work: Work) -> ResampleMade:
    """Make fewer or more frames.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow; nothing is written then.
    """
    from kivel.core.resampling import sample_positions, samples
    from kivel.making.frame_files import write_frames
    from kivel.making.resampled_frames import new_frames, resampled_clip
    from kivel.sequences.clips import ClipSet, lost_clips
    from kivel.sequences.matching import matched
    from kivel.sequences.pairing import open_with_maps
    from kivel.sequences.sequence import require_straight

    sequence = open_with_maps(
        options.sources,
        options.map_requests(),
        options.source_settings(work, keep_float=True),
        neutral=options.missing_map == "neutral",
    )
    sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    if options.mix:
        require_straight(sequence, option("mix", True))
    work.note(*sequence.notes, *lost_clips(sequence))
    length = len(sequence.frames)
    positions = sample_positions(length, options.count, one_shot=options.one_shot, pace=options.pace)
    spans = samples(length, positions, one_shot=options.one_shot, mix=options.mix)
    folder = write_frames(
        options,
        work,
        new_frames(sequence, spans, kind=options.content(sequence).kind),
        command="resample",
        stem=sequence.stem,
        has_clips=bool(sequence.clips),
        clips=ClipSet((resampled_clip(sequence, options.count, pace=options.pace),)),
        sources=sequence.files(),
        premultiplied=sequence.premultiplied,
        kind=options.content(sequence).name,
        extra=sequence.extra,
    )
    return ResampleMade(
        folder.files, folder.manifest, tuple(spans), tuple(sequence.numbers), tuple(work.notes), folder.images,
    )  # fmt: skip
