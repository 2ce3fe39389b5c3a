"""Writing PNG: bands of rows, filtered and deflated in parallel, or one stream that is as small as it gets.

The bands and the choices depend on the image alone, never on how many threads there are.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Compress
from kivel.core.pixels.indexed import Indices
from kivel.core.pixels.pixels import PixelError, Pixels, bit_depth, require_rgba
from kivel.files.png import deflate
from kivel.files.png.chunks import PALETTE, SIGNATURE, chunk
from kivel.files.png.raster import Channels, Form, Raster, indexed_forms, lossless_forms
from kivel.files.png.ways import Way, filtered_rows, way_for, with_row_above
from kivel.files.threads import in_order

__all__ = ["BAND_BYTES", "encode_indexed", "encode_png", "image_data", "opening"]

BAND_BYTES = 1 << 20
"""Bytes of filtered rows that are deflated together."""
_TRIED_BYTES = 16 << 20
"""Samples of filtered rows from which `least` chooses the filter."""
_TRIED_ROWS = 16
_KINDS = range(5)


class _Band(NamedTuple):
    deflated: bytes
    checksum: int
    length: int


def encode_png(
    image: Pixels,
    *,
    compress: Compress = "fast",
    jobs: int = 1,
    channels: Channels | None = None,
    palettes: bool = True,
) -> Iterator[bytes]:
    """The file in pieces, in order.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight-alpha RGBA, `uint8` or `uint16`; written bit for bit, colour under transparent pixels included, as
        grey or RGB where that loses nothing.
    compress : "fast", "small" or "least"
        `small` looks harder, for about four times as long; `least` takes seconds for a page of 2048x2048.
    jobs : int
        Threads. The bytes do not depend on it.
    channels : Channels, optional
        Whether colour and alpha are stored; None stores what is needed.
    palettes : bool
        Whether an image of few colours may get a palette.

    Raises
    ------
    PixelError
        If `image` is not such an array.
    """
    require_rgba(image)
    if bit_depth(image) == 32:
        raise PixelError("PNG holds 8 or 16 bits a channel, not float; expose it first")
    return _encoded(image, lossless_forms([image], channels=channels, palettes=palettes), compress, jobs)


def encode_indexed(
    indices: Indices, table: NDArray[np.uint8], *, compress: Compress = "fast", jobs: int = 1
) -> Iterator[bytes]:
    """The file in pieces, with its palette as it is given.

    Parameters
    ----------
    indices : (H, W) array of uint8
        Each below n.
    table : (n, 4) array of uint8
        Up to 256 colours, RGBA, in the order in which they are stored.
    """
    return _encoded(indices, indexed_forms(table), compress, jobs)


def _encoded(image: Pixels, forms: Sequence[Form], compress: Compress, jobs: int) -> Iterator[bytes]:
    way = way_for(image, forms, compress)
    raster = Raster(image, way.form)
    yield from opening(raster)
    for data in image_data(raster, way, compress=compress, jobs=jobs):
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


def image_data(raster: Raster, way: Way, *, compress: Compress, jobs: int = 1) -> Iterator[bytes]:
    """One zlib stream in pieces."""
    if compress == "least":
        return _least(raster, way, jobs)
    return _joined(raster, way, jobs)


def _joined(raster: Raster, way: Way, jobs: int) -> Iterator[bytes]:
    """A piece for each band of rows."""
    before = deflate.ZLIB_HEADER
    checksums: list[tuple[int, int]] = []
    last: bytes | None = None
    for band in _bands(raster, way, jobs):
        if last is not None:
            yield last
        last = before + band.deflated
        before = b""
        checksums.append((band.checksum, band.length))
    yield (last or b"") + deflate.combined_adler32(checksums).to_bytes(4, "big")


def _bands(raster: Raster, way: Way, jobs: int) -> Iterator[_Band]:
    height = raster.header.height
    count = max(1, BAND_BYTES // (raster.header.row_bytes + 1))

    def band(start: int) -> _Band:
        end = min(start + count, height)
        filtered = _filtered(raster, start, end, way.kind)
        compressor = way.cycle[start // count % len(way.cycle)]
        return _Band(compressor(filtered, end == height), deflate.adler32(filtered), len(filtered))

    yield from in_order(band, range(0, height, count), jobs=jobs)


def _filtered(raster: Raster, start: int, end: int, kind: int) -> memoryview:
    """Rows `start` to `end` - 1, each with its filter type in front."""
    rows = with_row_above(raster.rows(max(start - 1, 0), end), is_first=start == 0)
    filtered = np.empty((end - start, rows.shape[1] + 1), np.uint8)
    filtered_rows(rows, raster.step, kind, filtered)
    return filtered.reshape(-1).data


def _least(raster: Raster, way: Way, jobs: int) -> Iterator[bytes]:
    """The whole image, or as many of its rows as tell, filtered in each way; the best one is deflated for long.

    Now and then, of few colours or of noise, what `small` makes is smaller.
    """
    height = raster.header.height
    most_rows = max(_TRIED_ROWS, _TRIED_BYTES // (raster.header.row_bytes + 1))
    every = -(-height // most_rows) * _TRIED_ROWS
    starts = range(0, height, every)

    def length(kind: int) -> int:
        parts = [_filtered(raster, start, min(start + _TRIED_ROWS, height), kind) for start in starts]
        return deflate.nearly_least(b"".join(parts))

    kinds = _KINDS if raster.form.colour != PALETTE or raster.form.depth == 8 else _KINDS[:1]
    lengths = list(in_order(length, kinds, jobs=jobs))
    data = _filtered(raster, 0, height, lengths.index(min(lengths)))
    stream = deflate.ZLIB_HEADER + deflate.least(data) + deflate.adler32(data).to_bytes(4, "big")
    stream = min(stream, b"".join(_joined(raster, way, jobs)), key=len)
    for start in range(0, len(stream), BAND_BYTES):
        yield stream[start : start + BAND_BYTES]
