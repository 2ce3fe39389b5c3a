"""A sheet edited without taking it apart: the same promises as for frames in a folder."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from program import art, files, in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """`k.png`: two rows that are clips, with normals, holds, a pivot that was set, and an event."""
    with contextlib.chdir(tmp_path):
        for number in range(6):
            write(Path(f"raw/k_{number}.png"), art(number))
            write(Path(f"normals/k_{number}.png"), art(50 + number))
        kivel.sheet("raw", out="k.png", columns=3, row_clips=["walk", "die"], map={"normal": "normals"})
        kivel.retime("k.kivel.json", clip="walk", holds="10ms,20ms,30ms", event=["1:step"])
        kivel.retime("k.kivel.json", clip="die", holds="40ms,50ms,60ms")
        kivel.retime("k.kivel.json", pivot=["bottom"])
        for name, number in (("new", 90), ("new-n", 91)):
            write(Path(f"{name}.png"), art(number))
        yield tmp_path


def holds(made: Any) -> dict[str, list[int]]:
    return {clip.name: [int(1000 * clip.seconds(step.hold)) for step in clip.steps] for clip in made.manifest.clips}


def cell(name: str, number: int) -> np.ndarray:
    row, column = divmod(number, 3)
    return read(Path(name))[5 * row : 5 * row + 5, 6 * column : 6 * column + 6]


@pytest.mark.parametrize("frame", ["k_1", "1"])
def test_a_frame_is_replaced_in_its_place(frame: str) -> None:
    before = read(Path("k.png")), read(Path("k.normal.png"))
    made = kivel.sheet("k.kivel.json", replace={frame: "new.png", f"{frame}:normal": "new-n.png"})
    assert np.array_equal(cell("k.png", 1), art(90))
    assert np.array_equal(cell("k.normal.png", 1), art(91))
    for name, old in zip(("k.png", "k.normal.png"), before, strict=True):
        changed = (read(Path(name)) != old).any(axis=2)
        assert not changed[:, :6].any()
        assert not changed[5:].any()
    assert holds(made) == {"walk": [10, 20, 30], "die": [40, 50, 60]}
    assert [edit.kind for edit in made.edits] == ["repainted"]
    assert [frame.pivot for frame in made.manifest.frames] == [(0.5, 1.0)] * 6
    assert made.manifest.frames[0].set == ("pivot",)


def test_frames_are_removed_and_inserted_and_rows_stay_rows() -> None:
    made = kivel.sheet(
        "k.kivel.json", remove=[0], insert={"5": "new.png", "5:normal": "new-n.png"}, out="other.png"
    )  # fmt: skip
    assert holds(made) == {"walk": [20, 30], "die": [40, 50, 50, 60]}
    assert [frame.name for frame in made.manifest.frames] == ["k_1", "k_2", "k_3", "k_4", "new", "k_5"]
    assert [(event.step, event.name) for clip in made.manifest.clips for event in clip.events] == [(0, "step")]
    assert made.manifest.grid is not None
    assert (made.manifest.grid.columns, made.manifest.grid.rows) == (4, 2)
    assert {edit.kind: edit.frame for edit in made.edits} == {"removed": "k_0", "added": "new"}
    assert Path("other.kivel.json").exists()
    assert np.array_equal(read(Path("k.png"))[:5, :6], art(0)), "the sheet itself is as it was"


REFUSED: dict[str, tuple[list[str], str]] = {
    "no such frame": (["k.kivel.json", "--replace", "k_11=new.png"], "k_11: no such frame; did you mean k_1?"),
    "no such number": (["k.kivel.json", "--remove", "6"], "--remove 6: no such frame; there are 6 frames, 0-5"),
    "no such map": (["k.kivel.json", "--replace", "1:norml=new.png"], "no such map; did you mean normal?"),
    "no map for it": (["k.kivel.json", "--insert", "6=new.png"], "--insert 6:normal=FILE or --missing-map neutral"),
    "a folder": (["raw", "--remove", "1"], "--remove edits a sheet: give only its manifest"),
    "no file": (["k.kivel.json", "--replace", "1=gone.png"], "gone.png"),
    "a larger map": (["k.kivel.json", "--replace", "1:normal=large.png"], "large.png has 9x9 px, expected 6x5"),
}  # fmt: skip


@pytest.mark.parametrize(("words", "message"), REFUSED.values(), ids=REFUSED)
def test_what_cannot_be_is_said_and_nothing_is_written(words: list[str], message: str) -> None:
    write(Path("large.png"), art(1, width=9, height=9))
    before = files(Path.cwd())
    done = in_process(["sheet", *words], Path.cwd())
    assert done.code != 0
    assert message in done.err
    assert files(Path.cwd()) == before


def test_a_picture_that_was_adopted_stays_its_painters(place: Path) -> None:
    write(place / "own.png", read(Path("k.png")))
    kivel.adopt("own.png", cell="6x5")
    with pytest.raises(kivel.KivelError, match=r"own\.png"):
        kivel.sheet("own.kivel.json", replace={"0": "new.png"})
    kivel.sheet("own.kivel.json", replace={"0": "new.png"}, force=True)
    assert np.array_equal(cell("own.png", 0), art(90))


def test_a_removed_frame_of_a_folder_keeps_its_cell_and_its_time_if_asked() -> None:
    kivel.slice("k.kivel.json", out="cut")
    Path("cut/k_0001.png").unlink()
    Path("cut/k_0001.normal.png").unlink()
    made = kivel.sheet("cut", out="holes.png", keep_holes=True)
    assert holds(made) == {"walk": [10, 20, 30], "die": [40, 50, 60]}
    assert not cell("holes.png", 1).any()
    assert (cell("holes.normal.png", 1) == (128, 128, 255, 255)).all()
    assert np.array_equal(cell("holes.png", 2), art(2))
    assert any("removed, kept as empty cells: k_1" in note for note in made.notes)


def test_a_hole_is_where_its_frame_was_when_the_others_were_counted_on() -> None:
    kivel.slice("k.kivel.json", out="cut")
    for tail in ("", ".normal"):
        Path(f"cut/k_0001{tail}.png").unlink()
        for number in range(2, 6):
            Path(f"cut/k_{number:04d}{tail}.png").rename(f"cut/k_{number - 1:04d}{tail}.png")
    made = kivel.sheet("cut", out="holes.png", keep_holes=True)
    assert holds(made) == {"walk": [10, 20, 30], "die": [40, 50, 60]}
    assert not cell("holes.png", 1).any()
    for number in (0, 2, 3, 4, 5):
        assert np.array_equal(cell("holes.png", number), art(number)), number


@pytest.mark.parametrize("words", ["k.kivel.json --replace 0=../new.png", "../new.png --into k.kivel.json"])
def test_a_link_that_came_along_leads_no_page_out_of_the_folder(place: Path, words: str) -> None:
    kivel.sheet("raw/k_0.png", "raw/k_1.png", "raw/k_2.png", out="own/k.png", columns=2)
    manifest = read_manifest(Path("own/k.kivel.json"))
    file = replace(manifest.pages[0].maps["color"], file="link/k.png")
    pages = (replace(manifest.pages[0], maps={"color": file}),)
    Path("gift").mkdir()
    Path("gift/link").symlink_to("../own")
    Path("gift/k.kivel.json").write_text(manifest_text(replace(manifest, pages=pages)))
    before = files(place)
    done = in_process(["sheet", *words.split()], place / "gift")
    assert (done.code, "leads out of the folder of k.kivel.json" in done.err) == (1, True)
    assert files(place) == before
