"""Light that has no alpha, as OpenEXR stores fire that is added to a scene, survives what moves or mixes it."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.core.pixels.light import linear_to_srgb
from kivel.core.pixels.pixels import Pixels
from program import in_process, read

OpenEXR = pytest.importorskip("OpenEXR")
SIZE = (40, 48)


def stored(number: int) -> Pixels:
    """A glow as its file holds it: light far above 1, alpha only in its core, none around it."""
    y, x = np.mgrid[: SIZE[0], : SIZE[1]].astype(np.float32)
    distance = np.hypot(x - 22 - number, y - 20)
    light = (6 + number / 2) * np.exp(-((distance / 4) ** 2))
    light[distance > 13] = 0
    alpha = np.where(distance < 3, 1, np.where(distance < 6, 0.5, 0))
    return np.dstack((light, light / 2, light / 8, alpha)).astype(np.float32)


def exr(path: Path, image: Pixels) -> None:
    path.parent.mkdir(exist_ok=True)
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    OpenEXR.File(header, {"RGBA": np.ascontiguousarray(image)}).write(str(path))


def light_in(path: Path) -> Any:
    """The sum of the light that a file holds, of each colour."""
    return np.asarray(OpenEXR.File(str(path)).channels()["RGBA"].pixels, np.float64)[..., :3].sum(axis=(0, 1))


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(4):
            exr(Path(f"glow/glow_{number}.exr"), stored(number))
        yield tmp_path


STEPS = {
    "fit": (["fit 24x20"], 0.25), "larger": (["fit 96x80 upscale"], 4.0), "shift": (["shift 0.3 0.7 each"], 1.0),
    "trim": (["trim"], 1.0), "turn": (["turn 90", "flip x"], 1.0), "pad": (["pad 3", "crop 40x40 at=7,3"], 1.0),
    "square": (["trim", "square"], 1.0), "reorder": (["reverse"], 1.0),
}  # fmt: skip


@pytest.mark.parametrize(("steps", "area"), STEPS.values(), ids=STEPS)
def test_steps_keep_the_sum_of_light(steps: list[str], area: float) -> None:
    kivel.prep("glow", out="new", step=steps)
    for number in range(4):
        source = 3 - number if steps == ["reverse"] else number
        wanted = stored(source)[..., :3].sum(axis=(0, 1), dtype=np.float64) * area
        assert np.abs(light_in(Path(f"new/new_{number:04}.exr")) / wanted - 1).max() < 1e-5


def test_mixing_keeps_the_sum_of_light() -> None:
    made = kivel.resample("glow", out="few", count=2, mix=True)
    sums = [stored(number)[..., :3].sum(axis=(0, 1), dtype=np.float64) for number in range(4)]
    for number, span in enumerate(made.taken):
        assert len(span.shares) > 1
        wanted = sum(share.weight * sums[share.frame] for share in span.shares)
        assert np.abs(light_in(Path(f"few/few_{number:04}.exr")) / wanted - 1).max() < 1e-5


def test_a_layer_without_alpha_is_added_to_what_is_below() -> None:
    for number in range(4):
        ground = np.full((*SIZE, 4), 0.25, np.float32)
        ground[..., 3] = 1
        exr(Path(f"ground/ground_{number}.exr"), ground)
    kivel.layer("ground", "glow", out="lit")
    made = np.asarray(OpenEXR.File("lit/lit_0000.exr").channels()["RGBA"].pixels, np.float64)
    light = stored(0)
    assert np.allclose(made[..., :3], light[..., :3] + 0.25 * (1 - light[..., 3:]), rtol=1e-3, atol=1e-4)


@pytest.mark.parametrize("command", ["sheet", "atlas"])
def test_pages_hold_all_light_bit_for_bit(command: str) -> None:
    made = getattr(kivel, command)("glow", out="page.exr").manifest
    total = sum(stored(number)[..., :3].sum(axis=(0, 1), dtype=np.float64) for number in range(4))
    assert np.abs(light_in(Path("page.exr")) / total - 1).max() < 1e-5
    kivel.slice("page.kivel.json", out="cut")
    for number in range(4):
        pixels = np.asarray(OpenEXR.File(f"cut/page_{number:04}.exr").channels()["RGBA"].pixels, np.float32)
        assert np.allclose(pixels, stored(number), rtol=1e-6, atol=1e-7)
    if command == "atlas":
        assert max(frame.rect.w for frame in made.frames) == 27, "the box holds all light, and no more"


def test_light_counts_as_visible_and_is_told() -> None:
    seen = kivel.inspect("glow").inspection
    assert seen
    assert [survey.bounds for survey in seen.surveys] == [(9 + n, 7, 27, 27) for n in range(4)]
    assert all(survey.adds_light for survey in seen.surveys)
    told = in_process(["inspect", "glow"], Path()).out
    assert "some light has no alpha, to be added to the scene" in told


def test_in_eight_bits_light_gets_its_brightness_as_alpha() -> None:
    """Over black it shows as the float frame does; where there is alpha, nothing changes."""
    kivel.sheet("glow/glow_1.exr", out="page.png", exposure=-4)
    made = read(Path("page.png")).astype(float) / 255
    light = stored(1)
    without = light[..., 3] == 0
    wanted = linear_to_srgb(np.clip(light[..., :3] / 16, 0, 1))
    assert np.abs(made[..., :3] * made[..., 3:] - wanted)[without].max() < 1.5 / 255
    assert np.abs(made[..., 3] - light[..., 3])[~without].max() < 0.51 / 255


def pure(share: float = 1) -> Pixels:
    """Light alone, no alpha anywhere."""
    image = stored(0) * np.float32(share)
    image[..., 3] = 0
    return image


COLOURS = {
    "opacity": ("opacity 0.5", 0.5), "opacity, to nothing": ("opacity 0", 0.0), "premultiply": ("premultiply", 1.0),
    "matte": ("matte", 1.0), "keep-color": ("keep-color #ffffff tolerance=255", 1.0), "blur": ("blur 1.5", 1.0),
    "threshold": ("threshold 0.5", 1.0),
}  # fmt: skip


@pytest.mark.parametrize(("step", "share"), COLOURS.values(), ids=COLOURS)
def test_steps_on_colour_and_alpha_treat_light_as_light(place: Path, step: str, share: float) -> None:
    exr(place / "pure/pure_0.exr", pure())
    kivel.prep("pure", out="new", step=[step])
    wanted = pure()[..., :3].sum(axis=(0, 1), dtype=np.float64)
    assert np.abs(light_in(Path("new/new_0000.exr")) / wanted - share).max() < 2e-3


@pytest.mark.parametrize("step", ["opacity 0", "threshold 0.9", "contrast 0.2", "ramp #402060 #ffffff", "saturation 0"])
def test_no_step_makes_light_where_nothing_was(place: Path, step: str) -> None:
    """Colour that loses its alpha must not be left: in OpenEXR that is light. Nor may empty pixels get any."""
    surface = np.zeros((*SIZE, 4), np.float32)
    surface[10:20, 10:20] = (0.4, 0.3, 0.2, 0.8)
    exr(place / "s/s_0.exr", surface)
    kivel.prep("s", out="new", step=[step])
    made = np.asarray(OpenEXR.File("new/new_0000.exr").channels()["RGBA"].pixels, np.float64)
    assert not made[..., :3][made[..., 3] <= 0].any()


def test_what_would_add_light_is_refused(place: Path) -> None:
    exr(place / "s/s_0.exr", stored(0))
    with pytest.raises(kivel.KivelError, match=r'colour under transparent pixels is light .* put the step "expose 0"'):
        kivel.prep("s", out="new", step=["bleed"])
    assert kivel.prep("s", step=["expose -2", "bleed"]).manifest.frames


def test_check_judges_float_pages_as_what_they_are() -> None:
    """Associated colours make no fringe, and a texel takes sixteen bytes: 512x512 of them are more than 4 MB."""
    kivel.sheet("glow", out="light.exr", columns=2, cell="256x256")
    kivel.sheet("glow", out="plain.png", columns=2, cell="256x256", exposure=0)
    light, plain = (
        {finding.code: finding for finding in kivel.check(f"{name}.kivel.json", budget=4).findings}
        for name in ("light", "plain")
    )
    assert "fringe" not in light
    assert light["memory"].figure == 16 * 512 * 512
    assert "astc-hdr" in light["memory"].fix
    assert "memory" not in plain
