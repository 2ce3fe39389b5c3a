"""Resampled sequences, from sources to files."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.resampling import Share, Span, sample_positions, samples
from kivel.making.frames.frame_files import NewFrames, unchanged, write_frames
from kivel.making.frames.resampled_frames import new_frames, resampled_clip, source_holds
from kivel.making.options.resample_options import ResampleOptions
from kivel.sequences.between_frames import faded_kind
from kivel.sequences.clip_parts import ClipPart, clip_parts, clips_together
from kivel.sequences.clips import ClipSet, lost_clips
from kivel.sequences.matching import matched
from kivel.sequences.pairing import open_with_maps
from kivel.sequences.sequence import all_fades, require_straight, without_motion

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels
    from kivel.core.resampling import Span
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.frames.frame_files import NewFrame
    from kivel.making.work import Work
    from kivel.sequences.clips import ClipSet
    from kivel.sequences.made_motion import MotionMade
    from kivel.sequences.reconciling.frame_edits import FrameEdit
    from kivel.sequences.sequence import FrameSequence

__all__ = ["ResampleMade", "make_resample"]


class ResampleMade(NamedTuple):
    """Resampled frames: what each was made of, `numbers` what the source frames are called by.

    `images` are by name where nothing was written. `motion` is the map of motion, if one was asked for.
    `edits` are what was done to the frames since a manifest said something of them.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    taken: tuple[Span, ...]
    numbers: tuple[int, ...]
    notes: tuple[str, ...]
    images: dict[str, Pixels]
    motion: MotionMade | None = None
    edits: tuple[FrameEdit, ...] = ()


class _Taken(NamedTuple):
    """Holds what is to be written: frames, what they are made of, their clip, and their motion."""

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
    sequence = open_with_maps(
        options.sources,
        options.map_requests(),
        options.source_settings(work, keep_float=True, several=True),
        neutral=options.missing_map == "neutral",
    )
    sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    if options.mix:
        require_straight(sequence, option("mix", True))
    if options.motion:
        require_straight(sequence, option("motion", True))
    parts = clip_parts(sequence)
    if options.motion and len(parts) > 1:
        raise UsageError(_one_clip_alone(sequence))
    source, sequence = sequence, without_motion(sequence)
    work.hear(sequence)
    work.note(*(note for part in parts for note in lost_clips(without_motion(part.sequence))))
    taken = _kept_for_motion(options, work, sequence) if options.motion else _sampled(options, source, parts)
    new = NewFrames.made_of(sequence, taken.frames, taken.clips, kind=options.content(sequence).name)
    if options.mix:
        new = new._replace(faded=all_fades([sequence], options.fade))
    folder = write_frames(options, work, new, command="resample")
    return ResampleMade(
        folder.files, folder.manifest, tuple(taken.spans), tuple(sequence.numbers), tuple(work.notes), folder.images,
        taken.motion, tuple(work.edits),
    )  # fmt: skip


def _one_clip_alone(sequence: FrameSequence) -> str:
    name = sequence.clips[0].name
    one = option("series", name)
    return f"{option('motion', True)} works on one clip, {sequence.stem} has {len(sequence.clips)}; pass {one}"


def _sampled(options: ResampleOptions, sequence: FrameSequence, parts: Sequence[ClipPart]) -> _Taken:
    """This many frames of each clip; those of no clip stay."""
    frames: list[NewFrame] = []
    spans: list[Span] = []
    clips: list[tuple[int, ClipSet]] = []
    for part in parts:
        if len(parts) > 1 and not part.clips:
            frames += unchanged(part.sequence)
            spans += [Span(float(place), (Share(place, 1.0),)) for place in part.places]
            clips.append((len(part.places), ClipSet(())))
            continue
        made = _sampled_alone(options, part.sequence)
        frames += made.frames
        spans += [_of_whole(span, part.places) for span in made.spans]
        clips.append((len(made.frames), made.clips))
    return _Taken(frames, spans, clips_together(sequence, clips) if len(parts) > 1 else clips[0][1])


def _of_whole(span: Span, places: Sequence[int]) -> Span:
    """A span of one part's frames by their numbers in the whole."""
    first = int(span.position)
    position = places[min(first, len(places) - 1)] + span.position - first
    return Span(position, tuple(share._replace(frame=places[share.frame]) for share in span.shares))


def _sampled_alone(options: ResampleOptions, sequence: FrameSequence) -> _Taken:
    length = len(sequence.frames)
    positions = sample_positions(length, options.count, one_shot=options.one_shot, pace=options.pace)
    spans = samples(length, positions, one_shot=options.one_shot, mix=options.mix)
    # many frames in one are motion blur; between two, things have moved
    warps = options.mix and options.count > length and not options.no_warp
    kind = faded_kind(options.content(sequence).kind, options.fade)
    frames = new_frames(sequence, spans, kind=kind, warps=warps)
    clip = resampled_clip(without_motion(sequence), options.count, pace=options.pace)
    return _Taken(frames, spans, ClipSet((clip,)))


def _kept_for_motion(options: ResampleOptions, work: Work, sequence: FrameSequence) -> _Taken:
    """Frames that are kept, with a map of how things move between them."""
    from kivel.making.motion.frames_to_keep import frames_to_keep, kept_clip, kept_sequence
    from kivel.making.motion.motion_maps import fitted_map

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
