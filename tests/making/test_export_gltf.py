"""A .glb is read back by the rules of glTF 2.0, its pointers followed here, and shows what plays."""

from __future__ import annotations

import contextlib
import json
import struct
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import pytest

import kivel
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.player import Player
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from program import art, read, write

AS_IT_IS, UPSIDE_DOWN, MIRRORED = np.s_[:], np.s_[::-1], np.s_[:, ::-1]
TURNS: list[Any] = [*[AS_IT_IS] * 4, UPSIDE_DOWN, UPSIDE_DOWN, MIRRORED, MIRRORED]
STEPS = tuple(Step(frame, 1 + frame % 3) for frame in (0, 1, 2, 3, 4, 5, 6, 7, 3))
CLIPS = (
    Clip("all", Fraction(30000, 1001), STEPS, "alternate", interpolation="linear", phase=Fraction(5, 2)),
    Clip("once", Fraction(12), STEPS[2:5], repeat=1, end="none", events=(Event(0, "hoo"),)),
    Clip("one", Fraction(12), STEPS[5:6]),
)


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """Trimmed, turned and mirrored frames on several pages, one of them empty."""
    for number in range(8):
        blob = np.zeros((13, 17, 4), np.uint8)
        wide = number % 2 * 8
        blob[1 : 11 - wide, 2 : 4 + wide] = art(int(number in (3, 5, 7)), width=10, height=10)[: 10 - wide, : 2 + wide]
        write(tmp_path / f"blob/blob_{number}.png", blob[TURNS[number]] * (number != 2))
    with contextlib.chdir(tmp_path):
        kivel.atlas("blob", out="blob.png", turn=True, share_flips=True, page_limit="4x12",
                    pivot=["bottom"])  # fmt: skip
        path = tmp_path / "blob.kivel.json"
        path.write_text(manifest_text(replace(read_manifest(path), clips=CLIPS)))
        yield tmp_path


class Scene:
    """What a viewer that knows the three extensions makes of a file."""

    def __init__(self, data: bytes) -> None:
        magic, version, length = struct.unpack_from("<4sII", data)
        size, kind = struct.unpack_from("<I4s", data, 12)
        self.json = json.loads(data[20 : 20 + size])
        rest, binary = struct.unpack_from("<I4s", data, 20 + size)
        self.binary = data[28 + size :]
        assert (magic, version, length, kind, binary, rest) == (
            b"glTF",
            2,
            len(data),
            b"JSON",
            b"BIN\0",
            len(self.binary),
        )

    def view(self, number: int) -> bytes:
        view = self.json["bufferViews"][number]
        assert view["byteOffset"] % 4 == 0
        return self.binary[view["byteOffset"] : view["byteOffset"] + view["byteLength"]]

    def values(self, number: int) -> Any:
        accessor = self.json["accessors"][number]
        sort = {5126: np.float32, 5123: np.uint16}[accessor["componentType"]]
        found = np.frombuffer(self.view(accessor["bufferView"]), sort)
        return found.reshape(accessor["count"], int(accessor["type"].replace("SCALAR", "1").replace("VEC", "")))

    def at(self, name: str, seconds: float) -> dict[str, Any]:
        """The document as it is so long after the beginning of an animation, which starts over by itself."""
        now: dict[str, Any] = json.loads(json.dumps(self.json))
        for animation in (one for one in now["animations"] if one["name"] == name):
            for channel in animation["channels"]:
                sampler = animation["samplers"][channel["sampler"]]
                assert sampler["interpolation"] == "STEP"
                times = self.values(sampler["input"])[:, 0]
                value = self.values(sampler["output"])[max(0, int(np.searchsorted(times, seconds, "right")) - 1)]
                target = channel["target"]
                if target["path"] != "pointer":
                    now["nodes"][target["node"]][target["path"]] = value.tolist()
                    continue
                *parents, last = target["extensions"]["KHR_animation_pointer"]["pointer"].split("/")[1:]
                thing = now
                for parent in parents:
                    thing = thing[int(parent)] if isinstance(thing, list) else thing[parent]
                thing[last] = float(value[0]) if last == "rotation" else value.tolist()
        return now

    def picture(self, name: str, seconds: float, canvas: tuple[int, int], unit: int) -> Any:
        """(H, W, 4): the clip alone, seen from the front, its pivot at the middle of the lower edge."""
        width, height = canvas
        image = np.zeros((height, width, 4), np.uint8)
        now = self.at(name, seconds)
        root = next(node for node in now["nodes"] if node.get("name") == name)
        for child in root["children"]:
            node = now["nodes"][child]
            primitive = now["meshes"][node["mesh"]]["primitives"][0]
            material = now["materials"][primitive["material"]]
            corners = self.values(primitive["attributes"]["POSITION"])[:, :2]
            ends = self.values(primitive["attributes"]["TEXCOORD_0"])
            across, *_ = np.linalg.lstsq(np.c_[corners, np.ones(4)], ends)
            assert np.abs(np.c_[corners, np.ones(4)] @ across - ends).max() < 1e-6
            texture = material["pbrMetallicRoughness"]["baseColorTexture"]
            page = imagecodecs.png_decode(self.view(now["images"][texture["index"]]["bufferView"]))
            transform = texture["extensions"]["KHR_texture_transform"]
            turn = transform["rotation"]
            offset, scale = np.array(transform["offset"]), np.array(transform["scale"])
            matrix = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]]) * scale
            for row, column in np.ndindex(height, width):
                x, y = (column + 0.5 - width / 2) / unit, (height - row - 0.5) / unit
                if 0 in node["scale"][:2]:
                    continue
                s, t = (
                    (place - at) / size
                    for place, at, size in zip((x, y), node["translation"], node["scale"], strict=False)
                )
                if 0 <= s < 1 and 0 <= t < 1:
                    u, v = matrix @ ((s, t, 1) @ across) + offset
                    image[row, column] = page[int(v * page.shape[0]), int(u * page.shape[1])]
        return image


def test_a_viewer_shows_at_any_time_what_plays(place: Path) -> None:
    made = kivel.export("blob.kivel.json", to="gltf")
    scene = Scene(made.contents["blob.glb"])
    manifest = read_manifest(place / "blob.kivel.json")
    assert {frame.turn for frame in manifest.frames} == {0, 90}
    assert {frame.flip for frame in manifest.frames} > {None}
    assert len(manifest.pages) > 1
    files = sorted((place / "blob").glob("*.png"))
    for clip in manifest.clips:
        player = Player(clip)
        cycle = float(clip.length)
        seconds = [0.0, *(float(happening.time) for happening in player.happenings(end=clip.length))]
        for time in sorted({each + off for each in seconds for off in (-1e-4, 1e-4, 0.01) if 0 <= each + off < cycle}):
            frame = player.at(Fraction(time)).frame
            expected = read(files[frame]) if frame is not None else np.zeros((13, 17, 4), np.uint8)
            found = scene.picture(clip.name, time, (17, 13), 13)
            found, expected = (image * (image[..., 3:] > 0) for image in (found, expected))
            assert np.array_equal(found, expected), (clip.name, time, frame)
    assert any("blending (all); repeat counts (once); events (once)" in note for note in made.notes)


def test_the_key_of_a_step_is_never_after_its_time() -> None:
    scene = Scene(kivel.export("blob.kivel.json", to="gltf", clip=["all"], half_texel=True).contents["blob.glb"])
    (animation,) = scene.json["animations"]
    clip = CLIPS[0]
    shows = [one.time for one in Player(clip).happenings(end=clip.length) if one.kind == "show"]
    for sampler in animation["samplers"]:
        times = [Fraction(float(time)) for time in scene.values(sampler["input"])[:, 0]]
        assert len(times) == len(shows) + 1
        for time, exact in zip(times, [*shows, clip.length], strict=True):
            assert time <= exact < Fraction(float(np.nextafter(np.float32(float(time)), np.float32(9))))


def test_what_glTF_cannot_show_is_refused(place: Path) -> None:  # noqa: N802 - its name
    path = place / "blob.kivel.json"
    manifest = read_manifest(path)
    path.write_text(manifest_text(replace(manifest, clips=())))
    with pytest.raises(kivel.KivelError, match="it has no clips, and a glTF shows only clips"):
        kivel.export(path, to="gltf")
    path.write_text(manifest_text(replace(manifest, pages=(replace(manifest.pages[0], alpha="premultiplied"),) * 9)))
    with pytest.raises(kivel.KivelError, match="its colours are premultiplied, which glTF does not support"):
        kivel.export(path, to="gltf")


@pytest.mark.parametrize(
    ("alphas", "mode", "cutoff"), [((255,), "OPAQUE", None), ((0, 255), "MASK", 0.5), ((0, 90, 255), "BLEND", None)]
)
def test_alpha_is_taken_as_the_pixels_need_it_or_as_asked(
    tmp_path: Path, alphas: tuple[int, ...], mode: str, cutoff: float | None
) -> None:
    image = art(1, width=9, height=8)
    image[..., 3] = np.resize(alphas, (8, 9))
    with contextlib.chdir(tmp_path):
        write(Path("a/a_1.png"), image)
        kivel.sheet("a", out="a.png", fps=4)
        ways: list[tuple[dict[str, Any], str]] = [({}, mode), ({"alpha": "blend"}, "BLEND")]
        for asked, expected in ways:
            data = kivel.export("a.kivel.json", to="gltf", **asked).contents["a.glb"]
            material = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])["materials"][0]
            assert material["alphaMode"] == expected
            assert material.get("alphaCutoff") == (None if asked else cutoff)
