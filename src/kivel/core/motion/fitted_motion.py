"""Motion fitted to frames that are at hand now and will not be later: warping has to rebuild those."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from scipy import ndimage

from kivel.core.motion.flow import (
    Meeting,
    brightness_and_alpha,
    finer,
    gradients,
    neighbour_mean,
    pyramid,
    refined,
    smoothed,
)
from kivel.core.motion.warping import Planes, Vectors, halved, places, sampled

__all__ = ["fitted_motion"]

_MOST_BETWEEN = 7
"""More of them say little more."""
_LEVELS = 4
_CHAINED, _JOINED = 3, 2
"""Warps at each level that look from each frame to the next, and from the ends to each frame between."""
_JOINED_LEVELS = 2
_CHAIN_SMOOTHNESS, _SMOOTHNESS = 0.1, 0.3
_WINDOW = 0.7
"""Radius, in pixels of the map, over which what a vector rebuilds is judged: filtering spreads it as far."""
_DAMPING, _TIED = 0.002, 0.002
_ROUGHNESS, _ROUGH_FROM = 0.0005, 0.1
_STEPS = 3
_LONGEST = 2.0
_TRIED = ((2.0, 0.0), (1.0, 0.39), (0.5, 0.0))
"""Lengths, in pixels of the map, and first angles of the steps that are tried from where the descent ended."""
_DIRECTIONS = 4
_AROUND = ((0, 1), (1, 0), (0, -1), (-1, 0))


def fitted_motion(
    earlier: Planes,
    later: Planes,
    between: Sequence[Planes],
    times: Sequence[float],
    *,
    wraps: bool = False,
    full: bool = False,
) -> Vectors:
    """The vectors by which warping two frames rebuilds those between them best.

    First one motion for all of them: flow from each frame to the next, as one vector would explain it, then from the
    ends to each frame between. Then Gauss and Newton's method, damped (Levenberg 1944, Marquardt 1963), on what is
    rebuilt itself, and steps to the sides: a vector changes only where that rebuilds its surroundings better.

    Parameters
    ----------
    earlier, later : (4, H, W) float32 arrays
        Premultiplied, in linear light.
    between : sequence of (4, H, W) arrays
        At least one.
    times : sequence of float
        Where they lie, from 0, the earlier frame, to 1, the later one.
    wraps : bool
        The frames are tiles.
    full : bool
        As many vectors as pixels, which rebuild more and take four times as long; else one for 2 x 2.

    Returns
    -------
    (2, H, W) or (2, (H + 1) // 2, (W + 1) // 2) float32 array
        In pixels of the frames.
    """
    if len(between) > _MOST_BETWEEN:
        chosen = [(2 * number + 1) * len(between) // (2 * _MOST_BETWEEN) for number in range(_MOST_BETWEEN)]
        between, times = [between[place] for place in chosen], [times[place] for place in chosen]
    images = [image if full else halved(image) for image in (earlier, *between, later)]
    vectors = _flow_through([brightness_and_alpha(image) for image in images], [0, *times, 1], wraps)
    return _Rebuilding(images, times, wraps).improved(vectors) * np.float32(1 if full else 2)


def _flow_through(images: Sequence[Planes], times: Sequence[float], wraps: bool) -> Vectors:
    """One motion that explains a whole sequence."""
    levels = list(zip(*(pyramid(image, _LEVELS - 1) for image in images), strict=True))
    last = len(images) - 1
    chain = [
        Meeting(place, (start - end) / 2, place + 1, (end - start) / 2)
        for place, (start, end) in enumerate(pairwise(times))
    ]
    ends = [
        meeting
        for place in range(1, last)
        for meeting in (
            Meeting(0, -times[place], place, 0, 1 - times[place]),
            Meeting(place, 0, last, 1 - times[place], times[place]),
        )
    ]
    vectors = np.zeros((2, *levels[-1][0].shape[1:]), np.float32)
    for number, level in reversed(list(enumerate(levels))):
        if vectors.shape[1:] != level[0].shape[1:]:
            vectors = finer(vectors, level[0].shape[1:], wraps=wraps)
        for _ in range(_CHAINED):
            vectors = refined(level, vectors, chain, smoothness=_CHAIN_SMOOTHNESS / last, wraps=wraps)
        for _ in range(_JOINED if number < _JOINED_LEVELS else 0):
            vectors = refined(level, vectors, ends, smoothness=_SMOOTHNESS, wraps=wraps)
    return vectors


class _Rebuilding:
    """The frames between two, at the size of the map, and how well vectors rebuild them."""

    def __init__(self, images: Sequence[Planes], times: Sequence[float], wraps: bool) -> None:
        self.earlier, *self.between, self.later = images
        self.times = times
        self.wraps = wraps
        self.at = places(*self.earlier.shape[1:])

    def improved(self, vectors: Vectors) -> Vectors:
        vectors, errors = self.better(vectors, self.errors(vectors), np.zeros_like(vectors))
        damping = np.full(vectors.shape[1:], _DAMPING, np.float32)
        for _ in range(_STEPS):
            before = errors
            stepped = self.stepped(vectors, damping)
            vectors, errors = self.better(vectors, errors, stepped)
            damping *= np.where(errors < before, np.float32(0.4), np.float32(4))
        for length, first in _TRIED:
            for rows, columns in _AROUND:
                vectors, errors = self.better(vectors, errors, np.roll(vectors, (rows, columns), (1, 2)))
            for number in range(_DIRECTIONS):
                angle = first + number * 2 * np.pi / _DIRECTIONS
                step = np.array([np.cos(angle), np.sin(angle)], np.float32) * np.float32(length)
                vectors, errors = self.better(vectors, errors, vectors + step[:, None, None])
            vectors, errors = self.better(vectors, errors, neighbour_mean(vectors, wraps=self.wraps))
        return vectors

    def better(self, vectors: Vectors, errors: Planes, others: Vectors) -> tuple[Vectors, Planes]:
        """Return, of two vectors for each pixel, the one with the smaller error, as long as it does not differ much."""
        mean = neighbour_mean(vectors, wraps=self.wraps)
        found = self.errors(others)
        wins = found + _roughness(others - mean) < errors + _roughness(vectors - mean)
        return np.where(wins, others, vectors), np.where(wins, found, errors)

    def errors(self, vectors: Vectors) -> Planes:
        """(H, W): squares of what each pixel's surroundings miss."""
        total = np.zeros(vectors.shape[1:], np.float32)
        for time, truth in zip(self.times, self.between, strict=True):
            first, second = self.ends(vectors, time)
            second -= first
            second *= np.float32(time)
            first += second
            first -= truth
            total += (first * first).sum(axis=0)
        return self.windowed(total)

    def ends(self, vectors: Vectors, time: float) -> tuple[Planes, Planes]:
        return (
            sampled(self.earlier, self.at - np.float32(time) * vectors, wraps=self.wraps),
            sampled(self.later, self.at + np.float32(1 - time) * vectors, wraps=self.wraps),
        )

    def stepped(self, vectors: Vectors, damping: Planes) -> Vectors:
        """One step down, for each pixel by what its surroundings miss."""
        normal = np.zeros((3, *vectors.shape[1:]), np.float32)
        towards = np.zeros_like(vectors)
        for time, truth in zip(self.times, self.between, strict=True):
            first, second = self.ends(vectors, time)
            change = second - first
            rest = first + np.float32(time) * change - truth
            across, down = gradients(change * np.float32(time * (1 - time)), wraps=self.wraps)
            normal[0] += (across * across).sum(axis=0)
            normal[1] += (across * down).sum(axis=0)
            normal[2] += (down * down).sum(axis=0)
            towards[0] -= (across * rest).sum(axis=0)
            towards[1] -= (down * rest).sum(axis=0)
        normal = np.stack([self.windowed(plane) for plane in normal])
        towards = np.stack([self.windowed(plane) for plane in towards])
        normal[0] += damping
        normal[2] += damping
        aimed = smoothed(vectors, normal, towards, smoothness=_TIED, wraps=self.wraps, sweeps=1)
        step = aimed - vectors
        length = np.sqrt((step * step).sum(axis=0))
        share = np.minimum(1, np.float32(_LONGEST) / np.maximum(length, np.float32(1e-6)))
        moved: Vectors = vectors + step * share
        return moved

    def windowed(self, plane: Planes) -> Planes:
        mode = "wrap" if self.wraps else "nearest"
        filtered: Planes = ndimage.gaussian_filter(plane, _WINDOW, mode=mode, truncate=2.5)
        return filtered


def _roughness(away: Vectors) -> Planes:
    length = np.sqrt((away * away).sum(axis=0) + np.float32(_ROUGH_FROM**2))
    roughness: Planes = np.float32(_ROUGHNESS) * length
    return roughness
