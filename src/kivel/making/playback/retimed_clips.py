"""The clips and groups of a manifest, changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from kivel.core.errors import UsageError, option
from kivel.core.motion.pairs import MotionPairs
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.changes import Changes, ClipChanges, changed, set_by, with_set
from kivel.core.playback.clip import DEFAULT_HOLD, Clip, Step, Timing
from kivel.core.playback.groups import Group, GroupRequest, chosen_clips, listed_clips, with_groups
from kivel.core.playback.retiming import scattered, staggered
from kivel.files.manifest.model import Manifest
from kivel.sequences.clips import warped_or_faded
from kivel.sequences.named_clips import row_clips
from kivel.sequences.placed import motion_of_manifest

__all__ = ["ClipChange", "RetimeRequest", "Retimed", "retimed"]


class RetimeRequest(NamedTuple):
    """Holds what to do with which clips; none named is all.

    `new` keeps the old clip and gives its changed copy this name. `stagger` is how many clips at spread phases to add,
    scattered by `seed` if there is one.
    """

    patterns: tuple[str, ...] = ()
    changes: ClipChanges = ClipChanges()
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
        chosen = [_base(manifest, request)] if request.new else _chosen(manifest, request)
    is_new = bool(request.row_clips or request.new)
    if not chosen and not request.groups:
        raise UsageError(f"the manifest has no clips; make one: {option('new', 'NAME')} {option('order', '0-7')}")
    if request.remove:
        return _removed(manifest, request, chosen)
    pairs: list[ClipChange] = []
    notes: list[str] = []
    motion = motion_of_manifest(manifest)
    for clip in chosen:
        changes = request.changes.of(clip.name)
        if not is_new and changes == Changes() and not request.rename:
            pairs.append(ClipChange(clip, clip))
            continue
        result = changed(clip, changes, others=manifest.clips)
        result = result._replace(clip=_warped(result.clip, changes, motion, notes))
        notes += result.notes
        words = ("added",) if is_new else _words(changes, clip, result.clip, renamed=bool(request.rename))
        after = with_set(result.clip, words)
        pairs.append(ClipChange(None, _named(after, request)) if is_new else ClipChange(clip, after))
    if request.rename:
        pairs = [_renamed(pairs, request.rename)]
    copies = [each for pair in pairs if pair.after for each in _spread(pair.after, request)]
    gone = _older_copies(manifest.clips, [pair.after for pair in pairs if pair.after], copies)
    pairs = [pair for pair in pairs if pair.before not in gone]
    pairs += [ClipChange(None, with_set(each, ("added",))) for each in copies]
    clips, said = _merged([clip for clip in manifest.clips if clip not in gone], pairs)
    names = _new_names(clips, pairs)
    clips = _referring(clips, names, gone)
    groups = _renamed_members(manifest.groups, names)
    groups = with_groups(groups, clips, request.groups, set=("added",))
    shown = tuple(pair for pair in pairs if pair.before != pair.after)
    return Retimed(replace(manifest, clips=clips, groups=groups), shown, (*notes, *said))


def _chosen(manifest: Manifest, request: RetimeRequest) -> list[Clip]:
    """The clips to change: those chosen, of them only the ones that changes name, if all do so.

    Staggered copies are no clips to stagger; the clip that they are copies of means them.
    """
    chosen = chosen_clips(manifest.clips, request.patterns)
    if not request.stagger:
        request.changes.require(chosen)
        return chosen
    names = {clip.name for clip in manifest.clips}
    wanted = {clip.staggered if clip.staggered in names else clip.name for clip in chosen}
    originals = [clip for clip in manifest.clips if clip.name in wanted]
    request.changes.require(originals)
    return originals


def _warped(clip: Clip, changes: Changes, motion: MotionPairs | None, notes: list[str]) -> Clip:
    """The clip, faded where it was warped and some of its changes have no motion any more."""
    found, said = warped_or_faded(clip, motion, asked=changes.interpolation == "motion")
    notes += said
    return found


def _words(changes: Changes, before: Clip, after: Clip, *, renamed: bool) -> tuple[str, ...]:
    """Return what of a clip was set, in the words of `SETTABLE`."""
    words = (*set_by(changes), *(("name",) if renamed else ()))
    # a pace or a coarser clock may take steps away
    steps_changed = [step.frame for step in before.steps] != [step.frame for step in after.steps]
    return (*words, "order") if steps_changed else words


def _named(clip: Clip, request: RetimeRequest) -> Clip:
    """A new clip by the name that it was to have, a copy of none."""
    return replace(clip, name=request.new or clip.name, was=None, staggered=None, set=("added",))


def _clips_of_rows(manifest: Manifest, names: Sequence[str]) -> list[Clip]:
    """A clip for each row, its frames held as they are by the first clip that shows them."""
    places = manifest.cells_in_rows()
    if not places:
        raise UsageError(f"{option('row-clips')} needs a sheet; an atlas has no rows")
    holds: dict[int, Fraction] = {}
    for clip in manifest.clips:
        for step in clip.steps:
            holds.setdefault(step.frame, clip.seconds(step.hold))
    return list(row_clips(names, places, [holds.get(frame) for frame in range(len(places))], lambda _name: Timing()))


def _base(manifest: Manifest, request: RetimeRequest) -> Clip:
    """Return what a new clip is made of: the one clip named, or the only one, or for an order the default timing."""
    named = [pattern for pattern, _ in request.changes.entries if pattern is not None]
    chosen = chosen_clips(manifest.clips, request.patterns or named)
    if len(chosen) == 1:
        return chosen[0]
    if not request.patterns and not named and request.changes.of("").order:
        # an order of its own counts all frames
        every = tuple(range(len(manifest.frames)))
        return Clip(request.new or "", 1 / DEFAULT_HOLD, (Step(0, 1),), frames=every)
    which = f"choose it with {option('clip')} or {option('order')}"
    raise UsageError(f"{option('new')} copies one clip; {which}; {listed_clips(manifest.clips)}")


def _removed(manifest: Manifest, request: RetimeRequest, chosen: Sequence[Clip]) -> Retimed:
    if not request.patterns:
        raise UsageError(f"{option('remove')}: choose with {option('clip')}; {listed_clips(manifest.clips)}")
    gone = {clip.name for clip in chosen}
    stay = [clip for clip in manifest.clips if clip.name not in gone]
    names = {clip.name: clip.name for clip in stay}
    clips = _referring(stay, names, chosen)
    groups = [group.renamed(names) for group in manifest.groups]
    notes = [f'group "{group.name}" removed: it has no clips left' for group in groups if not group.members]
    kept = tuple(group for group in groups if group.members)
    made = {clip.was or clip.name for clip in chosen if "added" not in (clip.set or ())}
    manifest = replace(
        manifest,
        clips=clips,
        groups=with_groups(kept, clips, request.groups, set=("added",)),
        removed=tuple(sorted({*(manifest.removed or ()), *made})) or None,
    )
    return Retimed(manifest, tuple(ClipChange(clip, None) for clip in chosen), (*notes, *_followers_gone(stay, clips)))


def _renamed(pairs: Sequence[ClipChange], name: str) -> ClipChange:
    before, after = pairs[0] if len(pairs) == 1 else (None, None)
    if after is None:
        names = ", ".join(pair.before.name for pair in pairs if pair.before)
        raise UsageError(f"{option('rename')} renames one clip; choose it with {option('clip')}: {names}")
    was = None if before is None or "added" in (before.set or ()) else before.was or before.name
    return ClipChange(before, replace(after, name=name, was=None if was == name else was))


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
        raise UsageError(f'a clip "{twice}" already exists; choose another name, or {option("remove")} it first')
    notes = []
    for pair in pairs:
        if pair.before is None and pair.after:
            if pair.after.name in names:
                old = result[names.index(pair.after.name)]
                if old.staggered is None or old.staggered != pair.after.staggered:
                    notes.append(f'clip "{pair.after.name}" existed and was replaced')
                result[names.index(pair.after.name)] = pair.after
            else:
                result.append(pair.after)
    return tuple(result), notes


def _older_copies(clips: Sequence[Clip], originals: Sequence[Clip], copies: Sequence[Clip]) -> list[Clip]:
    """The staggered copies that new ones take the place of."""
    bases = {clip.name for clip in originals} if copies else set()
    names = {clip.name for clip in copies}
    return [clip for clip in clips if clip.staggered in bases and clip.name not in names]


def _new_names(clips: Sequence[Clip], pairs: Sequence[ClipChange]) -> dict[str, str]:
    """Return what each clip that is there is called now, by its old name and its new."""
    names = {clip.name: clip.name for clip in clips}
    return names | {pair.before.name: pair.after.name for pair in pairs if pair.before and pair.after}


def _referring(clips: Sequence[Clip], names: Mapping[str, str], gone: Sequence[Clip]) -> tuple[Clip, ...]:
    """The clips, those that they name called again.

    Raises
    ------
    UsageError
        If one is to be followed by a clip that is not there, and was not.
    """
    left = {clip.name for clip in gone}
    for clip in clips:
        if clip.then is not None and clip.then not in names and clip.then not in left:
            raise UsageError(f'clip "{clip.name}": there is no clip {clip.then!r} to follow it; {listed_clips(clips)}')
    return tuple(
        replace(
            clip,
            then=clip.then and names.get(clip.then),
            staggered=clip.staggered and names.get(clip.staggered, clip.staggered),
        )
        for clip in clips
    )


def _followers_gone(before: Sequence[Clip], after: Sequence[Clip]) -> list[str]:
    then = {clip.name: clip.then for clip in before}
    return [
        f'clip "{clip.name}": "{then[clip.name]}", which followed it, was removed; it now ends on its last step'
        for clip in after
        if clip.then is None and then.get(clip.name)
    ]


def _renamed_members(groups: Sequence[Group], names: Mapping[str, str]) -> tuple[Group, ...]:
    return tuple(renamed for group in groups if (renamed := group.renamed(names)).members)
