"""How Kivel speaks: phrases that no text has, verdicts on loops, and refusals, word by word."""

from __future__ import annotations

import contextlib
import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

import kivel
from kivel.core.looping.seam import Seam, TileSeam
from kivel.core.playback.clip import Clip, Step
from kivel.views.loop_lines import seam_lines, tile_lines
from program import art, write
from texts import texts

BANNED = (
    r"\bto and fro\b", r"\bso many\b", r"\banew\b", r"\bas (it|they) (was|were)\b", r"\bstands?\b", r"\bstood\b",
    r"\b(it|that|this|which) (is|are) (also )?said\b", r"\b(is|are) told\b", r"\bsay what shows when\b",
    r"\bnothing is other than\b", r"\bwhat it is made of is to be\b", r"\bmake what does not\b", r"\bthis very\b",
    r"\bthe colour that stands for\b", r"\bround holds that must\b", r"\bthe most that it shows\b",
    r"\bgets \S+ px from its mean\b", r"\bshow at the edge at mip\b", r"\bwants sides\b", r"\bhold the one before\b",
    r"\boptions of every day\b", r"\bwhich Kivel this is\b", r"\bleave it out\b", r"\bgive both\b",
    r"\balone: the cells\b", r"\bwithout drift\b", r"\bkivel-digest\b", r"\bsealed?\b", r"^telling:",
)  # fmt: skip
"""Of the page on how Kivel speaks: what reads like a translation, and words that have another meaning here."""
NO_QUESTION = re.compile(r"(What|Of|By which)\b[^?]*$", re.DOTALL)


def test_no_text_has_a_phrase_that_nobody_would_say() -> None:
    banned = re.compile("|".join(BANNED))
    found = [f"{one.where}: {hit[0]!r} in {one.text[:80]!r}" for one in texts() if (hit := banned.search(one.text))]
    assert found == []


def test_no_text_begins_with_what_unless_it_asks() -> None:
    found = [f"{one.where}: {one.text[:80]!r}" for one in texts() if NO_QUESTION.match(one.text.partition("\n")[0])]
    assert found == []


def test_the_texts_are_those_of_every_kind() -> None:
    kinds = Counter(one.kind for one in texts())
    assert min(kinds[kind] for kind in ("message", "docstring", "comment", "page", "document")) > 300


PING_PONG = Clip("m", Fraction(12), tuple(Step(number, 1) for number in range(5)), direction="alternate")
A_PART = replace(PING_PONG, steps=PING_PONG.steps[:2])
FIGURES: dict[str, Any] = {"change": 0.1, "step": 0.05, "seam": 2.0, "of_largest": 1.5, "of_pairs": 0.9}

SEAMS: dict[str, tuple[Seam, tuple[Clip, ...], list[str]]] = {
    "closes": (
        Seam("closes", **FIGURES, by="largest", value=0.62, limit=1.07, confidence=0.5), (),
        ["closes: the seam is 0.62 times the largest change (limit 1.07; clearly)"],
    ),
    "closes, its ends being alike": (
        Seam("closes", **FIGURES, by="pairs", value=0.7, limit=0.85, confidence=0.19), (),
        ["closes: the seam is 0.70 times the change between any two frames (limit 0.85; likely)"],
    ),
    "closes on a hold": (
        Seam("closes", **FIGURES, by="repeat", value=0.001, limit=0.005, confidence=1.6, held=True), (),
        ["closes: last and first differ by 0.1% (limit 0.5%; clearly)",
         "its last frame repeats the first, as other frames repeat; nothing to do"],
    ),
    "a burst": (
        Seam("burst", **FIGURES, by="mass", value=0.41, limit=0.6, confidence=0.38), (),
        ["a burst: its fainter end has 41% of the peak opacity (limit 60%; clearly)",
         "to make it loop: --close K cross-fades its end into its start"],
    ),
    "a burst that starts afresh": (
        Seam("burst", **FIGURES, by="opacity", value=0.5, limit=0.15, confidence=1.2, afresh=True), (),
        ["a burst that restarts cleanly (no visible jump when repeated): first and last differ in opacity by 50% "
         "(limit 15%; clearly)"],
    ),
    "repeats": (
        Seam("repeats", **FIGURES, by="repeat", value=0.004, limit=0.005, confidence=0.22), (),
        ["repeats its first frame: last and first differ by 0.4% (limit 0.5%; likely)",
         "in a loop, the last frame shows twice: drop it"],
    ),
    "does not close": (
        Seam("open", **FIGURES, by="largest", value=1.1, limit=1.07, confidence=0.03), (),
        ["does not close: the seam is 1.10 times the largest change (limit 1.07; a close call)",
         "to make it loop: --find looks for a part that does, --close K cross-fades its end into its start"],
    ),
    "ping-pong": (
        Seam("open", **FIGURES, by="largest", value=2.1, limit=1.07, confidence=0.7), (PING_PONG,),
        ["does not close: the seam is 2.10 times the largest change (limit 1.07; clearly)",
         "its clip plays as ping-pong, which always closes"],
    ),
    "a burst as ping-pong": (
        Seam("burst", **FIGURES, by="mass", value=0.41, limit=0.6, confidence=0.38), (PING_PONG,),
        ["a burst: its fainter end has 41% of the peak opacity (limit 60%; clearly)",
         "its clip plays as ping-pong, which always closes"],
    ),
    "a part of it as ping-pong": (
        Seam("open", **FIGURES, by="largest", value=2.1, limit=1.07, confidence=0.7), (A_PART,),
        ["does not close: the seam is 2.10 times the largest change (limit 1.07; clearly)",
         "to make it loop: --find looks for a part that does, --close K cross-fades its end into its start"],
    ),
    "still": (Seam("still", 0.0, 0.0, 0.0), (), ["a still: all frames are the same"]),
    "too few": (Seam("too few", 0.1, 0.05, 2.0, 1.5), (), ["too few frames to judge"]),
}  # fmt: skip


@pytest.mark.parametrize(("seam", "clips", "expected"), SEAMS.values(), ids=SEAMS)
def test_verdicts_are_said_with_what_decided_and_what_may_be_done(
    seam: Seam, clips: tuple[Clip, ...], expected: list[str]
) -> None:
    first, *lines = seam_lines("moth", range(1, 6), seam, clips)
    assert first == "moth: 5 frames, 1-5"
    if seam.step:
        assert lines.pop(0).startswith(
            f"  seam     5 to 1 is 1.50 times the largest change, {seam.seam:.2f} times the usual one ("
        )
    assert [line.removeprefix("  verdict  ").strip() for line in lines] == expected


TILES: dict[str, tuple[TileSeam, str]] = {
    "meets": (TileSeam(0.8, 1.1), "tiles: no visible seam"),
    "at the edge": (TileSeam(0.8, 1.4), "may tile: look at it, the seam is barely visible or not"),
    "does not": (TileSeam(1.6, 0.2), "does not tile: a visible seam"),
}


@pytest.mark.parametrize(("seam", "verdict"), TILES.values(), ids=TILES)
def test_sides_are_said_with_their_figures(seam: TileSeam, verdict: str) -> None:
    name, across, _, last = tile_lines(["moss.png"], [seam])
    assert (name, last.split(None, 1)[1]) == ("moss.png", verdict)
    assert (
        f"{seam.across:.2f} times its own larger changes from line to line (up to 1.1 meets, above 1.5 shows)" in across
    )


@pytest.fixture
def place(tmp_path: Path) -> Iterator[Path]:
    for name in ("lamp", "moth"):
        for number in range(4):
            write(tmp_path / f"{name}/{name}_{number}.png", art(number))
    with contextlib.chdir(tmp_path):
        kivel.sheet("lamp", "moth", out="s.png")
        yield tmp_path


REFUSED: dict[str, tuple[str, tuple[str, ...], dict[str, Any], str]] = {
    "too many tiles": ("preview", ("lamp",), {"tile": "11x10"}, "tile=: expected at most 100 in all, found 11x10"),
    "nothing to leave for": (
        "timeline",
        ("s.kivel.json",),
        {"leave_at": 1},
        "needs a clip with a follower; none",
    ),
    "a map without a sheet": ("slice", ("s.png",), {"map_kind": {"n": "mask"}}, "map n: give its sheet with map="),
    "a map that is none": (
        "slice",
        ("s.png",),
        {"map": {"n": "s.kivel.json"}},
        "map n: expected an image with the layout",
    ),
    "too many sheets": ("slice", ("s.png",), {"map": [("n", "s.png"), ("n", "s.png")]}, "expected one image, found 2"),
    "a colour that is none": (
        "preview",
        ("lamp",),
        {"backdrop": "slatgray"},
        "found 'slatgray'; did you mean slategray?",
    ),
    "a clip twice": ("sheet", ("lamp",), {"hold": 2, "fps": 3}, "hold= cannot be combined with fps="),
    "an order of nobody": ("sheet", ("lamp",), {"order": "0,owl:1"}, "there is no clip 'owl'; clips: lamp"),
    "a follower of nobody": ("sheet", ("lamp",), {"then": "owl"}, "there is no clip 'owl' to follow it; clips: lamp"),
    "a series of nobody": ("inspect", (".",), {"series": "owl"}, "there is no series 'owl'; there are"),
}


@pytest.mark.usefixtures("place")
@pytest.mark.parametrize(("name", "sources", "options", "message"), REFUSED.values(), ids=REFUSED)
def test_what_cannot_be_done_says_why(
    name: str, sources: tuple[str, ...], options: dict[str, Any], message: str
) -> None:
    with pytest.raises(kivel.KivelError) as error:
        getattr(kivel, name)(*sources, **options)
    assert message in str(error.value)


NOTED: dict[str, tuple[str, tuple[str, ...], dict[str, Any], str]] = {
    "thinned": (
        "sheet",
        ("lamp",),
        {"fit_page": "12x5", "fit_by": "thin"},
        "lamp: 2 of 4 frames, as long as before: 0, 2",
    ),
    "all fit": (
        "sheet",
        ("lamp",),
        {"fit_page": "99x99", "fit_by": "thin"},
        "all 4 frames fit 99x99 at their own size",
    ),
    "clips of a part": (
        "sheet",
        ("s.kivel.json",),
        {"range": "0-3"},
        "clips skipped, some of their frames are not",
    ),
    "trimmed each": ("prep", ("lamp",), {"step": ["trim each", "crop 6x5"]}, '"crop 6x5" changed no frame'),
}


@pytest.mark.usefixtures("place")
@pytest.mark.parametrize(("name", "sources", "options", "note"), NOTED.values(), ids=NOTED)
def test_what_a_person_should_know_is_noted(
    name: str, sources: tuple[str, ...], options: dict[str, Any], note: str
) -> None:
    made = getattr(kivel, name)(*sources, **options)
    assert any(note in said for said in made.notes), made.notes


@pytest.mark.usefixtures("place")
def test_a_group_whose_clips_are_gone_is_named() -> None:
    kivel.retime("s.kivel.json", make_group={"both": "*"})
    assert 'warning: group "both" no longer has moth' in kivel.sheet("lamp", out="s.png").notes
    assert kivel.prep("lamp", step=["trim each"]).measured == ("trim: each to its own box, 6x5 to 6x5 px",)
