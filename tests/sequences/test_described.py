"""A folder that Kivel wrote is its manifest, as long as that describes what is there."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

import kivel
from program import art, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """`owl/` as `prep` writes it: five frames at 24 a second, twice, with a pivot, premultiplied."""
    for number in range(5):
        write(tmp_path / f"raw/{number}.png", art(number, width=8, height=8))
    with contextlib.chdir(tmp_path):
        kivel.sheet("raw", out="raw.png", fps=24, repeat=2)
        kivel.prep("raw.kivel.json", out="owl", step=["anchor 2,6 to=0.25,0.5", "premultiply"])
        yield tmp_path


def paint(path: str, *, more: int = 0) -> None:
    height, width, _ = read(Path("owl/owl_0000.png")).shape
    write(Path(path), np.full((height + more, width, 4), 77, np.uint8))


WAYS: dict[str, tuple[str, ...]] = {
    "the folder": ("owl",),
    "a numbered pattern": ("owl/owl_####.png",),
    "a pattern": ("owl/*.png",),
    "files from a shell": tuple(f"owl/owl_{number:04d}.png" for number in range(5)),
    "the manifest": ("owl/owl.kivel.json",),
}


@pytest.mark.parametrize("sources", WAYS.values(), ids=WAYS)
def test_files_are_read_as_their_manifest_says(sources: tuple[str, ...]) -> None:
    made = kivel.sheet(*sources).manifest
    assert [frame.name for frame in made.frames] == ["0", "1", "2", "3", "4"]
    assert (made.clips[0].name, made.clips[0].timebase, made.clips[0].repeat) == ("raw", Fraction(24), 2)
    assert made.frames[0].pivot != (0.5, 0.5)
    assert made.pages[0].alpha == "premultiplied"


CHANGED: dict[str, tuple[Callable[[], object], str, str]] = {
    "repainted": (lambda: paint("owl/owl_0002.png"), "premultiplied", "owl: repainted owl_0002"),
    "of another size": (lambda: paint("owl/owl_0002.png", more=1), "premultiplied", "owl: resized owl_0002"),
    "one more": (
        lambda: paint("owl/owl_0005.png"),
        "premultiplied",
        'owl: added owl_0005 to clip "raw", after owl_0004, hold 41.67 ms',
    ),
    "one less": (lambda: Path("owl/owl_0002.png").unlink(), "premultiplied", 'owl: removed owl_0002 from clip "raw"'),
    "renamed": (
        lambda: Path("owl/owl_0002.png").rename("owl/two.png"),
        "premultiplied",
        "owl: renamed owl_0002 to two",
    ),
}


@pytest.mark.parametrize(("change", "alpha", "note"), CHANGED.values(), ids=CHANGED)
def test_files_that_were_changed_are_described_as_far_as_they_are_the_same(
    change: Callable[[], object], alpha: str, note: str
) -> None:
    change()
    made = kivel.sheet("owl", odd_size="pad")
    assert made.manifest.pages[0].alpha == alpha
    assert any(note in said for said in made.notes), made.notes


def test_a_range_of_described_files_keeps_pivots_and_holds() -> None:
    made = kivel.sheet("owl", range="1-3").manifest
    assert [frame.name for frame in made.frames] == ["1", "2", "3"]
    assert (made.clips[0].name, made.clips[0].timebase, made.clips[0].repeat) == ("raw", Fraction(24), 2)
    assert made.frames[0].pivot != (0.5, 0.5)


def test_what_is_written_into_a_folder_is_called_after_it_but_sliced_frames(place: Path) -> None:
    kivel.resample("raw", out="few", count=3)
    assert sorted(path.name for path in (place / "few").iterdir()) == [
        "few.kivel.json", "few_0000.png", "few_0001.png", "few_0002.png",
    ]  # fmt: skip
    assert kivel.sheet("few").manifest.clips[0].name == "few"
    kivel.slice("raw.png", out="cut")
    assert (place / "cut/raw_0004.png").exists()


def test_one_map_of_a_folder_is_shown_and_a_folder_of_a_map_is_one() -> None:
    for number in range(5):
        write(Path(f"normals/n_{number}.png"), art(number + 50, width=8, height=8))
    kivel.sheet("raw", out="two.png", map={"normal": "normals"})
    kivel.slice("two.png", out="both")
    assert list(kivel.sheet("both").manifest.pages[0].maps) == ["color", "normal"]
    shown = kivel.preview("both", show="normal", view="frames").images
    assert not np.array_equal(shown[0], kivel.preview("both", view="frames").images[0])
    with pytest.raises(kivel.KivelError, match="no map 'height'"):
        kivel.preview("both", show="height")


def test_a_folder_that_changed_is_meant_by_its_manifest_a_range_and_the_names_of_its_clips() -> None:
    Path("owl/owl_0002.png").rename("owl/two.png")
    Path("owl/owl_0004.png").unlink()
    whole = kivel.sheet("owl").manifest
    assert [frame.name for frame in whole.frames] == ["0", "1", "2", "3"]
    assert kivel.sheet("owl/owl.kivel.json").manifest.clips == whole.clips
    assert [frame.name for frame in kivel.sheet("owl", range="1-2").manifest.frames] == ["1", "2"]
    assert kivel.sheet("owl", series="raw").manifest.clips == whole.clips
    for number in range(3):
        paint(f"owl/glow_{number}.png")
    with pytest.raises(kivel.KivelError, match='2 series; series="owl" or a pattern in quotes'):
        kivel.sheet("owl")
    assert kivel.sheet("owl", series="owl").manifest.clips == whole.clips
    assert [clip.name for clip in kivel.sheet("owl", series="glow,owl").manifest.clips] == ["glow", "raw"]


def test_equal_pictures_under_new_names_are_told() -> None:
    for number in (1, 2):
        Path(f"owl/owl_{number:04d}.png").write_bytes(Path("owl/owl_0000.png").read_bytes())
    kivel.prep("owl", out="same", step=["crop 6x6"])
    for number in (1, 2):
        Path(f"same/same_{number:04d}.png").rename(f"same/new_{number}.png")
    notes = kivel.sheet("same").notes
    assert "new_1.png, new_2.png look the same: their order decides which is which" in notes, notes
