"""All that can be changed of a clip at once, in an order that makes sense whatever is given."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction
from typing import NamedTuple

from kivel.core.errors import UsageError, option
from kivel.core.playback.clip import Clip, Direction, End, Interpolation, Repeat
from kivel.core.playback.clock import Conversion, converted
from kivel.core.playback.easing import Easing
from kivel.core.playback.notation import CycleShare, Ordered, format_seconds, within_count
from kivel.core.playback.player import phase_at_share
from kivel.core.playback.retiming import at_speed, fitted, on_timebase, paced, reordered, with_events, with_holds

__all__ = ["SETTABLE", "Changed", "Changes", "changed", "set_by", "with_set"]


class Changes(NamedTuple):
    """What to change of a clip; None and empty for what stays.

    `hold` and `holds` are in ticks as int, in seconds as Fraction. `convert` rounds to the timebase, without drift.
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
    interpolation: Interpolation | None = None
    phase: Fraction | CycleShare | None = None
    events: tuple[tuple[int, str], ...] = ()
    drop_events: bool = False


SETTABLE = (
    "added", "name", "order", "holds", "timebase", "direction", "hold_ends", "repeat", "end", "interpolation", "phase",
    "events",
)  # fmt: skip
"""What a clip's `set` may name, in the order in which it does."""


def set_by(changes: Changes) -> tuple[str, ...]:
    """What of a clip changes set, in the words of `SETTABLE`."""
    held = (changes.fps, changes.hold, changes.holds, changes.length, changes.speed, changes.pace)
    given = {
        "order": bool(changes.order),
        "holds": any(value is not None and value != () for value in held),
        "timebase": changes.timebase is not None,
        "events": bool(changes.events) or changes.drop_events,
    }
    alike = ("direction", "hold_ends", "repeat", "end", "interpolation", "phase")
    return tuple(word for word in SETTABLE if given.get(word) or (word in alike and getattr(changes, word) is not None))


def with_set(clip: Clip, words: Iterable[str]) -> Clip:
    """The clip, saying that these were set since it was made, too."""
    known = {*(clip.set or ()), *words}
    return replace(clip, set=tuple(word for word in SETTABLE if word in known) or None)


class Changed(NamedTuple):
    """The new clip, and what a person should know."""

    clip: Clip
    notes: tuple[str, ...]


def changed(clip: Clip, changes: Changes, *, frames: int) -> Changed:
    """The clip with all changes: its steps, then their times, then how they play.

    Parameters
    ----------
    frames : int
        How many there are to name.

    Raises
    ------
    UsageError
        If something names a frame or step that is not there, or a hold is no whole number of ticks of the timebase.
    """
    notes: list[str] = []
    before = clip
    clip = _with_steps(clip, changes, frames, notes)
    clip = _with_times(clip, changes, notes)
    clip = _on_its_timebase(clip, changes, notes)
    if changes.drop_events:
        clip = replace(clip, events=())
    clip = with_events(clip, changes.events)
    stated = {name: getattr(changes, name) for name in ("repeat", "end", "interpolation")}
    clip = replace(clip, **{name: value for name, value in stated.items() if value is not None})
    return Changed(_with_phase(clip, before, changes, notes), tuple(f'clip "{clip.name}": {note}' for note in notes))


def _with_steps(clip: Clip, changes: Changes, frames: int, notes: list[str]) -> Clip:
    if changes.order:
        within_count(changes.order, frames)
        if clip.events and not changes.drop_events:
            notes.append("its events are left out, they count the steps of the old order")
        clip = reordered(clip, changes.order)
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
            notes.append(f"the pace jumps over steps {', '.join(map(str, result.skipped))}; they are left out")
    return clip


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
        notes.append(f"written out as {result.written_out} steps, so that its way back does not drift")
    return notes


def _with_phase(clip: Clip, before: Clip, changes: Changes, notes: list[str]) -> Clip:
    phase = changes.phase
    if isinstance(phase, CycleShare):
        return replace(clip, phase=phase_at_share(clip, phase.of_cycle))
    count = len(clip.order())
    if phase is not None and phase >= count:
        raise UsageError(
            f'clip "{clip.name}": a phase of {phase} steps, expected from 0 up to below {count}, the steps of a cycle'
        )
    if phase is not None:
        return replace(clip, phase=phase)
    if clip.phase >= count or (changes.order and before.phase):
        notes.append(f"its phase of {before.phase} steps is left out; it starts at its beginning now")
        return replace(clip, phase=Fraction(0))
    return clip
