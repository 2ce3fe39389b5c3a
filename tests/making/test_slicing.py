"""Taking pictures apart: what is found, stated, picked, and refused."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from drawn_sheets import GRIDS, drawn_sheet, irregular_sheet

import kivel
from kivel.core.pixels.pixels import Pixels
from program import Kivel, art, files, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        yield tmp_path


@pytest.mark.parametrize("kind", GRIDS)
@pytest.mark.parametrize("number", range(320, 324))
def test_any_drawn_sheet_is_cut_by_hand_exactly_where_it_was_drawn(place: Path, kind: str, number: int) -> None:
    sheet = drawn_sheet(kind, number)
    image = sheet.image
    write(place / "s.png", image)
    made = kivel.slice("s.png", empty="keep", key="none", **sheet.stated)
    assert sheet.lattice
    cells = sheet.lattice.cells()
    assert len(made.images) == len(cells)
    for frame, cell in zip(made.images.values(), cells, strict=True):
        part = cell.of(image)
        assert np.array_equal(frame[: part.shape[0], : part.shape[1]], part)
        assert not frame[part.shape[0] :].any()


def test_what_is_sure_is_cut_and_what_is_not_is_listed_and_nothing_written(place: Path, kivel: Kivel) -> None:
    write(place / "sure.png", drawn_sheet("lines", 205).image)
    write(place / "odd.png", np.kron(np.eye(6, 7, dtype=np.uint8)[..., None], np.full((5, 4, 4), 255, np.uint8)))
    before = files(place)
    unsure = kivel("slice", "odd.png", "-o", "cut")
    assert (unsure.code, files(place)) == (1, before)
    assert "odd.png: the grid is not clear, so nothing is written; candidates:\n  1 " in unsure.err
    commands = [line.strip() for line in unsure.err.splitlines() if line.strip().startswith("kivel slice")]
    assert len(commands) == 5
    for number, command in enumerate(commands, 1):
        out = f"by-{number}"
        assert kivel(*command.replace("-o cut", f"-o {out}").split()[1:]).code == 0
        assert kivel("slice", "odd.png", "-o", f"picked-{number}", "--pick", str(number)).code == 0
        cut = [read(path) for path in sorted((place / out).glob("*.png"))]
        picked = [read(path) for path in sorted((place / f"picked-{number}").glob("*.png"))]
        assert len(cut) == len(picked)
        assert all(map(np.array_equal, cut, picked))
    sure = kivel("slice", "sure.png", "-o", "cut")
    assert sure.code == 0
    assert "note: found: drawn lines: 5 columns x 5 rows of 43x56, 2 px between, 25 frames (99 % sure)" in sure.err


def test_a_dry_run_ranks_what_was_found_sure_or_not(place: Path, kivel: Kivel) -> None:
    write(place / "s.png", drawn_sheet("fractional", 205).image)
    done = kivel("slice", "s.png", "-o", "cut", "--dry-run", "--json")
    found = json.loads(done.out)["found"]
    assert done.code == 0
    assert not (place / "cut").exists()
    assert {
        "kind": "grid",
        "columns": 4,
        "rows": 3,
        "cell": ["31/2", 15],
        "at": [0, 0],
        "gap": [0, 0],
        "fill": "across",
    }.items() <= found[0].items()
    assert [one["confidence"] for one in found] == sorted((one["confidence"] for one in found), reverse=True)
    write(place / "t.png", irregular_sheet(3).image)
    assert json.loads(kivel("slice", "t.png", "-o", "cut", "--dry-run", "--json").out)["found"][0]["kind"] == "islands"


def test_several_images_are_each_taken_apart_by_themselves(place: Path, kivel: Kivel) -> None:
    write(place / "a.png", drawn_sheet("lines", 205).image)
    write(place / "b.png", np.zeros((9, 9, 4), np.uint8))
    write(place / "c.png", irregular_sheet(3).image)
    done = kivel("slice", "a.png", "b.png", "c.png", "-o", "cut")
    assert done.code == 1
    assert "b.png: it is empty, nothing to slice" in done.err
    assert "1 of 3 pictures were not sliced, 2 were" in done.err
    names = {path.name for path in (place / "cut").iterdir()}
    assert {"a.kivel.json", "c.kivel.json", "a_0000.png", "c_0000.png"} <= names


def test_the_look_shows_each_way(place: Path) -> None:
    write(place / "s.png", irregular_sheet(3).image)
    made = kivel.slice("s.png", look="look.png", dry_run=False)
    assert made.looks[0].path.name == "look.png"
    assert read(place / "look.png").shape[1] == 1280


def test_several_grids_in_one_picture(place: Path) -> None:
    sheet = np.zeros((40, 60, 4), np.uint8)
    sheet[2:12, 3:15], sheet[2:12, 16:28] = art(1, width=12, height=10), art(2, width=12, height=10)
    sheet[20:30, 0:20] = art(3, width=20, height=10)
    write(place / "s.png", sheet)
    made = kivel.slice(
        "s.png", grid=["at=3,2 cell=12x10 gap=1 columns=2 rows=1", "at=0,20 cell=20x10 columns=1 rows=1"]
    )
    sizes = [image.shape[:2] for image in made.images.values()]
    assert sizes == [(10, 12), (10, 12), (10, 20)]
    assert np.array_equal(list(made.images.values())[2], art(3, width=20, height=10))


def test_like_another_sheet_takes_its_places_names_and_clips(place: Path) -> None:
    frames = {"hop": [art(n) for n in range(3)], "sit": [art(9)]}
    for name, images in frames.items():
        for number, image in enumerate(images):
            write(place / f"{name}/{name}_{number}.png", image)
    kivel.sheet("hop", "sit", out="a.png", fps=5)
    write(place / "b.png", read(place / "a.png")[::-1].copy())
    made = kivel.slice("b.png", like="a.kivel.json").manifest
    assert [frame.name for frame in made.frames] == ["hop_0", "hop_1", "hop_2", "sit_0"]
    assert [clip.name for clip in made.clips] == ["hop", "sit"]
    assert made.clips[0].timebase == 5


KEYS = {
    "found": ({}, 0),
    "kept": ({"key": "none"}, 255),
    "the corner": ({"key": "corner"}, 0),
    "stated": ({"key": "#00ff00"}, 255),
}


@pytest.mark.parametrize(("options", "alpha"), KEYS.values(), ids=KEYS)
def test_a_colour_key_becomes_transparent(place: Path, options: dict[str, Any], alpha: int) -> None:
    sheet = np.full((20, 40, 4), (255, 0, 255, 255), np.uint8)
    sheet[5:15, 5:15] = sheet[5:15, 25:35] = (9, 8, 7, 255)
    write(place / "s.png", sheet)
    for image in kivel.slice("s.png", columns=2, rows=1, **options).images.values():
        assert (image[0, 0, 3], image[9, 9, 3]) == (alpha, 255)


def test_a_line_around_all_is_not_the_key(place: Path) -> None:
    sheet = np.full((83, 101, 4), (255, 0, 255, 255), np.uint8)
    for row in range(2):
        for column in range(4):
            sheet[42 * row + 8 : 42 * row + 38, 25 * column + 5 : 25 * column + 21] = art(column, width=16, height=30)
    sheet[..., 3] = 255
    sheet[::41], sheet[:, ::25] = (120, 60, 30, 255), (120, 60, 30, 255)
    write(place / "s.png", sheet)
    made = kivel.slice("s.png")
    origin: Any = made.manifest.sliced_from
    assert (origin.grid.columns, origin.grid.rows, origin.key) == (4, 2, (255, 0, 255))


def test_a_ground_of_black_stays_where_a_grid_is_stated_and_is_said(place: Path) -> None:
    sheet = np.full((20, 40, 4), (0, 0, 0, 255), np.uint8)
    sheet[5:15, 5:15] = sheet[5:15, 25:35] = (99, 98, 97, 255)
    write(place / "s.png", sheet)
    made = kivel.slice("s.png", columns=2, rows=1)
    assert next(iter(made.images.values()))[0, 0, 3] == 255
    assert any(
        '#000000 lies behind everything and is kept; key="corner"' in note or "#000000" in note for note in made.notes
    )


def test_soft_frames_are_frames_and_named(place: Path) -> None:
    sheet = np.zeros((8, 24, 4), np.uint8)
    sheet[:, :8], sheet[3, 12] = 255, (9, 9, 9, 3)
    write(place / "s.png", sheet)
    made = kivel.slice("s.png", columns=3, rows=1)
    assert len(made.images) == 2
    assert "almost invisible, alpha below 8 of 255 everywhere: frame 1" in made.notes


def test_islands_join_and_align(place: Path) -> None:
    sheet = np.zeros((20, 40, 4), np.uint8)
    sheet[2:12, 2:12] = sheet[4:8, 14:16] = sheet[8:18, 30:34] = 255
    write(place / "s.png", sheet)
    sizes = {
        join: [i.shape[:2] for i in kivel.slice("s.png", islands=True, join=join).images.values()] for join in (0, 2)
    }
    assert sizes == {0: [(10, 10), (4, 2), (10, 4)], 2: [(10, 14), (10, 4)]}
    aligned = list(kivel.slice("s.png", islands=True, least=20, align="bottom").images.values())
    assert [image.shape[:2] for image in aligned] == [(10, 10)] * 2
    assert aligned[1][:, 3:7].all()


REFUSED: dict[str, tuple[Pixels, dict[str, Any], str]] = {
    "empty": (np.zeros((9, 9, 4), np.uint8), {}, "it is empty, nothing to slice"),
    "empty by hand": (np.zeros((9, 9, 4), np.uint8), {"columns": 3, "rows": 3}, "nothing is visible; pass empty="),
    "1x1": (np.full((1, 1, 4), 255, np.uint8), {"columns": 2}, "1 px wide is too small for 2 columns"),
    "opaque islands": (np.full((9, 9, 4), 255, np.uint8), {"islands": True}, "it is fully opaque"),
    "no such pick": (np.full((8, 8, 4), 255, np.uint8), {"pick": 9}, "pick=9: there are"),
    "two ways": (art(1), {"columns": 2, "islands": True}, "columns= cannot be combined with islands="),
    "islands' own": (art(1), {"columns": 2, "join": 2}, "join= needs islands=True"),
    "no way": (art(1), {"gap": 2}, "gap= is not enough"),
    "a grid without a cell": (art(1), {"grid": ["at=1,1"]}, "which needs columns, rows or a cell"),
}  # fmt: skip


@pytest.mark.parametrize(("image", "options", "words"), REFUSED.values(), ids=REFUSED)
def test_what_cannot_be_sliced_says_why(place: Path, image: Pixels, options: dict[str, Any], words: str) -> None:
    write(place / "s.png", image)
    with pytest.raises(kivel.KivelError) as error:
        kivel.slice("s.png", out="cut", **options)
    error.value.door = "python"
    assert words in str(error.value)
    assert not (place / "cut").exists()


@pytest.mark.parametrize("size", [(1, 1), (1, 30_000), (7, 5)])
def test_one_colour_of_any_size_is_one_frame_or_unsure(place: Path, size: tuple[int, int]) -> None:
    write(place / "s.png", np.full((*size, 4), 200, np.uint8))
    found = kivel.slice("s.png", dry_run=True).sheets[0].found
    assert found
    assert all(0 <= way.confidence <= 1 for way in found)


STRAY = [(0, 0), (2, 1), (0, 0), (-3, 0)]
"""How far each frame of a row is off, x and y."""


@pytest.mark.parametrize("steady", ["nearest", "smooth"])
def test_rows_that_jitter_are_steadied_row_by_row(place: Path, steady: Any) -> None:
    still = [np.pad(art(row, width=16, height=16), ((4, 4), (4, 4), (0, 0))) for row in (1, 2)]
    sheet = np.vstack([np.hstack([np.roll(one, shift[::-1], (0, 1)) for shift in STRAY]) for one in still])
    write(place / "s.png", sheet)
    made = kivel.slice("s.png", columns=len(STRAY), rows=2, steady=steady)
    for number, image in enumerate(made.images.values()):
        assert np.array_equal(image, still[number // len(STRAY)])
    assert any("row 1: 0,0 -2,-1 0,0 +3,0" in note for note in made.notes)


def test_frames_may_run_down_the_columns(place: Path) -> None:
    sheet = np.vstack([np.hstack([art(column * 2 + row) for column in range(3)]) for row in range(2)])
    write(place / "s.png", sheet)
    made = kivel.slice("s.png", columns=3, rows=2, fill="down", out="cut")
    assert all(np.array_equal(read(place / f"cut/s_{number:04d}.png"), art(number)) for number in range(6))
    origin: Any = made.manifest.sliced_from
    assert origin.grid.fill == "down"
    assert np.array_equal(next(iter(kivel.sheet("cut").images.values())), sheet)
