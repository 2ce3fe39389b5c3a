"""Small pictures of frames, by which many can be compared with each other quickly."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels import Box, Pixels, Size, full_scale, opaque_bounds
from kivel.core.survey import union

__all__ = [
    "NEARLY", "Signature", "Signatures", "Thumbnail", "changes", "distances", "planes_of", "signature", "signatures",
    "spread", "thumbnail",
]  # fmt: skip

NEARLY = 0.1
"""Of a usual step: what differs less is nearly the same."""

_SIDE, _FINE = 32, 128
_WHOLE = 65535
_VISIBLE_ALPHA = 8 / 255
_OPAQUE = 1 / 512
_SEEN = 0.03
_LIKE_GROUND, _MOST_OF_BORDER = 0.04, 0.9
_CHUNK = 256


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
    rows, columns = (np.linspace(0, length, min(length, _FINE) + 1).astype(int)[1:] for length in (height, width))
    planes = _averaged(planes_of(image), rows, columns)
    values = np.rint(planes * _WHOLE).astype(np.uint16)
    box = opaque_bounds(image, threshold=_VISIBLE_ALPHA * full_scale(image))
    return Thumbnail(values, tuple(rows.tolist()), tuple(columns.tolist()), box, Size(width, height))


def _averaged(planes: NDArray[np.float32], rows: NDArray[Any], columns: NDArray[Any]) -> NDArray[np.float32]:
    """Averages over blocks that end at these rows and columns; (H, W, 4) is (h, w, 4) then."""
    height, width = planes.shape[:2]
    if len(rows) < height:
        planes = np.add.reduceat(planes, np.concatenate(([0], rows[:-1])), axis=0)
    if len(columns) < width:
        planes = np.add.reduceat(planes, np.concatenate(([0], columns[:-1])), axis=1)
    counts = np.diff(rows, prepend=0)[:, None] * np.diff(columns, prepend=0)
    averages: NDArray[np.float32] = (planes / counts[..., None]).astype(np.float32)
    return averages


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
    seen = _seen([one.values[rows, columns] for one in thumbnails]) if alike else None
    if seen is None:
        return small
    area = [_areas(one, rows, columns) for one in thumbnails]
    result = []
    for one, weights, areas in zip(small, seen, area, strict=True):
        mass = float((weights * areas).sum())
        visible = float(areas[weights > _SEEN].sum())
        result.append(one._replace(mass=mass, opacity=mass / visible if visible else 0.0))
    return result


def _blocks(ends: tuple[int, ...], first: int, last: int) -> slice:
    """The blocks that hold pixels `first` to `last`, that excluded."""
    return slice(int(np.searchsorted(ends, first, side="right")), int(np.searchsorted(ends, last)) + 1)


def _areas(one: Thumbnail, rows: slice, columns: slice) -> NDArray[np.float64]:
    """How many pixels each block has."""
    down, across = (np.diff(ends, prepend=0)[part] for ends, part in ((one.rows, rows), (one.columns, columns)))
    areas: NDArray[np.float64] = (down[:, None] * across).astype(np.float64)
    return areas


def _seen(values: Sequence[NDArray[np.uint16]]) -> list[NDArray[np.float64]] | None:
    """How much of each block is seen, 0 to 1: by alpha and brightness, of opaque frames by what is not background.

    None where opaque frames have no background.
    """
    shares = [each.astype(np.float64) / _WHOLE for each in values]
    if not all((each[..., 3] > 1 - _OPAQUE).all() for each in shares):
        return [each[..., 3] / 2 + each[..., :3].mean(axis=-1) / 2 for each in shares]
    border = np.concatenate([_border(each[..., :3]) for each in shares])
    ground = np.median(border, axis=0)
    if (np.abs(border - ground).mean(axis=-1) <= _LIKE_GROUND).mean() <= _MOST_OF_BORDER:
        return None
    return [np.abs(each[..., :3] - ground).mean(axis=-1) for each in shares]


def _border(image: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.concatenate((image[0], image[-1], image[:, 0], image[:, -1]))


def _small(one: Thumbnail, rows: slice, columns: slice) -> Signature:
    """What lies in these blocks, as at most 32x32 averages."""
    values = one.values[rows, columns].astype(np.float32) / np.float32(_WHOLE)
    areas = _areas(one, rows, columns)
    height, width = values.shape[:2]
    if max(height, width) > _SIDE:
        down, across = (np.linspace(0, length, min(length, _SIDE) + 1).astype(int)[:-1] for length in (height, width))
        sums = np.add.reduceat(np.add.reduceat(values * areas[..., None], down, axis=0), across, axis=1)
        areas = np.add.reduceat(np.add.reduceat(areas, down, axis=0), across, axis=1)
        values = (sums / areas[..., None]).astype(np.float32)
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
