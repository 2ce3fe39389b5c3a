"""The clips that frames come with, or get."""

from __future__ import annotations

from dataclasses import replace

from kivel.core.playback.clip import Clip, Timing, clip_of_frames
from kivel.formats.frames import Frames

__all__ = ["clips_for"]


def clips_for(frames: Frames, timing: Timing) -> tuple[Clip, ...]:
    """The clips that came with the frames, else one over all of them; `timing` overrides what it names."""
    if not (frames.clips and timing.says_nothing):
        return (clip_of_frames(frames.stem, [frame.duration for frame in frames.frames], timing),)
    repeat = timing.repeat
    return frames.clips if repeat is None else tuple(replace(clip, repeat=repeat) for clip in frames.clips)
