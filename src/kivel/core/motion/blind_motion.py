"""Motion estimated from two frames alone, where nothing is known of what lies between."""

from __future__ import annotations

import numpy as np

from kivel.core.motion.flow import Meeting, brightness_and_alpha, finer, pyramid, refined
from kivel.core.motion.warping import Planes, Vectors, enlarged, halved, places, sampled

__all__ = ["ALWAYS_TRUSTED", "TRUSTED", "blind_motion", "distrust"]

_LEVELS = 5
_WARPS, _MOST_WARPS = 4, 40
_SMOOTHNESS = 0.4
_OUTSIDE = 0.4
"""How much the frames before and after have to say."""

TRUSTED = 0.75
"""Up to this `distrust` motion is better than fading, on the whole."""
ALWAYS_TRUSTED = 0.5
"""Up to this it is so nearly always: for frames that nobody may want to see warped."""


def blind_motion(
    earlier: Planes,
    later: Planes,
    *,
    before: Planes | None = None,
    after: Planes | None = None,
    wraps: bool = False,
) -> Vectors:
    """The vectors along which two frames meet half way.

    Parameters
    ----------
    earlier, later : (4, H, W) float32 arrays
        Premultiplied, in linear light.
    before, after : (4, H, W) float32 arrays, if there are such
        The frame before the earlier, and the one after the later one, as far away as these are from each other: things
        go on as they went.
    wraps : bool
        The frames are tiles.

    Returns
    -------
    (2, (H + 1) // 2, (W + 1) // 2) float32 array
        In pixels of the frames.
    """
    images, meetings = [earlier, later], [Meeting(0, -0.5, 1, 0.5)]
    if before is not None:
        meetings.append(Meeting(len(images), -1.5, 0, -0.5, _OUTSIDE))
        images.append(before)
    if after is not None:
        meetings.append(Meeting(1, 0.5, len(images), 1.5, _OUTSIDE))
        images.append(after)
    half = [brightness_and_alpha(halved(image)) for image in images]
    levels = list(zip(*(pyramid(image, _LEVELS - 1) for image in half), strict=True))
    vectors = np.zeros((2, *levels[-1][0].shape[1:]), np.float32)
    for number, level in reversed(list(enumerate(levels))):
        if vectors.shape[1:] != level[0].shape[1:]:
            vectors = finer(vectors, level[0].shape[1:], wraps=wraps)
        # coarse levels cost little, and bring motion from where there is something to see to where there is not
        for _ in range(min(_WARPS << number, _MOST_WARPS)):
            vectors = refined(level, vectors, meetings, smoothness=_SMOOTHNESS, wraps=wraps)
    return vectors * np.float32(2)


def distrust(earlier: Planes, later: Planes, vectors: Vectors, *, wraps: bool = False) -> float:
    """Return what is left of the difference of two frames once they are warped half way, 0 to 1 and more.

    It goes along with how much warping errs between them, relative to fading (a correlation of .8 to .9).
    """
    height, width = earlier.shape[1:]
    half = enlarged(vectors, height, width, wraps=wraps) * np.float32(0.5)
    at = places(height, width)
    rest = sampled(earlier, at - half, wraps=wraps) - sampled(later, at + half, wraps=wraps)
    whole = float(np.square(earlier - later).sum(dtype=np.float64))
    return float(np.sqrt(np.square(rest).sum(dtype=np.float64) / whole)) if whole > 0 else 0.0
