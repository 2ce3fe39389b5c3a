"""Which frame of now is which of before, where some were added, removed, renamed or repainted."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import count

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Size

__all__ = ["LIKE_ENOUGH", "Seen", "same_frames", "shares_a_name"]

LIKE_ENOUGH = 0.8
"""The share of visible pixels that a frame which was renamed and repainted still has."""

_MOST_COMPARED = 1 << 27
"""Pixels that are compared in search of what was renamed and repainted: about a second; beyond it names decide."""


class Seen(NamedTuple):
    """A frame by what can be known of it.

    `name` is what it is called by: its file, or its place on a sheet. `digest` is that of its pixels, empty where they
    are not known; `pixels` gets those of one whose file may be gone.
    """

    name: str
    size: Size
    digest: str = ""
    pixels: Callable[[], Pixels | None] | None = None


def same_frames(old: Sequence[Seen], new: Sequence[Seen]) -> tuple[int | None, ...]:
    """Return for each frame of now the number of the one that it was before, None where it was added.

    A frame is its name, whatever is painted in it, as long as that name is there. Where names came or went, pixels are
    followed from there: what was renumbered is found under its new number. What is left over on both sides is paired
    where it is alike enough, or, where the old pixels are not known, where one name begins with the other.
    """
    pairs = _Pairs(old, new)
    pairs.follow_names_that_came()
    pairs.follow_names_that_went()
    pairs.by_name()
    pairs.by_likeness()
    return tuple(pairs.was)


class _Pairs:
    """The pairs as they are found."""

    def __init__(self, old: Sequence[Seen], new: Sequence[Seen]) -> None:
        self._old, self._new = old, new
        self._old_place, self._new_place = _places(old), _places(new)
        self._old_keys, self._new_keys = list(self._old_place), list(self._new_place)
        self.was: list[int | None] = [None] * len(new)
        self._taken: set[int] = set()
        self._settled: set[int] = set()
        for key, place in self._new_place.items():
            before = self._old_place.get(key)
            if before is not None and old[before].digest == new[place].digest != "":
                self._pair(before, place)

    def _pair(self, before: int, now: int) -> None:
        self.was[now] = before
        self._taken.add(before)
        self._settled.add(now)

    def follow_names_that_came(self) -> None:
        """A new name may hold an old frame, and that one's old name the next, until a picture is new."""
        for key, start in self._new_place.items():
            place: int | None = start if key not in self._old_place else None
            while place is not None and place not in self._settled:
                before = self._old_of(self._new[place].digest)
                self._settled.add(place)  # none of the old ones, where it is not paired: a picture of its own
                if before is None:
                    break
                self._pair(before, place)
                place = self._new_place.get(self._old_keys[before])

    def follow_names_that_went(self) -> None:
        """An old name that is gone may have left its frame to another, which displaced its own."""
        for key, start in self._old_place.items():
            before: int | None = start if key not in self._new_place else None
            while before is not None and before not in self._taken:
                place = self._new_of(self._old[before].digest)
                if place is None:
                    break
                self._pair(before, place)
                before = self._old_place.get(self._new_keys[place])

    def _old_of(self, digest: str) -> int | None:
        found = (n for n, one in enumerate(self._old) if digest and one.digest == digest and n not in self._taken)
        return next(found, None)

    def _new_of(self, digest: str) -> int | None:
        found = (n for n, one in enumerate(self._new) if digest and one.digest == digest and n not in self._settled)
        return next(found, None)

    def by_name(self) -> None:
        """Whatever is painted in it now."""
        for key, place in self._new_place.items():
            before = self._old_place.get(key)
            if before is not None and before not in self._taken and place not in self._settled:
                self._pair(before, place)

    def by_likeness(self) -> None:
        """The likest first; of equals the first in order."""
        gone = [number for number in range(len(self._old)) if number not in self._taken]
        came = [number for number, before in enumerate(self.was) if before is None]
        largest = max((self._new[now].size.w * self._new[now].size.h for now in came), default=0)
        how = _likeness if len(gone) * len(came) * largest <= _MOST_COMPARED else _alike_by_name
        shares = ((-how(self._old[before], self._new[now]), before, now) for before in gone for now in came)
        for share, before, now in sorted(shares):
            if -share >= LIKE_ENOUGH and before not in self._taken and self.was[now] is None:
                self._pair(before, now)


def _places(frames: Sequence[Seen]) -> dict[tuple[str, int], int]:
    """Where each name is, one that is there several times by how often it was there before."""
    times: dict[str, Iterator[int]] = {}
    return {(one.name, next(times.setdefault(one.name, count()))): place for place, one in enumerate(frames)}


def _likeness(old: Seen, new: Seen) -> float:
    """The share of visible pixels that both have alike; by their names where the old ones are not known."""
    before = old.pixels() if old.pixels else None
    now = new.pixels() if new.pixels and before is not None else None
    if before is None or now is None:
        return _alike_by_name(old, new)
    if before.shape != now.shape or before.dtype != now.dtype:
        return 0.0
    visible = (before[..., 3] > 0) | (now[..., 3] > 0)
    return float((before == now).all(axis=2)[visible].mean()) if visible.any() else 0.0


def _alike_by_name(old: Seen, new: Seen) -> float:
    return float(shares_a_name(old.name, new.name))


def shares_a_name(one: str, other: str) -> bool:
    """Return whether one begins with the other, and no number goes on: `moth_2b` and `moth_2_new` with `moth_2`.

    >>> [shares_a_name("moth_2.png", name) for name in ("moth_2b.png", "moth_2-new.png", "moth_21.png", "moth_3.png")]
    [True, True, False, False]
    """
    short, long = sorted((_stem(one), _stem(other)), key=len)
    rest = long[len(short) :]
    return bool(short) and long.startswith(short) and not rest[:1].isdigit()


def _stem(name: str) -> str:
    stem, dot, _ = name.rpartition(".")
    return stem if dot else name
