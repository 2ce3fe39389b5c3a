"""Deflate (RFC 1950, 1951) in bands that are compressed apart, in parallel, and then stand one after the other.

Each band but the last ends with a sync flush, so that the next begins on a byte. A band never looks back into the one
before it: with bands of a mebibyte that costs less than a thousandth, and lets each start without waiting.

All by zlib-ng. ISA-L is two to three times as fast at the size of level 2, but now and then, on several threads, its
levels 1 and 2 gave other bytes for the same data (one stream in some 100,000): the bytes of a sheet must not change.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from zlib_ng import zlib_ng

__all__ = [
    "ZLIB_HEADER",
    "Compressor",
    "adler32",
    "combined_adler32",
    "probed_length",
    "quick",
    "thorough",
    "thorougher",
    "tight",
]

Data = bytes | memoryview
Compressor = Callable[[Data, bool], bytes]
"""`(data, is_last) -> raw deflate`, ending on a byte."""

ZLIB_HEADER = b"\x78\x9c"
_ADLER_MODULUS = 65521
_RAW = -15


def probed_length(data: Data) -> int:
    """Which of two data deflates better, quickly: level 1."""
    return len(zlib_ng.compress(data, 1))


def quick(data: Data, is_last: bool) -> bytes:
    """Level 2: about 200 MB/s."""
    return _deflated(data, 2, is_last)


def tight(data: Data, is_last: bool) -> bytes:
    """Level 3: a tenth smaller than `quick`, three quarters of its speed."""
    return _deflated(data, 3, is_last)


def thorough(data: Data, is_last: bool) -> bytes:
    """Level 6: a third of the speed of `tight`."""
    return _deflated(data, 6, is_last)


def thorougher(data: Data, is_last: bool) -> bytes:
    """Level 7: half the speed of `thorough`."""
    return _deflated(data, 7, is_last)


def _deflated(data: Data, level: int, is_last: bool) -> bytes:
    # raw: the header and the checksum of the whole stream are put around the bands by whoever joins them
    stream = zlib_ng.compressobj(level, zlib_ng.DEFLATED, _RAW)
    return stream.compress(data) + stream.flush(zlib_ng.Z_FINISH if is_last else zlib_ng.Z_SYNC_FLUSH)


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
