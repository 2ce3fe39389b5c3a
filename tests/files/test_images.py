"""Reading images of every other kind, and writing animated ones."""

from __future__ import annotations

import io
import threading
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import PIL.Image
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.errors import KivelError
from kivel.core.pixels.pixels import Pixels
from kivel.core.room import DEFAULT_MAX_PIXELS
from kivel.files.animated import encode_animation
from kivel.files.images import ImageError, open_image
from kivel.files.threads import in_order

ART = np.zeros((6, 8, 4), np.uint8)
ART[1:4, 2:5] = (200, 40, 90, 255)
ART[4, 6] = (10, 220, 30, 255)


def loaded(path: Path) -> Pixels:
    (frame,) = open_image(path, max_pixels=DEFAULT_MAX_PIXELS)
    pixels = frame.load()
    assert (frame.size.h, frame.size.w) == pixels.shape[:2]
    assert frame.depth == pixels.dtype.itemsize * 8
    return pixels


LOSSLESS = {"tga": "RGBA", "bmp": "RGB", "tif": "RGBA", "webp": "RGBA", "gif": "RGBA", "png": "RGBA"}


@pytest.mark.parametrize(("suffix", "mode"), LOSSLESS.items(), ids=str)
def test_stills_are_read_as_they_are(tmp_path: Path, suffix: str, mode: str) -> None:
    settings: dict[str, Any] = {"lossless": True, "exact": True} if suffix == "webp" else {}
    PIL.Image.fromarray(ART).convert(mode).save(tmp_path / f"art.{suffix}", **settings)
    expected = ART.copy()
    if mode == "RGB":
        expected[..., 3] = 255
    pixels = loaded(tmp_path / f"art.{suffix}")
    assert np.array_equal(pixels[..., 3], expected[..., 3])
    assert np.array_equal(pixels[expected[..., 3] > 0], expected[expected[..., 3] > 0])


def test_jpeg_is_near(tmp_path: Path) -> None:
    PIL.Image.new("RGB", (9, 5), (40, 90, 200)).save(tmp_path / "flat.jpg", quality=95)
    assert np.abs(loaded(tmp_path / "flat.jpg").astype(int) - (40, 90, 200, 255)).max() <= 3


def test_16_bit_grey_tiff_keeps_its_depth(tmp_path: Path) -> None:
    grey = np.arange(20, dtype=np.uint16).reshape(4, 5) * 3001
    PIL.Image.fromarray(grey).save(tmp_path / "deep.tif")
    assert np.array_equal(loaded(tmp_path / "deep.tif")[..., 1], grey)


@pytest.mark.parametrize("suffix", ["png", "jpg", "tif"])
@pytest.mark.parametrize("orientation", range(1, 9))
def test_turned_images_are_put_upright(tmp_path: Path, suffix: str, orientation: int) -> None:
    grey = np.kron(np.arange(6, dtype=np.uint8).reshape(2, 3) * 40, np.ones((16, 16), np.uint8))
    image = PIL.Image.fromarray(grey)
    exif = image.getexif()
    exif[0x0112] = orientation
    path = tmp_path / f"turned.{suffix}"
    image.save(path, exif=exif)
    from PIL import ImageOps

    with PIL.Image.open(io.BytesIO(path.read_bytes())) as stored:
        expected = np.asarray(ImageOps.exif_transpose(stored).convert("RGBA"))
    assert np.abs(loaded(path).astype(int) - expected).max() <= 2


frames8 = st.integers(2, 5).map(lambda n: [np.roll(ART, i, axis=1) for i in range(n)])


@given(frames=frames8, data=st.data())
@pytest.mark.parametrize(
    ("suffix", "tick"), [(".gif", Fraction(1, 100)), (".webp", Fraction(1, 1000)), (".apng", None)]
)
def test_animated_images_state_the_durations_asked_for(
    tmp_path_factory: pytest.TempPathFactory,
    suffix: str,
    tick: Fraction | None,
    frames: list[Pixels],
    data: st.DataObject,
) -> None:
    unit = tick or Fraction(1001, 24000)
    holds = [n * unit for n in data.draw(st.lists(st.integers(2, 60), min_size=len(frames), max_size=len(frames)))]
    encoded = encode_animation(suffix, frames, holds, repeat="forever", jobs=1)
    assert not [note for note in encoded.notes if "off by" in note]
    path = tmp_path_factory.mktemp("animated") / f"art{suffix}"
    path.write_bytes(encoded.data)
    opened = open_image(path, max_pixels=DEFAULT_MAX_PIXELS)
    assert [frame.duration for frame in opened] == holds
    for frame, expected in zip(opened, frames, strict=True):
        assert np.array_equal(frame.load()[expected[..., 3] > 0], expected[expected[..., 3] > 0])
        assert np.array_equal(frame.load()[..., 3], expected[..., 3])


@pytest.mark.parametrize(("repeat", "gif", "webp"), [("forever", 0, 0), (1, None, 1), (3, 2, 3)], ids=str)
def test_loops_are_counted_as_each_format_counts(repeat: Any, gif: int | None, webp: int) -> None:
    holds = [Fraction(1, 10)] * 2
    frames = [ART, ART[::-1].copy()]
    for suffix, loop in ((".gif", gif), (".webp", webp), (".apng", webp)):
        with PIL.Image.open(io.BytesIO(encode_animation(suffix, frames, holds, repeat=repeat, jobs=1).data)) as image:
            assert image.info.get("loop") == loop


def test_what_a_format_cannot_keep_is_said() -> None:
    frames = [ART, ART[::-1].copy()]
    notes = encode_animation(".gif", frames, [Fraction(1, 60)] * 2, repeat="forever", jobs=1).notes
    assert "no frame is off by more than 3.33 ms" in notes[0]
    assert encode_animation(".apng", frames, [Fraction(1, 70001)] * 2, repeat="forever", jobs=1).notes


BAD = {
    "text.png": b"no picture",
    "empty.gif": b"",
    "cut.gif": b"GIF89a\x05\x00",
    "cut.jpg": b"\xff\xd8\xff\xe0\x00\x10JFIF",
    "text.webp": b"RIFF....WEBPtext",
}


@pytest.mark.parametrize(("name", "data"), BAD.items(), ids=BAD)
def test_what_is_no_image_is_refused(tmp_path: Path, name: str, data: bytes) -> None:
    (tmp_path / name).write_bytes(data)
    with pytest.raises(KivelError, match=f"{name}: "):
        open_image(tmp_path / name, max_pixels=DEFAULT_MAX_PIXELS)


def test_results_come_in_order_and_the_first_error_stops_the_work() -> None:
    assert list(in_order(lambda n: n * n, range(50), jobs=3)) == [n * n for n in range(50)]
    begun: list[int] = []

    def work(number: int) -> int:
        begun.append(number)
        if number == 5:
            raise ImageError("five")
        return number

    with pytest.raises(ImageError, match="five"):
        list(in_order(work, range(1000), jobs=2))
    assert len(begun) < 20
    assert threading.active_count() < 5
