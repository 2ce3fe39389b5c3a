"""Measure `--compress` on six kinds of art against the plain script: `python benchmarks/compression.py`.

Prints for each kind the bytes, and the processor time of the whole command, as shares of the script's, and for
comparison the clock's: medians of `--runs` pairs. `--seed` draws other frames of each kind.
"""

from __future__ import annotations

import argparse
import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from statistics import median

import PIL.Image

from drawn_art import KINDS
from run import KIVEL, SCRIPT, check_same_pixels

BARS = {
    "soft, few colours": ((1.10, 0.34), (0.92, 0.55), 0.86),
    "soft, many colours": ((1.00, 0.43), (0.99, 0.45), 0.94),
    "pixel art": ((0.44, 1.2), (0.30, 1.4), 0.27),
    "painted props": ((1.15, 0.48), (0.97, 0.80), 0.89),
    "opaque tiles": ((0.85, 0.53), (0.85, 0.48), 0.84),
    "normal maps": ((0.86, 0.60), (0.86, 0.50), 0.86),
}
"""Largest shares: bytes and processor time of fast and small, bytes of least."""


def times(words: Sequence[str]) -> tuple[float, float]:
    """Of the processor and of the clock, in seconds."""
    before, start = resource.getrusage(resource.RUSAGE_CHILDREN), time.perf_counter()
    subprocess.run(words, check=True, stdout=subprocess.DEVNULL)
    after, end = resource.getrusage(resource.RUSAGE_CHILDREN), time.perf_counter()
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime, end - start


def measured(folder: Path, compress: str, runs: int) -> tuple[float, float, float, float]:
    """Shares of the script's bytes, processor time and clock time, and the seconds of the processor."""
    sheet, plain = folder.with_suffix(f".{compress}.png"), folder.with_suffix(".plain.png")
    ours = [KIVEL, "sheet", str(folder), "-o", str(sheet), "--compress", compress, "--force", "-q"]
    script = [sys.executable, str(SCRIPT), str(folder), str(plain)]
    times(ours), times(script)
    check_same_pixels(sheet, plain)
    pairs = [(times(ours), times(script)) for _ in range(runs)]
    processor, clock = (median(a[i] / b[i] for a, b in pairs) for i in range(2))
    return sheet.stat().st_size / plain.stat().st_size, processor, clock, median(a[0] for a, _ in pairs)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--runs", type=int, default=5, metavar="N", help="pairs to measure (default: 5)")
    parser.add_argument("--seed", type=int, default=1, metavar="N", help="of the frames (default: 1)")
    parser.add_argument("--only", default="", metavar="TEXT", help="the kinds with this in their names")
    given = parser.parse_args()
    print(f"{'':20}" + "".join(f"{name:>34}" for name in ("fast", "small", "least")))
    print(f"{'':20}" + f"{'bytes  (bar) processor  (bar) clock':>34}" * 3)
    with tempfile.TemporaryDirectory() as name:
        for kind in (kind for kind in KINDS if given.only in kind):
            folder = Path(name, kind.replace(", ", "-").replace(" ", "-"))
            folder.mkdir()
            for number, frame in enumerate(KINDS[kind](given.seed)):
                PIL.Image.fromarray(frame).save(folder / f"frame_{number}.png")
            fast, small, least = BARS[kind]
            line = f"{kind:20}"
            for compress, bars in (("fast", fast), ("small", small), ("least", (least, None))):
                size, processor, clock, seconds = measured(folder, compress, given.runs if compress != "least" else 1)
                share = f"{processor:5.2f}  ({bars[1]:.2f})" if bars[1] else f"{seconds:8.1f} s     "
                line += f"{size:10.3f} ({bars[0]:.2f}) {share} {clock:5.2f}"
            print(line, flush=True)


if __name__ == "__main__":
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)  # both start from compiled modules, as installed programs do
    main()
