"""Real folders: many series side by side, in sub-folders, numbered in two ways, in a shell's list."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from program import Kivel, art, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    seed = 0
    for name, count in (("walk", 3), ("run", 2), ("portrait", 1)):
        for number in range(count):
            seed += 1
            write(tmp_path / f"chars/{name}{f'_{number}' if count > 1 else ''}.png", art(seed))
    for number in range(4):
        write(tmp_path / f"chars/keeper/walk_{number}.png", art(number + 20))
        write(tmp_path / f"chars/owl/fly_{number}.png", art(number + 30))
        write(tmp_path / f"chars/owl/rest_{number}.png", art(number + 40))
    with contextlib.chdir(tmp_path):
        yield tmp_path


PICKED: dict[str, tuple[str, str, list[str]]] = {
    "by name": ("chars", "walk", ["walk_0", "walk_1", "walk_2"]),
    "by pattern": ("chars", "run_#.png", ["run_0", "run_1"]),
    "by a wild name": ("chars", "r*n", ["run_0", "run_1"]),
    "in a sub-folder": ("chars", "keeper", [f"keeper/walk_{n}" for n in range(4)]),
    "one of several there": ("chars", "owl/fly", [f"owl/fly_{n}" for n in range(4)]),
    "of a pattern": ("chars/*.png", "run", ["run_0", "run_1"]),
}


@pytest.mark.parametrize(("source", "pick", "names"), PICKED.values(), ids=PICKED)
def test_one_series_is_picked_by_its_name_or_pattern(source: str, pick: str, names: list[str]) -> None:
    for make, options in ((kivel.sheet, {}), (kivel.resample, {"count": 2}), (kivel.prep, {"step": ["crop 2x2"]})):
        made = make(source, series=pick, **options)
        assert {frame.name for frame in made.manifest.frames} <= set(names)
    assert [frame.name for frame in kivel.sheet(source, series=pick).manifest.frames] == names


def test_a_source_of_a_single_series_is_taken_beside_one_of_many() -> None:
    made = kivel.sheet("chars/keeper", "chars", series="walk").manifest
    assert [clip.name for clip in made.clips] == ["keeper", "walk"]


def test_several_are_picked_and_each_is_a_clip() -> None:
    assert [clip.name for clip in kivel.sheet("chars", series="owl/*").manifest.clips] == ["owl/fly", "owl/rest"]
    few = kivel.resample("chars", series="owl/*", count=2).manifest
    assert [(clip.name, len(clip.steps)) for clip in few.clips] == [("owl/fly", 2), ("owl/rest", 2)]
    with pytest.raises(kivel.KivelError, match='2 series; series="fly" or a pattern in quotes'):
        kivel.resample("chars/owl", count=2)
    with pytest.raises(kivel.KivelError, match="there is no series 'swim'; there are portrait, run, walk, keeper"):
        kivel.sheet("chars", series="swim")


def test_a_series_that_looks_like_a_map_is_pointed_out() -> None:
    for number in range(2):
        for name in ("lamp_{}", "lamp_{}_glow"):
            write(Path(f"lamps/{name.format(number)}.png"), art(number))
    with pytest.raises(kivel.KivelError) as error:
        kivel.sheet("lamps")
    assert "(lamp_glow looks like a map of lamp: map_suffix='glow=_glow' includes it)" in str(error.value).replace(
        '"', "'"
    )
    assert list(kivel.sheet("lamps", map_suffix={"glow": "_glow"}).manifest.pages[0].maps) == ["color", "glow"]


def test_an_atlas_goes_down_and_every_name_is_its_own() -> None:
    made = kivel.atlas("chars").manifest
    names = [frame.name for frame in made.frames]
    assert (len(names), len(set(names))) == (18, 18)
    assert {"walk_0", "portrait", "keeper/walk_0", "owl/rest_3"} <= set(names)
    assert [clip.name for clip in made.clips] == ["run", "walk", "keeper", "owl/fly", "owl/rest"]
    Path("up").mkdir()
    Path("chars").rename("up/chars")
    with pytest.raises(kivel.KivelError, match=r"no images in it, its sub-folders hold chars/.*; use one of them"):
        kivel.sheet("up")


def test_inspect_lists_a_folder_of_many(kivel: Kivel) -> None:
    done = kivel("inspect", "chars")
    assert (done.code, done.err) == (0, "")
    rows = [line.split() for line in done.out.splitlines()[2:]]
    assert rows[0] == ["series", "frames", "numbers", "size", "pattern"]
    assert rows[1] == ["run", "2", "0-1", "6x5", '"chars/run_#.png"']
    assert rows[-1] == ["portrait", "1", "6x5", '"chars/portrait.png"']
    assert max(map(len, done.out.splitlines())) < 100
    found = json.loads(kivel("inspect", "chars", "--json").out)["series"]
    assert found[1] == {
        "name": "walk", "pattern": "chars/walk_#.png", "frames": 3, "first": 0, "last": 2,
        "sizes": [{"size": [6, 5], "frames": 3}],
    }  # fmt: skip
    assert "3, 0-2" in kivel("inspect", "chars", "--series", "walk").out
    assert kivel("inspect", found[1]["pattern"]).code == 0


def test_a_shells_list_of_several_series_is_as_the_folder_is() -> None:
    listed = sorted(str(path) for path in Path("chars").glob("*.png"))
    assert len(kivel.atlas(*listed).manifest.clips) == 2
    with pytest.raises(kivel.KivelError, match="3 series"):
        kivel.sheet(*listed)
    assert len(kivel.sheet(*listed, series="walk").manifest.frames) == 3
    assert len(kivel.sheet(*reversed(listed)).manifest.frames) == 6


TWICE: dict[str, tuple[list[str], int, str]] = {
    "padded and not": (
        ["f_1", "f_01", "f_02", *(f"f_{n}" for n in range(3, 13))],
        13,
        "with and without leading zeros, each file",
    ),
    "in capitals": (["f_1", "F_1", "f_2"], 3, ""),
    "by suffix": (["f_1", "f_2", "f_1.PNG"], 3, "number 1 appears 2 times: f_1.PNG, f_1.png; all are used"),
}


@pytest.mark.parametrize(("names", "count", "note"), TWICE.values(), ids=TWICE)
def test_no_file_is_taken_twice(names: list[str], count: int, note: str) -> None:
    for number, name in enumerate(names):
        write(Path("two") / (name if name.endswith("PNG") else f"{name}.png"), art(number))
    made = kivel.atlas("two")
    sources = [frame.source for frame in made.manifest.frames]
    assert (len(sources), len(set(sources))) == (count, count)
    assert len({frame.name for frame in made.manifest.frames}) == count
    assert not note or any(note in said for said in made.notes), made.notes


def test_notes_name_their_series_and_depths_that_become_one_are_said() -> None:
    Path("chars/walk_1.png").unlink()
    for number in range(2):
        write(Path(f"chars/deep_{number}.png"), art(number, dtype=np.uint16))
    notes: tuple[Any, ...] = kivel.atlas("chars").notes
    assert any(note.startswith("chars/walk_#.png: numbers missing: 1 ") for note in notes), notes
    assert any("8 bits a channel become 16 bits, like the others: portrait, run, walk" in note for note in notes), notes


MEANT: dict[str, tuple[tuple[str, ...], str, list[str]]] = {
    "by name": (("a.kivel.json",), "walk", ["walk_0", "walk_1", "walk_2"]),
    "what it shows": (("a.kivel.json",), "start", ["walk_0", "walk_1"]),
    "several": (("a.kivel.json",), "[rw]*", ["run_0", "run_1", "walk_0", "walk_1", "walk_2"]),
    "beside one of one clip": (("a.kivel.json", "one.kivel.json"), "walk", ["walk_0", "walk_1", "walk_2", "0", "1"]),
}


@pytest.mark.parametrize(("sources", "pick", "names"), MEANT.values(), ids=MEANT)
def test_the_clips_of_a_manifest_are_picked_as_series_are(
    sources: tuple[str, ...], pick: str, names: list[str]
) -> None:
    kivel.atlas("chars/*.png", out="a.png", make_clip=["all=0-5", "run=run_*", "walk=walk_*", "start=walk:0-1"])
    write(Path("one/0.png"), art(50))
    write(Path("one/1.png"), art(51))
    kivel.sheet("one", out="one.png")
    made = kivel.sheet(*sources, series=pick)
    assert [frame.name for frame in made.manifest.frames] == names
    assert made.notes == ()
    clips = ["run", "walk"] if pick == "[rw]*" else [pick, "one"][: len(sources)]
    assert [clip.name for clip in made.manifest.clips] == clips


NOT_MEANT = {
    "no such clip": ("a.kivel.json", "fly", "a.kivel.json: there is no clip 'fly'; there are run, walk"),
    "another number pattern": ("chars/run_#.png", "walk", "chars/run_#.png: there is no series 'walk'; there are run"),
    "another file": ("chars/portrait.png", "walk", "chars/portrait.png: there is no series 'walk'; there are portrait"),
}


@pytest.mark.parametrize(("source", "pick", "said"), NOT_MEANT.values(), ids=NOT_MEANT)
def test_a_series_that_is_not_there_is_never_passed_over(kivel: Kivel, source: str, pick: str, said: str) -> None:
    kivel("atlas", "chars/*.png", "-o", "a.png")
    done = kivel("loop", source, "--series", pick)
    assert (done.code, done.err.splitlines()[0]) == (1, f"error: {said}")


def test_clips_of_parts_are_judged_each_by_itself(kivel: Kivel) -> None:
    kivel("atlas", "chars/owl", "--series", "*", "-o", "owl.png")
    kivel("retime", "owl.kivel.json", "--direction", "rest:alternate")
    told = kivel("inspect", "owl.kivel.json").out
    assert "loop         fly: " in told
    assert "\n             rest: plays as ping-pong\n" in told
    one, _ = json.loads(kivel("inspect", "owl.kivel.json", "--json").out)["clips"]
    alone = json.loads(kivel("inspect", "owl.kivel.json", "--series", "fly", "--json").out)
    assert one["seam"] == alone["motion"]["seam"]
    judged = kivel("loop", "owl.kivel.json").out
    assert [line.partition(":")[0] for line in judged.splitlines() if "frames, 0-" in line] == ["fly", "rest"]


def test_a_part_of_what_was_sliced_is_laid_out_anew(kivel: Kivel) -> None:
    kivel("sheet", "chars/owl/fly_#.png", "-o", "s.png")
    kivel("slice", "s.png", "-o", "cells")
    assert kivel("sheet", "cells/s.kivel.json", "--range", "1-2", "-o", "part.png").code == 0
    names = [frame["name"] for frame in json.loads(Path("part.kivel.json").read_text())["frames"]]
    assert names == ["fly_1", "fly_2"]


@pytest.mark.parametrize("fps", [{"walk": 10, "run": 5}, ["walk:10", "run:5"]])
def test_a_value_for_each_clip_is_given_by_name(fps: Any) -> None:
    made = kivel.sheet("chars", series="[wr]*", fps=fps, dry_run=True)
    assert {clip.name: clip.length for clip in made.manifest.clips} == {"walk": Fraction(3, 10), "run": Fraction(2, 5)}
