"""Filling a sheet of a given width: shelves, and best-fit on the skyline."""

from __future__ import annotations

from collections.abc import Sequence

from kivel.core.layout.pieces import Kinds
from kivel.core.layout.skyline import lift, put, walls
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = ["Filling", "Laid", "filled", "paired", "shelved"]

_PAIR_TRIES = 4

Laid = tuple[int, int, int, int]
"""Where a piece lies: x, y, width and height."""


def shelved(ordered: Sequence[Size], width: int, highest: int) -> list[Laid] | None:
    """First-fit shelves of falling height; None if a piece is too wide or the sheet too high."""
    shelves: list[list[int]] = []
    found: list[Laid] = []
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
        # shelves too full for the narrowest piece are not looked at again: else many pieces cost their square
        while open_from < len(shelves) and shelves[open_from][0] + narrowest > width:
            open_from += 1
    return found


class Filling(NamedTuple):
    """A sheet filled by best-fit; `laid` is None when it wasted too much. `work` is how many pieces were placed."""

    laid: list[Laid] | None
    work: int
    xs: list[int]
    ys: list[int]
    wasted: int


def filled(kinds: Kinds, width: int, highest: int, *, count: int | None = None, until_full: bool = False) -> Filling:
    """Best-fit on a sheet of `width`, given up once more is wasted than `highest` leaves.

    All pieces, or the first `count` that best-fit takes; under `until_full`, whatever fits before nothing more does.
    """
    counts, left = kinds.counts[:], kinds.all
    slack = width * highest - kinds.area
    wasted = 0
    xs, ys = [0, width], [0]
    laid: list[Laid] = []
    wanted = kinds.total if count is None else count
    while len(laid) < wanted:
        # the lowest gap, of equals the leftmost: what is filled first decides all that follows, so it is never chance
        y = min(ys)
        index = ys.index(y)
        fits = kinds.fitting(left, xs[index + 1] - xs[index], highest - y)
        if not fits:
            if len(ys) > 1:
                wasted += lift(xs, ys, index)
                # beyond the slack no order of what is left can still beat the best sheet
                if wasted <= slack or until_full:
                    continue
            return Filling(laid if until_full else None, len(laid), xs, ys, wasted)
        kind = _best_kind(kinds, fits, xs[index + 1] - xs[index], *walls(ys, index), y)
        w, h, group = kinds.widths[kind], kinds.heights[kind], kinds.group_of[kind]
        laid.append((put(xs, ys, index, w, h), y, w, h))
        counts[group] -= 1
        if not counts[group]:
            left &= ~kinds.bits[group]
    return Filling(laid, len(laid), xs, ys, wasted)


def _best_kind(kinds: Kinds, fits: int, gap: int, left: int, right: int, y: int) -> int:
    """Return the best piece that fits the gap: as wide, and flush with a wall; flush; with another for the rest; the
    preferred.
    """
    flush = fits & (kinds.of_height.get(left - y, 0) | kinds.of_height.get(right - y, 0))
    exact = fits & kinds.of_width.get(gap, 0)
    if exact:
        return ((exact & flush) or exact).bit_length() - 1
    # kinds are bits in order of preference, so the highest bit set is the one preferred
    first = fits.bit_length() - 1
    if flush:
        kind = flush.bit_length() - 1
        if 2 * kinds.widths[kind] * kinds.heights[kind] >= kinds.widths[first] * kinds.heights[first]:
            return kind  # with less than half the area of the first choice, being flush is not worth it
    return paired(kinds, fits, gap, first)


def paired(kinds: Kinds, fits: int, gap: int, first: int) -> int:
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
