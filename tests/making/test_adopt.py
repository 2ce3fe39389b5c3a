"""Sheets from anywhere get a manifest beside them, and all else works on them as they are."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from drawn_sheets import GRIDS, drawn_sheet, irregular_sheet

import kivel
from program import art, files, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    sheet = np.zeros((15, 24, 4), np.uint8)
    for number in (0, 1, 2, 3, 4, 5, 8, 9):
        y, x = 5 * (number // 4), 6 * (number % 4)
        sheet[y : y + 5, x : x + 6] = art(number)
    with contextlib.chdir(tmp_path):
        write(tmp_path / "s.png", sheet)
        yield tmp_path


BY_HAND: dict[str, Any] = {"columns": 4, "rows": 3}


@pytest.mark.parametrize("kind", GRIDS)
def test_adopted_frames_are_those_that_are_sliced(place: Path, kind: str) -> None:
    sheet = drawn_sheet(kind, 330)
    write(place / "a.png", sheet.image)
    cut = kivel.slice("a.png", **sheet.stated)
    kivel.adopt("a.png", **sheet.stated)
    assert np.array_equal(read(place / "a.png"), sheet.image)
    adopted = kivel.slice("a.kivel.json")
    assert list(adopted.images) == list(cut.images)
    assert all(map(np.array_equal, adopted.images.values(), cut.images.values()))


def test_islands_are_adopted_too(place: Path) -> None:
    write(place / "a.png", irregular_sheet(4).image)
    manifest = kivel.adopt("a.png", islands=True).manifest
    assert manifest.grid is None
    assert sorted(frame.rect for frame in manifest.frames) == sorted(irregular_sheet(4).boxes)


def test_frames_are_called_after_the_clips_of_their_rows() -> None:
    manifest = kivel.adopt("s.png", row_clips="walk,run,rest", names="{clip}_{column}", **BY_HAND).manifest
    assert [frame.name for frame in manifest.frames][3:6] == ["walk_3", "run_0", "run_1"]
    with pytest.raises(kivel.KivelError, match=r"takes \{clip\} from row_clips"):
        kivel.adopt("s.png", names="{clip}_{column}", **BY_HAND)


def test_ragged_rows_become_clips_and_names_follow_a_pattern() -> None:
    manifest = kivel.adopt("s.png", row_clips="walk,run,rest", names="{name}_{row}_{column}", fps=8, **BY_HAND).manifest
    assert [(clip.name, len(clip.steps)) for clip in manifest.clips] == [("walk", 4), ("run", 2), ("rest", 2)]
    assert [frame.name for frame in manifest.frames][:5] == ["s_0_0", "s_0_1", "s_0_2", "s_0_3", "s_1_0"]
    assert manifest.clips[0].timebase == Fraction(8)
    whole = kivel.adopt("s.png", row_clips="walk,run,rest", empty="drop-last", fresh_clips=True, **BY_HAND).manifest
    assert [len(clip.steps) for clip in whole.clips] == [4, 4, 2]


def test_what_was_set_since_stays_when_it_is_adopted_again() -> None:
    kivel.adopt("s.png", row_clips="walk,run,rest", fps=8, **BY_HAND)
    kivel.retime("s.kivel.json", clip=["run"], fps=20)
    again = kivel.adopt("s.png", row_clips="walk,run,rest", fps=8, **BY_HAND).manifest
    assert [clip.steps[0].hold / clip.timebase for clip in again.clips] == [Fraction(1, fps) for fps in (8, 20, 8)]


def test_maps_lie_in_step(place: Path) -> None:
    write(place / "glow.png", read(place / "s.png")[::-1].copy())
    kivel.adopt("s.png", map=["emission=glow.png"], **BY_HAND)
    back = kivel.slice("s.kivel.json", show="emission").images
    assert np.array_equal(next(iter(back.values())), read(place / "glow.png")[:5, :6])


def test_a_key_is_transparent_in_all_that_is_made_of_it(place: Path) -> None:
    sheet = read(place / "s.png").copy()
    sheet[sheet[..., 3] > 0, 3] = 255
    sheet[sheet[..., 3] == 0] = (255, 0, 255, 255)
    write(place / "k.png", sheet)
    kivel.adopt("k.png", key="#ff00ff", **BY_HAND)
    frames = list(kivel.slice("k.png").images.values())
    assert len(frames) == 10
    assert not frames[6].any()


def test_the_picture_stays_its_owners(place: Path) -> None:
    kivel.adopt("s.png", **BY_HAND)
    kivel.slice("s.png", out="cut")
    write(place / "cut/s_0000.png", art(77))
    edited = read(place / "s.png").copy()
    edited[0, 0] = 9
    write(place / "s.png", edited)
    with pytest.raises(kivel.KivelError, match="was not written by Kivel"):
        kivel.sheet("cut", out="s.png")


LIKE = {"b.png": {}, "c.png": {"names": "c_{number}"}}


@pytest.mark.parametrize(("name", "options"), LIKE.items(), ids=LIKE)
def test_another_sheet_says_where_frames_are_and_how_they_play(place: Path, name: str, options: dict[str, Any]) -> None:
    first = kivel.adopt("s.png", row_clips="walk,run,rest", fps=8, **BY_HAND).manifest
    write(place / name, read(place / "s.png")[:, ::-1].copy())
    second = kivel.adopt(name, like="s.kivel.json", **options).manifest
    assert [frame.rect for frame in second.frames] == [frame.rect for frame in first.frames]
    assert [(clip.name, clip.timebase, clip.steps) for clip in second.clips] == [
        (clip.name, clip.timebase, clip.steps) for clip in first.clips
    ]
    assert second.grid == first.grid


def test_likeness_to_islands_and_a_key_come_along(place: Path) -> None:
    sheet = np.full((30, 50, 4), (255, 0, 255, 255), np.uint8)
    sheet[3:13, 4:14], sheet[15:25, 20:45] = (9, 8, 7, 255), (70, 80, 90, 255)
    write(place / "a.png", sheet)
    write(place / "b.png", sheet)
    kivel.adopt("a.png", islands=True)
    first = kivel.slice("a.kivel.json").images
    adopted = kivel.adopt("b.png", like="a.kivel.json").manifest
    assert adopted.pages[0].maps["color"].key == (255, 0, 255)
    assert all(map(np.array_equal, kivel.slice("b.png").images.values(), first.values()))
    kivel.slice("b.png", like="a.kivel.json", out="cut")
    assert np.array_equal(next(iter(kivel.sheet("cut").images.values())), sheet)


REFUSED = {
    "a manifest": ("s.kivel.json", {}, "expected a picture; its manifest is written beside it"),
    "a width beyond sense": ("s.png", {"names": "a_{row:999999999}"}, "expected a name with {row}, {column}"),
    "inside of things": ("s.png", {"names": "a_{row.real}"}, "expected a name with {row}, {column}"),
    "no field": (
        "s.png",
        {"names": "a_{line}"},
        "expected a name with {row}, {column}, {number}, {name}, {clip} in it",
    ),
    "one name for all": ("s.png", {"names": "a_{row}"}, "calls 4 frames 'a_0'; add {number}"),
    "a smaller map": ("s.png", {"map": ["glow=t.png"]}, "map glow: 6x5 px, the sheet has 24x15; render it again"),
    "a map elsewhere": ("s.png", {"map": ["glow=../t.png"]}, "it must be in the folder of its manifest, s.kivel.json"),
    "a row and a clip of one name": (
        "s.png",
        {"make_clip": ["a=0-1"], "row_clips": "a,b,c"},
        'two clips are called "a"; rename one',
    ),
    "what sheet made": ("made.png", {}, "was not made by kivel adopt"),
}


@pytest.mark.parametrize(("source", "options", "words"), REFUSED.values(), ids=REFUSED)
def test_what_cannot_be_adopted_says_why(place: Path, source: str, options: dict[str, Any], words: str) -> None:
    write(place / "t.png", art(1))
    write(place.parent / "t.png", read(place / "s.png"))
    kivel.sheet(frames=[art(1), art(2)], out="made.png")
    before = files(place)
    with pytest.raises(kivel.KivelError) as error:
        kivel.adopt(source, **(BY_HAND if source == "s.png" else {}), **options)
    error.value.door = "python"
    assert words in str(error.value)
    assert files(place) == before


def test_several_pictures_become_pages_of_one_manifest_with_clips_over_both(place: Path) -> None:
    write(place / "t.png", np.hstack([art(number) for number in (20, 21, 22)]))
    words: dict[str, Any] = {"make_clip": {"both": "s:2,t:0-1*2"}, "fps": 10, "cell": "6x5"}
    before = files(place)
    manifest = kivel.adopt("s.png", "t.png", out="all.kivel.json", **words).manifest
    assert files(place).keys() - before.keys() == {"all.kivel.json"}
    assert [(page.maps["color"].file, page.size) for page in manifest.pages] == [
        ("s.png", (24, 15)),
        ("t.png", (18, 5)),
    ]
    assert [(frame.page, frame.rect) for frame in manifest.frames[9:]] == [
        (0, (6, 10, 6, 5)), (1, (0, 0, 6, 5)), (1, (6, 0, 6, 5)), (1, (12, 0, 6, 5)),
    ]  # fmt: skip
    clips = {clip.name: [step.frame for step in clip.steps] for clip in manifest.clips}
    assert clips == {"s": list(range(10)), "t": [10, 11, 12], "both": [2, 10, 11]}
    cut = kivel.slice("all.kivel.json")
    for number, picture in ((3, 3), (8, 8), (10, 20), (12, 22)):
        assert np.array_equal(cut.images[f"all_{number:04}.png"], art(picture))
    again = kivel.sheet("all.kivel.json", out="new.png").manifest
    assert [clip.steps for clip in again.clips] == [clip.steps for clip in manifest.clips]


def test_pictures_together_are_described_again_with_what_was_set(place: Path) -> None:
    write(place / "t.png", np.hstack([art(number) for number in (20, 21, 22)]))
    kivel.adopt("s.png", "t.png", out="all.kivel.json", cell="6x5")
    kivel.retime("all.kivel.json", clip="t", holds="90ms,50ms,70ms", event=["1:tap"])
    kivel.retime("all.kivel.json", make_group={"both": "*"})
    write(place / "s.png", read(place / "s.png")[:10])  # a row is gone: frames have other numbers
    manifest = kivel.again("all.kivel.json").manifest
    assert len(manifest.frames) == 9
    assert [(step.frame, float(manifest.clips[1].seconds(step.hold))) for step in manifest.clips[1].steps] == [
        (6, 0.09), (7, 0.05), (8, 0.07),
    ]  # fmt: skip
    assert [event.name for event in manifest.clips[1].events] == ["tap"]
    assert [group.members for group in manifest.groups] == [("s", "t")]


@pytest.mark.parametrize(
    ("words", "error"),
    [
        ({"row_clips": "a,b", "out": "all.kivel.json"}, "row_clips= works on one picture; out= joins 2"),
        ({"out": "all"}, r"expected a name that ends in .kivel.json, found 'all'"),
        (
            {"out": "sub/all.kivel.json"},
            "s.png: it must be in the folder of its manifest, all.kivel.json; move it there",
        ),
        ({"out": "all.kivel.json", "name": "x"}, "name=.x. is for one sequence, found 2: s, t"),
    ],
)
def test_pictures_that_cannot_go_together_say_why(place: Path, words: dict[str, Any], error: str) -> None:
    write(place / "t.png", np.hstack([art(number) for number in (20, 21, 22)]))
    before = files(place)
    with pytest.raises(kivel.KivelError, match=error):
        kivel.adopt("s.png", "t.png", cell="6x5", **words)
    assert files(place) == before


def test_a_folder_does_not_go_together_with_pictures(place: Path) -> None:
    write(place / "sub/f.png", art(1))
    with pytest.raises(kivel.KivelError, match="sub is a folder, and out= joins pictures; adopt it by itself"):
        kivel.adopt("sub", "s.png", cell="6x5", out="all.kivel.json")


def test_frames_of_pictures_together_are_edited_one_by_one(place: Path) -> None:
    write(place / "t.png", art(20))
    kivel.adopt("s.png", "t.png", out="all.kivel.json", cell="6x5")
    with pytest.raises(kivel.KivelError, match="describes 2 pictures; edit one, and describe them again"):
        kivel.sheet("all.kivel.json", replace={"3": "t.png"})
    kivel.sheet("t.png", out="sheet.png")
    with pytest.raises(kivel.KivelError, match="already exists and was not made by kivel adopt"):
        kivel.adopt("s.png", "t.png", out="sheet.kivel.json", cell="6x5")
