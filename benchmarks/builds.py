"""Measure builds, whole processes, and print the figures against their bars: `python benchmarks/builds.py`.

200 things of 10 frames, each with a step and a sheet: the first build with one process and with two, nothing to do, one
frame changed. 10,000 things: planned anew, and from what is kept. A change under `--watch`: from the saved frame to the
sheet, less the time of a build that makes the same.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

from PIL import Image

from frames import burst
from run import KIVEL, MIB, paired, row, timed

RECIPE = """\
[make."*"]
from = "art/{name}/"
steps = [{ prep = "fit 128x128" }]
sheet = { out = "out/{name}.png", fps = 12 }
"""


def write_things(folder: Path, count: int, frames: int, side: int) -> None:
    """The same frames under other names, but for their order."""
    for number, pixels in enumerate(burst(frames, side)):
        Image.fromarray(pixels).save(folder / f"drawn_{number}.png")
    for thing in range(count):
        place = folder / f"art/t{thing:05}"
        place.mkdir(parents=True)
        for number in range(frames):
            shutil.copyfile(folder / f"drawn_{(number + thing) % frames}.png", place / f"f_{number:04}.png")
    (folder / "kivel.toml").write_text(RECIPE)


def build(*words: str) -> list[str]:
    return [KIVEL, "build", "-q", *words]


def first_build_case(runs: int) -> None:
    ratios = []
    for _ in range(runs):
        walls = []
        for jobs in ("1", "2"):
            for made in (".kivel", "out"):
                shutil.rmtree(made, ignore_errors=True)
            walls.append(timed(build("--jobs", jobs)).wall)
        ratios.append(walls[0] / walls[1])
    row("200 things, first build: jobs 1 / jobs 2", f"{median(ratios):.2f}", ">= 1.7", median(ratios) >= 1.7)


def again_case(runs: int) -> None:
    nothing, version = paired(build(), [KIVEL, "--version"], max(runs, 5))
    beyond = median(a.wall - b.wall for a, b in zip(nothing, version, strict=True))
    row("200 things, nothing to do - --version", f"{beyond:.2f} s", "<= 0.3 s", beyond <= 0.3)
    walls = [_changed(number) for number in range(max(runs, 5))]
    row("200 things, one frame changed", f"{median(walls):.2f} s", "2 tasks", True)


def _changed(number: int) -> float:
    swap_frames(Path(f"art/t{number:05}"))
    wall = timed(build()).wall
    told = subprocess.run([KIVEL, "build"], capture_output=True, text=True, check=True).stdout
    assert told.strip() == "400 up to date", told
    return wall


def swap_frames(folder: Path) -> None:
    """Two of other content, by renaming: other bytes under a name, at once."""
    first, second = folder / "f_0000.png", folder / "f_0005.png"
    beside = folder.parent / "beside.png"
    first.rename(beside)
    second.rename(first)
    beside.rename(second)


def watch_case(runs: int) -> None:
    alone = []
    for number in range(20, 20 + runs):
        swap_frames(Path(f"art/t{number:05}"))
        alone.append(timed(build(f"t{number:05}")).wall)
    watching = subprocess.Popen([KIVEL, "build", "--watch"], stdout=subprocess.PIPE, text=True, bufsize=1)
    assert watching.stdout is not None
    while "watching" not in watching.stdout.readline():
        pass
    seen = []
    for number in range(40, 40 + runs):
        sheet = Path(f"out/t{number:05}.kivel.json")
        seen.append(_until_other(sheet, lambda number=number: swap_frames(Path(f"art/t{number:05}"))))  # type: ignore[misc]
        time.sleep(0.5)
    watching.send_signal(signal.SIGINT)
    watching.communicate(timeout=10)
    beyond = median(seen) - median(alone)
    row("from a saved frame to its sheet - a build of it", f"{beyond:+.2f} s", "<= 0.5 s", beyond <= 0.5)
    print(f"    {median(seen):.2f} s against {median(alone):.2f} s as a process of its own")


def _until_other(path: Path, change: Callable[[], None]) -> float:
    before, start = path.read_bytes(), time.perf_counter()
    change()
    while time.perf_counter() - start < 20:
        with contextlib.suppress(FileNotFoundError):
            if path.read_bytes() != before:
                return time.perf_counter() - start
        time.sleep(0.005)
    raise SystemExit(f"{path} was not made within 20 s")


def planning_case(runs: int) -> None:
    walls, peaks = [], []
    # whoever starts the processes stands in the folder in which it began
    plan = build("--list", "--file", str(Path("kivel.toml").absolute()))
    for _ in range(runs):
        shutil.rmtree(".kivel", ignore_errors=True)
        run = timed(plan)
        walls.append(run.wall)
        peaks.append(run.peak / MIB)
    row("10,000 things: planned, as a process", f"{median(walls):.2f} s", "<= 5 s", median(walls) <= 5)
    row("10,000 things: planned, peak memory", f"{max(peaks):.0f} MiB", "<= 400 MiB", max(peaks) <= 400)
    kept = median(timed(plan).wall for _ in range(runs))
    row("10,000 things: the plan that was kept", f"{kept:.2f} s", "", True)


def main() -> None:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 5
    with tempfile.TemporaryDirectory() as name:
        for folder, count, frames, side in ((Path(name, "few"), 200, 10, 96), (Path(name, "many"), 10_000, 1, 8)):
            folder.mkdir()
            write_things(folder, count, frames, side)
        with contextlib.chdir(Path(name, "few")):
            first_build_case(runs)
            again_case(runs)
            watch_case(runs)
        with contextlib.chdir(Path(name, "many")):
            planning_case(runs)


if __name__ == "__main__":
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    main()
