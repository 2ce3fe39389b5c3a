"""Made again: the clips of new frames, with what was set on the old ones since they were made."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Event
from kivel.core.playback.groups import Group
from kivel.core.playback.player import Player
from kivel.core.playback.properties import COPIED, PROPERTIES, SETTABLE
from kivel.core.playback.reconciling import FramesNow, Reconciled, reconciled
from kivel.core.playback.retiming import at_share, keeps_share, usual_hold, with_holds
from kivel.core.wording import first_few

__all__ = ["MadeClips", "RebuiltClips", "rebuilt_clips"]

_WORDS = {one.name: one.word for one in PROPERTIES if one.word}


class MadeClips(NamedTuple):
    """Clips and groups, the names of the frames that they count, and the clips that were removed since."""

    frames: Sequence[str]
    clips: Sequence[Clip]
    groups: Sequence[Group] = ()
    removed: Sequence[str] = ()


class RebuiltClips(NamedTuple):
    """Holds what comes of it: `notes` say what was kept, `unfit` what cannot be."""

    clips: tuple[Clip, ...]
    groups: tuple[Group, ...]
    removed: tuple[str, ...]
    notes: tuple[str, ...]
    unfit: tuple[str, ...]


class _UnfitError(Exception):
    """Holds what was set does not fit the new frames; the message is the rest of a sentence about the clip."""


def rebuilt_clips(
    old: MadeClips,
    new: MadeClips,
    was: Sequence[int | None],
    *,
    stated: Callable[[str], Collection[str]] = lambda _clip: (),
    made_anew: Collection[str] = (),
    edited: bool = False,
) -> RebuiltClips:
    """The new clips with what was set on the old ones.

    Parameters
    ----------
    was : sequence of int or None
        For each new frame the number of the old one that it is, None: it was added.
    stated : callable
        For the name of a clip what is stated of it now and was not before, in the words of `SETTABLE`: that wins.
    made_anew : collection of str
        The names of clips and groups that are asked for now and were not before.
    edited : bool
        The old ones were changed by hand: where they differ from what is made of the same frames, that was set.
    """
    frames = FramesNow(tuple(old.frames), tuple(new.frames), tuple(was))
    # the clips that are made now say which frames are theirs
    own = {clip.name: clip.own_frames for clip in new.clips}
    members = {clip.name: own[clip.was or clip.name] for clip in old.clips if (clip.was or clip.name) in own}
    now = reconciled(old.clips, old.groups, frames, members)
    pairing = _Pairing(old, new, now, frames, stated, made_anew, edited=edited)
    for fresh in new.clips:
        pairing.made(fresh)
    for before in now.clips:
        if before.name not in pairing.matched:
            pairing.left(before)
    clips, lost = _followed(pairing.clips, pairing.originals, pairing.names_now)
    old_groups = [group.renamed(_over_names(group.members, pairing.names_now)) for group in now.groups]
    groups, notes, unfit = _groups(old_groups, new, clips, made_anew, edited=edited)
    return RebuiltClips(
        tuple(clips), groups, tuple(pairing.removed), (*pairing.notes, *notes), (*pairing.unfit, *lost, *unfit)
    )


class _Pairing:
    """The clips as they are gathered, one by one, and what is to be said of it."""

    def __init__(
        self,
        old: MadeClips,
        new: MadeClips,
        now: Reconciled,
        frames: FramesNow,
        stated: Callable[[str], Collection[str]],
        made_anew: Collection[str],
        *,
        edited: bool,
    ) -> None:
        self._now = now
        self._frames = frames
        self._stated = stated
        self._made_anew = made_anew
        self._edited = edited
        self._known = {place for place, before in enumerate(frames.was) if before is not None}
        self._short = _shortened_clips(old.clips, now, frames)
        self._once: dict[str, str] = {}
        self.originals = self._paired([clip for clip in now.clips if not _added(clip)], new.clips)
        self.removed = [now.renamed.get(name, name) for name in old.removed if name not in made_anew]
        self.clips: list[Clip] = []
        self.matched: set[str] = set()
        told = {clip.name for clip in old.clips if clip.set} | {group.name for group in old.groups if group.set}
        self.notes = [text for name, text in now.warnings if name in told]
        self.unfit: list[str] = []

    def _paired(self, old: Sequence[Clip], new: Sequence[Clip]) -> dict[str, Clip]:
        """The old clip of each new one, by its name: the one of that name, else one that had most of its frames."""
        paired = {clip.was or clip.name: clip for clip in old}
        names = {clip.name for clip in new}
        for fresh in new:
            own = self._known.intersection(fresh.own_frames)
            free = [clip for first, clip in paired.items() if first not in names]
            shared = {clip.name: len(own.intersection(clip.own_frames)) for clip in free}
            before = max(free, key=lambda clip: shared[clip.name], default=None)
            if fresh.name not in paired and before and 2 * shared[before.name] > max(len(own), len(before.own_frames)):
                del paired[before.was or before.name]
                called = fresh.name if before.was is None else before.name
                self._once[called] = before.name
                paired[fresh.name] = replace(before, name=called, was=before.was and fresh.name)
        return paired

    @property
    def names_now(self) -> dict[str, str]:
        """For each old clip that goes on by another name, that name."""
        return {before: called for called, before in self._once.items() if before != called}

    def made(self, fresh: Clip) -> None:
        """Take a clip that is made now, with its settings."""
        before = self.originals.get(fresh.name)
        if before is None:
            self._without_original(fresh)
            return
        self.matched.add(before.name)
        words = {*(before.set or ()), *(self._differences(before, fresh) if self._edited else ())}
        over = words.intersection(self._stated(fresh.name))
        told = over.intersection(self._differences(before, fresh))
        if told:
            self.notes.append(f'clip "{before.name}": {_named(told)} taken from this command, not as set before')
        try:
            clip, said = _kept(before, fresh, words - over)
        except _UnfitError as error:
            self.unfit.append(f'clip "{before.name}": {error}')
            return
        self.clips.append(clip)
        self.notes += [*said, *(self._changed(before, fresh, words - over))]

    def _differences(self, before: Clip, fresh: Clip) -> set[str]:
        """Where an old clip differs from the new one, of the frames that both could show."""
        found = {name for name in COPIED if getattr(before, name) != getattr(fresh, name)}
        shown, now = ([step.frame for step in clip.steps if step.frame in self._known] for clip in (before, fresh))
        if shown != now:
            found.add("order")
        fresh_holds = _by_showing(fresh)
        holds = {key: hold for key, hold in _by_showing(before).items() if key[0] in self._known}
        if any(fresh_holds.get(key, hold) != hold for key, hold in holds.items()):
            found.add("holds")
        if before.timebase != fresh.timebase and "holds" in found:
            found.add("timebase")
        if [(e.step, e.name) for e in before.events] != [(e.step, e.name) for e in fresh.events]:
            found.add("events")
        return found | ({"phase"} if before.phase != fresh.phase else set())

    def _changed(self, before: Clip, fresh: Clip, words: Collection[str]) -> list[str]:
        """Return what became of a clip whose steps are kept, by the frames that came and went."""
        if not {"order", "holds", "timebase"}.intersection(words):
            return []
        notes = []
        once = self._once.get(before.name, before.name)
        for place in sorted({*before.own_frames, *fresh.own_frames}.difference(self._known)):
            joined = next((one for one in self._now.joined.get(place, ()) if one.clip == once), None)
            what = f'clip "{before.name}": added {self._frames.now[place]}'
            if joined is None or joined.hold is None:
                notes.append(f"{what}, not in the order that was set" if "order" in words else what)
            else:
                notes.append(f"{what}, hold {float(1000 * joined.hold):.4g} ms, as set on the frame before it")
        gone = self._short.get(once, ())
        return [*notes, *([f'clip "{before.name}": removed {first_few(gone)}'] if gone else [])]

    def _without_original(self, fresh: Clip) -> None:
        knew = self._known.issuperset(fresh.shown_frames)
        by_hand = self._edited and fresh.name not in self._made_anew and knew
        if fresh.name not in self.removed and not by_hand:
            self.clips.append(fresh)
            return
        self.removed = list(dict.fromkeys([*self.removed, fresh.name]))
        self.notes.append(f'clip "{fresh.name}" stays removed')

    def left(self, before: Clip) -> None:
        """See what becomes of an old clip that none is made for now."""
        names = {clip.name for clip in self.clips}
        if before.name in self._once.values():
            return  # a new one has what was set on it
        if not _added(before) and not (self._edited and before.name not in names):
            if before.set:
                what = _named(before.set)
                self.unfit.append(f'clip "{before.name}": this clip is no longer made, and its {what} was set')
            return
        if before.name in names:
            if before.name not in self._made_anew:
                self.unfit.append(f'clip "{before.name}": it was added later, and a clip of that name is made now')
        else:
            self.clips.append(replace(before, set=("added",)))
            self.notes.append(f'clip "{before.name}" kept: it was added later')


def _shortened_clips(old: Sequence[Clip], now: Reconciled, frames: FramesNow) -> dict[str, list[str]]:
    """The names of the frames that each clip lost, by its name of now."""
    there = set(frames.numbers())
    lost = {clip.name: [frames.before[n] for n in clip.shown_frames if n not in there] for clip in old}
    return {now.renamed.get(name, name): names for name, names in lost.items() if names}


def _added(clip: Clip) -> bool:
    return "added" in (clip.set or ())


def _over_names(names: Iterable[str], renamed: Mapping[str, str]) -> dict[str, str]:
    return {name: renamed.get(name, name) for name in names}


def _followed(
    clips: Sequence[Clip], originals: Mapping[str, Clip], names_now: Mapping[str, str]
) -> tuple[list[Clip], list[str]]:
    """The clips where those that follow others are called as they are now; what names one that is gone."""
    names = {clip.name for clip in clips}
    renamed = {first: clip.name for first, clip in originals.items()} | dict(names_now)
    lost = []
    result = []
    for clip in clips:
        then = clip.then
        if then is not None and then not in names:
            then = renamed.get(then)
        if clip.then is not None and then not in names:
            lost.append(f'clip "{clip.name}": "{clip.then}", which follows it, no longer exists')
            then = None
        result.append(replace(clip, then=then))
    return result, lost


def _groups(
    old: Sequence[Group], new: MadeClips, clips: Sequence[Clip], made_anew: Collection[str], *, edited: bool
) -> tuple[tuple[Group, ...], list[str], list[str]]:
    names = {clip.was or clip.name: clip.name for clip in clips}
    there = {clip.name: clip.name for clip in clips}
    found = {group.name: group.renamed(names | there) for group in new.groups}
    notes: list[str] = []
    unfit: list[str] = []
    for group in old:
        differs = edited and group.name not in found
        if not (group.set or differs) or group.name in made_anew:
            continue
        missing = [member for member in group.members if member not in there]
        if missing:
            unfit.append(f'group "{group.name}": its clips {first_few(missing)} no longer exist')
        else:
            found[group.name] = group
            notes.append(f'group "{group.name}" is kept as set')
    return tuple(group for group in found.values() if group.members), notes, unfit


def _named(words: Collection[str]) -> str:
    return ", ".join(_WORDS.get(word, word) for word in _in_order(words) or ())


def _kept(before: Clip, fresh: Clip, words: Collection[str]) -> tuple[Clip, list[str]]:
    """A new clip with what `words` name of the old one, and what is to be said; raises `_UnfitError`."""
    extra = {**before.extra, **fresh.extra}
    if not words:
        return replace(fresh, extra=extra), []
    clip = _timed(before, fresh, words)
    clip = replace(clip, **{name: getattr(before, name) for name in COPIED if name in words})
    if "end" in words:
        clip = replace(clip, then=None)
    clip = _with_events(before, fresh, clip, words)
    clip = _with_phase(before, fresh, clip, words)
    if "name" in words:
        clip = replace(clip, name=before.name, was=fresh.name)
    name = f'"{fresh.name}", now "{before.name}"' if "name" in words else f'"{clip.name}"'
    return replace(clip, set=_in_order(words), extra=extra), [f"clip {name}: kept as set: {_named(words)}"]


def _timed(before: Clip, fresh: Clip, words: Collection[str]) -> Clip:
    """The steps and their holds."""
    if "order" in words:
        return _ordered(before, fresh, words)
    if not {"holds", "timebase"}.intersection(words):
        return fresh
    holds = _by_showing(before)
    keys = list(_showings(fresh))
    seconds = [holds.get(key, fresh.seconds(step.hold)) for key, step in zip(keys, fresh.steps, strict=True)]
    return with_holds(replace(fresh, timebase=before.timebase), seconds)


def _ordered(before: Clip, fresh: Clip, words: Collection[str]) -> Clip:
    own = tuple(sorted({*fresh.own_frames, *before.shown_frames}))
    clip = replace(
        fresh, timebase=before.timebase, steps=before.steps, frames=None if before.shown_frames == own else own
    )
    clip = replace(clip, events=(), phase=Fraction(0), phase_share=None)
    if "holds" not in words and (fresh.timebase, usual_hold(fresh)) != (before.timebase, usual_hold(before)):
        clip = _held_as(fresh, before, clip)
    return clip


def _with_events(before: Clip, fresh: Clip, clip: Clip, words: Collection[str]) -> Clip:
    """The events of the old clip where they were set, else of the new; each with the frame that it came with."""
    source = before if "events" in words else fresh
    if source is before and "order" in words:
        return replace(clip, events=before.events)
    there = {key: step for step, key in enumerate(_showings(clip))}
    keys = list(_showings(source))
    events: list[Event] = []
    for event in source.events:
        step = there.get(keys[event.step])
        if step is None and source is before:
            raise _UnfitError(f'its event "{event.name}" belongs to a frame that it no longer shows')
        if step is not None:
            events.append(replace(event, step=step))
    return replace(clip, events=tuple(sorted(events, key=lambda event: event.step)))


def _with_phase(before: Clip, fresh: Clip, clip: Clip, words: Collection[str]) -> Clip:
    source = before if "phase" in words else fresh
    if not source.phase:
        return replace(clip, phase=Fraction(0), phase_share=source.phase_share)
    if keeps_share(source):
        return at_share(clip, source.phase_share or Fraction(0))
    if len(source.order()) != len(clip.order()):
        return replace(at_share(clip, Player(source).phase_share), phase_share=None)
    return replace(clip, phase=source.phase, phase_share=None)


def _showings(clip: Clip) -> Iterable[tuple[int, int]]:
    """For each step its frame, and the how many-th step it is that shows it."""
    times: Counter[int] = Counter()
    for step in clip.steps:
        yield step.frame, times[step.frame]
        times[step.frame] += 1


def _by_showing(clip: Clip) -> dict[tuple[int, int], Fraction]:
    """How long each step shows, in seconds."""
    return {key: clip.seconds(step.hold) for key, step in zip(_showings(clip), clip.steps, strict=True)}


def _held_as(fresh: Clip, before: Clip, clip: Clip) -> Clip:
    """The ordered clip where a usual hold is that of the new clip."""
    usual = fresh.seconds(usual_hold(fresh))
    times = [Fraction(step.hold, usual_hold(before)) for step in before.steps]
    return with_holds(replace(clip, timebase=fresh.timebase), [usual * each for each in times])


def _in_order(words: Collection[str]) -> tuple[str, ...] | None:
    return tuple(word for word in SETTABLE if word in words) or None
