"""Writing PNG: row filters chosen by what really compresses, bands of rows deflated in parallel.

The bands and the choices depend on the image alone, never on how many threads there are.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal, NamedTuple, get_args

import numpy as np

from kivel.core.pixels import PixelError, Pixels, bit_depth, require_rgba
from kivel.files.png import deflate
from kivel.files.png.chunks import SIGNATURE, chunk
from kivel.files.png.filters import ROW_FILTERS, Block
from kivel.files.png.raster import Raster, forms, truecolour
from kivel.files.threads import in_order

__all__ = ["BAND_BYTES", "COMPRESSIONS", "Compress", "best_raster", "encode_png", "image_data", "opening"]

Compress = Literal["fast", "small"]
COMPRESSIONS: tuple[Compress, ...] = get_args(Compress)

BAND_BYTES = 1 << 20
"""Of filtered rows, that are deflated together."""
_WORK_ROWS = 16
_UP = 2
_TRY_ORDER = (_UP, 1, 3, 4, 0)
"""Filter types as they are tried; the earlier wins a tie."""


class _Effort(NamedTuple):
    """How hard to look.

    `block_rows` share one filter type, which `sample_rows` in their middle choose; another than "up" must win by
    `lead`, since a sample errs. Bands take turns at the compressors of `cycle`.
    """

    block_rows: int
    sample_rows: int
    lead: float
    cycle: tuple[deflate.Compressor, ...]


_EFFORTS: dict[Compress, _Effort] = {
    "fast": _Effort(128, 2, 0.95, (deflate.quick, deflate.tight)),
    "small": _Effort(16, 4, 1.0, (*[deflate.thorough] * 4, deflate.thorougher)),
}
_PROBE = _Effort(64, 4, 1.0, (deflate.quick,))


class _Band(NamedTuple):
    deflated: bytes
    checksum: int
    length: int


def encode_png(image: Pixels, *, compress: Compress = "fast", jobs: int = 1) -> Iterator[bytes]:
    """The file in pieces, in order.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight-alpha RGBA, `uint8` or `uint16`; written bit for bit, colour under transparent pixels included.
    compress : "fast" or "small"
        `fast` writes RGBA. `small` writes grey, RGB or a palette where that loses nothing and is smaller.
    jobs : int
        Threads. The bytes do not depend on it.

    Raises
    ------
    PixelError
        If `image` is not such an array.
    """
    require_rgba(image)
    if bit_depth(image) == 32:
        raise PixelError("PNG holds 8 or 16 bits a channel, not float; expose it first")
    raster = best_raster(image, compress=compress, jobs=jobs)
    yield from opening(raster)
    for data in image_data(raster, compress=compress, jobs=jobs):
        yield chunk(b"IDAT", data)
    yield chunk(b"IEND")


def opening(raster: Raster) -> Iterator[bytes]:
    """Signature, IHDR and palette."""
    yield SIGNATURE
    yield raster.header.packed()
    if raster.palette:
        yield chunk(b"PLTE", raster.palette)
    if raster.transparency:
        yield chunk(b"tRNS", raster.transparency)


def best_raster(image: Pixels, *, compress: Compress, jobs: int = 1) -> Raster:
    """The form to store `image` in: under `small` the one that a quick deflate makes smallest."""
    if compress == "fast":
        return truecolour(image)
    candidates = forms(image)
    if len(candidates) == 1:
        return candidates[0]
    return min(candidates, key=lambda raster: _probed_length(raster, jobs))


def _probed_length(raster: Raster, jobs: int) -> int:
    palette = len(raster.palette) + len(raster.transparency)
    return palette + sum(len(band.deflated) for band in _bands(raster, _PROBE, jobs))


def image_data(raster: Raster, *, compress: Compress, jobs: int = 1) -> Iterator[bytes]:
    """One zlib stream in pieces, a piece for each band of rows."""
    before = deflate.ZLIB_HEADER
    checksums: list[tuple[int, int]] = []
    last: bytes | None = None
    for band in _bands(raster, _EFFORTS[compress], jobs):
        if last is not None:
            yield last
        last = before + band.deflated
        before = b""
        checksums.append((band.checksum, band.length))
    yield (last or b"") + deflate.combined_adler32(checksums).to_bytes(4, "big")


def _bands(raster: Raster, effort: _Effort, jobs: int) -> Iterator[_Band]:
    height = raster.header.height
    count = max(1, BAND_BYTES // (raster.header.row_bytes + 1))
    if count > effort.block_rows:
        # so that blocks that share a filter do not end at a band: the bytes would depend on its height
        count -= count % effort.block_rows
    starts = range(0, height, count)

    def band(start: int) -> _Band:
        end = min(start + count, height)
        filtered = _filtered(raster, start, end, effort)
        compressor = effort.cycle[start // count % len(effort.cycle)]
        return _Band(compressor(filtered, end == height), deflate.adler32(filtered), len(filtered))

    yield from in_order(band, starts, jobs=jobs)


def _filtered(raster: Raster, start: int, end: int, effort: _Effort) -> memoryview:
    """Rows `start` to `end` - 1, each with its filter type in front."""
    # with the row above, which filters look at
    rows = raster.rows(max(start - 1, 0), end)
    if start == 0:
        rows = np.concatenate((np.zeros((1, rows.shape[1]), np.uint8), rows))
    filtered = np.empty((end - start, rows.shape[1] + 1), np.uint8)
    for first in range(0, end - start, effort.block_rows):
        last = min(first + effort.block_rows, end - start)
        kind = _best_filter(rows[first : last + 1], raster.step, effort)
        filtered[first:last, 0] = kind
        for row in range(first, last, _WORK_ROWS):
            stop = min(row + _WORK_ROWS, last)
            ROW_FILTERS[kind](rows[row : stop + 1], raster.step, filtered[row:stop, 1:])
    return filtered.reshape(-1).data


def _best_filter(block: Block, step: int, effort: _Effort) -> int:
    """The filter type under which a sample of the block deflates best."""
    # from the middle: the first rows of a block are often empty
    first = max(0, (len(block) - 1 - effort.sample_rows) // 2)
    sample = block[first : first + effort.sample_rows + 1]
    filtered = np.empty((len(sample) - 1, block.shape[1]), np.uint8)

    def cost(kind: int) -> float:
        ROW_FILTERS[kind](sample, step, filtered)
        return deflate.probed_length(filtered.reshape(-1).data) * (effort.lead if kind == _UP else 1)

    return min(_TRY_ORDER, key=cost)
