"""What others make of exported files: Khronos' validator and libktx, a browser, a reader of subtitles."""

from __future__ import annotations

import base64
import contextlib
import json
import random
import re
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from itertools import islice
from pathlib import Path
from typing import Any

import imagecodecs
import jsonschema
import numpy as np
import pytest
from ktx_structure import taken_apart
from outside_readers import chromium, package_file, said_by_node

import kivel
from kivel.core.playback.clip import Clip, Step
from kivel.core.playback.player import Player
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from program import art, in_process, read, write

pytestmark = pytest.mark.slow


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(8):
            image = art(number, width=20, height=12)
            image[..., 3] = 255
            write(tmp_path / f"owl/owl_{number}.png", image)
        kivel.sheet("owl", out="owl.png", columns=3, gap=1, margin=2)
        yield tmp_path


def random_clips(count: int, *, seed: int) -> tuple[Clip, ...]:
    drawn = random.Random(seed)
    return tuple(
        Clip(
            f"c{number}",
            Fraction(drawn.choice((1, 12, 24, 60, 1000, Fraction(24000, 1001)))),
            tuple(Step(drawn.randrange(8), drawn.randint(1, 9)) for _ in range(drawn.randint(1, 12))),
            drawn.choice(("normal", "reverse", "alternate", "alternate-reverse")),
            repeat=drawn.choice(("forever", 1, 2, 3)),
            end=drawn.choice(("last", "first", "none")),
        )
        for number in range(count)
    )


def set_clips(path: Path, clips: tuple[Clip, ...]) -> Path:
    path.write_text(manifest_text(replace(read_manifest(path), clips=clips)))
    return path


@pytest.mark.parametrize("target", ["css", "svg"])
def test_a_browser_shows_the_right_frame_around_every_boundary(place: Path, target: Any) -> None:
    """At the boundary less and plus a twentieth of a millisecond, and at 30 random times."""
    drawn = random.Random(8)
    path = set_clips(place / "owl.kivel.json", random_clips(30, seed=5))
    manifest = read_manifest(path)
    suffix = {"css": ".html", "svg": ".svg"}[target]
    jobs, expected = [], []
    for clip in manifest.clips:
        kivel.export(path, to=target, clip=[clip.name], out=f"{clip.name}{suffix}")
        player = Player(clip)
        shows = [one.time * 1000 for one in islice(player.happenings(), 60) if one.kind == "show"]
        near = [show + off for show in shows for off in (Fraction(-1, 20), Fraction(1, 20))]
        end = float(player.length or clip.length * 5) * 1000
        times = [float(time) for time in near if time >= 0] + [drawn.uniform(0, end * 1.1) for _ in range(30)]
        jobs.append({"file": str(place / f"{clip.name}{suffix}"), "times": times})
        frames = [player.at(Fraction(time) / 1000).frame for time in times]
        rects = [None if frame is None else manifest.frames[frame].rect for frame in frames]
        expected.append([rect and f"{-rect.x}px {-rect.y}px" for rect in rects])
    (place / "jobs.json").write_text(json.dumps(jobs))
    answers = said_by_node("play_page.mjs", chromium(), place / "jobs.json")
    assert [answer["shown"] for answer in answers] == expected


@pytest.mark.parametrize("target", ["css", "svg"])
def test_a_browser_shows_turned_and_mirrored_frames_upright(place: Path, target: Any) -> None:
    """Trimmed ones, whose box on the page is larger across than the canvas, or smaller."""
    drawn = []
    for number in range(6):
        image = np.zeros((44, 16, 4), np.uint8)
        tall, wide = (40, 9) if number % 2 else (6, 15)
        image[1 + number % 3 : 1 + number % 3 + tall, number % 2 : number % 2 + wide] = art(
            number // 3, width=15, height=40
        )[:tall, :wide] | (0, 0, 0, 255)
        drawn.append((image[::-1], image[:, ::-1], image)[number % 3])
        write(place / f"bat/bat_{number}.png", drawn[-1])
    kivel.atlas("bat", out="bat.png", turn=True, share_flips=True)
    manifest = read_manifest(place / "bat.kivel.json")
    assert {frame.turn for frame in manifest.frames} == {0, 90}
    suffix = {"css": ".html", "svg": ".svg"}[target]
    kivel.export("bat.kivel.json", to=target, out=f"bat{suffix}")
    if target == "css":
        text = (place / "bat.html").read_text()
        (place / "bat.html").write_text(f"<!doctype html><style>body {{ margin: 0 }}</style>{text}")
    times = [float(manifest.clips[0].length * 1000 * (2 * number + 1) / 12) for number in range(6)]
    (place / "jobs.json").write_text(
        json.dumps([{"file": str(place / f"bat{suffix}"), "times": [], "pictures": times}])
    )
    (answer,) = said_by_node("play_page.mjs", chromium(), place / "jobs.json")
    for image, shot in zip(drawn, answer["shots"], strict=True):
        shown = imagecodecs.png_decode(base64.b64decode(shot))
        assert np.array_equal(shown, image * (image[..., 3:] > 0))


@pytest.mark.parametrize("target", ["css", "svg"])
def test_a_browser_shows_the_pixels_of_the_frame(place: Path, target: Any) -> None:
    suffix = {"css": ".html", "svg": ".svg"}[target]
    kivel.export("owl.kivel.json", to=target, out=f"owl{suffix}")
    if target == "css":
        text = (place / "owl.html").read_text()
        (place / "owl.html").write_text(f"<!doctype html><style>body {{ margin: 0 }}</style>{text}")
    length = read_manifest(place / "owl.kivel.json").clips[0].length * 1000
    times = [float(length * (2 * number + 1) / 16) for number in range(8)]
    (place / "jobs.json").write_text(
        json.dumps([{"file": str(place / f"owl{suffix}"), "times": [], "pictures": times}])
    )
    (answer,) = said_by_node("play_page.mjs", chromium(), place / "jobs.json")
    for number, shot in enumerate(answer["shots"]):
        image = imagecodecs.png_decode(base64.b64decode(shot))
        assert np.array_equal(image[..., :3], read(place / f"owl/owl_{number}.png")[..., :3])


def test_the_validator_finds_no_error_in_glTF(place: Path) -> None:  # noqa: N802 - its name
    for number in range(6):
        blob = np.zeros((13, 17, 4), np.uint8)
        blob[1 : 3 + number, 2 : 12 - number] = art(number)[0, 1] | 128
        write(place / f"blob/blob_{number}.png", blob)
    kivel.atlas("blob", out="blob.png", turn=True, page_limit="11x12")
    for name in ("owl", "blob"):
        path = set_clips(place / f"{name}.kivel.json", random_clips(6, seed=2) if name == "owl" else ())
        if name == "blob":
            steps = tuple(Step(frame, 1 + frame) for frame in range(6))
            set_clips(path, (Clip("blob", Fraction(30), steps), Clip("still", Fraction(1), steps[:1])))
        kivel.export(path, to="gltf", out=f"{name}.glb")
    kivel.export("owl.kivel.json", to="gltf", out="cut.glb", outline=7)
    (place / "broken.glb").write_bytes((place / "owl.glb").read_bytes().replace(b'"SCALAR"', b'"VECTOR"'))
    reports = said_by_node(
        "validate_gltf.mjs", place / "owl.glb", place / "blob.glb", place / "cut.glb", place / "broken.glb"
    )
    wrong = [[issue["code"] for issue in report["messages"] if issue["severity"] < 2] for report in reports]
    assert wrong[:3] == [[], [], []]
    assert wrong[3]


def test_libktx_reads_every_layer_and_level_byte_for_byte(place: Path) -> None:
    kivel.sheet("owl", out="even.png", columns=3)
    names: dict[str, dict[str, Any]] = {
        "steps": {"layers": "steps"}, "frames": {"layers": "frames"}, "flat": {"layers": "frames", "levels": 1},
    }  # fmt: skip
    for name, options in names.items():
        kivel.export("owl.kivel.json", to="ktx2", out=f"{name}.ktx2", **options)
    kivel.export("even.kivel.json", to="ktx2", out="page.ktx2", page=0)
    files = [place / f"{name}.ktx2" for name in (*names, "page")]
    for file, found in zip(files, said_by_node("read_ktx.mjs", chromium(), *files), strict=True):
        ours = taken_apart(file.read_bytes())
        assert (found["width"], found["height"]) == (ours.width, ours.height)
        levels = [b"".join(map(base64.b64decode, layers)) for layers in found["levels"][: len(ours.levels)]]
        assert levels == ours.levels


def test_libktx_reads_float_pixels_by_the_formulas_of_their_formats(place: Path) -> None:
    exr = pytest.importorskip("OpenEXR")
    for number in range(3):
        image = np.exp2(np.random.default_rng(number).uniform(-8, 8, (8, 12, 4))).astype(np.float32)
        image[..., 3] = 1
        (place / "glow").mkdir(exist_ok=True)
        header = {"compression": exr.ZIP_COMPRESSION, "type": exr.scanlineimage}
        exr.File(header, {"RGBA": image}).write(f"glow/glow_{number}.exr")
    kivel.sheet("glow", out="glow.exr")
    files = [place / f"{name}.float.ktx2" for name in ("rgba16f", "rgb9e5")]
    kivel.export("glow.kivel.json", to="ktx2", pixel_format="rgba16f", out=files[0].name)
    kivel.export("glow.kivel.json", to="ktx2", pixel_format="rgb9e5", out=files[1].name)
    for file, found in zip(files, said_by_node("read_ktx.mjs", chromium(), *files), strict=True):
        ours = taken_apart(file.read_bytes())
        assert len(found["levels"]) == len(ours.levels) == 4
        for layers, data in zip(found["levels"], ours.levels, strict=True):
            read_back = np.concatenate([np.frombuffer(base64.b64decode(one), "<f4") for one in layers])
            if "rgba16f" in file.name:
                assert np.array_equal(read_back, np.frombuffer(data, "<f2").astype(np.float32))
                continue
            packed = np.frombuffer(data, "<u4")
            unit = np.exp2((packed >> 27).astype(float) - 24)
            for channel, values in enumerate(read_back.reshape(-1, 4).T[:3]):
                assert np.array_equal(values, ((packed >> 9 * channel) & 511) * unit)


def test_findings_are_sarif_by_its_schema(place: Path) -> None:
    schema = json.loads(package_file("@microsoft/jest-sarif/lib/schemas/sarif-2.1.0-rtm.5.json").read_text())
    (place / "odd \u00fc.png").write_bytes((place / "owl/owl_0.png").read_bytes())
    done = in_process(["check", "owl.kivel.json", "owl", "odd \u00fc.png", "--format", "sarif"], place)
    content = json.loads(done.out)
    assert len(content["runs"][0]["results"]) > 2
    kind = jsonschema.validators.validator_for(schema)
    assert [error.message for error in kind(schema).iter_errors(content)] == []
    del content["runs"][0]["tool"]
    assert list(kind(schema).iter_errors(content))


def test_a_reader_of_subtitles_reads_the_cues(place: Path) -> None:
    webvtt = pytest.importorskip("webvtt")
    kivel.export("owl.kivel.json", to="vtt", out="owl.vtt")
    cues = webvtt.read(place / "owl.vtt").captions
    manifest = read_manifest(place / "owl.kivel.json")
    rects = [tuple(frame.rect) for frame in manifest.frames]
    shown = [tuple(map(int, re.findall(r"\d+", cue.text.partition("xywh=")[2]))) for cue in cues]
    assert shown == rects
    assert [cue.start for cue in cues][1:] == [cue.end for cue in cues][:-1]
