"""Room on a page that is in use: where one more rectangle fits around what lies there."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Rect, Size

__all__ = ["free_place"]


def free_place(taken: NDArray[np.bool_], size: Size, *, around: int = 0, step: int = 1) -> Rect | None:
    """Return the first place, in reading order, where a rectangle of a size covers nothing that is taken.

    By sums over rectangles (Crow 1984, "Summed-area tables for texture mapping"): its time grows with the page alone.

    Parameters
    ----------
    taken : (H, W) bool array
        Row 0 at the top. Not modified.
    around : int
        Pixels of the page on each side of the rectangle that must be free too; the page's own edge is.
    step : int
        Its corner lies at multiples of it.
    """
    height, width = taken.shape
    if size.w > width or size.h > height:
        return None
    sums = np.zeros((height + 2 * around + 1, width + 2 * around + 1), np.int64)
    sums[1:, 1:] = np.pad(taken, around).cumsum(axis=0, dtype=np.int64).cumsum(axis=1)
    w, h = size.w + 2 * around, size.h + 2 * around
    covered = sums[h:, w:] - sums[:-h, w:] - sums[h:, :-w] + sums[:-h, :-w]
    rows, columns = np.nonzero(covered[::step, ::step] == 0)
    if not rows.size:
        return None
    return Rect(int(columns[0]) * step, int(rows[0]) * step, *size)
