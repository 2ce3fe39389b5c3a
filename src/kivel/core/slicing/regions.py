"""Named rectangles of a picture that has no grid, and finding them again when it was changed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from math import log

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pivots import PivotRequest
from kivel.core.pixels.pixels import Pixels, Rect, Size, full_scale

__all__ = ["FoundAgain", "Region", "found_again", "is_as_it_looked", "look_of", "moved_regions"]

_SIDE = 4
_OVERLAP = 0.3
"""As a share of both areas together: from there on a box may be the same thing, grown or moved a little."""
_OF_PLACE = 0.1
"""How much the place says, where looks say little."""
_COVERED = 0.5
"""As a share of a box: one that lies so far in regions that stayed is theirs."""
_UNLIKE, _OTHER = 0.25, 0.4
"""How far looks may be apart: of things that lie elsewhere, and of those that lie in the same place."""


class Region(NamedTuple):
    """A rectangle by its name. `clip` is what it plays in; `look` is what was seen in it, as `look_of` says; one that
    was not found again is `lost`."""

    name: str
    rect: Rect
    pivot: PivotRequest | None = None
    clip: str | None = None
    look: str = ""
    lost: bool = False


class FoundAgain(NamedTuple):
    """The boxes of a changed picture as regions: for each of the old ones its new self, lost or not, and new ones.

    `moved` and `grown` are names of old ones, `lost` are those that just were.
    """

    kept: tuple[Region, ...]
    new: tuple[Region, ...]
    moved: tuple[str, ...]
    grown: tuple[str, ...]
    lost: tuple[str, ...]


def look_of(image: Pixels, rect: Rect) -> str:
    """Return what is seen in a rectangle, in brief: 4 x 4 areas, of each how opaque it is and how light, a hex digit
    each.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight alpha, any depth, without its colour key.
    """
    part = rect.of(image).astype(np.float64) / full_scale(image)
    alpha = part[..., 3]
    light = (part[..., :3] @ (0.299, 0.587, 0.114)) * alpha
    areas = [_averages(values) for values in (alpha, light)]
    digits = (np.clip(np.stack(areas, -1), 0, 1) * 15).round().astype(int)
    return "".join(f"{digit:x}" for digit in digits.ravel())


def _averages(values: NDArray[np.float64]) -> NDArray[np.float64]:
    for axis, length in enumerate(values.shape):
        starts = np.arange(_SIDE) * length // _SIDE
        stops = np.maximum(starts + 1, (np.arange(_SIDE) + 1) * length // _SIDE)
        sums = np.insert(np.cumsum(values, axis=axis), 0, 0, axis=axis)
        widths = (stops - starts).reshape([-1 if each == axis else 1 for each in range(2)])
        values = (sums.take(stops, axis=axis) - sums.take(starts, axis=axis)) / widths
    return values


def found_again(image: Pixels, old: Sequence[Region], boxes: Sequence[Rect], *, stem: str) -> FoundAgain:
    """Which box of a changed picture is which region: by how they overlap, then by how alike they look.

    Boxes that are none of them become new regions by names that `stem` begins.
    """
    looks = [look_of(image, box) for box in boxes]
    stay = _staying(image, old, boxes, looks)
    covered = {place for place, box in enumerate(boxes) if _is_covered(box, [old[number].rect for number in stay])}
    others = [number for number in range(len(old)) if number not in stay]
    free = [place for place in range(len(boxes)) if place not in covered]
    pairs = _owners([old[n] for n in others], [boxes[n] for n in free], [looks[n] for n in free]) if free else {}
    owners = {others[number]: free[place] for number, place in pairs.items()}
    kept, moved, grown, lost = [], [], [], []
    for number, region in enumerate(old):
        if number in stay:
            kept.append(region)
            continue
        place = owners.get(number)
        if place is None:
            lost += [] if region.lost else [region.name]
            kept.append(region._replace(lost=True))
            continue
        box = boxes[place]
        moved += [region.name] if (box.x, box.y) != (region.rect.x, region.rect.y) else []
        grown += [region.name] if box.size != region.rect.size else []
        kept.append(region._replace(rect=box, look=looks[place], lost=False))
    taken = {*owners.values(), *covered}
    names = {region.name for region in old}
    new: list[Region] = []
    for place, box in enumerate(boxes):
        if place not in taken:
            name = _new_name(stem, names)
            names.add(name)
            new.append(Region(name, box, look=looks[place]))
    return FoundAgain(tuple(kept), tuple(new), tuple(moved), tuple(grown), tuple(lost))


def is_as_it_looked(image: Pixels, region: Region) -> bool:
    """Whether a region's own place shows what was seen there."""
    height, width = image.shape[:2]
    return region.rect.fits(Size(width, height)) and look_of(image, region.rect) == region.look


def moved_regions(image: Pixels, old: Sequence[Region], boxes: Sequence[Rect]) -> dict[str, tuple[Rect, Rect]]:
    """By name where regions were and where what was seen there is now, of the same size and look and of no other."""
    looks = [look_of(image, box) for box in boxes]
    found = _as_they_were(old, boxes, looks)
    stay = _staying(image, old, boxes, looks)
    return {
        old[number].name: (old[number].rect, boxes[place])
        for number, place in sorted(found.items())
        if number not in stay and not old[number].lost and boxes[place] != old[number].rect
    }


def _staying(image: Pixels, old: Sequence[Region], boxes: Sequence[Rect], looks: Sequence[str]) -> set[int]:
    """The regions whose own place shows what was seen there, but for those that moved a little."""
    exact = {(look, box.size): box for look, box in zip(looks, boxes, strict=True)}
    return {
        number
        for number, region in enumerate(old)
        if region.look
        and not region.lost
        and is_as_it_looked(image, region)
        and exact.get((region.look, region.rect.size), region.rect) == region.rect
    }


def _is_covered(box: Rect, rects: Sequence[Rect]) -> bool:
    """Whether more than half of a box lies in rectangles, which may overlap."""
    inside = np.zeros((box.h, box.w), bool)
    for rect in rects:
        top, left = max(0, rect.y - box.y), max(0, rect.x - box.x)
        inside[top : max(top, rect.bottom - box.y), left : max(left, rect.right - box.x)] = True
    return bool(inside.mean() > _COVERED)


def _owners(old: Sequence[Region], boxes: Sequence[Rect], looks: Sequence[str]) -> dict[int, int]:
    """For each region that is found again, the number of its box: those that are as before, wherever they are; then
    the surest pairs first."""
    shift = _common_shift(old, boxes, looks)
    overlapping, alike = [], []
    for number, region in enumerate(old):
        for place, box in enumerate(boxes):
            shared, apart = _shared(region.rect, box), _apart(region, box, looks[place])
            if shared >= _OVERLAP and not region.lost and apart < _OTHER:
                overlapping.append((-shared, apart, number, place))
            if apart < _UNLIKE:
                alike.append((apart + _astray(region.rect, box, shift), -shared, number, place))
    owners = _as_they_were(old, boxes, looks)
    taken = set(owners.values())
    for _, _, number, place in [*sorted(overlapping), *sorted(alike)]:
        if number not in owners and place not in taken:
            owners[number] = place
            taken.add(place)
    return owners


def _as_they_were(old: Sequence[Region], boxes: Sequence[Rect], looks: Sequence[str]) -> dict[int, int]:
    """The boxes whose look and size are those of one region alone, and of no other box."""
    was = [(region.look, region.rect.size) for region in old]
    now = [(look, box.size) for look, box in zip(looks, boxes, strict=True)]
    times_was, times_now = Counter(was), Counter(now)
    return {
        number: now.index(each)
        for number, each in enumerate(was)
        if each[0] and times_was[each] == times_now[each] == 1
    }


def _common_shift(old: Sequence[Region], boxes: Sequence[Rect], looks: Sequence[str]) -> tuple[float, float]:
    """How far most things moved: by the box that is most like each."""
    shifts = []
    for region in old:
        apart, place = min(
            (_apart(region, box, look), place) for place, (box, look) in enumerate(zip(boxes, looks, strict=True))
        )
        if apart < _UNLIKE:
            shifts.append((boxes[place].x - region.rect.x, boxes[place].y - region.rect.y))
    x, y = np.median(shifts, axis=0).tolist() if shifts else (0.0, 0.0)
    return x, y


def _astray(rect: Rect, box: Rect, shift: tuple[float, float]) -> float:
    """How far a box is from where its thing would be, had it moved as most did, in its own sizes; at most a little."""
    x, y = box.x - rect.x - shift[0], box.y - rect.y - shift[1]
    return _OF_PLACE * min(1.0, (abs(x) + abs(y)) / (8 * (rect.w + rect.h)))


def _shared(a: Rect, b: Rect) -> float:
    """Area of both over the area of either."""
    w = min(a.right, b.right) - max(a.x, b.x)
    h = min(a.bottom, b.bottom) - max(a.y, b.y)
    both = max(0, w) * max(0, h)
    return both / (a.w * a.h + b.w * b.h - both)


def _apart(region: Region, box: Rect, look: str) -> float:
    """How unlike they are, from 0: by looks, where that of the old one is known, and by size."""
    sizes = abs(log(box.w / region.rect.w)) + abs(log(box.h / region.rect.h))
    if len(region.look) != len(look):
        # of a size alone nothing is known of what it shows
        return sizes
    was, now = (np.array([int(digit, 16) for digit in each]) for each in (region.look, look))
    return float(np.mean(np.abs(was - now)) / 15) * 2 + sizes / 4


def _new_name(stem: str, names: set[str]) -> str:
    number = 0
    while f"{stem}_{number:04d}" in names:  # ends: names are finite
        number += 1
    return f"{stem}_{number:04d}"
