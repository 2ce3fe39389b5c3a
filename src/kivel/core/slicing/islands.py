"""Islands: what hangs together in a picture and is parted from all else by empty pixels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Rect

__all__ = ["Islands", "Labels", "found_islands", "in_rows"]

_DUST = 0.03
"""As a share of the median area: what is smaller belongs to what is near it."""
_NEAR = 1
"""Empty pixels between dust and what it belongs to."""
_SAME_ROW = 0.5

Labels = NDArray[np.int32]


class Islands(NamedTuple):
    """`labels` is (H, W): the island of each pixel, from 1, or 0. `boxes` and `areas` are by island, in reading order:
    rows from the top, each from the left. `rows` is the row in which each lies, from 0."""

    labels: Labels
    boxes: tuple[Rect, ...]
    areas: tuple[int, ...]
    rows: tuple[int, ...]


def found_islands(seen: NDArray[np.bool_], *, join: int = 0, least: int = 1) -> Islands:
    """The islands of a picture: connected components of what is drawn, corners included.

    Parameters
    ----------
    seen : (H, W) bool array
        What is drawn.
    join : int
        Parts with at most this many empty pixels between them are one island.
    least : int
        Islands of fewer pixels are none.
    """
    from scipy import ndimage  # a fifth of a second that a grid need not spend

    labels = _components(seen, join)
    areas = np.bincount(labels.ravel(), minlength=1)
    labels = _merged(labels, _dust_owners(labels, areas))
    labels = _merged(labels, _inside_owners(labels))
    areas = np.bincount(labels.ravel(), minlength=1)
    kept = [number for number in range(1, len(areas)) if areas[number] >= least]
    slices = ndimage.find_objects(labels)
    boxes = [_rect(slices[number - 1]) for number in kept]
    order, rows = in_rows(boxes)
    renumbered = np.zeros(len(areas), np.int32)
    for place, index in enumerate(order):
        renumbered[kept[index]] = place + 1
    return Islands(
        renumbered[labels],
        tuple(boxes[index] for index in order),
        tuple(int(areas[kept[index]]) for index in order),
        tuple(rows),
    )


def in_rows(boxes: list[Rect]) -> tuple[list[int], list[int]]:
    """Reading order: indices of the boxes, and the row of each of these.

    A box belongs to a row if they share at least half of the lower one's height, and so do two rows that do.
    """
    rows = [_Row((index,), box.y, box.bottom) for index, box in enumerate(boxes)]
    rows.sort(key=lambda row: (row.top + row.bottom, row.members))
    count = 0
    while count != len(rows):  # ends: rows only become fewer
        count = len(rows)
        joined: list[_Row] = []
        for row in rows:
            if joined and joined[-1].goes_with(row):
                joined[-1] = joined[-1].with_row(row)
            else:
                joined.append(row)
        rows = joined
    members = [sorted(row.members, key=lambda index: (boxes[index].x, boxes[index].y)) for row in rows]
    return [index for row in members for index in row], [number for number, row in enumerate(members) for _ in row]


class _Row(NamedTuple):
    """Boxes side by side, from the top of the highest to the bottom of the lowest."""

    members: tuple[int, ...]
    top: int
    bottom: int

    def goes_with(self, other: _Row) -> bool:
        shared = min(self.bottom, other.bottom) - max(self.top, other.top)
        return shared >= _SAME_ROW * min(self.bottom - self.top, other.bottom - other.top)

    def with_row(self, other: _Row) -> _Row:
        return _Row((*self.members, *other.members), min(self.top, other.top), max(self.bottom, other.bottom))


def _components(seen: NDArray[np.bool_], join: int) -> Labels:
    from scipy import ndimage

    reach = seen
    if join:
        # grown by half the distance on each side, they meet
        reach = ndimage.maximum_filter(seen, size=join + 1)
    labels, _ = ndimage.label(reach, structure=np.ones((3, 3), int))
    return np.where(seen, labels, 0).astype(np.int32)


def _dust_owners(labels: Labels, areas: NDArray[np.int64]) -> dict[int, int]:
    """For each speck, the largest island near it."""
    if len(areas) < 3:
        return {}
    from scipy import ndimage

    least = _DUST * float(np.median(areas[1:]))
    slices = ndimage.find_objects(labels)
    owners = {}
    for number in np.flatnonzero(areas < least).tolist():
        if number == 0:
            continue
        rows, columns = (slice(max(0, part.start - 1 - _NEAR), part.stop + 1 + _NEAR) for part in slices[number - 1])
        near = labels[rows, columns]
        reach = ndimage.maximum_filter(near == number, size=2 * (_NEAR + 1) + 1)
        around = np.unique(near[reach & (near > 0) & (near != number)])
        around = around[areas[around] > areas[number]]
        if around.size:
            owners[number] = int(around[areas[around].argmax()])
    return owners


def _inside_owners(labels: Labels) -> dict[int, int]:
    """For each island whose box lies wholly in another's, the one with the smallest such box."""
    from scipy import ndimage

    numbers = [number for number, place in enumerate(ndimage.find_objects(labels), 1) if place is not None]
    slices = ndimage.find_objects(labels)
    boxes = np.array([_rect(slices[number - 1]) for number in numbers]).reshape(-1, 4)
    left, top = boxes[:, 0], boxes[:, 1]
    right, bottom = left + boxes[:, 2], top + boxes[:, 3]
    sizes = boxes[:, 2] * boxes[:, 3]
    owners = {}
    for index, number in enumerate(numbers):
        holds = (left <= left[index]) & (top <= top[index]) & (right >= right[index]) & (bottom >= bottom[index])
        # of two equal boxes the first holds the other
        holds &= (sizes > sizes[index]) | (np.arange(len(numbers)) < index)
        if holds.any():
            held_by = np.flatnonzero(holds)
            owners[number] = numbers[int(held_by[sizes[held_by].argmin()])]
    return owners


def _merged(labels: Labels, owners: dict[int, int]) -> Labels:
    if not owners:
        return labels
    final = np.arange(labels.max() + 1, dtype=np.int32)
    for number in owners:
        owner = number
        while owner in owners:  # ends: an owner is larger, or of the same size and before it
            owner = owners[owner]
        final[number] = owner
    return final[labels]


def _rect(place: tuple[slice, slice]) -> Rect:
    rows, columns = place
    return Rect(int(columns.start), int(rows.start), int(columns.stop - columns.start), int(rows.stop - rows.start))
