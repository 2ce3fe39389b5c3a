"""What lies between two frames, as it is stored: warped along a map's vectors and faded."""

from __future__ import annotations

from typing import Literal

from kivel.core.motion.motion_codes import decoded
from kivel.core.motion.pairs import MotionPairs
from kivel.core.motion.warping import enlarged, warped
from kivel.core.pixels.light import Kind, from_light, to_light
from kivel.core.pixels.pixels import Pixels

__all__ = ["blended_by_motion"]


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
    earlier, later = to_light(first, kind), to_light(second, kind)
    field = enlarged(decoded(vectors, motion.reach), *first.shape[:2], wraps=motion.wraps)
    if way == "backward":
        earlier, later, weight = later, earlier, 1 - weight
    return from_light(warped(earlier, later, field, weight, wraps=motion.wraps), first.dtype, kind)
