"""What animated images show when, read back by another library, against the clip that they were made of."""

from __future__ import annotations

import random
import shutil
import subprocess
import threading
import time
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from io import BytesIO
from itertools import accumulate
from pathlib import Path
from typing import NamedTuple

import numpy as np
import PIL.Image
import PIL.ImageSequence
import pytest
from hypothesis import given, settings
from numpy.typing import NDArray

from kivel.core.playback.clip import Clip, Step
from kivel.core.playback.clock import on_clock
from kivel.core.playback.player import Player
from kivel.core.playback.schedule import schedule
from kivel.files.animated import encode_animation
from strategies import clips

TICKS = {".apng": Fraction(1, 1000), ".gif": Fraction(1, 100), ".webp": Fraction(1, 1000)}
COLOURS = {frame: (30 * frame, 255 - 20 * frame, 90, 255) for frame in range(8)} | {None: (0, 0, 0, 0)}


class Seen(NamedTuple):
    """What a file shows, and for how long: the unit is its own, a millisecond or a hundredth."""

    frames: list[int | None]
    durations: list[Fraction]
    loop: int | None


def flat(frame: int | None) -> NDArray[np.uint8]:
    return np.full((2, 2, 4), COLOURS[frame], np.uint8)


def read_back(data: bytes) -> Seen:
    by_colour = {colour: frame for frame, colour in COLOURS.items()}
    frames, durations = [], []
    with PIL.Image.open(BytesIO(data)) as image:
        for each in PIL.ImageSequence.Iterator(image):
            colour = each.convert("RGBA").getpixel((0, 0))
            frames.append(by_colour[colour if colour[3] else (0, 0, 0, 0)])  # type: ignore[index]
            durations.append(Fraction(each.info["duration"]).limit_denominator(10**6) / 1000)
        return Seen(frames, durations, image.info.get("loop"))


def encoded(suffix: str, clip: Clip) -> bytes:
    plan = schedule(clip, blends=Fraction(1))
    frames = [flat(shot.frame) for shot in plan.shots]
    return encode_animation(suffix, frames, [shot.seconds for shot in plan.shots], repeat=plan.repeat, jobs=1).data


def shown_at(seen: Seen, time: Fraction) -> int | None:
    ends = list(accumulate(seen.durations))
    return next((frame for frame, end in zip(seen.frames, ends, strict=True) if time < end), seen.frames[-1])


def near(player: Player, time: Fraction, tick: Fraction) -> set[int | None]:
    """What shows at most so much earlier or later."""
    first, last = max(time - tick, Fraction(0)), time + tick
    between = {each.frame for each in player.happenings(first, last) if each.kind == "show"}
    return {player.at(first).frame, player.at(last).frame} | between


@pytest.mark.parametrize("suffix", TICKS)
@settings(max_examples=35)
@given(clip=clips(frames=8))
def test_a_file_shows_what_the_clip_does(suffix: str, clip: Clip) -> None:
    """At a hundred random times each, to half a unit of the file."""
    clip = replace(clip, interpolation="step", timebase=min(clip.timebase, Fraction(60)))
    player, seen = Player(clip), read_back(encoded(suffix, clip))
    chance = random.Random(f"{suffix} {clip}")
    whole = sum(seen.durations)
    for _ in range(100):
        time = Fraction(chance.randrange(1000), 1000) * whole
        assert shown_at(seen, time) in near(player, time, TICKS[suffix] / 2)


@pytest.mark.parametrize(("suffix", "unit"), TICKS.items())
def test_durations_are_the_converted_ones_to_the_unit(suffix: str, unit: Fraction) -> None:
    steps = tuple(Step(frame, hold) for frame, hold in enumerate((1, 2, 1, 5, 1, 1, 3, 1)))
    clip = Clip("moth", Fraction(24000, 1001), steps)
    exact = [clip.seconds(step.hold) for step in steps]
    expected = exact if suffix == ".apng" else [ticks * unit for ticks in on_clock(exact, unit).ticks]
    found = read_back(encoded(suffix, clip))
    assert [float(each) for each in found.durations] == pytest.approx([float(each) for each in expected], abs=1e-6)
    assert found.loop == 0


@pytest.mark.parametrize("suffix", TICKS)
def test_what_is_too_short_to_show_is_merged_and_said(suffix: str) -> None:
    holds: Sequence[Fraction] = [Fraction(1, 10), Fraction(1, 90_001), Fraction(3), Fraction(1, 10)]
    result = encode_animation(suffix, [flat(n) for n in range(4)], holds, repeat=2, jobs=1)
    assert any("cannot show a step that is too short" in note and note.endswith(": 1") for note in result.notes)
    assert read_back(result.data).frames == [0, 2, 3]


@pytest.mark.slow
@pytest.mark.skipif(shutil.which("chromium") is None, reason="needs Chromium; it is in Debian's packages")
def test_a_browser_shows_the_frame_that_the_clip_does(tmp_path: Path) -> None:
    """Frames of three seconds, starting with the last: four seconds in, and once it has ended."""
    clip = Clip("moth", Fraction(1, 3), (Step(1, 1), Step(4, 1), Step(6, 1)), direction="reverse", repeat=1)
    for name, seconds, case in (("later", 4, clip), ("over", 3, replace(clip, timebase=Fraction(2)))):
        (tmp_path / name).mkdir()
        shown = screenshot(tmp_path / name, encoded(".apng", case), seconds=seconds)
        assert shown == COLOURS[Player(case).at(Fraction(seconds)).frame][:3]
    assert Player(clip).at(Fraction(4)).frame == 4


def screenshot(folder: Path, image: bytes, *, seconds: int) -> tuple[int, ...]:
    """The colour that a browser shows of an image so long after it has opened it.

    Its page counts as loaded, and is looked at, when a picture that comes as late as that is there.
    """
    answers = {
        "/": b'<body style="margin:0"><img width=300 height=300 src=moth.png><img src=late.png>',
        "/moth.png": image,
    }

    class Answer(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            if self.path == "/late.png":
                time.sleep(seconds)
            self.send_response(200 if self.path in answers else 404)
            self.end_headers()
            self.wfile.write(answers.get(self.path, b""))

        def log_message(self, format: str, *args: object) -> None:
            pass

    picture = folder / "shot.png"
    with ThreadingHTTPServer(("127.0.0.1", 0), Answer) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        subprocess.run(
            [
                *("chromium", "--headless", "--no-sandbox", "--disable-gpu", "--window-size=400,400"),
                *(
                    f"--user-data-dir={folder}/profile",
                    f"--screenshot={picture}",
                    f"http://127.0.0.1:{server.server_port}/",
                ),
            ],
            check=True,
            capture_output=True,
            timeout=60,
        )
        server.shutdown()
    with PIL.Image.open(picture) as shown:
        colour = shown.convert("RGB").getpixel((50, 50))
    assert isinstance(colour, tuple)
    return colour
