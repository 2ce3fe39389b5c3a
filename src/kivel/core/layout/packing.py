"""Packing rectangles as close to their area as a fixed amount of work allows. Whole numbers only, and no chance.

The skyline's lowest gap is filled with what fits it best (after Burke, Kendall and Whitwell 2004, "A New Placement
Heuristic for the Orthogonal Stock-Cutting Problem"), by several preferences, at many widths; a try ends as soon as it
wastes more than the best so far. Then a beam search looks at several choices for every gap, at the most promising
widths. Shelves are tried first, so that no result is worse than theirs. Nothing promises the least area.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import Literal, NamedTuple, get_args

from kivel.core.errors import KivelError
from kivel.core.layout.pieces import PREFERENCES, Kinds
from kivel.core.layout.skyline import BORDER, lift, put, walls
from kivel.core.pixels import Size

__all__ = ["EFFORTS", "Effort", "Packing", "PackingError", "Place", "packed", "packed_into"]

Effort = Literal["quick", "normal", "high"]
EFFORTS: tuple[Effort, ...] = get_args(Effort)

_WORK = {"quick": 15_000, "normal": 80_000, "high": 400_000}
"""Pieces placed while trying: the same on every machine, about 0.2, 1 and 5 seconds on a common one."""
_PLAIN_FACTOR = 2
"""Without a beam a try costs less."""
_SHELF_WIDTHS, _SHELF_WORK = 24, 20_000
_BEAM_PIECES = 320
"""Up to so many pieces a beam search pays off, and gets most of the work."""
_BEAM_SHARE = 0.7
_BEAM = 8
_BEAM_STRIDE = 7
_CHOICES = 4
_LONGEST = 1.45
"""Sheets are tried up to so much wider, or narrower, than a square of the pieces' area."""
_RAGGED = 0.08
"""What a segment of the skyline counts in a beam, in mean pieces: ragged outlines waste more later."""
_FLUSH = 0.5
"""A piece that ends flush with a wall is taken if it has so much of the area of the first choice."""
_PAIR_TRIES = 4

_Found = list[tuple[int, int, int, int]]
"""Where pieces lie: x, y, width and height of each."""


class PackingError(KivelError):
    """The pieces cannot be packed as asked."""


class Place(NamedTuple):
    """Where a piece lies; turned by 90 degrees or not."""

    x: int
    y: int
    turned: bool


class Packing(NamedTuple):
    """A sheet, and where each piece lies on it, in the pieces' order."""

    size: Size
    places: tuple[Place, ...]


def packed(
    pieces: Sequence[Size], *, turn: bool = False, effort: Effort = "normal", limit: Size | None = None
) -> Packing | None:
    """All pieces on a sheet of small area, of any width and height.

    Parameters
    ----------
    pieces : sequence of Size
        In pixels, at least 1x1.
    turn : bool
        Pieces may be turned by 90 degrees.
    effort : "quick", "normal" or "high"
        How much is tried.
    limit : Size or None
        The largest sheet allowed.

    Returns
    -------
    Packing or None
        None if nothing was found within the limit.

    Raises
    ------
    PackingError
        If there is no piece, or one is empty.
    """
    _check(pieces)
    search = _Search(pieces, turn, _WORK[effort], limit)
    search.shelves()
    search.sweep()
    search.beam()
    return search.result()


def packed_into(pieces: Sequence[Size], page: Size, *, turn: bool = False, effort: Effort = "normal") -> Packing | None:
    """All pieces on a page of a given size; None if no way was found.

    Raises
    ------
    PackingError
        If there is no piece, or one is empty.
    """
    _check(pieces)
    search = _Search(pieces, turn, _WORK[effort], page)
    search.fill_page(page)
    found = search.result()
    return found._replace(size=page) if found else None


def _check(pieces: Sequence[Size]) -> None:
    if not pieces:
        raise PackingError("there is nothing to pack")
    for number, size in enumerate(pieces):
        if min(size) < 1:
            raise PackingError(f"piece {number} has {size} px; each needs one at least")


class _Search:
    """The best packing so far, and the work that is left.

    Pieces are packed as they are and, where they may not turn, also lying on their side: the sheet is then turned back.
    """

    def __init__(self, pieces: Sequence[Size], turn: bool, work: int, limit: Size | None) -> None:
        self._pieces = [Size(*piece) for piece in pieces]
        self._turn = turn
        self._work = work
        self._limit = limit
        self._area = sum(w * h for w, h in self._pieces)
        self._best_area: int | None = None
        self._best: tuple[_Found, int, int, bool] | None = None
        self._kinds: dict[tuple[str, bool], Kinds] = {}

    def result(self) -> Packing | None:
        if self._best is None:
            return None
        found, width, height, lying = self._best
        if lying:
            found = [(y, x, h, w) for x, y, w, h in found]
            width, height = height, width
        return Packing(Size(width, height), _assigned(self._pieces, found))

    def _of(self, preference: str, lying: bool) -> Kinds:
        key = preference, lying
        if key not in self._kinds:
            sizes = [Size(h, w) for w, h in self._pieces] if lying else self._pieces
            self._kinds[key] = Kinds(sizes, turn=self._turn, preference=PREFERENCES[preference])
        return self._kinds[key]

    def _highest(self, width: int, lying: bool) -> int:
        """Up to which height a sheet of this width would be better than the best, and allowed; 0 if none would."""
        limit = self._limit
        if limit is not None and width > (limit.h if lying else limit.w):
            return 0
        highest = BORDER if self._best_area is None else (self._best_area - 1) // width
        if limit is not None:
            highest = min(highest, limit.w if lying else limit.h)
        return highest if highest * width >= self._area else 0

    def _take(self, found: _Found, lying: bool) -> None:
        height = max(y + h for _, y, _, h in found)
        used = max(x + w for x, _, w, _ in found)
        self._best_area = used * height
        self._best = found, used, height, lying

    def _widths(self, lying: bool) -> list[int]:
        """Every width worth trying, spread so that any few of them cover the range; the limit's own first."""
        kinds = self._of("height", lying)
        narrowest = max(min(group) if self._turn else group[0] for group in kinds.groups)
        root = math.isqrt(self._area)
        first = max(narrowest, int(root / _LONGEST))
        last = max(int(root * _LONGEST), first + first // 8)
        count = last - first + 1
        step = max(1, int(count * 0.618))
        while math.gcd(step, count) > 1:
            step += 1
        own = [] if self._limit is None else [self._limit.h if lying else self._limit.w]
        return own + [first + index * step % count for index in range(count)]

    def shelves(self) -> None:
        """Rows of falling height, the simplest way: what everything else has to beat."""
        for lying in (False, True):
            sizes = [Size(h, w) for w, h in self._pieces] if lying else self._pieces
            tall = [Size(min(s), max(s)) for s in sizes] if self._turn else sizes
            ordered = sorted(tall, key=lambda size: (-size.h, -size.w))
            for width in self._shelf_widths(lying):
                found = _shelved(ordered, width, self._highest(width, lying))
                if found:
                    self._take(found, lying)

    def _shelf_widths(self, lying: bool) -> list[int]:
        """A few from the range, and those of whole rows of equal pieces."""
        widths = self._widths(lying)
        kinds = self._of("height", lying)
        if len(kinds.groups) == 1:
            piece = kinds.groups[0][0]
            return [width for width in widths if width % piece == 0] or widths[:1]
        return widths[: max(2, min(_SHELF_WIDTHS, _SHELF_WORK // len(self._pieces)))]

    def sweep(self) -> None:
        """Best-fit at one width after the other, by one preference after the other, standing and lying."""
        lyings = (False,) if self._turn else (False, True)
        share = 1 - _BEAM_SHARE if len(self._pieces) <= _BEAM_PIECES else _PLAIN_FACTOR
        left = self._work * share
        tries = [(name, lying) for name in PREFERENCES for lying in lyings]
        widths = {lying: self._widths(lying) for lying in lyings}
        for turn in range(max(map(len, widths.values())) * len(tries)):
            name, lying = tries[turn % len(tries)]
            width = widths[lying][turn // len(tries) % len(widths[lying])]
            left -= self._best_fit(self._of(name, lying), width, lying)
            if left <= 0:
                return

    def _best_fit(self, kinds: Kinds, width: int, lying: bool) -> int:
        """Fill a sheet of this width, and again for as long as it becomes lower; how many pieces were placed."""
        work = 0
        while highest := self._highest(width, lying):
            found, placed = _filled(kinds, width, highest)
            work += placed + 4
            if found is None:
                break
            self._take(found, lying)
        return work + 1

    def beam(self) -> None:
        """Beam searches at the best width and around it."""
        if len(self._pieces) > _BEAM_PIECES or self._best is None:
            return
        left = self._work * _BEAM_SHARE
        _, best_width, best_height, best_lying = self._best
        lyings = (best_lying,) if self._turn else (best_lying, not best_lying)
        ranges = {lying: set(self._widths(lying)) for lying in lyings}
        for step in range(2 * max(best_width, best_height)):
            lying = lyings[step % len(lyings)]
            centre = best_width if lying == best_lying else best_height
            width = centre + _outward(step // len(lyings)) * _BEAM_STRIDE
            while width in ranges[lying] and (highest := self._highest(width, lying)):
                found, work = _beamed(self._orders(lying), width, highest)
                left -= work
                if found is None or left <= 0:
                    break
                self._take(found, lying)
            if left <= 0:
                return

    def _orders(self, lying: bool) -> list[Kinds]:
        """The preferences that a beam takes its choices by."""
        names = ("height", "area", "wide area") if self._turn else ("height", "area")
        return [self._of(name, lying) for name in names]

    def fill_page(self, page: Size) -> None:
        """Any way into one page: by every preference, standing and lying, then by ever wider beams."""
        if self._area > page.w * page.h:
            return
        left: float = self._work
        for lying in (False, True):
            width = page.h if lying else page.w
            for name in PREFERENCES:
                left -= self._best_fit_once(self._of(name, lying), width, lying)
                if self._best:
                    return
        beam = 2
        while left > 0:
            for lying in (False, True):
                width, height = (page.h, page.w) if lying else page
                found, work = _beamed(self._orders(lying), width, height, beam=beam)
                left -= work + 1
                if found:
                    self._take(found, lying)
                    return
            beam *= 2

    def _best_fit_once(self, kinds: Kinds, width: int, lying: bool) -> int:
        highest = self._highest(width, lying)
        found, placed = _filled(kinds, width, highest) if highest else (None, 0)
        if found:
            self._take(found, lying)
        return placed + 1


def _outward(step: int) -> int:
    """0, 1, -1, 2, -2, …"""
    return (step + 1) // 2 if step % 2 else -(step // 2)


def _shelved(ordered: Sequence[Size], width: int, highest: int) -> _Found | None:
    """First-fit shelves of falling height; None if a piece is too wide or the sheet too high."""
    shelves: list[list[int]] = []
    found: _Found = []
    open_from = 0
    narrowest = min(size.w for size in ordered)
    y = 0
    for w, h in ordered:
        shelf = next((one for one in shelves[open_from:] if one[0] + w <= width), None)
        if shelf is None:
            if w > width or y + h > highest:
                return None
            shelf = [0, y]
            shelves.append(shelf)
            y += h
        found.append((shelf[0], shelf[1], w, h))
        shelf[0] += w
        while open_from < len(shelves) and shelves[open_from][0] + narrowest > width:
            open_from += 1
    return found


def _filled(kinds: Kinds, width: int, highest: int) -> tuple[_Found | None, int]:
    """Best-fit on a sheet of `width`, None once more is wasted than `highest` leaves; and how many were placed."""
    counts, left = kinds.counts[:], kinds.all
    slack = width * highest - kinds.area
    xs, ys = [0, width], [0]
    found: _Found = []
    while len(found) < kinds.total:
        y = min(ys)
        index = ys.index(y)
        fits = kinds.fitting(left, xs[index + 1] - xs[index], highest - y)
        if not fits:
            if len(ys) == 1:
                return None, len(found)
            slack -= lift(xs, ys, index)
            if slack < 0:
                return None, len(found)
            continue
        kind = _best_kind(kinds, fits, xs[index + 1] - xs[index], *walls(ys, index), y)
        w, h, group = kinds.widths[kind], kinds.heights[kind], kinds.group_of[kind]
        found.append((put(xs, ys, index, w, h), y, w, h))
        counts[group] -= 1
        if not counts[group]:
            left &= ~kinds.bits[group]
    return found, len(found)


def _best_kind(kinds: Kinds, fits: int, gap: int, left: int, right: int, y: int) -> int:
    """Of what fits the gap: as wide, and flush with a wall; flush; with another for the rest; the preferred."""
    flush = fits & (kinds.of_height.get(left - y, 0) | kinds.of_height.get(right - y, 0))
    exact = fits & kinds.of_width.get(gap, 0)
    if exact:
        return ((exact & flush) or exact).bit_length() - 1
    first = fits.bit_length() - 1
    if flush:
        kind = flush.bit_length() - 1
        if kinds.widths[kind] * kinds.heights[kind] >= _FLUSH * kinds.widths[first] * kinds.heights[first]:
            return kind
    return _paired(kinds, fits, gap, first)


def _paired(kinds: Kinds, fits: int, gap: int, first: int) -> int:
    """The most preferred kind that leaves just the width of another; failing that, the most preferred."""
    rest = fits
    for _ in range(_PAIR_TRIES):
        kind = rest.bit_length() - 1
        if kind < 0:
            break
        if fits & kinds.of_width.get(gap - kinds.widths[kind], 0):
            return kind
        rest ^= 1 << kind
    return first


class _State(NamedTuple):
    """A packing begun: the skyline, what is left, what is wasted, and the chain of what was placed."""

    cost: float
    wasted: int
    xs: list[int]
    ys: list[int]
    left: tuple[int, ...]
    counts: list[int]
    chain: tuple[object, int, int, int, int] | None


def _beamed(orders: Sequence[Kinds], width: int, highest: int, *, beam: int = _BEAM) -> tuple[_Found | None, int]:
    """A beam search for a sheet of `width`, no higher than `highest`; and how many states were looked at.

    In each step every state puts a piece on its lowest gap, in a few ways; the `beam` states that wasted least and have
    the smoothest skylines go on.
    """
    first = orders[0]
    slack = width * highest - first.area
    ragged = _RAGGED * first.area / first.total
    group_of = dict(zip(zip(first.widths, first.heights, strict=True), first.group_of, strict=True))
    states = [_State(0, 0, [0, width], [0], tuple(kinds.all for kinds in orders), first.counts, None)]
    work = 0
    for _ in range(first.total):
        following: dict[tuple[object, ...], _State] = {}
        for state in states:
            for new in _continued(orders, state, slack, highest, ragged, group_of):
                work += 1
                key = tuple(new.xs), tuple(new.ys), new.left[0]
                if key not in following or new.cost < following[key].cost:
                    following[key] = new
        if not following:
            return None, work
        states = sorted(following.values(), key=lambda state: (state.cost, len(state.ys), state.ys))[:beam]
    best = min(states, key=lambda state: max(state.ys))
    return list(_unchained(best.chain)), work


def _continued(
    orders: Sequence[Kinds],
    state: _State,
    slack: int,
    highest: int,
    ragged: float,
    group_of: dict[tuple[int, int], int],
) -> Iterator[_State]:
    """The states after one more piece."""
    xs, ys, wasted = state.xs[:], state.ys[:], state.wasted
    while True:
        y = min(ys)
        index = ys.index(y)
        gap = xs[index + 1] - xs[index]
        fits = [kinds.fitting(left, gap, highest - y) for kinds, left in zip(orders, state.left, strict=True)]
        if fits[0]:
            break
        if len(ys) == 1:
            return
        wasted += lift(xs, ys, index)
        if wasted > slack:
            return
    for w, h in _choices(orders, fits, gap, *walls(ys, index), y):
        new_xs, new_ys, counts = xs[:], ys[:], state.counts[:]
        x = put(new_xs, new_ys, index, w, h)
        group = group_of[w, h]
        counts[group] -= 1
        left = state.left
        if not counts[group]:
            left = tuple([mask & ~kinds.bits[group] for mask, kinds in zip(left, orders, strict=True)])
        chain = (state.chain, x, y, w, h)
        yield _State(wasted + ragged * len(new_ys), wasted, new_xs, new_ys, left, counts, chain)


def _choices(
    orders: Sequence[Kinds], fits: Sequence[int], gap: int, left: int, right: int, y: int
) -> list[tuple[int, int]]:
    """A few sizes for a gap, the most promising first; only one where it fills the gap flush with a wall."""
    chosen: list[tuple[int, int]] = []
    for kinds, mask in zip(orders, fits, strict=True):
        flush = mask & (kinds.of_height.get(left - y, 0) | kinds.of_height.get(right - y, 0))
        exact = mask & kinds.of_width.get(gap, 0)
        if exact & flush:
            best = (exact & flush).bit_length() - 1
            return [(kinds.widths[best], kinds.heights[best])]
        first = mask.bit_length() - 1
        bits = [each.bit_length() - 1 for each in (exact, flush) if each] + [first, _paired(kinds, mask, gap, first)]
        chosen += [(kinds.widths[bit], kinds.heights[bit]) for bit in bits]
    return list(dict.fromkeys(chosen))[:_CHOICES]


def _unchained(chain: tuple[object, int, int, int, int] | None) -> Iterator[tuple[int, int, int, int]]:
    while chain is not None:
        before, x, y, w, h = chain
        yield x, y, w, h
        chain = before  # type: ignore[assignment]


def _assigned(pieces: Sequence[Size], found: _Found) -> tuple[Place, ...]:
    """Which piece lies where: equal ones in their order, from the first place found on."""
    waiting: dict[tuple[int, int], list[tuple[int, int, int, int]]] = defaultdict(list)
    for x, y, w, h in sorted(found, key=lambda place: (place[1], place[0]), reverse=True):
        waiting[min(w, h), max(w, h)].append((x, y, w, h))
    places = []
    for size in pieces:
        x, y, w, h = _pick(waiting[min(size), max(size)], size)
        places.append(Place(x, y, turned=(w, h) != tuple(size)))
    return tuple(places)


def _pick(waiting: list[tuple[int, int, int, int]], size: Size) -> tuple[int, int, int, int]:
    """The next place, one that need not be turned if there is any at the end of the list."""
    for index in range(len(waiting) - 1, -1, -1):
        if waiting[index][2:] == tuple(size):
            return waiting.pop(index)
    return waiting.pop()
