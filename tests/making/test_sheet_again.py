"""A sheet that is made again from its frames: each where it was, and room for what is new."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

import kivel
from kivel.core.layout.free_room import free_place
from kivel.core.pixels.pixels import Rect, Size
from program import art, in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        yield tmp_path


@given(
    arrays(bool, st.tuples(st.integers(1, 9), st.integers(1, 9))), st.integers(1, 4), st.integers(1, 4),
    st.integers(0, 2), st.integers(1, 2),
)  # fmt: skip
def test_a_free_place_is_the_first_that_there_is(
    taken: np.typing.NDArray[np.bool_], w: int, h: int, around: int, step: int
) -> None:
    height, width = taken.shape
    free = [
        Rect(x, y, w, h)
        for y in range(0, height - h + 1, step)
        for x in range(0, width - w + 1, step)
        if not taken[max(0, y - around) : y + h + around, max(0, x - around) : x + w + around].any()
    ]
    assert free_place(taken, Size(w, h), around=around, step=step) == (free[0] if free else None)


def picture(*spots: tuple[int, int]) -> None:
    sheet = np.zeros((24, 40, 4), np.uint8)
    for number, (x, y) in enumerate(spots):
        sheet[y : y + 6, x : x + 6] = thing(number)
    write(Path("shed.png"), sheet)


def thing(number: int, side: int = 6) -> np.ndarray:
    image = art(number, width=side, height=side)
    image[..., 3] = 255
    return image


def rects() -> dict[str, list[int]]:
    return {frame.name: list(frame.rect) for frame in kivel.sheet("cut").manifest.frames}


def test_what_is_new_goes_where_there_is_room_and_else_below() -> None:
    picture((2, 2), (16, 2), (2, 14))
    kivel.slice("shed.png", out="cut", islands=True)
    before = rects()
    assert before == {"shed_0000": [2, 2, 6, 6], "shed_0001": [16, 2, 6, 6], "shed_0002": [2, 14, 6, 6]}
    write(Path("cut/shed_0001b.png"), thing(7))
    assert rects() == before | {"shed_0001b": [24, 0, 6, 6]}
    Path("cut/shed_0001.png").unlink()
    assert rects()["shed_0001b"] == [24, 0, 6, 6], "the place of what was removed stays empty"
    write(Path("cut/shed_0002b.png"), thing(8, side=24))
    made = kivel.sheet("cut")
    assert made.manifest.pages[0].size == (40, 50)
    assert list(made.manifest.frames[-1].rect) == [0, 26, 24, 24]
    assert any("the sheet grows from 40x24 to 40x50 px" in note for note in made.notes)


def test_a_frame_that_grew_stays_around_its_place_if_that_is_free() -> None:
    picture((2, 2), (16, 2), (24, 2))
    kivel.slice("shed.png", out="cut", islands=True)
    write(Path("cut/shed_0000.png"), thing(5, side=8))
    write(Path("cut/shed_0001.png"), thing(6, side=9))
    found = rects()
    assert found["shed_0000"] == [2, 2, 8, 8]
    assert found["shed_0001"] != [16, 2, 9, 9], "the next one is in its way"
    assert found["shed_0002"] == [24, 2, 6, 6]


def test_rows_that_are_clips_keep_their_rows() -> None:
    for number in range(9):
        write(Path(f"raw/{number}.png"), thing(number))
    kivel.sheet("raw", out="walk.png", columns=3, row_clips=["right", "left", "up"])
    kivel.slice("walk.kivel.json", out="cut")
    Path("cut/walk_0001.png").unlink()
    made = kivel.sheet("cut", out="new.png")
    page, before = read(Path("new.png")), read(Path("walk.png"))
    assert np.array_equal(page[6:], before[6:])
    assert not page[:6, 12:].any()
    for letter in "bc":
        write(Path(f"cut/walk_0005{letter}.png"), thing(30))
    made = kivel.sheet("cut", out="new.png", force=True)
    assert made.manifest.grid is not None
    assert (made.manifest.grid.columns, made.manifest.grid.rows) == (5, 3)
    assert [len(clip.steps) for clip in made.manifest.clips] == [2, 5, 3]


@pytest.mark.parametrize("wrap", [False, True])
@pytest.mark.parametrize("pages", [1, 2])
def test_skirts_are_drawn_again_from_what_is_there_now(wrap: bool, pages: int) -> None:
    for number in range(4):
        write(Path(f"raw/{number}.png"), thing(number))
    limit: dict[str, Any] = {"page_limit": "20x10"} if pages > 1 else {"columns": 2}
    kivel.sheet("raw", out="tile.png", skirt=2, skirt_wrap=wrap, gap=0, **limit)
    kivel.slice("tile.kivel.json", out="cut")
    write(Path("raw/1.png"), thing(9))
    write(Path("cut/tile_0001.png"), thing(9))
    kivel.sheet("raw", out="tile.png", skirt=2, skirt_wrap=wrap, gap=0, **limit)
    made = kivel.sheet("cut", out="again.png")
    names = [page.maps["color"].file for page in made.manifest.pages]
    assert len(names) == pages
    for name in names:
        assert np.array_equal(read(Path(name)), read(Path(name.replace("again", "tile"))))
    assert made.manifest.grid is not None
    assert (made.manifest.grid.skirt, bool(made.manifest.grid.wrap)) == (2, wrap)


def test_frames_are_added_to_a_sheet_with_the_skirt_that_it_has() -> None:
    for number in range(4):
        write(Path(f"raw/{number}.png"), thing(number))
    kivel.sheet("raw/0.png", "raw/1.png", "raw/2.png", out="s.png", columns=2, skirt=1, skirt_wrap=True)
    kivel.sheet("raw", out="all.png", columns=2, skirt=1, skirt_wrap=True)
    done = in_process(["sheet", "raw/3.png", "--into", "s.kivel.json"], Path.cwd())
    assert done.code == 0, done.err
    assert np.array_equal(read(Path("s.png")), read(Path("all.png")))


@pytest.mark.parametrize("before", [False, True], ids=["behind", "before"])
@pytest.mark.parametrize("command", ["adopt", "slice"])
def test_a_sheet_that_grew_a_column_keeps_the_holds_on_their_frames(command: str, before: bool) -> None:
    rows = [[thing(10 * row + column, side=8) for column in range(3)] for row in range(2)]
    write(Path("walk.png"), np.vstack([np.hstack(row) for row in rows]))
    more: dict[str, Any] = {"out": "cut"} if command == "slice" else {}
    made = getattr(kivel, command)
    made("walk.png", cell="8x8", row_clips=["right", "left"], **more)
    manifest = "cut/walk.kivel.json" if command == "slice" else "walk.kivel.json"
    kivel.retime(manifest, clip="right", holds="20ms,40ms,60ms", event=["1:step"])
    kivel.retime(manifest, clip="left", holds="120ms,140ms,160ms")
    for number, row in enumerate(rows):
        row.insert(0 if before else 3, thing(90 + number, side=8))
    write(Path("walk.png"), np.vstack([np.hstack(row) for row in rows]))
    clips = made("walk.png", cell="8x8", row_clips=["right", "left"], **more).sheets[0].manifest.clips
    holds = [[int(1000 * clip.seconds(step.hold)) for step in clip.steps] for clip in clips]
    expected = [[20, 40, 60], [120, 140, 160]]
    assert holds == [[one[0], *one] if before else [*one, one[-1]] for one in expected]
    assert [event.step for event in clips[0].events] == [2 if before else 1]


def test_what_prep_makes_keeps_what_was_set_when_its_source_is_renumbered() -> None:
    for number in range(4):
        write(Path(f"raw/m_{number}.png"), thing(number))
    kivel.prep("raw", out="big", step=["premultiply"])
    kivel.retime("big/big.kivel.json", holds="20ms,40ms,60ms,80ms")
    Path("raw/m_1.png").unlink()
    for number in (2, 3):
        Path(f"raw/m_{number}.png").rename(f"raw/m_{number - 1}.png")
    (clip,) = kivel.prep("raw", out="big", step=["premultiply"]).manifest.clips
    assert [int(1000 * clip.seconds(step.hold)) for step in clip.steps] == [20, 60, 80]


@pytest.mark.parametrize("rows", [True, False], ids=["rows that are clips", "one clip"])
def test_a_gap_that_is_stated_changes_just_that(rows: bool) -> None:
    for number in range(6):
        write(Path(f"raw/{number}.png"), thing(number))
    more: dict[str, Any] = {"row_clips": ["walk", "run"]} if rows else {}
    kivel.sheet("raw", out="walk.png", columns=3, skirt=1, margin=2, **more)
    kivel.slice("walk.kivel.json", out="cut")
    Path("cut/walk_0001.png").unlink()
    for gap in (None, 3):
        grid = kivel.sheet("cut", gap=gap).manifest.grid
        assert grid is not None
        assert (grid.columns, grid.rows, grid.skirt) == (3, 2, 1)
        assert (tuple(grid.gap), tuple(grid.margin)) == (((gap or 0) + 2, (gap or 0) + 2), (3, 3))
    wide = kivel.sheet("cut", gap=3, columns=5).manifest.grid
    assert wide is not None
    assert (wide.columns, wide.skirt) == (5, 0)
