"""The clips that frames come with, or get."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from kivel.core.playback.clip import DEFAULT_HOLD, Clip, Timing, clip_of_frames
from kivel.core.playback.notation import Ordered
from kivel.formats.frames import Frames

__all__ = ["carried_clips", "clip_over", "clips_for", "stated_holds"]


def clips_for(frames: Frames, timing: Timing) -> tuple[Clip, ...]:
    """The clips that came with the frames, else one over all of them; `timing` overrides what it names."""
    if not (frames.clips and timing.says_nothing):
        return (clip_of_frames(frames.stem, [frame.duration for frame in frames.frames], timing),)
    repeat = timing.repeat
    return frames.clips if repeat is None else tuple(replace(clip, repeat=repeat) for clip in frames.clips)


def _plain_clip(frames: Frames) -> Clip | None:
    """The one clip of a sequence, if it shows every frame once and in order: its holds are then the frames' own."""
    if len(frames.clips) != 1:
        return None
    clip = frames.clips[0]
    return clip if [step.frame for step in clip.steps] == list(range(len(frames.frames))) else None


def stated_holds(frames: Frames) -> list[Fraction | None]:
    """How long each frame shows, in seconds: by the one clip over all, else as its file says, None if it does not."""
    clip = _plain_clip(frames)
    if clip:
        return [clip.seconds(step.hold) for step in clip.steps]
    return [frame.duration for frame in frames.frames]


def clip_over(frames: Frames, holds: Sequence[Fraction | None]) -> Clip:
    """A clip over new frames, in order, that plays as the one that `frames` came with did."""
    clip = clip_of_frames(frames.stem, holds, Timing())
    before = _plain_clip(frames)
    return replace(before, timebase=clip.timebase, steps=clip.steps, events=()) if before else clip


def carried_clips(frames: Frames, chosen: Sequence[Ordered]) -> tuple[tuple[Clip, ...], list[str]]:
    """The clips of frames chosen among `frames`, and a note where their own clips cannot be kept."""
    if chosen == [Ordered(index) for index in range(len(frames.frames))]:
        return frames.clips or (clip_over(frames, stated_holds(frames)),), []
    holds = stated_holds(frames)
    new = [_times(holds[entry.frame], entry.times) for entry in chosen]
    lost = frames.clips and not _plain_clip(frames)
    notes = ["the manifest's clips are left, they count frames by their old order"] if lost else []
    events = sum(len(clip.events) for clip in frames.clips)
    if events and not lost:
        notes.append("the clip's events are left, they count steps by their old order")
    return (clip_over(frames, new),), notes


def _times(hold: Fraction | None, times: int) -> Fraction | None:
    return hold if times == 1 else (hold or DEFAULT_HOLD) * times
