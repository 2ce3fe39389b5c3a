"""Shades that jumps for single frames of a render."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels

__all__ = ["Shades", "brightness_of", "flickers"]

_LEAST, _TIMES, _ONE_SIGN = 0.02, 2.5, 0.6
_MOST_SIDE, _FEWEST, _FEWEST_OTHERS = 32, 64, 2
_SURE = 2.0
"""This many times as far from even as chance takes few pixels."""
_FAINT = 16
"""Up to this alpha colours are mostly rounding."""
Shades = NDArray[np.float32]


def brightness_of(image: Pixels) -> Shades:
    """(h, w) of a frame, (H, W, 4) uint8: thinned out to 32 pixels a side, 0 where too little is visible to tell."""
    height, width = image.shape[:2]
    thin = image[:: -(-height // _MOST_SIDE), :: -(-width // _MOST_SIDE)]
    level = thin[..., 0].astype(np.float32)
    level += thin[..., 1]
    level += thin[..., 2]
    level *= (thin[..., 3] > _FAINT) / np.float32(3)
    return level


def flickers(frames: Sequence[Shades]) -> list[int]:
    """The frames that are brighter or darker than both neighbours by more than is usual, as a whole.

    Over pixels visible in all three: the median ratio to the neighbours' mean is off by more than 2 %, by 2.5 times as
    much as the neighbours differ and as frames further apart do, more pixels in one direction than chance would have.
    """
    told = [_of_three(*frames[number - 1 : number + 2]) for number in range(1, len(frames) - 1)]
    sizes = np.array([0.0 if one is None else abs(one.off) for one in told])
    found = []
    for place, one in enumerate(told):
        if one is None or abs(one.off) <= _LEAST:
            continue
        others = np.concatenate([sizes[: max(0, place - 1)], sizes[place + 2 :]])
        if others.size < _FEWEST_OTHERS:
            continue  # nobody knows what is usual
        usual = float(np.median(others))
        if abs(one.off) > _TIMES * max(one.mutual, usual) and one.one_sign >= max(
            _ONE_SIGN, 0.5 + _SURE / one.pixels**0.5
        ):
            found.append(place + 1)
    return found


class _OfThree(NamedTuple):
    """How far a frame is from its neighbours' mean, how far these differ, what share of the pixels goes one way."""

    off: float
    mutual: float
    one_sign: float
    pixels: int


def _of_three(before: Shades, now: Shades, after: Shades) -> _OfThree | None:
    seen = (before > 0) & (now > 0) & (after > 0)
    if seen.sum() < _FEWEST:
        return None
    first, third = before[seen], after[seen]
    ratio = now[seen] * 2 / (first + third) - 1
    off = float(np.median(ratio))
    if abs(off) <= _LEAST:
        return _OfThree(off, 0.0, 0.0, len(first))
    mutual = abs(float(np.median(third / first - 1)))
    return _OfThree(off, mutual, float((np.sign(ratio) == np.sign(off)).mean()), len(first))
