"""How much of its neighbours a frame shows when it is filtered: at its edge, and at smaller levels.

A level (mip) is made as a graphics card does by a box filter: half the side, rounded down; where that does not divide,
by area. Sampling is bilinear, texels clamped at the page's border. Premultiplied colour never exceeds alpha, so that
the largest foreign alpha bounds every channel on every backdrop.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Rect, Size

__all__ = ["Bleed", "frame_bleed", "level_sizes"]

Plane = NDArray[np.float32]


class Bleed(NamedTuple):
    """One level: the largest foreign alpha within the frame's rectangle, of 255, and half a texel inside it."""

    level: int
    edge: float
    inside: float


def level_sizes(page: Size, levels: int) -> list[Size]:
    """
    >>> level_sizes(Size(10, 4), 3)
    [Size(w=10, h=4), Size(w=5, h=2), Size(w=2, h=1)]
    """
    sizes = [page]
    while len(sizes) < levels and max(sizes[-1]) > 1:
        sizes.append(Size(max(1, sizes[-1].w // 2), max(1, sizes[-1].h // 2)))
    return sizes


def frame_bleed(alpha: NDArray[np.uint8], rect: Rect, own: Sequence[Rect], levels: int) -> list[Bleed]:
    """Return what a frame takes from outside, at each level of a page.

    Parameters
    ----------
    alpha : (H, W) uint8 array
        Of the whole page.
    rect : Rect
        The frame's rectangle on it, of at least one pixel.
    own : sequence of Rect
        What is the frame's own: its rectangle and its skirt, and others that hold the same picture.
    levels : int
        From 1: the page itself alone.
    """
    sizes = level_sizes(Size(alpha.shape[1], alpha.shape[0]), levels)
    across = _windows(rect.x, rect.right, [size.w for size in sizes])
    down = _windows(rect.y, rect.bottom, [size.h for size in sizes])
    (x, right), (y, bottom) = across[0], down[0]
    plane = alpha[y:bottom, x:right].astype(np.float32)
    for one in own:
        plane[max(0, one.y - y) : max(0, one.bottom - y), max(0, one.x - x) : max(0, one.right - x)] = 0
    found = []
    for level, size in enumerate(sizes):
        if level:
            plane = _halved(plane, down, sizes[level - 1].h, level)
            plane = _halved(plane.T, across, sizes[level - 1].w, level).T
        edges = [
            _sampled_at(rect.x, rect.right, sizes[0].w, size.w, across[level][0]),
            _sampled_at(rect.y, rect.bottom, sizes[0].h, size.h, down[level][0]),
        ]
        found.append(Bleed(level, _largest(plane, *edges), _largest(plane, *(_inner(edge) for edge in edges))))
    return found


class _Samples(NamedTuple):
    """Along an axis, in texels of a window: both borders as they may be sampled, and the centres between them."""

    low: float
    high: float
    first: int
    end: int
    middles: tuple[float, float]


def _windows(start: int, end: int, sides: Sequence[int]) -> list[tuple[int, int]]:
    """The texels of each level that the frame may be sampled from, and those of larger levels that make them."""
    windows: list[tuple[int, int]] = []
    for level in reversed(range(len(sides))):
        side, whole = sides[level], sides[0]
        first, last = start * side // whole - 1, -(-end * side // whole) + 1
        if windows:
            inner = windows[-1]
            extra = 1 if side % 2 and side > 1 else 0
            step = 2 if side > 1 else 1
            first, last = min(first, step * inner[0]), max(last, step * inner[1] + extra)
        windows.append((max(0, first), min(side, last)))
    return windows[::-1]


def _halved(plane: Plane, windows: Sequence[tuple[int, int]], side: int, level: int) -> Plane:
    """The rows of a level from those of the one before, which is `side` high."""
    (first, end), parent = windows[level], windows[level - 1][0]
    if side == 1:
        return plane[first - parent : end - parent]
    start, count = 2 * first - parent, end - first
    taps = [plane[start + tap : start + tap + 2 * count - 1 : 2] for tap in range(3 if side % 2 else 2)]
    if side % 2 == 0:
        return (taps[0] + taps[1]) * np.float32(0.5)
    half = side // 2
    place = np.arange(first, end, dtype=np.float32)[:, None]
    weighted = taps[0] * (half - place) + taps[1] * half + taps[2] * (place + 1)
    return np.asarray(weighted / np.float32(side), np.float32)


def _sampled_at(start: int, end: int, whole: int, side: int, window: int) -> _Samples:
    low, high = start * side / whole - 0.5, end * side / whole - 0.5
    clamped = [min(max(place, 0.0), side - 1.0) - window for place in (low, high)]
    first, last = int(np.ceil(low)), int(np.floor(high))
    half = side / whole
    middle = (start + end) * half / 2 - 0.5
    inner = [min(max(place, 0.0), side - 1.0) - window for place in (min(low + 0.5, middle), max(high - 0.5, middle))]
    return _Samples(
        clamped[0], clamped[1], max(0, first) - window, min(side - 1, last) + 1 - window, (inner[0], inner[1])
    )


def _inner(samples: _Samples) -> _Samples:
    """The same, half a texel of the level inside."""
    low, high = samples.middles
    return _Samples(low, high, int(np.ceil(low)), int(np.floor(high)) + 1, samples.middles)


def _largest(plane: Plane, across: _Samples, down: _Samples) -> float:
    """Bilinear and never negative, it is largest at the borders or at the centres between them."""
    rows = np.concatenate([_between(plane, down.low), plane[down.first : down.end], _between(plane, down.high)])
    columns = np.concatenate(
        [_between(rows.T, across.low), rows.T[across.first : across.end], _between(rows.T, across.high)]
    )
    return float(columns.max(initial=0))


def _between(plane: Plane, place: float) -> Plane:
    """(1, W): the row at a place between two."""
    first = min(int(place), plane.shape[0] - 1)
    second = min(first + 1, plane.shape[0] - 1)
    share = np.float32(place - first)
    return np.asarray(plane[first] * (1 - share) + plane[second] * share)[None]
