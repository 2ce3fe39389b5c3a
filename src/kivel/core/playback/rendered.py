"""Describes what a game that renders this many frames a second shows of a clip: which steps it misses, which it shows
unevenly.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.player import Player

__all__ = ["Rendered", "rendered_steps"]

_MOST_SHOWINGS = 200_000


class Rendered(NamedTuple):
    """In how many rendered frames a step is seen each time it shows: at least, at most, and exactly, were they fine."""

    step: int
    least: int
    most: int
    exact: Fraction


def rendered_steps(player: Player, clock: Fraction) -> list[Rendered]:
    """Every step of the clip on a clock of this many rendered frames a second, the first at 0 s; none if it never
    plays.

    For a clip that plays forever this holds for all its cycles: where steps begin between two rendered frames repeats
    after as many cycles as the denominator of a cycle's length in rendered frames.
    """
    seen: dict[int, list[int]] = defaultdict(list)
    for step, counts in _showings(player, clock):
        seen[step] += counts
    holds = player.clip.steps
    per_tick = player.cycle_length / sum(holds[step].hold for step in player.order) * clock
    return [Rendered(step, min(seen[step]), max(seen[step]), holds[step].hold * per_tick) for step in sorted(seen)]


def _showings(player: Player, clock: Fraction) -> Iterator[tuple[int, list[int]]]:
    """Each step that shows, and in how many rendered frames it may be seen."""
    repeat = player.clip.repeat
    if repeat != "forever" and (repeat <= 1 or repeat * len(player.order) <= _MOST_SHOWINGS):
        shows = (happening for happening in player.happenings() if happening.kind in ("show", "end"))
        for before, after in pairwise(shows):
            if before.step is not None and before.kind == "show" and after.time > before.time:
                yield before.step, [math.ceil(after.time * clock) - math.ceil(before.time * clock)]
        return
    parts = (player.cycle_length * clock).denominator
    for begins, length in _one_cycle(Player(replace(player.clip, repeat="forever"), speed=player.speed)):
        exact = length * clock
        first = -(begins * clock) % Fraction(1, parts)
        last = first + Fraction(parts - 1, parts)
        over = exact - math.floor(exact)
        yield player.at(begins).step or 0, [math.floor(exact) + (u < over) for u in (first, last)]


def _one_cycle(player: Player) -> Iterator[tuple[Fraction, Fraction]]:
    """When each step of the second cycle begins, and how long it shows; the first may begin in the middle of one."""
    length = player.cycle_length
    times = [h.time for h in player.happenings(length, 3 * length) if h.kind == "show"][: len(player.order) + 1]
    for time, following in pairwise(times):
        yield time, following - time
