"""Where in a long sequence the best loops are."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.looping.seam import median_pair, usual_change
from kivel.core.looping.signature import Signatures, changes, distances
from kivel.core.named_tuples import NamedTuple

__all__ = ["Window", "best_windows"]

_SEAM_WEIGHT, _LENGTH_WEIGHT = 0.02, 0.002
_PLAIN_SEAM = 1.6
"""Among windows that close as well, the seam had better not fall on a jump that the sequence itself makes, and the
shorter one is the loop, of which the longer is several."""
_AS_GOOD, _HARDLY_WORSE = 1.08, 0.005
_LIVELY = 0.25
"""As a share of a usual step: a window whose frames change less is a still."""


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

    A window closes well when its first half looks like what comes one length later: so position and speed agree, and
    a chance likeness of two frames is not enough. `room` is how many frames there must be after a window. All pairs of
    frames that far apart are compared, at the cost of one matrix product.

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
    steps = changes(signatures)
    lengths = range(shortest, longest + 1)
    off = _mismatches(apart[:, 1:], lengths, room)
    scale = _mean_steps(steps, lengths, count)
    lively = np.isfinite(off) & (scale > _LIVELY * usual_change(steps))
    scale = np.where(lively, scale, 1)
    mismatch, seam = (np.where(lively, values / scale, np.inf) for values in (off, apart[:, :-1]))
    share = np.where(lively, off, np.inf) / median_pair(signatures)
    sizes = np.arange(lengths.start, lengths.stop) / count
    cost = np.round(share + _SEAM_WEIGHT * np.maximum(seam - _PLAIN_SEAM, 0) + _LENGTH_WEIGHT * sizes, 5)
    chosen: list[Window] = []
    for first, column in _ranked(cost, lengths):
        if len(chosen) == most:
            break
        window = Window(first, shortest + column, float(mismatch[first, column]), float(seam[first, column]))
        if not any(_alike(window, other) for other in chosen):
            chosen.append(window)
    return chosen


def _ranked(cost: NDArray[np.float64], lengths: range) -> Iterator[tuple[int, int]]:
    """Starts and columns of windows by their cost; a single loop comes before a multiple of it.

    Noise makes two or three rounds look as good as one, and sometimes better.
    """
    order = np.lexsort((*np.indices(cost.shape).reshape(2, -1), cost.ravel()))
    for flat in order:
        first, column = divmod(int(flat), cost.shape[1])
        if not np.isfinite(cost[first, column]):
            return
        enough = cost[first, column] * _AS_GOOD + _HARDLY_WORSE
        for shorter in _divisors(lengths[column], lengths):
            # where all of its half can be compared: one frame that is like another proves no loop
            starts = len(cost) - lengths[shorter] - lengths[shorter] // 2
            start = int(np.argmin(cost[: max(starts, 1), shorter]))
            if starts > 0 and cost[start, shorter] <= enough:
                yield start, shorter
                break
        yield first, column


def _divisors(length: int, lengths: range) -> Iterator[int]:
    """The columns of lengths that go two or more times into a length, give or take a frame, the shortest first."""
    for parts in range(length // lengths.start, 1, -1):
        near = sorted({length // parts, -(-length // parts)}, key=lambda each: abs(each * parts - length))
        yield from (each - lengths.start for each in near if each in lengths and abs(each * parts - length) <= 1)


def _mismatches(at_lag: NDArray[np.float64], lengths: range, room: int) -> NDArray[np.float64]:
    """(n, lengths): how unlike a window of this many frames is to what would follow it, over half of its length.

    The root mean square of the changes from frame k to frame k + length, for k from the frame before the window to its
    middle, as far as there are frames; infinite where there is no window.
    """
    count = len(at_lag)
    starts = np.arange(count)
    result = np.full(at_lag.shape, np.inf)
    for column, length in enumerate(lengths):
        known = max(count - length, 0)
        total = np.concatenate(([0.0], np.cumsum(np.square(at_lag[:known, column]))))
        first = np.maximum(starts - 1, 0)
        last = np.minimum(starts + length // 2 + 1, known)
        fits = (starts + length + room <= count) & (last > first)
        mean = (total[last] - total[np.minimum(first, known)]) / np.maximum(last - first, 1)
        result[fits, column] = np.sqrt(np.maximum(mean[fits], 0))
    return result


def _mean_steps(steps: NDArray[np.float64], lengths: range, count: int) -> NDArray[np.float64]:
    """(n, lengths): the mean change from frame to frame within each window."""
    total = np.concatenate(([0.0], np.cumsum(steps)))
    starts = np.arange(count)[:, None]
    sizes = np.arange(lengths.start, lengths.stop)[None, :]
    ends = np.minimum(starts + sizes - 1, count - 1)
    means: NDArray[np.float64] = (total[ends] - total[starts]) / np.maximum(sizes - 1, 1)
    return means


def _alike(a: Window, b: Window) -> bool:
    """Nearly the same frames, or the same loop begun elsewhere."""
    near = max(2, min(a.length, b.length) // 8)
    overlap = min(a.last, b.last) - max(a.first, b.first) + 1
    return abs(a.length - b.length) <= near and overlap > min(a.length, b.length) // 2
