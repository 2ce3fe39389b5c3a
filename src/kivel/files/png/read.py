"""PNG to RGBA, exactly: 8 bits a channel stay 8, 16 stay 16, and no profile, gamma or background is applied.

`imagecodecs` undoes deflate and the row filters. What its library would convert in a way of its own (palettes, fewer
than 8 bits, transparent values) is kept from it: it gets a file of our making whose samples are plain bytes, and the
conversion is done here.
"""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.indexed import Indices
from kivel.core.pixels.pixels import Pixels
from kivel.files.png.chunks import (
    GREY,
    GREY_ALPHA,
    PALETTE,
    RGB,
    SIGNATURE,
    Buffer,
    Chunk,
    Header,
    PngError,
    chunk,
    iter_chunks,
    parse_header,
)

__all__ = ["Png", "decode_image", "indices_of", "parse_png", "pixels_of", "scan_png"]

Samples = NDArray[Any]

_KNOWN_CRITICAL = {b"IHDR", b"PLTE", b"IDAT", b"IEND"}
_COLOUR_NOTES = {b"iCCP": "a colour profile", b"gAMA": "a gamma value", b"cHRM": "chromaticities"}
_HEAD_BYTES = 8 << 10
"""A file of no more than these is read once and kept: of thousands of small ones that takes less than to open each
again."""
_LONGEST_SIDE = 1_000_000
"""That libpng takes."""
_MOST_INFLATED = 1032
"""Bytes that come out of one byte of deflate at most: 258 of two bits (RFC 1951)."""
_ADAM7 = ((0, 0, 8, 8), (0, 4, 8, 8), (4, 0, 8, 4), (0, 2, 4, 4), (2, 0, 4, 2), (0, 1, 2, 2), (1, 0, 2, 1))
"""First row, first column, row step, column step of each pass of interlace method 1."""


class Png(NamedTuple):
    """A file taken apart. `animation` has its acTL, fcTL and fdAT chunks, with the IDAT chunks in their place."""

    header: Header
    palette: bytes
    transparency: bytes | None
    image: tuple[Chunk, ...]
    animation: tuple[Chunk, ...]
    exif: bytes
    colour_note: str

    @property
    def is_whole(self) -> bool:
        """Whether its image data has been read."""
        return bool(self.image[0].whole)

    @property
    def colours(self) -> bytes:
        """Return its palette as RGBA of 8 bits; nothing if it has none."""
        return _table_of(self).tobytes() if self.palette else b""

    @property
    def is_animated(self) -> bool:
        return any(item.kind == b"acTL" for item in self.animation)


def parse_png(data: bytes) -> Png:
    """Take a file apart and check that its chunks are there, whole, and in order.

    Raises
    ------
    PngError
        If they are not.
    """
    view = memoryview(data)
    return _parsed(list(iter_chunks(lambda start, end: view[start:end], len(data))))


def scan_png(file: BinaryIO) -> Png:
    """The same for an open file, without the image data unless there is little of it: quick however large it is."""
    length = file.seek(0, 2)
    file.seek(0)
    head = memoryview(file.read(_HEAD_BYTES))

    def read(start: int, end: int) -> Buffer:
        if end <= len(head):
            return head[start:end]
        file.seek(start)
        return file.read(end - start)

    return _parsed(list(iter_chunks(read, length, with_image_data=length <= _HEAD_BYTES)))


def _parsed(chunks: list[Chunk]) -> Png:
    if not chunks or chunks[0].kind != b"IHDR":
        raise PngError("its first chunk is not IHDR; export it again")
    header = parse_header(chunks[0].data)
    found: dict[bytes, bytes] = {}
    for item in chunks[1:]:
        if (item.kind[:1].isupper() and item.kind not in _KNOWN_CRITICAL) or item.kind == b"IHDR":
            raise PngError(f"it has a chunk {item.kind.decode()} that is not allowed there; export it again")
        if item.kind in (b"PLTE", b"tRNS", b"eXIf"):
            found.setdefault(item.kind, bytes(item.data))
    kinds = [item.kind for item in chunks]
    image = [item for item in chunks if item.kind == b"IDAT"]
    if not image:
        raise PngError("it has no image data; export it again")
    first = kinds.index(b"IDAT")
    if kinds[first : first + len(image)] != [b"IDAT"] * len(image):
        raise PngError("its image data is interrupted by another chunk; export it again")
    if b"PLTE" in found and kinds.index(b"PLTE") > first:
        raise PngError("its palette comes after the image data; export it again")
    png = Png(
        header=header,
        palette=found.get(b"PLTE", b"") if header.colour == PALETTE else b"",
        transparency=found.get(b"tRNS"),
        image=tuple(image),
        animation=tuple(item for item in chunks if item.kind in (b"acTL", b"fcTL", b"fdAT", b"IDAT"))
        if b"acTL" in kinds
        else (),
        exif=found.get(b"eXIf", b""),
        colour_note=_colour_note(kinds),
    )
    _check_colours(png)
    return png


def _colour_note(kinds: list[bytes]) -> str:
    """Return what the file says about its colour that is not plain sRGB, for people."""
    if b"sRGB" in kinds:
        return ""
    return " and ".join(text for kind, text in _COLOUR_NOTES.items() if kind in kinds)


def _check_colours(png: Png) -> None:
    header, palette, transparency = png.header, png.palette, png.transparency
    if header.colour == PALETTE:
        entries = len(palette) // 3
        if len(palette) % 3 or not 1 <= entries <= 2**header.depth:
            raise PngError(
                f"its palette has {len(palette)} bytes, expected 3 to {3 * 2**header.depth}; export it again"
            )
        if transparency is not None and len(transparency) > entries:
            raise PngError(f"{len(transparency)} transparency values for {entries} colours; export it again")
    elif transparency is not None:
        expected = {GREY: 2, RGB: 6}.get(header.colour)
        if len(transparency) != expected:
            raise PngError(f"its tRNS chunk has {len(transparency)} bytes, {header.mode} allows {expected or 'none'}")


def pixels_of(png: Png) -> Pixels:
    """The still image of a file as (H, W, 4) RGBA, `uint8` or `uint16`.

    Raises
    ------
    PngError
        If the image data is damaged, too short, or names colours that the palette does not have.
    """
    return decode_image(png, png.header, [item.whole for item in png.image])


def decode_image(png: Png, header: Header, data: Sequence[Buffer]) -> Pixels:
    """Image data (whole IDAT chunks) with a header of its own, in the colours of `png`."""
    samples = _samples(header, data)
    if header.colour == PALETTE:
        return _from_palette(samples, png)
    if header.colour == GREY:
        return _from_grey(samples, header, png.transparency)
    if header.colour == GREY_ALPHA:
        return _rgba(samples[..., :1], samples[..., 1])
    if header.colour == RGB:
        return _from_rgb(samples, png.transparency)
    return samples


def _samples(header: Header, data: Sequence[Buffer]) -> Samples:
    """Samples as stored: (H, W) or (H, W, channels), `uint8` or `uint16`, not scaled."""
    if header.depth >= 8:
        plain = header._replace(colour=GREY) if header.colour == PALETTE else header
        return _decoded(plain, data)
    if header.interlaced:
        return _interlaced_samples(header, data)
    return _packed_samples(header, data)


def _decoded(header: Header, data: Sequence[Buffer]) -> Samples:
    import imagecodecs

    if max(header.size) > _LONGEST_SIDE:
        raise PngError(f"{header.size} px: a side of more than {_LONGEST_SIDE:,} px cannot be read; cut it into parts")
    needed = header.height * (header.row_bytes + 1)
    if sum(map(len, data)) * _MOST_INFLATED < needed:
        raise PngError(f"its image data is cut off, {needed:,} bytes cannot be in it; export it again")
    file = b"".join((SIGNATURE, header.packed(), *data, chunk(b"IEND")))
    try:
        samples: Samples = imagecodecs.png_decode(file)
    except imagecodecs.PngError as error:
        raise PngError(f"its image data is damaged or cut off ({error}); export it again") from error
    return samples


def _packed_samples(header: Header, data: Sequence[Buffer]) -> Samples:
    """Fewer than 8 bits: read as bytes (the filters work on bytes too), then take the samples out of them."""
    packed = _decoded(Header(header.row_bytes, header.height, 8, GREY), data)
    shifts = np.arange(8 - header.depth, -1, -header.depth, dtype=np.uint8)
    samples = (packed[..., None] >> shifts) & np.uint8(2**header.depth - 1)
    return np.ascontiguousarray(samples.reshape(header.height, -1)[:, : header.width])


def _interlaced_samples(header: Header, data: Sequence[Buffer]) -> Samples:
    """Each pass of an interlaced image is an image of its own inside one deflate stream."""
    passes = [
        (row, column, row_step, column_step, header._replace(width=width, height=height, interlaced=False))
        for row, column, row_step, column_step in _ADAM7
        if (width := -(-(header.width - column) // column_step)) > 0
        and (height := -(-(header.height - row) // row_step)) > 0
    ]
    lengths = [part.height * (part.row_bytes + 1) for *_, part in passes]
    raw = _inflated(data, sum(lengths))
    whole = np.zeros((header.height, header.width), np.uint8)
    start = 0
    for (row, column, row_step, column_step, part), length in zip(passes, lengths, strict=True):
        stored = chunk(b"IDAT", zlib.compress(raw[start : start + length], 0))
        whole[row::row_step, column::column_step] = _packed_samples(part, [stored])
        start += length
    return whole


def _inflated(data: Sequence[Buffer], length: int) -> bytes:
    """`length` bytes out of whole IDAT chunks."""
    stream = zlib.decompressobj()
    try:
        raw = stream.decompress(b"".join(bytes(part[8:-4]) for part in data), length)
    except zlib.error as error:
        raise PngError(f"its image data is damaged ({error}); export it again") from error
    if len(raw) < length:
        raise PngError(f"its image data is cut off, {len(raw)} of {length} bytes; export it again")
    return raw


def indices_of(png: Png) -> Indices:
    """Which colour of its palette each pixel of a still image has, (H, W) uint8.

    Raises what `pixels_of` does.
    """
    return _known_indices(_samples(png.header, [item.whole for item in png.image]), png)


def _known_indices(indices: Samples, png: Png) -> Indices:
    entries = len(png.palette) // 3
    highest = int(indices.max())
    if highest >= entries:
        raise PngError(f"a pixel has colour {highest}, its palette has {entries} colours, 0-{entries - 1}")
    return indices


def _from_palette(indices: Samples, png: Png) -> Pixels:
    return _table_of(png)[_known_indices(indices, png)]


def _table_of(png: Png) -> Pixels:
    """(n, 4): the colours of a palette."""
    table = np.full((len(png.palette) // 3, 4), 255, np.uint8)
    table[:, :3] = np.frombuffer(png.palette, np.uint8).reshape(-1, 3)
    alpha = np.frombuffer(png.transparency or b"", np.uint8)
    table[: alpha.size, 3] = alpha
    return table


def _from_grey(samples: Samples, header: Header, transparency: bytes | None) -> Pixels:
    opaque = _opaque_where(samples, header, transparency)
    if header.depth < 8:
        samples = samples * np.uint8(255 // (2**header.depth - 1))
    return _rgba(samples[..., None], opaque)


def _opaque_where(samples: Samples, header: Header, transparency: bytes | None) -> Any:
    full = 65535 if header.depth == 16 else 255
    if transparency is None:
        return full
    value = int.from_bytes(transparency, "big") & (2**header.depth - 1)
    return np.where(samples == value, 0, full)


def _from_rgb(samples: Samples, transparency: bytes | None) -> Pixels:
    full = np.iinfo(samples.dtype).max
    if transparency is None:
        return _rgba(samples, full)
    value = np.frombuffer(transparency, ">u2") & full
    return _rgba(samples, np.where((samples == value).all(axis=-1), 0, full))


def _rgba(colour: Samples, alpha: Any) -> Pixels:
    whole = np.empty((*colour.shape[:2], 4), colour.dtype)
    for channel in range(3):  # three times as quick as all at once
        whole[..., channel] = colour[..., min(channel, colour.shape[2] - 1)]
    whole[..., 3] = alpha
    return whole
