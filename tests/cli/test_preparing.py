"""prep, resample, loop, layer and scroll, as they are typed."""

from __future__ import annotations

import json
import math
from pathlib import Path

import imagecodecs
import numpy as np
import OpenEXR
import pytest

import plain
from kivel.core.pixels.pixels import Pixels
from kivel.core.prepare.table import STEPS
from kivel.views.step_help import step_page
from program import Kivel, art, files, read, write


def manifest(path: Path) -> dict[str, object]:
    found: dict[str, object] = json.loads(path.read_text())
    return found


def spots(folder: Path, count: int, *, period: int | None = None) -> list[Pixels]:
    """`spot_01.png` and on: a grey spot on black that circles once in `period` frames."""
    frames = []
    for number in range(count):
        rows, columns = np.mgrid[:24, :32] + 0.5
        turn = number / (period or count) * math.tau
        x, y = 16 + 6 * math.cos(turn), 12 + 5 * math.sin(turn)
        grey = np.rint(np.exp(-((columns - x) ** 2 + (rows - y) ** 2) / 20) * 255).astype(np.uint8)
        frames.append(np.dstack((grey, grey, grey, np.full_like(grey, 255))))
        write(folder / f"spot_{number + 1:02d}.png", frames[-1])
    return frames


def test_a_chain_is_run_in_its_order_and_written_with_a_manifest(kivel: Kivel, tmp_path: Path) -> None:
    frames = spots(tmp_path / "spot", 8)
    done = kivel("prep", "spot", "-o", "cut", "--step", "matte", "--step", "trim threshold=8", "--step", "fit 10x10")
    assert (done.code, done.err) == (0, "")
    assert "cut  8 frames of 10x" in done.out
    bounds = np.max([frame[..., 0] for frame in frames], axis=0) > 8
    width, height = (int(np.ptp(np.flatnonzero(bounds.any(axis=axis)))) + 1 for axis in (0, 1))
    assert read(tmp_path / "cut/cut_0007.png").shape == (round(10 * height / width), 10, 4)
    found = manifest(tmp_path / "cut/cut.kivel.json")
    assert [frame["source"] for frame in found["frames"]] == [f"spot_{n:02d}.png" for n in range(1, 9)]  # type: ignore[attr-defined]
    assert kivel("inspect", "cut/cut.kivel.json").code == 0
    again = kivel("prep", "spot", "-o", "cut", "--step", "matte", "--step", "trim threshold=8", "--step", "fit 10x10")
    assert "(9 unchanged)" in again.out


def test_bytes_do_not_depend_on_threads(kivel: Kivel, tmp_path: Path) -> None:
    spots(tmp_path / "spot", 9)
    steps = [
        "--step",
        "matte",
        "--step",
        "anchor mass each",
        "--step",
        "fit 9x9 filter=lanczos",
        "--step",
        "shift 0.3 0 each",
    ]
    for jobs in "134":
        assert kivel("prep", "spot", "-o", f"{jobs}/out", *steps, "--jobs", jobs).code == 0
    one, three, four = (
        {path.name: path.read_bytes() for path in (tmp_path / jobs / "out").iterdir()} for jobs in "134"
    )
    assert one == three == four


def test_the_pivot_goes_into_the_manifest(kivel: Kivel, tmp_path: Path) -> None:
    spots(tmp_path / "spot", 8)
    kivel("prep", "spot", "-o", "a", "--step", "matte", "--step", "anchor 3,2 to=0.25,0.5", "--step", "premultiply")
    found = manifest(tmp_path / "a/a.kivel.json")
    width, height = found["pages"][0]["size"]  # type: ignore[index]
    u, v = found["frames"][0]["pivot"]  # type: ignore[index]
    assert abs(u - 0.25) * width <= 0.5
    assert abs(v - 0.5) * height <= 0.5
    assert found["pages"][0]["alpha"] == "premultiplied"  # type: ignore[index]


def test_holds_follow_the_frames(kivel: Kivel, tmp_path: Path, moth: list[Pixels]) -> None:
    kivel("sheet", "moth", "-o", "s.png", "--hold", "40ms", "--repeat", "2")
    text = (tmp_path / "s.kivel.json").read_text()
    (tmp_path / "s.kivel.json").write_text(text.replace("[3, 1]", "[3, 5]"))
    kivel("prep", "s.kivel.json", "-o", "r", "--step", "reorder 3-1,2*3")
    clip = manifest(tmp_path / "r/r.kivel.json")["clips"][0]  # type: ignore[index]
    assert (clip["timebase"], clip["steps"], clip["repeat"]) == ([25, 1], [[0, 5], [1, 1], [2, 1], [3, 3]], 2)
    assert np.array_equal(read(tmp_path / "r/r_0001.png"), moth[2])
    done = kivel("resample", "s.kivel.json", "-o", "n", "--count", "4", "--json")
    assert [taken[0]["frame"] for taken in json.loads(done.out)["taken"]] == [0, 3, 6, 9]
    clip = manifest(tmp_path / "n/n.kivel.json")["clips"][0]  # type: ignore[index]
    assert (clip["timebase"], [hold for _, hold in clip["steps"]]) == ([25, 1], [3, 7, 3, 3])
    part = kivel("resample", "s.kivel.json", "-o", "p", "--count", "3", "--range", "2-4", "--one-shot")
    assert "3 of 3 frames, 0-2" in part.out or "3 of 3 frames" in part.out
    assert [hold for _, hold in manifest(tmp_path / "p/p.kivel.json")["clips"][0]["steps"]] == [1, 5, 1]  # type: ignore[index]


@pytest.mark.usefixtures("moth")
def test_resample_prints_the_numbers_taken(kivel: Kivel, tmp_path: Path) -> None:
    done = kivel("resample", "moth/moth_#.png", "--range", "3-12", "-o", "five", "--count", "5")
    assert "5 of 10 frames, 3-12: 3, 5, 7, 9, 11" in done.out
    assert np.array_equal(read(tmp_path / "five/five_0001.png"), art(5))
    mixed = kivel("resample", "moth/moth_#.png", "-o", "more", "--count", "24", "--mix", "--pace", "ease-in")
    assert "24 of 12 frames, 1-12: each averages about" in mixed.out
    assert np.array_equal(read(tmp_path / "more/more_0000.png"), art(1))


def test_loop_judges_finds_and_closes(kivel: Kivel, tmp_path: Path) -> None:
    frames = spots(tmp_path / "spot", 33, period=12)
    judged = kivel("loop", "spot")
    assert "verdict  does not close: the seam is" in judged.out
    found = json.loads(kivel("loop", "spot", "--find", "8-16", "--json").out)
    assert (found["windows"][0]["first"], found["windows"][0]["length"]) == (0, 12)
    kivel("loop", "spot", "--find", "8-16", "-o", "best")
    assert [read(path).tobytes() for path in sorted((tmp_path / "best").glob("*.png"))] == [
        f.tobytes() for f in frames[:12]
    ]
    closed = kivel("loop", "spot", "-o", "closed", "--close", "5")
    assert "28 frames" in closed.out
    assert "closed   closes: " in closed.out
    assert np.array_equal(read(tmp_path / "closed/closed_0005.png"), frames[5])
    faded = plain.stored(plain.light(frames[28 + 1]) * (4 / 6) + plain.light(frames[1]) * (2 / 6))
    assert np.abs(read(tmp_path / "closed/closed_0001.png").astype(int) - faded).max() <= 1
    assert np.array_equal(read(tmp_path / "closed/closed_0027.png"), frames[27])


def test_loop_judges_tiles(kivel: Kivel, tmp_path: Path) -> None:
    wave = np.rint(np.sin(np.arange(24) / 24 * math.tau) * 90 + 128).astype(np.uint8)
    tile = np.full((24, 24, 4), 255, np.uint8)
    tile[..., :3] = wave[None, :, None]
    write(tmp_path / "tile.png", tile)
    write(tmp_path / "cut.png", tile[:, :15])
    assert "tiles: no visible seam" in kivel("loop", "tile.png").out
    cut = json.loads(kivel("loop", "cut.png", "--json").out)
    assert not cut["tiles"][0]["meets"]
    scrolled = kivel("scroll", "cut.png scroll=1,0", "-o", "d", "--count", "5")
    assert "cut.png: its sides do not meet" in scrolled.err
    assert "frame 5 is frame 0, bit for bit" in scrolled.out
    scored = json.loads(kivel("scroll", "tile.png scroll=1,0", "-o", "e", "--count", "8", "--json").out)
    assert (scored["closes"], scored["seam"]["verdict"]) == (True, "closes")
    assert len(list((tmp_path / "d").glob("d_*.png"))) == 5


def test_layer_repeats_the_shorter_and_says_where_it_jumps(kivel: Kivel, tmp_path: Path, moth: list[Pixels]) -> None:
    spots(tmp_path / "spot", 5)
    done = kivel("layer", "spot", "moth/ offset=2,1 opacity=50%", "-o", "both")
    assert (done.code, "12 frames of 32x24 px" in done.out) == (0, True)
    assert "spot: 5 frames do not divide 12" in done.err
    assert np.array_equal(read(tmp_path / "both/both_0007.png")[10:], read(tmp_path / "both/both_0002.png")[10:])
    assert "60 frames" in kivel("layer", "spot", "moth", "-o", "all", "--until", "common").out
    assert "5 frames" in kivel("layer", "spot", "moth", "-o", "few", "--until", "base", "--opacity", "0.5").out
    assert (read(tmp_path / "few/few_0000.png")[..., 3] == 128).all()
    assert len(moth) == 12


def test_layered_and_float_files_are_sources(kivel: Kivel, tmp_path: Path) -> None:
    light = np.full((4, 6, 4), 0.25, np.float32)
    for number in range(3):
        header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
        OpenEXR.File(header, {"RGBA": light * (number + 1)}).write(str(tmp_path / f"glow_{number}.exr"))
    kept = kivel("prep", "glow_#.exr", "-o", "float", "--step", "crop 2x2")
    assert kept.code == 0
    with OpenEXR.File(str(tmp_path / "float/float_0002.exr")) as file:
        assert np.allclose(file.channels()["RGBA"].pixels, 0.75)
    assert kivel("inspect", "float/float.kivel.json").code == 0
    kivel("prep", "glow_#.exr", "-o", "bytes", "--exposure", "1", "--step", "crop 2x2")
    kivel("prep", "glow_#.exr", "-o", "steps", "--step", "expose 1", "--step", "crop 2x2")
    assert (tmp_path / "bytes/bytes_0001.png").read_bytes() == (tmp_path / "steps/steps_0001.png").read_bytes()
    sheet = kivel("sheet", "glow_#.exr", "-o", "s.png")
    assert "converted to 8-bit sRGB at exposure 0" in sheet.err
    assert read(tmp_path / "s.png")[0, 0].tolist() == [255, 255, 255, 64]
    again = kivel("sheet", "float/float.kivel.json", "-o", "t.png", "--exposure", "-1")
    assert (again.code, again.err) == (0, "")
    assert read(tmp_path / "t.png")[0, 0].tolist() == [188, 188, 188, 64]
    assert json.loads(kivel("inspect", "glow_#.exr", "--json").out)["depth"] == 32


def test_every_step_is_explained(kivel: Kivel) -> None:
    listed = kivel("prep", "--steps")
    assert listed.code == 0
    assert all(f"\n  {name} " in listed.out for name in STEPS)
    page = kivel("prep", "--steps", "ramp")
    assert (page.code, page.out) == (0, step_page("ramp") + "\n")
    for name, kind in STEPS.items():
        assert f'--step "{kind.example}"' in step_page(name)
        assert all(parameter.help in step_page(name) for parameter in kind.parameters)


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (["prep", "moth", "-o", "x"], 2, "--step is needed; kivel prep --steps"),
        (
            ["prep", "moth", "-o", "x", "--step", "trim", "--step", "fti 2x2"],
            2,
            "error: --step 2: no step of prep is called 'fti'",
        ),
        (
            ["prep", "moth", "-o", "x", "--step", "crop 9x9"],
            1,
            "error: moth_1.png: crop: a crop of 9x9 px at -2,-2 reaches",
        ),
        (["prep", "moth", "-o", "x", "--step", "distort by=no.png strength=1"], 1, "no.png: no such file"),
        (
            ["prep", "moth", "-o", "x", "--step", "opacity 0", "--step", "trim"],
            1,
            "trim: none of the 12 frames has a visible",
        ),
        (["prep", "moth", "-o", "x", "--as", "normal", "--step", "matte"], 2, "--step 1: matte is for colour"),
        (["prep", "--steps", "mate"], 2, "no step of prep is called 'mate'; did you mean matte?"),
        (
            ["resample", "moth", "-o", "x", "--count", "0"],
            2,
            "--count: expected a whole number from 1 to 10,000, found '0'",
        ),
        (["resample", "moth", "-o", "x", "--count", "3", "--pace", "bounce"], 2, "'bounce' is not an easing function"),
        (["loop", "moth", "-o", "x"], 2, "-o needs --close K, --find MIN-MAX, or both"),
        (["loop", "moth", "--close", "2"], 2, "--close needs -o DIR"),
        (["loop", "moth", "--find", "9-3"], 2, "expected MIN-MAX frames from 2 on, like 24-48, found '9-3'"),
        (["loop", "moth", "--find", "30-40"], 2, "no window of 30 frames or more"),
        (
            ["loop", "moth", "-o", "x", "--close", "7"],
            2,
            "a cross-fade of 7 frames needs a loop of at least that length and as many frames after it",
        ),
        (["layer", "moth", "moth blend=add", "-o", "x"], 2, "error: layer 1: moth: blend: expected normal"),
        (["scroll", "moth/moth_1.png", "moth -o", "-o", "x", "--count", "2"], 1, "moth -o: no such file"),
        (["scroll", "moth/moth_1.png scroll=0.5,0", "-o", "x", "--count", "2"], 2, "expected whole numbers X,Y"),
    ],
)
@pytest.mark.usefixtures("moth")
def test_what_is_wrong_is_said_and_nothing_is_left(
    kivel: Kivel, tmp_path: Path, words: list[str], code: int, message: str
) -> None:
    done = kivel(*words)
    assert (done.code, done.out) == (code, "")
    assert message in done.err
    assert not (tmp_path / "x").exists()


def test_frames_that_cannot_be_read_leave_nothing_behind(kivel: Kivel, tmp_path: Path) -> None:
    spots(tmp_path / "spot", 4)
    whole = imagecodecs.png_encode(art(1, width=32, height=24))
    (tmp_path / "spot/spot_03.png").write_bytes(bytes(whole[:-40]))
    before = files(tmp_path)
    done = kivel("prep", "spot", "-o", "x", "--step", "matte", "--step", "trim")
    assert (done.code, "spot/spot_03.png" in done.err) == (1, True)
    assert files(tmp_path) == before


def test_edge_cases_of_alpha_go_through(kivel: Kivel, tmp_path: Path) -> None:
    """Wholly transparent frames, one of 1x1, 16 bits, all opaque."""
    for number, frame in enumerate(
        [np.zeros((5, 6, 4), np.uint16), art(2, dtype=np.uint16), np.full((5, 6, 4), 65535, np.uint16)]
    ):
        write(tmp_path / f"deep/d_{number}.png", frame)
    write(tmp_path / "dot/dot.png", art(1, width=1, height=1))
    chain = [
        "bleed",
        "anchor mass each",
        "trim margin=1",
        "fit 4x4",
        "shift 0.5 0.5 each wrap",
        "threshold 9",
        "square",
    ]
    steps = [word for step in chain for word in ("--step", step)]
    assert kivel("prep", "deep", "-o", "a", *steps).code == 0
    assert read(tmp_path / "a/a_0001.png").dtype == np.uint16
    assert kivel("prep", "dot/dot.png", "-o", "b", "--step", "matte", "--step", "fit 3x3 upscale").code == 0
