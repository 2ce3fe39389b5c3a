"""Small pictures of frames, by which many can be compared with each other quickly."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Box, Pixels, Size, full_scale, opaque_bounds
from kivel.core.survey import union

__all__ = [
    "NEARLY", "Signature", "Signatures", "Thumbnail", "changes", "distances", "planes_of", "signature", "signatures",
    "spread", "thumbnail",
]  # fmt: skip

NEARLY = 0.1
"""As a share of a usual step: what differs less is nearly the same."""

_SIDE, _FINE = 32, 128
_WHOLE = 65535
_VISIBLE_ALPHA = 8 / 255
_OPAQUE = 1 / 512
_SEEN = 0.03
_LIKE_GROUND, _MOST_OF_BORDER = 0.04, 0.9
_CHUNK = 256
_STRIP_ROWS = 32


class Thumbnail(NamedTuple):
    """A frame made small enough to keep a thousand of them, before it is known what all of them show.

    `values` are premultiplied stored values, averaged over blocks, (h, w, 4) from 0 to 65535; the blocks end at `rows`
    and `columns`, in pixels. `box` is that of what is visible, None if nothing is.
    """

    values: NDArray[np.uint16]
    rows: tuple[int, ...]
    columns: tuple[int, ...]
    box: Box
    size: Size


class Signature(NamedTuple):
    """Premultiplied stored values, from 0 to 1, averaged over blocks: (h, w, 4) float32. `size` is the frame's own.

    `mass` is how much is seen, in square pixels of full weight, and `opacity` how much of a pixel that is seen at all;
    None where the picture fills the frame, so that nothing tells.
    """

    values: NDArray[np.float32]
    size: Size
    mass: float | None = None
    opacity: float | None = None


Signatures = Sequence[Signature]


def planes_of(image: Pixels) -> NDArray[np.float32]:
    """(H, W, 4) from 0 to 1, colour times alpha on stored values; float frames are cut off at 1."""
    values = image.astype(np.float32)
    values *= np.float32(1 / full_scale(image))
    values[..., :3] *= values[..., 3:]
    return np.minimum(values, 1, out=values)


def thumbnail(image: Pixels) -> Thumbnail:
    """A frame, (H, W, 4), as at most 128x128 averages; small frames are kept whole."""
    height, width = image.shape[:2]
    rows, columns = _ends(height, _FINE), _ends(width, _FINE)
    if image.dtype == np.uint8 and rows[0] > 1:
        sums = _exactly_summed(image, rows, columns).astype(np.float32)
        sums *= np.float32(_WHOLE / 255**2) / _sizes(rows, columns)[..., None]
    else:
        sums = _summed(planes_of(image), rows, columns)
        sums *= np.float32(_WHOLE) / _sizes(rows, columns)[..., None]
    sums += np.float32(0.5)
    box = opaque_bounds(image, threshold=_VISIBLE_ALPHA * full_scale(image))
    return Thumbnail(sums.astype(np.uint16), rows, columns, box, Size(width, height))


def _ends(length: int, most: int) -> tuple[int, ...]:
    """Where at most this many blocks of a length end, all alike but the last."""
    block = -(-length // most)
    return (*range(block, length, block), length)


def _sizes(rows: Sequence[int], columns: Sequence[int]) -> NDArray[np.float32]:
    """(h, w): how many pixels each block has."""
    sizes: NDArray[np.float32] = (np.diff(rows, prepend=0)[:, None] * np.diff(columns, prepend=0)).astype(np.float32)
    return sizes


def _exactly_summed(image: Pixels, rows: Sequence[int], columns: Sequence[int]) -> NDArray[np.uint32]:
    """Sums of colour times alpha, and of alpha times 255, in whole numbers; strips of blocks that stay in the cache.

    A block of 128x128 would have to be 257 px a side to leave 32 bits; sides of 32,896 px have such ones.
    """
    block = rows[0]
    strips = range(0, rows[-1], block * max(1, _STRIP_ROWS // block))
    parts = []
    for start, end in zip(strips, [*strips[1:], rows[-1]], strict=True):
        # one channel after the other: what is broadcast over four values is not worth a loop of its own
        by_row = np.empty((4, end - start, columns[-1]), np.uint16)
        alpha = image[start:end, :, 3].astype(np.uint16)
        for channel in range(3):
            np.multiply(image[start:end, :, channel], alpha, out=by_row[channel])
        np.multiply(alpha, np.uint16(255), out=by_row[3])
        ends = [*range(block, end - start, block), end - start]
        summed = _summed_rows(by_row.swapaxes(0, 1), ends, np.uint32)
        parts.append(_summed_rows(summed.transpose(2, 0, 1), columns, np.uint32).swapaxes(0, 1))
    return np.concatenate(parts)


def _summed(planes: NDArray[np.float32], rows: Sequence[int], columns: Sequence[int]) -> NDArray[np.float32]:
    """Sums over blocks that end at these rows and columns: (H, W, n) is (h, w, n) then."""
    return _summed_rows(_summed_rows(planes, rows).swapaxes(0, 1), columns).swapaxes(0, 1)


def _summed_rows(planes: NDArray[Any], ends: Sequence[int], dtype: type = np.float32) -> NDArray[Any]:
    """Line by line, which is several times as fast as to sum up each block by itself."""
    block, length = ends[0], ends[-1]
    if block == 1:
        return planes.astype(dtype, copy=False)
    whole = length // block * block
    total: NDArray[Any] = planes[:whole:block].astype(dtype)
    for line in range(1, block):
        total += planes[line:whole:block]
    if whole == length:
        return total
    return np.concatenate((total, planes[whole:].sum(axis=0, keepdims=True, dtype=dtype)))


def signature(image: Pixels) -> Signature:
    """A frame by itself, (H, W, 4), as at most 32x32 averages; small frames are kept whole."""
    one = thumbnail(image)
    return _small(one, slice(None), slice(None))


def signatures(thumbnails: Sequence[Thumbnail]) -> list[Signature]:
    """The frames of a sequence, cropped to what any of them shows, as at most 32x32 averages each."""
    box = union(one.box for one in thumbnails)
    alike = len({one.size for one in thumbnails}) == 1
    if box is None or not alike:
        rows = columns = slice(None)
    else:
        rows = _blocks(thumbnails[0].rows, box.y, box.bottom)
        columns = _blocks(thumbnails[0].columns, box.x, box.right)
    small = [_small(one, rows, columns) for one in thumbnails]
    parts = [one.values[rows, columns] for one in thumbnails]
    weight = _weighing(parts) if alike else None
    if weight is None:
        return small
    areas = _areas(thumbnails[0], rows, columns)
    result = []
    for one, part in zip(small, parts, strict=True):
        weights = weight(part)
        mass = float((weights * areas).sum())
        visible = float(areas[weights > _SEEN].sum())
        result.append(one._replace(mass=mass, opacity=mass / visible if visible else 0.0))
    return result


def _blocks(ends: tuple[int, ...], first: int, last: int) -> slice:
    """The blocks that hold pixels `first` to `last`, that excluded."""
    return slice(int(np.searchsorted(ends, first, side="right")), int(np.searchsorted(ends, last)) + 1)


def _areas(one: Thumbnail, rows: slice, columns: slice) -> NDArray[np.float32]:
    """How many pixels each block has."""
    down, across = (np.diff(ends, prepend=0)[part] for ends, part in ((one.rows, rows), (one.columns, columns)))
    areas: NDArray[np.float32] = (down[:, None] * across).astype(np.float32)
    return areas


def _weighing(parts: Sequence[NDArray[np.uint16]]) -> Callable[[NDArray[np.uint16]], NDArray[np.float32]] | None:
    """Gives how visible a block is, 0 to 1: by alpha and brightness, or by difference from an opaque background.

    None where opaque frames have no background.
    """
    whole = np.float32(_WHOLE)
    if not all(int(part[..., 3].min()) > _WHOLE * (1 - _OPAQUE) for part in parts):
        shares = np.array([1 / 6, 1 / 6, 1 / 6, 1 / 2], np.float32) / whole
        return lambda part: part @ shares
    border = np.concatenate([_border(part[..., :3]) for part in parts]) / whole
    ground = np.median(border, axis=0).astype(np.float32)
    if (np.abs(border - ground).mean(axis=-1) <= _LIKE_GROUND).mean() <= _MOST_OF_BORDER:
        return None
    return lambda part: np.abs(part[..., :3] / whole - ground).mean(axis=-1)


def _border(image: NDArray[np.uint16]) -> NDArray[np.uint16]:
    return np.concatenate((image[0], image[-1], image[:, 0], image[:, -1]))


def _small(one: Thumbnail, rows: slice, columns: slice) -> Signature:
    """Return what lies in these blocks, as at most 32x32 averages."""
    values = one.values[rows, columns].astype(np.float32) / np.float32(_WHOLE)
    height, width = values.shape[:2]
    if max(height, width) > _SIDE:
        areas = _areas(one, rows, columns)[..., None]
        down, across = _ends(height, _SIDE), _ends(width, _SIDE)
        values = _summed(values * areas, down, across) / _summed(areas, down, across)
    return Signature(values, one.size)


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
