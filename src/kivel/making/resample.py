"""Fewer or more frames over the same motion, evenly spaced or at a pace; the clip lasts as long as before."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.making.options.layout_options import CompanionOptions
from kivel.making.options.motion_options import MotionOptions
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
    from kivel.making.frame_files import NewFrame
    from kivel.making.work import Work
    from kivel.sequences.clips import ClipSet
    from kivel.sequences.made_motion import MotionMade
    from kivel.sequences.sequence import FrameSequence

__all__ = ["ResampleMade", "ResampleOptions", "make_resample"]


class ResampleOptions(MatchingOptions, KindOptions, MotionOptions, CompanionOptions, FrameOutputOptions):
    """Fewer or more frames."""

    title = "resampling"
    everyday: ClassVar = (
        "out", "count", "one-shot", "mix", "pace", "motion", "even", "tile", "map", "map-suffix", "as", "series",
        "range", "odd-size", "compress", "force",
    )  # fmt: skip
    count: Option[int] = Option(whole(1, MOST_FRAMES), "how many frames to make", default=0, needed=True)
    one_shot: Option[bool] = Option(
        FLAG, "include both ends (default: a loop, whose end is its start again)", default=False
    )
    mix: Option[bool] = Option(
        FLAG,
        "average what lies between, premultiplied and in linear light, instead of taking the nearest frame; "
        "with more frames than before: in-betweens, two frames warped into each other where that is better",
        default=False,
    )
    fade: Option[bool] = Option(FLAG, "with more frames than before: fade, never warp", default=False)
    pace: Option[Easing | None] = Option(
        PACE, 'a CSS easing function: ease-in, "cubic-bezier(...)", "steps(...)"', default=None
    )
    even: Option[bool] = Option(
        FLAG,
        "with motion: keep evenly spaced frames (default: those between which what is left out is rebuilt best)",
        default=False,
    )

    def check(self) -> None:
        super().check()
        if self.even and not self.motion:
            raise UsageError(
                f"without {option('motion', True)} frames are evenly spaced; leave out {option('even', True)}"
            )
        other = next((name for name in ("mix", "pace") if self.given(name)), None)
        if self.motion and other:
            raise UsageError(f"{option('motion', True)} keeps frames as they are; leave out {option(other)}")


class ResampleMade(NamedTuple):
    """Resampled frames: what each was made of, `numbers` what the source frames are called by.

    `images` are by name where nothing was written. `motion` is the map of motion, if one was asked for.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    taken: tuple[Span, ...]
    numbers: tuple[int, ...]
    notes: tuple[str, ...]
    images: dict[str, Pixels]
    motion: MotionMade | None = None


class _Taken(NamedTuple):
    """What is to be written: frames, what they are made of, their clip, and their motion."""

    frames: list[NewFrame]
    spans: list[Span]
    clips: ClipSet
    motion: MotionMade | None = None


def make_resample(options: ResampleOptions, work: Work) -> ResampleMade:
    """Make fewer or more frames.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow; nothing is written then.
    """
    from kivel.making.frame_files import write_frames
    from kivel.sequences.clips import lost_clips
    from kivel.sequences.matching import matched
    from kivel.sequences.pairing import open_with_maps
    from kivel.sequences.sequence import require_straight, without_motion

    sequence = open_with_maps(
        options.sources,
        options.map_requests(),
        options.source_settings(work, keep_float=True),
        neutral=options.missing_map == "neutral",
    )
    sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    if options.mix:
        require_straight(sequence, option("mix", True))
    if options.motion:
        require_straight(sequence, option("motion", True))
    source, sequence = sequence, without_motion(sequence)
    work.note(*sequence.notes, *lost_clips(sequence))
    taken = _kept_for_motion(options, work, sequence) if options.motion else _sampled(options, source)
    folder = write_frames(
        options,
        work,
        taken.frames,
        command="resample",
        stem=sequence.stem,
        has_clips=bool(sequence.clips),
        clips=taken.clips,
        sources=sequence.files(),
        premultiplied=sequence.premultiplied,
        kind=options.content(sequence).name,
        extra=sequence.extra,
    )
    return ResampleMade(
        folder.files, folder.manifest, tuple(taken.spans), tuple(sequence.numbers), tuple(work.notes), folder.images,
        taken.motion,
    )  # fmt: skip


def _sampled(options: ResampleOptions, sequence: FrameSequence) -> _Taken:
    from kivel.core.resampling import sample_positions, samples
    from kivel.making.resampled_frames import new_frames, resampled_clip
    from kivel.sequences.clips import ClipSet
    from kivel.sequences.sequence import without_motion

    length = len(sequence.frames)
    positions = sample_positions(length, options.count, one_shot=options.one_shot, pace=options.pace)
    spans = samples(length, positions, one_shot=options.one_shot, mix=options.mix)
    # many frames in one are motion blur; between two, things have moved
    warps = options.mix and options.count > length and not options.fade
    frames = new_frames(sequence, spans, kind=options.content(sequence).kind, warps=warps)
    clip = resampled_clip(without_motion(sequence), options.count, pace=options.pace)
    return _Taken(frames, spans, ClipSet((clip,)))


def _kept_for_motion(options: ResampleOptions, work: Work, sequence: FrameSequence) -> _Taken:
    """Frames that are kept, with a map of how things move between them."""
    from kivel.core.resampling import Share, Span
    from kivel.making.frame_files import unchanged
    from kivel.making.kept_frames import frames_to_keep, kept_clip, kept_sequence
    from kivel.making.motion_maps import fitted_map
    from kivel.making.resampled_frames import source_holds
    from kivel.sequences.clips import ClipSet

    kind = options.content(sequence).kind
    kept, cuts = frames_to_keep(
        sequence, options.count, loops=not options.one_shot, even=options.even, kind=kind, wraps=options.tile,
        work=work, jobs=options.threads,
    )  # fmt: skip
    made = fitted_map(
        sequence, kept, source_holds(sequence), cuts=cuts, kind=kind, wraps=options.tile,
        storage=options.motion_storage, work=work, jobs=options.threads,
    )  # fmt: skip
    clip = kept_clip(sequence, kept, made, work=work)
    frames = unchanged(kept_sequence(sequence, kept, made))
    spans = [Span(float(frame), (Share(frame, 1.0),)) for frame in kept.frames]
    return _Taken(frames, spans, ClipSet((clip,)), made)
