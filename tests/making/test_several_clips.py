"""Several clips in a folder: each is taken by itself, all are written together."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import kivel
from kivel.core.pixels.pixels import Size
from kivel.core.playback.clip import Clip, Step
from kivel.files.images import FrameSource
from kivel.sequences.clip_parts import clip_parts, clips_together
from kivel.sequences.clips import ClipSet
from kivel.sequences.sequence import FrameSequence
from program import art, in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """`hero/`: walk of four frames, jump of three that goes on with walk, and one of no clip."""
    with contextlib.chdir(tmp_path):
        names = [f"walk_{number}" for number in range(4)] + [f"jump_{number}" for number in range(3)] + ["face"]
        for number, name in enumerate(names):
            write(Path(f"raw/{name}.png"), art(number))
        made = kivel.sheet(
            *(f"raw/{name}.png" for name in names), out="hero.png",
            make_clip={"walk": "walk_*", "jump": "jump_*"}, make_group={"all": "[wj]*"}, columns=8,
        )  # fmt: skip
        assert {clip.name: clip.shown_frames for clip in made.manifest.clips} == {
            "walk": (0, 1, 2, 3), "jump": (4, 5, 6), "hero": tuple(range(8)),
        }  # fmt: skip
        kivel.retime("hero.kivel.json", clip="hero", remove=True)
        kivel.retime("hero.kivel.json", clip="jump", repeat=1, then="walk", holds="50ms,60ms,70ms")
        kivel.slice("hero.kivel.json", out="hero")
        yield tmp_path


def told(manifest: kivel.Manifest) -> dict[str, tuple[list[int], Fraction, object, str | None]]:
    return {clip.name: ([s.frame for s in clip.steps], clip.length, clip.repeat, clip.then) for clip in manifest.clips}


def test_each_clip_is_resampled_and_what_is_in_none_stays() -> None:
    made = kivel.resample("hero", count=2, out="few")
    assert told(made.manifest) == {
        "walk": ([0, 1], Fraction(1, 3), "forever", None), "jump": ([2, 3], Fraction(18, 100), 1, "walk"),
    }  # fmt: skip
    assert [group.members for group in made.manifest.groups] == [("walk", "jump")]
    assert [[share.frame for share in span.shares] for span in made.taken] == [[0], [2], [4], [6], [7]]
    assert np.array_equal(read(Path("few/few_0004.png")), art(7))
    with pytest.raises(kivel.UsageError, match=r"motion=True works on one clip, hero has 2; pass series=\"walk\""):
        kivel.resample("hero", count=2, motion=True)


def test_each_clip_is_judged_and_closed_by_itself() -> None:
    made = kivel.loop("hero", close=1, out="closed")
    assert [(part.name, len(part.numbers)) for part in made.parts] == [("walk", 4), ("jump", 3)]
    assert all(part.seam and part.closed for part in made.parts)
    assert made.manifest is not None
    assert {name: steps for name, (steps, *_) in told(made.manifest).items()} == {"walk": [0, 1, 2], "jump": [3, 4]}
    done = in_process(["loop", "hero", "--json"], Path.cwd())
    assert [one["clip"] for one in json.loads(done.out)["loops"]] == ["walk", "jump"]


def test_prep_keeps_every_clip_when_frames_are_left_out_or_reordered() -> None:
    dropped = kivel.prep("hero", step=["drop 1,5"]).manifest
    assert {name: steps for name, (steps, *_) in told(dropped).items()} == {"walk": [0, 1, 2], "jump": [3, 4]}
    turned = kivel.prep("hero", step=["reverse"]).manifest
    assert {name: steps for name, (steps, *_) in told(turned).items()} == {"walk": [4, 5, 6, 7], "jump": [1, 2, 3]}


def test_layers_begin_anew_with_each_clip_and_clips_of_one_name_go_together() -> None:
    for number in range(2):
        write(Path(f"glow/{number}.png"), np.full((5, 6, 4), 60 + number, np.uint8))
    made = kivel.layer("hero", "glow", until="base", out="lit")
    assert told(made.manifest) == told(kivel.sheet("hero").manifest)
    alone = kivel.layer("raw/jump_0.png", "glow/0.png").images
    assert np.array_equal(read(Path("lit/lit_0004.png")), next(iter(alone.values())))
    kivel.prep("hero", out="less", step=["drop 3,6,7"])
    both = kivel.layer("hero", "less", until="base").images
    pair = kivel.layer("raw/jump_1.png", "raw/jump_1.png").images
    assert np.array_equal(list(both.values())[5], next(iter(pair.values())))


@pytest.mark.parametrize("series", ["walk,jump", "walk, j*", "[wj]*"])
def test_several_series_are_picked_by_names_and_patterns(series: str) -> None:
    for source in ("raw", "hero"):
        made = kivel.prep(source, series=series, step=["premultiply"]).manifest
        assert sorted(name for name in told(made)) == ["jump", "walk"]
        assert len(made.frames) == 7
    with pytest.raises(kivel.KivelError, match="there is no series 'wlk'; there are"):
        kivel.prep("raw", series="walk,wlk", step=["premultiply"])


def _sequence(count: int, clips: list[Clip]) -> FrameSequence:
    frames = tuple(
        FrameSource(f"m{n}", f"m{n}", Path("m"), Size(1, 1), 8, "", lambda: np.zeros((1, 1, 4), np.uint8))
        for n in range(count)
    )
    return FrameSequence("m", frames, clips=tuple(clips))


@given(st.lists(st.lists(st.integers(0, 7), min_size=1, max_size=4), max_size=4))
def test_parts_hold_every_frame_once_and_together_are_what_they_were(shown: list[list[int]]) -> None:
    clips = [Clip(str(n), Fraction(12), tuple(Step(f, 1 + n) for f in frames)) for n, frames in enumerate(shown)]
    whole = _sequence(8, clips)
    parts = clip_parts(whole)
    assert sorted(place for part in parts for place in part.places) == list(range(8))
    assert sorted(clip.name for part in parts for clip in part.clips) == sorted(clip.name for clip in clips)
    order = [place for part in parts for place in part.places]
    together = clips_together(whole, [(len(part.places), ClipSet(part.clips)) for part in parts])
    found = {clip.name: [(order[step.frame], step.hold) for step in clip.steps] for clip in together.clips}
    assert found == {clip.name: [tuple(step) for step in clip.steps] for clip in clips}
