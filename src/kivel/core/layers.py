"""Stacking sequences frame by frame: how a layer is written, and which of its frames goes where."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import get_args

from kivel.core.errors import UsageError
from kivel.core.option_words import Length
from kivel.core.pixels.blend import BLENDS
from kivel.core.prepare import parameters as p

__all__ = ["LAYER", "LENGTHS", "stack_length"]

LENGTHS: tuple[Length, ...] = get_args(Length)

_MOST_FRAMES = 10_000

LAYER = (
    p.choice("blend", tuple(BLENDS), "blend mode", default="normal"),
    p.number("opacity", "of the layer", least=0, most=1, default=1.0),
    p.flag("matte", "art that is bright on black: cut it out by brightness first"),
    p.point("offset", "where its top left corner goes, in pixels", default=(0, 0), whole=True),
)
"""Says what may follow the source of a layer."""


def stack_length(lengths: Sequence[int], how: Length) -> int:
    """How many frames a stack of sequences of these lengths has; the first is the base.

    `longest` repeats the others to the longest, `base` follows the base, `common` is the least number that all divide.

    Raises
    ------
    UsageError
        If the common length is beyond reason.
    """
    if how == "base":
        return lengths[0]
    if how == "longest":
        return max(lengths)
    common = math.lcm(*lengths)
    if common > _MOST_FRAMES:
        every = ", ".join(map(str, lengths))
        raise UsageError(f"the common length of {every} frames is {common:,}, above the limit of {_MOST_FRAMES:,}")
    return common
