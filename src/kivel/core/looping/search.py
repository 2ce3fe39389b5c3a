"""Where in a long sequence the best loops are."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.looping.seam import usual_change
from kivel.core.looping.signature import Signatures, changes, distances

__all__ = ["Window", "best_windows"]

_SEAM_WEIGHT = 0.1
_PLAIN_SEAM = 1.6
"""Among windows that close as well, the seam had better not fall on a jump that the sequence itself makes."""
_LIVELY = 0.25
"""Of the mean change of all frames: a window with less is a still, that closes because nothing happens."""


class Window(NamedTuple):
    """Frames `first` to `first + length - 1` as a loop.

    `mismatch` is how far what would follow the window is from its start, in steps of the window: 0 is perfect.
    `seam` is the step from its last frame to its first, 1 is as large as the others.
    """

    first: int
    length: int
    mismatch: float
    seam: float

    @property
    def last(self) -> int:
        return self.first + self.length - 1


def best_windows(signatures: Signatures, shortest: int, longest: int, *, most: int = 5, room: int = 0) -> list[Window]:
    """The windows of `shortest` to `longest` frames that close best, the best first, none of them much like another.

    A window closes well when the frames before, at and after its start look like those one length later: so position
    and speed agree. `room` is how many frames there must be after a window. All pairs of frames that far apart are
    compared, at the cost of one matrix product.

    Raises
    ------
    UsageError
        If no window of that length fits.
    """
    count = len(signatures)
    longest = min(longest, count - 1)
    if not 2 <= shortest <= longest:
        raise UsageError(
            f"no window of {shortest} frames or more can be compared with what follows it; there are {count} frames"
        )
    lags = range(shortest - 1, longest + 1)
    apart = distances(signatures, lags)
    mismatch, seam = _scores(apart[:, 1:], apart[:, :-1], changes(signatures), range(shortest, longest + 1), room)
    cost = np.round(mismatch + _SEAM_WEIGHT * np.maximum(seam - _PLAIN_SEAM, 0), 4)
    order = np.lexsort((*np.indices(cost.shape).reshape(2, -1), cost.ravel()))
    chosen: list[Window] = []
    for flat in order:
        first, column = divmod(int(flat), mismatch.shape[1])
        if len(chosen) == most or not np.isfinite(mismatch[first, column]):
            break
        window = Window(first, shortest + column, float(mismatch[first, column]), float(seam[first, column]))
        if not any(_alike(window, other) for other in chosen):
            chosen.append(window)
    return chosen


def _scores(
    at_lag: NDArray[np.float64], before: NDArray[np.float64], steps: NDArray[np.float64], lengths: range, room: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(n, lengths) of mismatches and of seams, in steps; infinite where there is no window, or a still one."""
    count = len(at_lag)
    starts = np.arange(count)[:, None]
    sizes = np.arange(lengths.start, lengths.stop)[None, :]
    fits = starts + sizes + room <= count
    total = np.concatenate(([0.0], np.cumsum(steps)))
    ends = np.minimum(starts + sizes - 1, count - 1)
    mean_step = np.where(fits, total[ends] - total[starts], 0) / np.maximum(sizes - 1, 1)
    squared = np.square(at_lag)
    empty = np.full((1, squared.shape[1]), np.nan)
    around = np.stack((np.concatenate((empty, squared[:-1])), squared, np.concatenate((squared[1:], empty))))
    known = np.isfinite(around)
    mean = np.where(known, around, 0).sum(axis=0) / np.maximum(known.sum(axis=0), 1)
    lively = (mean_step > _LIVELY * usual_change(steps)) & fits & known.any(axis=0)
    scale = np.where(lively, mean_step, 1)
    return np.where(lively, np.sqrt(mean) / scale, np.inf), np.where(lively, before / scale, np.inf)


def _alike(a: Window, b: Window) -> bool:
    """Nearly the same frames, or the same loop begun elsewhere."""
    near = max(2, min(a.length, b.length) // 8)
    overlap = min(a.last, b.last) - max(a.first, b.first) + 1
    return abs(a.length - b.length) <= near and overlap > min(a.length, b.length) // 2
