"""Two or three writers of one set at a time: `python tests/faults/races.py --count 200`.

Each makes the same five files of other pixels. Whoever comes last, the files must be of one of them.
"""

from __future__ import annotations

import argparse
import random
import shutil
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from program import PROGRAM, art, files, write

__all__ = ["races"]

_SIDE = 64
_FRAMES = 8


def _command(writer: int) -> list[str]:
    words = ["sheet", f"in{writer}", "--map", f"normal=maps{writer}", "-o", "out/s.png", "--page-limit", "128x128"]
    return [str(PROGRAM), *words, "--columns", "2"]


def races(folder: Path, count: int, seed: int) -> Iterator[str]:
    """What is wrong after each; empty for nothing."""
    sets = []
    for writer in range(3):
        for number in range(_FRAMES):
            image = np.tile(art(writer * 100 + number, width=_SIDE // 4, height=_SIDE // 4), (4, 4, 1))
            write(folder / f"in{writer}/f{number}.png", image)
            write(folder / f"maps{writer}/f{number}.png", np.flip(image, 0))
        start = time.monotonic()
        subprocess.run(_command(writer), cwd=folder, check=True, stdout=subprocess.DEVNULL)
        usual = time.monotonic() - start
        sets.append(files(folder / "out"))
        shutil.rmtree(folder / "out")
    chance = random.Random(seed)
    for number in range(count):
        writers = chance.sample(range(3), chance.choice((2, 2, 3)))
        running = []
        for writer in writers:
            running.append(subprocess.Popen(_command(writer), cwd=folder, stdout=-3, stderr=subprocess.PIPE, text=True))
            time.sleep(chance.uniform(0, 0.1) * usual)
        ended = [(process.communicate()[1], process.returncode) for process in running]
        found = files(folder / "out")
        wrong = [] if found in [sets[writer] for writer in writers] else [f"mixed: {sorted(found)}"]
        wrong += [f"exit code {code}: {said}" for said, code in ended if code]
        yield f"race {number}: {'; '.join(wrong)}" if wrong else ""
        if chance.random() < 0.5:
            shutil.rmtree(folder / "out")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--count", type=int, default=200, metavar="N", help="races (default: 200)")
    parser.add_argument("--seed", type=int, default=1, metavar="N")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        found = list(races(Path(name), options.count, options.seed))
    wrong = [each for each in found if each]
    print(*wrong, sep="\n")
    print(f"{len(found)} races, {len(wrong)} with something wrong")


if __name__ == "__main__":
    main()
