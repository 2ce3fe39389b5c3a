"""Small pictures of frames, by which many can be compared with each other quickly."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels import Pixels, Size, full_scale

__all__ = ["NEARLY", "Signature", "Signatures", "changes", "distances", "planes_of", "signature", "spread"]

NEARLY = 0.1
"""Of a usual step: what differs less is nearly the same."""

_SIDE = 32
_CHUNK = 256


class Signature(NamedTuple):
    """Premultiplied stored values, from 0 to 1, averaged over blocks: (h, w, 4) float32. `size` is the frame's own."""

    values: NDArray[np.float32]
    size: Size


Signatures = Sequence[Signature]


def planes_of(image: Pixels) -> NDArray[np.float32]:
    """(H, W, 4) from 0 to 1, colour times alpha on stored values; float frames are cut off at 1."""
    values = image.astype(np.float32)
    values *= np.float32(1 / full_scale(image))
    values[..., :3] *= values[..., 3:]
    return np.minimum(values, 1, out=values)


def signature(image: Pixels) -> Signature:
    """A frame, (H, W, 4), as at most 32x32 averages; small frames are kept whole."""
    height, width = image.shape[:2]
    rows, columns = (
        np.linspace(0, length, min(length, _SIDE), endpoint=False).astype(int) for length in (height, width)
    )
    planes = planes_of(image)
    if len(rows) < height:
        planes = np.add.reduceat(planes, rows, axis=0)
    if len(columns) < width:
        planes = np.add.reduceat(planes, columns, axis=1)
    counts = np.diff(rows, append=height)[:, None] * np.diff(columns, append=width)
    return Signature((planes / counts[..., None]).astype(np.float32), Size(width, height))


def _matrix(signatures: Signatures) -> NDArray[np.float64]:
    """(n, values), scaled so that Euclidean distance is the root mean square of the differences."""
    whole = np.stack([one.values.ravel() for one in signatures]).astype(np.float64)
    # around their mean: large equal parts would cost the products below their last digits
    whole -= whole.mean(axis=0)
    whole /= np.sqrt(whole.shape[1])
    return whole


def changes(signatures: Signatures, lag: int = 1) -> NDArray[np.float64]:
    """How much each frame differs from the one `lag` later: the root mean square difference, from 0 to 1; n - lag."""
    pairs = zip(signatures[:-lag], signatures[lag:], strict=True)
    return np.array([_difference(a.values, b.values) for a, b in pairs])


def _difference(a: NDArray[np.float32], b: NDArray[np.float32]) -> float:
    return float(np.sqrt(np.mean(np.square(a.astype(np.float64) - b))))


def spread(signatures: Signatures, index: int) -> NDArray[np.float64]:
    """How much every frame differs from the one at `index`."""
    return np.array([_difference(signatures[index].values, one.values) for one in signatures])


def distances(signatures: Signatures, lags: range) -> NDArray[np.float64]:
    """(n, lags): how much frame i differs from frame i + lag, NaN where there is none.

    In blocks of products, so that a thousand frames take less than a second.
    """
    matrix = _matrix(signatures)
    squares = (matrix * matrix).sum(axis=1)
    count = len(matrix)
    found = np.full((count, len(lags)), np.nan)
    for start in range(0, count, _CHUNK):
        stop = min(start + _CHUNK, count)
        low, high = start + lags.start, min(stop - 1 + lags.stop - 1, count - 1) + 1
        if low >= high:
            break
        products = matrix[start:stop] @ matrix[low:high].T
        # |a - b|^2 = |a|^2 + |b|^2 - 2ab: one product in place of a thousand differences
        squared = squares[start:stop, None] + squares[low:high] - 2 * products
        for row in range(start, stop):
            first, last = row + lags.start, min(row + lags.stop, count)
            found[row, : max(last - first, 0)] = squared[row - start, first - low : last - low]
    roots: NDArray[np.float64] = np.sqrt(np.maximum(found, 0))
    return roots
