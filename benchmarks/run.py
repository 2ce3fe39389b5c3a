"""Measure Kivel against the plain script, whole processes in turn, and print the ratios: `python benchmarks/run.py`.

Every figure is a median over `--runs` pairs (one Kivel, one script, then again), after one uncounted run of each. The
spread, from least to most, says how quiet the machine was. Frames are drawn anew in a temporary folder.
"""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from multiprocessing import get_context
from pathlib import Path
from statistics import median
from typing import NamedTuple

import numpy as np

from frames import write_frames, write_grey_frames, write_sprites
from kivel.files.png.read import parse_png, pixels_of

KIVEL = str(Path(sys.executable).with_name("kivel"))
SCRIPT = Path(__file__).with_name("plain_script.py")
MIB = 1024


class Run(NamedTuple):
    """Seconds on the clock, the peak of resident memory in KiB, and seconds of the processor."""

    wall: float
    peak: int
    processor: float


class Ratio(NamedTuple):
    """Ratios of pairs of runs: their median, least and most."""

    middle: float
    least: float
    most: float

    def __str__(self) -> str:
        return f"{self.middle:.3f} ({self.least:.3f}-{self.most:.3f})"


def timed(words: Sequence[str], folder: Path | None = None) -> Run:
    """One run, started by a small process: Linux counts the memory of whoever starts a process as its own."""
    return _starter().submit(_timed, words, folder).result()


@cache
def _starter() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(1, mp_context=get_context("spawn"))


def _timed(words: Sequence[str], folder: Path | None) -> Run:
    # Interpreters start from compiled modules, as they do wherever packages are installed by pip
    environment = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    start = time.perf_counter()
    process = subprocess.Popen(words, stdout=subprocess.DEVNULL, env=environment, cwd=folder)
    _, status, usage = os.wait4(process.pid, 0)
    wall = time.perf_counter() - start
    process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode:
        raise SystemExit(f"{' '.join(words)} ended with exit code {process.returncode}")
    return Run(wall, usage.ru_maxrss, usage.ru_utime + usage.ru_stime)


def paired(
    first: Sequence[str], second: Sequence[str], runs: int, folder: Path | None = None
) -> tuple[list[Run], list[Run]]:
    """Runs of each command in turn, after one of each that does not count."""
    timed(first, folder), timed(second, folder)
    pairs = [(timed(first, folder), timed(second, folder)) for _ in range(runs)]
    return [a for a, _ in pairs], [b for _, b in pairs]


def wall_ratio(first: list[Run], second: list[Run]) -> Ratio:
    ratios = [a.wall / b.wall for a, b in zip(first, second, strict=True)]
    return Ratio(median(ratios), min(ratios), max(ratios))


def row(what: str, figure: str, bar: str, held: bool) -> None:
    print(f"{what:46} {figure:>26}   bar {bar:16} {'held' if held else 'MISSED'}", flush=True)


def check_same_pixels(sheet: Path, plain: Path) -> None:
    ours, theirs = (pixels_of(parse_png(path.read_bytes())) for path in (sheet, plain))
    if not np.array_equal(ours, theirs):
        raise SystemExit(f"{sheet} and {plain} do not show the same")


def sheet_case(folder: Path, name: str, compress: str, runs: int, bars: tuple[float, float | None]) -> None:
    """One sheet made by both; `bars` are the largest ratios of wall time and of file size."""
    sheet, plain = folder / f"{name}-{compress}.png", folder / f"{name}-plain.png"
    ours = [KIVEL, "sheet", str(folder / name), "-o", str(sheet), "--compress", compress, "--force", "-q"]
    script = [sys.executable, str(SCRIPT), str(folder / name), str(plain)]
    kivel_runs, script_runs = paired(ours, script, runs)
    check_same_pixels(sheet, plain)
    wall = wall_ratio(kivel_runs, script_runs)
    row(f"{name}, {compress}: wall time / script's", str(wall), f"<= {bars[0]}", wall.middle <= bars[0])
    seconds = [f"{median(run.wall for run in each):.2f} s" for each in (kivel_runs, script_runs)]
    print(f"    {seconds[0]} against {seconds[1]}")
    size = sheet.stat().st_size / plain.stat().st_size
    if bars[1] is not None:
        row(f"{name}, {compress}: file size / script's", f"{size:.3f}", f"<= {bars[1]}", size <= bars[1])
    else:
        height, width = pixels_of(parse_png(sheet.read_bytes())).shape[:2]
        page = width * height * 4 / 2**20
        peak = max(run.peak for run in kivel_runs) / MIB
        row(f"{name}, {compress}: peak memory - page", f"{peak - page:.0f} MiB", "<= 150 MiB", peak - page <= 150)
        print(f"    file size / script's {size:.3f}")


def export_case(folder: Path, name: str, runs: int) -> None:
    """A texture with all its levels against a sheet of the frames; and a table of as many as an atlas may have."""
    sheet = folder / f"{name}-export.png"
    make = [KIVEL, "sheet", str(folder / name), "-o", str(sheet), "--compress", "fast", "--force", "-q"]
    timed(make)
    manifest = sheet.with_suffix(".kivel.json")
    texture = [KIVEL, "export", str(manifest), "--to", "ktx2", "-o", str(folder / "t.ktx2"), "--force", "-q"]
    ratio = wall_ratio(*paired(texture, make, runs))
    row(f"{name}, KTX 2.0 with levels / fast sheet", str(ratio), "<= 2", ratio.middle <= 2)
    content = json.loads(manifest.read_text())
    frame = content["frames"][0]
    del content["grid"]
    content["frames"] = [
        frame | {"name": f"f{n}", "rect": [n % 97, n % 89, 1 + n % 83, 1 + n % 79], "canvas": [83, 79]}
        for n in range(10_000)
    ]
    content["clips"][0]["steps"] = [[n, 1] for n in range(10_000)]
    many = folder / "many.kivel.json"
    many.write_text(json.dumps(content, indent=2))
    for suffix in ("json", "csv", "h"):
        table = [KIVEL, "export", str(many), "-o", str(folder / f"t.{suffix}"), "--force", "-q"]
        runs_of_it, _ = paired(table, [sys.executable, "-c", "pass"], runs)
        seconds = median(run.wall for run in runs_of_it)
        row(f"table of 10,000 frames, .{suffix}", f"{seconds:.2f} s", "<= 1 s", seconds <= 1)


READ = "import sys, glob; from PIL import Image; [Image.open(f).convert('RGBA') for f in glob.glob(sys.argv[1] + '/*')]"


def check_case(folder: Path, runs: int) -> None:
    """Everything that is checked of frames against reading them with Pillow; and of a large page, the peak memory."""
    write_frames(folder / "1000x256", 1000, 256)
    ours = [KIVEL, "check", str(folder / "1000x256"), "-q"]
    ratio = wall_ratio(*paired(ours, [sys.executable, "-c", READ, str(folder / "1000x256")], min(runs, 5)))
    row("check of 1,000 frames: wall time / reading's", str(ratio), "<= 1.5", ratio.middle <= 1.5)
    sheet = folder / "check.png"
    timed([KIVEL, "sheet", str(folder / "128x256"), "-o", str(sheet), "--columns", "16", "-q"])
    run = timed([KIVEL, "check", str(sheet.with_suffix(".kivel.json")), "-q"])
    page = 4096 * 2048 * 4 / 2**20
    most = 3 * page + 100
    row("check of a page: peak memory", f"{run.peak / MIB:.0f} MiB", f"<= {most:.0f} MiB", run.peak / MIB <= most)


def start_case(runs: int) -> None:
    for flag in ("--help", "--version"):
        ours, bare = paired([KIVEL, flag], [sys.executable, "-c", "pass"], max(runs, 15))
        ratio = wall_ratio(ours, bare)
        row(f"kivel {flag}: wall time / bare Python's", str(ratio), "<= 3.5", ratio.middle <= 3.5)


NUMPY = "import os; os.environ['OPENBLAS_NUM_THREADS'] = '1'; import numpy"
SMALL = {
    "sheet": ("sheet in -o s.png --force", 1.65),
    "slice": ("slice s.kivel.json -o cells --force", 2.0),
    "prep": ("prep in --step trim -o out --force", 2.0),
    "inspect": ("inspect in", 1.9),
    "retime": ("retime s.kivel.json --fps 12", 2.4),
}
"""On two tiny frames; the largest shares of what NumPy takes to load."""


def small_case(folder: Path, runs: int) -> None:
    folder.mkdir()
    write_frames(folder / "in", 2, 16)
    for name, (line, bar) in SMALL.items():
        ours, numpy = paired([KIVEL, *line.split(), "-q"], [sys.executable, "-c", NUMPY], max(runs, 15), folder)
        ratios = [a.processor / b.processor for a, b in zip(ours, numpy, strict=True)]
        ratio = Ratio(median(ratios), min(ratios), max(ratios))
        row(f"{name}, two frames: CPU / NumPy's start", str(ratio), f"<= {bar}", ratio.middle <= bar)


CHAIN = ("matte", "ramp #1b1f3b #a6452e@0.4 #ffc861 #fff6d8", "trim", "fit 256x256")


def prep_words(folder: Path, count: int, steps: Sequence[str]) -> list[str]:
    out = str(folder / f"prep-{count}-{len(steps)}")
    chain = [word for step in steps for word in ("--step", step)]
    return [KIVEL, "prep", str(folder / f"grey-{count}"), "-o", out, *chain, "--force", "-q"]


def prep_case(folder: Path, runs: int) -> None:
    """A chain of four steps, one of which measures, against decoding and encoding the same files."""
    for count in (120, 240):
        write_grey_frames(folder / f"grey-{count}", count, 512)
    chain, plain = paired(prep_words(folder, 120, CHAIN), prep_words(folder, 120, ["crop 512x512"]), runs)
    ratio = wall_ratio(chain, plain)
    row("120x512: prep, 4 steps / decode and encode", str(ratio), "<= 1.6", ratio.middle <= 1.6)
    double = [timed(prep_words(folder, 240, CHAIN)) for _ in range(3)]
    once, twice = (median(run.peak for run in each) / MIB for each in (chain, double))
    row("240x512: prep, peak memory - 120 frames'", f"{twice - once:+.1f} MiB", "<= 8 MiB", twice - once <= 8)


def find_case(folder: Path, runs: int) -> None:
    """The best loops of 60 to 200 frames among a thousand of 256 px."""
    source = folder / "1000x256"
    write_frames(source, 1000, 256)
    walls = [timed([KIVEL, "loop", str(source), "--find", "60-200", "-q"]).wall for _ in range(max(runs, 5))]
    figure = f"{median(walls):.2f} s ({min(walls):.2f}-{max(walls):.2f})"
    row("1000x256: loop --find 60-200", figure, "< 5 s", median(walls) < 5)


def atlas_case(folder: Path, runs: int) -> None:
    """2,000 sprites trimmed and packed, against decoding them and encoding the same pages alone."""
    source, sheet = folder / "sprites", folder / "atlas.png"
    write_sprites(source, 2000)
    ours = [KIVEL, "atlas", str(source), "-o", str(sheet), "--force", "-q"]
    timed(ours)
    manifest = sheet.with_name("atlas.kivel.json")
    pages = sum(4 * w * h for w, h in (page["size"] for page in json.loads(manifest.read_text())["pages"])) / MIB
    alone = [sys.executable, str(Path(__file__).with_name("decode_encode.py")), str(source), str(manifest), str(sheet)]
    kivel_runs, alone_runs = paired(ours, alone, runs)
    ratio = wall_ratio(kivel_runs, alone_runs)
    row("2,000 sprites: atlas / decode and encode", str(ratio), "<= 3", ratio.middle <= 3)
    extra = (median(run.peak for run in kivel_runs) - pages) / MIB
    row("2,000 sprites: atlas, peak memory - pages", f"{extra:.0f} MiB", "<= 150 MiB", extra <= 150)


def growth_case(folder: Path, runs: int) -> None:
    """Twice the frames, against once."""
    for stage in ("sheet", "atlas", "plan", "slice", "inspect", "preview", "prep", "resample", "loop"):
        words = [[KIVEL, *_stage_words(folder, stage, name)] for name in ("128x256", "64x256")]
        ratio = wall_ratio(*paired(words[0], words[1], runs))
        row(f"{stage}: 128 frames / 64 frames", str(ratio), "<= 2.2", ratio.middle <= 2.2)


def _stage_words(folder: Path, stage: str, name: str) -> list[str]:
    source, sheet = str(folder / name), str(folder / f"{name}-grown.png")
    if stage in ("inspect", "plan"):
        return [stage, source, "-q"]
    if stage == "loop":
        return ["loop", source, "--find", "20-40", "-q"]
    if stage in ("prep", "resample"):
        more = ["--count", "50", "--mix"] if stage == "resample" else ["--step", "trim", "--step", "fit 128x128"]
        return [stage, source, "-o", str(folder / f"{name}-{stage}"), *more, "--force", "-q"]
    if stage == "slice":
        source, sheet = str(folder / f"{name}-grown.kivel.json"), str(folder / f"{name}-sliced")
    if stage == "preview":
        sheet = str(folder / f"{name}.apng")
    return [stage, source, "-o", sheet, "--force", "-q"]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--runs", type=int, default=7, metavar="N", help="pairs to measure (default: 7)")
    runs: int = parser.parse_args().runs
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for count, side in ((64, 256), (128, 256), (256, 512)):
            write_frames(folder / f"{count}x{side}", count, side)
        start_case(runs)
        small_case(folder / "small", runs)
        sheet_case(folder, "64x256", "fast", runs, (0.25, 1.15))
        sheet_case(folder, "64x256", "small", runs, (0.45, 0.92))
        export_case(folder, "64x256", runs)
        check_case(folder, runs)
        growth_case(folder, runs)
        prep_case(folder, runs)
        find_case(folder, runs)
        atlas_case(folder, runs)
        sheet_case(folder, "256x512", "fast", min(runs, 5), (0.12, None))


if __name__ == "__main__":
    main()
