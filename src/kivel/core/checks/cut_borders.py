"""Frames that are cut off at a border, and the boxes that hold what is visible."""

from __future__ import annotations

from typing import get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Box, Rect
from kivel.core.survey import Side

__all__ = ["box_above", "cut_sides"]

_FEWEST_PX, _COMMON, _FOURTH, _WHOLE = 3, 0.8, 0.6, 0.98
_FAINT = 7


def cut_sides(alpha: NDArray[np.uint8]) -> tuple[Side, ...]:
    """The sides of a frame, (H, W), at which it looks cut off; none of an opaque one.

    Something of three pixels or more lies on the border, goes on in the next row nearly as wide, is not much wider
    than the fourth row, and does not fill the side.
    """
    if min(alpha.shape) < 4:
        return ()
    lines: dict[Side, NDArray[np.uint8]] = {
        "left": alpha[:, :4].T, "top": alpha[:4], "right": alpha[:, -4:].T[::-1], "bottom": alpha[-4:][::-1],
    }  # fmt: skip
    return tuple(side for side in get_args(Side) if _is_cut(lines[side] > _FAINT))


def _is_cut(rows: NDArray[np.bool_]) -> bool:
    """Whether it is at the first row."""
    border, fourth = rows[0], rows[3]
    width = int(border.sum())
    if width < _FEWEST_PX or width >= _WHOLE * border.size:
        return False
    return bool((border & rows[1]).sum() >= _COMMON * width and fourth.sum() >= _FOURTH * width)


def box_above(alpha: NDArray[np.uint8], threshold: int) -> Box:
    """The smallest rectangle of (H, W) that holds all above a threshold; None where nothing is."""
    above = alpha > threshold
    rows, columns = np.flatnonzero(above.any(axis=1)), np.flatnonzero(above.any(axis=0))
    if not rows.size:
        return None
    x, y = int(columns[0]), int(rows[0])
    return Rect(x, y, int(columns[-1]) + 1 - x, int(rows[-1]) + 1 - y)
