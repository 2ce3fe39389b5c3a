"""Clips that are made where frames come together: of sequences, of named frames, of the rows of a sheet."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from fnmatch import fnmatchcase
from fractions import Fraction
from typing import NoReturn

from kivel.core.errors import UsageError, located
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Step, Timing, clip_of_frames
from kivel.core.playback.groups import Group
from kivel.core.playback.notation import Ordered, parse_order, within_count
from kivel.sequences.clips import ClipSet, clips_for, stated_holds
from kivel.sequences.sequence import FrameSequence

__all__ = [
    "EACH_FRAME", "ClipRequest", "beside", "clips_of", "clips_of_members", "own_name", "requested_clips", "row_clips",
    "with_own_names",
]  # fmt: skip


class ClipRequest(NamedTuple):
    """A clip of some frames: `4-9` counts all frames, `hen:4-9` those of one sequence, `walk*` names them."""

    name: str
    what: str


EACH_FRAME = ""
"""Asks for a clip of each frame."""


def _each_frame(request: ClipRequest, total: int) -> list[ClipRequest]:
    if request.what != EACH_FRAME:
        return [request]
    return [ClipRequest(f"{request.name}-{number}", str(number)) for number in range(total)]


def requested_clips(
    sequences: Sequence[FrameSequence],
    timing_of: Callable[[str], Timing],
    named: Sequence[ClipRequest],
    *,
    rows: Sequence[Clip] = (),
) -> tuple[Clip, ...]:
    """The clips of rows, if there are any, and those that are named, their steps counted over all frames.

    Raises
    ------
    UsageError
        If a named clip has no frames, or asks for frames that are not there; or if two have one name.
    """
    total = sum(len(sequence.frames) for sequence in sequences)
    requests = [one for request in named for one in _each_frame(request, total)]
    found = (*rows, *(_named_clip(request, sequences, timing_of(request.name)) for request in requests))
    names = [clip.name for clip in found]
    if len(set(names)) < len(names):
        twice = next(name for name in names if names.count(name) > 1)
        raise UsageError(f'two clips are called "{twice}"; rename one')
    return found


def clips_of(
    sequences: Sequence[FrameSequence],
    timing_of: Callable[[str], Timing],
    named: Sequence[ClipRequest] = (),
    *,
    only_moving: bool = False,
) -> ClipSet:
    """The clips of all sequences, their steps counted over all frames, those that are named, and the groups.

    Each sequence has one at least, unless all its frames are in named ones. Under `only_moving` those that do not move
    have none, unless timing is given: files without numbers are a collection, props or tiles.

    Raises
    ------
    UsageError
        If a named clip has no frames, or asks for frames that are not there.
    """
    requested = requested_clips(sequences, timing_of, named)
    names = [clip.name for clip in requested]
    shown = {step.frame for clip in requested for step in clip.steps}
    clips: list[Clip] = []
    groups: list[Group] = []
    first = 0
    for sequence in sequences:
        own = range(first, first + len(sequence.frames))
        is_named = not sequence.clips and shown.issuperset(own)
        if not is_named and (not only_moving or _moves(sequence) or not timing_of(sequence.clip_name).says_nothing):
            found = clips_for(sequence, timing_of)
            called = with_own_names(found, [*names, *(clip.name for clip in clips)])
            new_names = {old.name: new.name for old, new in zip(found, called, strict=True)}
            clips += [_counted_from(_referring(clip, new_names), own) for clip in called]
            groups += [_renamed(group, new_names, groups) for group in sequence.groups]
        first = own.stop
    return ClipSet((*clips, *requested), tuple(groups))


def _renamed(group: Group, new_names: Mapping[str, str], others: Sequence[Group]) -> Group:
    name = own_name(group.name, {other.name for other in others})
    return replace(group.renamed(new_names), name=name)


def _referring(clip: Clip, new_names: Mapping[str, str]) -> Clip:
    """The clip where others that it names have new names."""
    return replace(
        clip,
        then=clip.then and new_names.get(clip.then),
        staggered=clip.staggered and new_names.get(clip.staggered),
    )


def _named_clip(request: ClipRequest, sequences: Sequence[FrameSequence], timing: Timing) -> Clip:
    order = _order_of(request, sequences)
    holds = [hold for sequence in sequences for hold in stated_holds(sequence)]
    clip = clip_of_frames(request.name, [holds[entry.frame] for entry in order], timing)
    steps = (Step(entry.frame, step.hold * entry.times) for entry, step in zip(order, clip.steps, strict=True))
    return replace(clip, steps=tuple(steps))


def _order_of(request: ClipRequest, sequences: Sequence[FrameSequence]) -> list[Ordered]:
    """The frames of a named clip, counted over all sequences.

    Names may have commas: only if nothing is called by all of it, it is a list.
    """
    whole = _frames_called(request.name, request.what, sequences)
    parts = _parts(request.what)
    found = whole or [entry for part in parts for entry in _frames_called(request.name, part, sequences, listed=True)]
    if not found:
        _raise_unknown(request.name, request.what, sequences)
    return found


def _parts(text: str) -> list[str]:
    """A list of names and orders in its parts: an order belongs to the name with a colon before it.

    >>> _parts("hen:4-9,3,owl:2,saw,axe")
    ['hen:4-9,3', 'owl:2', 'saw', 'axe']
    """
    parts: list[str] = []
    for word in text.split(","):
        if parts and ":" in parts[-1] and word[:1].isdigit() and ":" not in word:
            parts[-1] += f",{word}"
        else:
            parts.append(word)
    return parts


def _frames_called(name: str, what: str, sequences: Sequence[FrameSequence], *, listed: bool = False) -> list[Ordered]:
    """The frames that one text means: numbers, `sequence:numbers`, or names by a pattern; a part of a list must be."""
    total = sum(len(sequence.frames) for sequence in sequences)
    # from the right: names may have colons, an order of frames has none
    pattern, separator, frames = what.rpartition(":")
    where = f'clip "{name}"'
    if what[:1].isdigit() and not separator:
        with located(where):
            order = parse_order(what)
            within_count(order, total)
        return order
    found: list[Ordered] = []
    first = 0
    for sequence in sequences:
        count = len(sequence.frames)
        matches = fnmatchcase(sequence.stem, pattern if separator else what)
        if separator and matches:
            with located(f"{where}, {sequence.stem}"):
                order = parse_order(frames)
                within_count(order, count)
            found += [Ordered(first + entry.frame, entry.times) for entry in order]
        elif not separator:
            named = [i for i, frame in enumerate(sequence.frames) if fnmatchcase(frame.name, what)]
            # files that are listed are called after the first of them, which is not what the name of all means
            found += [Ordered(first + i) for i in named or (range(count) if matches else ())]
        first += count
    if listed and not found:
        _raise_unknown(name, pattern if separator else what, sequences)
    return found


def _raise_unknown(name: str, what: str, sequences: Sequence[FrameSequence]) -> NoReturn:
    total = sum(len(sequence.frames) for sequence in sequences)
    stems = ", ".join(sequence.stem for sequence in sequences)
    raise UsageError(
        f'clip "{name}": no frame and no sequence is called {what!r}; sequences: {stems}; frames 0-{total - 1}'
    )


def row_clips(
    names: Sequence[str],
    places: Sequence[tuple[int, int]],
    holds: Sequence[Fraction | None],
    timing_of: Callable[[str], Timing],
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
    return clips_of_members(
        {
            name: [index for _, index in sorted((at, index) for index, (each, at) in enumerate(places) if each == row)]
            for name, row in zip(names, rows, strict=True)
        },
        holds,
        timing_of,
    )


def clips_of_members(
    members: Mapping[str, Sequence[int]], holds: Sequence[Fraction | None], timing_of: Callable[[str], Timing]
) -> tuple[Clip, ...]:
    """A clip by each name, of these frames in this order."""
    clips = []
    for name, frames in members.items():
        clip = clip_of_frames(name, [holds[index] for index in frames], timing_of(name))
        steps = tuple(Step(index, step.hold) for index, step in zip(frames, clip.steps, strict=True))
        clips.append(replace(clip, steps=steps))
    return tuple(clips)


def _moves(sequence: FrameSequence) -> bool:
    if sequence.manifests:
        return bool(sequence.clips)
    frames = sequence.frames
    # numbered files, stated durations or one animated file are a movement; other names are a collection
    return len(frames) > 1 and (
        frames[0].number is not None or frames[0].duration is not None or len({f.path for f in frames}) == 1
    )


def beside(found: ClipSet, clips: Sequence[Clip], groups: Sequence[Group]) -> ClipSet:
    """The clips and groups found, by names that those already there do not have."""
    called = with_own_names(found.clips, [clip.name for clip in clips])
    new_names = {old.name: new.name for old, new in zip(found.clips, called, strict=True)}
    called = tuple(_referring(clip, new_names) for clip in called)
    added: list[Group] = []
    for group in found.groups:
        added.append(_renamed(group, new_names, [*groups, *added]))
    return found._replace(clips=called, groups=tuple(added))


def own_name(name: str, taken: set[str]) -> str:
    """A name that is not taken: `moth`, `moth-2`."""
    number = 2
    own = name
    while own in taken:
        own, number = f"{name}-{number}", number + 1
    return own


def with_own_names(clips: Sequence[Clip], taken: Sequence[str]) -> tuple[Clip, ...]:
    """The same clips, none called as another or as one of `taken`."""
    names = set(taken)
    renamed = []
    for clip in clips:
        name = own_name(clip.name, names)
        names.add(name)
        renamed.append(clip if name == clip.name else replace(clip, name=name))
    return tuple(renamed)


def _counted_from(clip: Clip, own: range) -> Clip:
    """The same clip where its frames are these."""
    return clip.renumbered(dict(enumerate(own))) if own.start else clip
