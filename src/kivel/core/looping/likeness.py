"""How a sequence moves: where its mass goes, which frames are nearly the same, whether it goes back the way it came."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from kivel.core.looping.seam import usual_change
from kivel.core.looping.signature import NEARLY, Signatures, changes, distances
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Box
from kivel.core.survey import Point

__all__ = ["Mirror", "Slide", "Wander", "mirror", "nearly_same", "slide", "wander"]

_MOST_LAGS = 256
"""How far apart frames are compared, so that long sequences take time in proportion to their length."""


class Wander(NamedTuple):
    """The box in pixels that the path of the mass fills, and how far from its mean the mass ever gets."""

    left: float
    top: float
    right: float
    bottom: float
    farthest: float


_FEWEST_TO_SLIDE = 4
_LEAST_TRAVEL = 2.0
"""Pixels in all, below which a slide is not worth a word."""
_ALIKE = 0.35
_MOST_WOBBLE = 0.12
"""As a share of the whole way: what leaves the straight line by more is a movement of its own."""


def wander(path: Sequence[Point | None]) -> Wander | None:
    """Where the mass goes over the frames; None when fewer than two have any."""
    points = [point for point in path if point is not None]
    if len(points) < 2:
        return None
    xs, ys = [point[0] for point in points], [point[1] for point in points]
    middle = sum(xs) / len(xs), sum(ys) / len(ys)
    farthest = max(math.dist(point, middle) for point in points)
    return Wander(min(xs), min(ys), max(xs), max(ys), farthest)


class Slide(NamedTuple):
    """How far the mass moves from frame to frame, in pixels right and down, evenly all through."""

    dx: float
    dy: float


def slide(path: Sequence[Point | None], boxes: Sequence[Box]) -> Slide | None:
    """The steady movement of the mass; None where it hardly moves, or not evenly, or the picture changes its shape.

    By the line through its places that has the least squares; steady if what is left over is small against it, and the
    middle of the box of what is seen moves alike.
    """
    points = [(number, *point) for number, point in enumerate(path) if point is not None]
    if len(points) < _FEWEST_TO_SLIDE:
        return None
    slopes, left = _line_through(points)
    travel = math.hypot(*slopes) * (points[-1][0] - points[0][0])
    wobble = math.sqrt(left)
    if travel < _LEAST_TRAVEL or wobble > _MOST_WOBBLE * travel:
        return None
    middles = [(n, box.x + box.w / 2, box.y + box.h / 2) for n, box in enumerate(boxes) if box]
    if len(set(boxes)) > 1 and len(middles) >= _FEWEST_TO_SLIDE:
        others, _ = _line_through(middles)
        if math.dist(slopes, others) > _ALIKE * math.hypot(*slopes):
            return None
    return Slide(*slopes)


def _line_through(points: Sequence[tuple[int, float, float]]) -> tuple[tuple[float, float], float]:
    """How far places move in x and y with each number, and the mean square of what is left over."""
    number, *axes = np.array(points, dtype=np.float64).T
    slopes, left = [], 0.0
    for places in axes:
        slope, first = np.polyfit(number, places, 1)
        slopes.append(float(slope))
        left += float(np.mean(np.square(places - (slope * number + first))))
    return (slopes[0], slopes[1]), left


def nearly_same(signatures: Signatures) -> list[list[int]]:
    """Groups of frame numbers that differ by less than a tenth of a usual step, by their first; identical ones too."""
    step = usual_change(changes(signatures)) if len(signatures) > 1 else 0.0
    if not step:
        return []
    lags = range(1, min(len(signatures), _MOST_LAGS))
    close = np.argwhere(distances(signatures, lags) < NEARLY * step)
    leader = list(range(len(signatures)))
    for first, lag in sorted(close.tolist()):
        leader[first + lag + 1] = min(leader[first + lag + 1], leader[first])
    groups: dict[int, list[int]] = {}
    for number, first in enumerate(leader):
        groups.setdefault(first, []).append(number)
    return [group for group in groups.values() if len(group) > 1]


class Mirror(NamedTuple):
    """The first `kept` frames played back and forth show all of it; `hold_ends` if each end shows twice."""

    kept: int
    hold_ends: bool


def mirror(signatures: Signatures) -> Mirror | None:
    """Whether the second half is the first one backwards, so that playing back and forth would save it; None if it is
    not.

    `0 1 2 3 2 1` is four frames back and forth with each end once, `0 1 2 2 1 0` that of three with ends twice.
    """
    count = len(signatures)
    if count < 4 or count % 2:
        return None
    step = usual_change(changes(signatures))
    if not step:
        return None
    for hold_ends in (False, True):
        pairs = [(i, (count - 1 if hold_ends else count) - i) for i in range(0 if hold_ends else 1, count // 2)]
        if all(_differ(signatures, a, b) < NEARLY * step for a, b in pairs):
            return Mirror(count // 2 + (not hold_ends), hold_ends)
    return None


def _differ(signatures: Signatures, a: int, b: int) -> float:
    return float(changes([signatures[a], signatures[b]])[0])
