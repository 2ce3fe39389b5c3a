"""Fewer or more frames over the same motion: which frames to take, how to mix what lies between, how long to hold."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from fractions import Fraction
from itertools import pairwise

import numpy as np

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.light import Kind, Light, from_light, to_light
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.easing import Easing

__all__ = ["Share", "Span", "mixed", "resampled_holds", "sample_positions", "samples"]


class Share(NamedTuple):
    """A frame, and how much of it."""

    frame: int
    weight: float


class Span(NamedTuple):
    """One frame to make: where on the motion it lies, in source frames, and what it is mixed of."""

    position: float
    shares: tuple[Share, ...]


def sample_positions(length: int, count: int, *, one_shot: bool, pace: Easing | None = None) -> list[float]:
    """Where on a motion of `length` frames each of `count` evenly spaced frames lies.

    A loop leaves its end out (frame `length` would be frame 0), a one-shot includes both ends. With a pace, even steps
    of time become the uneven ones of the easing function.

    >>> sample_positions(10, 4, one_shot=False)
    [0.0, 2.5, 5.0, 7.5]
    >>> sample_positions(10, 4, one_shot=True)
    [0.0, 3.0, 6.0, 9.0]
    """
    steps, extent = (max(count - 1, 1), length - 1) if one_shot else (count, length)
    if pace is None:
        return [index * extent / steps for index in range(count)]
    return [pace(index / steps) * extent for index in range(count)]


def samples(length: int, positions: Sequence[float], *, one_shot: bool, mix: bool) -> list[Span]:
    """Return what each new frame is made of.

    Without `mix` it is the nearest frame (the later of two as near). With it, each new frame averages all that lies
    nearer to it than to its neighbours, so that every source frame has its share; where there are more new frames than
    old ones, it is the in-between of the two it lies between. Loops go on across their end.
    """
    if not mix:
        return [Span(at, (Share(_index(math.floor(at + 0.5 + 1e-9), length, one_shot), 1.0),)) for at in positions]
    return [
        Span(at, _shares(at, *bounds, length, one_shot))
        for at, bounds in zip(positions, _bounds(length, positions, one_shot), strict=True)
    ]


def _index(number: int, length: int, one_shot: bool) -> int:
    return min(max(number, 0), length - 1) if one_shot else number % length


def _bounds(length: int, positions: Sequence[float], one_shot: bool) -> list[tuple[float, float]]:
    """Half way to the neighbours on both sides."""
    if one_shot:
        around = [-0.5 - (positions[0] + 0.5), *positions, 2 * (length - 0.5) - positions[-1]]
    else:
        around = [positions[-1] - length, *positions, positions[0] + length]
    halves = [(a + b) / 2 for a, b in pairwise(around)]
    return [(min(low, high), max(low, high)) for low, high in pairwise(halves)]


def _shares(at: float, low: float, high: float, length: int, one_shot: bool) -> tuple[Share, ...]:
    if high - low <= 1 + 1e-9:
        before = math.floor(at + 1e-9)
        part = max(at - before, 0.0)
        pieces = [(before, 1 - part), (before + 1, part)]
    else:
        # every source frame is a stretch of time one frame long; the overlap is its share
        numbers = range(math.floor(low + 0.5), math.ceil(high + 0.5))
        pieces = [(number, min(high, number + 0.5) - max(low, number - 0.5)) for number in numbers]
    weights: dict[int, float] = {}
    for number, weight in pieces:
        if weight > 1e-9:
            index = _index(number, length, one_shot)
            weights[index] = weights.get(index, 0.0) + weight
    total = sum(weights.values())
    return tuple(Share(index, weight / total) for index, weight in weights.items())


def mixed(shares: Sequence[Share], load: Callable[[int], Pixels], *, kind: Kind = "color") -> Pixels:
    """The weighted mean of frames, premultiplied and in linear light; normals are of unit length again.

    One frame alone is given back as it is. Frames are loaded one after the other, and must be of one size.
    """
    if len(shares) == 1:
        return load(shares[0].frame)
    total: Light | None = None
    for share in shares:
        image = load(share.frame)
        is_first = total is None
        total = np.empty((4, *image.shape[:2]), np.float32) if total is None else total
        for rows in row_bands(*image.shape[:2]):
            part = to_light(image[rows], kind) * np.float32(share.weight)
            total[:, rows] = part if is_first else total[:, rows] + part
    if total is None:
        raise AssertionError("a frame is mixed of nothing")
    result = np.empty_like(image)
    for rows in row_bands(*image.shape[:2]):
        result[rows] = from_light(total[:, rows], image.dtype, kind)
    return result


def resampled_holds(holds: Sequence[Fraction], count: int) -> list[Fraction]:
    """How long each of `count` frames shows, in seconds, so that the whole lasts as long as before, exactly.

    Each new frame has the time that the part of the motion had which it means.

    >>> [str(hold) for hold in resampled_holds([Fraction(1, 10)] * 3 + [Fraction(1, 2)], 2)]
    ['1/5', '3/5']
    """
    starts = [Fraction(0)]
    for hold in holds:
        starts.append(starts[-1] + hold)

    def elapsed(position: Fraction) -> Fraction:
        frame = min(math.floor(position), len(holds) - 1)
        return starts[frame] + holds[frame] * (position - frame)

    ends = [elapsed(Fraction(index * len(holds), count)) for index in range(count + 1)]
    return [end - start for start, end in pairwise(ends)]
