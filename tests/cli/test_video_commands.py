"""Videos on the command line: as sources, and as previews."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from kivel.core.pixels.pixels import Pixels
from program import Kivel, read

av = pytest.importorskip("av")


def shown_times(path: Path) -> list[Fraction]:
    """When each picture begins, as another reader has it."""
    with av.open(str(path)) as container:
        return [frame.pts * frame.time_base for frame in container.decode(video=0)]


def test_a_preview_as_video_shows_each_step_for_its_time_and_comes_back(
    kivel: Kivel, moth: list[Pixels], tmp_path: Path
) -> None:
    kivel("sheet", "moth", "-o", "moth.png", "--fps", "24000/1001", "--order", "0-3*2,2-1", "--repeat", "2")
    made = kivel("preview", "moth.kivel.json", "-o", "look.mp4", "--backdrop", "#204060", "--scale", "8")
    assert made.code == 0
    assert "4:2:0" in made.err
    holds = [2, 2, 2, 2, 1, 1] * 2
    starts = [Fraction(sum(holds[:step]) * 1001, 24000) for step in range(len(holds))]
    assert shown_times(tmp_path / "look.mp4") == starts
    kivel("slice", "moth.kivel.json", "-o", "cut")
    back = kivel("sheet", "look.mp4", "-o", "back.png", "--fps", "12", "--layout", "row", "--range", "0.3s-0.4s")
    assert back.code == 0
    assert len(json.loads((tmp_path / "back.kivel.json").read_text())["frames"]) == 2
    page = read(tmp_path / "back.png")
    alpha = moth[2][..., 3:] / 255.0
    expected = (moth[2][..., :3] * alpha + np.array([0x20, 0x40, 0x60]) * (1 - alpha)).repeat(8, 0).repeat(8, 1)
    off = np.abs(page[:, : expected.shape[1], :3] - expected)
    assert off.mean() < 12  # 4:2:0 moves colours at the borders of these coloured squares


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("preview moth -o a.mp4 --backdrop none --fps 12", "a video has no alpha here; use --backdrop checker"),
        ("sheet moth -o a.png --range 1s-2s", "needs frames that state how long they show; give numbers"),
        ("sheet look.mp4 -o a.png --range 5s-9s", "no frame begins then, all end at 1 s"),
        ("sheet look.mp4 -o a.png --range 1s", "expected two times, like 1.5s-3s, found '1s'"),
        ("sheet cut.mp4 -o a.png", "cut.mp4: damaged or cut off"),
        ("sheet look.mp4 -o a.png --range 9s-5s", "ends before it begins; write 5s-9s"),
        ("sheet videos -o a.png", "give a video by its name, like videos/look.mp4"),
        ("sheet look.mp4 -o a.png --max-pixels 10", "more than the limit of 10 pixels"),
    ],
)
@pytest.mark.usefixtures("moth")
def test_what_a_video_cannot_do_is_said(kivel: Kivel, tmp_path: Path, line: str, words: str) -> None:
    assert kivel("preview", "moth", "-o", "look.mp4", "--fps", "12").code == 0
    (tmp_path / "videos").mkdir()
    (tmp_path / "videos" / "look.mp4").write_bytes((tmp_path / "look.mp4").read_bytes())
    whole = (tmp_path / "look.mp4").read_bytes()
    (tmp_path / "cut.mp4").write_bytes(whole[: whole.index(b"moov") - 4])
    done = kivel(*line.split())
    assert done.code in (1, 2)
    assert words in done.err
    assert not (tmp_path / "a.png").exists()


def test_without_the_extra_it_is_named(kivel: Kivel, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "a.mp4").write_bytes(b"\0\0\0\x18ftypisom")
    monkeypatch.setitem(__import__("sys").modules, "av", None)
    assert "pip install 'kivel[video]'" in kivel("inspect", "a.mp4").err
