"""Deflate (RFC 1950, 1951) in bands that are compressed apart, in parallel, and then stand one after the other.

Each band but the last ends with a sync flush, so that the next begins on a byte. A band never looks back into the one
before it: with bands of a mebibyte that costs less than a thousandth, and lets each start without waiting.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Protocol

from isal import isal_zlib
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
_WORTH_HASTE = 1 << 16


class _Stream(Protocol):
    def compress(self, data: Data, /) -> bytes: ...
    def flush(self, mode: int = ..., /) -> bytes: ...


def quick(data: Data, is_last: bool) -> bytes:
    """ISA-L, level 2 with a small histogram: about 600 MB/s. (Level 3 differs between processors; this does not.)

    Short data, where there is nothing to gain, is left to `tight`.
    """
    if len(data) < _WORTH_HASTE:
        return tight(data, is_last)
    return _finished(isal_zlib.compressobj(2, isal_zlib.DEFLATED, _RAW, 2), data, is_last)


def probed_length(data: Data) -> int:
    """About how long `data` would be deflated: ISA-L, level 0.

    Not level 1 or 2 in one call: on short data these look at memory that nobody has set, and now and then come out
    differently from one run to the next.
    """
    return len(isal_zlib.compress(data, 0))


def tight(data: Data, is_last: bool) -> bytes:
    """zlib-ng, level 3: a tenth smaller than `quick`, a quarter of its speed."""
    return _finished(zlib_ng.compressobj(3, zlib_ng.DEFLATED, _RAW), data, is_last)


def thorough(data: Data, is_last: bool) -> bytes:
    """zlib-ng, level 6: half the speed of `tight`."""
    return _finished(zlib_ng.compressobj(6, zlib_ng.DEFLATED, _RAW), data, is_last)


def thorougher(data: Data, is_last: bool) -> bytes:
    """zlib-ng, level 7: half the speed of `thorough`."""
    return _finished(zlib_ng.compressobj(7, zlib_ng.DEFLATED, _RAW), data, is_last)


def _finished(stream: _Stream, data: Data, is_last: bool) -> bytes:
    mode = zlib_ng.Z_FINISH if is_last else zlib_ng.Z_SYNC_FLUSH
    return stream.compress(data) + stream.flush(mode)


def adler32(data: Data) -> int:
    """The Adler-32 checksum of RFC 1950."""
    return int(isal_zlib.adler32(data))


def combined_adler32(parts: Iterable[tuple[int, int]]) -> int:
    """The checksum of data whose parts have these `(checksum, length in bytes)`, in order."""
    low, high = 1, 0
    for checksum, length in parts:
        part_low, part_high = checksum & 0xFFFF, checksum >> 16
        high = (high + part_high + (low - 1) * length) % _ADLER_MODULUS
        low = (low + part_low - 1) % _ADLER_MODULUS
    return high << 16 | low
