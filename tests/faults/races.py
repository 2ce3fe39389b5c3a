"""Two or three writers of one set at a time, and readers: `python tests/faults/races.py --count 200`.

Each makes the same five files of other pixels. Whoever comes last, the files must be of one of them; and so must be
what is read meanwhile.
"""

from __future__ import annotations

import argparse
import hashlib
import itertools
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from kivel.core.pixels.pixels import Pixels
from program import PROGRAM, art, files, in_process, read, write

__all__ = ["races", "readers", "replaced"]

_SIDE = 64
_FRAMES = 8
_PAUSE_S = 0.1


def _command(writer: int) -> list[str]:
    words = ["sheet", f"in{writer}", "--map", f"normal=maps{writer}", "-o", "out/s.png", "--page-limit", "128x128"]
    return [str(PROGRAM), *words, "--columns", "2"]


def _draw(folder: Path, writer: int) -> None:
    """The sources of a writer."""
    for number in range(_FRAMES):
        image = np.tile(art(writer * 100 + number, width=_SIDE // 4, height=_SIDE // 4), (4, 4, 1))
        write(folder / f"in{writer}/f{number}.png", image)
        write(folder / f"maps{writer}/f{number}.png", np.flip(image, 0))


def races(folder: Path, count: int, seed: int) -> Iterator[str]:
    """What is wrong after each; empty for nothing."""
    sets = []
    for writer in range(3):
        _draw(folder, writer)
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


def readers(folder: Path, replacements: int, count: int, seed: int) -> Iterator[str]:
    """What is wrong with each of `count` readers during so many replacements of a set; empty for nothing."""
    frames = []
    for writer in range(2):
        _draw(folder, writer)
        subprocess.run(_command(writer), cwd=folder, check=True, stdout=subprocess.DEVNULL)
        frames.append([digest_of(read(folder / f"in{writer}/f{number}.png")) for number in range(_FRAMES)])
    chance = random.Random(seed)
    script = f"import sys; sys.path[:0] = {sys.path!r}; from races import replaced; replaced({replacements})"
    writing = subprocess.Popen([sys.executable, "-c", script], cwd=folder)
    try:
        for number in range(count):
            words = ["slice", "out/s.kivel.json", "-o", f"cut{number}"] if chance.random() < 0.5 else []
            yield _read_wrongly(folder, words, frames, number)
    finally:
        writing.kill()
        writing.wait()


def replaced(count: int) -> None:
    """Replace the set in this folder again and again, in this process, as quickly as it goes."""
    for number in itertools.cycle(range(2)) if count < 0 else range(count):
        done = in_process(_command(number % 2)[1:], Path())
        assert done.code == 0, done
        # without it a reader that takes longer than a replacement would never end, and rightly say so
        time.sleep(_PAUSE_S)


def _read_wrongly(folder: Path, words: Sequence[str], frames: Sequence[Sequence[str]], number: int) -> str:
    if not words:
        done = in_process(["inspect", "out/s.kivel.json"], folder)
        wrong = done.code or "differ" in done.out or "edited" in done.err
        return f"reader {number}: inspect: {done.code} {done.out} {done.err}" if wrong else ""
    done = in_process(words, folder)
    cut = folder / words[-1]
    found = [digest_of(read(path)) for path in sorted(cut.glob("*[0-9].png"))]
    shutil.rmtree(cut, ignore_errors=True)
    if done.code or "edited" in done.err:
        return f"reader {number}: {done.code} {done.err}"
    return "" if found in frames else f"reader {number}: mixed: {[found_in(one, frames) for one in found]}"


def found_in(digest: str, frames: Sequence[Sequence[str]]) -> list[int]:
    return [writer for writer, own in enumerate(frames) if digest in own]


def digest_of(image: Pixels) -> str:
    return hashlib.blake2b(np.ascontiguousarray(image).data, digest_size=8).hexdigest()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--count", type=int, default=200, metavar="N", help="races (default: 200)")
    parser.add_argument("--readers", type=int, default=200, metavar="N", help="readers (default: 200)")
    parser.add_argument("--seed", type=int, default=1, metavar="N")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        found = list(races(Path(name), options.count, options.seed))
    with tempfile.TemporaryDirectory() as name:
        reads = list(readers(Path(name), -1, options.readers, options.seed))
    wrong = [each for each in (*found, *reads) if each]
    print(*wrong, sep="\n")
    print(f"{len(found)} races, {len(reads)} readers, {len(wrong)} with something wrong")


if __name__ == "__main__":
    main()
