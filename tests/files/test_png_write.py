"""The writer, read back by Pillow and by the tests' own decoder."""

from __future__ import annotations

import io
import zlib
from fractions import Fraction

import numpy as np
import PIL.Image
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

import png_reference as reference
from kivel.core.option_words import Compress
from kivel.core.pixels.pixels import Pixels
from kivel.files.png.apng_read import composed_frames, frame_durations
from kivel.files.png.apng_write import encode_apng
from kivel.files.png.deflate import combined_adler32
from kivel.files.png.filters import ROW_FILTERS
from kivel.files.png.raster import Raster, lossless_forms
from kivel.files.png.read import parse_png, pixels_of
from kivel.files.png.ways import COMPRESSIONS
from kivel.files.png.write import encode_png, opening
from strategies import images, sequences


@pytest.mark.parametrize("compress", COMPRESSIONS)
@given(image=images())
def test_what_is_written_reads_back_bit_for_bit(compress: Compress, image: Pixels) -> None:
    file = b"".join(encode_png(image, compress=compress, jobs=2))
    decoded, depth = reference.decode(file)
    assert depth == image.dtype.itemsize * 8
    assert decoded == [[tuple(pixel) for pixel in line] for line in image.tolist()]
    assert np.array_equal(pixels_of(parse_png(file)), image)
    if image.dtype == np.uint8:
        assert np.array_equal(np.asarray(PIL.Image.open(io.BytesIO(file)).convert("RGBA")), image)


def banded_image(dtype: type) -> Pixels:
    """Several bands of rows, smooth and noisy in turn."""
    rng = np.random.default_rng(1)
    smooth = np.cumsum(rng.integers(0, 3, (700, 600, 4)), axis=1)
    image = np.where(np.arange(700)[:, None, None] % 200 < 150, smooth, rng.integers(0, 250, (700, 600, 4)))
    return image.astype(dtype)


@pytest.mark.parametrize("compress", COMPRESSIONS)
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_bands_join_into_one_image_whatever_the_jobs(compress: Compress, dtype: type) -> None:
    image = banded_image(dtype)
    if compress == "least":  # one stream, which takes its time
        image = image[::3, ::3]
    files = [b"".join(encode_png(image, compress=compress, jobs=jobs)) for jobs in (1, 2, 5)]
    assert files[0] == files[1] == files[2]
    assert files[0].count(b"IDAT") > 1 or compress == "least"
    assert np.array_equal(pixels_of(parse_png(files[0])), image)


SMALL = {
    "grey": (np.dstack([np.arange(64 * 64).reshape(64, 64) // 16] * 3 + [np.full((64, 64), 255)]), 0),
    "opaque colour": (np.random.default_rng(2).integers(0, 256, (64, 64, 4)) | [0, 0, 0, 255], 2),
    "few colours": (np.random.default_rng(3).integers(0, 2, (64, 64, 1)) * [200, 100, 0, 128], 3),
    "grey with alpha": (np.random.default_rng(4).integers(0, 256, (64, 64, 2))[..., [0, 0, 0, 1]], 4),
    "colour with alpha": (np.random.default_rng(5).integers(0, 40, (64, 64, 4)), 6),
}


@pytest.mark.parametrize(("image", "colour_type"), SMALL.values(), ids=SMALL)
def test_the_leanest_form_is_stored_and_more_effort_is_never_larger(image: Pixels, colour_type: int) -> None:
    files = [b"".join(encode_png(image.astype(np.uint8), compress=compress)) for compress in COMPRESSIONS]
    assert [file[25] for file in files] == [colour_type] * 3
    assert len(files[2]) <= len(files[1]) <= len(files[0])


@given(colours=st.sets(st.integers(0, 2**32 - 1), min_size=1, max_size=256), extra=st.integers(0, 2**32 - 1))
def test_a_palette_gives_every_colour_back_whatever_the_colours(colours: set[int], extra: int) -> None:
    """And one more than 256 is noticed, wherever it is."""
    image = np.array([*colours, *sorted(colours), extra], np.uint32).view(np.uint8).reshape(1, -1, 4)
    forms = [form for form in lossless_forms([image]) if form.palette is not None]
    if len({*colours, extra}) > 256:
        assert forms == []
    for form in forms:
        file = b"".join(opening(Raster(image, form)))
        assert len(Raster(image, form).palette) == 3 * len({*colours, extra}), file
        wide = form._replace(depth=8)
        assert form.palette is not None
        assert (form.palette.table[Raster(image, wide).rows(0, 1)] == image).all()


@given(block=arrays(np.uint8, st.tuples(st.integers(2, 5), st.integers(1, 20))), step=st.integers(1, 8))
def test_row_filters_are_those_of_the_specification(block: Pixels, step: int) -> None:
    for kind, apply in enumerate(ROW_FILTERS):
        out = np.empty_like(block[1:])
        apply(block, step, out)
        for y, x in np.ndindex(*out.shape):
            a, c = (int(block[y + 1, x - step]), int(block[y, x - step])) if x >= step else (0, 0)
            predicted = reference._predicted(kind, a, int(block[y, x]), c)
            assert out[y, x] == (int(block[y + 1, x]) - predicted) % 256


@given(parts=st.lists(st.binary(max_size=50), max_size=5))
def test_checksums_of_parts_make_the_checksum_of_the_whole(parts: list[bytes]) -> None:
    assert combined_adler32((zlib.adler32(p), len(p)) for p in parts) == zlib.adler32(b"".join(parts))


@given(frames=sequences(most=5), data=st.data())
def test_an_apng_plays_the_same_frames_for_the_same_time(frames: list[Pixels], data: st.DataObject) -> None:
    delay = st.fractions(min_value=0, max_value=9, max_denominator=65535).filter(lambda f: f.numerator < 65536)
    delays = data.draw(st.lists(delay, min_size=len(frames), max_size=len(frames)))
    png = parse_png(b"".join(encode_apng(frames, delays, plays=3, compress="small", jobs=2)))
    assert frame_durations(png) == delays
    assert all(np.array_equal(a, b) for a, b in zip(composed_frames(png), frames, strict=True))


def test_pillow_plays_the_same_apng() -> None:
    frames = [np.full((5, 7, 4), value, np.uint8) for value in (255, 255, 90)]
    frames[1] = frames[0].copy()
    frames[1][2, 3] = (1, 2, 3, 255)
    data = b"".join(encode_apng(frames, [Fraction(1, 8)] * 3, plays=2, compress="fast"))
    with PIL.Image.open(io.BytesIO(data)) as image:
        assert (getattr(image, "n_frames", 1), image.info["loop"]) == (3, 2)
        for index, frame in enumerate(frames):
            image.seek(index)
            assert image.info["duration"] == 125
            assert np.array_equal(np.asarray(image.convert("RGBA")), frame)


@pytest.mark.parametrize("compress", COMPRESSIONS)
@pytest.mark.parametrize(("colours", "form"), [(5, 3), (300, 2)])
def test_an_animation_has_the_leanest_form_that_all_its_frames_can_have(
    compress: Compress, colours: int, form: int
) -> None:
    table = np.random.default_rng(1).integers(0, 256, (colours, 4), np.uint8) | np.array([0, 0, 0, 255], np.uint8)
    frames = [table[np.arange(30 * 40).reshape(30, 40) // 3 * (n + 1) % colours] for n in range(4)]
    file = b"".join(encode_apng(frames, [Fraction(1, 10)] * 4, plays=0, compress=compress))
    assert file[25] == form
    assert all(map(np.array_equal, composed_frames(parse_png(file)), frames))
