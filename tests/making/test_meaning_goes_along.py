"""What is known of frames goes along with them: what vectors mean, how deep they are, what follows a clip."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

import kivel
from kivel.core.playback.clip import Clip, Step
from kivel.core.playback.easing import parse_easing
from kivel.core.playback.schedule import schedule
from kivel.files.exr import encode_exr, encoded_and_back, exr_pixels
from program import art, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        yield tmp_path


def spots() -> None:
    """A dot that goes right, with its motion."""
    for number in range(5):
        image = np.zeros((32, 32, 4), np.uint8)
        image[12:20, 4 + 4 * number : 12 + 4 * number] = (200, 120, 40, 255)
        write(Path(f"dot/{number}.png"), image)
    kivel.sheet("dot", out="dot.png", motion=True, repeat=1)


@pytest.mark.parametrize("step", ["pad 2", "pad to=40x36", "crop 30x30", "shift 3 -2", "square", "trim", "drop 4"])
def test_vectors_keep_their_meaning_where_all_frames_move_alike(step: str) -> None:
    spots()
    before = kivel.sheet("dot.kivel.json").manifest
    made = kivel.prep("dot.kivel.json", step=[step]).manifest
    known = [page.maps["motion"].motion for page in made.pages if page.maps["motion"].motion]
    was = before.pages[0].maps["motion"].motion
    assert was is not None
    assert {one.reach for one in known if one} == {was.reach}
    pairs = [pair for one in known if one for pair in one.pairs]
    assert pairs == [pair for pair in was.pairs if max(pair) < len(made.frames)]


@pytest.mark.parametrize("step", ["anchor mass", "shift 1 0 each", "shift 0.5 0", "trim each", "fit 16x16", "turn 90"])
def test_vectors_that_would_lie_are_left_out_and_that_is_told(step: str) -> None:
    spots()
    made = kivel.prep("dot.kivel.json", step=[step])
    assert all("motion" not in page.maps for page in made.manifest.pages)
    assert any("its map motion is skipped" in note for note in made.notes)


def test_half_stays_half_and_float_stays_float(place: Path) -> None:
    pytest.importorskip("OpenEXR")
    half = (np.random.default_rng(1).random((20, 30, 4)) * 4).astype(np.float16)
    half[..., 3] = half[..., 3] / 4 + 0.01
    image = half.astype(np.float32)
    image[..., :3] /= image[..., 3:]
    (place / "half.exr").write_bytes(encode_exr(image))
    read = exr_pixels(place / "half.exr")
    data, back = encoded_and_back(read)
    (place / "again.exr").write_bytes(data)
    assert np.array_equal(exr_pixels(place / "again.exr"), back)
    assert np.array_equal(back, read)
    read[3, 4, 1] *= 1.001
    long = encode_exr(read)
    assert len(long) > 1.5 * len(data)
    huge = np.full((2, 2, 4), 1e6, np.float32)
    huge[..., 3] = 1
    (place / "huge.exr").write_bytes(encode_exr(huge))
    assert exr_pixels(place / "huge.exr")[0, 0, 0] == 1e6


def test_a_follower_that_does_not_move_is_shown_by_what_is_written_out() -> None:
    first = Clip("a", Fraction(10), (Step(0, 1), Step(1, 1)), repeat=1, then="b")
    still = Clip("b", Fraction(10), (Step(3, 2), Step(4, 1)), repeat=0)
    shots = schedule(first, blends=Fraction(1), others=[still]).shots
    assert [(shot.frame, shot.seconds) for shot in shots] == [
        (0, Fraction(1, 10)), (1, Fraction(1, 10)), (3, Fraction(1, 5)),
    ]  # fmt: skip


def test_linear_goes_on_straight_beyond_its_first_and_last_stop() -> None:
    ease = parse_easing("linear(0.5 50%, 1)")
    assert [ease(time) for time in (0, 0.25, 0.5, 1)] == [0, 0.25, 0.5, 1]
    ease = parse_easing("linear(0, 0.5 50%)")
    assert [ease(time) for time in (0.5, 0.75, 1)] == [0.5, 0.75, 1]
    ease = parse_easing("linear(0.2 50%, 0.8 50%)")
    assert [ease(time) for time in (0.25, 0.5, 0.75)] == [0.2, 0.8, 0.8]


def test_an_end_beside_a_follower_means_nothing() -> None:
    for number in range(3):
        write(Path(f"m/{number}.png"), art(number))
    kivel.sheet("m", out="m.png", make_clip={"a": "0-1", "b": "2"}, interpolation="linear")
    kivel.retime("m.kivel.json", clip="a", repeat=1, then="b")
    content = json.loads(Path("m.kivel.json").read_text())
    next(clip for clip in content["clips"] if clip["name"] == "a")["end"] = "first"
    Path("m.kivel.json").write_text(json.dumps(content))
    clips = kivel.sheet("m.kivel.json").manifest.clips
    assert [(clip.end, clip.then) for clip in clips] == [("last", "b"), ("last", None)]


@pytest.mark.parametrize("command", ["sheet", "atlas"])
def test_a_timebase_is_never_refused_for_a_hold_that_nobody_gave(command: str) -> None:
    for number in range(3):
        write(Path(f"m/{number}.png"), art(number))
    make = getattr(kivel, command)
    (clip,) = make("m", timebase="24000/1001", holds="1,2,3").manifest.clips
    assert [step.hold for step in clip.steps] == [1, 2, 3]
    (clip,) = make("m", timebase="24000/1001", repeat=2).manifest.clips
    assert [step.hold for step in clip.steps] == [2, 2, 2]


@pytest.mark.parametrize(("repeat", "advised"), [("forever", True), (1, False)])
def test_only_what_loops_is_told_to_drop_a_last_frame_that_is_the_first(repeat: str | int, advised: bool) -> None:
    for number in range(5):
        write(Path(f"m/{number}.png"), art(number % 4))
    kivel.sheet("m", out="m.png", repeat=repeat)
    codes = [finding.code for finding in kivel.check("m.kivel.json").findings]
    assert ("first-is-last" in codes) == advised
