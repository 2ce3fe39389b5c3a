"""Which frame of now is which of before, where some were added, removed, renamed or repainted."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
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
    are not known, and `drawn` of what is visible, wherever on its canvas it lies; `pixels` gets those of one whose file
    may be gone.
    """

    name: str
    size: Size
    digest: str = ""
    drawn: str = ""
    pixels: Callable[[], Pixels | None] | None = None


def same_frames(old: Sequence[Seen], new: Sequence[Seen]) -> tuple[int | None, ...]:
    """Return for each frame of now the number of the one that it was before, None where it was added.

    A frame is its picture: what was renamed or renumbered is found under its new name, if pictures did not just change
    places among names that stay. A picture that is new is a frame that was repainted, if the frame of that name is
    nowhere else. What is left over on both sides is paired where it is alike enough, or, where the old pixels are not
    known, where one name begins with the other. Of equal pictures the order decides.
    """
    pairs = _Pairs(old, new)
    pairs.by_picture(lambda one: one.digest)
    pairs.by_picture(lambda one: one.drawn)
    pairs.by_name()
    pairs.by_likeness()
    return tuple(pairs.was)


class _Pairs:
    """The pairs as they are found."""

    def __init__(self, old: Sequence[Seen], new: Sequence[Seen]) -> None:
        self._old, self._new = old, new
        self._old_place, self._new_place = _places(old), _places(new)
        self._old_keys = list(self._old_place)
        self.was: list[int | None] = [None] * len(new)
        self._taken: set[int] = set()
        for key, place in self._new_place.items():
            before = self._old_place.get(key)
            if before is not None and any(_alike(old[before], new[place])):
                self._pair(before, place)

    def _pair(self, before: int, now: int) -> None:
        self.was[now] = before
        self._taken.add(before)

    def by_picture(self, picture: Callable[[Seen], str]) -> None:
        """Those whose old picture is under another name, but for pictures that changed places."""
        free: dict[str, deque[int]] = {}
        for before, one in enumerate(self._old):
            if before not in self._taken and picture(one):
                free.setdefault(picture(one), deque()).append(before)
        found: dict[int, int] = {}
        for place, one in enumerate(self._new):
            if self.was[place] is None and free.get(picture(one)):
                found[place] = free[picture(one)].popleft()
        for place, before in found.items():
            if not self._comes_back(place, found):
                self._pair(before, place)

    def _comes_back(self, start: int, found: Mapping[int, int]) -> bool:
        """Whether pictures only went round among names that stay: from a file to the one of whose name it has the
        picture, and on."""
        place: int | None = start
        for _ in found:
            before = found.get(place) if place is not None else None
            place = None if before is None else self._new_place.get(self._old_keys[before])
            if place is None or place == start:
                break
        return place == start

    def by_name(self) -> None:
        """Whatever is painted in it now."""
        for key, place in self._new_place.items():
            before = self._old_place.get(key)
            if before is not None and before not in self._taken and self.was[place] is None:
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


def _alike(one: Seen, other: Seen) -> tuple[bool, bool]:
    """Whether the pictures are the same, and whether what is drawn in them is."""
    return one.digest == other.digest != "", one.drawn == other.drawn != ""


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
