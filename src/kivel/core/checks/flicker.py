"""Brightness that jumps for single frames of a render."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels import Pixels

__all__ = ["Brightness", "brightness_of", "flickers"]

_LEAST, _TIMES, _ONE_SIGN = 0.02, 2.5, 0.6
_MOST_SIDE = 64
Brightness = NDArray[np.float32]


def brightness_of(image: Pixels) -> Brightness:
    """(h, w) of a frame, (H, W, 4) uint8: thinned out to 64 pixels a side, 0 where nothing is visible."""
    height, width = image.shape[:2]
    thin = image[:: -(-height // _MOST_SIDE), :: -(-width // _MOST_SIDE)].astype(np.float32)
    level: Brightness = thin[..., :3].mean(axis=-1) * (thin[..., 3] > 0)
    return level


def flickers(frames: Sequence[Brightness]) -> list[int]:
    """The frames that are brighter or darker than both neighbours by more than is usual, as a whole.

    Over pixels visible in all three: the median ratio to the neighbours' mean is off by more than 2 %, by 2.5 times as
    much as the neighbours differ and as frames further apart do, most pixels in one direction.
    """
    found = []
    for number in range(1, len(frames) - 1):
        before, now, after = frames[number - 1 : number + 2]
        seen = (before > 0) & (now > 0) & (after > 0)
        if seen.sum() < 16:
            continue
        mean = (before[seen] + after[seen]) / 2
        ratio = now[seen] / mean - 1
        off = float(np.median(ratio))
        mutual = abs(float(np.median(after[seen] / before[seen] - 1)))
        one_sign = float((np.sign(ratio) == np.sign(off)).mean())
        if abs(off) > _LEAST and abs(off) > _TIMES * max(mutual, _usual(frames, number)) and one_sign >= _ONE_SIGN:
            found.append(number)
    return found


def _usual(frames: Sequence[Brightness], number: int) -> float:
    """The median change of frames two and more away."""
    changes = []
    for other in range(1, len(frames) - 1):
        if abs(other - number) < 2:
            continue
        before, now, after = frames[other - 1 : other + 2]
        seen = (before > 0) & (now > 0) & (after > 0)
        if seen.any():
            changes.append(abs(float(np.median(now[seen] / ((before[seen] + after[seen]) / 2) - 1))))
    return float(np.median(changes)) if changes else 0.0
