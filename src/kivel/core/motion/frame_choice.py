"""Which frames to keep of a sequence, so that what is rebuilt between them errs least."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from kivel.core.motion.fitted_motion import fitted_motion
from kivel.core.motion.flow import Meeting, brightness_and_alpha, finer, pyramid, refined
from kivel.core.motion.motion_error import missed
from kivel.core.motion.warping import Planes, Vectors, halved, warped
from kivel.core.named_tuples import NamedTuple

__all__ = ["SMALL_SIDE", "SmallSequence", "best_frames", "cut_places", "gap_limit", "small", "step_between"]

SMALL_SIDE = 64
"""Frames are judged at no more than about this size: which are best is seen there, too."""
_LEVELS, _WARPS = 3, 3
_SMOOTHNESS = 0.1
_MOST_LOOKED_AT = 3
_WIDEST = 2.5
_CUT_SHARE, _CUT_TIMES, _USUAL = 0.4, 1.4, 90
"""A cut leaves so much of what is seen, and that many times what all but a tenth of the steps leave at most."""


class SmallStep(NamedTuple):
    """From a frame to the next: the motion, in pixels of small frames, and the squares that it leaves."""

    vectors: Vectors
    rest: float


def small(image: Planes) -> Planes:
    """(4, h, w), no side of more than about `SMALL_SIDE`."""
    while max(image.shape[1:]) >= 2 * SMALL_SIDE:
        image = halved(image)
    return image


def step_between(earlier: Planes, later: Planes, *, wraps: bool) -> SmallStep:
    """The motion from one small frame to the next."""
    levels = list(zip(*(pyramid(brightness_and_alpha(one), _LEVELS - 1) for one in (earlier, later)), strict=True))
    vectors = np.zeros((2, *levels[-1][0].shape[1:]), np.float32)
    for level in reversed(levels):
        if vectors.shape[1:] != level[0].shape[1:]:
            vectors = finer(vectors, level[0].shape[1:], wraps=wraps)
        for _ in range(_WARPS):
            vectors = refined(level, vectors, (Meeting(0, -0.5, 1, 0.5),), smoothness=_SMOOTHNESS, wraps=wraps)
    first = warped(earlier, earlier, -vectors, 0.5, wraps=wraps)
    rest = first - warped(later, later, vectors, 0.5, wraps=wraps)
    return SmallStep(vectors, _sum(rest))


def cut_places(frames: Sequence[Planes], rests: Sequence[float]) -> list[int]:
    """After which frames the scene changes: motion leaves much of what is seen, and much more than it usually does.

    Parameters
    ----------
    rests : sequence of float
        The squares that are left from each frame to the next.
    """
    seen = float(np.mean([_sum(frame) for frame in frames]))
    usual = float(np.percentile(rests, _USUAL)) if len(rests) else 0.0
    least = max(_CUT_SHARE**2 * seen, _CUT_TIMES**2 * usual)
    return [place for place, rest in enumerate(rests) if rest > least]


def gap_limit(length: int, count: int) -> int:
    """How far apart two kept frames may be."""
    return min(length, math.ceil(_WIDEST * length / max(count, 1)) + 1)


class SmallSequence(NamedTuple):
    """A sequence to choose from: small frames, and the steps between neighbours, one more where it loops."""

    frames: Sequence[Planes]
    steps: Sequence[SmallStep]
    wraps: bool

    @property
    def loops(self) -> bool:
        return len(self.steps) == len(self.frames)

    def missed(self, first: int, last: int, *, warps: bool = True) -> float:
        """Squares that are missed of the frames between two; `last` may be one more than there are, the first again.

        One motion serves for the whole gap: the mean of its steps, as things pass by each place. Unless frames are
        `warped` they are faded.
        """
        gap = last - first
        if gap < 2:
            return 0.0
        vectors = np.mean([self.steps[place].vectors for place in range(first, last)], axis=0) * np.float32(gap)
        earlier, later = self.frames[first], self.frames[last % len(self.frames)]
        looked = _looked_at(gap)
        warping = fading = 0.0
        for place in looked:
            time, truth = place / gap, self.frames[first + place]
            if warps:
                warping += _sum(warped(earlier, later, vectors, time, wraps=self.wraps) - truth)
            fading += _sum(earlier + np.float32(time) * (later - earlier) - truth)
        return (min(warping, fading) if warps else fading) * (gap - 1) / len(looked)

    def missed_fitted(self, first: int, last: int) -> float:
        """The same once motion is fitted, which takes much longer; no more than fading misses."""
        between = self.frames[first + 1 : last]
        times = [place / (last - first) for place in range(1, last - first)]
        ends = self.frames[first], self.frames[last % len(self.frames)]
        vectors = fitted_motion(*ends, between, times, wraps=self.wraps)
        found = missed(*ends, between, times, vectors, wraps=self.wraps)
        return min(found.warping, found.fading)


def _looked_at(gap: int) -> list[int]:
    """Places between, evenly spread, a few of many."""
    count = min(gap - 1, _MOST_LOOKED_AT)
    return [round((number + 1) * gap / (count + 1)) for number in range(count)]


def _sum(rest: Planes) -> float:
    return float(np.square(rest).sum(dtype=np.float64))


def best_frames(length: int, count: int, *, loops: bool, missed: Callable[[int, int], float]) -> list[int]:
    """`count` frames of `length`, the first among them, between which the least is missed; of a one-shot the last too.

    Dynamic programming (Bellman 1957) over the frames that are kept: exact for the costs that it is given. Of equal
    choices the one with the earlier frames.

    Parameters
    ----------
    missed : callable
        `(first, last) -> cost` of leaving out what lies between; `last` is `length` for the way from a loop's last
        frame back to its first. Asked for gaps up to `gap_limit`.
    """
    end = length if loops else length - 1
    steps = count if loops else count - 1
    if steps < 1 or count >= length:
        return list(range(min(count, length)))
    widest = gap_limit(length, count)
    costs = {
        (first, last): missed(first, last)
        for first in range(end)
        for last in range(first + 1, min(first + widest, end) + 1)
    }
    best: list[dict[int, tuple[float, int]]] = [{0: (0.0, 0)}]
    for _ in range(steps):
        reached: dict[int, tuple[float, int]] = {}
        for first, (cost, _) in sorted(best[-1].items()):
            for last in range(first + 1, min(first + widest, end) + 1):
                total = cost + costs[first, last]
                if last not in reached or total < reached[last][0]:
                    reached[last] = total, first
        best.append(reached)
    kept = [end]
    for reached in reversed(best[1:]):
        kept.append(reached[kept[-1]][1])
    kept.reverse()
    return kept[:-1] if loops else kept
