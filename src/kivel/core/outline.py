"""Convex polygons of a few points around what a frame shows: for collision, and to draw less that is empty.

Points are in pixels from the top left of the canvas, y down; pixels are squares, so that (0, 0) to (1, 1) is the first.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple

__all__ = ["Polygon", "convex_hull", "outlined"]

Point = tuple[int, int]
Floats = NDArray[np.float64]
Exact = tuple[Fraction, Fraction]

_GRID = 16
"""Points are whole sixteenths of a pixel: exact in binary and short in text."""
_SEARCHED = 4
_FEW = 1e-9
_UPRIGHT = ((1, 0), (0, 1), (-1, 0), (0, -1))
_SLANTED = tuple((a, b) for a in (-2, -1, 1, 2) for b in (-2, -1, 1, 2) if abs(a * b) < 4)
"""Directions of a triangle's sides, which those of a box alone do not make."""


class Polygon(NamedTuple):
    """Points clockwise as seen, and how many square pixels it holds beyond those it is drawn around."""

    points: tuple[tuple[float, float], ...]
    unseen: float

    @property
    def area(self) -> float:
        return float(_area([(Fraction(x), Fraction(y)) for x, y in self.points]))


class _Line(NamedTuple):
    """The half-plane a*x + b*y <= c, which touches the hull at its vertices `first` to `last`."""

    a: int
    b: int
    c: int
    first: int
    last: int


def outlined(mask: NDArray[np.bool_], most: int) -> Polygon | None:
    """A convex polygon of at most `most` points that encloses every True pixel; None when there is none.

    Of all polygons whose sides lie along sides of the convex hull or of the bounding box, the one of least area: the
    area beyond the hull is a sum over neighbouring sides, so that the best cycle of at most `most` sides is a shortest
    path (cf. Aggarwal, Chang and Yap 1985, "Minimum area circumscribing polygons"; theirs may also touch by a corner
    alone). Points stay within the box of the pixels, unless there are only three. Corners are rounded outward.

    Parameters
    ----------
    mask : (H, W) bool array
    most : int
        From 3.

    Raises
    ------
    KivelError
        If `most` is less than 3.
    """
    if most < 3:
        raise KivelError(f"an outline of {most} points encloses nothing; use at least 3")
    hull = convex_hull(mask)
    if not hull:
        return None
    visible = int(np.count_nonzero(mask))
    points = _around(hull, most) if len(hull) > most else [(Fraction(x), Fraction(y)) for x, y in hull]
    return Polygon(tuple((float(x), float(y)) for x, y in points), float(_area(points) - visible))


def convex_hull(mask: NDArray[np.bool_]) -> list[Point]:
    """The corners of the convex hull of the True pixels' squares, clockwise as seen, no three in line.

    Andrew 1979, "Another efficient algorithm for convex hulls in two dimensions".
    """
    rows = np.flatnonzero(mask.any(axis=1))
    if not rows.size:
        return []
    first = mask[rows].argmax(axis=1)
    last = mask.shape[1] - mask[rows][:, ::-1].argmax(axis=1)
    corners: set[Point] = set()
    for row, left, right in zip(rows.tolist(), first.tolist(), last.tolist(), strict=True):
        # squares of pixels, not their centres: a corner of any pixel may be a corner of the hull
        corners |= {(left, row), (right, row), (left, row + 1), (right, row + 1)}
    ordered = sorted(corners)
    lower, upper = _chain(ordered), _chain(ordered[::-1])
    return lower[:-1] + upper[:-1]


def _chain(points: Sequence[Point]) -> list[Point]:
    chain: list[Point] = []
    for point in points:
        while len(chain) > 1 and _cross(chain[-2], chain[-1], point) <= 0:
            chain.pop()
        chain.append(point)
    return chain


def _cross(o: Point, a: Point, b: Point) -> int:
    return (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0])


def _around(hull: list[Point], most: int) -> list[Exact]:
    """The corners of the best polygon of `most` sides, on the grid of sixteenths."""
    # a triangle around a square has to leave its box
    box = _box(hull) if most > 3 else None
    lines = _lines(hull, _UPRIGHT if box else _UPRIGHT + _SLANTED)
    costs = _costs(lines, hull, box)
    chosen = [lines[index] for index in _best_cycle(costs, most)]
    corners = [_meeting(chosen[index - 1], chosen[index]) for index in range(len(chosen))]
    return [_rounded_out(corner, chosen[index - 1], chosen[index], box) for index, corner in enumerate(corners)]


def _box(hull: list[Point]) -> tuple[int, int, int, int]:
    xs, ys = [x for x, _ in hull], [y for _, y in hull]
    return min(xs), min(ys), max(xs), max(ys)


def _lines(hull: list[Point], more: Sequence[Point]) -> list[_Line]:
    """The lines along the hull's sides, and those that touch it in some more directions, by angle."""
    count = len(hull)
    lines: dict[tuple[int, int], _Line] = {}
    for index in range(count):
        (x1, y1), (x2, y2) = hull[index], hull[(index + 1) % count]
        a, b = y2 - y1, x1 - x2
        # in lowest terms, so that sides along one line are one line
        a, b = a // math.gcd(a, b), b // math.gcd(a, b)
        lines[a, b] = _Line(a, b, a * x1 + b * y1, index, (index + 1) % count)
    for a, b in more:
        if (a, b) not in lines:
            touching = max(range(count), key=lambda i: a * hull[i][0] + b * hull[i][1])
            lines[a, b] = _Line(a, b, a * hull[touching][0] + b * hull[touching][1], touching, touching)
    return sorted(lines.values(), key=lambda line: math.atan2(line.b, line.a))


def _costs(lines: list[_Line], hull: list[Point], box: tuple[int, int, int, int] | None) -> Floats:
    """[i, j]: the area between the hull and lines i and j when j follows i; infinite where it may not."""
    a, b, c = (np.array([line[k] for line in lines], np.float64) for k in range(3))
    turn = a[:, None] * b[None, :] - b[:, None] * a[None, :]
    with np.errstate(divide="ignore", invalid="ignore"):  # lines that are parallel do not meet
        x = (c[:, None] * b[None, :] - b[:, None] * c[None, :]) / turn
        y = (a[:, None] * c[None, :] - c[:, None] * a[None, :]) / turn
    allowed = turn > 0
    if box:
        left, top, right, bottom = box
        allowed &= (x >= left - _FEW) & (x <= right + _FEW) & (y >= top - _FEW) & (y <= bottom + _FEW)
    points = np.array(hull, np.float64)
    following = np.roll(points, -1, axis=0)
    doubled = points[:, 0] * following[:, 1] - following[:, 0] * points[:, 1]
    sums = np.concatenate(([0.0], np.cumsum(np.concatenate((doubled, doubled)))))
    last = np.array([line.last for line in lines])
    first = np.array([line.first for line in lines])
    start, end = points[last], points[first]
    ends = np.where(first[None, :] >= last[:, None], first[None, :], first[None, :] + len(hull))
    chain = sums[ends] - sums[last][:, None]
    x, y = np.where(allowed, x, 0), np.where(allowed, y, 0)
    corner = (start[:, None, 0] * y - x * start[:, None, 1]) + (x * end[None, :, 1] - end[None, :, 0] * y)
    return np.where(allowed, np.maximum(corner - chain, 0) / 2, np.inf)


def _best_cycle(costs: Floats, most: int) -> list[int]:
    """The lines of a cheapest closed way around by at most `most` steps, in their order."""
    count = len(costs)
    forward = np.where(np.arange(count)[:, None] < np.arange(count)[None, :], costs, np.inf)
    back = np.where(np.arange(count)[:, None] > np.arange(count)[None, :], costs, np.inf)
    ways, befores = [np.where(np.eye(count, dtype=bool), 0.0, np.inf)], []
    best, found = np.inf, (0, 0, 0)
    for steps in range(1, most):
        before, way_on = np.empty((count, count), np.intp), np.empty((count, count))
        for start in range(count):  # all starts at a time would take the cube of the lines' number
            through = ways[-1][start, :, None] + forward
            before[start] = through.argmin(axis=0)
            way_on[start] = through[before[start], np.arange(count)]
        befores.append(before)
        ways.append(way_on)
        closed = ways[-1] + back.T
        at = int(closed.argmin())
        if steps >= 2 and closed.flat[at] < best:
            best, found = float(closed.flat[at]), (steps, *divmod(at, count))
    steps, first, last = found
    way = [last]
    for before in befores[:steps][::-1]:
        way.append(int(before[first, way[-1]]))
    return way[::-1]


def _meeting(one: _Line, other: _Line) -> Exact:
    turn = one.a * other.b - one.b * other.a
    return Fraction(one.c * other.b - one.b * other.c, turn), Fraction(one.a * other.c - one.c * other.a, turn)


def _rounded_out(corner: Exact, one: _Line, other: _Line, box: tuple[int, int, int, int] | None) -> Exact:
    """The nearest point of the grid that lies on neither line's inner side: all that was enclosed stays enclosed."""
    x, y = (int(value * _GRID) for value in corner)
    left, top, right, bottom = (value * _GRID for value in box) if box else (x - 99, y - 99, x + 99, y + 99)
    for radius in range(1, _SEARCHED + 1):
        outside = [
            (px, py)
            for px in range(max(left, x - radius), min(right, x + radius) + 1)
            for py in range(max(top, y - radius), min(bottom, y + radius) + 1)
            if all(line.a * px + line.b * py >= line.c * _GRID for line in (one, other))
        ]
        if outside:
            px, py = min(outside, key=lambda p: (abs(p[0] - corner[0] * _GRID) + abs(p[1] - corner[1] * _GRID), p))
            return Fraction(px, _GRID), Fraction(py, _GRID)
    return corner


def _area(points: Sequence[Exact]) -> Fraction:
    closed = [*points, points[0]]
    doubled = sum((x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in pairwise(closed)), Fraction(0))
    return abs(doubled) / 2
