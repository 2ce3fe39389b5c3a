"""The five PNG row filters (PNG specification, third edition, section 9), over many rows at once.

A block is `(1 + rows, bytes)` uint8: the row above, then the rows to filter. `step` is the distance in bytes from a
byte to the same byte of the pixel on its left, the specification's `bpp`; a, b and c are its left, above and above
left neighbours.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

__all__ = ["ROW_FILTERS", "Block"]

Block = NDArray[np.uint8]


def _none(block: Block, _step: int, out: Block) -> None:
    out[:] = block[1:]


def _sub(block: Block, step: int, out: Block) -> None:
    out[:, :step] = block[1:, :step]
    np.subtract(block[1:, step:], block[1:, :-step], out=out[:, step:])


def _up(block: Block, _step: int, out: Block) -> None:
    np.subtract(block[1:], block[:-1], out=out)


def _average(block: Block, step: int, out: Block) -> None:
    """floor((a + b) / 2) without leaving a byte: the bits they share, and half of those in which they differ."""
    a, b, _ = _neighbours(block, step)
    mean = a ^ b
    mean >>= 1
    mean += a & b
    np.subtract(block[1:], mean, out=out)


def _paeth(block: Block, step: int, out: Block) -> None:
    """The Paeth predictor in bytes alone, faster than in int16.

    With pa = |b - c| and pb = |a - c|, the nearer of a and b (a when equal) is the prediction unless c lies between
    the two and is nearer to a + b - c than either: then pc = |pa - pb|, since pa + pb = |a - b|. Outside, pc = pa + pb
    is never the least.
    """
    a, b, c = _neighbours(block, step)
    pa = _distance(b, c)
    pb = _distance(a, c)
    far = np.maximum(pa, pb)
    take_a = _mask(pa <= pb)
    near = np.minimum(pa, pb, out=pb)
    between = far <= _distance(a, b)
    between &= near > np.subtract(far, near, out=pa)
    predicted = b ^ ((a ^ b) & take_a)
    predicted ^= (c ^ predicted) & _mask(between)
    np.subtract(block[1:], predicted, out=out)


def _neighbours(block: Block, step: int) -> tuple[Block, Block, Block]:
    """a, b and c of every byte; zeros left of the image."""
    padded = np.zeros((block.shape[0], step + block.shape[1]), np.uint8)
    padded[:, step:] = block
    return padded[1:, :-step], block[:-1], padded[:-1, :-step]


def _distance(p: Block, q: Block) -> Block:
    high = np.maximum(p, q)
    return np.subtract(high, np.minimum(p, q), out=high)


def _mask(condition: NDArray[np.bool_]) -> Block:
    """255 where true, 0 where not: blends with it are plain byte arithmetic, several times faster than `where`."""
    bits = condition.view(np.uint8)
    return np.negative(bits, out=bits)


ROW_FILTERS: tuple[Callable[[Block, int, Block], None], ...] = (_none, _sub, _up, _average, _paeth)
"""`(block, step, out)` by filter type, 0 to 4; `out` is (rows, bytes)."""
