"""The layer of chunks: what a PNG file is made of, and whether it is whole."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Callable, Iterator

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = [
    "GREY",
    "GREY_ALPHA",
    "PALETTE",
    "RGB",
    "RGBA",
    "SIGNATURE",
    "Buffer",
    "Chunk",
    "Header",
    "PngError",
    "Reader",
    "chunk",
    "iter_chunks",
    "parse_header",
]

SIGNATURE = b"\x89PNG\r\n\x1a\n"
GREY, RGB, PALETTE, GREY_ALPHA, RGBA = 0, 2, 3, 4, 6
_CHANNELS = {GREY: 1, RGB: 3, PALETTE: 1, GREY_ALPHA: 2, RGBA: 4}
_DEPTHS = {GREY: (1, 2, 4, 8, 16), RGB: (8, 16), PALETTE: (1, 2, 4, 8), GREY_ALPHA: (8, 16), RGBA: (8, 16)}
_NAMES = {GREY: "grey", RGB: "rgb", PALETTE: "palette", GREY_ALPHA: "grey+alpha", RGBA: "rgba"}
_IHDR = struct.Struct(">IIBBBBB")
_FRAMING = 12
_LONGEST = 2**31 - 1


Buffer = bytes | memoryview
Reader = Callable[[int, int], Buffer]
"""`(start, end) -> bytes` of a file."""


class PngError(KivelError):
    """The file is not a valid PNG."""


class Chunk(NamedTuple):
    """`whole` is the chunk as it is in the file; `data` what is inside."""

    kind: bytes
    data: Buffer
    whole: Buffer


class Header(NamedTuple):
    """IHDR. `depth` is bits per sample."""

    width: int
    height: int
    depth: int
    colour: int
    interlaced: bool = False

    @property
    def size(self) -> Size:
        return Size(self.width, self.height)

    @property
    def channels(self) -> int:
        return _CHANNELS[self.colour]

    @property
    def row_bytes(self) -> int:
        """Bytes of one row, without the filter byte."""
        return (self.width * self.depth * self.channels + 7) // 8

    @property
    def mode(self) -> str:
        """For people: `palette 4-bit`."""
        return f"{_NAMES[self.colour]} {self.depth}-bit"

    def packed(self) -> bytes:
        """The IHDR chunk."""
        return chunk(b"IHDR", _IHDR.pack(self.width, self.height, self.depth, self.colour, 0, 0, int(self.interlaced)))


def chunk(kind: bytes, *data: bytes) -> bytes:
    """A chunk with its length and checksum; the parts of `data` are joined."""
    crc = zlib.crc32(kind)
    for part in data:
        crc = zlib.crc32(part, crc)
    return b"".join((struct.pack(">I", sum(map(len, data))), kind, *data, struct.pack(">I", crc)))


def iter_chunks(read: Reader, length: int, *, with_image_data: bool = True) -> Iterator[Chunk]:
    """The chunks of a file of `length` bytes, up to IEND.

    The checksum of IDAT and fdAT is left to the decoder, which reads them anyway; without image data these chunks
    are passed over and come empty.

    Raises
    ------
    PngError
        If the signature is missing, a chunk is cut off or damaged, or the file ends before IEND.
    """
    if read(0, len(SIGNATURE)) != SIGNATURE:
        raise PngError("not a PNG file, its signature is missing; check what wrote it")
    position = len(SIGNATURE)
    while position + _FRAMING <= length:
        head = bytes(read(position, position + 8))
        kind = head[4:]
        end = position + _FRAMING + int.from_bytes(head[:4], "big")
        if not kind.isalpha() or not kind.isascii():
            raise PngError(f"damaged at byte {position}: no chunk begins there; export it again")
        if end > length:
            break
        if kind not in (b"IDAT", b"fdAT"):
            item = _chunk_at(read, position, end, kind)
            _check_crc(item, position)
            yield item
        elif with_image_data:
            yield _chunk_at(read, position, end, kind)
        else:
            yield Chunk(kind, b"", b"")
        if kind == b"IEND":
            return
        position = end
    raise PngError(f"cut off after {length:,} bytes, before its end marker; export or copy it again")


def _chunk_at(read: Reader, position: int, end: int, kind: bytes) -> Chunk:
    whole = read(position, end)
    return Chunk(kind, whole[8:-4], whole)


def _check_crc(item: Chunk, position: int) -> None:
    stated = int.from_bytes(item.whole[-4:], "big")
    if zlib.crc32(item.data, zlib.crc32(item.kind)) != stated:
        raise PngError(f"damaged: the checksum of {item.kind.decode()} at byte {position} is wrong; export it again")


def parse_header(data: Buffer) -> Header:
    """The fields of IHDR.

    Raises
    ------
    PngError
        If a value is not allowed.
    """
    if len(data) != _IHDR.size:
        raise PngError(f"IHDR has {len(data)} bytes instead of {_IHDR.size}; export it again")
    width, height, depth, colour, compression, filtering, interlace = _IHDR.unpack(data)
    if not (0 < width <= _LONGEST and 0 < height <= _LONGEST):
        raise PngError(f"its header states {width}x{height} px; export it again")
    if depth not in _DEPTHS.get(colour, ()):
        raise PngError(f"its header states {depth} bits of colour type {colour}, which PNG does not have")
    if compression or filtering or interlace > 1:
        raise PngError(f"its header states methods {compression}, {filtering}, {interlace}, which PNG does not have")
    return Header(width, height, depth, colour, bool(interlace))
