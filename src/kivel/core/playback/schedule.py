"""One play of a clip as a plain list: for what shows pictures one after the other, and knows nothing of clips."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import islice, pairwise

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Repeat
from kivel.core.playback.following import Chain

__all__ = ["Picture", "Schedule", "Shot", "schedule"]

_MOST_SHOTS = 100_000


class Picture(NamedTuple):
    """A frame (None for nothing), or the blend of two."""

    frame: int | None
    following: int | None = None
    weight: Fraction = Fraction(0)


class Shot(NamedTuple):
    """A frame (None for nothing) that shows for a time (s), with the share `weight` of another."""

    frame: int | None
    seconds: Fraction
    following: int | None = None
    weight: Fraction = Fraction(0)

    @property
    def picture(self) -> Picture:
        return Picture(self.frame, self.following, self.weight) if self.weight else Picture(self.frame)


class Schedule(NamedTuple):
    """Holds what shows, in order, and how often all of it is played."""

    shots: tuple[Shot, ...]
    repeat: Repeat


def schedule(clip: Clip, *, blends: Fraction, others: Sequence[Clip] = ()) -> Schedule:
    """The pictures of a clip in the order and for the time that they show.

    A clip that plays forever is cut where it starts, by its phase. A finite one that starts within its cycle, or does
    not stay on its last step, is written out with all its cycles. Clips that follow are written out too, one that does
    not move by its step, up to a cycle
    of one that plays forever or to where a circle begins again: then all of it does.

    Parameters
    ----------
    blends : Fraction
        At least how many pictures a second what blends is shown by.
    others : sequence of Clip
        Those that may follow.

    Raises
    ------
    UsageError
        If it has more than 100,000 pictures.
    """
    chain = Chain(clip, others)
    player, last = chain.players[0], chain.players[-1].clip
    if clip.repeat == 0:
        first = player.at(Fraction(0))
        return Schedule((Shot(first.frame, clip.seconds(clip.steps[first.step or 0].hold)),), 1)
    alone = len(chain.players) == 1
    is_plain = alone and (clip.repeat == "forever" or (not clip.phase and clip.end == "last"))
    end = player.cycle_length if is_plain else chain.settled
    shots = tuple(islice(_shots(chain, end, blends), _MOST_SHOTS + 1))
    if not is_plain and chain.length is not None and (last.end != "last" or last.repeat == 0):
        moment = chain.at(end).moment
        shots += (
            Shot(moment.frame, last.seconds(last.steps[last.order()[0] if moment.step is None else moment.step].hold)),
        )
    if len(shots) > _MOST_SHOTS:
        raise UsageError(
            f'clip "{clip.name}" makes more than {_MOST_SHOTS:,} pictures; choose fewer cycles with {option("repeat")}'
        )
    if is_plain:
        return Schedule(shots, clip.repeat)
    return Schedule(shots, "forever" if chain.length is None else 1)


def _shots(chain: Chain, end: Fraction, blends: Fraction) -> Iterator[Shot]:
    shows = (happening.time for _, happening in chain.happenings(Fraction(0), end) if happening.kind == "show")
    for start, stop in pairwise(_with_end(shows, end)):
        player, _, moment = chain.at(start)
        moves = player.clip.blends and moment.following != moment.frame
        parts = max(1, math.ceil((stop - start) * blends)) if moves else 1
        for part in range(parts):
            moment = chain.at(start + (stop - start) * part / parts).moment
            yield Shot(moment.frame, (stop - start) / parts, moment.following, moment.weight)


def _with_end(times: Iterator[Fraction], end: Fraction) -> Iterator[Fraction]:
    yield from times
    yield end
