"""Deflate (RFC 1950, 1951): in bands that are compressed apart, in parallel, and then are one after the other; or in
one stream, as small as it gets.

Each band but the last ends with a sync flush, so that the next begins on a byte. A band never looks back into the one
before it: with bands of a mebibyte that costs less than a thousandth, and lets each start without waiting.

Bands are by zlib-ng. ISA-L is two to three times as fast at the size of level 2, but now and then, on several
threads, its levels 1 and 2 gave other bytes for the same data (one stream in some 100,000): the bytes of a sheet must
not change. The one stream is by libdeflate, which cannot leave a stream open, and so cannot join bands.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from zlib_ng import zlib_ng

__all__ = [
    "ZLIB_HEADER",
    "Compressor",
    "adler32",
    "combined_adler32",
    "counts",
    "least",
    "level",
    "nearly_least",
    "runs",
]

Data = bytes | memoryview
Compressor = Callable[[Data, bool], bytes]
"""`(data, is_last) -> raw deflate`, ending on a byte."""

ZLIB_HEADER = b"\x78\x9c"
_ADLER_MODULUS = 65521
_RAW = -15
_MEMORY = 8
_LITTLE = 5 << 20


def level(number: int) -> Compressor:
    """With matches: 2 at about 150 MB/s; 3 a tenth smaller, in 1.25 times as long; 6 takes 3 times as long as 3."""
    return lambda data, is_last: _deflated(data, number, zlib_ng.Z_DEFAULT_STRATEGY, is_last)


def runs(data: Data, is_last: bool) -> bytes:
    """With runs of one byte alone: for noise, in which matches cost more than they save."""
    return _deflated(data, 1, zlib_ng.Z_RLE, is_last)


def counts(data: Data, is_last: bool) -> bytes:
    """Without matches: what is frequent gets short codes, no more."""
    return _deflated(data, 1, zlib_ng.Z_HUFFMAN_ONLY, is_last)


def _deflated(data: Data, level: int, strategy: int, is_last: bool) -> bytes:
    # raw: the header and the checksum of the whole stream are put around the bands by whoever joins them
    stream = zlib_ng.compressobj(level, zlib_ng.DEFLATED, _RAW, _MEMORY, strategy)
    return stream.compress(data) + stream.flush(zlib_ng.Z_FINISH if is_last else zlib_ng.Z_SYNC_FLUSH)


def nearly_least(data: Data) -> int:
    """How long a stream by libdeflate's level 6 is: what its higher levels will make of one filtering or another."""
    return len(_by_libdeflate(data, 6))


def least(data: Data) -> bytes:
    """A whole stream by libdeflate: level 12 where there is little, else 10, which takes a fifth of the time."""
    return _by_libdeflate(data, 12 if len(data) <= _LITTLE else 10)


def _by_libdeflate(data: Data, level: int) -> bytes:
    import imagecodecs

    return bytes(imagecodecs.deflate_encode(data, level, raw=True))  # type: ignore[arg-type] # any buffer will do


def adler32(data: Data) -> int:
    """The Adler-32 checksum of RFC 1950."""
    return int(zlib_ng.adler32(data))


def combined_adler32(parts: Iterable[tuple[int, int]]) -> int:
    """The checksum of data whose parts have these `(checksum, length in bytes)`, in order."""
    low, high = 1, 0
    for checksum, length in parts:
        part_low, part_high = checksum & 0xFFFF, checksum >> 16
        high = (high + part_high + (low - 1) * length) % _ADLER_MODULUS
        low = (low + part_low - 1) % _ADLER_MODULUS
    return high << 16 | low
