"""In which order the frames of a folder play, where some were renamed, renumbered or added."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from kivel.core.numbering import natural_order, series_name

__all__ = ["frame_order"]


def frame_order(before: Sequence[str], now: Sequence[str], was: Sequence[int | None]) -> list[int]:
    """Return the places in `now` in the order in which they play.

    Frames count by their names, if they did before; named regions are in an order of their own, and stay in it. One
    that was renamed stays where it was, unless its new number in the same series says otherwise. One that was added
    comes after the name that it counts after, of its own series if there is one.

    Parameters
    ----------
    before, now : sequence of str
        Names without suffix; those of before in the order in which they played.
    was : sequence of int or None
        For each of now its place before; None: it was added.
    """
    counted = {name: place for place, name in enumerate(natural_order(now))}
    known = [place for place, number in enumerate(was) if number is not None]
    in_place = [place for place in known if series_name(now[place]) == series_name(before[was[place] or 0])]
    names = [before[was[place] or 0] for place in sorted(in_place, key=lambda place: was[place] or 0)]
    by_name = names == natural_order(names)
    order = sorted(in_place, key=lambda place: counted[now[place]] if by_name else was[place] or 0)
    for place in sorted(set(known).difference(in_place), key=lambda place: was[place] or 0):
        number = was[place] or 0
        later = [other for other in order if (was[other] or 0) > number]
        at = order.index(min(later, key=lambda other: was[other] or 0)) if later else len(order)
        order.insert(at, place)
    for place in sorted(set(range(len(now))).difference(known), key=lambda place: counted[now[place]]):
        order.insert(_after_neighbour(order, now, place, counted.__getitem__), place)
    return order


def _after_neighbour(order: Sequence[int], now: Sequence[str], place: int, count: Callable[[str], int]) -> int:
    """Where an added frame goes: behind the one of its series that it counts after, or before the one it counts before.

    One of no series counts among all.
    """
    own = series_name(now[place])
    alike = [other for other in order if series_name(now[other]) == own] or list(order)
    earlier = [other for other in alike if count(now[other]) < count(now[place])]
    if earlier:
        return order.index(max(earlier, key=lambda other: count(now[other]))) + 1
    return order.index(min(alike, key=lambda other: count(now[other]))) if alike else 0
