"""Channels of several sequences in one, bit for bit."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from program import art, in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(4):
            write(Path(f"a/a_{number}.png"), art(number, width=9, height=7))
            write(Path(f"b/b_{number}.png"), art(number + 20, width=9, height=7))
            write(Path(f"deep/d_{number}.png"), art(number + 40, width=9, height=7, dtype=np.uint16))
        write(Path("one.png"), art(99, width=9, height=7))
        yield tmp_path


def test_every_channel_is_from_where_it_is_said() -> None:
    made = kivel.channels(red="a:alpha", green="b", blue="one.png:red", alpha=0.5, out="new")
    assert [page.maps["color"].kind for page in made.manifest.pages] == ["mask"] * 4
    for number in range(4):
        image = read(Path(f"new/new_{number:04}.png"))
        assert np.array_equal(image[..., 0], art(number, width=9, height=7)[..., 3])
        assert np.array_equal(image[..., 1], art(number + 20, width=9, height=7)[..., 1])
        assert np.array_equal(image[..., 2], art(99, width=9, height=7)[..., 0])
        assert (image[..., 3] == 128).all()


def test_brightness_is_luma_over_black() -> None:
    kivel.channels(red="a", green="a", blue="a", alpha="b:brightness", out="new")
    for number in range(4):
        image, light = read(Path(f"new/new_{number:04}.png")), art(number + 20, width=9, height=7) / 255
        assert np.array_equal(image[..., :3], art(number, width=9, height=7)[..., :3])
        luma = light[..., :3] @ np.array([0.2126, 0.7152, 0.0722]) * light[..., 3]
        assert np.abs(image[..., 3] - luma * 255).max() < 0.53


def test_what_is_deeper_wins_and_the_rest_is_widened_exactly() -> None:
    kivel.channels(red="a", green="deep:red", out="new")
    image = read(Path("new/new_0002.png"))
    assert np.array_equal(image[..., 0], art(2, width=9, height=7)[..., 0].astype(np.uint16) * 257)
    assert np.array_equal(image[..., 1], art(42, width=9, height=7, dtype=np.uint16)[..., 0])
    assert (image[..., 3] == 65535).all()


def test_a_picture_stays_colour_and_timing_is_the_first_ones_said_where_it_differs() -> None:
    for name, fps in (("a", 8), ("b", 10)):
        kivel.sheet(name, out=f"{name}.png", fps=fps)
    made = kivel.channels(red="a.kivel.json", green="a.kivel.json", blue="a.kivel.json", alpha="b.kivel.json", out="c")
    assert made.kind == "color"
    assert made.manifest.clips[0].length == Fraction(4, 8)
    assert any("timing is that of a; it differs in b" in note for note in made.notes)
    assert kivel.channels(red="a", green="a", blue="b", as_="color").kind == "color"


WRONG: dict[str, tuple[dict[str, Any], str]] = {
    "no source": ({"red": 0.5}, "at least one channel needs a source, like red="),
    "no such channel": ({"red": "a:brigthness"}, "found 'brigthness'; did you mean brightness?"),
    "a number too large": ({"red": "a", "green": 2}, "expected SRC, SRC:CHANNEL or a number from 0 to 1, found '2'"),
    "fewer frames": ({"red": "a", "green": "short"}, "short has 2 frames, a has 4; give as many"),
    "another size": ({"red": "a", "green": "wide.png"}, "wide.png: 10x7 px, a_0.png has 9x7; make them equal"),
    "no such file": ({"red": "a", "green": "nowhere"}, "nowhere: no such file or folder"),
}


@pytest.mark.parametrize(("options", "words"), WRONG.values(), ids=WRONG)
def test_what_does_not_fit_is_named(place: Path, options: dict[str, Any], words: str) -> None:
    write(place / "wide.png", art(1, width=10, height=7))
    for number in range(2):
        write(place / f"short/s_{number}.png", art(number, width=9, height=7))
    with pytest.raises(kivel.KivelError, match=words.replace("?", ".")):
        kivel.channels(**options, out="new")
    assert not (place / "new").exists()


def test_alpha_of_opaque_frames_is_noted(place: Path) -> None:
    write(place / "grey.png", art(5, width=9, height=7) | np.array((0, 0, 0, 255), np.uint8))
    made = kivel.channels(red="a", alpha="grey.png")
    assert any('grey.png is opaque everywhere; alpha="grey.png:brightness" takes its light' in n for n in made.notes)


def test_the_command_says_what_came_of_it(place: Path) -> None:
    done = in_process(["channels", "--red", "a", "--alpha", "b:brightness", "-o", "new"], place)
    assert done.code == 0, done.err
    assert "new  4 frames of 9x7 px" in done.out
    assert "values are data (mask), each channel by itself; --as color takes them for a picture" in done.err
