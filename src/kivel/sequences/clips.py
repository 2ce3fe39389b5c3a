"""The clips that frames come with, or get."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fnmatch import fnmatchcase
from fractions import Fraction
from typing import TYPE_CHECKING, NamedTuple

from kivel.core.errors import UsageError, located
from kivel.core.playback.clip import DEFAULT_HOLD, Clip, Repeat, Step, Timing, clip_of_frames
from kivel.core.playback.notation import Ordered, parse_order, within_count
from kivel.core.playback.player import Player, phase_at_share
from kivel.sequences.sequence import Frames

if TYPE_CHECKING:  # the models are slow to load
    from kivel.files.manifest.model import Group

__all__ = [
    "ClipRequest",
    "carried_clips",
    "clip_over",
    "clips_for",
    "clips_of",
    "groups_of",
    "row_clips",
    "stated_holds",
    "with_own_names",
]


def clips_for(frames: Frames, timing: Timing) -> tuple[Clip, ...]:
    """The clips that came with the frames, else one over all of them; `timing` overrides what it names."""
    if not (frames.clips and timing.says_nothing):
        timing = timing._replace(repeat=_stated_repeat(frames) if timing.repeat is None else timing.repeat)
        return (clip_of_frames(frames.stem, [frame.duration for frame in frames.frames], timing),)
    repeat = timing.repeat
    return frames.clips if repeat is None else tuple(replace(clip, repeat=repeat) for clip in frames.clips)


def _stated_repeat(frames: Frames) -> Repeat | None:
    """How often an animated image plays, if the frames are all of one."""
    return frames.frames[0].repeat if len({frame.path for frame in frames.frames}) == 1 else None


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
    if not before:
        return clip
    new = replace(before, timebase=clip.timebase, steps=clip.steps, events=(), phase=Fraction(0))
    return replace(new, phase=phase_at_share(new, Player(before).phase_share))


def carried_clips(frames: Frames, chosen: Sequence[Ordered]) -> tuple[tuple[Clip, ...], list[str]]:
    """The clips of frames chosen among `frames`, and a note where their own clips cannot be kept."""
    if chosen == [Ordered(index) for index in range(len(frames.frames))]:
        return frames.clips or (clip_over(frames, stated_holds(frames)),), []
    holds = stated_holds(frames)
    new = [_times(holds[entry.frame], entry.times) for entry in chosen]
    lost = frames.clips and not _plain_clip(frames)
    notes = ["the manifest's clips are left out, they count frames by their old order"] if lost else []
    events = sum(len(clip.events) for clip in frames.clips)
    if events and not lost:
        notes.append("the clip's events are left out, they count steps by their old order")
    return (clip_over(frames, new),), notes


def _times(hold: Fraction | None, times: int) -> Fraction | None:
    return hold if times == 1 else (hold or DEFAULT_HOLD) * times


class ClipRequest(NamedTuple):
    """A clip of some frames: `4-9` counts all frames, `hen:4-9` those of one sequence, `walk*` names them."""

    name: str
    what: str


def clips_of(
    sequences: Sequence[Frames], timing: Timing, named: Sequence[ClipRequest] = (), *, only_moving: bool = False
) -> tuple[Clip, ...]:
    """The clips of all sequences, their steps counted over all frames, and those that are named.

    Each sequence has one at least, unless all its frames are in named ones. Under `only_moving` those that do not move
    have none, unless timing is given: files without numbers are a collection, props or tiles.

    Raises
    ------
    UsageError
        If a named clip has no frames, or asks for frames that are not there.
    """
    requested = [_named_clip(request, sequences, timing) for request in named]
    shown = {step.frame for clip in requested for step in clip.steps}
    clips: list[Clip] = []
    first = 0
    for sequence in sequences:
        own = range(first, first + len(sequence.frames))
        is_named = not sequence.clips and shown.issuperset(own)
        if not is_named and (not only_moving or _moves(sequence) or not timing.says_nothing):
            clips += [_counted_from(clip, first) for clip in clips_for(sequence, timing)]
        first = own.stop
    taken = [clip.name for clip in requested]
    if len(set(taken)) < len(taken):
        twice = next(name for name in taken if taken.count(name) > 1)
        raise UsageError(f'two clips are called "{twice}"; give each a name of its own')
    return (*with_own_names(clips, taken), *requested)


def _named_clip(request: ClipRequest, sequences: Sequence[Frames], timing: Timing) -> Clip:
    order = _order_of(request, sequences)
    holds = [hold for sequence in sequences for hold in stated_holds(sequence)]
    clip = clip_of_frames(request.name, [holds[entry.frame] for entry in order], timing)
    steps = (Step(entry.frame, step.hold * entry.times) for entry, step in zip(order, clip.steps, strict=True))
    return replace(clip, steps=tuple(steps))


def _order_of(request: ClipRequest, sequences: Sequence[Frames]) -> list[Ordered]:
    """The frames of a named clip, counted over all sequences."""
    total = sum(len(sequence.frames) for sequence in sequences)
    pattern, separator, frames = request.what.rpartition(":")
    where = f'clip "{request.name}"'
    if request.what[:1].isdigit() and not separator:
        with located(where):
            order = parse_order(request.what)
            within_count(order, total)
        return order
    found: list[Ordered] = []
    first = 0
    for sequence in sequences:
        count = len(sequence.frames)
        matches = fnmatchcase(sequence.stem, pattern if separator else request.what)
        if separator and matches:
            with located(f"{where}, {sequence.stem}"):
                order = parse_order(frames)
                within_count(order, count)
            found += [Ordered(first + entry.frame, entry.times) for entry in order]
        elif not separator:
            names = [frame.name for frame in sequence.frames]
            found += [Ordered(first + i) for i, name in enumerate(names) if matches or fnmatchcase(name, request.what)]
        first += count
    if not found:
        stems = ", ".join(sequence.stem for sequence in sequences)
        raise UsageError(
            f"{where}: no frame and no sequence is called {pattern if separator else request.what!r}; "
            f"sequences: {stems}; frames 0-{total - 1}"
        )
    return found


def row_clips(
    names: Sequence[str], places: Sequence[tuple[int, int]], holds: Sequence[Fraction | None], timing: Timing
) -> tuple[Clip, ...]:
    """A clip for each row of a sheet.

    Parameters
    ----------
    places : sequence of (int, int)
        For each frame its row and where it lies in it, in any whole numbers that rise.

    Raises
    ------
    UsageError
        If there are more or fewer names than rows with frames.
    """
    rows = sorted({row for row, _ in places})
    if len(names) != len(rows):
        sizes = ", ".join(str(sum(row == each for row, _ in places)) for each in rows)
        raise UsageError(f"{len(names)} names for {len(rows)} rows with frames ({sizes} in each); name every row")
    clips = []
    for name, row in zip(names, rows, strict=True):
        frames = sorted((place[1], index) for index, place in enumerate(places) if place[0] == row)
        clip = clip_of_frames(name, [holds[index] for _, index in frames], timing)
        steps = tuple(Step(index, step.hold) for (_, index), step in zip(frames, clip.steps, strict=True))
        clips.append(replace(clip, steps=steps))
    return tuple(clips)


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
    """The groups of a single sequence all of whose clips are kept."""
    alone = sequences[0] if len(sequences) == 1 else None
    names = {clip.name for clip in clips}
    return tuple(g for g in alone.manifest.groups if names.issuperset(g.members)) if alone and alone.manifest else ()


def _counted_from(clip: Clip, first: int) -> Clip:
    """The same clip where its frame 0 is number `first`."""
    return replace(clip, steps=tuple(Step(step.frame + first, step.hold) for step in clip.steps)) if first else clip
