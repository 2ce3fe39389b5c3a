"""Few colours: one palette for a map, whatever the pages; data keeps its values."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from program import art, in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    for number in range(6):
        write(tmp_path / f"moth/moth_{number}.png", art(number, width=20, height=16))
        normals = art(50 + number, width=20, height=16)
        normals[..., 3] = 255
        write(tmp_path / f"normal/moth_{number}.png", normals)
    with contextlib.chdir(tmp_path):
        yield tmp_path


def colours(*paths: Path) -> set[tuple[int, ...]]:
    return {tuple(pixel) for path in paths for pixel in read(path).reshape(-1, 4).tolist()}


@pytest.mark.parametrize("count", [2, 7, 256])
def test_all_pages_have_one_palette_and_maps_of_data_keep_their_values(place: Path, count: int) -> None:
    more: dict[str, Any] = {"page_limit": "44x32", "map": ["normal=normal"]}
    kivel.sheet("moth", out="plain.png", **more)
    made = kivel.sheet("moth", out="few.png", colors=count, **more)
    pages = sorted(place.glob("few-[0-9].png"))
    assert len(pages) > 1
    assert 1 < len(colours(*pages)) <= count
    for page in pages:
        map_page = page.with_name(page.name.replace(".png", ".normal.png"))
        assert (read(map_page) == read(map_page.with_name(map_page.name.replace("few", "plain")))).all()
        assert page.read_bytes()[25] == 3, "a palette"
    assert any(re.fullmatch(rf"{count} colours: .* dB over black, .*", note) for note in made.notes), made.notes
    assert "map normal holds data and is unchanged" in made.notes


def test_prep_and_atlas_do_it_too_and_say_when_nothing_changed(place: Path) -> None:
    made = kivel.prep("moth", step="opacity 0.5", colors=9, out="few")
    assert len(colours(*(place / "few").glob("*.png"))) <= 9
    assert "9 colours: " in made.notes[-1]
    again = kivel.atlas("few", out="few.png", colors=10, effort="quick")
    assert any(re.fullmatch(r"(9|10) colours, no pixel changed", note) for note in again.notes), again.notes
    frames = np.stack([read(path) for path in sorted((place / "few").glob("*.png"))])
    assert (frames[1:] != frames[:-1]).any()


REFUSED = {
    "data": (("prep", "normal", "--as", "normal", "--colors", "8", "-o", "x"), "--colors is for colour, but these"),
    "too few": (("sheet", "moth", "--colors", "1", "-o", "x.png"), "expected a whole number from 2 to 256, found '1'"),
    "dither alone": (("sheet", "moth", "--dither", "ordered", "-o", "x.png"), "--dither needs --colors N"),
    "into": (("sheet", "moth", "--into", "s.kivel.json", "--colors", "8"), "--colors: with --into the sheet"),
    "nothing to do": (("prep", "moth", "-o", "x"), "--step is needed"),
}


@pytest.mark.parametrize("name", REFUSED)
def test_what_makes_no_sense_is_refused(place: Path, name: str) -> None:
    words, told = REFUSED[name]
    found = in_process(words, place)
    assert (found.code > 0, told in found.err) == (True, True), found.err
    assert not list(place.glob("x*"))
