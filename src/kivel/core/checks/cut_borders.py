"""Frames that are cut off at a border, and boxes that nearly invisible pixels make larger."""

from __future__ import annotations

from collections.abc import Iterable
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels import Pixels, opaque_bounds
from kivel.core.survey import Side

__all__ = ["cut_sides", "faint_growth"]

_FEWEST_PX, _COMMON, _FOURTH, _WHOLE = 3, 0.8, 0.6, 0.98
_FAINT = 7


def cut_sides(image: Pixels) -> tuple[Side, ...]:
    """The sides of a frame, (H, W, 4) uint8, at which it looks cut off; none of an opaque one.

    Something of three pixels or more lies on the border, goes on in the next row nearly as wide, is not much wider
    than the fourth row, and does not fill the side.
    """
    visible = image[..., 3] > _FAINT
    if visible.all() or min(visible.shape) < 4:
        return ()
    lines: dict[Side, NDArray[np.bool_]] = {
        "left": visible.T, "top": visible, "right": visible.T[::-1], "bottom": visible[::-1],
    }  # fmt: skip
    return tuple(side for side in get_args(Side) if _is_cut(lines[side]))


def _is_cut(rows: NDArray[np.bool_]) -> bool:
    """Whether it is at the first row."""
    border, fourth = rows[0], rows[3]
    width = int(border.sum())
    if width < _FEWEST_PX or width >= _WHOLE * border.size:
        return False
    return bool((border & rows[1]).sum() >= _COMMON * width and fourth.sum() >= _FOURTH * width)


def faint_growth(images: Iterable[Pixels]) -> float:
    """How much larger the boxes of (H, W, 4) uint8 frames are for pixels of alpha 1 to 7: 0.25 is a quarter."""
    with_faint = without = 0
    for image in images:
        larger, smaller = opaque_bounds(image), opaque_bounds(image, threshold=_FAINT)
        if larger and smaller:
            with_faint += larger.w * larger.h
            without += smaller.w * smaller.h
    return with_faint / without - 1 if without else 0.0
