"""The clips and groups of a manifest, changed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from typing import NamedTuple

from kivel.core.errors import UsageError, option
from kivel.core.playback.changes import Changes, changed, set_by, with_set
from kivel.core.playback.clip import DEFAULT_HOLD, Clip, Step, Timing
from kivel.core.playback.groups import Group, GroupRequest, chosen_clips, listed_clips, with_groups
from kivel.core.playback.retiming import scattered, staggered
from kivel.files.manifest.model import Manifest
from kivel.sequences.named_clips import row_clips

__all__ = ["ClipChange", "RetimeRequest", "Retimed", "retimed"]


class RetimeRequest(NamedTuple):
    """What to do with which clips; none named is all.

    `new` keeps the old clip and gives its changed copy this name. `stagger` is how many clips at spread phases to add,
    scattered by `seed` if there is one.
    """

    patterns: tuple[str, ...] = ()
    changes: Changes = Changes()
    new: str | None = None
    rename: str | None = None
    remove: bool = False
    stagger: int = 0
    seed: int | None = None
    groups: tuple[GroupRequest, ...] = ()
    row_clips: tuple[str, ...] = ()


class ClipChange(NamedTuple):
    """A clip before and after; None for what was or is not there."""

    before: Clip | None
    after: Clip | None


class Retimed(NamedTuple):
    """The manifest with its new clips, what changed, and what a person should know."""

    manifest: Manifest
    pairs: tuple[ClipChange, ...]
    notes: tuple[str, ...]


def retimed(manifest: Manifest, request: RetimeRequest) -> Retimed:
    """A manifest whose clips play otherwise.

    Raises
    ------
    UsageError
        If a clip, frame or step that is named is not there, a name is taken, or a group would be empty.
    """
    if request.row_clips:
        chosen = _clips_of_rows(manifest, request.row_clips)
    else:
        chosen = [_base(manifest, request)] if request.new else chosen_clips(manifest.clips, request.patterns)
    is_new = bool(request.row_clips or request.new)
    if not chosen and not request.groups:
        raise UsageError(f"the manifest has no clips; make one: {option('new', 'NAME')} {option('order', '0-7')}")
    if request.remove:
        return _removed(manifest, request, chosen)
    pairs: list[ClipChange] = []
    notes: list[str] = []
    for clip in chosen:
        result = changed(clip, request.changes, frames=len(manifest.frames))
        notes += result.notes
        words = ("added",) if is_new else (*set_by(request.changes), *(("name",) if request.rename else ()))
        pairs.append(ClipChange(None if is_new else clip, with_set(result.clip, words)))
    if request.rename:
        pairs = [_renamed(pairs, request.rename)]
    pairs += [
        ClipChange(None, with_set(each, ("added",)))
        for pair in pairs
        if pair.after
        for each in _spread(pair.after, request)
    ]
    clips, said = _merged(manifest.clips, pairs)
    groups = _renamed_members(manifest.groups, pairs)
    manifest = replace(manifest, clips=clips, groups=with_groups(groups, clips, request.groups))
    return Retimed(manifest, tuple(pairs), (*notes, *said))


def _clips_of_rows(manifest: Manifest, names: Sequence[str]) -> list[Clip]:
    """A clip for each row, its frames held as they are by the first clip that shows them."""
    places = manifest.cells_in_rows()
    if not places:
        raise UsageError(f"{option('row-clips')} names the rows of a sheet; an atlas has none")
    holds: dict[int, Fraction] = {}
    for clip in manifest.clips:
        for step in clip.steps:
            holds.setdefault(step.frame, clip.seconds(step.hold))
    return list(row_clips(names, places, [holds.get(frame) for frame in range(len(places))], Timing()))


def _base(manifest: Manifest, request: RetimeRequest) -> Clip:
    """What a new clip is made of: the one clip named, or the only one, or for an order the default timing."""
    name = request.new or ""
    chosen = chosen_clips(manifest.clips, request.patterns)
    if len(chosen) == 1:
        return replace(chosen[0], name=name)
    if request.changes.order and not request.patterns:
        return Clip(name, 1 / DEFAULT_HOLD, (Step(0, 1),))
    which = f"say which by {option('clip')}, or {option('order')}"
    raise UsageError(f"{option('new')} is made of one clip; {which}; {listed_clips(manifest.clips)}")


def _removed(manifest: Manifest, request: RetimeRequest, chosen: Sequence[Clip]) -> Retimed:
    if not request.patterns:
        raise UsageError(f"{option('remove')}: say which by {option('clip')}; {listed_clips(manifest.clips)}")
    gone = {clip.name for clip in chosen}
    groups = [
        replace(group, members=tuple(member for member in group.members if member not in gone))
        for group in manifest.groups
    ]
    notes = [f'group "{group.name}" is left out, no clips are left in it' for group in groups if not group.members]
    clips = tuple(clip for clip in manifest.clips if clip.name not in gone)
    kept = tuple(group for group in groups if group.members)
    pairs = tuple(ClipChange(clip, None) for clip in chosen)
    manifest = replace(manifest, clips=clips, groups=with_groups(kept, clips, request.groups))
    return Retimed(manifest, pairs, tuple(notes))


def _renamed(pairs: Sequence[ClipChange], name: str) -> ClipChange:
    if len(pairs) != 1 or pairs[0].after is None:
        names = ", ".join(pair.before.name for pair in pairs if pair.before)
        raise UsageError(f"{option('rename')} gives one clip another name; say which by {option('clip')}: {names}")
    return ClipChange(pairs[0].before, replace(pairs[0].after, name=name))


def _spread(clip: Clip, request: RetimeRequest) -> list[Clip]:
    if not request.stagger:
        return []
    if request.seed is None:
        return staggered(clip, request.stagger)
    return scattered(clip, request.stagger, seed=request.seed)


def _merged(clips: Sequence[Clip], pairs: Sequence[ClipChange]) -> tuple[tuple[Clip, ...], list[str]]:
    """The clips with those changed in their places and the new ones at the end, or in the place of an older one."""
    changes = {pair.before.name: pair.after for pair in pairs if pair.before and pair.after}
    result = [changes.get(clip.name, clip) for clip in clips]
    names = [clip.name for clip in result]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice:
        raise UsageError(f'there is a clip "{twice}" already; choose another name, or {option("remove")} it first')
    notes = []
    for pair in pairs:
        if pair.before is None and pair.after:
            if pair.after.name in names:
                notes.append(f'clip "{pair.after.name}" was there, and is replaced')
                result[names.index(pair.after.name)] = pair.after
            else:
                result.append(pair.after)
    return tuple(result), notes


def _renamed_members(groups: Sequence[Group], pairs: Sequence[ClipChange]) -> tuple[Group, ...]:
    names = {pair.before.name: pair.after.name for pair in pairs if pair.before and pair.after}
    return tuple(replace(group, members=tuple(names.get(name, name) for name in group.members)) for group in groups)
