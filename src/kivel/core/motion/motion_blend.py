"""Describes what lies between two frames, as it is stored: warped along a map's vectors and faded."""

from __future__ import annotations

from typing import Literal

import numpy as np

from kivel.core.motion.motion_codes import decoded
from kivel.core.motion.pairs import MotionPairs
from kivel.core.motion.warping import Planes, Vectors, enlarged, faded, places, sampled, warped
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.light import Kind, from_light, to_light
from kivel.core.pixels.pixels import Pixels

__all__ = ["blended_by_motion", "warped_frames"]

_AT_A_TIME = 1 << 20
"""Pixels; the light of all of a large frame would be four times its size."""


def blended_by_motion(
    first: Pixels,
    second: Pixels,
    weight: float,
    vectors: Pixels,
    motion: MotionPairs,
    *,
    way: Literal["forward", "backward"],
    kind: Kind = "color",
) -> Pixels:
    """The picture between two frames, premultiplied and in linear light where it is mixed.

    Parameters
    ----------
    first, second : (H, W, 4) arrays
        Straight alpha, in playing order.
    weight : float
        The share of the second one, 0 to 1.
    vectors : (h, w, 4) array
        The motion map's frame of that of both from which its vectors lead.
    way : "forward" or "backward"
        Whether they lead from the first to the second, or the other way round.
    """
    field = decoded(vectors, motion.reach)
    if way == "backward":
        first, second, weight = second, first, 1 - weight
    return warped_frames(first, second, field, weight, wraps=motion.wraps, kind=kind)


def warped_frames(
    earlier: Pixels, later: Pixels, vectors: Vectors, time: float, *, wraps: bool = False, kind: Kind = "color"
) -> Pixels:
    """Return what lies between two frames (`kivel.core.motion.warping`), worked out a band of rows at a time.

    Parameters
    ----------
    earlier, later : (H, W, 4) arrays
        Straight alpha, of one depth.
    vectors : (2, h, w) float32 array
        Of any size, in pixels of the frames.
    """
    height, width = earlier.shape[:2]
    if wraps or height * width <= _AT_A_TIME:
        field = enlarged(vectors, height, width, wraps=wraps)
        light = warped(to_light(earlier, kind), to_light(later, kind), field, time, wraps=wraps)
        return from_light(light, earlier.dtype, kind)
    between = np.empty_like(earlier)
    for rows in row_bands(height, width, pixels=_AT_A_TIME):
        field = enlarged(vectors, height, width, rows=rows)
        at = places(height, width, rows)
        first = _sampled_rows(earlier, at - np.float32(time) * field, kind)
        second = _sampled_rows(later, at + np.float32(1 - time) * field, kind)
        between[rows] = from_light(faded(first, second, time), earlier.dtype, kind)
    return between


def _sampled_rows(image: Pixels, at: Planes, kind: Kind) -> Planes:
    """Samples of a frame's light, of which only the rows are worked out that they are of."""
    lowest = len(image) - 1
    at[1] = np.clip(at[1], 0, lowest)
    first = max(0, min(int(at[1].min()), lowest - 1))
    at[1] -= np.float32(first)
    return sampled(to_light(image[first : first + int(at[1].max()) + 2], kind), at)
