"""Describes what was set about clips, over the frames that are there now: some added, removed, renamed, in another
order.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from types import MappingProxyType

from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import series_name
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.groups import Group
from kivel.core.playback.player import Player
from kivel.core.playback.retiming import at_share, keeps_share
from kivel.core.wording import WARNING, first_few

__all__ = ["FramesNow", "Joined", "Reconciled", "moved_in_place", "reconciled"]


class FramesNow(NamedTuple):
    """The frames by their names, before and now, and the number that each of now had before; None: it was added."""

    before: tuple[str, ...]
    now: tuple[str, ...]
    was: tuple[int | None, ...]

    def numbers(self) -> dict[int, int]:
        """The number that each frame of before has now, of those that are there."""
        return {before: now for now, before in enumerate(self.was) if before is not None}

    @property
    def unchanged(self) -> bool:
        """Whether the same frames are there in the same order, whatever they are called."""
        return self.was == tuple(range(len(self.before)))


class Joined(NamedTuple):
    """An added frame that shows in a clip now: behind which frame, or before the first, and for how long, in seconds.

    It is in no step where the clip plays an order that leaves it no place: `hold` is None then.
    """

    clip: str
    after: int | None
    hold: Fraction | None


class Reconciled(NamedTuple):
    """Clips and groups over the frames of now.

    `joined` says for each added frame which clips it is in; `renamed` gives new names of clips by the old ones, and
    `gone` has the clips of which no frames are left. `warnings` tell what somebody may not want, and of which clip.
    """

    clips: tuple[Clip, ...]
    groups: tuple[Group, ...]
    joined: dict[int, tuple[Joined, ...]]
    renamed: dict[str, str]
    gone: tuple[str, ...]
    warnings: tuple[tuple[str, str], ...]


def reconciled(
    clips: Sequence[Clip],
    groups: Sequence[Group],
    frames: FramesNow,
    members: Mapping[str, Collection[int]] = MappingProxyType({}),
) -> Reconciled:
    """Return the clips of before over the frames of now.

    Frames that were removed leave their clips, which get shorter by their time; an event on one moves to the step that
    shows at its time. A frame that was added joins each clip that shows the frames on both sides of it, or the frame
    beside it in the same series, with the hold of the frame before it. Where a clip showed its frames in their order it
    goes on to do so. Clips that are called after their frames take the new name where all of these have one.

    Parameters
    ----------
    frames : FramesNow
        `was` pairs them; names decide which frames are of one series.
    members : mapping of str to collection of int
        By a clip's name the frames of now that are known to be in it, whatever their names say.
    """
    if frames.unchanged and frames.before == frames.now:
        return Reconciled(tuple(clips), tuple(groups), {}, {}, (), ())
    number = frames.numbers()
    warnings: list[tuple[str, str]] = []
    moved = [(clip, moved_in_place(clip, number, warnings)) for clip in clips]
    before, kept = [old for old, new in moved if new], [new for _, new in moved if new]
    gone = tuple(old.name for old, new in moved if not new)
    joined: dict[int, tuple[Joined, ...]] = {}
    for place, old_number in enumerate(frames.was):
        if old_number is None:
            kept, joined[place] = _with_added(kept, place, frames, members)
    kept = [_in_phase(new, old) for new, old in zip(kept, before, strict=True)]
    names = _new_names(kept, frames)
    kept = [_called(clip, names) for clip in kept]
    joined = {
        place: tuple(one._replace(clip=names.get(one.clip, one.clip)) for one in each) for place, each in joined.items()
    }
    kept, found, said = _without(gone, kept, groups, _all_names(kept, names))
    return Reconciled(tuple(kept), tuple(found), joined, names, gone, (*warnings, *said))


def moved_in_place(clip: Clip, number: Mapping[int, int], warnings: list[tuple[str, str]]) -> Clip | None:
    """Return a clip where its frames have the numbers of now, without those that have none; None if none is left.

    Steps that were in the order of their frames are so again. Events on steps that are gone move on, told in
    `warnings`.
    """
    kept = [place for place, step in enumerate(clip.steps) if step.frame in number]
    if not kept:
        return None
    shown = [step.frame for step in clip.steps]
    # of equal frames that follow each other, as of a single one, the order is theirs
    if shown == sorted(set(shown)):
        kept.sort(key=lambda place: number[shown[place]])
    new_place = {old: new for new, old in enumerate(kept)}
    steps = tuple(Step(number[clip.steps[place].frame], clip.steps[place].hold) for place in kept)
    own = clip.frames and tuple(sorted(number[frame] for frame in clip.frames if frame in number))
    events = []
    for event in clip.events:
        place = new_place.get(event.step)
        if place is None:
            place = _shown_then(clip, event.step, new_place)
            what = f'{WARNING}clip "{clip.name}": event "{event.name}"'
            said = f"{what}: its frame was removed; moved to the step that shows at its time"
            warnings.append((clip.name, said))
        events.append(replace(event, step=place))
    return replace(clip, steps=steps, frames=own, events=_once_each(events))


def _shown_then(clip: Clip, step: int, new_place: Mapping[int, int]) -> int:
    """The step that shows when the one that is gone began to."""
    later = range(step + 1, len(clip.steps)) if not clip.begins_at_end else range(step - 1, -1, -1)
    following = next((new_place[place] for place in later if place in new_place), None)
    if following is not None:
        return following
    first, last = (0, len(new_place) - 1) if not clip.begins_at_end else (len(new_place) - 1, 0)
    return first if clip.repeat == "forever" and not clip.alternates else last


def _once_each(events: Sequence[Event]) -> tuple[Event, ...]:
    """In the order of their steps, none twice on one."""
    found = {(event.step, event.name): event for event in reversed(events)}
    return tuple(sorted(found.values(), key=lambda event: (event.step, events.index(event))))


def _with_added(
    clips: Sequence[Clip], place: int, frames: FramesNow, members: Mapping[str, Collection[int]]
) -> tuple[list[Clip], tuple[Joined, ...]]:
    """The clips with an added frame in those that it belongs to; those before it are in place."""
    before = place - 1 if place else None
    after = next((n for n in range(place + 1, len(frames.was)) if frames.was[n] is not None), None)
    of_before = before is not None and _one_series(frames.now[place], frames.now[before])
    of_after = after is not None and _one_series(frames.now[place], frames.now[after])
    owners = [set(clip.own_frames) for clip in clips]
    known = [place in members[clip.name] if clip.name in members else None for clip in clips]
    behind = [
        before in own and (of_before or after in own if is_member is None else is_member)
        for own, is_member in zip(owners, known, strict=True)
    ]
    ahead = [
        after in own and (not any(behind) and of_after if is_member is None else is_member and before not in own)
        for own, is_member in zip(owners, known, strict=True)
    ]
    result: list[Clip] = []
    joined: list[Joined] = []
    for clip, follows, leads in zip(clips, behind, ahead, strict=True):
        if follows and before is not None:
            new, hold = _behind(clip, place, before, after)
        elif leads and after is not None:
            new, hold = _ahead(clip, place, after)
        else:
            result.append(clip)
            continue
        result.append(new)
        joined.append(Joined(clip.name, before if follows else None, hold))
    return result, tuple(joined)


def _one_series(added: str, other: str) -> bool:
    """Whether an added frame is called as another is, but for the number, or after it."""
    rest = added[len(other) :] if added.startswith(other) else "0"
    return series_name(added) == series_name(other) or not rest[:1].isdigit()


def _behind(clip: Clip, place: int, before: int, after: int | None) -> tuple[Clip, Fraction | None]:
    """A clip with a frame between two others wherever these follow each other; or behind the one it ends with."""
    shown = [step.frame for step in clip.steps]
    if after in clip.own_frames:
        pair = {before, after}
        gaps = [gap for gap in range(1, len(shown)) if {shown[gap - 1], shown[gap]} == pair]
    else:
        gaps = [shown.index(before) + 1] if before in shown else []
    return _with_steps(clip, place, gaps)


def _ahead(clip: Clip, place: int, after: int) -> tuple[Clip, Fraction | None]:
    """A clip with a frame before the one that it begins with."""
    shown = [step.frame for step in clip.steps]
    return _with_steps(clip, place, [shown.index(after)] if after in shown else [])


def _with_steps(clip: Clip, place: int, gaps: Sequence[int]) -> tuple[Clip, Fraction | None]:
    """A clip that shows a frame in these gaps between its steps, each time as long as the step before it."""
    own = tuple(sorted({*clip.own_frames, place}))
    steps, events, hold = list(clip.steps), list(clip.events), None
    for gap in reversed(gaps):
        hold = clip.steps[max(gap - 1, 0)].hold
        steps.insert(gap, Step(place, hold))
        events = [replace(event, step=event.step + 1) if event.step >= gap else event for event in events]
    new = replace(clip, steps=tuple(steps), events=tuple(events))
    new = replace(new, frames=None if new.shown_frames == own else own)
    return new, None if hold is None else clip.seconds(hold)


def _new_names(clips: Sequence[Clip], frames: FramesNow) -> dict[str, str]:
    """New names of clips that were called after their frames, all of which are called otherwise now."""
    taken = {clip.name for clip in clips}
    names: dict[str, str] = {}
    for clip in clips:
        pairs = [
            (frames.before[was], frames.now[now]) for now in clip.own_frames if (was := frames.was[now]) is not None
        ]
        series = {(series_name(before), series_name(now)) for before, now in pairs}
        if len(series) != 1:
            continue
        ((old, new),) = series
        if old in (clip.name, clip.was) and new and new != old and new not in {*taken, *names.values()}:
            names[old] = new
    return names


def _called(clip: Clip, names: Mapping[str, str]) -> Clip:
    """A clip where it, and those that it names, have new names."""
    return replace(
        clip,
        name=names.get(clip.name, clip.name),
        was=clip.was and names.get(clip.was, clip.was),
        then=clip.then and names.get(clip.then, clip.then),
        staggered=clip.staggered and names.get(clip.staggered, clip.staggered),
    )


def _all_names(clips: Sequence[Clip], names: Mapping[str, str]) -> dict[str, str]:
    """The names of clips that groups may have, and what they are now."""
    there = {clip.name: clip.name for clip in clips}
    return there | {old: new for old, new in names.items() if new in there}


def _without(
    gone: Sequence[str], clips: Sequence[Clip], groups: Sequence[Group], there: Mapping[str, str]
) -> tuple[list[Clip], list[Group], list[tuple[str, str]]]:
    """Clips and groups that do not name clips of which nothing is left."""
    said = [(name, f'{WARNING}clip "{name}" removed: all its frames were removed') for name in gone]
    kept = []
    for clip in clips:
        if clip.then is not None and clip.then in gone:
            text = f'{WARNING}clip "{clip.name}": nothing follows it now, "{clip.then}" was removed'
            said.append((clip.name, text))
            clip = replace(clip, then=None)
        kept.append(replace(clip, staggered=None if clip.staggered in gone else clip.staggered))
    found = [group.renamed(there) for group in groups]
    for old, new in zip(groups, found, strict=True):
        lost = [member for member in old.members if member in gone]
        if not new.members:
            said.append((old.name, f'{WARNING}group "{old.name}" removed: it has no clips left'))
        elif lost:
            said.append((old.name, f'{WARNING}group "{old.name}" no longer has {first_few(lost)}'))
    return kept, [group for group in found if group.members], said


def _in_phase(clip: Clip, before: Clip) -> Clip:
    """A clip that starts at the same share of its cycle, where its steps are others now."""
    if keeps_share(before):
        return at_share(clip, before.phase_share or Fraction(0))
    if not before.phase or [step.hold for step in clip.steps] == [step.hold for step in before.steps]:
        return clip
    return replace(at_share(clip, Player(before).phase_share), phase_share=None)
