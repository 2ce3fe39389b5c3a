"""Fewer frames and steps for the same playback: repeats as longer holds, a mirrored half as a way back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Repeat, Step
from kivel.core.playback.player import Player, phase_at_share

__all__ = ["Folded", "folded", "plays_the_same"]


class Folded(NamedTuple):
    """Clips over fewer frames: `kept` are the numbers of those that stay, in order."""

    clips: tuple[Clip, ...]
    kept: tuple[int, ...]


def folded(clips: Sequence[Clip], same: Sequence[int], *, mirror: bool = True) -> Folded:
    """The same playback with duplicates merged.

    Parameters
    ----------
    same : sequence of int
        For each frame the first that is identical to it.
    mirror : bool
        Whether a mirrored second half may become the way back of `alternate`; where it may not, its steps stay.
    """
    kept = tuple(sorted(set(same)))
    number = {frame: index for index, frame in enumerate(kept)}
    return Folded(tuple(_folded(clip, [number[first] for first in same], mirror) for clip in clips), kept)


def _folded(clip: Clip, number: Sequence[int], mirror: bool) -> Clip:
    """The shortest of what can be made of a clip that is proved to play as it does."""
    simple = replace(clip, steps=tuple(Step(number[step.frame], step.hold) for step in clip.steps))
    merged = _with_phase_of(simple, _runs_merged(simple))
    mirrored = [_with_phase_of(simple, _to_and_fro(each)) for each in (merged, simple)] if mirror else []
    # the shortest first; a proof is needed for each, since holds, phases and events may tell them apart
    for candidate in sorted([*mirrored, merged], key=lambda each: len(each.steps)):
        if plays_the_same(clip, candidate, number):
            return candidate
    return simple


def _runs_merged(clip: Clip) -> Clip:
    """One step where the next shows the same frame and no event begins with it."""
    with_events = {event.step for event in clip.events}
    steps: list[Step] = []
    places: list[int] = []
    for index, step in enumerate(clip.steps):
        if steps and steps[-1].frame == step.frame and index not in with_events:
            steps[-1] = Step(step.frame, steps[-1].hold + step.hold)
        else:
            steps.append(step)
        places.append(len(steps) - 1)
    events = tuple(replace(event, step=places[event.step]) for event in clip.events)
    return replace(clip, steps=tuple(steps), events=events, phase=Fraction(0))


def _to_and_fro(clip: Clip) -> Clip:
    """Its first half back and forth, if the second mirrors it; else the same clip."""
    steps, count = clip.steps, len(clip.steps)
    half = count // 2 + 1
    mirrors = count >= 4 and count % 2 == 0 and steps[:half] + steps[half - 2 : 0 : -1] == steps
    if clip.direction != "normal" or not mirrors:
        return clip
    events = tuple(event for event in clip.events if event.step < half)
    return replace(clip, steps=steps[:half], direction="alternate", events=events, phase=Fraction(0))


def _with_phase_of(before: Clip, after: Clip) -> Clip:
    return replace(after, phase=phase_at_share(after, Player(before).phase_share))


def plays_the_same(one: Clip, other: Clip, number: Sequence[int]) -> bool:
    """Whether `other` shows at all times what `one` does, and the same events happen.

    Parameters
    ----------
    number : sequence of int
        What frame of `other` each frame of `one` is.
    """
    kinds = (one.repeat, one.end, one.interpolation) == (other.repeat, other.end, other.interpolation)
    if not kinds or Player(one).cycle_length != Player(other).cycle_length:
        return False
    return list(_seen(one, number)) == list(_seen(other, range(max(number) + 1)))


def _seen(clip: Clip, number: Sequence[int]) -> Iterator[tuple[object, ...]]:
    """Return what can be told apart in two cycles of it, and in the whole of a single one: all that follows is the
    same.
    """
    # two cycles show what happens where they meet, one alone what happens at the end
    repeats: list[Repeat] = ["forever"]
    if clip.repeat != "forever":
        repeats.append(min(clip.repeat, 1))
    for repeat in repeats:
        player = Player(replace(clip, repeat=repeat))
        shown: object = None
        for happening in player.happenings(Fraction(0), 2 * player.cycle_length):
            if happening.kind != "show":
                yield happening.time, happening.kind, happening.name
                continue
            look = _look(player, happening.time, number)
            if look != shown or clip.blends:
                yield happening.time, look
            shown = look


def _look(player: Player, time: Fraction, number: Sequence[int]) -> tuple[object, ...]:
    moment = player.at(time)
    frame = None if moment.frame is None else number[moment.frame]
    if not player.clip.blends:
        return (frame,)
    following = None if moment.following is None else number[moment.following]
    return frame, following, moment.weight
