"""Phases that stay, staggered copies, weights, followers: as they are set, listed and shown."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from program import Kivel, art, write


@pytest.fixture
def lamp(kivel: Kivel, tmp_path: Path) -> Path:
    for name, count in (("lamp", 4), ("glow", 3)):
        for number in range(count):
            write(tmp_path / f"{name}/{name}_{number}.png", art(number))
    assert kivel("sheet", "lamp", "glow", "-o", "s.png", "--fps", "10").code == 0
    return tmp_path / "s.kivel.json"


def clips(path: Path) -> dict[str, Any]:
    return {clip["name"]: clip for clip in json.loads(path.read_text())["clips"]}


def test_a_phase_given_as_a_share_stays_that_when_holds_change(kivel: Kivel, lamp: Path) -> None:
    for phase, before, after in (
        ("25%", [1, 1], [1, 4]), ("0.1s", [1, 1], [1, 1]), ("2t", [2, 1], [2, 1]), ("1.5", [3, 2], [3, 2]),
    ):  # fmt: skip
        kivel("retime", lamp.name, "--clip", "lamp", "--phase", phase, "--holds", "1,1,1,1", "--timebase", "10")
        assert clips(lamp)["lamp"]["phase"] == before
        kivel("retime", lamp.name, "--clip", "lamp", "--holds", "4,1,1,2" if phase != "2t" else "1,1,1,2")
        expected = {"25%": [1, 2]}.get(phase, after)
        assert clips(lamp)["lamp"]["phase"] == expected, phase


def test_staggered_copies_are_evenly_round_the_cycle_and_replaced(kivel: Kivel, lamp: Path) -> None:
    kivel("retime", lamp.name, "--clip", "lamp", "--holds", "8,3,5,4", "--stagger", "4")
    assert [clips(lamp)[f"lamp-{n}"].get("phase_share") for n in (1, 2, 3, 4)] == [None, [1, 4], [1, 2], [3, 4]]
    kivel("retime", lamp.name, "--clip", "lamp*", "--hold", "100ms")
    assert [clips(lamp)[f"lamp-{n}"]["phase"] for n in (1, 2, 3, 4)] == [[0, 1], [1, 1], [2, 1], [3, 1]]
    kivel("retime", lamp.name, "--clip", "lamp*", "--stagger", "3")
    assert list(clips(lamp)) == ["lamp", "glow", "lamp-1", "lamp-2", "lamp-3"]
    kivel("retime", lamp.name, "--stagger", "2", "--clip", "lamp-2")
    assert list(clips(lamp)) == ["lamp", "glow", "lamp-1", "lamp-2"]
    kivel("retime", lamp.name, "--clip", "lamp", "--rename", "torch")
    kivel("retime", lamp.name, "--stagger", "1", "--clip", "torch")
    assert list(clips(lamp)) == ["torch", "glow", "torch-1"]


def test_weights_say_how_often_a_clip_is_drawn(kivel: Kivel, lamp: Path) -> None:
    words = ["retime", lamp.name, "--make-group", "any=*", "--choose", "random", "--weight", "glow=3"]
    assert kivel(*words).code == 0
    group = json.loads(lamp.read_text())["groups"][0]
    assert (group["members"], group["weights"]) == (["lamp", "glow"], [1, 3])
    rows = kivel("timeline", lamp.name, "--group", "any", "--instances", "2000", "--at", "0", "--format", "csv").out
    drawn = [line.split(",")[3] for line in rows.splitlines()[1:]]
    assert 1420 < drawn.count("glow") < 1580
    kivel("retime", lamp.name, "--clip", "lamp", "--remove")
    assert json.loads(lamp.read_text())["groups"][0]["weights"] == [3]


def test_a_clip_goes_on_with_the_one_that_follows(kivel: Kivel, lamp: Path) -> None:
    assert kivel("retime", lamp.name, "--clip", "lamp", "--repeat", "1", "--then", "glow").code == 0
    rows = kivel("timeline", lamp.name, "--clip", "lamp", "--format", "csv").out.splitlines()
    assert [tuple(row.split(",")[i] for i in (0, 3, 4)) for row in rows[-5:]] == [
        ("2/5", "lamp", "end"), ("2/5", "glow", "show"), ("1/2", "glow", "show"), ("3/5", "glow", "show"),
        ("7/10", "glow", "cycle"),
    ]  # fmt: skip
    assert "then glow" in kivel("inspect", lamp.name).out
    kivel("retime", lamp.name, "--clip", "glow", "--then", "lamp")
    left = kivel("timeline", lamp.name, "--clip", "glow", "--leave-at", "0.25s", "--for", "0.5s", "--format", "csv").out
    assert "1/4,0.25,0,glow,end" in left
    assert "1/4,0.25,0,lamp,show" in left
    for view in (["-o", "a.gif"], ["-o", "t.png", "--view", "timing"]):
        assert kivel("preview", lamp.name, "--clip", "lamp", *view).code == 0
    kivel("retime", lamp.name, "--clip", "glow", "--rename", "shine")
    assert clips(lamp)["lamp"]["then"] == "shine"
    gone = kivel("retime", lamp.name, "--clip", "shine", "--remove")
    assert 'clip "lamp": "shine", which followed it, was removed; it now ends on its last step' in gone.err
    assert "then" not in clips(lamp)["lamp"]


def test_each_clip_is_traced_for_its_own_cycle(kivel: Kivel, lamp: Path) -> None:
    rows = kivel("timeline", lamp.name, "--format", "csv").out.splitlines()[1:]
    ends = {row.split(",")[3]: row.split(",")[0] for row in rows}
    assert ends == {"lamp": "2/5", "glow": "3/10"}


SAID: dict[str, tuple[list[str], str]] = {
    "nobody": (["--then", "owl"], "there is no clip 'owl' to follow it; clips: lamp, glow"),
    "an end and a follower": (["--end", "last", "--then", "glow"], "--then cannot be combined with --end"),
    "weights of all": (["--make-group", "a=*", "--weight", "glow=2"], "--weight needs --choose random"),
    "a weight of none": (
        ["--make-group", "a=*", "--choose", "random", "--weight", "x=2"],
        "it has no clip 'x'",
    ),
    "no weight": (["--make-group", "a=*", "--choose", "random", "--weight", "*=0"], "every weight is 0"),
    "a phase past the end": (["--phase", "5s"], "a phase of 5 s, expected from 0 up to below 400 ms"),
    "an order too far": (["--order", "glow:0,lamp:9"], 'there is no frame 9; clip "lamp" has 4 frames, 0-3'),
    "a clip that is missing": (["--holds", "owl:2"], "there is no clip 'owl'; clips: lamp, glow"),
}


@pytest.mark.parametrize(("words", "message"), SAID.values(), ids=SAID)
def test_what_is_wrong_with_clips_is_said(kivel: Kivel, lamp: Path, words: list[str], message: str) -> None:
    before = lamp.read_bytes()
    done = kivel("retime", lamp.name, *words)
    assert (done.code, message in done.err) == (2, True), done.err
    assert lamp.read_bytes() == before


def test_an_order_counts_the_frames_of_its_clip_and_says_when_it_leaves_them(kivel: Kivel, lamp: Path) -> None:
    kivel("retime", lamp.name, "--order", "glow:2-0")
    assert [frame for frame, _ in clips(lamp)["glow"]["steps"]] == [6, 5, 4]
    kivel("retime", lamp.name, "--order", "0-1")
    assert [[frame for frame, _ in clip["steps"]] for clip in clips(lamp).values()] == [[0, 1], [4, 5]]
    back = kivel("retime", lamp.name, "--clip", "lamp", "--order", "0-3,glow:1")
    assert [frame for frame, _ in clips(lamp)["lamp"]["steps"]] == [0, 1, 2, 3, 5]
    assert 'clip "lamp": its steps leave the frames it had, 0-3: 5' in back.err


LOOKS: dict[str, list[str]] = {
    "a backdrop by name": ["--backdrop", "rebeccapurple"],
    "alpha": ["--show", "alpha"],
    "tiled": ["--tile", "3x2", "--scale", "1"],
    "marks": ["--mark", "pivot", "--mark", "outline"],
}


@pytest.mark.parametrize("words", LOOKS.values(), ids=LOOKS)
def test_a_preview_shows_what_is_looked_for(kivel: Kivel, tmp_path: Path, lamp: Path, words: list[str]) -> None:
    import numpy as np
    import PIL.Image

    kivel("atlas", "lamp", "-o", "atlas.png", "--outline", "4")
    for source in (lamp.name, "atlas.kivel.json"):
        for suffix in ("png", "apng"):
            plain = kivel(
                "preview", source, "-o", f"plain.{suffix}", *(["--scale", "1"] if "--scale" in words else []), "--force"
            )
            done = kivel("preview", source, "-o", f"looked.{suffix}", *words, "--force")
            assert (plain.code, done.code) == (0, 0), done.err
            with (
                PIL.Image.open(tmp_path / f"plain.{suffix}") as one,
                PIL.Image.open(tmp_path / f"looked.{suffix}") as other,
            ):
                before, after = np.asarray(one.convert("RGBA")), np.asarray(other.convert("RGBA"))
                assert before.shape != after.shape or not np.array_equal(before, after)


def test_one_clip_is_looked_at_and_several_are_refused(kivel: Kivel, lamp: Path) -> None:
    done = kivel("preview", lamp.name, "-o", "c.png", "--clip", "glow")
    assert "contact sheet of 3 frames" in done.out
    several = kivel("preview", lamp.name, "-o", "d.png", "--clip", "*")
    assert (several.code, "--clip: several match, lamp, glow; name one, or see --view timing" in several.err) == (
        2,
        True,
    )


@pytest.mark.usefixtures("moth")
def test_two_manifests_are_in_one_page_with_all_of_their_clips(kivel: Kivel, tmp_path: Path) -> None:
    kivel("sheet", "moth", "-o", "a.png", "--make-clip", "peck=0-2", "--make-clip", "rest=3")
    kivel("sheet", "moth", "-o", "b.png", "--range", "1-4", "--make-clip", "glow=0-1")
    done = kivel("preview", "a.kivel.json", "b.kivel.json", "-o", "both.html")
    assert "plays 5 clips in a browser, 16 frames" in done.out
    assert "dropped" not in done.err
    page = (tmp_path / "both.html").read_text()
    assert all(f'"{name}"' in page for name in ("peck", "rest", "glow"))
