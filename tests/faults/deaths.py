"""Runs that die, at each step of the way and at random moments: `python tests/faults/deaths.py --kills 500`.

A sheet of two pages with a companion map, five files, is made anew over an older one. After each death the next command
must find the old set or the new one, and leave nothing behind.
"""

from __future__ import annotations

import argparse
import random
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np

from program import PROGRAM, art, files, write

__all__ = ["COMMAND", "Case", "Found", "at_each_step", "at_random_moments", "judged"]

COMMAND = ("sheet", "in", "--map", "normal=maps", "-o", "out/s.png", "--page-limit", "128x128", "--columns", "2")
_SIDE = 64
_FAULTY = """
import errno, os, signal, sys
kind, number = sys.argv[1], int(sys.argv[2])
count = 0
def watched(call):
    def step(*words, **more):
        global count
        if not any(os.sep + "out" in str(word) for word in words if not isinstance(word, int)) and words[:1] != ():
            if not (words and isinstance(words[0], int)):
                return call(*words, **more)
        count += 1
        if count == number:
            if kind == "kill":
                os.kill(os.getpid(), signal.SIGKILL)
            if kind == "interrupt":
                os.kill(os.getpid(), signal.SIGINT)
            if kind == "error":
                raise OSError(errno.EIO, os.strerror(errno.EIO))
        return call(*words, **more)
    return step
for name in ("replace", "link", "unlink", "mkdir", "rmdir", "fsync", "chmod"):
    setattr(os, name, watched(getattr(os, name)))
from kivel.cli.main import main
code = main(sys.argv[3:])
print("steps", count)
sys.stdout.flush()
os._exit(code)
"""
"""A run of `kivel` that dies, is interrupted or meets an error at so manieth change to the disk."""


class Case(NamedTuple):
    """A folder with sources and an older set, and what the set is before and after."""

    folder: Path
    old: dict[str, bytes]
    new: dict[str, bytes]


class Found(NamedTuple):
    """What a death left: the exit code, what was said then and by the next command; what is wrong, if anything."""

    moment: str
    code: int
    said: str
    next_said: str
    wrong: str


def made_case(folder: Path, frames: int = 8) -> Case:
    """Sources of which the older set has other pixels."""
    for generation in (1, 2):
        for number in range(frames):
            image = np.tile(art(generation * 100 + number, width=_SIDE // 4, height=_SIDE // 4), (4, 4, 1))
            write(folder / f"in/f{number}.png", image)
            write(folder / f"maps/f{number}.png", np.flip(image, 0))
        if generation == 1:
            _run(folder)
            old = files(folder / "out")
    shutil.copytree(folder / "out", folder / "kept")
    _run(folder)
    new = files(folder / "out")
    assert len(old) == len(new) == 5
    assert all(old[name] != new[name] for name in new)
    return Case(folder, old, new)


def put_back(case: Case) -> None:
    shutil.rmtree(case.folder / "out")
    shutil.copytree(case.folder / "kept", case.folder / "out")


def _run(folder: Path, *words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([PROGRAM, *(words or COMMAND)], cwd=folder, capture_output=True, text=True, check=False)


def judged(case: Case, moment: str, code: int, said: str) -> Found:
    """What the next command makes of it."""
    done = _run(case.folder, "inspect", "out/s.kivel.json")
    found = files(case.folder / "out")
    wrong = []
    if found not in (case.old, case.new):
        names = [n for n in sorted(found | case.old) if found.get(n) not in (case.old.get(n), case.new.get(n))]
        wrong.append(f"neither set: {', '.join(names) or 'mixed'}")
    if any(path.name.startswith(".kivel") for path in (case.folder / "out").iterdir()):
        wrong.append("litter")
    if done.returncode or "differ" in done.stdout:
        wrong.append(f"the next command: {done.returncode} {done.stdout} {done.stderr}")
    if code == 0 and found != case.new:
        wrong.append("exit code 0, but not the new set")
    if ("nothing was written" in said or code == 1) and found != case.old:
        wrong.append("it says that nothing was written, or failed, and there is a new set")
    if "finished before" in said and found != case.new:
        wrong.append("it says that files were finished, and they were not")
    if "Traceback" in said + done.stderr or "a bug" in said + done.stderr:
        wrong.append("a traceback")
    return Found(moment, code, said.strip(), done.stderr.strip(), "; ".join(wrong))


def at_each_step(
    folder: Path, kinds: Sequence[str] = ("kill", "error", "interrupt"), *, every: int = 1
) -> Iterator[Found]:
    """A death at each change to the disk (or at `every` so manieth), until a run comes through."""
    case = made_case(folder)
    for kind in kinds:
        number = 0
        while True:
            number += every
            put_back(case)
            words = [sys.executable, "-c", _FAULTY, kind, str(number), *COMMAND]
            done = subprocess.run(words, cwd=case.folder, capture_output=True, text=True, check=False)
            yield judged(case, f"{kind} at {number}", done.returncode, done.stderr)
            steps = re.search("steps ([0-9]+)", done.stdout)
            if done.returncode == 0 and steps and int(steps[1]) < number:
                break


def at_random_moments(folder: Path, count: int, seed: int) -> Iterator[Found]:
    """Signals at random moments of runs of the installed program."""
    case = made_case(folder)
    chance = random.Random(seed)
    put_back(case)
    start = time.monotonic()
    _run(folder)
    usual = time.monotonic() - start
    for number in range(count):
        put_back(case)
        wanted = chance.choice((signal.SIGTERM, signal.SIGINT, signal.SIGKILL))
        # most of the time goes by before anything is written
        delay = chance.uniform(0.5, 1.05) * usual
        running = subprocess.Popen([PROGRAM, *COMMAND], cwd=folder, stderr=subprocess.PIPE, stdout=subprocess.PIPE)
        time.sleep(delay)
        running.send_signal(wanted)
        _, err = running.communicate()
        yield judged(case, f"{wanted.name} {number} after {delay:.3f} s", running.returncode, err.decode())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--kills", type=int, default=500, metavar="N", help="at random moments (default: 500)")
    parser.add_argument("--seed", type=int, default=1, metavar="N")
    options = parser.parse_args()
    bad = total = 0
    codes: dict[int, int] = {}
    with tempfile.TemporaryDirectory() as one, tempfile.TemporaryDirectory() as other:
        for found in (*at_each_step(Path(one)), *at_random_moments(Path(other), options.kills, options.seed)):
            total += 1
            codes[found.code] = codes.get(found.code, 0) + 1
            if found.wrong:
                bad += 1
                print(*found, sep="\n    ", flush=True)
    print(f"{total} deaths, {bad} with something wrong; exit codes {dict(sorted(codes.items()))}")


if __name__ == "__main__":
    main()
