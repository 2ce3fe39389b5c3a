"""Each clip is called after what was made of it, or as its name is stated."""

from __future__ import annotations

import contextlib
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

import kivel
from program import art, write

MAKERS: dict[str, dict[str, Any]] = {
    "sheet": {"sources": "frames", "out": "fire.png"},
    "atlas": {"sources": "frames", "out": "fire.png"},
    "prep": {"sources": "frames", "out": "fire", "step": ["trim"]},
    "resample": {"sources": "frames", "out": "fire", "count": 2},
    "loop": {"sources": "frames", "out": "fire", "close": 1},
    "layer": {"base": "frames", "over": ["frames"], "out": "fire"},
    "scroll": {"tiles": "frames/f_0.png scroll=1,0", "out": "fire", "count": 3},
}


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """`frames/` with four, which have no clip yet; `known.png`, whose clip is called glow."""
    with contextlib.chdir(tmp_path):
        for number in range(4):
            write(Path(f"frames/f_{number}.png"), art(number))
        kivel.sheet("frames", out="known.png", name="glow")
        yield tmp_path


def names(made: Any) -> list[str]:
    manifest = getattr(made, "manifest", None) or made.sheets[0].manifest
    return [clip.name for clip in manifest.clips]


@pytest.mark.parametrize("command", MAKERS)
def test_a_clip_is_called_after_what_is_made_or_as_stated(command: str) -> None:
    values = dict(MAKERS[command])
    words = [values.pop(key) for key in ("sources", "base", "tiles") if key in values]
    assert names(getattr(kivel, command)(*words, **values)) == ["fire"]
    assert names(getattr(kivel, command)(*words, **values, name="ember")) == ["ember"]


def test_clips_that_come_along_keep_their_names_unless_one_is_stated() -> None:
    shutil.copy("known.png", "plain.png")
    assert names(kivel.sheet("known.kivel.json", out="new.png")) == ["glow"]
    assert names(kivel.sheet("known.kivel.json", out="new.png", name="ember")) == ["ember"]
    assert names(kivel.prep("known.kivel.json", out="few", step=["keep 0-1"], name="ember")) == ["ember"]
    assert names(kivel.slice("known.kivel.json", out="cut", name="ember")) == ["ember"]
    assert names(kivel.adopt("plain.png", columns=2, rows=2, name="ember")) == ["ember"]
    assert names(kivel.adopt("frames", name="ember")) == ["ember"]
    made = kivel.sheet("frames", out="more.png", rows=2, columns=3)
    assert [*names(made), *names(kivel.sheet("few", into="more.kivel.json", name="late"))] == ["ember", "ember", "late"]


def test_several_sequences_are_called_after_their_sources() -> None:
    shutil.copytree("frames", "other")
    assert names(kivel.sheet("frames", "other", out="new.png")) == ["frames", "other"]
    assert names(kivel.sheet("frames", out="new.png", make_clip={"a": "0-1"})) == ["new", "a"]


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"sources": ("frames", "known.kivel.json")}, r"for one sequence, found 2: frames, known; use make_clip="),
        ({"sources": ("two.kivel.json",)}, r"for one clip, found 2: two, a; kivel retime with clip=\"two\" rename="),
        ({"sources": ("frames",), "row_clips": ["a", "b"], "columns": 2}, "no clip is made of all frames; clips: a, b"),
    ],
    ids=["several sequences", "several clips", "rows"],
)  # fmt: skip
def test_a_name_for_no_clip_or_several_is_refused(values: dict[str, Any], words: str) -> None:
    kivel.sheet("frames", out="two.png", make_clip={"a": "0-1"})
    with pytest.raises(kivel.UsageError, match=words):
        kivel.sheet(*values.pop("sources"), out="x.png", name="ember", **values)
    assert not Path("x.png").exists()


def test_all_that_names_a_clip_follows_its_new_name() -> None:
    kivel.sheet("frames", out="fire.png", make_clip={"end": "0-1"})
    kivel.retime("fire.kivel.json", make_group={"both": "*"}, clip="end", repeat=1, then="fire")
    kivel.retime("fire.kivel.json", clip="fire", holds="80ms,50ms,60ms,70ms")
    made = kivel.sheet("frames", out="fire.png", make_clip={"end": "0-1"}, name="ember").manifest
    assert [(clip.name, clip.then) for clip in made.clips] == [("ember", None), ("end", "ember")]
    assert [group.members for group in made.groups] == [("ember", "end")]
    assert [float(made.clips[0].seconds(step.hold)) for step in made.clips[0].steps] == [0.08, 0.05, 0.06, 0.07]
