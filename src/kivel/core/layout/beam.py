"""A beam search over the choices for every gap: several packings of one sheet are continued at once, the best go on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from kivel.core.layout.best_fit import Filling, Laid, paired
from kivel.core.layout.pieces import Kinds
from kivel.core.layout.skyline import BORDER, lift, put, walls

__all__ = ["beamed"]

_CHOICES = 6
_RAGGED_PERCENT = 8
"""What a segment of the skyline counts, of a mean piece: ragged outlines waste more later."""


class _State(NamedTuple):
    """A packing begun: the skyline, what is left, what is wasted, and the chain of what was placed.

    `narrowest` and `lowest` are the least width and height of what is left.
    """

    wasted: int
    xs: Sequence[int]
    ys: Sequence[int]
    left: tuple[int, ...]
    counts: list[int]
    chain: tuple[object, int, int, int, int] | None
    narrowest: int = 0
    lowest: int = 0


class _Try(NamedTuple):
    """What a state would become by one more piece, ordered by how promising that is; most are given up at once."""

    cost: int
    segments: int
    ys: tuple[int, ...]
    serial: int
    xs: tuple[int, ...]
    wasted: int
    parent: _State
    group: int
    laid: Laid
    narrowest: int
    lowest: int

    def done(self, orders: Sequence[Kinds]) -> _State:
        counts, left = self.parent.counts[:], self.parent.left
        counts[self.group] -= 1
        if not counts[self.group]:
            left = tuple([mask & ~kinds.bits[self.group] for mask, kinds in zip(left, orders, strict=True)])
        chain = (self.parent.chain, *self.laid)
        return _State(self.wasted, self.xs, self.ys, left, counts, chain, self.narrowest, self.lowest)


def beamed(
    orders: Sequence[Kinds], width: int, highest: int, *, beam: int, begun: Filling | None = None
) -> tuple[list[Laid] | None, int]:
    """A beam search for a sheet of `width`, no higher than `highest`; and how many states were looked at.

    In each step every state puts a piece on its lowest gap, in a few ways; the `beam` states that lose least and have
    the smoothest skylines go on. Lost is what is wasted, and what nothing that is left can fill. `begun` is what lies
    there already, as best-fit put it.
    """
    first = orders[0]
    slack = width * highest - first.area
    ragged = first.area * _RAGGED_PERCENT // (100 * first.total)
    group_of = dict(zip(zip(first.widths, first.heights, strict=True), first.group_of, strict=True))
    begun = begun or Filling([], 0, [0, width], [0], 0)
    if begun.laid is None:
        return None, begun.work
    states = [_resumed(orders, begun, begun.laid, group_of)]
    work = begun.work
    for _ in range(first.total - len(begun.laid)):
        following: dict[tuple[object, ...], _Try] = {}
        for state in states:
            for left, new in _continued(orders, state, slack, highest, ragged, group_of, work):
                work += 1
                key = new.xs, new.ys, left
                if key not in following or new.cost < following[key].cost:
                    following[key] = new
        if not following:
            return None, work
        states = [new.done(orders) for new in sorted(following.values())[:beam]]
    best = min(states, key=lambda state: max(state.ys))
    return [*begun.laid, *_unchained(best.chain)], work


def _resumed(orders: Sequence[Kinds], begun: Filling, laid: list[Laid], group_of: dict[tuple[int, int], int]) -> _State:
    """What best-fit began, as a state of a beam."""
    counts = orders[0].counts[:]
    for _, _, w, h in laid:
        counts[group_of[w, h]] -= 1
    gone = [group for group, count in enumerate(counts) if not count]
    left = []
    for kinds in orders:
        mask = kinds.all
        for group in gone:
            mask &= ~kinds.bits[group]
        left.append(mask)
    return _State(begun.wasted, begun.xs, begun.ys, tuple(left), counts, None)


def _continued(
    orders: Sequence[Kinds],
    state: _State,
    slack: int,
    highest: int,
    ragged: int,
    group_of: dict[tuple[int, int], int],
    serial: int,
) -> Iterator[tuple[int, _Try]]:
    """What one more piece makes of a state, and what is then left, by the first order."""
    xs, ys, wasted = list(state.xs), list(state.ys), state.wasted
    first, first_left = orders[0], state.left[0]
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
        new_xs, new_ys = xs[:], ys[:]
        x = put(new_xs, new_ys, index, w, h)
        group = group_of[w, h]
        left = first_left & ~first.bits[group] if state.counts[group] == 1 else first_left
        narrowest, lowest = _least(first, left, state.narrowest, state.lowest)
        lost = wasted + _lost(new_xs, new_ys, narrowest, highest - lowest, highest)
        if lost <= slack:
            cost, segments = lost + ragged * len(new_ys), len(new_ys)
            serial += 1
            place = (x, y, w, h)
            yield (
                left,
                _Try(
                    cost, segments, tuple(new_ys), serial, tuple(new_xs), wasted, state, group, place, narrowest, lowest
                ),
            )


def _least(kinds: Kinds, left: int, narrowest: int, lowest: int) -> tuple[int, int]:
    """The least width and height of what is left."""
    if not left:
        return 0, 0
    while not kinds.up_to_width[narrowest] & left:
        narrowest += 1
    while not kinds.up_to_height[lowest] & left:
        lowest += 1
    return narrowest, lowest


def _lost(xs: list[int], ys: list[int], narrowest: int, last: int, highest: int) -> int:
    """What can never be filled: below the walls of gaps too narrow for all that is left, above what is too high."""
    lost = 0
    end = len(ys) - 1
    for index, y in enumerate(ys):
        width = xs[index + 1] - xs[index]
        if y > last:
            lost += width * (highest - y)
        elif width < narrowest:
            left = ys[index - 1] if index else BORDER
            right = ys[index + 1] if index < end else BORDER
            wall = left if left < right else right
            if wall > y:
                lost += width * (wall - y)
    return lost


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
        bits = [each.bit_length() - 1 for each in (exact, flush) if each] + [first, paired(kinds, mask, gap, first)]
        chosen += [(kinds.widths[bit], kinds.heights[bit]) for bit in bits]
    return list(dict.fromkeys(chosen))[:_CHOICES]


def _unchained(chain: tuple[object, int, int, int, int] | None) -> Iterator[tuple[int, int, int, int]]:
    while chain is not None:
        before, x, y, w, h = chain
        yield x, y, w, h
        chain = before  # type: ignore[assignment]
