"""Exported shaders, run and compiled by others: they show what the core says, from any origin, on any page."""

from __future__ import annotations

import contextlib
import json
import random
import shutil
import subprocess
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from moving_spots import circling
from shader_runs import ShaderRun

import kivel
from kivel.core.pixels.light import to_light
from kivel.core.playback.clip import Clip, Step
from kivel.core.playback.player import Player
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.sequences.between_frames import frame_between
from kivel.sequences.opening import open_sources
from kivel.sequences.settings import SourceSettings
from program import art, read, write

pytestmark = pytest.mark.slow
ORIGINS = ("top", "bottom")


@pytest.fixture(scope="module")
def opened() -> Any:
    moderngl = pytest.importorskip("moderngl")
    try:
        return moderngl.create_standalone_context(backend="egl")
    except Exception as error:  # whatever is missing of the drivers
        pytest.skip(f"nothing draws here: {error}")


@pytest.fixture
def context(opened: Any) -> Iterator[Any]:
    with opened:  # others may have drawn since
        yield opened


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """A grid, and an atlas of trimmed, turned and mirrored frames."""
    for number in range(8):
        blob = np.zeros((13, 17, 4), np.uint8)
        wide = number % 2 * 8
        blob[1 : 11 - wide, 2 : 4 + wide] = art(number // 3, width=10, height=10)[: 10 - wide, : 2 + wide]
        write(tmp_path / f"blob/blob_{number}.png", blob[::-1] if number > 3 else blob)
        write(tmp_path / f"owl/owl_{number}.png", art(number, width=5, height=7))
    with contextlib.chdir(tmp_path):
        kivel.sheet("owl", out="owl.png", columns=3, gap=1, margin=2, fill="down", motion=True)
        kivel.atlas("blob", out="blob.png", turn=True, share_flips=True, gap=1, page_limit="11x80")
        frames = read_manifest(tmp_path / "blob.kivel.json").frames
        assert {bool(frame.turn) for frame in frames} == {bool(frame.flip) for frame in frames} == {True, False}
        yield tmp_path


def shader(name: str, suffix: str, **options: Any) -> str:
    kivel.export(f"{name}.kivel.json", to="shader", out=f"x/{name}{suffix}", force=True, **options)
    return Path(f"x/{name}{suffix}").read_text()


@pytest.mark.parametrize("suffix", [".glsl", ".frag"])
def test_at_and_around_every_boundary_what_the_core_says_shows(context: Any, place: Path, suffix: str) -> None:
    drawn = random.Random(3)
    manifest = read_manifest(place / "owl.kivel.json")
    clips = tuple(
        Clip(
            f"c{number}",
            Fraction(drawn.choice((1, 12, 24, 60, 1000, Fraction(24000, 1001)))),
            tuple(Step(drawn.randrange(8), drawn.randint(1, 9)) for _ in range(drawn.randint(1, 14))),
            drawn.choice(("normal", "reverse", "alternate", "alternate-reverse")),
            interpolation=drawn.choice(("step", "linear")),
        )
        for number in range(30)
    )
    (place / "owl.kivel.json").write_text(manifest_text(replace(manifest, clips=clips)))
    code = shader("owl", suffix)
    for clip in clips:
        player = Player(clip)
        starts = [happening.time for happening in player.happenings(end=clip.length) if happening.kind == "show"]
        near = [np.nextafter(np.float32(start), np.float32(side)) for start in starts for side in (-1, 9)]
        times = [*map(float, near), *map(float, starts), *(drawn.random() * float(clip.length) for _ in range(1000))]
        given = np.array([time for time in np.array(times, np.float32) if 0 <= time < clip.length], np.float32)
        run = ShaderRun(context, code, suffix, f"owl_{clip.name}_at(one.x), 1.0")
        found = run(np.pad(given[:, None], ((0, 0), (0, 3))))
        for time, (frame, following, weight, _) in zip(given, found, strict=True):
            moment = player.at(Fraction(float(time)))
            assert (frame, moment.weight and following) == (moment.frame, moment.weight and moment.following)
            assert abs(weight - float(moment.weight)) < 2e-5


@pytest.mark.usefixtures("place")
@pytest.mark.parametrize("suffix", [".glsl", ".frag"])
def test_an_instance_picks_a_clip_as_often_as_its_weight_says(context: Any, suffix: str) -> None:
    words: dict[str, Any] = {"make_group": "pair=?", "choose": "random", "weight": ["b=3", "c=0", "d=4"]}
    kivel.sheet("owl", out="some.png", make_clip=["a=1", "b=2", "c=3", "d=4"], **words)
    code = shader("some", suffix)
    picks = np.zeros((8, 4), np.float32)
    picks[:, 0] = np.arange(8) / 8
    shown = ShaderRun(context, code, suffix, "some_pair_at(0.0, one.x), some_pair_cycle(one.x)")(picks)
    assert shown[:, 0].tolist() == [1, 2, 2, 2, 4, 4, 4, 4]
    assert np.allclose(shown[:, 3], 1 / 12)


@pytest.mark.parametrize("origin", ORIGINS)
@pytest.mark.parametrize("suffix", [".glsl", ".frag"])
@pytest.mark.parametrize("name", ["owl", "blob"])
def test_every_pixel_of_every_frame_is_found(context: Any, place: Path, name: str, suffix: str, origin: str) -> None:
    code = shader(name, suffix, origin=origin)
    page = read(place / f"{name}.png") / np.float32(255)
    image = np.ascontiguousarray(page if origin == "top" else page[::-1], np.float32)
    run = ShaderRun(context, code, suffix, f"{name}_color(image, vec3(one.z, one.z, 0.0), one.xy)")
    for number, file in enumerate(sorted((place / name).glob("*.png"))):
        frame = read(file)
        height, width = frame.shape[:2]
        rows, columns = (axis.ravel() for axis in np.mgrid[0:height, 0:width])
        down = (rows + 0.5) / height
        given = np.stack(
            [(columns + 0.5) / width, down if origin == "top" else 1 - down, rows * 0 + number, rows * 0], 1
        )
        found = np.rint(run(given.astype(np.float32), image) * 255).reshape(frame.shape)
        seen = frame[..., 3] > 0
        assert np.array_equal(found[..., 3], frame[..., 3])
        assert np.array_equal(found[seen], frame[seen])


@pytest.mark.parametrize("origin", ORIGINS)
@pytest.mark.parametrize("size", [(8192, 8192), (8191, 4099), (4099, 7), (170, 510)], ids=str)
def test_no_place_is_off_on_large_pages_and_odd_ones(
    context: Any, place: Path, size: tuple[int, int], origin: str
) -> None:
    """Each corner texel of each rectangle is hit in its middle."""
    drawn = random.Random(str(size))
    content = json.loads((place / "owl.kivel.json").read_text())
    content["pages"][0]["size"] = size
    del content["grid"]
    rects = []
    for frame in content["frames"]:
        x, y = (drawn.randrange(side) for side in size)
        rects.append((x, y, drawn.randint(1, size[0] - x), drawn.randint(1, size[1] - y)))
        frame |= {"rect": rects[-1], "canvas": rects[-1][2:], "offset": (0, 0)}
    (place / "owl.kivel.json").write_text(json.dumps(content))
    run = ShaderRun(context, shader("owl", ".glsl", origin=origin), ".glsl", "owl_place(int(one.z), one.xy), 1.0")
    for number, (x, y, w, h) in enumerate(rects):
        columns, rows = np.array([0, w - 1, 0, w - 1]), np.array([0, 0, h - 1, h - 1])
        down = (rows + 0.5) / h
        given = np.stack([(columns + 0.5) / w, down if origin == "top" else 1 - down, rows * 0 + number, rows * 0], 1)
        found = run(given.astype(np.float32))
        below = y + rows if origin == "top" else size[1] - 1 - y - rows
        expected = np.stack([x + columns, below], 1) + 0.5
        assert np.abs(found[:, :2].astype(float) * size - expected).max() < 0.01
        assert (found[:, 2] == 1).all()


@pytest.mark.parametrize("origin", ORIGINS)
@pytest.mark.parametrize("suffix", [".glsl", ".frag"])
def test_a_picture_that_is_scaled_and_shifted_lies_about_its_pivot_and_no_further(
    context: Any, suffix: str, origin: str
) -> None:
    kivel.retime("owl.kivel.json", pivot=["bottom"])
    code = shader("owl", suffix, origin=origin)
    random_places = np.random.default_rng(4).uniform(0, 1, (500, 4)).astype(np.float32)
    frame = "int(3)" if suffix == ".glsl" else "3.0"
    moved = ShaderRun(context, code, suffix, f"owl_moved({frame}, one.xy, vec2(0.5, 0.25), vec2(0.1, -0.05)), 1.0")
    plain = ShaderRun(context, code, suffix, f"owl_place({frame}, one.xy), 1.0")
    pivot = np.array([0.5, 1.0 if origin == "top" else 0.0])
    back = pivot + (random_places[:, :2] - np.array([0.1, -0.05]) - pivot) / np.array([0.5, 0.25])
    given = np.concatenate([back, random_places[:, 2:]], axis=1).astype(np.float32)
    found, expected = moved(random_places), plain(given)
    inside = ((back > 1e-4) & (back < 1 - 1e-4)).all(axis=1)
    outside = ((back < -1e-4) | (back > 1 + 1e-4)).any(axis=1)
    assert 20 < inside.sum() < 480
    assert (found[inside, 2] == 1).all()
    assert (found[outside, 2] == 0).all()
    assert np.abs(found[:, :2] - expected[:, :2]).max() < 1e-5
    layer = ShaderRun(context, code, suffix, f"owl_layer_place({frame}, one.xy), 1.0")(random_places)
    half = 0.5 / np.array([5, 7])
    assert np.abs(layer[:, :2] - np.clip(random_places[:, :2], half, 1 - half)).max() < 1e-6


HLSL_MAIN = """
Texture2D tex : register(t0); Texture2DArray lay : register(t1); SamplerState sam : register(s0);
float4 shade(float2 at : TEXCOORD0) : SV_Target {{
    float3 now = {0}_{0}_at(at.x);
    return {0}_color(tex, sam, now, at) + {0}_layer_color(lay, sam, now, at)
        + {0}_texture_color(tex, sam, tex, sam, now, at) + {0}_moved(1, at, at, at).z{1};
}}
"""
WGSL_MAIN = """
@group(0) @binding(0) var tex: texture_2d<f32>;
@group(0) @binding(1) var lay: texture_2d_array<f32>;
@group(0) @binding(2) var sam: sampler;
@fragment fn shade(@location(0) at: vec2f) -> @location(0) vec4f {{
    let now = {0}_{0}_at(at.x);
    return {0}_color(tex, sam, now, at) + {0}_layer_color(lay, sam, now, at)
        + {0}_texture_color(tex, sam, tex, sam, now, at) + {0}_moved(1, at, at, at).z{1};
}}
"""


WARPED = {"owl": " + owl_warped(tex, sam, tex, sam, now, at)", "blob": ""}
"""Of both the first alone has a map of motion."""


@pytest.mark.parametrize("name", ["owl", "blob"])
def test_hlsl_compiles(place: Path, name: str) -> None:
    if not shutil.which("glslc"):
        pytest.skip("there is no glslc")
    (place / "main.hlsl").write_text(shader(name, ".hlsl") + HLSL_MAIN.format(name, WARPED[name]))
    words = ["glslc", "-x", "hlsl", "-fshader-stage=frag", "-fentry-point=shade", "-Werror", "main.hlsl", "-o", "out"]
    done = subprocess.run(words, capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (0, "")


@pytest.mark.parametrize("name", ["owl", "blob"])
def test_wgsl_compiles(name: str) -> None:
    wgpu = pytest.importorskip("wgpu")
    try:
        device = wgpu.gpu.request_adapter_sync(force_fallback_adapter=True).request_device_sync()
    except RuntimeError as error:
        pytest.skip(f"nothing draws here: {error}")
    device.create_shader_module(code=shader(name, ".wgsl") + WGSL_MAIN.format(name, WARPED[name]))
    with pytest.raises(wgpu.GPUError):
        device.create_shader_module(code=shader(name, ".wgsl") + WGSL_MAIN.format("nobody", ""))


@pytest.mark.parametrize("name", ["owl", "blob"])
@pytest.mark.parametrize(("suffix", "version"), [(".frag", "100"), (".glsl", "300 es")])
def test_the_reference_compiler_takes_the_glsl(place: Path, name: str, suffix: str, version: str) -> None:
    if not shutil.which("glslangValidator"):
        pytest.skip("there is no glslangValidator")
    (place / "main.frag").write_text(f"#version {version}\n{shader(name, suffix)}void main() {{}}\n")
    done = subprocess.run(["glslangValidator", "main.frag"], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout


@pytest.mark.parametrize("origin", ORIGINS)
@pytest.mark.parametrize("suffix", [".glsl", ".frag"])
@pytest.mark.parametrize(
    ("made", "more", "bits", "tile", "size"),
    [
        ("sheet", {"gap": 2}, "8", False, "half"),
        ("sheet", {"columns": 1}, "8", True, "half"),
        ("atlas", {"turn": True, "gap": 2}, "8", False, "half"),
        ("sheet", {"gap": 2}, "16", False, "full"),
    ],
    ids=["grid", "tiles", "turned", "16 bits"],
)
def test_frames_are_warped_as_the_core_does(
    context: Any,
    place: Path,
    suffix: str,
    origin: str,
    made: str,
    more: dict[str, Any],
    bits: Any,
    tile: bool,
    size: Any,
) -> None:
    for number, frame in enumerate(circling(16)):
        write(place / f"around/around_{number}.png", frame)
    kivel.resample("around", out="four", count=4, even=True, motion=True, motion_bits=bits, tile=tile, motion_size=size)
    getattr(kivel, made)("four", out="four.png", **more)
    sequence = open_sources(["four.kivel.json"], SourceSettings(1 << 20, with_motion=True))
    (motion,) = sequence.maps
    # graphics cards filter what is premultiplied
    content = json.loads(Path("four.kivel.json").read_text())
    content["pages"][0]["alpha"] = "premultiplied"
    Path("four.kivel.json").write_text(json.dumps(content))
    code = shader("four", suffix, origin=origin)
    way = slice(None, None, 1 if origin == "top" else -1)
    image = np.ascontiguousarray(np.moveaxis(to_light(read(place / "four.png")), 0, -1)[way])
    codes = read(place / "four.motion.png")
    codes = np.ascontiguousarray(codes[way] / np.float32(np.iinfo(codes.dtype).max), np.float32)
    shown = "vec3(floor(one.w), floor(fract(one.w) * 10.0 + 0.5), one.z)"
    run = ShaderRun(context, code, suffix, f"four_warped(image, motion, {shown}, one.xy)")
    rows, columns = (axis.ravel() for axis in np.mgrid[0:48, 0:48])
    down = (rows + 0.5) / 48
    for first, second, weight in ((0, 1, 0.25), (1, 2, 0.5), (3, 0, 0.7), (2, 1, 0.25), (0, 2, 0.5)):
        expected = frame_between(lambda n: sequence.frames[n].load(), first, second, weight, motion=motion)
        pair = rows * 0 + first + second / 10
        given = np.stack([(columns + 0.5) / 48, down if origin == "top" else 1 - down, rows * 0 + weight, pair], 1)
        found = run(given.astype(np.float32), image, codes).reshape(48, 48, 4)
        off = np.abs(found - np.moveaxis(to_light(expected), 0, -1)) * 255
        # a trimmed frame ends with its box, where a filter would go on for half a pixel
        assert (off <= 2).mean() > (0.996 if made == "atlas" else 0.999)
