"""Single frames that lie a pixel or two beside where their neighbours do."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.compose import to_8_bits
from kivel.core.pixels import Pixels

__all__ = ["Shifted", "shifted_frames"]

_REACH = 2
_MOST = 32
"""A pixel that differs by more counts no more: what moves by itself is not to outweigh what stands still."""
_BETTER = 0.9

Costs = NDArray[np.float64]


class Shifted(NamedTuple):
    """A frame's number, and how far it lies to the right of its neighbours and below them, in pixels."""

    frame: int
    x: int
    y: int


def shifted_frames(images: Iterable[Pixels]) -> Iterator[Shifted]:
    """Frames that agree with both neighbours better at one shift of up to 2 pixels, while these agree as they are.

    Images are (H, W, 4), of one size, any depth, read once each. Cost grows with pixels x 25. On drawn motion, a third
    of the frames that were shifted are found: where everything moves, nothing tells.
    """
    window: list[NDArray[np.int16]] = []
    costs: list[Costs] = []
    for number, image in enumerate(images):
        window = [*window[-2:], _level(image)]
        if number:
            costs = [*costs[-1:], _costs(*window[-2:])]
        if number < 2:
            continue
        # the second pair is of this frame and the one behind it: its shifts are those of the next against this one
        both = costs[0] + costs[1][::-1, ::-1]
        y, x = divmod(int(np.argmin(both)), both.shape[1])
        if (y, x) == (_REACH, _REACH) or both[y, x] > _BETTER * both[_REACH, _REACH]:
            continue
        apart = _costs(window[0], window[2])
        if int(np.argmin(apart)) == apart.size // 2:
            yield Shifted(number - 1, x - _REACH, y - _REACH)


def _level(image: Pixels) -> NDArray[np.int16]:
    """(H + 4, W + 4): brightness as far as it covers, and a part of the cover, on empty ground."""
    values = to_8_bits(image).astype(np.uint32)
    level = values[..., :3].sum(axis=-1) * values[..., 3] // (3 * 255) + values[..., 3] // 4
    return np.pad(level, _REACH).astype(np.int16)


def _costs(before: NDArray[np.int16], after: NDArray[np.int16]) -> Costs:
    """(5, 5): how unlike they are where the second lies so far down and to the right of the first."""
    height, width = before.shape
    ground = before[_REACH : height - _REACH, _REACH : width - _REACH]
    found = np.zeros((2 * _REACH + 1,) * 2)
    for y in range(2 * _REACH + 1):
        for x in range(2 * _REACH + 1):
            moved = after[y : y + ground.shape[0], x : x + ground.shape[1]]
            found[y, x] = np.minimum(np.abs(moved - ground), _MOST).sum()
    return found
