"""What is there to look at: inspect, preview, demo, help."""

from __future__ import annotations

import json
import re
from fractions import Fraction
from pathlib import Path
from typing import Any

import jsonschema
import numpy as np
import PIL.Image
import pytest

from kivel.cli.demo_options import DemoOptions
from kivel.cli.main import ALL_COMMANDS
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.playback.clip import Clip, Step
from kivel.demo.stories import SHORT_STORY, TOURS
from kivel.files.images import FrameSource
from kivel.views import contact_sheet
from program import Kivel, art, files, read, write


@pytest.mark.usefixtures("moth")
def test_inspect_says_what_is_there(kivel: Kivel, tmp_path: Path) -> None:
    (tmp_path / "moth/moth_3.png").unlink()
    write(tmp_path / "moth/moth_7.png", art(8))
    write(tmp_path / "moth/moth_9.png", art(9)[..., [0, 1, 2, 2]] * 0)
    done = kivel("inspect", "moth")
    assert done.code == 0
    for words in ("11, 0-10", "1-12, missing: 3", "6x5 px", "rgba 8-bit", "soft, straight", "5 = 6", "not visible"):
        assert words in done.out.replace("frames without a visible pixel", "not visible")
    found = json.loads(kivel("inspect", "moth", "--json").out)
    assert (found["count"], found["first"], found["last"], found["gaps"]) == (11, 1, 12, [[3, 3]])
    assert (found["identical"], found["empty"], found["alpha"], found["bounds"]) == (
        [[5, 6]],
        [7],
        "soft",
        [0, 0, 6, 5],
    )
    assert found["texture_bytes"] == 11 * 6 * 5 * 4
    assert found["file_bytes"] == sum(len(data) for name, data in files(tmp_path).items())


def test_inspect_says_how_frames_move_and_draws_it(kivel: Kivel, tmp_path: Path) -> None:
    for number, frame in enumerate([1, 2, 3, 4, 3, 2]):
        write(tmp_path / f"flap/flap_{number}.png", art(frame, width=20, height=16))
    done = kivel("inspect", "flap", "--chart", "chart.png")
    for words in (
        "mirrored",
        "frames 0-3 as ping-pong",
        "nearly same",
        "the centre of alpha wanders by up to",
        "loop  ",
    ):
        assert words in done.out
    with PIL.Image.open(tmp_path / "chart.png") as image:
        assert image.size == (1280, 800)
        assert len(image.convert("RGB").getcolors(1 << 20) or []) > 100
    motion = json.loads(kivel("inspect", "flap", "--json").out)["motion"]
    assert motion["mirror"] == {"kept": 4, "hold_ends": False}
    assert set(motion["mass"]) == {"left", "top", "right", "bottom", "farthest"}
    assert set(motion["seam"]) == {
        "verdict", "change", "step", "seam", "of_largest", "of_pairs", "by", "value", "limit", "confidence", "afresh",
        "held",
    }  # fmt: skip
    chart = (tmp_path / "chart.png").read_bytes()
    assert kivel("inspect", "flap", "--chart", "chart.png").code == 0
    (tmp_path / "chart.png").write_bytes(b"mine")
    refused = kivel("inspect", "flap", "--chart", "chart.png")
    assert (refused.code, "pass --force" in refused.err) == (1, True)
    assert (tmp_path / "chart.png").read_bytes() == b"mine" != chart
    assert "needs two frames or more" in kivel("inspect", "flap/flap_1.png", "--chart", "x.png").err


@pytest.mark.usefixtures("moth")
def test_inspect_says_whether_a_manifest_holds(kivel: Kivel, tmp_path: Path) -> None:
    kivel("sheet", "moth", "-o", "s.png", "--hold", "1/24s")
    good = kivel("inspect", "s.kivel.json")
    assert (good.code, "as stated" in good.out, "500 ms" in good.out) == (0, True, True)
    write(tmp_path / "s.png", art(3, width=18, height=20))
    changed = kivel("inspect", "s.kivel.json", "--json")
    assert (changed.code, json.loads(changed.out)["pages"][0]["state"]) == (1, "other pixels")
    write(tmp_path / "s.png", art(3))
    assert "other size: the file has 6x5 px" in kivel("inspect", "s.kivel.json").out
    (tmp_path / "s.png").unlink()
    gone = kivel("inspect", "s.kivel.json", "--json")
    assert (gone.code, json.loads(gone.out)["pages"][0]["state"]) == (1, "missing")


def test_the_schema_is_printed_and_fits_what_is_written(kivel: Kivel, tmp_path: Path) -> None:
    write(tmp_path / "a.png", art(1))
    kivel("sheet", "a.png", "-o", "s.png")
    schema = json.loads(kivel("inspect", "--schema").out)
    jsonschema.Draft202012Validator.check_schema(schema)
    jsonschema.validate(json.loads((tmp_path / "s.kivel.json").read_text()), schema)


HOLDS = {
    "shown once": ([(0, 3), (1, 6)], ["250 ms", "500 ms", "not shown"]),
    "alike": ([(0, 3), (1, 3), (0, 3)], ["2 x 250 ms", "250 ms", "not shown"]),
    "of several lengths": ([(0, 3), (1, 3), (0, 6), (2, 1)], ["2 x, in all 750 ms", "250 ms", "83.3 ms"]),
}


@pytest.mark.parametrize(("steps", "expected"), HOLDS.values(), ids=HOLDS)
def test_a_contact_sheet_tells_how_long_each_frame_shows_in_all(
    monkeypatch: pytest.MonkeyPatch, steps: list[tuple[int, int]], expected: list[str]
) -> None:
    drawn: list[str] = []
    draw = contact_sheet._draw_caption  # the words themselves: what is drawn cannot be read back

    def heard(*words: Any) -> None:
        drawn.append(words[3])
        draw(*words)

    monkeypatch.setattr(contact_sheet, "_draw_caption", heard)
    clip = Clip("moth", Fraction(12), tuple(Step(*step) for step in steps))
    frame = FrameSource("a", "a.png", Path("a.png"), Size(6, 5), 8, "rgba", lambda: art(1))
    contact_sheet.draw_contact_sheet([frame] * 3, clip)
    assert drawn == expected


@pytest.mark.parametrize("suffix", ["apng", "gif", "webp"])
def test_a_preview_plays_at_the_clips_own_timing(kivel: Kivel, tmp_path: Path, moth: list[Pixels], suffix: str) -> None:
    kivel("sheet", "moth/moth_#.png", "--range", "1-3", "-o", "s.png", "--hold", "40ms", "--repeat", "2")
    manifest = tmp_path / "s.kivel.json"
    manifest.write_text(manifest.read_text().replace('"normal"', '"alternate"').replace("[0, 1]", "[0, 3]"))
    done = kivel("preview", "s.kivel.json", "-o", f"s.{suffix}", "--scale", "3", "--backdrop", "#204060")
    assert (done.code, done.err) == (0, "")
    expected = []
    for index in (0, 1, 2, 1):
        over = moth[index].astype(int)
        blended = (over[..., :3] * over[..., 3:] + np.array([0x20, 0x40, 0x60]) * (255 - over[..., 3:]) + 127) // 255
        expected.append(blended.repeat(3, 0).repeat(3, 1))
    with PIL.Image.open(tmp_path / f"s.{suffix}") as image:
        for index, (pixels, duration) in enumerate(zip(expected, (120, 40, 40, 40), strict=True)):
            image.seek(index)
            shown = np.asarray(image.convert("RGB"))
            assert image.info["duration"] == duration
            assert np.array_equal(shown, pixels)


def test_previews_scale_and_say_what_they_lose(kivel: Kivel, tmp_path: Path, moth: list[Pixels]) -> None:
    assert len(moth) == 12
    small = kivel("preview", "moth", "-o", "s.apng", "--scale", "1/2", "--filter", "smooth", "--backdrop", "none")
    assert "3x2 px" in small.out
    assert "256" not in small.out
    assert "252x210 px" in kivel("preview", "moth", "-o", "m.apng").out
    lossy = kivel("preview", "moth", "-o", "m.gif", "--backdrop", "none")
    assert "soft alpha is cut" in lossy.err
    assert "GIF has a clock of 10 ms: no frame is off by more than 3.33 ms" in lossy.err
    with PIL.Image.open(tmp_path / "m.gif") as image:
        assert getattr(image, "n_frames", 1) == 12


def test_a_contact_sheet_shows_every_frame(kivel: Kivel, tmp_path: Path, moth: list[Pixels]) -> None:
    done = kivel("preview", "moth", "-o", "contact.png")
    assert "contact sheet of 12 frames, 1280x" in done.out
    with PIL.Image.open(tmp_path / "contact.png") as image:
        assert image.width == 1280
        assert image.height <= 800
        shown = np.asarray(image.convert("RGB")).reshape(-1, 3)
    colours = {tuple(colour) for colour in np.unique(shown, axis=0).tolist()}
    for frame in moth:
        opaque = frame[frame[..., 3] == 255][:, :3]
        assert all(tuple(colour) in colours for colour in opaque.tolist())


@pytest.mark.parametrize("scale", ["1", "8", "1/2", "60"])
def test_a_contact_sheet_has_the_scale_that_is_asked_for(kivel: Kivel, tmp_path: Path, scale: str) -> None:
    """By the height of what is drawn, over a ground that nothing else has."""
    frame = np.full((16, 24, 4), (255, 0, 255, 255), np.uint8)
    for number in range(3):
        write(tmp_path / f"flat/flat_{number}.png", frame)
    assert kivel("preview", "flat", "-o", "c.png", "--scale", scale).code == 0
    seen = (read(tmp_path / "c.png")[..., :3] == (255, 0, 255)).all(axis=-1)
    columns = np.flatnonzero(seen.any(axis=0))
    runs = np.split(columns, np.flatnonzero(np.diff(columns) > 1) + 1)
    assert len(runs[0]) == 24 * Fraction(scale)
    assert np.flatnonzero(seen[:, columns[0]]).size % (16 * Fraction(scale)) == 0


def test_the_short_story_is_short_and_ends_with_what_to_do_next(kivel: Kivel, tmp_path: Path) -> None:
    told = kivel("demo", "an orchard")
    assert (told.code, len((told.out + told.err).splitlines()) <= 60) == (0, True)
    commands = re.findall(r"^\$ kivel (.*)", told.out, re.MULTILINE)
    assert commands == [step.line for step in SHORT_STORY.steps]
    assert len(commands) <= 10
    assert "$ cd 'an orchard'" in told.out
    assert told.out.splitlines()[-len(SHORT_STORY.then) :] == list(SHORT_STORY.then)
    drawn = {name.split("/")[1] for name in files(tmp_path) if name.startswith("an orchard/")}
    assert "vane" not in drawn


def test_the_tours_run_every_command() -> None:
    lines = [step.line for story in (SHORT_STORY, *TOURS.values()) for step in story.steps]
    assert {line.split()[0] for line in lines} == set(ALL_COMMANDS) - {"demo", "play"}
    assert set(TOURS) == set(DemoOptions.declared()["tour"].kind.words)


@pytest.mark.slow
def test_all_tours_run_without_errors_and_can_be_run_again(kivel: Kivel, tmp_path: Path) -> None:
    first = kivel("demo", "orchard", "--all")
    assert first.code == 0
    assert "error" not in re.sub("no errors|fails if it finds an error|makes it an error", "", first.out + first.err)
    made = files(tmp_path / "orchard")
    for name in ("moth.png", "scene.apng", "vane.kivel.json", "beetle-frames/beetle_0018.png", "built/spark.png"):
        assert name in made
    folders = {"moth": 5, "spore": 40, "vane": 240, "lantern": 8, "props": 56}
    for folder, count in folders.items():
        assert sum(name.startswith(f"{folder}/") for name in made) == count
    again = json.loads(kivel("demo", "orchard", "--all", "--json").out)
    # the demo changes two files itself, and begins by setting them back
    replaced = {Path(file["path"]).name for file in again["files"] if file["outcome"] != "unchanged"}
    assert replaced == {"firefly_2.png", "kivel.toml"}


@pytest.mark.parametrize("command", ALL_COMMANDS)
def test_help_shows_two_examples(kivel: Kivel, command: str) -> None:
    done = kivel(command, "--help")
    assert done.code == 0
    assert done.out.count(f"\n  kivel {command}") == 2
    assert ALL_COMMANDS[command] in kivel("--help").out


def test_help_lists_sources_first_and_where_to_write_last(kivel: Kivel) -> None:
    groups = [line for line in kivel("sheet", "--help-all").out.splitlines() if line.endswith(":") and line[0] != " "]
    assert groups.index("frames:") < groups.index("layout:") < groups.index("output:") < groups.index("help:")
