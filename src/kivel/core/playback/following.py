"""A clip and those that follow it: which frame shows when, from one to the next, exact as each clip by itself is."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import count, takewhile

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip
from kivel.core.playback.player import Happening, Moment, Player

__all__ = ["Chain", "Playing"]


class Playing(NamedTuple):
    """Holds what shows at one time: the clip that plays then, since when, and the moment in its own time."""

    player: Player
    since: Fraction
    moment: Moment


class _Part(NamedTuple):
    """A clip that plays from `since` on, for this long; None for ever."""

    player: Player
    since: Fraction
    length: Fraction | None


class Chain:
    """A clip that plays, at a given speed, and goes on with the one that follows it, at the very time of its end.

    One that plays forever is left at `leave_at`, the first of them alone; the follower begins at its own phase. Clips
    may follow each other in a circle.

    Parameters
    ----------
    clips : sequence of Clip
        Among which followers are looked up by name; one that is not there does not follow.
    leave_at : Fraction or None
        Seconds from the beginning; a loop that has not begun by then is left at once.

    Raises
    ------
    UsageError
        If the speed is not above 0, or a clip's phase lies outside its cycle.
    """

    def __init__(
        self,
        clip: Clip,
        clips: Sequence[Clip] = (),
        *,
        speed: Fraction = Fraction(1),
        leave_at: Fraction | None = None,
    ) -> None:
        self.clip = clip
        self._parts: list[_Part] = []
        self._circle: int | None = None
        by_name = {each.name: each for each in clips} | {clip.name: clip}
        seen: dict[tuple[str, bool], int] = {}
        since, following, is_left = Fraction(0), clip, False
        while True:
            if (following.name, is_left) in seen:
                self._circle = seen[following.name, is_left]
                break
            seen[following.name, is_left] = len(self._parts)
            after = by_name.get(following.then) if following.then is not None else None
            # what follows takes the place of an end
            player = Player(following if after is None else replace(following, end="last"), speed=speed)
            length = None if following.repeat == 0 else player.length
            if after is not None and length is None and following.repeat != 0 and leave_at is not None and not is_left:
                length, is_left = max(Fraction(0), leave_at - since), True
            self._parts.append(_Part(player, since, length))
            if after is None or length is None:
                break
            since, following = since + length, after
        self._until = since

    @property
    def players(self) -> list[Player]:
        """Return the clips that come to play, in order."""
        return [part.player for part in self._parts]

    @property
    def is_circle(self) -> bool:
        """Whether all of it begins again, again and again."""
        return self._circle == 0

    @property
    def length(self) -> Fraction | None:
        """How long it plays, in seconds; None if forever."""
        last = self._parts[-1]
        if self._circle is not None:
            return None
        if last.length is None:
            return last.since if last.player.clip.repeat == 0 else None
        return last.since + last.length

    @property
    def settled(self) -> Fraction:
        """When all that is finite has ended, and what is not has gone through once, in seconds."""
        if self._circle is not None:
            return self._until
        length = self.length
        return self._parts[-1].since + self._parts[-1].player.cycle_length if length is None else length

    def at(self, time: Fraction) -> Playing:
        """Return what shows at a time from 0; raises `UsageError` below."""
        shift = Fraction(0)
        if self._circle is not None and time >= self._until:
            begins = self._parts[self._circle].since
            shift = (time - begins) // (self._until - begins) * (self._until - begins)
        part = next(part for part in reversed(self._parts) if part.since <= time - shift or part is self._parts[0])
        since = part.since + shift
        return Playing(part.player, since, part.player.at(time - since))

    def happenings(
        self, start: Fraction = Fraction(0), end: Fraction | None = None
    ) -> Iterator[tuple[Player, Happening]]:
        """All that happens from `start` on and before `end`, in order, and the clip to which it does.

        Where one clip goes over into the next, it ends, and then the next begins to show.
        """
        every = self._from(start)
        return every if end is None else takewhile(lambda each: each[1].time < end, every)

    def begun(self, time: Fraction) -> Fraction:
        """When the step began that shows at a time."""
        playing = self.at(time)
        return playing.since + playing.player.begun(time - playing.since)

    def _from(self, start: Fraction) -> Iterator[tuple[Player, Happening]]:
        for part in self._playing(start):
            if part.length is not None and part.since + part.length < start:
                continue
            within = start - part.since
            for happening in part.player.happenings(within if within > 0 else Fraction(0)):
                told = happening._replace(time=happening.time + part.since)
                goes_on = part is not self._parts[-1] or self._circle is not None
                if goes_on and part.length is not None and _is_past(happening, part.length):
                    break
                yield part.player, told
            else:
                continue
            if part.player.clip.repeat == "forever" and part.length is not None:
                over = part.since + part.length
                if over >= start:
                    yield part.player, Happening(over, "end", part.player.at(part.length).cycle)

    def _playing(self, start: Fraction) -> Iterator[_Part]:
        """The clips as they come to play, in a circle from the round on in which `start` lies."""
        if self._circle is None:
            yield from self._parts
            return
        begins = self._parts[self._circle].since
        length = self._until - begins
        first = max(0, (start - begins) // length) if start > self._until else 0
        if not first:
            yield from self._parts[: self._circle]
        for number in count(first):
            yield from (part._replace(since=part.since + number * length) for part in self._parts[self._circle :])


def _is_past(happening: Happening, length: Fraction) -> bool:
    """Whether it would only be seen if nothing followed."""
    return happening.time > length or (happening.time == length and happening.kind not in ("cycle", "end"))
