"""The clips that a sequence comes with, or gets, and what becomes of them when its frames change."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import DEFAULT_HOLD, Clip, Repeat, Step, Timing, clip_of_frames
from kivel.core.playback.groups import Group
from kivel.core.playback.notation import Ordered
from kivel.core.wording import counted, first_few
from kivel.sequences.sequence import FrameSequence

if TYPE_CHECKING:
    from kivel.core.motion.pairs import MotionPairs

__all__ = [
    "ClipSet",
    "carried_clips",
    "clip_over",
    "clips_for",
    "clips_of_part",
    "lost_clips",
    "only_clip_called",
    "part_of",
    "stated_holds",
    "warped_or_faded",
    "with_clip_called",
    "with_clips_alone",
    "with_rate",
]


class ClipSet(NamedTuple):
    """Clips, groups of them, and what a person should know of both."""

    clips: tuple[Clip, ...]
    groups: tuple[Group, ...] = ()
    notes: tuple[str, ...] = ()


def clips_for(sequence: FrameSequence, timing_of: Callable[[str], Timing]) -> tuple[Clip, ...]:
    """The clips that came with the frames, else one over all of them.

    The timing of each, by its name, replaces what it says, and nothing else: of a clip that there is, the holds, the
    timebase or the repeat.
    """
    if not sequence.clips:
        timing = timing_of(sequence.clip_name)
        timing = timing._replace(repeat=_stated_repeat(sequence) if timing.repeat is None else timing.repeat)
        return (clip_of_frames(sequence.clip_name, [frame.duration for frame in sequence.frames], timing),)
    return tuple(_timed(clip, timing_of(clip.name)) for clip in sequence.clips)


def only_clip_called(clips: ClipSet, name: str) -> ClipSet:
    """The one clip that there is, by this name.

    Raises
    ------
    UsageError
        If there are several.
    """
    if len(clips.clips) > 1:
        names = first_few([clip.name for clip in clips.clips])
        raise UsageError(
            f"{option('name', name)} is for one clip, found {len(clips.clips)}: {names}; kivel retime with "
            f"{option('clip', clips.clips[0].name)} {option('rename', name)} renames one of them"
        )
    groups = tuple(group.renamed({clip.name: name for clip in clips.clips}) for group in clips.groups)
    return clips._replace(clips=tuple(replace(clip, name=name) for clip in clips.clips), groups=groups)


def with_clip_called(sequence: FrameSequence, name: str | None, *, otherwise: str) -> FrameSequence:
    """The sequence, its one clip by this name; a clip that is still to be made is else called `otherwise`.

    Raises
    ------
    UsageError
        If it has several clips, and a name is given.
    """
    if not sequence.clips or name is None:
        return sequence._replace(called=name or otherwise)
    named = only_clip_called(ClipSet(sequence.clips, sequence.groups), name)
    return sequence._replace(clips=named.clips, groups=named.groups)


def _timed(clip: Clip, timing: Timing) -> Clip:
    if timing == Timing():
        return clip
    from kivel.core.playback.changes import Changes, changed

    changes = Changes(fps=timing.fps, hold=timing.hold, timebase=timing.timebase, repeat=timing.repeat)
    return changed(clip, changes).clip


def _stated_repeat(sequence: FrameSequence) -> Repeat | None:
    """How often an animated image plays, if the frames are all of one."""
    return sequence.frames[0].repeat if len({frame.path for frame in sequence.frames}) == 1 else None


def _plain_clip(sequence: FrameSequence) -> Clip | None:
    """The one clip of a sequence, if it shows every frame once and in order: its holds are then the frames' own."""
    if len(sequence.clips) != 1:
        return None
    clip = sequence.clips[0]
    return clip if [step.frame for step in clip.steps] == list(range(len(sequence.frames))) else None


def stated_holds(sequence: FrameSequence) -> list[Fraction | None]:
    """How long each frame shows, in seconds: by the one clip over all, else as its file says, None if it does not."""
    clip = _plain_clip(sequence)
    if clip:
        return [clip.seconds(step.hold) for step in clip.steps]
    return [frame.duration for frame in sequence.frames]


def part_of(sequence: FrameSequence, indexes: Sequence[int]) -> FrameSequence:
    """Some of its frames, in any order, with the clips that play as before, each in a note that does not."""
    if list(indexes) == list(range(len(sequence.frames))):
        return sequence
    kept = clips_of_part(ClipSet(sequence.clips, sequence.groups), len(sequence.frames), indexes)
    return sequence._replace(
        frames=tuple(sequence.frames[index] for index in indexes),
        maps=tuple(one.chosen(indexes) for one in sequence.maps),
        clips=kept.clips,
        groups=kept.groups,
        described_by=None,
        sheet=sequence.sheet and sequence.sheet._replace(cuts=()),
    ).noted(*kept.notes)


def with_clips_alone(sequence: FrameSequence, clips: Sequence[Clip]) -> FrameSequence:
    """The frames that some of its clips show, with these clips; named after the clip if it is only one."""
    names = {clip.name: clip.name for clip in clips}
    groups = (group.renamed(names) for group in sequence.groups)
    alone = sequence._replace(
        stem=clips[0].name if len(clips) == 1 else sequence.stem,
        clips=tuple(replace(clip, then=clip.then if clip.then in names else None) for clip in clips),
        groups=tuple(group for group in groups if group.members),
        described_by=None,
    )
    return part_of(alone, sorted({frame for clip in clips for frame in clip.shown_frames}))


def clips_of_part(clips: ClipSet, count: int, indexes: Sequence[int]) -> ClipSet:
    """The clips of `count` frames where only some are left: those all of whose frames are; one over all, shortened.

    Others are left out, and groups that have no clips left, each with a note.
    """
    places = {index: place for place, index in enumerate(indexes)}
    notes: list[str] = []
    kept: list[Clip] = []
    for clip in clips.clips:
        if places.keys() >= {step.frame for step in clip.steps}:
            kept.append(clip.renumbered(places))
        elif [step.frame for step in clip.steps] == list(range(count)):
            kept.append(_shortened(clip, indexes))
            notes += _events_left(clip, kept[-1])
    names = {clip.name for clip in kept}
    left = [clip.name for clip in clips.clips if clip.name not in names]
    notes += [f"clips skipped, some of their frames are not used: {first_few(left)}"] if left else []
    groups = tuple(each.renamed({name: name for name in names}) for each in clips.groups)
    kept = [replace(clip, then=clip.then if clip.then in names else None) for clip in kept]
    empty = [group.name for group in groups if not group.members]
    notes += [f"groups skipped, none of their clips is left: {first_few(empty)}"] if empty else []
    return ClipSet(tuple(kept), tuple(group for group in groups if group.members), tuple(notes))


def _shortened(clip: Clip, indexes: Sequence[int]) -> Clip:
    """A clip that showed every frame once, over some of them; it starts at the same share of its cycle."""
    steps = tuple(Step(place, clip.steps[index].hold) for place, index in enumerate(indexes))
    places = {index: place for place, index in enumerate(indexes)}
    events = tuple(replace(event, step=places[event.step]) for event in clip.events if event.step in places)
    events = tuple(sorted(events, key=lambda event: event.step))
    new = replace(clip, steps=steps, frames=None, events=events, phase=Fraction(0))
    return _at_the_same_share(new, clip) if clip.phase else new


def _at_the_same_share(new: Clip, before: Clip) -> Clip:
    """It starts where in its cycle the one before does."""
    from kivel.core.playback.player import Player, phase_at_share

    return replace(new, phase=phase_at_share(new, Player(before).phase_share))


def _events_left(before: Clip, after: Clip) -> list[str]:
    count = len(before.events) - len(after.events)
    are = "is dropped, its step is" if count == 1 else "are dropped, their steps are"
    return [f'clip "{before.name}": {counted(count, "event")} {are} not taken'] if count else []


def warped_or_faded(clip: Clip, motion: MotionPairs | None, *, asked: bool) -> tuple[Clip, list[str]]:
    """A clip, faded if it is to be warped and some of its changes have no motion, and what there is to say of that.

    Raises
    ------
    UsageError
        If that was asked for, and cannot be.
    """
    if clip.interpolation != "motion":
        return clip, []
    from kivel.core.motion.pairs import why_not_warped

    reason = why_not_warped(clip, motion)
    if reason is None:
        return clip, []
    if asked:
        fades = option("interpolation", "linear")
        raise UsageError(f'clip "{clip.name}" cannot be warped: {reason}; {_to_warp(clip, motion)}; {fades} fades')
    return replace(clip, interpolation="linear"), [f'clip "{clip.name}" is now cross-faded, not warped: {reason}']


def _to_warp(clip: Clip, motion: MotionPairs | None) -> str:
    """Return what would give a clip the vectors that it lacks."""
    from kivel.core.motion.pairs import why_not_warped

    again = f"kivel sheet with {option('motion', True)}"
    if motion is None:
        return f"{again} makes a map"
    if why_not_warped(replace(clip, repeat=1), motion) is None:
        return (
            f"the map was made for a clip that does not loop: {option('repeat', '1')} needs nothing else, {again} with "
            f"{option('repeat', 'forever')} makes one that loops"
        )
    return f"the map was made for another order: {again} with this order makes a new one"


def with_rate(sequence: FrameSequence, fps: Fraction) -> FrameSequence:
    """The sequence at this frame rate: frames show for that long, and so do the steps of its clips."""
    frames = tuple(frame._replace(duration=1 / fps) for frame in sequence.frames)
    clips = tuple(_timed(clip, Timing(fps=fps)) for clip in sequence.clips)
    return sequence._replace(frames=frames, clips=clips)


def clip_over(sequence: FrameSequence, holds: Sequence[Fraction | None]) -> Clip:
    """A clip over new frames, in order, that plays as the one that the sequence came with did."""
    clip = clip_of_frames(sequence.clip_name, holds, Timing(repeat=_stated_repeat(sequence)))
    before = _plain_clip(sequence)
    if not before:
        return clip
    new = replace(before, timebase=clip.timebase, steps=clip.steps, events=(), phase=Fraction(0))
    return _at_the_same_share(new, before)


def carried_clips(sequence: FrameSequence, chosen: Sequence[Ordered]) -> ClipSet:
    """The clips of frames chosen among a sequence's, and a note where its own clips cannot be kept."""
    if chosen == [Ordered(index) for index in range(len(sequence.frames))]:
        return ClipSet(sequence.clips or (clip_over(sequence, stated_holds(sequence)),), sequence.groups)
    if len(sequence.clips) > 1 and len(set(chosen)) == len({entry.frame for entry in chosen}) == len(chosen):
        return _carried_apart(sequence, chosen)
    holds = stated_holds(sequence)
    new = [_times(holds[entry.frame], entry.times) for entry in chosen]
    return ClipSet((clip_over(sequence, new),), notes=lost_clips(sequence))


def _carried_apart(sequence: FrameSequence, chosen: Sequence[Ordered]) -> ClipSet:
    """Several clips, each frame chosen at most once: each clip loses the others and plays in the new order."""
    from kivel.core.playback.reconciling import FramesNow, reconciled

    names = tuple(frame.name for frame in sequence.frames)
    was = tuple(entry.frame for entry in chosen)
    found = reconciled(sequence.clips, sequence.groups, FramesNow(names, tuple(names[place] for place in was), was))
    longer = {place: entry.times for place, entry in enumerate(chosen)}
    clips = [
        replace(clip, steps=tuple(Step(step.frame, step.hold * longer[step.frame]) for step in clip.steps))
        for clip in found.clips
    ]
    return ClipSet(tuple(clips), found.groups, tuple(text for _, text in found.warnings))


def lost_clips(sequence: FrameSequence) -> tuple[str, ...]:
    """Notes on what is left out when other frames are put in the place of a sequence's, in another order or number."""
    notes = []
    if sequence.clips and not _plain_clip(sequence):
        names = first_few([clip.name for clip in sequence.clips])
        notes.append(f"the manifest's clips are dropped ({names}): they count frames in the old order")
    elif any(clip.events for clip in sequence.clips):
        events = sum(len(clip.events) for clip in sequence.clips)
        are = "is dropped: it counts" if events == 1 else "are dropped: they count"
        notes.append(f"the clip's {counted(events, 'event')} {are} steps in the old order")
    if sequence.groups:
        notes.append(f"groups are dropped with their clips: {first_few([group.name for group in sequence.groups])}")
    return tuple(notes)


def _times(hold: Fraction | None, times: int) -> Fraction | None:
    return hold if times == 1 else (hold or DEFAULT_HOLD) * times
