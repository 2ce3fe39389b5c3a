"""Pivots are set without moving a pixel, by place, by pixel, by what is seen; frames of other sizes are registered."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from program import art, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    for name, size in (("walk", (8, 10)), ("rest", (8, 10))):
        for number in range(3):
            image = np.zeros((size[1], size[0], 4), np.uint8)
            image[5:7, 2 + number : 4 + number] = 255
            write(tmp_path / f"{name}/{name}_{number}.png", image)
    with contextlib.chdir(tmp_path):
        yield tmp_path


def pivots(path: str) -> dict[str, list[float]]:
    return {frame["name"]: frame["pivot"] for frame in json.loads(Path(path).read_text())["frames"]}


WHERE: dict[str, tuple[Any, list[float], list[float]]] = {
    "a place for all": ("bottom", [0.5, 1], [0.5, 1]),
    "a corner": ("top-left", [0, 0], [0, 0]),
    "a pixel": ([(2, 5)], [0.25, 0.5], [0.25, 0.5]),
    "one series": ({"walk*": "bottom-right"}, [1, 1], [0.5, 0.5]),
    "all, and one": (["center", ("rest", "top")], [0.5, 0.5], [0.5, 0]),
    "what is seen": ({"walk": "mass"}, [0.5, 0.6], [0.5, 0.5]),
}


@pytest.mark.parametrize(("given", "walk", "rest"), WHERE.values(), ids=WHERE)
def test_pivots_are_where_they_are_asked_for(given: Any, walk: list[float], rest: list[float]) -> None:
    for name in ("sheet", "atlas"):
        getattr(kivel, name)("walk", "rest", out=f"{name}.png", pivot=given)
        found = pivots(f"{name}.kivel.json")
        assert (found["walk_1"], found["rest_2"]) == (walk, rest)
    kivel.sheet("walk", "rest", out="s.png")
    before = Path("s.png").read_bytes()
    kivel.retime("s.kivel.json", pivot=given)
    assert (pivots("s.kivel.json")["walk_1"], pivots("s.kivel.json")["rest_2"]) == (walk, rest)
    kivel.sheet("walk", "rest", out="s.png")
    assert (pivots("s.kivel.json")["walk_0"], Path("s.png").read_bytes()) == (walk, before)
    kivel.sheet("walk", "rest", out="s.png", pivot="left")
    assert set(map(tuple, pivots("s.kivel.json").values())) == {(0, 0.5)}


def test_sliced_frames_and_one_clip_or_frame_have_theirs() -> None:
    kivel.sheet("walk", "rest", out="s.png")
    kivel.retime("s.kivel.json", clip="walk", pivot="bottom")
    kivel.retime("s.kivel.json", pivot={"rest_1": "top"})
    found = pivots("s.kivel.json")
    assert (found["walk_2"], found["rest_0"], found["rest_1"]) == ([0.5, 1], [0.5, 0.5], [0.5, 0])
    kivel.slice("s.kivel.json", out="cut", pivot={"rest": "left"})
    assert pivots("cut/s.kivel.json")["rest_1"] == [0, 0.5]
    with pytest.raises(kivel.KivelError, match="no series is called 'run'; series: walk, rest"):
        kivel.sheet("walk", "rest", pivot={"run": "top"})
    with pytest.raises(kivel.KivelError, match="or X,Y in pixels, like 16,30, found 'toes'"):
        kivel.sheet("walk", pivot="toes")


def test_odd_frames_are_scaled_to_the_usual_size_with_their_maps() -> None:
    write(Path("walk/walk_3.png"), art(1, width=16, height=20))
    for number in range(4):
        write(Path(f"n/n_{number}.png"), art(number, width=16 if number == 3 else 8, height=20 if number == 3 else 10))
    made = kivel.sheet("walk", odd_size="scale", map={"normal": "n"})
    assert {frame.canvas for frame in made.manifest.frames} == {(8, 10)}
    assert any("scaled to 8x10 px, keeping the aspect ratio: walk_3.png 16x20" in note for note in made.notes)


def test_an_atlas_says_how_frames_of_several_sizes_register() -> None:
    write(Path("walk/walk_3.png"), art(1, width=6, height=4))
    made = kivel.atlas("walk")
    assert any("walk: frames of several sizes, 3 of 8x10, 1 of 6x4 px" in note for note in made.notes)
    made = kivel.atlas("walk", align="bottom")
    assert [(frame.canvas, frame.offset[1]) for frame in made.manifest.frames][3] == ((8, 10), 6)
