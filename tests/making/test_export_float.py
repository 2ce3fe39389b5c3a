"""Float pages in KTX 2.0, against the formulas of the formats."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from ktx_structure import Ktx, taken_apart

import kivel
from kivel.core.pixels.pixels import Pixels
from kivel.files.formats.float_formats import FLOAT_FORMATS, shared_exponents
from program import art, write

OpenEXR = pytest.importorskip("OpenEXR")


def light(number: int) -> Pixels:
    """As a file holds it: from far below 1 to far above, alpha of every kind, light where it is 0."""
    generator = np.random.default_rng(number)
    image = np.exp2(generator.uniform(-9, 9, (8, 12, 4))).astype(np.float32)
    image[..., 3] = generator.choice([0, 0.25, 1], (8, 12))
    return image


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(4):
            exr(Path(f"glow/glow_{number}.exr"), light(number))
        kivel.sheet("glow", out="glow.exr", columns=2, fps=10)
        yield tmp_path


def exr(path: Path, image: Pixels) -> None:
    path.parent.mkdir(exist_ok=True)
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    OpenEXR.File(header, {"RGBA": image}).write(str(path))


def ktx(name: str = "glow", **options: Any) -> Ktx:
    made = kivel.export(f"{name}.kivel.json", to="ktx2", **options)
    found = taken_apart(made.contents[f"{name}.ktx2"])
    assert found.wrong == []
    return found


def shared_exponent(red: float, green: float, blue: float) -> int:
    """The formulas of the data format's specification, one by one."""
    n, bias, e_max = 9, 15, 31
    most = (2**n - 1) / 2**n * 2.0 ** (e_max - bias)
    colours = [max(0.0, min(most, value)) for value in (red, green, blue)]
    greatest = max(colours)
    preliminary = max(-bias - 1, math.floor(math.log2(greatest)) if greatest else -bias - 1) + 1 + bias
    scaled = math.floor(greatest / 2.0 ** (preliminary - bias - n) + 0.5)
    exponent = preliminary if scaled < 2**n else preliminary + 1
    red, green, blue = (math.floor(value / 2.0 ** (exponent - bias - n) + 0.5) for value in colours)
    return int(red) | int(green) << 9 | int(blue) << 18 | exponent << 27


@given(st.lists(st.floats(-4, 1e5, width=32), min_size=3, max_size=3))
def test_an_exponent_is_shared_as_the_specification_says(values: list[float]) -> None:
    assert shared_exponents(np.array([[[*values, 1]]], np.float32))[0, 0] == shared_exponent(*values)


def test_half_floats_hold_what_openexr_holds(place: Path) -> None:
    found = ktx(pixel_format="rgba16f")
    assert (found.format, found.layers) == (97, 4)
    layers = np.frombuffer(found.levels[0], "<f2").reshape(4, 8, 12, 4)
    for number in range(4):
        stored = np.asarray(OpenEXR.File(str(place / f"glow/glow_{number}.exr")).channels()["RGBA"].pixels, np.float32)
        assert np.allclose(layers[number], stored, rtol=2**-11, atol=0)
    page = ktx(pixel_format="rgba16f", page=0)
    whole = np.frombuffer(page.levels[0], "<f2").reshape(16, 24, 4)
    assert np.array_equal(whole[8:, 12:], layers[3])


def test_levels_average_light_as_it_is_stored() -> None:
    found = ktx(pixel_format="rgba16f")
    first, second = (np.frombuffer(found.levels[n], "<f2").astype(float) for n in (0, 1))
    first, second = first.reshape(4, 8, 12, 4), second.reshape(4, 4, 6, 4)
    expected = first.reshape(4, 4, 2, 6, 2, 4).mean(axis=(2, 4))
    assert np.allclose(second, expected, rtol=2**-9, atol=1e-6)


def test_light_alone_and_opaque_pixels_need_no_alpha_and_others_are_refused(place: Path) -> None:
    with pytest.raises(kivel.KivelError, match="has no alpha, and these pixels have; choose rgba16f"):
        kivel.export("glow.kivel.json", to="ktx2", pixel_format="rgb9e5")
    for alpha in (0, 1):
        image = light(7)
        image[..., 3] = alpha
        exr(place / f"flat{alpha}/f_0.exr", image)
        kivel.sheet(f"flat{alpha}", out=f"flat{alpha}.exr")
        packed = np.frombuffer(ktx(f"flat{alpha}", pixel_format="rgb9e5").levels[0], "<u4").reshape(8, 12)
        assert [int(one) for one in packed.ravel()] == [shared_exponent(*pixel[:3]) for pixel in image.reshape(-1, 4)]


@pytest.mark.parametrize("name", ["astc-hdr-4x4", "astc-hdr-6x6"])
def test_blocks_come_back_alike(place: Path, name: str) -> None:
    """A glow of one hue, up to 8 times white."""
    y, x = np.mgrid[:8, :12].astype(np.float32)
    glow = 8 * np.exp(-((x - 6) ** 2 + (y - 4) ** 2) / 40)
    image = np.dstack([glow, glow / 2, glow / 8, np.ones_like(x)])
    exr(place / "soft/s_0.exr", image.astype(np.float32))
    kivel.sheet("soft", out="soft.exr")
    data = ktx("soft", pixel_format=name).levels[0]
    back = FLOAT_FORMATS[name].decoded(data, 12, 8)
    assert (np.abs(back - image) / image).max() < 0.1


@pytest.mark.parametrize("target", ["css", "svg", "gltf", "ktx2"])
def test_what_takes_no_float_says_so(place: Path, target: Any) -> None:
    with pytest.raises(kivel.KivelError, match=r"are float .OpenEXR., and .* does not take these; .*exposure=0"):
        kivel.export("glow.kivel.json", to=target, out="out")
    assert not (place / "out").exists()


def test_a_shader_mixes_what_an_engine_reads_from_openexr() -> None:
    """Colours in the file are multiplied by alpha: they are not multiplied again."""
    kivel.sheet("glow", out="straight.png", interpolation="linear")
    kivel.sheet("glow", out="glow.exr", interpolation="linear", columns=2)
    for name, is_straight in (("straight", True), ("glow", False)):
        text = kivel.export(f"{name}.kivel.json", to="shader").contents[f"{name}.glsl"].decode()
        assert ("covered / max(alpha" in text) == is_straight


def test_formats_are_for_the_pages_that_they_can_hold(place: Path) -> None:
    with pytest.raises(kivel.KivelError, match='not take these; pixel_format="rgba16f" takes float pages'):
        kivel.export("glow.kivel.json", to="ktx2")
    write(place / "owl/owl_0.png", art(1))
    kivel.sheet("owl", out="owl.png")
    with pytest.raises(kivel.KivelError, match="is for float pages, and these have 8 bits a channel; rgba8"):
        kivel.export("owl.kivel.json", to="ktx2", pixel_format="rgba16f")
    told = kivel.export("glow.kivel.json", to="ktx2", pixel_format="rgba16f").notes
    assert any("multiplied by alpha, as in OpenEXR; light without alpha is kept" in note for note in told)
