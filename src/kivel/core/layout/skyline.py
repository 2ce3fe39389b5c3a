"""The skyline: the upper outline of what is packed so far, from the left border to the right one.

`xs` are where its segments begin, and last the right border; `ys` how high each is, y growing away from where packing
begins. Neighbouring segments always differ in height. The lists are changed in place: millions of times in one packing.
"""

from __future__ import annotations

__all__ = ["BORDER", "lift", "put", "walls"]

BORDER = 1 << 60
"""How high the borders are."""


def walls(ys: list[int], index: int) -> tuple[int, int]:
    """How high it is to the left and to the right of a segment."""
    left = ys[index - 1] if index else BORDER
    right = ys[index + 1] if index + 1 < len(ys) else BORDER
    return left, right


def lift(xs: list[int], ys: list[int], index: int) -> int:
    """Give a segment up: raise it to its lower neighbour, and say how much area that wastes."""
    left, right = walls(ys, index)
    low = min(left, right)
    wasted = (xs[index + 1] - xs[index]) * (low - ys[index])
    if left == right:
        del xs[index : index + 2]
        del ys[index : index + 2]
    elif left == low:
        del xs[index]
        del ys[index]
    else:
        del xs[index + 1]
        del ys[index]
    return wasted


def put(xs: list[int], ys: list[int], index: int, width: int, height: int) -> int:
    """Stand a piece on a segment that is wide enough, and say at what x.

    It goes to the wall that it is flush with, else to the higher one, so that what is left of the gap stays deep.
    """
    left, right = walls(ys, index)
    x, end, top = xs[index], xs[index + 1], ys[index] + height
    if width == end - x:
        if left == top and right == top:
            del xs[index : index + 2]
            del ys[index : index + 2]
        elif left == top:
            del xs[index]
            del ys[index]
        elif right == top:
            del xs[index + 1]
            del ys[index]
        else:
            ys[index] = top
        return x
    if left == top:
        xs[index] += width
        return x
    if right == top:
        xs[index + 1] -= width
        return end - width
    if right > left:
        xs.insert(index + 1, end - width)
        ys.insert(index + 1, top)
        return end - width
    xs.insert(index + 1, x + width)
    ys.insert(index, top)
    return x
