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
    """What comes of it: `notes` say what was kept, `unfit` what cannot be."""

    clips: tuple[Clip, ...]
    groups: tuple[Group, ...]
    removed: tuple[str, ...]
    notes: tuple[str, ...]
    unfit: tuple[str, ...]


class _UnfitError(Exception):
    """What was set does not fit the new frames; the message is the rest of a sentence about the clip."""


def rebuilt_clips(
    old: MadeClips,
    new: MadeClips,
    *,
    stated: Callable[[str], Collection[str]] = lambda _clip: (),
    made_anew: Collection[str] = (),
    edited: bool = False,
) -> RebuiltClips:
    """The new clips with what was set on the old ones.

    Parameters
    ----------
    stated : callable
        For the name of a clip what is stated of it now and was not before, in the words of `SETTABLE`: that wins.
    made_anew : collection of str
        The names of clips and groups that are asked for now and were not before.
    edited : bool
        The old ones were changed by hand: where they differ from what is made of the same frames, that was set.
    """
    pairing = _Pairing(old, new, stated, made_anew, edited=edited)
    for fresh in new.clips:
        pairing.made(fresh)
    for before in old.clips:
        if before.name not in pairing.matched:
            pairing.left(before)
    clips, lost = _followed(pairing.clips, pairing.originals)
    groups, notes, unfit = _groups(old, new, clips, made_anew, edited=edited)
    return RebuiltClips(
        tuple(clips), groups, tuple(pairing.removed), (*pairing.notes, *notes), (*pairing.unfit, *lost, *unfit)
    )


class _Pairing:
    """The clips as they are gathered, one by one, and what is to be said of it."""

    def __init__(
        self,
        old: MadeClips,
        new: MadeClips,
        stated: Callable[[str], Collection[str]],
        made_anew: Collection[str],
        *,
        edited: bool,
    ) -> None:
        self._frames = _Frames(old.frames, new.frames)
        self._stated = stated
        self._made_anew = made_anew
        self._edited = edited
        self.originals = {clip.was or clip.name: clip for clip in old.clips if not _added(clip)}
        self.removed = [name for name in old.removed if name not in made_anew]
        self.clips: list[Clip] = []
        self.matched: set[str] = set()
        self.notes: list[str] = []
        self.unfit: list[str] = []

    def made(self, fresh: Clip) -> None:
        """Take a clip that is made now, as it was set."""
        before = self.originals.get(fresh.name)
        if before is None:
            self._without_original(fresh)
            return
        self.matched.add(before.name)
        words = {*(before.set or ()), *(self._frames.differences(before, fresh) if self._edited else ())}
        over = words.intersection(self._stated(fresh.name))
        told = over.intersection(self._frames.differences(before, fresh))
        if told:
            self.notes.append(f'clip "{before.name}": {_named(told)} as stated now, not as set before')
        try:
            clip, said = self._frames.kept(before, fresh, words - over)
        except _UnfitError as error:
            self.unfit.append(f'clip "{before.name}": {error}')
            return
        self.clips.append(clip)
        self.notes += said

    def _without_original(self, fresh: Clip) -> None:
        by_hand = self._edited and fresh.name not in self._made_anew and self._frames.knew(fresh)
        if fresh.name not in self.removed and not by_hand:
            self.clips.append(fresh)
            return
        self.removed = list(dict.fromkeys([*self.removed, fresh.name]))
        self.notes.append(f'clip "{fresh.name}" stays removed')

    def left(self, before: Clip) -> None:
        """See what becomes of an old clip that none is made for now."""
        names = {clip.name for clip in self.clips}
        if not _added(before) and not (self._edited and before.name not in names):
            if before.set:
                what = _named(before.set)
                self.unfit.append(f'clip "{before.name}": no such clip is made any more, and its {what} was set')
            return
        missing = self._frames.missing(before)
        if before.name in names:
            if before.name not in self._made_anew:
                self.unfit.append(f'clip "{before.name}": it was added, and one of that name is made now')
        elif missing:
            self.unfit.append(f'clip "{before.name}": it was added, and shows {first_few(missing)}, not there any more')
        else:
            self.clips.append(replace(self._frames.moved(before), set=("added",)))
            self.notes.append(f'clip "{before.name}" is kept, added since it was made')


def _added(clip: Clip) -> bool:
    return "added" in (clip.set or ())


def _followed(clips: Sequence[Clip], originals: Mapping[str, Clip]) -> tuple[list[Clip], list[str]]:
    """The clips where those that follow others are called as they are now; what names one that is gone."""
    names = {clip.name for clip in clips}
    renamed = {first: clip.name for first, clip in originals.items()}
    lost = []
    result = []
    for clip in clips:
        then = clip.then
        if then is not None and then not in names:
            then = renamed.get(then)
        if clip.then is not None and then not in names:
            lost.append(f'clip "{clip.name}": "{clip.then}", which follows it, is not there any more')
            then = None
        result.append(replace(clip, then=then))
    return result, lost


def _groups(
    old: MadeClips, new: MadeClips, clips: Sequence[Clip], made_anew: Collection[str], *, edited: bool
) -> tuple[tuple[Group, ...], list[str], list[str]]:
    names = {clip.was or clip.name: clip.name for clip in clips}
    there = {clip.name: clip.name for clip in clips}
    found = {group.name: group.renamed(names | there) for group in new.groups}
    notes: list[str] = []
    unfit: list[str] = []
    for group in old.groups:
        differs = edited and group.name not in found
        if not (group.set or differs) or group.name in made_anew:
            continue
        missing = [member for member in group.members if member not in there]
        if missing:
            unfit.append(f'group "{group.name}": its clips {first_few(missing)} are not there any more')
        else:
            found[group.name] = group
            notes.append(f'group "{group.name}" is kept as it was set')
    return tuple(group for group in found.values() if group.members), notes, unfit


def _named(words: Collection[str]) -> str:
    return ", ".join(_WORDS.get(word, word) for word in _in_order(words) or ())


class _Frames:
    """The frames of both, paired by their names."""

    def __init__(self, old: Sequence[str], new: Sequence[str]) -> None:
        self._old = old
        places = {name: number for number, name in reversed(list(enumerate(new)))}
        self._number = {number: places[name] for number, name in enumerate(old) if name in places}
        self._new = new

    def missing(self, clip: Clip) -> list[str]:
        """The names of the frames that it shows and that are not there any more."""
        shown = dict.fromkeys(step.frame for step in clip.steps)
        return [self._old[frame] for frame in shown if frame not in self._number]

    def knew(self, fresh: Clip) -> bool:
        """Whether all frames of a new clip were there before."""
        known = set(self._number.values())
        return all(step.frame in known for step in fresh.steps)

    def moved(self, clip: Clip) -> Clip:
        """An old clip where its frames have their new numbers."""
        return clip.renumbered(self._number)

    def differences(self, before: Clip, fresh: Clip) -> set[str]:
        """Where an old clip differs from the new one, as far as that shows frames that the old one could."""
        found = {name for name in COPIED if getattr(before, name) != getattr(fresh, name)}
        known = set(self._number.values())
        shown = [step.frame for step in fresh.steps if step.frame in known]
        if self.missing(before) or [self._number[step.frame] for step in before.steps] != shown:
            found.add("order")
        holds = _by_showing(self.moved(before) if not self.missing(before) else replace(before, steps=()))
        fresh_holds = _by_showing(fresh)
        if any(fresh_holds.get(key, hold) != hold for key, hold in holds.items()):
            found.add("holds")
        if before.timebase != fresh.timebase and "holds" in found:
            found.add("timebase")
        if [(e.step, e.name) for e in before.events] != [(e.step, e.name) for e in fresh.events]:
            found.add("events")
        return found | ({"phase"} if before.phase != fresh.phase else set())

    def kept(self, before: Clip, fresh: Clip, words: Collection[str]) -> tuple[Clip, list[str]]:
        """A new clip with what `words` name of the old one, and what is to be said; raises `_UnfitError`."""
        extra = {**before.extra, **fresh.extra}
        if not words:
            return replace(fresh, extra=extra), []
        clip, notes = self._timed(before, fresh, words)
        clip = replace(clip, **{name: getattr(before, name) for name in COPIED if name in words})
        if "end" in words:
            clip = replace(clip, then=None)
        clip = self._with_events(before, fresh, clip, words)
        clip = _with_phase(before, fresh, clip, words)
        if "name" in words:
            clip = replace(clip, name=before.name, was=fresh.name)
        name = f'"{fresh.name}", now "{before.name}"' if "name" in words else f'"{clip.name}"'
        said = f"clip {name}: kept as set: {_named(words)}"
        return replace(clip, set=_in_order(words), extra=extra), [said, *notes]

    def _timed(self, before: Clip, fresh: Clip, words: Collection[str]) -> tuple[Clip, list[str]]:
        """The steps and their holds."""
        if "order" in words:
            return self._ordered(before, fresh, words)
        if not {"holds", "timebase"}.intersection(words):
            return fresh, []
        holds = _by_showing(before.renumbered(self._number)) if not self.missing(before) else self._known_holds(before)
        keys = list(_showings(fresh))
        seconds = [holds.get(key, fresh.seconds(step.hold)) for key, step in zip(keys, fresh.steps, strict=True)]
        new = [self._new[key[0]] for key in keys if key not in holds]
        notes = [f'clip "{fresh.name}": new, and held as they come: {first_few(new)}'] if new else []
        return with_holds(replace(fresh, timebase=before.timebase), seconds), notes

    def _known_holds(self, before: Clip) -> dict[tuple[int, int], Fraction]:
        return {
            (self._number[frame], time): hold
            for (frame, time), hold in _by_showing(before).items()
            if frame in self._number
        }

    def _ordered(self, before: Clip, fresh: Clip, words: Collection[str]) -> tuple[Clip, list[str]]:
        missing = self.missing(before)
        if missing:
            raise _UnfitError(f"its order was set, and shows {first_few(missing)}, not there any more")
        moved = self.moved(before)
        own = {step.frame for step in fresh.steps}
        known = set(self._number.values())
        new = [self._new[frame] for frame in sorted(own - known)]
        notes = [f'clip "{fresh.name}": new, and in no step of the order that was set: {first_few(new)}'] if new else []
        shows_all = {step.frame for step in moved.steps} >= own
        clip = replace(
            fresh, timebase=before.timebase, steps=moved.steps, frames=None if shows_all else tuple(sorted(own))
        )
        clip = replace(clip, events=(), phase=Fraction(0), phase_share=None)
        if "holds" not in words and (fresh.timebase, usual_hold(fresh)) != (before.timebase, usual_hold(before)):
            clip = _held_as(fresh, before, clip)
        return clip, notes

    def _with_events(self, before: Clip, fresh: Clip, clip: Clip, words: Collection[str]) -> Clip:
        """The events of the old clip where they were set, else of the new; each with the frame that it came with."""
        source = before if "events" in words else fresh
        if source is before and "order" in words:
            return replace(clip, events=before.events)
        there = {key: step for step, key in enumerate(_showings(clip))}
        keys = list(_showings(source))
        events: list[Event] = []
        for event in source.events:
            frame, time = keys[event.step]
            number = self._number.get(frame) if source is before else frame
            step = there.get((number if number is not None else -1, time))
            if step is None and source is before:
                raise _UnfitError(
                    f'its event "{event.name}" comes with {self._old[frame]}, which it does not show any more'
                )
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
