"""Stacking sequences frame by frame: how a layer is written, and which of its frames goes where."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import get_args

from kivel.core.errors import UsageError
from kivel.core.option_words import Length
from kivel.core.pixels.blend import BLENDS
from kivel.core.prepare import parameters as p

__all__ = ["LAYER", "LENGTHS", "SHAPES", "operator_of", "stack_length"]

LENGTHS: tuple[Length, ...] = get_args(Length)

_MOST_FRAMES = 10_000

SHAPES = {
    "over": "src-over", "in": "src-in", "out": "src-out", "atop": "src-atop", "xor": "xor", "copy": "copy",
    "clear": "clear", "behind": "dst-over", "below-in": "dst-in", "below-out": "dst-out", "below-atop": "dst-atop",
}  # fmt: skip
"""The operators of W3C Compositing by what they are called here; `below-` ones show what is below."""
LAYER = (
    p.choice("blend", tuple(BLENDS), "blend mode", default="normal"),
    p.number("opacity", "of the layer", least=0, most=1, default=1.0),
    p.choice(
        "operator", tuple(SHAPES), "compositing operator: where the layer and what is below it show", default="over"
    ),
    p.flag("clip", "clip to what is below: show the layer only there (as operator=atop)"),
    p.choice(
        "mask",
        ("alpha", "brightness"),
        "use the layer as a mask: what is below shows only where it is opaque, or bright",
        default=None,
    ),
    p.flag("matte", "art that is bright on black: cut it out by brightness first"),
    p.point("offset", "where its top left corner goes, in pixels", default=(0, 0), whole=True),
)
"""Says what may follow the source of a layer."""


def operator_of(operator: str, *, clip: bool, mask: str | None) -> str:
    """The operator of a layer, by what is written behind it.

    Raises
    ------
    UsageError
        If it says two things.
    """
    said = [name for name, there in (("operator", operator != "over"), ("clip", clip), ("mask", mask)) if there]
    if len(said) > 1:
        raise UsageError(f"{said[0]} cannot be combined with {said[1]}; use one of them")
    return "src-atop" if clip else "dst-in" if mask else SHAPES[operator]


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
