"""What is exported says what plays, in forms that others read."""

from __future__ import annotations

import base64
import contextlib
import csv
import json
import shutil
import subprocess
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import pytest

import kivel
from kivel.core.pixels.pixels import Size
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.player import Player
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.making.options.export_options import FEATURES, TARGETS
from program import art, files, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(5):
            write(tmp_path / f"owl/owl_{number}.png", art(number))
        kivel.sheet("owl", out="owl.png", columns=3, gap=1, margin=2, make_clip=["+blink=0-1", "hoot=2-4"])
        kivel.retime("owl.kivel.json", clip=["hoot"], direction="alternate", holds="3,1,5", timebase="24000/1001",
                     repeat=4, end="none", event=["1:hoo!"], phase="25%")  # fmt: skip
        yield tmp_path


def test_json_has_every_place_and_every_step(place: Path) -> None:
    kivel.export("owl.kivel.json", out="owl-table.json")
    table = json.loads((place / "owl-table.json").read_text())
    manifest = read_manifest(place / "owl.kivel.json")
    width, height = table["pages"][0]["size"]
    for row, frame in zip(table["frames"], manifest.frames, strict=True):
        assert [row[key] for key in ("x", "y", "width", "height")] == list(frame.rect)
        assert np.float32(row["u"]) == np.float32(frame.rect.x / width)
        assert np.float32(row["v_scale"]) == np.float32(frame.rect.h / height)
    clips = {row["name"]: row for row in table["clips"]}
    for clip in manifest.clips:
        row, player = clips[clip.name], Player(clip)
        timebase = Fraction(*row["timebase"])
        begun = Fraction(*row["phase"])
        for step in row["steps"]:
            for tick in (step["start"], step["start"] + step["hold"] - Fraction(1, 7)):
                time = (tick - begun) % row["cycle"] / timebase
                assert player.at(time).frame == step["frame"]
    assert (clips["hoot"]["repeat"], clips["hoot"]["end"], clips["hoot"]["interpolation"]) == (4, "none", "step")
    assert [event["name"] for event in clips["hoot"]["events"]] == ["hoo!"] * 2


def test_csv_is_read_back_and_no_name_is_a_formula(place: Path) -> None:
    kivel.export("owl.kivel.json", out="t.csv", origin="bottom", half_texel=True)
    with (place / "t.csv").open(newline="") as file:
        rows = list(csv.DictReader(file))
    kinds = [row["row"] for row in rows]
    assert (kinds.count("frame"), kinds.count("clip"), kinds.count("event")) == (5, 2, 2)
    assert {row["clip"] for row in rows} == {"", "'+blink", "hoot"}
    sheet, first = rows[:2]
    assert (sheet["row"], sheet["columns"], sheet["cell_width"]) == ("sheet", "3", "6")
    page = read_manifest(place / "owl.kivel.json").pages[0].size
    assert np.float32(first["v"]) == np.float32((page.h - int(first["y"]) - int(first["height"]) + 0.5) / page.h)
    assert np.float32(first["u_scale"]) == np.float32((int(first["width"]) - 1) / page.w)


PROGRAM = """
#include <stdio.h>
#include "owl_table.h"
int main(void) {
    const owl_frame *f;
    const owl_step *s;
    for (f = owl_frames; f < owl_frames + OWL_FRAME_COUNT; f++)
        printf("%a %a %s\\n", (double)f->u, (double)f->v_scale, f->name);
    for (s = owl_steps; s < owl_steps + OWL_STEP_COUNT; s++)
        printf("%d %lld %lld %a\\n", s->frame, s->start, s->hold, (double)s->start_seconds);
    printf("%d %s %s %lld\\n", OWL_EVENT_COUNT, owl_events[0].name, owl_clips[1].name, owl_clips[1].repeat);
    return 0;
}
"""
COMPILERS = {"C99": ("gcc", "-std=c99", "-pedantic"), "C++11": ("g++", "-std=c++11", "-x", "c++")}


@pytest.mark.parametrize("compiler", COMPILERS.values(), ids=COMPILERS)
def test_a_compiler_takes_the_header_and_its_bits_are_those_of_numpy(place: Path, compiler: tuple[str, ...]) -> None:
    if not shutil.which(compiler[0]):
        pytest.skip(f"there is no {compiler[0]}")
    kivel.export("owl.kivel.json", out="owl_table.h")
    (place / "main.c").write_text(PROGRAM)
    words = [*compiler, "-Wall", "-Wextra", "-Werror", "main.c", "-o", "main"]
    assert subprocess.run(words, capture_output=True, text=True, check=False).stderr == ""
    lines = subprocess.run(["./main"], capture_output=True, text=True, check=True).stdout.splitlines()
    table = json.loads(kivel.export("owl.kivel.json").contents["owl.json"])
    frames, steps = table["frames"], [step for clip in table["clips"] for step in clip["steps"]]
    assert lines[: len(frames)] == [f"{_hex(row['u'])} {_hex(row['v_scale'])} {row['name']}" for row in frames]
    assert lines[len(frames) :][: len(steps)] == [
        f"{step['frame']} {step['start']} {step['hold']} {_hex(step['seconds'][0])}" for step in steps
    ]
    assert lines[-1] == "2 hoo! hoot 4"


def _hex(value: float) -> str:
    """As C prints a 32-bit float by %a."""
    head, _, exponent = float(np.float32(value)).hex().partition("p")
    mantissa = head.rstrip("0").rstrip(".") if "." in head else head
    return f"{mantissa}p{exponent}"


def test_another_clock_tells_its_rounding_and_refuses_what_it_cannot_show() -> None:
    made = kivel.export("owl.kivel.json", clock=60)
    assert any('clip "hoot": steps end up to ' in note for note in made.notes)
    with pytest.raises(kivel.KivelError, match=r'clip "\+blink": at 2 ticks a second steps 1 would not show at all'):
        kivel.export("owl.kivel.json", clock=2)


@pytest.mark.parametrize("name", ["t.json", "t.h", "t.css", "t.html", "t.svg", "t.wgsl", "t.glb", "t.ktx2", "t.vtt"])
def test_what_nobody_edited_is_written_again_and_what_somebody_did_is_not(place: Path, name: str) -> None:
    out = place / name
    target: Any = next(target for target, one in TARGETS.items() if out.suffix in one.suffixes)
    kivel.export("owl.kivel.json", to=target, clip=["hoot"], out=out)
    kivel.retime("owl.kivel.json", clip=["hoot"], fps=7)
    kivel.export("owl.kivel.json", to=target, clip=["hoot"], out=out)
    out.write_bytes(out.read_bytes() + b" ")
    kivel.retime("owl.kivel.json", clip=["hoot"], fps=8)
    with pytest.raises(kivel.KivelError, match="force=True"):
        kivel.export("owl.kivel.json", to=target, clip=["hoot"], out=out)


def test_several_manifests_go_into_a_folder(place: Path) -> None:
    kivel.sheet("owl", out="eagle.png")
    kivel.export("owl.kivel.json", "eagle.kivel.json", out="tables")
    assert sorted(files(place / "tables")) == ["eagle.json", "owl.json"]


def test_vtt_shows_at_any_time_what_plays(place: Path) -> None:
    kivel.export("owl.kivel.json", to="vtt", clip=["hoot"], out="hoot.vtt")
    clip = next(clip for clip in read_manifest(place / "owl.kivel.json").clips if clip.name == "hoot")
    blocks = (place / "hoot.vtt").read_text().split("\n\n")
    rects = [list(frame.rect) for frame in read_manifest(place / "owl.kivel.json").frames]
    assert blocks[0] == "WEBVTT"
    for block in blocks[2:]:
        times, shown = block.strip().split("\n")
        start, end = (Fraction(time.replace("00:00:", "")) for time in times.split(" --> "))
        frame = rects.index([int(value) for value in shown.removeprefix("owl.png#xywh=").split(",")])
        for time in (start, (start + end) / 2, end - Fraction(1, 1000)):
            assert frame in {
                Player(clip).at(max(Fraction(0), time + off)).frame
                for off in (Fraction(-1, 2000), 0, Fraction(1, 2000))
            }
    length = Player(clip).length
    assert length is not None
    assert end == Fraction(round(length * 1000), 1000)


def test_several_targets_go_into_a_folder_and_say_what_they_have_no_place_for(place: Path) -> None:
    made = kivel.export("owl.kivel.json", to=["vtt", "table"], out="out")
    assert sorted(files(place / "out")) == ["owl-+blink.vtt", "owl-hoot.vtt", "owl.json"]
    assert "owl.kivel.json: WebVTT has no place for repeat counts (+blink); events (hoot)" in made.notes
    assert json.loads((place / "out/owl.json").read_text())["pages"][0]["files"] == {"color": "../owl.png"}
    with pytest.raises(kivel.KivelError, match="has no place for events"):
        kivel.export("owl.kivel.json", to="vtt", clip=["hoot"], strict=True)


def test_css_shows_the_rectangles_of_trimmed_frames_in_one_box(place: Path) -> None:
    small = np.zeros((5, 6, 4), np.uint8)
    small[1:3, 2:5] = 200
    write(place / "dots/dots_0.png", small)
    write(place / "dots/dots_1.png", np.roll(small, (2, 1), (0, 1)) // 2)
    kivel.atlas("dots", out="dots.png", repeat=2, fps=8)
    kivel.export("dots.kivel.json", to="css", out="web")
    text = (place / "web/dots.css").read_text()
    page = read_manifest(place / "dots.kivel.json")
    assert f'url("../dots.png") 0 0 / {page.pages[0].size.w}px {page.pages[0].size.h}px' in text
    assert "animation: dots-dots 250ms step-end 2 both;" in text
    for frame in page.frames:
        x, y = frame.offset[0] - frame.rect.x, frame.offset[1] - frame.rect.y
        inset = (
            frame.offset[1],
            6 - frame.offset[0] - frame.rect.w,
            5 - frame.offset[1] - frame.rect.h,
            frame.offset[0],
        )
        sides = " ".join(f"{side}px" for side in inset)
        assert f"background-position: {x}px {y}px; clip-path: inset({sides})" in text


def test_svg_has_the_page_in_it_and_is_well_formed(place: Path) -> None:
    kivel.export("owl.kivel.json", to="svg", clip=["hoot"], out="hoot.svg")
    root = ElementTree.parse(place / "hoot.svg").getroot()
    style = root.find("{http://www.w3.org/2000/svg}style")
    assert (root.get("width"), root.get("height")) == ("6", "5")
    assert style is not None
    data = str(style.text).partition("base64,")[2].partition('"')[0]
    (place / "page.png").write_bytes(base64.b64decode(data))
    assert np.array_equal(read(place / "page.png"), read(place / "owl.png"))
    assert ".owl-hoot {" in str(style.text)


REFUSED = {
    "a suffix": ({"out": "t.txt", "to": "table"}, "a table ends in .json, .csv, .h"),
    "an unknown suffix": ({"out": "t.txt"}, "its ending says what to write: .json, .csv, .h, .css"),
    "two clips for one file": ({"out": "t.vtt", "to": "vtt"}, "a vtt holds one clip"),
    "blends in CSS": ({"out": "t.css", "to": "css", "clip": ["soft"]}, "these would slide"),
    "a file for many": ({"out": "t.css", "to": ["css", "vtt"]}, "there are several files; use a folder"),
    "no clip": ({"clip": ["fly"]}, "there is no clip 'fly'"),
    "the manifest itself": ({"out": "owl.kivel.json"}, "is an input of this command"),
}


@pytest.mark.parametrize(("options", "words"), REFUSED.values(), ids=REFUSED)
def test_what_cannot_be_exported_says_why(place: Path, options: dict[str, Any], words: str) -> None:
    kivel.retime("owl.kivel.json", clip=["hoot"], new="soft", interpolation="linear")
    before = files(place)
    with pytest.raises(kivel.KivelError, match=words):
        kivel.export("owl.kivel.json", **options)
    assert files(place) == before


FEATURE_CLIPS: dict[str, dict[str, Any]] = {
    "blending": {"interpolation": "linear"},
    "repeat": {"repeat": 2},
    "phase": {"phase": Fraction(1, 2)},
    "end": {"repeat": 2, "end": "none"},
    "then": {"repeat": 2, "then": "+blink"},
    "events": {"events": (Event(0, "hoo"),)},
    "unequal holds": {"steps": (Step(2, 1), Step(3, 2))},
    "turned frames": {},
    "several pages": {},
}


@pytest.mark.parametrize("feature", FEATURE_CLIPS)
@pytest.mark.parametrize("target", TARGETS)
def test_a_target_carries_what_the_list_says(place: Path, target: Any, feature: str) -> None:
    path = place / "owl.kivel.json"
    manifest = read_manifest(path)
    clip = Clip("hoot", Fraction(12), (Step(2, 1), Step(3, 1)), repeat=1)
    manifest = replace(manifest, clips=(manifest.clips[0], replace(clip, **FEATURE_CLIPS[feature])))
    if feature == "turned frames":
        frames = tuple(replace(one, turn=90, canvas=Size(*one.canvas[::-1])) for one in manifest.frames)
        manifest = replace(manifest, grid=None, frames=frames)
    if feature == "several pages":
        frames = (*manifest.frames[:3], *(replace(one, page=1) for one in manifest.frames[3:]))
        manifest = replace(manifest, grid=None, pages=manifest.pages * 2, frames=frames)
    path.write_text(manifest_text(manifest))
    carried = TARGETS[target].carries[FEATURES.index(feature)]
    if carried == "refused":
        with pytest.raises(kivel.KivelError, match=r"CSS needs frames on one page|these would slide"):
            kivel.export(path, to=target, clip=["hoot"])
        return
    notes = " ".join(kivel.export(path, to=target, clip=["hoot"]).notes)
    word = {"repeat": "counts", "end": "counts", "then": "counts", "turned frames": "rotated"}.get(feature, feature)
    assert (word in notes) == (carried == "noted") or (word == "counts" and carried == "written out")


SUFFIXES = [(suffix, name) for name, target in TARGETS.items() for suffix in target.suffixes]


@pytest.mark.parametrize(("suffix", "target"), SUFFIXES)
def test_the_ending_says_what_is_written(suffix: str, target: Any) -> None:
    by_ending = kivel.export("owl.kivel.json", clip=["hoot"], out=f"owl-hoot{suffix}")
    stated = kivel.export("owl.kivel.json", clip=["hoot"], to=target, out=f"owl-hoot{suffix}")
    assert Path(f"owl-hoot{suffix}") in [file.path for file in by_ending.files]
    assert [file._replace(outcome="new") for file in stated.files] == list(by_ending.files)
    assert {file.outcome for file in stated.files} == {"unchanged"}
