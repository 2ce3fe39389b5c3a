"""The same bytes wherever they are made: `python tests/faults/sameness.py`.

Every command that makes files, on the same sources, by 1, 2 and 4 jobs, in other places, languages, time zones, file
modes and hash seeds, with the sources written in another order.
"""

from __future__ import annotations

import argparse
import itertools
import os
import random
import shlex
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from program import PROGRAM, art, files, write

__all__ = ["LINES", "differences"]

LINES = """\
sheet moth -o sheet/moth.png --map normal=bump --fps 12 --compress small
sheet moth lamp -o two/both.png --gap 4 --skirt 2 --map-scale normal=1/2 --map normal=bump-of-both
atlas moth lamp -o atlas/all.png --outline 6 --skirt 1
slice sheet/moth.kivel.json -o cut
prep moth --step matte --step "trim margin=1" --step "fit 20x20" -o prepared
resample moth -o fewer --count 5 --mix
loop moth --close 2 -o closed
layer moth "lamp blend=screen opacity=50%" -o layered --until longest
scroll "tile.png scroll=1,0" --count 6 -o scrolled
retime sheet/moth.kivel.json --hold 80ms --stagger 3
inspect sheet/moth.kivel.json --json
plan moth --json
timeline sheet/moth.kivel.json --for 2s --json
preview sheet/moth.kivel.json -o look.apng
preview sheet/moth.kivel.json -o look.gif
preview sheet/moth.kivel.json -o contact.png
preview sheet/moth.kivel.json -o timing.png --view timing
sheet lamp/lamp0.png --into sheet/moth.kivel.json --map normal=bump-of-lamp/lamp0.png
""".splitlines()
_SETTINGS = {
    "LC_ALL": ("C", "de_DE.UTF-8", "tr_TR.UTF-8"),
    "TZ": ("UTC", "Pacific/Kiritimati"),
    "PYTHONHASHSEED": ("0", "1", "4711"),
}


def _sources() -> dict[str, np.ndarray]:
    found = {f"moth/moth_{number}.png": art(number, width=16, height=16) for number in range(1, 8)}
    found |= {f"lamp/lamp{number}.png": art(50 + number, width=14, height=10) for number in range(3)}
    for name, image in list(found.items()):
        found[f"bump-of-both/{len(found):03}.png"] = np.flip(image, 0)
        folder = "bump" if name.startswith("moth") else "bump-of-lamp"
        found[f"{folder}/{Path(name).name}"] = np.flip(image, 0)
    found["tile.png"] = art(99, width=16, height=8)
    return found


def _made(folder: Path, jobs: int, chance: random.Random) -> dict[str, bytes]:
    """All files and all that is printed."""
    sources = list(_sources().items())
    chance.shuffle(sources)
    for name, image in sources:
        write(folder / name, image)
    environment = os.environ | {name: chance.choice(values) for name, values in _SETTINGS.items()}
    mask = chance.choice((0o000, 0o022, 0o077))
    printed = {}
    for number, line in enumerate(LINES):
        words = [str(PROGRAM), *shlex.split(line)]
        words += [] if line.startswith(("retime", "timeline", "plan")) else ["--jobs", str(jobs)]
        done = subprocess.run(words, cwd=folder, capture_output=True, env=environment, umask=mask, check=False)
        if done.returncode:
            raise RuntimeError(f"{line}: {done.stderr.decode()}")
        printed[f"printed by {number}"] = done.stdout + done.stderr
    return files(folder) | printed


def differences(count: int, seed: int) -> Iterator[str]:
    """What differs from the first, over `count` environments."""
    first: dict[str, bytes] = {}
    for number, jobs in zip(range(count), itertools.cycle((1, 2, 4)), strict=False):
        chance = random.Random(f"{seed} {number}")
        with tempfile.TemporaryDirectory(prefix=chance.choice(("a", "a b", "é夜", "deep" * 20))) as name:
            found = _made(Path(name), jobs, chance)
        first = first or found
        different = [name for name in sorted(first | found) if first.get(name) != found.get(name)]
        yield f"{number}, {jobs} jobs: {', '.join(different)}" if different else ""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--count", type=int, default=24, metavar="N", help="environments (default: 24)")
    parser.add_argument("--seed", type=int, default=1, metavar="N")
    options = parser.parse_args()
    found = list(differences(options.count, options.seed))
    wrong = [each for each in found if each]
    print(*wrong, sep="\n")
    print(f"{len(LINES)} command lines in {len(found)} environments, {len(wrong)} with differences")


if __name__ == "__main__":
    main()
