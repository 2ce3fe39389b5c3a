"""All that can be changed of a clip at once, in an order that makes sense whatever is given."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from fnmatch import fnmatchcase
from fractions import Fraction
from typing import Any

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Direction, End, Interpolation
from kivel.core.playback.clip import Clip, Repeat
from kivel.core.playback.clock import Conversion, converted
from kivel.core.playback.easing import Easing
from kivel.core.playback.groups import chosen_clips, listed_clips
from kivel.core.playback.notation import (
    CycleShare,
    CycleTime,
    Ordered,
    Phase,
    format_order,
    format_seconds,
    within_count,
)
from kivel.core.playback.player import phase_at_share
from kivel.core.playback.properties import COPIED, REPLACED, SETTABLE
from kivel.core.playback.retiming import (
    at_share,
    at_speed,
    fitted,
    keeps_share,
    on_timebase,
    paced,
    reordered,
    with_events,
    with_holds,
)

__all__ = ["Changed", "Changes", "ClipChanges", "changed", "set_by", "with_set"]


class Changes(NamedTuple):
    """Holds what to change of a clip; None and empty for what stays.

    `hold` and `holds` are in ticks as int, in seconds as Fraction. `convert` rounds to the timebase.
    """

    order: tuple[Ordered, ...] = ()
    direction: Direction | None = None
    hold_ends: bool | None = None
    fps: Fraction | None = None
    hold: int | Fraction | None = None
    holds: tuple[int | Fraction, ...] = ()
    length: Fraction | None = None
    speed: Fraction | None = None
    pace: Easing | None = None
    timebase: Fraction | None = None
    convert: bool = False
    repeat: Repeat | None = None
    end: End | None = None
    then: str | None = None
    interpolation: Interpolation | None = None
    phase: Phase | None = None
    events: tuple[tuple[int, str], ...] = ()
    drop_events: bool = False

    def over(self, general: Changes) -> Changes:
        """Return the changes of one clip: its own first, and of the general ones what its own leave open."""
        values = {name: getattr(self, name) for name in self._fields if getattr(self, name) != _NOTHING[name]}
        for rivals in _RIVALS:
            # an end of its own takes the place of a follower for all
            if any(name in values for name in rivals):
                general = general._replace(**{name: _NOTHING[name] for name in rivals})
        if self.events:
            values["events"] = (*general.events, *self.events)
        return general._replace(**values)


_NOTHING: dict[str, Any] = Changes._field_defaults
_LONG = Fraction(1, 2)
"""A hold above this is rare: 80 ticks were probably meant as 80 ms."""
_RIVALS = (("fps", "hold", "holds"), ("end", "then"))
"""Options of which only one can be given."""


class ClipChanges(NamedTuple):
    """Changes for all clips (None), and for those whose names match a shell-style pattern."""

    entries: tuple[tuple[str | None, Changes], ...] = ()

    def of(self, clip: str) -> Changes:
        """Those of one clip: the text about it by name counts before the text about all, the later before the
        earlier."""
        found = Changes()
        for by_name in (False, True):
            for pattern, changes in self.entries:
                if (pattern is not None) == by_name and (pattern is None or fnmatchcase(clip, pattern)):
                    found = changes.over(found)
        return found

    def require(self, clips: Sequence[Clip]) -> None:
        """Raise `UsageError` if a pattern matches no clip."""
        chosen_clips(clips, [pattern for pattern, _ in self.entries if pattern is not None])


def set_by(changes: Changes) -> tuple[str, ...]:
    """Return what of a clip changes set, in the words of `SETTABLE`."""
    held = (changes.fps, changes.hold, changes.holds, changes.length, changes.speed, changes.pace)
    given = {
        "order": bool(changes.order),
        "holds": any(value is not None and value != () for value in held),
        "timebase": changes.timebase is not None,
        "events": bool(changes.events) or changes.drop_events,
    }
    given |= {name: getattr(changes, name) is not None for name in REPLACED}
    return tuple(word for word in SETTABLE if given.get(word))


def with_set(clip: Clip, words: Iterable[str]) -> Clip:
    """The clip, saying that these were set since it was made, too."""
    known = {*(clip.set or ()), *words}
    return replace(clip, set=tuple(word for word in SETTABLE if word in known) or None)


class Changed(NamedTuple):
    """The new clip, and what a person should know."""

    clip: Clip
    notes: tuple[str, ...]


def changed(clip: Clip, changes: Changes, *, others: Sequence[Clip] = ()) -> Changed:
    """The clip with all changes: its steps, then their times, then how they play.

    Parameters
    ----------
    others : sequence of Clip
        Those whose frames an order may name.

    Raises
    ------
    UsageError
        If something names a frame or step that is not there, or a hold is no whole number of ticks of the timebase.
    """
    notes: list[str] = []
    before = clip
    clip = _with_steps(clip, changes, others, notes)
    clip = _with_times(clip, changes, notes)
    clip = _on_its_timebase(clip, changes, notes)
    if changes.drop_events:
        clip = replace(clip, events=())
    clip = with_events(clip, changes.events)
    # a direction is set with the steps
    stated = {name: getattr(changes, name) for name in COPIED if name not in ("direction", "hold_ends")}
    clip = replace(clip, **{name: value for name, value in stated.items() if value is not None})
    if changes.end:
        clip = replace(clip, then=None)
    if changes.then:
        clip = replace(clip, end="last")
    notes += _long_ticks(clip, changes)
    # a pace or a coarser clock may leave steps out, too
    shows_all = {step.frame for step in clip.steps} == set(before.own_frames)
    clip = replace(clip, frames=None if shows_all else before.own_frames)
    return Changed(_with_phase(clip, before, changes, notes), tuple(f'clip "{clip.name}": {note}' for note in notes))


def _with_steps(clip: Clip, changes: Changes, others: Sequence[Clip], notes: list[str]) -> Clip:
    if changes.order:
        order = [_own_frame(entry, clip, others) for entry in changes.order]
        strange = sorted({entry.frame for entry in order}.difference(clip.own_frames))
        if strange:
            notes.append(f"its steps leave the frames it had, {format_order(clip.own_frames)}: {format_order(strange)}")
        if clip.events and not changes.drop_events:
            notes.append("its events are dropped: they count the steps of the old order")
        clip = reordered(clip, order)
    if changes.direction:
        clip = replace(clip, direction=changes.direction)
    if changes.hold_ends is not None:
        clip = replace(clip, hold_ends=changes.hold_ends or None)
    if clip.hold_ends and not clip.alternates:
        if changes.hold_ends:
            raise UsageError(
                f'clip "{clip.name}": {option("hold-ends")} is for a clip that alternates, '
                f"its direction is {clip.direction}"
            )
        clip = replace(clip, hold_ends=None)
    return clip


def _own_frame(entry: Ordered, clip: Clip, others: Sequence[Clip]) -> Ordered:
    """An entry that counts the frames of a clip, as one that counts those of the sheet."""
    whose = clip
    if entry.of is not None:
        whose = next((other for other in others if other.name == entry.of), clip)
        if whose.name != entry.of:
            raise UsageError(f"there is no clip {entry.of!r}; {listed_clips(others)}")
    own = whose.own_frames
    within_count([entry], len(own), whose.name)
    return entry._replace(frame=own[entry.frame], of=None)


def _with_times(clip: Clip, changes: Changes, notes: list[str]) -> Clip:
    base = changes.timebase or clip.timebase
    holds: list[int | Fraction] = list(changes.holds)
    if changes.fps or changes.hold:
        if changes.order:
            usual = _in_seconds(1 / changes.fps if changes.fps else changes.hold or 0, base)
            holds = [usual * entry.times for entry in changes.order]
        else:
            holds = [1 / changes.fps if changes.fps else changes.hold or 0] * len(clip.steps)
    if holds:
        clip = with_holds(clip, [_in_seconds(hold, base) for hold in holds])
    if changes.length:
        clip = fitted(clip, changes.length)
    if changes.speed:
        clip = at_speed(clip, changes.speed)
    if changes.pace:
        result = paced(clip, changes.pace, timebase=None if changes.convert else changes.timebase)
        clip = result.clip
        if result.skipped:
            notes.append(f"the easing skips steps {', '.join(map(str, result.skipped))}; they are dropped")
    return clip


def _long_ticks(clip: Clip, changes: Changes) -> list[str]:
    """Return what is to be said where a bare number was probably meant as milliseconds."""
    ticks = max((hold for hold in (changes.hold, *changes.holds) if isinstance(hold, int)), default=0)
    seconds = ticks / (changes.timebase or clip.timebase)
    if seconds <= _LONG:
        return []
    rate = changes.timebase or clip.timebase
    return [f"{ticks} ticks at {rate} a second = {format_seconds(seconds)} a frame; for milliseconds write {ticks}ms"]


def _in_seconds(hold: int | Fraction, timebase: Fraction) -> Fraction:
    return hold / timebase if isinstance(hold, int) else hold


def _on_its_timebase(clip: Clip, changes: Changes, notes: list[str]) -> Clip:
    if changes.timebase is None or changes.timebase == clip.timebase:
        return clip
    if not changes.convert:
        return on_timebase(clip, changes.timebase)
    result = converted(clip, changes.timebase)
    notes += _conversion_notes(result, changes.timebase)
    return result.clip


def _conversion_notes(result: Conversion, timebase: Fraction) -> list[str]:
    notes = [f"exact at {timebase} ticks a second"]
    if result.largest_error or result.longer:
        off = f"no step is off by more than {format_seconds(result.largest_error)}"
        longer = "longer" if result.longer > 0 else "shorter"
        total = f"a cycle is {format_seconds(abs(result.longer))} {longer}" if result.longer else "a cycle is as long"
        notes = [f"rounded to {timebase} ticks a second: {off}, {total}"]
    if result.merged:
        steps = ", ".join(map(str, result.merged))
        notes.append(f"steps too short for a tick are merged into their neighbours: {steps}")
    if result.written_out:
        notes.append(f"written out as {result.written_out} steps, so that rounding errors do not add up")
    return notes


def _with_phase(clip: Clip, before: Clip, changes: Changes, notes: list[str]) -> Clip:
    phase = changes.phase
    if isinstance(phase, CycleTime):
        phase = _share_at(clip, phase)
        return replace(clip, phase=phase_at_share(clip, phase), phase_share=None)
    if isinstance(phase, CycleShare):
        return at_share(clip, phase.of_cycle)
    count = len(clip.order())
    if phase is not None and phase >= count:
        raise UsageError(
            f'clip "{clip.name}": a phase of {phase} steps, expected from 0 up to below {count}, the steps of a cycle'
        )
    if phase is not None:
        return replace(clip, phase=phase, phase_share=None)
    if keeps_share(before):
        return at_share(clip, before.phase_share or Fraction(0))
    clip = replace(clip, phase_share=None)
    if clip.phase >= count or (changes.order and before.phase):
        notes.append(f"its phase of {before.phase} steps is dropped; it now starts at the beginning")
        return replace(clip, phase=Fraction(0))
    return clip


def _share_at(clip: Clip, time: CycleTime) -> Fraction:
    """The share of the cycle at a time in it."""
    seconds = time.time if time.unit == "s" else time.time / clip.timebase
    if seconds >= clip.length:
        raise UsageError(
            f'clip "{clip.name}": a phase of {format_seconds(seconds)}, expected from 0 up to below '
            f"{format_seconds(clip.length)}, the length of a cycle"
        )
    return seconds / clip.length
