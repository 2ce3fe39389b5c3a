"""The reader against an independent encoder: every colour type, depth, filter and interlacing."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import png_reference as reference
from kivel.files.png.apng_read import composed_frames
from kivel.files.png.chunks import PngError, iter_chunks
from kivel.files.png.read import parse_png, pixels_of

KINDS = [(0, d) for d in (1, 2, 4, 8, 16)] + [(2, 8), (2, 16)] + [(3, d) for d in (1, 2, 4, 8)]
KINDS += [(colour, depth) for colour in (4, 6) for depth in (8, 16)]
GOOD = reference.encode([[(v,) for v in range(4)]] * 4, 8, 0)


@pytest.mark.parametrize(("colour", "depth"), KINDS, ids=lambda value: str(value))
@given(data=st.data())
def test_every_kind_of_png_reads_exactly(colour: int, depth: int, data: st.DataObject) -> None:
    width, height = data.draw(st.integers(1, 11)), data.draw(st.integers(1, 11))
    value = st.integers(0, 2**depth - 1)
    pixel = st.tuples(*[value] * reference.CHANNELS[colour])
    samples = data.draw(st.lists(st.lists(pixel, min_size=width, max_size=width), min_size=height, max_size=height))
    palette, trns = b"", None
    if colour == 3:
        palette = data.draw(st.binary(min_size=3 * 2**depth, max_size=3 * 2**depth))
        trns = data.draw(st.none() | st.binary(min_size=1, max_size=2**depth))
    elif colour in (0, 2) and data.draw(st.booleans()):
        key = samples[0][0]
        trns = struct.pack(f">{len(key)}H", *key)
    extra = [(b"PLTE", palette)] * bool(palette) + ([(b"tRNS", trns)] if trns is not None else [])
    filters = data.draw(st.lists(st.integers(0, 4), min_size=1, max_size=5))
    file = reference.encode(samples, depth, colour, interlaced=data.draw(st.booleans()), filters=filters, extra=extra)
    image = pixels_of(parse_png(file))
    assert image.dtype == (np.uint16 if depth == 16 else np.uint8)
    assert image.tolist() == [[list(p) for p in line] for line in reference.rgba(samples, depth, colour, palette, trns)]


def with_header(**changes: int) -> bytes:
    fields = {"w": 4, "h": 4, "depth": 8, "colour": 0, "compression": 0, "filter": 0, "interlace": 0} | changes
    return GOOD[:8] + reference.chunk(b"IHDR", struct.pack(">IIBBBBB", *fields.values())) + GOOD[33:]


def with_data(raw: bytes, **header: int) -> bytes:
    return with_header(**header)[:33] + reference.chunk(b"IDAT", raw) + reference.chunk(b"IEND")


ROWS = zlib.compress((b"\0" + bytes(4)) * 4)
PALETTED = with_header(colour=3)[:33] + reference.chunk(b"PLTE", bytes(6))
BROKEN = {
    "text": (b"just some text", "not a PNG file"),
    "empty": (b"", "not a PNG file"),
    "cut in the data": (GOOD[:45], "cut off after 45 bytes"),
    "no end marker": (GOOD[:-12], "cut off"),
    "no image data": (GOOD[:33] + reference.chunk(b"IEND"), "no image data"),
    "header damaged": (GOOD[:20] + b"\x07" + GOOD[21:], "checksum of IHDR at byte 8"),
    "image data damaged": (GOOD[:50] + bytes([GOOD[50] ^ 255]) + GOOD[51:], "damaged or cut off"),
    "no width": (with_header(w=0), "0x4 px"),
    "odd depth": (with_header(depth=3), "3 bits of colour type 0"),
    "odd colour type": (with_header(colour=5), "colour type 5"),
    "odd interlace": (with_header(interlace=2), "methods 0, 0, 2"),
    "too little data": (with_data(zlib.compress((b"\0" + bytes(4)) * 3)), "damaged or cut off"),
    "too little data, packed and interlaced": (with_data(zlib.compress(b"\0" * 3), depth=1, interlace=1), "3 of"),
    "no such filter": (with_data(zlib.compress((b"\5" + bytes(4)) * 4)), "damaged or cut off"),
    "no palette": (with_header(colour=3), "palette has 0 bytes, expected 3 to 768;"),
    "palette too long": (
        with_header(colour=3, depth=1)[:33] + reference.chunk(b"PLTE", bytes(9)) + GOOD[33:],
        "its palette has 9 bytes, expected 3 to 6;",
    ),
    "colour outside the palette": (
        PALETTED + reference.chunk(b"IDAT", zlib.compress((b"\0" + bytes([0, 1, 2, 0])) * 4)) + GOOD[-12:],
        "colour 2, its palette has 2 colours, 0-1",
    ),
    "more transparency than palette": (
        PALETTED + reference.chunk(b"tRNS", bytes(3)) + reference.chunk(b"IDAT", ROWS) + GOOD[-12:],
        "3 transparency values for 2 colours",
    ),
    "transparency on alpha": (
        with_header(colour=6)[:33] + reference.chunk(b"tRNS", bytes(2)) + GOOD[33:],
        "rgba 8-bit allows none",
    ),
    "unknown critical chunk": (GOOD[:33] + reference.chunk(b"ABcD") + GOOD[33:], "chunk ABcD"),
    "image data interrupted": (
        GOOD[:33] + reference.chunk(b"IDAT", ROWS[:3]) + reference.chunk(b"tEXt") + GOOD[33:],
        "interrupted",
    ),
    "junk between chunks": (GOOD[:33] + bytes(20) + GOOD[33:], "damaged at byte 33"),
}


@pytest.mark.parametrize(("file", "words"), BROKEN.values(), ids=BROKEN)
def test_an_invalid_file_is_refused_with_the_reason(file: bytes, words: str) -> None:
    with pytest.raises(PngError) as error:
        pixels_of(parse_png(file))
    assert words in str(error.value)
    assert "\n" not in str(error.value)


Pixel = tuple[int, ...]
Grid = list[list[Pixel]]


class Part(NamedTuple):
    """A frame of an APNG as it is stored: where it goes, and how."""

    x: int
    y: int
    rows: Grid
    dispose: int
    blend: int


@st.composite
def parts(draw: st.DrawFn, *, whole: bool = False) -> Part:
    """Opaque or clear, where blending is exact; on a canvas of 5x4 px."""
    x, y = (0, 0) if whole else (draw(st.integers(0, 4)), draw(st.integers(0, 3)))
    width, height = (5, 4) if whole else (draw(st.integers(1, 5 - x)), draw(st.integers(1, 4 - y)))
    pixel: st.SearchStrategy[Pixel] = st.sampled_from(
        [(9, 8, 7, 255), (70, 80, 90, 255), (1, 2, 3, 0), (200, 0, 50, 255)]
    )
    rows = draw(st.lists(st.lists(pixel, min_size=width, max_size=width), min_size=height, max_size=height))
    return Part(x, y, rows, draw(st.integers(0, 2)), draw(st.integers(0, 1)))


def shown_by(frames: list[Part]) -> Iterator[Grid]:
    """What a viewer shows, a pixel at a time as the specification tells it."""
    clear = (0, 0, 0, 0)
    canvas: Grid = [[clear] * 5 for _ in range(4)]
    for frame in frames:
        before = [list(row) for row in canvas]
        places = [(frame.x + i, frame.y + j, pixel) for j, row in enumerate(frame.rows) for i, pixel in enumerate(row)]
        for x, y, pixel in places:
            if frame.blend == 0 or pixel[3]:
                canvas[y][x] = pixel
        yield [list(row) for row in canvas]
        for x, y, _ in places:
            if frame.dispose:
                canvas[y][x] = clear if frame.dispose == 1 else before[y][x]


def apng(frames: list[Part], still: Grid | None) -> bytes:
    """With a still that is no part of the animation, or with the first frame as the still."""

    def stored(rows: Grid) -> bytes:
        data = reference.encode(rows, 8, 6)
        start = data.index(b"IDAT")
        return data[start + 4 : start + struct.unpack(">I", data[start - 4 : start])[0] + 4]

    body, count = b"", 0
    for index, frame in enumerate(frames):
        size = len(frame.rows[0]), len(frame.rows)
        fields = (count, *size, frame.x, frame.y, 1, 10, frame.dispose, frame.blend)
        body += reference.chunk(b"fcTL", struct.pack(">IIIIIHHBB", *fields))
        first = index == 0 and still is None
        data = stored(frame.rows)
        body += (
            reference.chunk(b"IDAT", data) if first else reference.chunk(b"fdAT", struct.pack(">I", count + 1) + data)
        )
        count += 1 if first else 2
    header = reference.chunk(b"IHDR", struct.pack(">IIBBBBB", 5, 4, 8, 6, 0, 0, 0))
    control = reference.chunk(b"acTL", struct.pack(">II", len(frames), 0))
    shown = reference.chunk(b"IDAT", stored(still)) if still else b""
    return b"\x89PNG\r\n\x1a\n" + header + control + shown + body + reference.chunk(b"IEND")


Chunks = list[tuple[bytes, bytes]]


def _numbered(chunks: Chunks, *, by: Callable[[int], int]) -> Chunks:
    """The same, with other sequence numbers."""
    counted = 0
    result = []
    for kind, data in chunks:
        if kind in (b"fcTL", b"fdAT"):
            data = by(counted).to_bytes(4, "big") + data[4:]
            counted += 1
        result.append((kind, data))
    return result


def _without(chunks: Chunks, kind: bytes, number: int) -> Chunks:
    place = [index for index, each in enumerate(chunks) if each[0] == kind][number]
    return chunks[:place] + chunks[place + 1 :]


BAD_ANIMATIONS: dict[str, tuple[Callable[[Chunks], Chunks], str]] = {
    "a gap": (lambda c: _numbered(c, by=lambda n: n + (n > 2)), "numbered 4: frames are missing"),
    "from one": (lambda c: _numbered(c, by=lambda n: n + 1), "numbered 1"),
    "twice the same": (lambda c: _numbered(c, by=lambda n: min(n, 2)), "numbered 2"),
    "out of order": (lambda c: _numbered(c, by=lambda n: [0, 2, 1, 3, 4][n]), "out of order"),
    "more stated": (lambda c: [(k, b"\0\0\0\4" + d[4:]) if k == b"acTL" else (k, d) for k, d in c], "states 4 frames"),
    "none stated": (
        lambda c: [(k, bytes(8)) if k == b"acTL" else (k, d) for k, d in c],
        "states 0 frames, there are 3",
    ),
    "a frame lost": (lambda c: _without(_without(c, b"fcTL", 2), b"fdAT", 1), "states 3 frames, there are 2"),
    "no data": (lambda c: _without(c, b"fdAT", 1), "no image data"),
    "acTL twice": (lambda c: [c[0], c[1], *c[1:]], "twice or too late"),
    "acTL late": (lambda c: [c[0], *c[2:4], c[1], *c[4:]], "twice or too late"),
    "two controls": (lambda c: [*c[:3], c[4], c[3], *c[5:]], "more than one fcTL"),
    "data too early": (lambda c: [*c[:2], c[5], *c[2:5], *c[6:]], "more than one fcTL"),
    "short data": (lambda c: [*c[:-2], (b"fdAT", b"\0\0"), c[-1]], "numbered 0"),
}


@pytest.mark.parametrize(("change", "message"), BAD_ANIMATIONS.values(), ids=BAD_ANIMATIONS)
def test_an_animation_whose_parts_do_not_fit_together_is_refused(
    change: Callable[[Chunks], Chunks], message: str
) -> None:
    frames = [Part(0, 0, [[(n, 2, 3, 255)] * 5] * 4, 0, 0) for n in range(3)]
    data = apng(frames, None)
    assert len(list(composed_frames(parse_png(data)))) == 3
    found = list(iter_chunks(lambda start, end: data[start:end], len(data)))
    changed = change([(bytes(item.kind), bytes(item.data)) for item in found])
    file = data[:8] + b"".join(reference.chunk(kind, content) for kind, content in changed)
    with pytest.raises(PngError, match=message):
        list(composed_frames(parse_png(file)))


def test_a_damaged_frame_is_found_by_its_checksum() -> None:
    data = bytearray(apng([Part(0, 0, [[(n, 2, 3, 255)] * 5] * 4, 0, 0) for n in range(2)], None))
    data[data.rindex(b"IEND") - 6] ^= 1
    with pytest.raises(PngError, match="checksum of an fdAT"):
        list(composed_frames(parse_png(bytes(data))))


@given(parts(whole=True), st.lists(parts(), max_size=5), st.booleans())
def test_an_animation_is_composed_as_the_specification_says(first: Part, rest: list[Part], apart: bool) -> None:
    """Every way of disposing and blending, of parts of the canvas; a pixel's colour is kept where it is clear."""
    file = apng([first, *rest], [[(5, 5, 5, 255)] * 5] * 4 if apart else None)
    found = list(composed_frames(parse_png(file)))
    for image, expected in zip(found, shown_by([first, *rest]), strict=True):
        seen = np.array(expected, np.uint8)
        assert np.array_equal(image[..., 3], seen[..., 3])
        assert np.array_equal(image[image[..., 3] > 0], seen[seen[..., 3] > 0])
