"""Broken inputs for every command, in process: `python tests/faults/fuzz.py --count 40000 --seed 1`.

Whatever comes in, a command ends, by a result or by an error of ours that says what is wrong: no other exception, no
hang, no memory without bound, no file outside the folder that was named. The seed and the number of a pair make it
again: `--only NUMBER`.
"""

from __future__ import annotations

import argparse
import contextlib
import multiprocessing
import os
import resource
import shutil
import signal
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from types import FrameType
from typing import Any

from fuzz_documents import document_pair
from fuzz_pairs import Pair, pair

from program import in_process

__all__ = ["failures", "wrong_with"]

CPU_S = 20
WALL_S = 120
MEMORY_BYTES = 1_500_000_000
_SOURCES = ("f/", "g/", "i.png")
"""No command changes them."""

Make = Callable[[int, int], Pair]


class _Hangs(BaseException):
    pass


def _stop(_number: int, _frame: FrameType | None) -> None:
    raise _Hangs


def _peak_reset() -> None:
    with contextlib.suppress(OSError):
        Path("/proc/self/clear_refs").write_text("5")


def _peak_bytes() -> int:
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("VmHWM"):
            return int(line.split()[1]) * 1024
    return 0


def wrong_with(case: Pair, folder: Path) -> str:
    """What is wrong with how a pair ends; empty for nothing."""
    home = folder / "case"
    shutil.rmtree(home, ignore_errors=True)
    for name, data in case.files.items():
        (home / name).parent.mkdir(parents=True, exist_ok=True)
        (home / name).write_bytes(data)
    _peak_reset()
    before = _peak_bytes()
    start = time.process_time()
    signal.setitimer(signal.ITIMER_PROF, CPU_S)
    try:
        done = in_process(case.words, home)
    except _Hangs:
        return f"more than {CPU_S} s of CPU time"
    except BaseException as error:
        return f"{type(error).__name__}: {error}"
    finally:
        signal.setitimer(signal.ITIMER_PROF, 0)
    used, cpu = _peak_bytes() - before, time.process_time() - start
    if used > MEMORY_BYTES:
        return f"{used:,} bytes of memory"
    if "a bug in Kivel" in done.err or "Traceback" in done.err or done.code not in (0, 1, 2):
        return f"{done.code}: {done.err.strip()[-600:]}"
    if done.code and not (done.err or done.out):
        return f"exit code {done.code} and not a word"
    found = _wrong_files(case, folder)
    return found or (f"{cpu:.1f} s of CPU time" if cpu > CPU_S else "")


def _wrong_files(case: Pair, folder: Path) -> str:
    """Files that are there and should not be, or are other than they were."""
    home = folder / "case"
    if os.listdir(folder) != ["case"]:
        return f"files outside: {os.listdir(folder)}"
    has_state = any(name.startswith(".kivel/") for name in case.files)
    left = [path for path in home.rglob(".kivel*") if not (has_state and path.parent == home)]
    if left:
        return f"litter: {left}"
    changed = {name for name, data in case.files.items() if not _is_as(home / name, data)}
    sources = {name for name in changed if name.startswith(_SOURCES)}
    if case.words[0] in ("build", "export") or "cut" in case.words:
        return f"changed: {sources}" if sources else ""
    rewrites = case.words[0] == "retime" or "s.png" in case.words
    allowed = set(case.files) if "--into" in case.words else {"s.png", "s.kivel.json"} if rewrites else set()
    return f"changed: {changed - allowed}" if changed - allowed else ""


def _is_as(path: Path, data: bytes) -> bool:
    return path.is_file() and path.read_bytes() == data


def _work(make: Make, seed: int, numbers: list[int], found: Any) -> None:
    signal.signal(signal.SIGPROF, _stop)
    resource.setrlimit(resource.RLIMIT_AS, (12 << 30, 12 << 30))
    with tempfile.TemporaryDirectory() as name:
        for number in numbers:
            found.put((number, None))
            found.put((number, wrong_with(make(seed, number), Path(name))))
    found.put((-1, ""))


class _Worker:
    """A process that works through its share of the pairs, and is replaced when it dies or hangs."""

    def __init__(self, make: Make, seed: int, numbers: list[int]) -> None:
        self._make = make
        self._context = multiprocessing.get_context("spawn")
        self._seed = seed
        self._left = numbers
        self._begin()

    def _begin(self) -> None:
        self._queue = self._context.SimpleQueue()
        self._process = self._context.Process(
            target=_work, args=(self._make, self._seed, self._left, self._queue), daemon=True
        )
        self._process.start()
        self._current: int | None = None
        self._since = time.monotonic()
        self.is_done = not self._left

    def news(self) -> Iterator[tuple[int, str]]:
        """What has ended wrongly since it was last asked."""
        while not self._queue.empty():
            number, result = self._queue.get()
            if number < 0:
                self._process.join()
                self.is_done = True
                return
            self._current, self._since = number, time.monotonic()
            if result:
                yield number, result
        dead = not self._process.is_alive()
        if dead or time.monotonic() - self._since > WALL_S:
            self._process.kill()
            self._process.join()
            if self._current is not None:
                what = f"the process died ({self._process.exitcode})" if dead else f"nothing for {WALL_S} s"
                yield self._current, what
                self._left = self._left[self._left.index(self._current) + 1 :]
            self._begin()


def failures(seed: int, numbers: list[int], *, jobs: int = 2, make: Make = pair) -> Iterator[tuple[int, str]]:
    """The numbers of pairs that end wrongly, and how."""
    workers = [_Worker(make, seed, numbers[share::jobs]) for share in range(jobs)]
    while workers:
        time.sleep(0.02)
        for worker in workers:
            yield from worker.news()
        workers = [worker for worker in workers if not worker.is_done]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--count", type=int, default=40_000, metavar="N", help="pairs (default: 40,000)")
    parser.add_argument("--seed", type=int, default=1, metavar="N")
    parser.add_argument("--first", type=int, default=0, metavar="N", help="begin with this pair (default: 0)")
    parser.add_argument("--only", type=int, metavar="N", help="this pair alone, its files left in ./pair")
    parser.add_argument("--documents", action="store_true", help="recipes, profiles and what else is read as text")
    options = parser.parse_args()
    make = document_pair if options.documents else pair
    if options.only is not None:
        case = make(options.seed, options.only)
        print(case.words)
        signal.signal(signal.SIGPROF, _stop)
        Path("pair").mkdir(exist_ok=True)
        print(wrong_with(case, Path("pair")) or "nothing wrong")
        return
    numbers = list(range(options.first, options.first + options.count))
    wrong = 0
    start = time.monotonic()
    for number, what in failures(options.seed, numbers, make=make):
        wrong += 1
        print(f"{number}: {what}\n    {make(options.seed, number).words}", flush=True)
    took = time.monotonic() - start
    print(f"{len(numbers):,} pairs of seed {options.seed} in {took:.0f} s, {wrong} with something wrong")


if __name__ == "__main__":
    main()
