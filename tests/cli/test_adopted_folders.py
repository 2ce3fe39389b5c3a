"""`kivel adopt FOLDER`: frames where they are, described."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from kivel.core.pixels.pixels import Pixels
from program import Kivel, art, files, write


def document(tmp_path: Path) -> Any:
    return json.loads((tmp_path / "moth" / "moth.kivel.json").read_text())


def test_a_folder_is_described_and_no_file_of_it_changes(kivel: Kivel, moth: list[Pixels], tmp_path: Path) -> None:
    before = files(tmp_path / "moth")
    assert kivel("adopt", "moth", "--fps", "24000/1001", "--make-clip", "peck=3-5", "--pivot", "bottom").code == 0
    after = files(tmp_path / "moth")
    assert {name: data for name, data in after.items() if name in before} == before
    assert set(after) - set(before) == {"moth.kivel.json"}
    said = document(tmp_path)
    assert [page["maps"]["color"]["file"] for page in said["pages"]] == [
        f"moth_{number}.png" for number in range(1, 13)
    ]
    assert [frame["rect"] for frame in said["frames"]] == [[0, 0, 6, 5]] * len(moth)
    assert [clip["name"] for clip in said["clips"]] == ["moth", "peck"]
    assert said["clips"][0]["timebase"] == [24000, 1001]
    assert (
        "a file each"
        in kivel("adopt", "moth", "--fps", "24000/1001", "--make-clip", "peck=3-5", "--pivot", "bottom").out
    )


@pytest.mark.usefixtures("moth")
def test_adopted_again_frames_are_found_by_their_files_and_settings_stay(kivel: Kivel, tmp_path: Path) -> None:
    kivel("adopt", "moth", "--fps", "4")
    kivel("retime", "moth", "--clip", "moth", "--holds", "3,1*11")
    (tmp_path / "moth" / "moth_2.png").unlink()
    write(tmp_path / "moth" / "moth_13.png", art(13))
    write(tmp_path / "moth" / "moth_5.png", art(99))
    done = kivel("adopt", "moth", "--fps", "4")
    assert done.code == 0
    said = document(tmp_path)
    assert [frame["name"] for frame in said["frames"]] == [f"moth_{n}" for n in (1, *range(3, 14))]
    assert said["clips"][0]["steps"][0] == [0, 3]
    assert kivel("check", "moth").code == 0
    assert "unchanged" in kivel("adopt", "moth", "--fps", "4").out


@pytest.mark.usefixtures("moth")
def test_what_was_set_on_a_frame_goes_along_when_its_file_is_renamed(kivel: Kivel, tmp_path: Path) -> None:
    kivel("adopt", "moth", "--fps", "4")
    kivel("retime", "moth", "--event", "1:hoo")
    (tmp_path / "moth" / "moth_2.png").rename(tmp_path / "moth" / "moth_90.png")
    assert kivel("adopt", "moth", "--fps", "4").code == 0
    assert document(tmp_path)["clips"][0]["events"] == [{"step": 11, "name": "hoo"}]


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("adopt moth --columns 3", "--columns is for a sheet, and moth is a folder of frames"),
        ("adopt moth --names a{number}", "--names is for a sheet"),
        ("adopt moth --map emission=moth", "--map is for a sheet"),
        ("adopt empty", "the folder is empty"),
        ("export moth --to table -o a.csv", "kivel adopt moth writes one"),
        ("retime moth --fps 4", "kivel adopt moth writes one"),
        ("adopt mixed --fps 4", "has 2 sequences"),
        ("adopt prepared --fps 4", "was not made by kivel adopt"),
    ],
)
@pytest.mark.usefixtures("moth")
def test_what_a_folder_cannot_be_is_said(kivel: Kivel, tmp_path: Path, line: str, words: str) -> None:
    (tmp_path / "empty").mkdir()
    for name in ("bat_1", "bat_2", "owl_1", "owl_2"):
        write(tmp_path / f"mixed/{name}.png", art(1))
    assert kivel("prep", "moth", "-o", "prepared", "--step", "pad 2").code == 0
    before = files(tmp_path)
    done = kivel(*line.split())
    assert done.code in (1, 2)
    assert words in done.err
    assert files(tmp_path) == before
