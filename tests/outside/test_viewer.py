"""The viewer page, in a browser: it shows what the core says, pixel by pixel, and names are text."""

from __future__ import annotations

import base64
import contextlib
import json
import random
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from outside_readers import chromium, said_by_node

import kivel
from kivel.core.pixels import Pixels
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.following import Chain
from kivel.core.resampling import Share, mixed
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from program import art, read, write

pytestmark = pytest.mark.slow


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """A grid, an atlas of trimmed, turned and mirrored frames on several pages, and frames alone."""
    with contextlib.chdir(tmp_path):
        for number in range(8):
            blob = np.zeros((13, 17, 4), np.uint8)
            wide = number % 2 * 8
            blob[1 : 11 - wide, 2 : 4 + wide] = art(int(number in (3, 5, 7)), width=10, height=10)[
                : 10 - wide, : 2 + wide
            ]
            write(tmp_path / f"blob/blob_{number}.png", blob[::-1] if number > 3 else blob)
            write(tmp_path / f"owl/owl_{number}.png", art(number, width=15, height=11))
        kivel.sheet("owl", out="owl.png", columns=3, gap=1, margin=2)
        kivel.atlas("blob", out="blob.png", turn=True, share_flips=True, page_limit="4x12")
        yield tmp_path


def random_clips(seed: int) -> tuple[Clip, ...]:
    drawn = random.Random(seed)
    names = [f"c{number}" for number in range(15)]
    clips = []
    for name in names:
        steps = tuple(Step(drawn.randrange(8), drawn.randint(1, 9)) for _ in range(drawn.randint(1, 10)))
        clip = Clip(
            name,
            Fraction(drawn.choice((1, 12, 24, 60, 1000, Fraction(24000, 1001)))),
            steps,
            drawn.choice(("normal", "reverse", "alternate", "alternate-reverse")),
            repeat=drawn.choice(("forever", 0, 1, 2, 3)),
            end=drawn.choice(("last", "first", "none")),
            interpolation=drawn.choice(("step", "linear")),
            events=(Event(0, "hoo"),),
            then=drawn.choice((None, None, *names)),
        )
        clips.append(replace(clip, phase=Fraction(drawn.randrange(len(clip.order()) * 4), 4)))
    return tuple(clips)


def viewed(name: str, clips: tuple[Clip, ...]) -> Path:
    path = Path(f"{name}.kivel.json")
    path.write_text(manifest_text(replace(read_manifest(path), clips=clips)))
    kivel.preview(path, out=f"{name}.html")
    return Path(f"{name}.html").resolve()


def asked(*jobs: dict[str, Any]) -> list[Any]:
    Path("jobs.json").write_text(json.dumps(jobs, default=str))
    return said_by_node("read_viewer.mjs", chromium(), Path("jobs.json").resolve())


def pixels_of(shown: Any, like: Pixels) -> Pixels:
    """As WebGL gives them: the lowest row first."""
    return np.frombuffer(base64.b64decode(shown["pixels"]), np.uint8).reshape(like.shape)[::-1]


def text_of(time: Fraction) -> str:
    return f"{time.numerator}/{time.denominator}"


@pytest.mark.parametrize("name", ["owl", "blob"])
def test_at_300_moments_the_page_shows_what_plays_pixel_by_pixel(place: Path, name: str) -> None:
    clips = random_clips(len(name))
    drawn = random.Random(1)
    looks = []
    for clip in clips:
        chain = Chain(clip, clips)
        end = chain.settled + 2
        shows = [told.time for _, told in chain.happenings(end=end)][:400]
        times = drawn.sample(shows, min(6, len(shows))) + [
            end * Fraction(drawn.randrange(9973), 9973) for _ in range(14)
        ]
        looks += [(clip, time) for time in times]
    drawn.shuffle(looks)
    file = viewed(name, clips)
    (found,) = asked({"file": str(file), "looks": [(clip.name, text_of(time)) for clip, time in looks], "pixels": 200})
    assert (found["wrong"], len(looks) >= 250) == ([], True)
    images = [read(path) for path in sorted((place / name).glob("*.png"))]
    for (clip, time), shown in zip(looks, found["shown"], strict=True):
        playing = Chain(clip, clips).at(time)
        moment = playing.moment
        assert (shown["clip"], shown["frame"]) == (playing.player.clip.name, moment.frame), (clip, time)
        assert abs(shown["weight"] - float(moment.weight)) < 1e-9
        if "pixels" not in shown:
            continue
        assert moment.frame is not None
        expected = images[moment.frame]
        if moment.weight:
            assert moment.following is not None
            pair = (expected, images[moment.following])
            share = float(moment.weight)
            expected = mixed([Share(0, 1 - share), Share(1, share)], pair.__getitem__)
        pixels = pixels_of(shown, expected).astype(int)
        visible = expected[..., 3] > 0
        off = np.abs(pixels - expected)
        assert off[..., 3].max() <= (1 if moment.weight else 0)
        assert off[visible].max(initial=0) <= (1 if moment.weight else 0), (clip.name, time)


def test_names_are_text_whatever_they_are(place: Path) -> None:
    names = [
        "<script>alert(1)</script>",
        "</script><img src=x onerror=alert(2)>",
        "\"'`${alert(3)}",
        "\u202eevil\x1b[2J",
    ]
    clips = tuple(
        Clip(name, Fraction(12), (Step(number, 3),), events=(Event(0, name),)) for number, name in enumerate(names)
    )
    file = viewed("owl", clips)
    found = asked({"file": str(file), "looks": [(name, "1/100") for name in names], "pixels": 1})[0]
    assert (found["wrong"], found["names"]) == ([], names)
    plain = asked({"file": str(viewed("blob", (Clip("a", Fraction(12), (Step(0, 3),)),))), "looks": []})[0]
    assert found["scripts"] - 1 == plain["scripts"] - len(read_manifest(place / "blob.kivel.json").pages)


def test_any_source_has_a_page_and_many_frames_open_soon(place: Path) -> None:
    for number in range(200):
        write(place / f"many/m_{number:03}.png", art(number, width=64, height=64))
    kivel.preview("many", out="many.html", fps=25)
    found = asked({"file": str(place / "many.html"), "looks": [("many", "199/25")], "pixels": 1})[0]
    assert (found["wrong"], found["shown"][0]["frame"]) == ([], 199)
    last = read(place / "many/m_199.png")
    pixels = pixels_of(found["shown"][0], last)
    assert np.array_equal(pixels[last[..., 3] > 0], last[last[..., 3] > 0])
