"""Pages with fewer or more bits than their frames."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.core.pixels.depths import at_depth, rounded_to_half
from kivel.core.pixels.pixels import Pixels
from program import art, read, write


def deep(number: int) -> Pixels:
    return art(number, width=16, height=12, dtype=np.uint16)


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(4):
            write(tmp_path / f"deep/d_{number}.png", deep(number))
            write(tmp_path / f"flat/f_{number}.png", art(number, width=16, height=12))
        yield tmp_path


def cut(made: Any) -> list[Pixels]:
    return list(kivel.slice(made).images.values())


@pytest.mark.parametrize("command", ["sheet", "atlas"])
def test_16_bits_become_the_nearest_of_8_with_a_note(command: str) -> None:
    made = getattr(kivel, command)("deep", out="page.png", depth="8", map={"normal": "deep"})
    assert any("16 bits a channel become 8, rounded to the nearest" in note for note in made.notes)
    assert read(Path("page.png")).dtype == read(Path("page.normal.png")).dtype == np.uint8
    kivel.slice("page.kivel.json", out="cut")
    for number in range(4):
        exact = deep(number) / 257
        for name in (f"page_{number:04}.png", f"page_{number:04}.normal.png"):
            assert np.abs(read(Path("cut") / name) - exact).max() <= 0.5


def test_8_bits_become_16_exactly_and_come_back() -> None:
    kivel.sheet("flat", out="page.png", depth="16")
    assert read(Path("page.png")).dtype == np.uint16
    for number, image in enumerate(cut("page.kivel.json")):
        assert np.array_equal(image, art(number, width=16, height=12).astype(np.uint16) * 257)
    kivel.sheet("page.kivel.json", out="back.png", depth="8", dither="ordered")
    assert all(np.array_equal(image, art(n, width=16, height=12)) for n, image in enumerate(cut("back.kivel.json")))


def test_dithering_keeps_the_mean_and_stays_in_place() -> None:
    """Flat areas have the mean of 16 bits within a 64th of a level; what lies between two levels is one of these."""
    for value in (0, 257, 300, 385, 65535, 30000, 12345):
        flat = np.full((16, 24, 4), value, np.uint16)
        made = at_depth(flat, 8, dither="ordered")
        assert abs(made.mean() - value / 257) <= 1 / 64
        assert set(np.unique(made).tolist()) <= {value // 257, -(-value // 257)}
        assert np.array_equal(made[:8, :8], made[8:, 16:])


def test_the_whole_range_of_16_bits_is_rounded_right() -> None:
    every = np.repeat(np.arange(65536, dtype=np.uint16).reshape(256, 256, 1), 4, axis=2)
    assert np.array_equal(at_depth(every, 8), np.rint(every / 257).astype(np.uint8))


def test_float_pages_become_16_bits_or_half(place: Path) -> None:
    exr = pytest.importorskip("OpenEXR")
    image = np.exp2(np.random.default_rng(1).uniform(-12, 3, (12, 16, 4))).astype(np.float32)
    image[..., 3] = np.random.default_rng(2).choice([0, 0.3, 1], (12, 16))
    (place / "glow").mkdir()
    header = {"compression": exr.ZIP_COMPRESSION, "type": exr.scanlineimage}
    exr.File(header, {"RGBA": image}).write("glow/g_0.exr")
    kivel.sheet("glow", out="g16.png", depth="16")
    assert read(Path("g16.png")).dtype == np.uint16
    kivel.sheet("glow", out="g.exr", depth="half")
    pixels = exr.File("g.exr").channels()["RGBA"].pixels
    assert pixels.dtype == np.float16
    assert np.array_equal(pixels, image.astype(np.float16))
    straight = image.copy()
    straight[..., :3] /= np.where(image[..., 3:] > 0, image[..., 3:], 1)
    again = rounded_to_half(rounded_to_half(straight))
    assert np.allclose(again, rounded_to_half(straight), rtol=2**-21)


@pytest.mark.parametrize(
    ("options", "words"),
    [
        ({"out": "p.png", "depth": "half"}, r"depth=\"half\" does not suit p.png; choose 8 or 16"),
        ({"out": "p.exr", "depth": "8"}, "depth=8 does not suit p.exr; choose half"),
        ({"out": "p.png", "dither": "ordered"}, "dither= needs colors="),
    ],
)
def test_a_depth_that_a_file_cannot_have_is_refused(options: dict[str, Any], words: str) -> None:
    with pytest.raises(kivel.UsageError, match=words):
        kivel.sheet("deep", **options)
