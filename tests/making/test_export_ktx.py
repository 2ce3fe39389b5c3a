"""A KTX texture keeps the clauses of its standard, its layers are the frames, and its levels mix no neighbours."""

from __future__ import annotations

import contextlib
import json
import struct
import sys
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from ktx_structure import Ktx, taken_apart

import kivel
from kivel.core.exporting.layer_plan import layer_plan
from kivel.core.exporting.mips import layer_mips
from kivel.core.pixels.pixels import size_of
from kivel.core.pixels.scaling import scaled
from kivel.core.playback.clip import Clip
from kivel.core.playback.player import Player
from kivel.files.formats.block_formats import BLOCK_FORMATS
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from program import art, files, read, write
from strategies import clips


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(5):
            write(tmp_path / f"owl/owl_{number}.png", art(number, width=12, height=8))
            write(tmp_path / f"owl-normal/owl_{number}.png", art(number + 9, width=12, height=8))
        kivel.sheet("owl", out="owl.png", columns=3, fps=10, map=["normal=owl-normal"])
        yield tmp_path


def ktx(name: str = "owl", **options: Any) -> Ktx:
    found = taken_apart(kivel.export(f"{name}.kivel.json", to="ktx2", **options).contents[f"{name}.ktx2"])
    assert found.wrong == []
    return found


def test_layers_are_the_steps_of_a_clip_bit_for_bit(place: Path) -> None:
    kivel.retime("owl.kivel.json", holds="1,2,1,1,1", phase="1")
    found = ktx(layers="steps")
    frames = [read(place / f"owl/owl_{number}.png") for number in (1, 1, 2, 3, 4, 0)]
    assert found.levels[0] == b"".join(frame.tobytes() for frame in frames)
    assert struct.unpack("<3I", found.keys["KTXanimData"]) == (1, 10, 0)
    assert (found.format, found.layers, len(found.levels)) == (43, 6, 4)
    table = kivel.export("owl.kivel.json", to="ktx2").contents
    assert taken_apart(table["owl.ktx2"]).layers == 5
    assert [step["hold"] for step in json.loads(table["owl.steps.json"])["clips"][0]["steps"]] == [1, 2, 1, 1, 1]


@pytest.mark.parametrize("name", BLOCK_FORMATS)
@pytest.mark.parametrize("show", ["color", "normal"])
def test_every_format_keeps_the_clauses_and_comes_back_alike(place: Path, name: str, show: str) -> None:
    for folder in ("owl", "owl-normal"):  # smooth and opaque: all formats can keep it
        for number in range(5):
            image = np.full((8, 12, 4), 255, np.uint8)
            image[..., 0], image[..., 1] = np.mgrid[0:8, 0:12] * 9 + number
            write(place / f"{folder}/owl_{number}.png", image)
    kivel.sheet("owl", out="owl.png", columns=3, fps=10, map=["normal=owl-normal"])
    found = ktx(pixel_format=name, show=show)
    form = BLOCK_FORMATS[name]
    assert found.format == (form.color_number if show == "color" else form.number)
    length = len(found.levels[0]) // 5
    for number in range(5):
        back = form.decoded(found.levels[0][number * length :][:length], 12, 8)
        error = back.astype(float) - read(place / f"owl/owl_{number}.png")
        assert np.sqrt(np.square(error).mean()) < 8


def test_a_page_has_levels_while_frames_lie_on_whole_pixels_and_none_mixes_with_another(place: Path) -> None:
    shades = [np.full((8, 12, 4), (40 * number, 255 - 40 * number, 9, 255), np.uint8) for number in range(5)]
    for number, shade in enumerate(shades):
        write(place / f"owl/owl_{number}.png", shade)
    kivel.sheet("owl", out="owl.png", columns=3)
    found = ktx(page=0)
    assert (found.layers, found.width, found.height, len(found.levels)) == (0, 36, 16, 3)
    for level, data in enumerate(found.levels):
        page = np.frombuffer(data, np.uint8).reshape(16 >> level, 36 >> level, 4)
        for number, shade in enumerate(shades):
            row, column = divmod(number, 3)
            cell = page[(8 * row) >> level :, (12 * column) >> level :][: 8 >> level, : 12 >> level]
            assert (cell == shade[0, 0]).all()


images = st.tuples(st.integers(1, 3), st.integers(1, 9), st.integers(1, 9), st.integers(0, 99))


@given(images, st.sampled_from(("color", "mask", "normal")))
def test_a_level_is_what_a_box_filter_makes_of_the_one_before(shape: tuple[int, ...], kind: Any) -> None:
    number, height, width, seed = shape
    layers = np.random.default_rng(seed).integers(0, 256, (number, height, width, 4), np.uint8)
    layers[..., 3] |= 128
    levels = layer_mips(layers, kind, premultiplied=False, count=2)
    for layer, half in zip(layers, levels[-1] if len(levels) > 1 else layers, strict=True):
        expected = scaled(layer, size_of(half), filter="box", kind=kind)
        assert np.abs(half.astype(int) - expected).max() <= 1


def test_premultiplied_colour_is_averaged_as_it_is() -> None:
    layer = np.array([[[[200, 0, 0, 255], [0, 0, 0, 0]]]], np.uint8)
    straight, premultiplied = (
        layer_mips(layer, "color", premultiplied=one, count=2)[1][0, 0, 0] for one in (False, True)
    )
    assert straight.tolist() == [200, 0, 0, 128]
    assert premultiplied.tolist() == [146, 0, 0, 128]


@settings(max_examples=25)
@given(clips(), st.lists(st.fractions(0, 1, max_denominator=97), min_size=1, max_size=20))
def test_a_layer_shows_at_any_time_what_plays(clip: Clip, shares: list[Fraction]) -> None:
    clip = replace(clip, repeat="forever", then=None)
    plan, player = layer_plan(clip), Player(clip)
    for share in shares:
        time = share * clip.length * 2
        assert plan.frames[int(time / plan.seconds) % len(plan.frames)] == player.at(time).frame


FAULTS = {
    "one layer more": (32, "<I", 6, "its stated length"),
    "another format": (12, "<I", 37, "the transfer function"),
    "a format of other blocks": (12, "<I", 145, "the colour model"),
    "a type size": (16, "<I", 4, "the type size"),
    "a depth": (28, "<I", 1, "the size"),
    "six faces": (36, "<I", 6, "the faces"),
    "more levels than halvings": (40, "<I", 9, "the number of levels"),
    "unpacked": (44, "<I", 0, "the packing"),
    "globals": (72, "<Q", 8, "the globals"),
    "a level elsewhere": (80, "<Q", 300, "level 0: where it is"),
    "a level said longer": (96, "<Q", 99, "level 0: its stated length"),
    "the model": (176 + 12, "<B", 2, "the colour model"),
    "the primaries": (176 + 13, "<B", 4, "the primaries"),
    "the transfer function": (176 + 14, "<B", 1, "the transfer function"),
    "the flags": (176 + 15, "<B", 8, "the flags"),
    "the block": (176 + 16, "<B", 3, "the block"),
    "the bytes of a pixel": (176 + 20, "<B", 3, "the bytes of a block"),
    "alpha said to be sRGB": (176 + 28 + 48 + 3, "<B", 15, "the samples"),
    "a sample's range": (176 + 28 + 12, "<I", 256, "the samples' ranges"),
    "a short value": (272, "<I", 14, "up"),
}


@pytest.mark.parametrize(("at", "form", "value", "told"), FAULTS.values(), ids=FAULTS)
def test_the_check_finds_what_readers_let_pass(at: int, form: str, value: int, told: str) -> None:
    data = bytearray(kivel.export("owl.kivel.json", to="ktx2", layers="frames").contents["owl.ktx2"])
    struct.pack_into(form, data, at, value)
    try:
        wrong = taken_apart(bytes(data)).wrong
    except (struct.error, UnicodeDecodeError):
        wrong = [told]
    assert any(told in each for each in wrong), wrong


REFUSED = {
    "alpha": ({"pixel_format": "bc1"}, 'pixel_format="bc1" has no alpha, and these pixels have; choose bc3 or bc7'),
    "steps of several clips": (
        {"layers": "steps", "clip": ["a", "owl"]},
        "2 clips; with one, the timing is inside the file",
    ),
    "too many layers": ({"layers": "steps", "clip": ["a"]}, "its holds would make 10001 layers, above 2048"),
    "a page that is missing": ({"page": 3}, "there is no page 3; 1 page, 0-0"),
    "a map that is missing": ({"show": "glow"}, "there is no map 'glow'; there are color, normal"),
}


@pytest.mark.parametrize(("options", "words"), REFUSED.values(), ids=REFUSED)
def test_what_cannot_be_a_texture_says_why(place: Path, options: dict[str, Any], words: str) -> None:
    path = place / "owl.kivel.json"
    manifest = read_manifest(path)
    steps = (manifest.clips[0].steps[0]._replace(hold=10_000), manifest.clips[0].steps[1])
    long = replace(manifest.clips[0], name="a", steps=steps)
    path.write_text(manifest_text(replace(manifest, clips=(*manifest.clips, long))))
    before = files(place)
    with pytest.raises(kivel.KivelError) as caught:
        kivel.export(path, to="ktx2", out="o.ktx2", **options)
    assert words in str(caught.value)
    assert files(place) == before


@pytest.mark.parametrize(
    ("package", "format"), [("zstandard", "rgba8"), ("etcpak", "bc7"), ("astc_encoder", "astc-4x4")]
)
def test_what_is_not_installed_is_said_with_how_to_get_it(
    monkeypatch: pytest.MonkeyPatch, package: str, format: Any
) -> None:
    monkeypatch.setitem(sys.modules, package, None)
    with pytest.raises(kivel.KivelError, match=r"extra packages: pip install 'kivel\[ktx\]'"):
        kivel.export("owl.kivel.json", to="ktx2", pixel_format=format)
