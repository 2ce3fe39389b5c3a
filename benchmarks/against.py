"""Measure Kivel against an earlier commit of its own: `python benchmarks/against.py COMMIT`.

Twelve commands on freshly drawn art of six kinds, whole processes of both in pairs: the ratio of CPU and of wall time,
peak memory and bytes written, new to old; medians over `--runs` pairs. Each side has its own copy of the art, a folder
for each kind. A command that the earlier commit does not have, or refuses, is left out and named.
"""

from __future__ import annotations

import argparse
import os
import shlex
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from statistics import median
from typing import NamedTuple

from drawn_art import KINDS
from kivel.files.png.write import encode_png
from run import MIB, Run, timed

ROOT = Path(__file__).parent.parent
FRAMES = 12
COMMANDS = {
    "inspect": "inspect {0}",
    "prep": "prep {0} -o prep --step 'fit 96x96' --step 'anchor mass' --force",
    "matte": "prep {0} -o matte --step matte --force",
    "resample": "resample {0} -o few --count 8 --mix --force",
    "loop": "loop {0}",
    "layer": "layer {0} '{0} blend=screen opacity=0.5' -o layers --force",
    "sheet": "sheet {0} -o sheet.png --gap 1 --compress fast --force",
    "sheet small": "sheet {0} -o small.png --compress small --force",
    "atlas": "atlas {0} -o atlas.png --force",
    "slice": "slice sheet.png -o cut --force --pick 1",
    "check": "check sheet.kivel.json",
    "preview": "preview sheet.kivel.json -o play.apng --force",
}
"""On what the ones before made, but for a folder of frames, `{0}`."""


class Case(NamedTuple):
    command: str
    kind: str
    old: list[Run]
    new: list[Run]
    bytes_old: int
    bytes_new: int


def drawn(folder: Path, seed: int) -> None:
    """Frames of each kind in a folder of its own."""
    for kind, draw in KINDS.items():
        for number, frame in enumerate(islice(draw(seed), FRAMES)):
            path = folder / kind / "art" / f"art_{number:02}.png"
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(b"".join(encode_png(frame, compress="fast")))


def program(source: Path) -> list[str]:
    """`kivel` from a folder of sources."""
    code = f"import sys; sys.path.insert(0, {str(source)!r}); from kivel.cli.main import program; program()"
    return [sys.executable, "-c", code]


def measured(old: Path, new: Path, place: Path, runs: int) -> Iterator[Case | str]:
    for kind in KINDS:
        for command, line in COMMANDS.items():
            words = [*shlex.split(line.format("art")), "-q"]
            sides = [(program(source), place / side / kind) for side, source in (("old", old), ("new", new))]
            if refused := [folder for start, folder in sides if not _is_done([*start, *words], folder)]:
                yield f"{command} on {kind}: refused by {refused[0].parent.name}"
                continue
            found: tuple[list[Run], list[Run]] = ([], [])
            for number in range(runs):
                for side in (0, 1) if number % 2 else (1, 0):
                    found[side].append(timed([*sides[side][0], *words], sides[side][1]))
            yield Case(command, kind, *found, *(_bytes_in(folder) for _, folder in sides))


def _is_done(words: list[str], folder: Path) -> bool:
    """Once without being counted: bytecode is kept, and files are there to be replaced."""
    environment = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    return subprocess.run(words, cwd=folder, capture_output=True, check=False, env=environment).returncode == 0


def _bytes_in(folder: Path) -> int:
    return sum(path.stat().st_size for path in folder.rglob("*") if path.is_file())


def table(cases: list[Case]) -> Iterator[str]:
    """A line for each command, over all kinds of art."""
    yield f"{'':12} {'CPU':>6} {'wall':>6} {'memory':>7} {'bytes':>6} {'CPU at worst':>13}   new to old; CPU, memory"
    for command in dict.fromkeys(case.command for case in cases):
        own = [case for case in cases if case.command == command]
        cpu = {case.kind: _ratio(case, "processor") for case in own}
        worst = max(cpu, key=lambda kind: cpu[kind])
        size = sum(case.bytes_new for case in own) / max(1, sum(case.bytes_old for case in own))
        seconds = median(run.processor for case in own for run in case.new)
        peak = max(run.peak for case in own for run in case.new) / MIB
        yield (
            f"{command:12} {median(cpu.values()):6.2f} {median(_ratio(case, 'wall') for case in own):6.2f} "
            f"{median(_ratio(case, 'peak') for case in own):7.2f} {size:6.3f} {cpu[worst]:6.2f} {worst:10}"
            f" {seconds:6.2f} s {peak:5.0f} MiB"
        )


def _ratio(case: Case, figure: str) -> float:
    ratios = [getattr(new, figure) / getattr(old, figure) for old, new in zip(case.old, case.new, strict=True)]
    return float(median(ratios))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("commit", help="the earlier one, as git knows it")
    parser.add_argument("--runs", type=int, default=5, metavar="N", help="pairs of each (default: 5)")
    parser.add_argument("--seed", type=int, default=1, metavar="N", help="of the art (default: 1)")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        place = Path(name)
        before = place / "before"
        subprocess.run(["git", "worktree", "add", "--detach", str(before), options.commit], cwd=ROOT, check=True)
        try:
            drawn(place / "old", options.seed)
            shutil.copytree(place / "old", place / "new")
            found = list(measured(before / "src", ROOT / "src", place, options.runs))
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", str(before)], cwd=ROOT, check=True)
    print(f"against {options.commit}, seed {options.seed}, medians of {options.runs} pairs on each kind of art")
    print(*table([case for case in found if isinstance(case, Case)]), sep="\n")
    print(*(one for one in found if isinstance(one, str)), sep="\n")


if __name__ == "__main__":
    main()
