"""One play of a clip as cues in whole milliseconds, for players that know times and nothing else."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import accumulate

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Repeat
from kivel.core.playback.clock import on_clock
from kivel.core.playback.schedule import schedule

__all__ = ["Cue", "CueList", "cues_of"]

_MILLISECOND = Fraction(1, 1000)


class Cue(NamedTuple):
    """A frame that shows from one millisecond to another, which is outside; None for nothing."""

    start_ms: int
    end_ms: int
    frame: int | None


class CueList(NamedTuple):
    """Cues in order, without gaps; how often all of them are played, and how far an end is from its exact time (s)."""

    cues: tuple[Cue, ...]
    repeat: Repeat
    error: Fraction


def cues_of(clip: Clip, others: Sequence[Clip] = ()) -> CueList:
    """The cues of a clip from its start on, its phase, its cycles and what follows it written out as `schedule` does.

    Steps are not blended. What would show for less than a millisecond may be left out.
    """
    plan = schedule(replace(clip, interpolation="step"), blends=Fraction(1), others=others)
    clocked = on_clock([shot.seconds for shot in plan.shots], _MILLISECOND)
    ends = list(accumulate(clocked.ticks))
    cues = tuple(
        Cue(end - length, end, shot.frame)
        for end, length, shot in zip(ends, clocked.ticks, plan.shots, strict=True)
        if length
    )
    return CueList(cues, plan.repeat, clocked.largest_error)
