"""The clips that frames come with, or get."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from typing import TYPE_CHECKING

from kivel.core.playback.clip import DEFAULT_HOLD, Clip, Step, Timing, clip_of_frames
from kivel.core.playback.notation import Ordered
from kivel.formats.frames import Frames

if TYPE_CHECKING:  # the models are slow to load
    from kivel.formats.manifest.model import Group

__all__ = [
    "carried_clips",
    "clip_over",
    "clips_for",
    "clips_of",
    "clips_of_moving",
    "groups_of",
    "stated_holds",
    "with_own_names",
]


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


def clips_of(sequences: Sequence[Frames], timing: Timing) -> tuple[Clip, ...]:
    """The clips of all sequences, their steps counted over all frames; each sequence has one at least."""
    clips: list[Clip] = []
    first = 0
    for sequence in sequences:
        clips += [_counted_from(clip, first) for clip in clips_for(sequence, timing)]
        first += len(sequence.frames)
    return with_own_names(clips, ())


def clips_of_moving(sequences: Sequence[Frames], timing: Timing) -> tuple[Clip, ...]:
    """The clips of all sequences that move: numbered, animated, or with clips of their own; of all, if timing is given.

    Files without numbers are a collection: props, tiles.
    """
    clips: list[Clip] = []
    first = 0
    for sequence in sequences:
        if _moves(sequence) or not timing.says_nothing:
            clips += [_counted_from(clip, first) for clip in clips_for(sequence, timing)]
        first += len(sequence.frames)
    return with_own_names(clips, ())


def _moves(sequence: Frames) -> bool:
    if sequence.manifest:
        return bool(sequence.clips)
    frames = sequence.frames
    return len(frames) > 1 and (
        frames[0].number is not None or frames[0].duration is not None or len({f.path for f in frames}) == 1
    )


def with_own_names(clips: Sequence[Clip], taken: Sequence[str]) -> tuple[Clip, ...]:
    """The same clips, none called as another or as one of `taken`: `moth`, `moth-2`."""
    names = set(taken)
    renamed = []
    for clip in clips:
        name, number = clip.name, 2
        while name in names:
            name, number = f"{clip.name}-{number}", number + 1
        names.add(name)
        renamed.append(clip if name == clip.name else replace(clip, name=name))
    return tuple(renamed)


def groups_of(sequences: Sequence[Frames], clips: Sequence[Clip]) -> tuple[Group, ...]:
    """The groups of a single sequence whose clips are all kept."""
    alone = sequences[0] if len(sequences) == 1 else None
    return alone.manifest.groups if alone and alone.manifest and tuple(clips) == alone.clips else ()


def _counted_from(clip: Clip, first: int) -> Clip:
    """The same clip where its frame 0 is number `first`."""
    return replace(clip, steps=tuple(Step(step.frame + first, step.hold) for step in clip.steps)) if first else clip
