"""What is told of what was made."""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

import kivel
from kivel.core.layout.page import PageRule
from kivel.core.layout.paging import AtlasRequest, pack_pages
from kivel.core.pixels.pixels import Size
from program import art, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        yield tmp_path


def solid(width: int, height: int, value: int) -> np.ndarray[tuple[int, ...], np.dtype[np.uint8]]:
    return np.full((height, width, 4), (value, value, value, 255), np.uint8)


def test_an_atlas_counts_what_lies_on_it() -> None:
    frames = [solid(20, 4, 9), solid(4, 20, 10), solid(20, 4, 9), solid(4, 20, 11), np.zeros((3, 3, 4), np.uint8)]
    made = kivel.atlas(frames=frames, turn=True, gap=0)
    places = made.manifest.frames
    assert made.figures.turned == sum(place.turn == 90 for place in places) > 0
    assert (made.figures.frames, made.figures.packed, made.figures.shared, made.figures.empty) == (5, 3, 1, 1)
    assert made.figures.trimmed_share == pytest.approx(320 / 329)
    assert made.figures.pages[0].used == pytest.approx(240 / np.prod(made.manifest.pages[0].size))


def test_groups_too_large_for_a_page_are_split_and_all_is_placed() -> None:
    boxes = [Size(8, 8)] * 9 + [Size(5, 5)] * 3
    request = AtlasRequest(rule=PageRule(limit=Size(16, 16)), paging="together")
    pages = pack_pages(boxes, [0] * 9 + [1] * 3, request)
    assert sorted(place.box for page in pages for place in page.places) == list(range(12))
    of_second = [any(place.box >= 9 for place in page.places) for page in pages]
    assert of_second.count(True) == 1


def test_a_preview_of_a_folder_matches_sizes(place: Path) -> None:
    write(place / "in/a_1.png", art(1))
    write(place / "in/a_2.png", art(2))
    write(place / "in/a_3.png", art(3, width=9, height=7))
    with pytest.raises(kivel.KivelError, match="9x7 px, the other 2 frames are 6x5"):
        kivel.preview("in", scale=1)
    assert {image.shape for image in kivel.preview("in", scale=1, odd_size="pad").images} == {(7, 9, 4)}
    kivel.sheet("in", out="s.png", cell="9x7", odd_size="pad")
    assert kivel.preview("s.kivel.json", scale=1).images[0].shape == (7, 9, 4)


def test_a_folder_of_many_series_lists_a_dozen(place: Path) -> None:
    for letter in "abcdefghijklmno":
        for number in (1, 2):
            write(place / f"in/{letter}_{number}.png", art(number))
    with pytest.raises(kivel.KivelError) as error:
        kivel.sheet("in")
    text = str(error.value)
    assert "15 series" in text
    assert text.count("2 frames, 1-2, 6x5 px") == 12
    assert text.endswith("and 3 more")


def test_one_clip_alone_gets_another_name(place: Path) -> None:
    kivel.sheet(frames=[art(1), art(2)], out="s.png", make_clip={"a": "0", "b": "1"})
    before = (place / "s.kivel.json").read_bytes()
    with pytest.raises(kivel.UsageError, match="renames one clip; choose it with clip=: a, b"):
        kivel.retime("s.kivel.json", rename="c")
    assert (place / "s.kivel.json").read_bytes() == before
    assert [clip.name for clip in kivel.retime("s.kivel.json", clip="b", rename="c").manifest.clips] == ["a", "c"]


def test_without_matplotlib_a_page_and_an_error_name_the_extra(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for number in range(3):
        write(place / f"owl/owl_{number}.png", art(number))
    monkeypatch.setitem(sys.modules, "matplotlib", None)
    monkeypatch.setitem(sys.modules, "matplotlib.figure", None)
    monkeypatch.setitem(sys.modules, "matplotlib.backends.backend_agg", None)
    assert kivel.preview("owl", out="owl.html").notes == ()
    page = (place / "owl.html").read_text()
    assert ('id="image-timing"' in page, "pip install 'kivel[charts]'" in page) == (False, True)
    charts: list[Callable[[], object]] = [
        lambda: kivel.preview("owl", out="t.png", view="timing"),
        lambda: kivel.inspect("owl", chart="c.png"),
    ]
    for chart in charts:
        with pytest.raises(kivel.KivelError, match=r"pip install 'kivel\[charts\]'"):
            chart()
    assert not list(place.glob("*.png"))
