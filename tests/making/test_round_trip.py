"""A sheet sliced, edited in one frame and laid out again is the same sheet but for that frame."""

from __future__ import annotations

import contextlib
import json
import shlex
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import jsonschema
import numpy as np
import pytest
from drawn_sheets import drawn_sheet, irregular_sheet

import kivel
from kivel.cli.document_schemas import document_schema
from kivel.core.pixels.pixels import Pixels
from kivel.files.manifest.parsing import read_manifest
from program import in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        yield tmp_path


def _options(kind: str, number: int) -> tuple[Pixels, dict[str, Any]]:
    """A drawn sheet, and what states how it divides."""
    sheet = irregular_sheet(number) if kind == "irregular" else drawn_sheet(kind, number)
    return sheet.image, sheet.stated


KINDS = ["plain", "strip", "tileset", "lines", "padded", "fractional", "keyed", "spaced", "irregular"]


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("number", range(300, 303))
def test_any_sheet_cut_by_hand_comes_back_as_it_was(place: Path, kind: str, number: int) -> None:
    image, stated = _options(kind, number)
    write(place / "old.png", image)
    made = kivel.slice("old.png", out="cut", **stated)
    again = kivel.sheet("cut", out="new.png")
    assert np.array_equal(read(place / "new.png"), image)
    assert [frame.rect for frame in again.manifest.frames] == [
        frame.cut and frame.cut.rect for frame in made.manifest.frames
    ]
    assert all(map(np.array_equal, kivel.slice("new.png").images.values(), made.images.values()))


@pytest.mark.parametrize("kind", ["lines", "keyed", "irregular"])
def test_the_frame_that_was_edited_is_all_that_changes(place: Path, kind: str) -> None:
    image, stated = _options(kind, 301)
    write(place / "old.png", image)
    cut = kivel.slice("old.png", out="cut", **stated).manifest.frames[2].cut
    frame = read(place / "cut/old_0002.png").copy()
    frame[frame[..., 3] > 0] = (1, 2, 3, 255)
    write(place / "cut/old_0002.png", frame)
    with pytest.raises(kivel.KivelError, match="was not written by Kivel"):
        kivel.sheet("cut", out="old.png", columns=1, odd_size="pad")
    kivel.sheet("cut", out="old.png")  # all that was there is there again, but for the frame
    assert cut is not None
    x, y, w, h = cut.rect
    now, changed = read(place / "old.png"), image.copy()
    changed[y : y + h, x : x + w][frame[:h, :w, 3] > 0] = (1, 2, 3, 255)
    assert not np.array_equal(now, image)
    assert np.array_equal(now, changed)


def test_a_layout_that_is_stated_wins(place: Path) -> None:
    image, stated = _options("plain", 300)
    write(place / "old.png", image)
    frames = len(kivel.slice("old.png", out="cut", **stated).manifest.frames)
    grid = kivel.sheet("cut", out="new.png", columns=frames).manifest.grid
    assert grid is not None
    assert (grid.columns, grid.rows) == (frames, 1)


def test_frames_that_went_leave_the_columns_and_the_gap(place: Path) -> None:
    sheet = np.zeros((2 * 8 + 2, 3 * 8 + 4, 4), np.uint8)
    sheet[..., 3] = 255
    write(place / "old.png", sheet)
    kivel.slice("old.png", out="cut", columns=3, rows=2, gap=2)
    (place / "cut/old_0001.png").unlink()
    made = kivel.sheet("cut", out="new.png")
    grid = made.manifest.grid
    assert grid is not None
    assert (grid.columns, grid.rows, tuple(grid.gap)) == (3, 2, (2, 2))
    assert any("not all frames of the sheet: 3 columns as before" in note for note in made.notes)


def test_timing_names_and_clips_come_along(place: Path) -> None:
    image, stated = _options("plain", 300)
    write(place / "old.png", image)
    kivel.slice("old.png", out="cut", fps=7, row_clips=[f"r{n}" for n in range(stated["rows"])], **stated)
    made = kivel.sheet("cut", out="new.png").manifest
    assert [clip.name for clip in made.clips] == [f"r{n}" for n in range(stated["rows"])]
    assert {clip.timebase for clip in made.clips} == {Fraction(7)}


WAYS = {
    "islands": "--islands",
    "islands on one canvas": "--islands --align bottom",
    "regions": "--regions old.regions.toml",
    "two grids": "--grid 'at=0,0 cell=10x12 columns=3 rows=1' --grid 'at=0,20 cell=8x8 columns=2 rows=2'",
    "one grid": "--cell 20x20 --at 0,0",
}


@pytest.mark.parametrize("way", WAYS.values(), ids=WAYS)
def test_the_command_puts_frames_back_however_they_were_cut(place: Path, way: str) -> None:
    """And says so, to people and to scripts, where there is no one grid to tell of."""
    image = np.zeros((40, 40, 4), np.uint8)
    for x, y in ((1, 2), (12, 1), (23, 3), (2, 22), (10, 21), (1, 30)):
        image[y : y + 6, x : x + 5] = (10 * x, 5 * y, 90, 255)
    write(place / "old.png", image)
    (place / "old.regions.toml").write_text(
        'image = "old.png"\n[[region]]\nname = "a"\nrect = [0, 0, 10, 12]\n'
        '[[region]]\nname = "b"\nrect = [20, 0, 11, 15]\n'
    )
    cut = in_process(["slice", "old.png", "-o", "cut", *shlex.split(way)], place)
    assert cut.code == 0, cut.err
    for words in (["-o", "new.png"], ["-o", "old.png"], ["-o", "old.png", "--json"]):
        done = in_process(["sheet", "cut", *words], place)
        assert done.code == 0, done.err
        assert ("each in its place" in done.out) == (way != WAYS["one grid"] and "--json" not in words)
        assert np.array_equal(read(place / words[1]), image)
    document = json.loads(done.out)
    jsonschema.validate(document, document_schema("sheet"))
    assert ("columns" in document) == (way == WAYS["one grid"])


@pytest.mark.parametrize("way", [way for way in WAYS.values() if way != WAYS["one grid"]])
@pytest.mark.parametrize("gone", [0, 1, -1])
def test_the_place_of_a_frame_that_went_is_left_empty(place: Path, way: str, gone: int) -> None:
    """Every other pixel stays, the clip is shorter, and the picture that holds more is not replaced unasked."""
    image = np.zeros((40, 40, 4), np.uint8)
    for number, (x, y) in enumerate(((1, 2), (12, 1), (23, 3), (2, 22), (10, 21), (1, 30))):
        image[y : y + 6, x : x + 5] = (40 * number + 20, 5 * y, 90, 255)
    write(place / "old.png", image)
    (place / "old.regions.toml").write_text(
        'image = "old.png"\n[[region]]\nname = "a"\nrect = [0, 0, 10, 12]\n'
        '[[region]]\nname = "b"\nrect = [20, 0, 11, 15]\n[[region]]\nname = "c"\nrect = [0, 20, 9, 9]\n'
    )
    assert in_process(["slice", "old.png", "-o", "cut", *shlex.split(way)], place).code == 0
    manifest = read_manifest(next((place / "cut").glob("*.kivel.json")))
    frame = manifest.frames[gone]
    (place / "cut" / manifest.pages[frame.page].maps["color"].file).unlink()
    expected = image.copy()
    assert frame.cut is not None
    frame.cut.rect.of(expected)[...] = 0
    made = kivel.sheet("cut", out="new.png")
    assert np.array_equal(read(place / "new.png"), expected)
    kept = [one for one in manifest.frames if one is not frame]
    assert [one.rect for one in made.manifest.frames] == [one.cut and one.cut.rect for one in kept]
    assert len(made.manifest.clips[0].steps) == len(kept)
    with pytest.raises(kivel.KivelError, match="was not written by Kivel"):
        kivel.sheet("cut", out="old.png")
