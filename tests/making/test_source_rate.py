"""The rate of a source, stated at any command, goes along whatever comes after it."""

from __future__ import annotations

import contextlib
import random
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

import kivel
from program import art, in_process, write

COUNT = 24


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(COUNT):
            write(Path(f"raw/r_{number:02}.png"), art(number))
        yield tmp_path


STEPS: dict[str, Any] = {
    "prep": lambda source, out, **rate: kivel.prep(source, out=out, step=["pad 1"], **rate),
    "thinned": lambda source, out, **rate: kivel.resample(source, out=out, count=6, **rate),
    "doubled": lambda source, out, **rate: kivel.resample(source, out=out, count=2 * COUNT, **rate),
    "mixed": lambda source, out, **rate: kivel.resample(source, out=out, count=9, mix=True, no_warp=True, **rate),
}


@pytest.mark.parametrize("seed", range(12))
def test_a_clip_lasts_as_long_as_its_source(seed: int) -> None:
    """Random chains, the rate stated at one of their commands and no other."""
    chance = random.Random(seed)
    rate = Fraction(chance.choice(["12", "24", "24000/1001", "25", "30", "7"]))
    chain = [chance.choice(list(STEPS)) for _ in range(chance.randint(1, 3))]
    stated = chance.randrange(len(chain))
    source, at_rate = "raw", COUNT
    for number, name in enumerate(chain):
        out = f"out{number}"
        made = STEPS[name](source, out, **({"fps": str(rate)} if number == stated else {}))
        if number == stated:
            at_rate = COUNT if number == 0 else len(kivel.inspect(source).inspection.frames.frames)  # type: ignore[union-attr]
        source = out
    made = kivel.sheet(source, out="page.png").manifest
    tick = 1 / made.clips[0].timebase
    assert abs(made.clips[0].length - at_rate / rate) <= tick / 2, (chain, stated, rate)


def test_thinned_to_a_quarter_each_frame_holds_four_times_as_long() -> None:
    kivel.prep("raw", out="ready", step=["pad 1"], fps=24)
    clip = kivel.resample("ready", out="few", count=6).manifest.clips[0]
    assert [clip.seconds(step.hold) for step in clip.steps] == [Fraction(4, 24)] * 6


def test_a_stated_rate_wins_over_that_of_a_manifest(place: Path) -> None:
    kivel.sheet("raw", out="page.png", fps=10, make_clip={"part": "0-5"})
    made = kivel.prep("page.kivel.json", out="new", step=["pad 1"], fps=30).manifest
    assert [clip.length for clip in made.clips] == [Fraction(COUNT, 30), Fraction(6, 30)]
    told = in_process(["inspect", "raw", "--fps", "24000/1001"], place).out
    assert "1.001 s" in told
    loop = kivel.loop("raw", out="closed", close=4, fps=20).manifest
    assert loop
    assert loop.clips[0].length == Fraction(COUNT - 4, 20)
