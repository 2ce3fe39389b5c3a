"""A PNG encoder and decoder written from the specification for the tests alone: slow, plain, and independent.

Samples are `samples[row][column]`, a tuple of channel values as stored.
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator, Sequence

CHANNELS = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}
ADAM7 = ((0, 0, 8, 8), (0, 4, 8, 8), (4, 0, 8, 4), (0, 2, 4, 4), (2, 0, 4, 2), (0, 1, 2, 2), (1, 0, 2, 1))
Samples = Sequence[Sequence[tuple[int, ...]]]


def chunk(kind: bytes, data: bytes = b"") -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def encode(
    samples: Samples,
    depth: int,
    colour: int,
    *,
    interlaced: bool = False,
    filters: Sequence[int] = (0,),
    extra: Sequence[tuple[bytes, bytes]] = (),
) -> bytes:
    """A file whose rows take turns at the filter types; `extra` chunks stand before the image data."""
    height, width = len(samples), len(samples[0])
    raw = b"".join(_encode_rows(part, depth, colour, filters) for part in _passes(samples, interlaced))
    header = struct.pack(">IIBBBBB", width, height, depth, colour, 0, 0, int(interlaced))
    chunks = [chunk(b"IHDR", header), *(chunk(*item) for item in extra), chunk(b"IDAT", zlib.compress(raw))]
    return b"\x89PNG\r\n\x1a\n" + b"".join(chunks) + chunk(b"IEND")


def _passes(samples: Samples, interlaced: bool) -> Iterator[Samples]:
    if not interlaced:
        yield samples
        return
    for row, column, row_step, column_step in ADAM7:
        part = [line[column::column_step] for line in samples[row::row_step]]
        if part and part[0]:
            yield part


def _encode_rows(samples: Samples, depth: int, colour: int, filters: Sequence[int]) -> bytes:
    step = max(1, depth * CHANNELS[colour] // 8)
    out, before = bytearray(), bytes(len(_packed(samples[0], depth)))
    for number, line in enumerate(samples):
        row, kind = _packed(line, depth), filters[number % len(filters)]
        out.append(kind)
        for i, value in enumerate(row):
            a, b, c = (row[i - step] if i >= step else 0), before[i], (before[i - step] if i >= step else 0)
            out.append((value - _predicted(kind, a, b, c)) & 255)
        before = row
    return bytes(out)


def _packed(line: Sequence[tuple[int, ...]], depth: int) -> bytes:
    bits = "".join(f"{value:0{depth}b}" for pixel in line for value in pixel)
    bits += "0" * (-len(bits) % 8)
    return bytes(int(bits[i : i + 8], 2) for i in range(0, len(bits), 8))


def _predicted(kind: int, a: int, b: int, c: int) -> int:
    if kind == 4:
        p = a + b - c
        return min((abs(p - a), 0, a), (abs(p - b), 1, b), (abs(p - c), 2, c))[2]
    return (0, a, b, (a + b) // 2)[kind]


def rgba(
    samples: Samples, depth: int, colour: int, palette: bytes = b"", trns: bytes | None = None
) -> list[list[tuple[int, ...]]]:
    """What the samples look like, at 16 bits if they have 16, else at 8."""
    full = 65535 if depth == 16 else 255
    scale = full // (2**depth - 1)
    key = tuple(struct.unpack(f">{len(trns) // 2}H", trns)) if trns is not None and colour in (0, 2) else None

    def shown(pixel: tuple[int, ...]) -> tuple[int, ...]:
        if colour == 3:
            index = pixel[0]
            alpha = trns[index] if trns is not None and index < len(trns) else 255
            return (*palette[3 * index : 3 * index + 3], alpha)
        if colour in (0, 2):
            grey = [value * scale for value in (pixel * 3 if colour == 0 else pixel)]
            return (*grey, 0 if pixel == key else full)
        return pixel if colour == 6 else (*pixel[:1] * 3, pixel[1])

    return [[shown(pixel) for pixel in line] for line in samples]


def decode(data: bytes) -> tuple[list[list[tuple[int, ...]]], int]:
    """RGBA and depth of a file that Kivel wrote: not interlaced, every chunk's checksum verified."""
    assert data[:8] == b"\x89PNG\r\n\x1a\n"
    chunks, position = [], 8
    while position < len(data):
        (length,) = struct.unpack(">I", data[position : position + 4])
        body = data[position + 4 : position + 8 + length]
        assert struct.unpack(">I", data[position + 8 + length : position + 12 + length])[0] == zlib.crc32(body)
        chunks.append((body[:4], body[4:]))
        position += 12 + length
    named = dict(chunks)
    width, height, depth, colour, *rest = struct.unpack(">IIBBBBB", named[b"IHDR"])
    assert rest == [0, 0, 0]
    assert chunks[-1][0] == b"IEND"
    raw = zlib.decompress(b"".join(body for kind, body in chunks if kind == b"IDAT"))
    samples = _decode_rows(raw, width, height, depth, colour)
    return rgba(samples, depth, colour, named.get(b"PLTE", b""), named.get(b"tRNS")), 16 if depth == 16 else 8


def _decode_rows(raw: bytes, width: int, height: int, depth: int, colour: int) -> Samples:
    channels, step = CHANNELS[colour], max(1, depth * CHANNELS[colour] // 8)
    length = (width * depth * channels + 7) // 8
    assert len(raw) == height * (length + 1)
    lines, before = [], bytearray(length)
    for start in range(0, len(raw), length + 1):
        kind, row = raw[start], bytearray(raw[start + 1 : start + 1 + length])
        for i in range(length):
            a, b, c = (row[i - step] if i >= step else 0), before[i], (before[i - step] if i >= step else 0)
            row[i] = (row[i] + _predicted(kind, a, b, c)) & 255
        before = row
        bits = "".join(f"{byte:08b}" for byte in row)
        values = [int(bits[i : i + depth], 2) for i in range(0, width * channels * depth, depth)]
        lines.append([tuple(values[i : i + channels]) for i in range(0, len(values), channels)])
    return lines
