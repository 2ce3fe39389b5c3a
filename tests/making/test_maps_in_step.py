"""Companion maps belong to the frames of their numbers, at the scale that is asked for."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from program import art, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    for number in (1, 2, 3):
        write(tmp_path / f"owl/owl_{number}.png", art(number, height=6))
    with contextlib.chdir(tmp_path):
        yield tmp_path


def maps(place: Path, *numbers: int, height: int = 6, width: int = 6) -> None:
    for number in numbers:
        write(place / f"glow/glow_{number}.png", art(number + 60, height=height, width=width))


def test_frames_belong_together_by_their_numbers_whatever_the_order(place: Path) -> None:
    """The map lacks the middle frame: it is that one which is neutral, not the last."""
    maps(place, 1, 3)
    made = kivel.sheet("owl", map={"glow": "glow"}, missing_map="neutral", layout="row")
    page = made.images["frames.glow.png"]
    assert np.array_equal(page[:, :6], art(61, height=6))
    assert not page[:, 6:12, :3].any()
    assert np.array_equal(page[:, 12:], art(63, height=6))


OPAQUE = np.array([0, 0, 0, 255], np.uint8)


def test_the_map_beside_an_animated_image_goes_with_its_frames() -> None:
    owl, glow = ([art(number + more, height=6) | OPAQUE for number in (1, 2, 3)] for more in (0, 60))
    for name, images in (("owl", owl), ("owl_g", glow)):
        kivel.preview(frames=images, out=f"{name}.apng", scale=1, view="frames")
    made = kivel.sheet("owl.apng", map_suffix={"glow": "_g"}, layout="row")
    assert np.array_equal(made.images["frames.glow.png"], np.hstack(glow))


OUT_OF_STEP: dict[str, tuple[tuple[int, ...], str]] = {
    "one further": ((2, 3, 4), "map glow is out of step: glow_4.png has no colour frame with its number"),
    "one too many": ((1, 2, 3, 9), "map glow is out of step: glow_9.png has no colour frame with its number"),
    "one missing": ((1, 3), "owl_2.png: map glow has no frame for it"),
}


@pytest.mark.parametrize(("numbers", "message"), OUT_OF_STEP.values(), ids=OUT_OF_STEP)
def test_maps_out_of_step_are_refused(place: Path, numbers: tuple[int, ...], message: str) -> None:
    maps(place, *numbers)
    with pytest.raises(kivel.KivelError) as error:
        kivel.sheet("owl", map={"glow": "glow"})
    assert message in str(error.value)


@pytest.mark.parametrize("options", [{}, {"map_scale": {"glow": "1/3"}}], ids=["whole", "a third"])
def test_a_sheet_takes_no_frames_whose_map_has_another_scale(place: Path, options: dict[str, Any]) -> None:
    maps(place, 1, 2, 3)
    kivel.sheet("owl", out="s.png", map={"glow": "glow"}, map_scale={"glow": "1/2"}, columns=3, rows=2)
    before = (place / "s.glow.png").read_bytes()
    with pytest.raises(kivel.KivelError) as error:
        kivel.sheet("owl", into="s.kivel.json", map={"glow": "glow"}, **options)
    assert 'map "glow" is at 1/2; pass map_scale="glow=1/2"' in str(error.value)
    assert (place / "s.glow.png").read_bytes() == before
    kivel.sheet("owl", into="s.kivel.json", map={"glow": "glow"}, map_scale={"glow": "1/2"})
    assert read(place / "s.glow.png")[3:].any()
