"""Frames that are kept where motion serves for the others, with their clip and their maps."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from kivel.core.errors import UsageError, option
from kivel.core.motion.pairs import unserved, unserved_text
from kivel.core.pixels.light import Kind
from kivel.core.playback.clip import Clip
from kivel.core.wording import counted
from kivel.making.frames.resampled_frames import source_holds
from kivel.making.motion.motion_maps import KeptFrames, even_frames, looked_at
from kivel.making.work import Work
from kivel.sequences.clips import clip_over
from kivel.sequences.made_motion import MotionMade
from kivel.sequences.sequence import FrameSequence

__all__ = ["frames_to_keep", "kept_clip", "kept_sequence"]

_FEWEST = 3


def frames_to_keep(
    frames: FrameSequence, count: int, *, loops: bool, even: bool, kind: Kind, wraps: bool, work: Work, jobs: int
) -> tuple[KeptFrames, tuple[int, ...]]:
    """Those that are kept where motion serves for the others, and after which frames the scene changes.

    A loop that does not close is a one-shot.

    Raises
    ------
    UsageError
        If there are no frames to leave out.
    """
    length = len(frames.frames)
    if length < _FEWEST:
        raise UsageError(
            f"{option('motion', True)}: {counted(length, 'frame')}, and none can be left out", where=frames.stem
        )
    if not 1 < count < length:
        raise UsageError(
            f"{option('count', count)}: motion replaces frames that are left out; keep 2 to {length - 1} of {length}",
            where=frames.stem,
        )
    looked = looked_at(frames, kind=kind, loops=loops, wraps=wraps, work=work, jobs=jobs)
    if loops and not looked.closes:
        loops = False
        once = option("one-shot", True)
        work.note(f"its end does not lead into its start: treated as a one-shot that plays once, as with {once}")
    if not even:
        return looked.kept(count, loops=loops, work=work, jobs=jobs), looked.cuts
    return even_frames(length, count, loops=loops), looked.cuts


def kept_clip(frames: FrameSequence, kept: KeptFrames, made: MotionMade, *, work: Work) -> Clip:
    """The clip over frames that are kept, each held until the next: it obeys the motion if all its changes have one."""
    holds = source_holds(frames)
    ends = [*kept.frames[1:], len(holds)]
    clip = clip_over(frames, [sum(holds[a:b], Fraction(0)) for a, b in zip(kept.frames, ends, strict=True)])
    if not kept.loops and not frames.clips:
        clip = replace(clip, repeat=1)
    motion = made.map.motion
    lacking = unserved(clip, motion) if motion else []
    if lacking:
        work.note(f'clip "{clip.name}" is not warped: {unserved_text(lacking)}')
        return clip
    return replace(clip, interpolation="motion")


def kept_sequence(frames: FrameSequence, kept: KeptFrames, made: MotionMade) -> FrameSequence:
    """The frames that are kept, with their companions and their motion."""
    maps = (*(one.chosen(kept.frames) for one in frames.maps), made.map)
    return frames._replace(frames=tuple(frames.frames[index] for index in kept.frames), maps=maps)
