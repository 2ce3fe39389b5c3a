"""Single frames that lie a pixel or two beside where their neighbours do."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.pixels import Pixels

__all__ = ["Shifted", "shifted_frames"]

_REACH, _FARTHEST = 4, 3
_MOST = 32
"""A pixel that differs by more counts no more: what moves by itself is not to outweigh what does not move."""
_BETTER = 0.95
_AT_MOST_ONE_IN = 20

Costs = NDArray[np.float64]


class Shifted(NamedTuple):
    """A frame's number, and how far it lies to the right of its neighbours and below them, in pixels."""

    frame: int
    x: int
    y: int


def shifted_frames(images: Iterable[Pixels]) -> list[Shifted]:
    """Frames that fit much better a little beside where steady motion from one neighbour to the other has them.

    Of a frame and its neighbours the shifts are found at which they agree best, the two steps adding up to what lies
    between the neighbours. Where both steps are alike the motion is steady; where they differ by 2 pixels or more, and
    nothing steady fits nearly as well, the frame is off by half of that. Where more than one in twenty is, it is how
    the thing moves, and none is meant.

    Images are (H, W, 4), of one size, any depth, read once each. Cost grows with pixels x 81.
    """
    found: list[Shifted] = []
    count = 0
    window: list[NDArray[np.int16]] = []
    costs: list[Costs] = []
    for number, image in enumerate(images):
        count += 1
        window = [*window[-2:], _level(image)]
        if number:
            costs = [*costs[-1:], _costs(*window[-2:])]
        if number >= 2:
            x, y = _off(costs[0], costs[1], _costs(window[0], window[2]))
            if x or y:
                found.append(Shifted(number - 1, x, y))
    # beside a frame that is off, its neighbours can seem so too
    apart = 1 + sum(after.frame - before.frame > 1 for before, after in pairwise(found))
    return found if apart <= max(1, count // _AT_MOST_ONE_IN) else []


def _off(first: Costs, second: Costs, apart: Costs) -> tuple[int, int]:
    """How far the frame between two is off, right and down, in whole pixels; 0, 0 where that cannot be told."""
    reach = range(-_REACH, _REACH + 1)
    down, right = (int(each) - _REACH for each in np.unravel_index(int(np.argmin(apart)), apart.shape))
    steady, found, best = np.inf, np.inf, (0, 0)
    for y in reach:
        for x in reach:
            if abs(down - y) > _REACH or abs(right - x) > _REACH:
                continue
            cost = first[y + _REACH, x + _REACH] + second[down - y + _REACH, right - x + _REACH]
            uneven = 2 * x - right, 2 * y - down
            if max(abs(uneven[0]), abs(uneven[1])) <= 1:
                steady = min(steady, cost)
            elif cost < found:
                found, best = cost, (round(uneven[0] / 2), round(uneven[1] / 2))
    return best if found < _BETTER * steady and max(abs(best[0]), abs(best[1])) <= _FARTHEST else (0, 0)


def _level(image: Pixels) -> NDArray[np.int16]:
    """(H + 8, W + 8): brightness as far as it covers, and a part of the cover, on empty ground."""
    values = to_8_bits(image).astype(np.uint32)
    level = values[..., :3].sum(axis=-1) * values[..., 3] // (3 * 255) + values[..., 3] // 4
    return np.pad(level, _REACH).astype(np.int16)


def _costs(before: NDArray[np.int16], after: NDArray[np.int16]) -> Costs:
    """(9, 9): how unlike they are where the second lies so far down and to the right of the first."""
    height, width = before.shape
    ground = before[_REACH : height - _REACH, _REACH : width - _REACH]
    found = np.zeros((2 * _REACH + 1,) * 2)
    for y in range(2 * _REACH + 1):
        for x in range(2 * _REACH + 1):
            moved = after[y : y + ground.shape[0], x : x + ground.shape[1]]
            found[y, x] = np.minimum(np.abs(moved - ground), _MOST).sum()
    return found
