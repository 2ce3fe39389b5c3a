"""`retime` and `timeline`, as they are used."""

from __future__ import annotations

import json
import subprocess
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import PIL.Image
import PIL.ImageSequence
import pytest

from kivel.core.pixels.compose import checkerboard
from kivel.core.pixels.pixels import Size
from program import PROGRAM, Kivel, art, files, read, write


@pytest.fixture
def moth(kivel: Kivel, tmp_path: Path) -> Path:
    """A sheet of 8 frames, one clip at 12 a second."""
    for number in range(8):
        write(tmp_path / "moth" / f"moth_{number}.png", art(number))
    assert kivel("sheet", "moth", "-o", "moth.png").code == 0
    return tmp_path / "moth.kivel.json"


def clips(manifest: Path) -> dict[str, Any]:
    return {clip["name"]: clip for clip in json.loads(manifest.read_text())["clips"]}


RETIMED = {
    "holds": (["--holds", "4,2*6,8", "--timebase", "60"], {"timebase": [60, 1], "steps": [[0, 4], [7, 8]]}),
    "order": (
        ["--order", "0-3*2,4*6,3-1", "--hold", "2"],
        {"steps": [[0, 4], [1, 4], [4, 12], [3, 2]]},
    ),
    "length": (["--length", "1.5s"], {"timebase": [48, 1], "steps": [[0, 9]]}),
    "speed": (["--speed", "1/2"], {"timebase": [12, 1], "steps": [[0, 2]]}),
    "exact timebase": (["--timebase", "60"], {"timebase": [60, 1], "steps": [[0, 5]]}),
    "rounded timebase": (["--timebase", "30", "--convert"], {"timebase": [30, 1], "steps": [[0, 3], [1, 2], [2, 3]]}),
    "playing": (
        ["--direction", "alternate", "--hold-ends", "--repeat", "3", "--end", "none", "--interpolation", "linear"],
        {"direction": "alternate", "hold_ends": True, "repeat": 3, "end": "none", "interpolation": "linear"}
        | {"set": ["direction", "hold_ends", "repeat", "end", "interpolation"]},
    ),
    "phase": (["--phase", "25%"], {"phase": [2, 1], "set": ["phase"]}),
    "phase in steps": (["--phase", "2.5"], {"phase": [5, 2]}),
    "events": (
        ["--event", "3:chirp", "--event", "0:land"],
        {"events": [{"step": 0, "name": "land"}, {"step": 3, "name": "chirp"}]},
    ),
    "pace": (["--pace", "ease-in", "--timebase", "60"], {"timebase": [60, 1], "steps": [[0, 12], [1, 5]]}),
}


@pytest.mark.parametrize(("words", "expected"), RETIMED.values(), ids=RETIMED)
def test_retime_sets_what_it_is_asked_for(kivel: Kivel, moth: Path, words: list[str], expected: dict[str, Any]) -> None:
    done = kivel("retime", moth.name, *words)
    assert (done.code, done.err.count("error")) == (0, 0)
    clip = clips(moth)["moth"]
    for key, value in expected.items():
        if key == "steps":
            assert all(step in clip["steps"] for step in value), clip["steps"]
        else:
            assert clip[key] == value
    assert "before" in done.out
    assert kivel("slice", moth.name, "-o", "out").code == 0


BAD = {
    "nothing to do": ([], "nothing to change"),
    "no rate": (["--fps", "0"], "a rate above 0, like 12 or 24000/1001, found '0'"),
    "negative hold": (
        ["--hold=-2"],
        "a hold above 0, in ticks, like 2, or as a time, like 80ms or 1/12s, found '-2'",
    ),
    "zero hold": (["--holds", "1,0"], "found '0'"),
    "holds that do not match": (["--holds", "1,2"], "2 holds for 8 steps; give one for each step, 0-7"),
    "no such pace": (["--pace", "easy-in"], "'easy-in' is not an easing function: did you mean ease-in?"),
    "frame out of range": (["--order", "0-8"], 'there is no frame 8; clip "moth" has 8 frames, 0-7'),
    "event past the end": (["--event", "8:chirp"], 'event "chirp" at step 8: clip "moth" has 8 steps, 0-7'),
    "phase past the end": (["--phase", "8"], "a phase of 8 steps, expected from 0 up to below 8"),
    "phase of a whole cycle": (["--phase", "100%"], "from 0% up to below 100%"),
    "no such clip": (["--clip", "owl*", "--fps", "8"], "there is no clip 'owl*'; clips: moth"),
    "group of none": (
        ["--make-group", "night=owl-*"],
        "would be empty: no clip is called 'owl-*'; clips: moth",
    ),
    "between ticks": (["--timebase", "25"], "25/12 at 25; pass --convert to round them, or choose 300"),
    "ends of no ping-pong": (["--hold-ends"], "--hold-ends is for a clip that alternates, its direction is normal"),
    "convert to what": (["--convert"], "--convert needs --timebase N"),
    "remove all": (["--remove"], "--remove: choose with --clip"),
    "no length": (["--length", "0s"], "expected a length above 0"),
}


@pytest.mark.parametrize(("words", "message"), BAD.values(), ids=BAD)
def test_what_retime_refuses_leaves_the_manifest_untouched(
    kivel: Kivel, moth: Path, words: list[str], message: str
) -> None:
    before = files(moth.parent)
    done = kivel("retime", moth.name, *words)
    assert done.code in (1, 2)
    assert message in done.err
    assert files(moth.parent) == before


def test_clips_come_from_clips_and_groups_follow(kivel: Kivel, moth: Path) -> None:
    assert kivel("retime", moth.name, "--new", "peck", "--order", "4-7", "--repeat", "1").code == 0
    assert kivel("retime", moth.name, "--clip", "peck", "--stagger", "4", "--make-group", "all=peck*").code == 0
    assert list(clips(moth)) == ["moth", "peck", "peck-1", "peck-2", "peck-3", "peck-4"]
    assert [clips(moth)[f"peck-{n}"]["phase"] for n in (1, 2, 3, 4)] == [[0, 1], [1, 1], [2, 1], [3, 1]]
    assert kivel("retime", moth.name, "--clip", "peck", "--rename", "tap").code == 0
    assert kivel("retime", moth.name, "--clip", "peck-[34]", "--remove").code == 0
    assert list(clips(moth)) == ["moth", "tap", "peck-1", "peck-2"]
    assert json.loads(moth.read_text())["groups"] == [
        {"name": "all", "members": ["tap", "peck-1", "peck-2"], "choose": "all", "set": ["added"]}
    ]
    again = kivel("retime", moth.name, "--clip", "tap", "--rename", "moth")
    assert (again.code, "choose another name" in again.err) == (1, True) or again.code == 2


def test_a_dry_run_shows_and_writes_nothing(kivel: Kivel, moth: Path) -> None:
    before = files(moth.parent)
    done = kivel("retime", moth.name, "--fps", "24", "--dry-run", "--json")
    assert files(moth.parent) == before
    change = json.loads(done.out)["changes"][0]
    assert (change["before"]["timebase"], change["after"]["timebase"]) == ([12, 1], [24, 1])


def test_what_is_unknown_in_an_edited_manifest_stays(kivel: Kivel, moth: Path) -> None:
    content = json.loads(moth.read_text())
    content["clips"][0]["mood"] = "calm"
    moth.write_text(json.dumps(content))
    assert kivel("retime", moth.name, "--fps", "24").code == 0
    assert clips(moth)["moth"]["mood"] == "calm"


def test_trace_tells_all_that_happens(kivel: Kivel, moth: Path) -> None:
    kivel("retime", moth.name, "--order", "0-2", "--repeat", "1", "--end", "first", "--event", "1:chirp")
    lines = kivel("timeline", moth.name, "--format", "csv").out.splitlines()
    assert lines[0] == "time,seconds,instance,clip,what,cycle,step,frame,name"
    assert [line.split(",", 4)[0] + " " + line.split(",", 4)[4] for line in lines[1:]] == [
        "0 show,0,0,0,",
        "1/12 show,0,1,1,",
        "1/12 event,0,1,1,chirp",
        "1/6 show,0,2,2,",
        "1/4 cycle,0,,,",
        "1/4 end,0,,,",
        "1/4 show,0,0,0,",
    ]
    rows = [json.loads(line) for line in kivel("timeline", moth.name, "--format", "json-lines").out.splitlines()]
    assert json.loads(kivel("timeline", moth.name, "--json").out)["rows"] == rows
    table = kivel("timeline", moth.name).out.splitlines()
    assert table[0].split() == ["s", "clip", "what", "cycle", "step", "frame", "event"]
    assert kivel("timeline", moth.name, "--at", "0s").out.splitlines()[0].split("  ")[-1] == "ended"
    assert len(table) == len(lines)


def test_trace_looks_at_moments_and_at_a_games_frames(kivel: Kivel, moth: Path) -> None:
    kivel("retime", moth.name, "--holds", "4,1*7", "--timebase", "60")
    rows = json.loads(kivel("timeline", moth.name, "--at", "0.1s", "--at", "50ms", "--json").out)["rows"]
    assert [(row["time"], row["step"], row["fraction"]) for row in rows] == [("1/20", 0, "3/4"), ("1/10", 3, "0")]
    done = kivel("timeline", moth.name, "--clock", "30", "--for", "0.2s")
    assert [line.split()[4] for line in done.out.splitlines()[1:7]] == ["0", "0", "1", "3", "5", "7"]
    assert "at 30 frames a second: steps 1-7 skipped in some cycles: shorter than a rendered frame" in done.out
    even = kivel("timeline", moth.name, "--clock", "60", "--format", "csv")
    assert "every step shows for the same number" in even.err


def test_instances_draw_their_clip_and_phase(kivel: Kivel, moth: Path) -> None:
    kivel("retime", moth.name, "--new", "peck", "--order", "4-7")
    kivel("retime", moth.name, "--make-group", "any=*", "--choose", "random")

    def drawn(*words: str) -> list[tuple[str, int]]:
        out = kivel("timeline", moth.name, "--instances", "20", "--at", "0s", "--json", *words).out
        return [(row["clip"], row["frame"]) for row in json.loads(out)["rows"]]

    picked = drawn("--group", "any", "--seed", "7")
    assert picked == drawn("--group", "any", "--seed", "7")
    assert picked != drawn("--group", "any", "--seed", "8")
    assert set(picked) == {("moth", 0), ("peck", 4)}
    assert len(set(drawn("--clip", "moth", "--random-phase"))) > 4
    none = kivel("timeline", moth.name, "--group", "owls")
    assert (none.code, "there is no group 'owls'; groups: any" in none.err) == (2, True)


def test_by_hand_each_line_is_a_step(kivel: Kivel, moth: Path) -> None:
    words = [str(PROGRAM), "timeline", moth.name, "--manual", "--format", "json-lines"]
    done = subprocess.run(words, input="\n\n\n", cwd=moth.parent, capture_output=True, text=True, check=True)
    assert [json.loads(line)["frame"] for line in done.stdout.splitlines()] == [0, 1, 2, 3]
    kivel("retime", moth.name, "--order", "0-1", "--repeat", "1")
    done = subprocess.run(words, input="\n\n\n\n", cwd=moth.parent, capture_output=True, text=True, check=True)
    assert [json.loads(line)["what"] for line in done.stdout.splitlines()] == ["show", "show", "cycle", "end"]


def test_an_hour_of_a_long_clip_streams(moth: Path) -> None:
    """Its first lines come at once, and nothing is gathered: an hour takes as little memory as a second."""
    content = json.loads(moth.read_text())
    content["clips"][0]["steps"] = [[step % 8, 1 + step % 3] for step in range(10_000)]
    moth.write_text(json.dumps(content))
    script = (
        "import resource, subprocess, sys\n"
        "subprocess.run(sys.argv[1:], stdout=subprocess.DEVNULL, check=True)\n"
        "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)\n"
    )
    peaks = []
    for span in ("1s", "1h"):
        words = [str(PROGRAM.with_name("python")), "-c", script, str(PROGRAM), "timeline", moth.name, "--for", span]
        done = subprocess.run(words, cwd=moth.parent, capture_output=True, text=True, check=True)
        peaks.append(int(done.stdout))
    assert peaks[1] < peaks[0] + 4096


def test_lengths_stay_exact_over_repeated_changes(kivel: Kivel, moth: Path) -> None:
    for words in (["--speed", "3/7"], ["--speed", "7/3"], ["--length", "2/3s"], ["--hold", "1/12s"]):
        assert kivel("retime", moth.name, *words).code == 0
    clip = clips(moth)["moth"]
    assert {hold / Fraction(*clip["timebase"]) for _, hold in clip["steps"]} == {Fraction(1, 12)}


@pytest.fixture
def orchard(tmp_path: Path) -> Path:
    """Two sequences: `hen`, 6 frames, and `owl`, 4."""
    for name, count in (("hen", 6), ("owl", 4)):
        for number in range(count):
            write(tmp_path / name / f"{name}_{number}.png", art(number + 40 * len(name) + ord(name[0])))
    return tmp_path


NAMED = {
    "a part": (["--make-clip", "peck=2-4"], {"hen": [0, 1, 2, 3, 4, 5], "owl": [6, 7, 8, 9], "peck": [2, 3, 4]}),
    "a part of a sequence": (
        ["--make-clip", "blink=owl:0-1,0"],
        {"hen": [0, 1, 2, 3, 4, 5], "owl": [6, 7, 8, 9], "blink": [6, 7, 6]},
    ),
    "a sequence by another name": (["--make-clip", "night=ow*"], {"hen": [0, 1, 2, 3, 4, 5], "night": [6, 7, 8, 9]}),
    "frames by name": (
        ["--make-clip", "ends=*_[05]"],
        {"hen": [0, 1, 2, 3, 4, 5], "owl": [6, 7, 8, 9], "ends": [0, 5, 6]},
    ),
    "all in parts": (["--make-clip", "a=0-5", "--make-clip", "b=6-9"], {"a": [0, 1, 2, 3, 4, 5], "b": [6, 7, 8, 9]}),
}


@pytest.mark.parametrize("command", ["sheet", "atlas"])
@pytest.mark.parametrize(("words", "expected"), NAMED.values(), ids=NAMED)
def test_clips_are_named_where_frames_come_in(
    kivel: Kivel, orchard: Path, command: str, words: list[str], expected: dict[str, list[int]]
) -> None:
    done = kivel(command, "hen", "owl", "-o", "out.png", *words, "--make-group", "any=*", "--choose", "random")
    assert done.code == 0, done.err
    found = clips(orchard / "out.kivel.json")
    assert {name: [frame for frame, _ in clip["steps"]] for name, clip in found.items()} == expected
    group = json.loads((orchard / "out.kivel.json").read_text())["groups"][0]
    assert group == {"name": "any", "members": list(found), "choose": "random"}


@pytest.mark.usefixtures("orchard")
@pytest.mark.parametrize(
    ("words", "message"),
    [
        (["--make-clip", "peck=8-12"], 'clip "peck": there is no frame 10; there are 10 frames, 0-9'),
        (["--make-clip", "peck=owl:3-4"], 'clip "peck", owl: there is no frame 4; there are 4 frames, 0-3'),
        (["--make-clip", "peck=cat*"], "no frame and no sequence is called 'cat*'; sequences: hen, owl; frames 0-9"),
        (["--make-clip", "a=0", "--make-clip", "a=1"], 'two clips are called "a"'),
        (["--make-clip", "peck"], "expected NAME=FRAMES"),
        (["--make-group", "any=cat*"], 'group "any" would be empty'),
        (["--choose", "random"], "--choose needs --make-group NAME=CLIPS"),
    ],
)
def test_clips_that_cannot_be_are_refused(kivel: Kivel, tmp_path: Path, words: list[str], message: str) -> None:
    before = files(tmp_path)
    for command in ("sheet", "atlas"):
        done = kivel(command, "hen", "owl", "-o", "out.png", *words)
        assert done.code in (1, 2)
        assert message in done.err
    assert files(tmp_path) == before


def test_rows_become_clips(kivel: Kivel, orchard: Path) -> None:
    """On a sheet that is made, on one that is there, and on a plain image, the last row short."""
    expected = {"walk": [0, 1, 2, 3, 4, 5], "rest": [6, 7, 8, 9]}
    assert kivel("sheet", "hen", "owl", "-o", "rows.png", "--row-clips", "walk,rest", "--fps", "8").code == 0
    assert kivel("sheet", "hen", "owl", "-o", "later.png").code == 0
    assert kivel("retime", "later.kivel.json", "--row-clips", "walk,rest").code == 0
    (orchard / "plain").mkdir()
    (orchard / "plain/rows.png").write_bytes((orchard / "rows.png").read_bytes())
    assert (
        kivel(
            "slice", "plain/rows.png", "-o", "cells", "--columns", "6", "--rows", "2", "--row-clips", "walk,rest"
        ).code
        == 0
    )
    assert kivel("slice", "later.kivel.json", "-o", "again", "--row-clips", "walk,rest").code == 0
    for name in ("rows.kivel.json", "later.kivel.json", "cells/rows.kivel.json", "again/later.kivel.json"):
        found = {clip: [frame for frame, _ in each["steps"]] for clip, each in clips(orchard / name).items()}
        assert {key: found[key] for key in expected} == expected
    assert clips(orchard / "rows.kivel.json")["walk"]["timebase"] == [8, 1]
    wrong = kivel("sheet", "hen", "owl", "-o", "x.png", "--row-clips", "a,b,c")
    assert (wrong.code, "3 names for 2 rows with frames (6, 4 in each)" in wrong.err) == (2, True)


def test_folding_stores_each_picture_once_and_plays_the_same(kivel: Kivel, tmp_path: Path) -> None:
    for number, picture in enumerate([0, 1, 2, 3, 3, 3, 2, 1]):
        write(tmp_path / "flap" / f"flap_{number}.png", art(picture))
        write(tmp_path / "flap" / f"flap_{number}_glow.png", art(picture + 50))
    assert kivel("sheet", "flap/flap_?.png", "-o", "whole.png", "--fps", "12").code == 0
    done = kivel("sheet", "flap/flap_?.png", "-o", "once.png", "--fps", "12", "--fold", "--map-suffix", "glow=_glow")
    assert "8 frames became 4, duplicates merged" in done.err
    assert "8 steps became 4, played as ping-pong; it plays the same" in done.err
    assert kivel("sheet", "flap/flap_?.png", "-o", "steps.png", "--fps", "12", "--fold", "steps").code == 0
    assert clips(tmp_path / "once.kivel.json")["once"]["steps"] == [[0, 1], [1, 1], [2, 1], [3, 3]]
    assert clips(tmp_path / "steps.kivel.json")["steps"]["steps"] == [[0, 1], [1, 1], [2, 1], [3, 3], [2, 1], [1, 1]]
    shown = []
    for name in ("whole", "once", "steps"):
        assert kivel("preview", f"{name}.kivel.json", "-o", f"{name}.apng", "--scale", "1").code == 0
        shown.append(seen(tmp_path / f"{name}.apng"))
    assert shown[0] == shown[1] == shown[2]
    write(tmp_path / "flap" / "flap_7_glow.png", art(99))
    other = kivel("sheet", "flap/flap_?.png", "-o", "m.png", "--fold", "--map-suffix", "glow=_glow")
    assert "8 frames became 5" in other.err
    assert "nothing to fold" in kivel("sheet", "flap/flap_0.png", "flap/flap_1.png", "-o", "n.png", "--fold").err


def seen(path: Path) -> list[tuple[bytes, int]]:
    """What an animated image shows, in milliseconds; equal pictures in a row are one."""
    shown: list[tuple[bytes, int]] = []
    with PIL.Image.open(path) as image:
        for frame in PIL.ImageSequence.Iterator(image):
            picture, duration = frame.convert("RGBA").tobytes(), round(frame.info["duration"])
            if shown and shown[-1][0] == picture:
                shown[-1] = (picture, shown[-1][1] + duration)
            else:
                shown.append((picture, duration))
    return [(picture, round(duration / 10)) for picture, duration in shown]


def test_frames_in_between_are_blended_and_their_holds_divided(kivel: Kivel, tmp_path: Path) -> None:
    black, white = (np.full((4, 4, 4), value, np.uint8) for value in ([0, 0, 0, 255], [255, 255, 255, 255]))
    for number, frame in enumerate((black, white)):
        write(tmp_path / "pulse" / f"pulse_{number}.png", frame)
    done = kivel("sheet", "pulse", "-o", "pulse.png", "--layout", "row", "--inbetween", "1", "--fps", "10")
    assert "1 blended frame between 2" in done.err
    page = read(tmp_path / "pulse.png")[0, ::4, 0]
    assert page.tolist() == [0, 188, 255]
    clip = clips(tmp_path / "pulse.kivel.json")["pulse"]
    assert (clip["timebase"], clip["steps"]) == ([20, 1], [[0, 1], [1, 1], [2, 1], [1, 1]])
    once = kivel(
        "sheet", "pulse", "-o", "once.png", "--inbetween", "3", "--fps", "10", "--repeat", "1", "--fold", "steps"
    )
    assert once.code == 0
    clip = clips(tmp_path / "once.kivel.json")["once"]
    assert (clip["timebase"], [hold for _, hold in clip["steps"]]) == ([40, 1], [1, 1, 1, 1, 4])


@pytest.mark.slow
def test_a_chart_shows_every_clip(kivel: Kivel, moth: Path) -> None:
    """Few clips get pictures, many only bars; a picture is never larger than 1280x800."""
    kivel("retime", moth.name, "--new", "peck", "--order", "4-7", "--repeat", "1", "--end", "none", "--event", "1:tap")
    kivel("retime", moth.name, "--clip", "moth", "--pace", "ease-in", "--phase", "2.5")
    heights = []
    for more, drawn in ((0, "2 clips"), (20, "12 clips")):
        if more:
            kivel("retime", moth.name, "--clip", "moth", "--stagger", str(more))
        assert f"timing of {drawn}" in kivel("preview", moth.name, "-o", f"chart-{more}.png", "--view", "timing").out
        chart = read(moth.parent / f"chart-{more}.png")
        assert chart.shape[1] == 1280
        assert chart.shape[0] <= 800
        heights.append(chart.shape[0])
        bars = (chart[..., :3] == (0x3F, 0x6A, 0x94)).all(axis=-1).sum()
        assert bars > 5000
        colours = {tuple(colour) for colour in np.unique(chart[..., :3].reshape(-1, 3), axis=0).tolist()}
        assert (tuple(checkerboard(Size(1, 1))[0, 0, :3].tolist()) in colours) == (more == 0)
    assert heights[0] < heights[1]
    assert "timing of 9 clips" in kivel("preview", moth.name, "-o", "e.png", "--view", "timing", "--clip", "moth-?").out
    refused = kivel("preview", moth.name, "-o", "c.gif", "--view", "timing")
    assert (refused.code, "--view timing needs a picture" in refused.err) == (2, True)


def test_a_preview_blends_what_is_linear_and_starts_at_the_phase(kivel: Kivel, tmp_path: Path) -> None:
    for number, value in enumerate((0, 255)):
        write(tmp_path / "pulse" / f"pulse_{number}.png", np.full((4, 4, 4), [value] * 3 + [255], np.uint8))
    kivel("sheet", "pulse", "-o", "pulse.png", "--hold", "100ms")
    kivel("retime", "pulse.kivel.json", "--interpolation", "linear", "--phase", "1/3")
    done = kivel("preview", "pulse.kivel.json", "-o", "pulse.apng", "--scale", "1")
    assert "blended at 30 pictures a second or more" in done.out
    with PIL.Image.open(tmp_path / "pulse.apng") as image:
        shown = [int(np.asarray(frame.convert("L"))[0, 0]) for frame in PIL.ImageSequence.Iterator(image)]
    assert shown == [156, 213, 255, 213, 156, 0]


@pytest.mark.parametrize("suffix", ["apng", "gif", "webp"])
@pytest.mark.parametrize("repeat", ["1", "3", "forever"])
def test_how_often_an_animated_image_plays_comes_back(kivel: Kivel, moth: Path, suffix: str, repeat: str) -> None:
    assert kivel("preview", "moth", "-o", f"moth.{suffix}", "--repeat", repeat, "--scale", "1").code == 0
    assert kivel("sheet", f"moth.{suffix}", "-o", "again.png").code == 0
    played = clips(moth.with_name("again.kivel.json"))["again"]["repeat"]
    assert ("forever" if played is None else str(played)) == repeat
    assert kivel("sheet", f"moth.{suffix}", "-o", "other.png", "--repeat", "2").code == 0
    assert clips(moth.with_name("other.kivel.json"))["other"]["repeat"] == 2


def test_a_phase_stays_where_it_is_in_time_when_frames_become_fewer(kivel: Kivel, moth: Path) -> None:
    assert kivel("retime", moth.name, "--phase", "6").code == 0
    assert kivel("resample", moth.name, "-o", "four", "--count", "4").code == 0
    assert kivel("sheet", "four", "-o", "four.png").code == 0
    assert clips(moth.with_name("four.kivel.json"))["moth"]["phase"] == [3, 1]


def test_a_folded_sheet_of_premultiplied_frames_still_says_so(kivel: Kivel, moth: Path) -> None:
    assert kivel("prep", moth.name, "-o", "pre", "--step", "premultiply").code == 0
    assert kivel("sheet", "pre", "-o", "pre.png", "--fold").code == 0
    assert json.loads(moth.with_name("pre.kivel.json").read_text())["pages"][0]["alpha"] == "premultiplied"
    refused = kivel("sheet", "pre", "-o", "in.png", "--inbetween", "1")
    assert (refused.code, "--inbetween needs straight alpha" in refused.err) == (2, True)
