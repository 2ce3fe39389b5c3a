"""A beam search over the choices for every gap: several packings of one sheet are continued at once, the best go on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from kivel.core.layout.best_fit import Filling, Laid, paired
from kivel.core.layout.pieces import Kinds
from kivel.core.layout.skyline import BORDER, lift, put, walls
from kivel.core.named_tuples import NamedTuple

__all__ = ["beamed"]

_CHOICES = 6
_RAGGED_PERCENT = 8
"""The cost of a segment of the skyline, as a share of a mean piece: ragged skylines waste more later."""
_PLACED_PERCENT = 4
"""Says what placed area is worth: of as many pieces that are left, the smaller ones fit more easily."""


class _State(NamedTuple):
    """A packing begun: the skyline, what is left, what is wasted, and the chain of what was placed.

    `narrowest` and `lowest` are the least width and height of what is left.
    """

    wasted: int
    xs: list[int]
    ys: list[int]
    left: tuple[int, ...]
    counts: list[int]
    chain: tuple[object, int, int, int, int] | None
    area: int
    narrowest: int = 0
    lowest: int = 0


class _Gap(NamedTuple):
    """The lowest gap of a state that a piece fits: segment `at` of a skyline, and the room below it is wasted.

    The segments from `first` to before `end`, the gap and its neighbours, are all that a piece there changes. `fits`
    are the kinds that fit, in the first order.
    """

    state: _State
    wasted: int
    xs: list[int]
    ys: list[int]
    at: int
    first: int
    end: int
    fits: int


class _Try(NamedTuple):
    """Holds what a piece in a gap would make of it, ordered by how promising that is; most are given up at once."""

    cost: int
    segments: int
    serial: int
    gap: _Gap
    xs: list[int]
    ys: list[int]
    laid: Laid
    narrowest: int
    lowest: int

    def done(self, sheet: _Sheet) -> _State:
        state, wasted, xs, ys, _, first, end, _ = self.gap
        _, _, w, h = self.laid
        group = sheet.group_of[w, h]
        counts, left = state.counts[:], state.left
        counts[group] -= 1
        if not counts[group]:
            left = tuple([mask & ~kinds.bits[group] for mask, kinds in zip(left, sheet.orders, strict=True)])
        new_xs = xs[:first] + self.xs + xs[end + 1 :]
        new_ys = ys[:first] + self.ys + ys[end:]
        # a chain backwards, shared by all states that came from one: copying lists took most of the time
        chain = (state.chain, *self.laid)
        return _State(wasted, new_xs, new_ys, left, counts, chain, state.area + w * h, self.narrowest, self.lowest)


class _Sheet(NamedTuple):
    """Holds what all states of one search share: what is to be packed, how high and with how much waste; and what was
    found.

    `ragged` is what a segment costs; `known` are the choices for gaps that came before.
    """

    orders: Sequence[Kinds]
    highest: int
    slack: int
    ragged: int
    group_of: dict[tuple[int, int], int]
    known: dict[tuple[int, int, int, int], list[tuple[int, int]]]

    @classmethod
    def of(cls, orders: Sequence[Kinds], width: int, highest: int) -> _Sheet:
        first = orders[0]
        group_of = dict(zip(zip(first.widths, first.heights, strict=True), first.group_of, strict=True))
        ragged = first.area * _RAGGED_PERCENT // (100 * first.total)
        return cls(orders, highest, width * highest - first.area, ragged, group_of, {})


def beamed(
    orders: Sequence[Kinds], width: int, highest: int, *, beam: int, begun: Filling | None = None
) -> tuple[list[Laid] | None, int]:
    """A beam search for a sheet of `width`, no higher than `highest`; and how many states were looked at.

    In each step every state puts a piece on its lowest gap, in a few ways; the `beam` states that lose least and have
    the smoothest skylines go on. Lost is what is wasted, and what nothing that is left can fill. `begun` is what lies
    there already, as best-fit put it.
    """
    sheet = _Sheet.of(orders, width, highest)
    begun = begun or Filling([], 0, [0, width], [0], 0)
    if begun.laid is None:
        return None, begun.work
    states = [_resumed(sheet, begun, begun.laid)]
    work = begun.work
    for _ in range(orders[0].total - len(begun.laid)):
        tries: list[_Try] = []
        for state in states:
            gap = _lowest_gap(sheet, state)
            if gap is not None:
                tries += _tried(sheet, gap, len(tries))
        if not tries:
            return None, work
        work += len(tries)
        # by cost, then segments, then serial number: ties fall the same way on every machine
        tries.sort()
        states = _distinct(sheet, tries, beam)
    best = min(states, key=lambda state: max(state.ys))
    return [*begun.laid, *_unchained(best.chain)], work


def _resumed(sheet: _Sheet, begun: Filling, laid: list[Laid]) -> _State:
    """Return what best-fit began, as a state of a beam."""
    counts = sheet.orders[0].counts[:]
    for _, _, w, h in laid:
        counts[sheet.group_of[w, h]] -= 1
    gone = [group for group, count in enumerate(counts) if not count]
    left = []
    for kinds in sheet.orders:
        mask = kinds.all
        for group in gone:
            mask &= ~kinds.bits[group]
        left.append(mask)
    return _State(begun.wasted, begun.xs, begun.ys, tuple(left), counts, None, sum(w * h for _, _, w, h in laid))


def _distinct(sheet: _Sheet, tries: Sequence[_Try], beam: int) -> list[_State]:
    """Return the states after the first tries, without duplicates."""
    states: dict[tuple[object, ...], _State] = {}
    for new in tries:
        state = new.done(sheet)
        # two ways to one skyline with the same kinds left have the same future
        states.setdefault((tuple(state.xs), tuple(state.ys), state.left[0]), state)
        if len(states) == beam:
            break
    return list(states.values())


def _lowest_gap(sheet: _Sheet, state: _State) -> _Gap | None:
    """The lowest gap that anything fits; None once too much is wasted."""
    xs, ys, wasted = state.xs, state.ys, state.wasted
    first, left = sheet.orders[0], state.left[0]
    while True:
        y = min(ys)
        index = ys.index(y)
        fits = first.fitting(left, xs[index + 1] - xs[index], sheet.highest - y)
        if fits:
            return _Gap(state, wasted, xs, ys, index, max(0, index - 1), min(len(ys), index + 2), fits)
        if len(ys) == 1:
            return None
        xs, ys = xs[:], ys[:]
        wasted += lift(xs, ys, index)
        if wasted > sheet.slack:
            return None


def _tried(sheet: _Sheet, gap: _Gap, serial: int) -> Iterator[_Try]:
    """Return what one more piece makes of a gap."""
    state, wasted, xs, ys, index, start, end, _ = gap
    highest = sheet.highest
    narrowest, lowest = _least(sheet.orders[0], state)
    last = highest - lowest
    outer_left = ys[start - 1] if start else BORDER
    outer_right = ys[end] if end < len(ys) else BORDER
    elsewhere = wasted + _lost(xs[: start + 1], ys[:start], BORDER, ys[start], narrowest, last, highest)
    elsewhere += _lost(xs[end:], ys[end:], ys[end - 1], BORDER, narrowest, last, highest)
    segments_elsewhere = start + len(ys) - end
    for w, h in _choices(sheet, gap):
        new_xs, new_ys = xs[start : end + 1], ys[start:end]
        x = put(new_xs, new_ys, index - start, w, h)
        lost = elsewhere + _lost(new_xs, new_ys, outer_left, outer_right, narrowest, last, highest)
        # what is lost already decides: the sheet can only become higher than it may
        if lost <= sheet.slack:
            segments = segments_elsewhere + len(new_ys)
            cost = lost + sheet.ragged * segments - (state.area + w * h) * _PLACED_PERCENT // 100
            serial += 1
            yield _Try(cost, segments, serial, gap, new_xs, new_ys, (x, ys[index], w, h), narrowest, lowest)


def _least(kinds: Kinds, state: _State) -> tuple[int, int]:
    """The least width and height of what is left."""
    left, narrowest, lowest = state.left[0], state.narrowest, state.lowest
    while not kinds.up_to_width[narrowest] & left:
        narrowest += 1
    while not kinds.up_to_height[lowest] & left:
        lowest += 1
    return narrowest, lowest


def _lost(xs: Sequence[int], ys: Sequence[int], left: int, right: int, narrowest: int, last: int, highest: int) -> int:
    """Return what can never be filled between two walls: in gaps too narrow for all that is left, and above the too
    high.
    """
    lost = 0
    end = len(ys) - 1
    for index, y in enumerate(ys):
        width = xs[index + 1] - xs[index]
        if y > last:
            lost += width * (highest - y)
        elif width < narrowest:
            wall = ys[index - 1] if index else left
            beyond = ys[index + 1] if index < end else right
            if beyond < wall:
                wall = beyond
            if wall > y:
                lost += width * (wall - y)
    return lost


def _choices(sheet: _Sheet, gap: _Gap) -> list[tuple[int, int]]:
    """A few sizes for a gap, the most promising first; only one where it fills the gap flush with a wall."""
    xs, ys, index = gap.xs, gap.ys, gap.at
    y, room = ys[index], xs[index + 1] - xs[index]
    left, right = walls(ys, index)
    key = gap.fits, room, left - y, right - y
    # the same gap with the same pieces left comes up again and again in neighbouring states
    if key not in sheet.known:
        masks = [
            kinds.fitting(mask, room, sheet.highest - y)
            for kinds, mask in zip(sheet.orders, gap.state.left, strict=True)
        ]
        sheet.known[key] = _chosen(sheet.orders, masks, room, left - y, right - y)
    return sheet.known[key]


def _chosen(orders: Sequence[Kinds], fits: Sequence[int], room: int, left: int, right: int) -> list[tuple[int, int]]:
    chosen: list[tuple[int, int]] = []
    for kinds, mask in zip(orders, fits, strict=True):
        flush = mask & (kinds.of_height.get(left, 0) | kinds.of_height.get(right, 0))
        exact = mask & kinds.of_width.get(room, 0)
        # nothing can beat a piece that closes the gap and leaves no step
        if exact & flush:
            best = (exact & flush).bit_length() - 1
            return [(kinds.widths[best], kinds.heights[best])]
        first = mask.bit_length() - 1
        bits = [each.bit_length() - 1 for each in (exact, flush) if each] + [first, paired(kinds, mask, room, first)]
        chosen += [(kinds.widths[bit], kinds.heights[bit]) for bit in bits]
    return list(dict.fromkeys(chosen))[:_CHOICES]


def _unchained(chain: tuple[object, int, int, int, int] | None) -> Iterator[tuple[int, int, int, int]]:
    while chain is not None:
        before, x, y, w, h = chain
        yield x, y, w, h
        chain = before  # type: ignore[assignment]
