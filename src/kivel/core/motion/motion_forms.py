"""Motion as others want it stored: another grid, sign, reach or order of channels."""

from __future__ import annotations

from typing import Literal

import numpy as np

from kivel.core.errors import UsageError
from kivel.core.motion.motion_codes import MotionReach, decoded, encoded
from kivel.core.motion.pairs import MotionPairs
from kivel.core.motion.warping import Vectors, places, sampled
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels

__all__ = ["MotionForm", "at_earlier", "reformed"]

_CHANNELS = "rgba"
_ROUNDS = 8


class MotionForm(NamedTuple):
    """How vectors are stored.

    `at` is where they lie: where things are half way, or in the earlier frame. `leads` says whether they lead to the
    later frame or come from it, `y` which way it counts, `reach` what the code 255 means, in pixels of the frames
    (None for what it is), and `channels` which two of r, g, b and a hold x and y.
    """

    at: Literal["middle", "earlier"] = "middle"
    leads: Literal["forward", "backward"] = "forward"
    y: Literal["down", "up"] = "down"
    reach: float | None = None
    channels: str = "rg"

    def reach_of(self, motion: MotionPairs) -> MotionReach:
        return motion.reach if self.reach is None else MotionReach(self.reach, self.reach)


def at_earlier(vectors: Vectors, *, wraps: bool = False) -> Vectors:
    """Vectors, (2, h, w) in pixels of this grid, that lie half way, as they lie in the earlier frame.

    By fixed-point iteration: what is at x in the earlier frame is half way at x + v / 2.
    """
    at = places(*vectors.shape[1:])
    found = vectors
    for _ in range(_ROUNDS):
        found = sampled(vectors, at + found * np.float32(0.5), wraps=wraps)
    return found


def reformed(image: Pixels, motion: MotionPairs, form: MotionForm, *, parts: int = 1) -> Pixels:
    """A frame of a motion map, (h, w, 4), in another form; its sides are one part of this many `parts` of the frames'.

    Raises
    ------
    UsageError
        If some vector is longer than the reach asked for.
    """
    vectors = decoded(image, motion.reach)
    if form.at == "earlier":
        vectors = at_earlier(vectors / np.float32(parts), wraps=motion.wraps) * np.float32(parts)
    signs = np.array([1, -1 if form.y == "up" else 1], np.float32) * (-1 if form.leads == "backward" else 1)
    vectors = vectors * signs[:, None, None].astype(np.float32)
    reach = form.reach_of(motion)
    longest = float(np.abs(vectors).max(initial=0))
    if longest > min(reach) * (1 + 1e-6):
        raise UsageError(f"motion of {longest:.4g} px is longer than a reach of {min(reach):g} px; raise the reach")
    codes = encoded(vectors, reach, image.dtype)
    result = np.zeros_like(codes)
    result[..., 3] = codes[..., 3]
    for place, channel in enumerate(form.channels):
        result[..., _CHANNELS.index(channel)] = codes[..., place]
    return result
