"""Maps of motion: made by `resample` and `sheet`, carried along, and obeyed by what plays."""

from __future__ import annotations

import json
import shutil
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from moving_spots import circling, crossing

from kivel.core.motion.motion_codes import MotionReach, decoded
from kivel.core.motion.warping import Planes, enlarged, warped
from kivel.core.pixels.light import to_light
from kivel.core.pixels.pixels import Pixels
from program import Kivel, in_process, read, write


def put(folder: Path, frames: list[Pixels]) -> list[Pixels]:
    for number, frame in enumerate(frames):
        write(folder / f"{folder.name}_{number}.png", frame)
    return frames


def manifest(path: Path) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(path.read_text())
    return found


def motions(path: Path) -> list[dict[str, Any]]:
    """What each page says of its motion."""
    return [page["maps"]["motion"]["motion"] for page in manifest(path)["pages"]]


def pairs(path: Path) -> list[list[int]]:
    return [pair for one in motions(path) for pair in one["pairs"]]


def rms(one: Planes, other: Planes) -> float:
    return float(np.sqrt(np.square(one - other).mean()))


def is_better(image: Planes, frames: list[Pixels], start: int, step: int, *, most: float = 0.35) -> bool:
    """Whether an image between every fourth frame of a loop is nearer to the frame there than a cross-fade is."""
    way = 4 if step > 0 else -4
    truth, first, last = (to_light(frames[(start + place) % len(frames)]) for place in (step, 0, way))
    return rms(image, truth) < most * rms(first + (last - first) * np.float32(step / way), truth)


@pytest.fixture(scope="module")
def thinned(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, list[Pixels]]:
    """A folder with `around/`, 16 frames of a loop, and `four/`, every fourth of them with their motion."""
    place = tmp_path_factory.mktemp("thinned")
    frames = put(place / "around", circling(16))
    words = ("--count", "4", "--even", "--motion", "--motion-size", "half")
    assert in_process(("resample", "around", "-o", "four", *words), place).code == 0
    return place, frames


@pytest.fixture
def around(thinned: tuple[Path, list[Pixels]], tmp_path: Path) -> list[Pixels]:
    """The frames, of which the folders are there."""
    place, frames = thinned
    shutil.copytree(place, tmp_path, dirs_exist_ok=True)
    return frames


def test_what_is_left_out_is_rebuilt_from_the_files_alone(around: list[Pixels], tmp_path: Path) -> None:
    """By the formula that the manifest's documentation states, with nothing of the program but bilinear sampling."""
    pages = manifest(tmp_path / "four/four.kivel.json")["pages"]
    for number, page in enumerate(pages):
        said = page["maps"]["motion"]
        assert (said["kind"], said["scale"], said["motion"]["pairs"]) == (
            "motion",
            [1, 2],
            [[number, (number + 1) % 4]],
        )
        codes = read(tmp_path / "four" / said["file"])
        field = (np.moveaxis(codes[..., :2], -1, 0).astype(np.float32) - 128) / 127 * said["motion"]["reach"][0]
        field = enlarged(field, 48, 48)
        first, last = (to_light(around[(4 * number + step) % 16]) for step in (0, 4))
        for step in (1, 2, 3):
            truth = to_light(around[4 * number + step])
            fade = first + (last - first) * np.float32(step / 4)
            assert rms(warped(first, last, field, step / 4), truth) < 0.35 * rms(fade, truth)


def test_a_loop_of_kept_frames_is_warped_and_says_how_well(kivel: Kivel, around: list[Pixels], tmp_path: Path) -> None:
    (clip,) = manifest(tmp_path / "four/four.kivel.json")["clips"]
    assert (clip["interpolation"], clip["repeat"], clip["steps"]) == ("motion", None, [[n, 1] for n in range(4)])
    words = ("--count", "4", "--even", "--motion", "--motion-size", "half")
    done = kivel("resample", "around", "-o", "four", *words, "--json")
    said = json.loads(done.out)["motion"]
    assert said["ratio"] < 0.35
    assert [pair["fallback"] for pair in said["pairs"]] == [False] * 4
    assert len(around) == 16


@pytest.mark.parametrize(
    ("side", "words", "parts"),
    [(48, (), 1), (48, ("--motion-size", "half"), 2), (80, (), 2), (81, (), 1), (80, ("--motion-size", "full"), 1)],
)
def test_a_map_is_half_as_large_as_frames_that_are_not_small_and_halve(
    kivel: Kivel, tmp_path: Path, side: int, words: tuple[str, ...], parts: int
) -> None:
    put(tmp_path / "around", circling(8, side=side))
    done = kivel("resample", "around", "-o", "x", "--count", "4", "--motion", *words, "--json")
    assert read(tmp_path / "x/x_0000.motion.png").shape[:2] == (side // parts, side // parts)
    assert json.loads(done.out)["motion"]["ratio"] < 0.35


def test_a_one_shot_is_told_from_a_loop_and_keeps_both_ends(kivel: Kivel, tmp_path: Path) -> None:
    put(tmp_path / "across", crossing(13))
    done = kivel("resample", "across", "-o", "five", "--count", "5", "--motion")
    assert "treated as a one-shot that plays once" in done.err
    found = manifest(tmp_path / "five/five.kivel.json")
    assert [found["frames"][place]["source"] for place in (0, 4)] == ["across_0.png", "across_12.png"]
    assert pairs(tmp_path / "five/five.kivel.json") == [[n, n + 1] for n in range(4)]
    (clip,) = found["clips"]
    assert (clip["interpolation"], clip["repeat"], sum(hold for _, hold in clip["steps"])) == ("motion", 1, 13)


def test_holds_say_when_a_frame_that_is_left_out_was_seen(kivel: Kivel, tmp_path: Path) -> None:
    """What moves by even steps, but is held longer and longer, is rebuilt where it was at each time."""
    put(tmp_path / "across", crossing(9))
    held = "0,1*2,2*3,3*4,4*5,5*6,6*7,7*8,8*9"
    assert kivel("sheet", "across", "-o", "across.png", "--order", held, "--repeat", "1").code == 0
    said = kivel("resample", "across.kivel.json", "-o", "three", "--count", "3", "--one-shot", "--even", "--motion")
    assert said.code == 0
    (clip,) = manifest(tmp_path / "three/three.kivel.json")["clips"]
    assert [hold for _, hold in clip["steps"]] == [10, 26, 9]


@pytest.mark.parametrize("bits", ["8", "16"])
def test_motion_goes_along_from_frames_to_sheet_and_back(
    kivel: Kivel, around: list[Pixels], tmp_path: Path, bits: str
) -> None:
    words = ("--count", "4", "--even", "--motion", "--motion-size", "half", "--motion-bits", bits, "--force")
    assert kivel("resample", "around", "-o", "four", *words).code == 0
    assert kivel("sheet", "four", "-o", "four.png").code == 0
    (said,) = motions(tmp_path / "four.kivel.json")
    assert said["pairs"] == [[0, 1], [1, 2], [2, 3], [3, 0]]
    assert kivel("slice", "four.kivel.json", "-o", "back").code == 0
    for number in range(4):
        one, other = (tmp_path / f"{name}/four_000{number}.motion.png" for name in ("four", "back"))
        np.testing.assert_array_equal(read(one), read(other))
        assert one.read_bytes()[24] == int(bits)
    assert motions(tmp_path / "back/four.kivel.json") == motions(tmp_path / "four/four.kivel.json")
    assert manifest(tmp_path / "back/four.kivel.json")["clips"][0]["interpolation"] == "motion"
    again = kivel("sheet", "back", "-o", "again.png")
    assert "same layout as four.png" in again.err
    for name in ("", ".motion"):
        np.testing.assert_array_equal(read(tmp_path / f"four{name}.png"), read(tmp_path / f"again{name}.png"))
    assert len(around) == 16


def test_a_scaled_sheet_reaches_as_much_less_far(kivel: Kivel, around: list[Pixels], tmp_path: Path) -> None:
    assert kivel("sheet", "four", "-o", "small.png", "--cell", "24x24", "--scale-to-cell", "smooth").code == 0
    (small,) = motions(tmp_path / "small.kivel.json")
    assert small["reach"] == [side / 2 for side in motions(tmp_path / "four/four.kivel.json")[0]["reach"]]
    assert len(around) == 16


@pytest.mark.parametrize(
    ("step", "interpolation", "said"),
    [("ramp #102030 #ffeedd", "motion", ""), ("fit 24x24", "linear", "is now cross-faded, not warped")],
)
def test_motion_stays_as_long_as_no_pixel_moves(
    kivel: Kivel, around: list[Pixels], tmp_path: Path, step: str, interpolation: str, said: str
) -> None:
    done = kivel("prep", "four", "-o", "new", "--step", step)
    assert done.code == 0
    assert said in done.err
    assert manifest(tmp_path / "new/new.kivel.json")["clips"][0]["interpolation"] == interpolation
    assert len(around) == 16


def test_motion_does_not_widen_what_an_atlas_trims_to(kivel: Kivel, around: list[Pixels], tmp_path: Path) -> None:
    """And beyond the trimmed box vectors go on as they are at its border."""
    assert kivel("atlas", "four", "-o", "four.png", "--turn").code == 0
    found = manifest(tmp_path / "four.kivel.json")
    assert all(max(frame["rect"][2:]) < 30 for frame in found["frames"])
    done = kivel("sheet", "four.kivel.json", "-o", "sixteen.png", "--inbetween", "3")
    assert (done.code, kivel("slice", "sixteen.kivel.json", "-o", "out").code) == (0, 0)
    for place in (1, 2, 3):
        assert is_better(to_light(read(tmp_path / f"out/sixteen_{place:04d}.png")), around, 0, place, most=0.75)


def test_two_sequences_on_one_sheet_share_one_reach(kivel: Kivel, around: list[Pixels], tmp_path: Path) -> None:
    put(tmp_path / "across", crossing(13))
    kivel("resample", "across", "-o", "five", "--count", "5", "--motion", "--even", "--motion-size", "half")
    assert kivel("sheet", "four", "five", "-o", "both.png").code == 0
    (said,) = motions(tmp_path / "both.kivel.json")
    assert said["pairs"] == [[0, 1], [1, 2], [2, 3], [3, 0], [4, 5], [5, 6], [6, 7], [7, 8]]
    assert kivel("slice", "both.kivel.json", "-o", "apart").code == 0
    for name, first in (("four", 0), ("five", 4)):
        (own, *_), both = motions(tmp_path / f"{name}/{name}.kivel.json"), said["reach"]
        one = decoded(read(tmp_path / f"{name}/{name}_0001.motion.png"), MotionReach(*own["reach"]))
        other = decoded(read(tmp_path / f"apart/both_000{first + 1}.motion.png"), MotionReach(*both))
        np.testing.assert_allclose(one, other, atol=both[0] / 127)
    assert len(around) == 16


@pytest.mark.parametrize("direction", ["normal", "reverse", "alternate"])
def test_frames_between_are_warped_not_faded_whatever_the_direction(
    kivel: Kivel, around: list[Pixels], tmp_path: Path, direction: str
) -> None:
    assert kivel("sheet", "four", "-o", "four.png", "--direction", direction).code == 0
    assert kivel("sheet", "four.kivel.json", "-o", "sixteen.png", "--inbetween", "3").code == 0
    assert kivel("slice", "sixteen.kivel.json", "-o", "sixteen").code == 0
    found = manifest(tmp_path / "sixteen/sixteen.kivel.json")
    assert "motion" not in found["pages"][0]["maps"]
    assert {clip["interpolation"] for clip in found["clips"]} == {"step"}
    shown = [frame for frame, _ in found["clips"][0]["steps"]]
    order = {"reverse": -1}.get(direction, 1)
    start = 12 if direction == "reverse" else 0
    for place in range(1, 4):
        image = read(tmp_path / f"sixteen/sixteen_{shown[place]:04d}.png")
        assert is_better(to_light(image), around, start, order * place)


def test_an_animation_shows_what_lies_between(kivel: Kivel, around: list[Pixels], tmp_path: Path) -> None:
    done = kivel("preview", "four/four.kivel.json", "-o", "four.apng", "--scale", "1", "--backdrop", "none")
    assert "warped at 30 pictures a second" in done.out
    assert kivel("sheet", "four.apng", "-o", "seen.png").code == 0
    assert kivel("slice", "seen.kivel.json", "-o", "seen").code == 0
    seen = [to_light(read(tmp_path / f"seen/seen_{number:04d}.png")) for number in range(10)]
    # a third of a second in ten pictures, or four frames of the source
    assert is_better(seen[5], around, 0, 2)
    assert all(rms(one, other) > 0.01 for one, other in pairwise(seen))


def test_a_table_says_what_the_vectors_mean(kivel: Kivel, around: list[Pixels], tmp_path: Path) -> None:
    kivel("sheet", "four", "-o", "four.png")
    assert kivel("export", "four.kivel.json", "--to", "table", "-o", "four.json").code == 0
    said = manifest(tmp_path / "four.json")["motion"]
    (stated,) = motions(tmp_path / "four.kivel.json")
    assert {key: said[key] for key in ("reach", "at", "pairs")} == {
        key: stated[key] for key in ("reach", "at", "pairs")
    }
    assert (said["map"], said["parts"], said["bits"], said["wrap"]) == ("motion", 2, 8, False)
    assert len(around) == 16


def test_motion_is_estimated_where_nothing_was_left_out(kivel: Kivel, tmp_path: Path) -> None:
    put(tmp_path / "eight", circling(8))
    done = kivel("sheet", "eight", "-o", "eight.png", "--motion", "--json")
    said = json.loads(done.out)["motion"]
    assert [pair["frames"] for pair in said["pairs"]] == [[n, (n + 1) % 8] for n in range(8)]
    assert min(pair["confidence"] for pair in said["pairs"]) > 0.5
    assert manifest(tmp_path / "eight.kivel.json")["clips"][0]["interpolation"] == "motion"


def test_a_cut_has_no_motion_and_stops_a_clip_from_being_warped(kivel: Kivel, tmp_path: Path) -> None:
    scenes = [*circling(8), *(255 - frame[..., [2, 0, 1, 3]] for frame in circling(8))]
    put(tmp_path / "scenes", [np.where(frame[..., 3:] == 0, np.uint8(0), frame) for frame in scenes])
    done = kivel("sheet", "scenes", "-o", "scenes.png", "--motion")
    assert "is not warped: there are no motion vectors from frame 7 to 8" in done.err
    assert [7, 8] not in pairs(tmp_path / "scenes.kivel.json")
    assert manifest(tmp_path / "scenes.kivel.json")["clips"][0]["interpolation"] == "step"


def test_the_number_of_processes_changes_nothing(kivel: Kivel, tmp_path: Path) -> None:
    put(tmp_path / "around", circling(8, side=32))
    assert kivel("resample", "around", "-o", "alone", "--count", "4", "--motion", "--jobs", "1").code == 0
    # the installed program has no threads yet, so that it may begin processes
    more = kivel("resample", "around", "-o", "both", "--count", "4", "--motion", "--jobs", "2", NO_COLOR="1")
    assert more.code == 0
    for one in sorted((tmp_path / "alone").glob("*.png")):
        assert one.read_bytes() == (tmp_path / "both" / one.name.replace("alone", "both")).read_bytes()


def test_a_part_of_the_frames_keeps_the_motion_between_them(kivel: Kivel, around: list[Pixels], tmp_path: Path) -> None:
    done = kivel("sheet", "four", "-o", "part.png", "--range", "1-3")
    assert "is now cross-faded, not warped: there are no motion vectors from frame 2 to 0" in done.err
    assert pairs(tmp_path / "part.kivel.json") == [[0, 1], [1, 2]]
    assert kivel("sheet", "four", "-o", "once.png", "--range", "1-3", "--repeat", "1").code == 0
    assert manifest(tmp_path / "once.kivel.json")["clips"][0]["interpolation"] == "motion"
    assert len(around) == 16


@pytest.mark.parametrize(
    ("words", "interpolation", "said"),
    [
        (("--direction", "reverse"), "motion", ""),
        (("--direction", "alternate"), "motion", ""),
        (("--order", "0,2"), "linear", "there are no motion vectors from frame 0 to 2, nor for 1 other change"),
        (("--order", "0-2"), "linear", "there are no motion vectors from frame 2 to 0"),
        (("--order", "0-2", "--repeat", "1"), "motion", ""),
        (
            ("--order", "0-2", "--repeat", "1", "--end", "first"),
            "linear",
            "there are no motion vectors from frame 2 to 0",
        ),
    ],
)
def test_retime_says_when_an_order_breaks_the_motion(
    kivel: Kivel, around: list[Pixels], tmp_path: Path, words: tuple[str, ...], interpolation: str, said: str
) -> None:
    kivel("sheet", "four", "-o", "four.png")
    done = kivel("retime", "four.kivel.json", *words)
    assert done.code == 0
    assert said in done.err
    assert manifest(tmp_path / "four.kivel.json")["clips"][0]["interpolation"] == interpolation
    if interpolation == "linear":
        asked = kivel("retime", "four.kivel.json", "--interpolation", "motion")
        assert (asked.code, "cannot be warped: there are no motion vectors" in asked.err) == (2, True)
    assert len(around) == 16


def test_what_is_in_between_is_warped_unless_it_is_to_fade(kivel: Kivel, around: list[Pixels], tmp_path: Path) -> None:
    for name, source, more in (
        ("map", "four/four.kivel.json", ()),
        ("blind", "eight", ()),
        ("fade", "eight", ("--no-warp",)),
    ):
        put(tmp_path / "eight", around[::2])
        assert kivel("resample", source, "-o", name, "--count", "16", "--mix", *more).code == 0
    truth = to_light(around[1])
    off = {name: rms(to_light(read(tmp_path / f"{name}/{name}_0001.png")), truth) for name in ("map", "blind", "fade")}
    assert max(off["map"], off["blind"]) < 0.5 * off["fade"]
    assert "motion" not in manifest(tmp_path / "map/map.kivel.json")["pages"][0]["maps"]


@pytest.mark.slow
def test_how_few_frames_will_do_is_told_by_their_error(kivel: Kivel, tmp_path: Path) -> None:
    put(tmp_path / "around", circling(10, side=32))
    said = json.loads(kivel("plan", "around", "--motion", "--error", "30", "--json").out)["motion"]
    (one,) = said["counts"]
    assert (one["count"], one["error"] < one["faded"]) == (8, True)
    few = said["enough"]["motion"]
    assert few < said["enough"]["faded"] <= 10
    for count, enough in ((few, True), (few - 1, False)):
        more = ("--count", str(count), "--motion", "--json", "--dry-run")
        made = json.loads(kivel("resample", "around", "-o", "x", *more).out)
        assert (made["motion"]["error"] <= 30) == enough
    assert not (tmp_path / "x").exists()


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (
            ("resample", "around", "-o", "x", "--count", "16", "--motion"),
            "--count 16: motion replaces frames that are",
        ),
        (
            ("resample", "around", "-o", "x", "--count", "4", "--even"),
            "without --motion frames are always evenly spaced",
        ),
        (("resample", "around", "-o", "x", "--count", "4", "--motion", "--mix"), "remove --mix"),
        (("resample", "around", "-o", "x", "--count", "4", "--tile"), "--tile needs --motion"),
        (("sheet", "around", "-o", "x.png", "--motion-bits", "16"), "--motion-bits needs --motion"),
        (("sheet", "around", "-o", "x.png", "--motion", "--row-clips", "a,b"), "use --make-clip"),
        (("sheet", "--into", "x.kivel.json", "around", "--motion"), "--motion: with --into the sheet keeps"),
        (
            ("sheet", "around", "-o", "x.png", "--interpolation", "motion"),
            "cannot be warped: there is no motion map",
        ),
        (("resample", "around", "-o", "x", "--count", "1", "--motion"), "keep 2 to 15 of 16"),
        (("plan", "around", "--error", "3"), "--error needs --motion"),
        (("loop", "around", "--no-warp"), "--no-warp needs --close K"),
    ],
)
def test_what_cannot_be_is_refused(
    kivel: Kivel, around: list[Pixels], tmp_path: Path, words: tuple[str, ...], said: str
) -> None:
    done = kivel(*words)
    assert done.code in (1, 2)
    assert said in done.err
    assert not list(tmp_path.glob("x*"))
    assert len(around) == 16
