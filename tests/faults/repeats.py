"""What is done twice, or there and back, comes out the same: `python tests/faults/repeats.py`.

`kivel again` after random command lines of every command that it knows leaves every byte as it is. A sheet that is
taken apart, and whose frames are made into a sheet unedited, has the same pages bit for bit.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import random
import shlex
import tempfile
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
from drawn_sheets import irregular_sheet

import kivel
from program import art, files, in_process, read, write

__all__ = ["again_wrong", "round_wrong"]

Chance = random.Random
Words = Callable[[Chance], str]


def _some(*words: Words) -> Words:
    """Any of these, in any number and order."""
    return lambda chance: " ".join(one(chance) for one in chance.sample(words, chance.randint(0, min(4, len(words)))))


def _number(name: str, low: int, high: int) -> Words:
    return lambda chance: f"--{name} {chance.randint(low, high)}"


def _one(name: str, *values: str) -> Words:
    return lambda chance: f"--{name} {shlex.quote(chance.choice(values))}"


def _flag(name: str) -> Words:
    return lambda _chance: f"--{name}"


_TIMES = (
    _number("fps", 1, 60), _one("hold", "80ms", "2", "1/12s"), _one("repeat", "1", "3", "forever"),
    _one("order", "0-3,2-1", "3-0", "0-4"), _one("direction", "reverse", "alternate"), _one("phase", "1", "25%"),
    _one("event", "1:hoot"), _one("pivot", "bottom", "2,3", "mass"),
)  # fmt: skip
_MAPS = (_one("map", "normal=bump"), _one("compress", "fast", "small"))
_STEPS = (
    "pad 2",
    "trim",
    "anchor mass",
    "fit 20x20",
    "flip x",
    "turn 90",
    "drop 1",
    "reverse",
    "opacity 50%",
    "premultiply",
)
LINES: dict[str, tuple[str, Words, str]] = {
    "sheet": ("sheet owl -o out/s.png", _some(
        *_TIMES, *_MAPS, _number("gap", 0, 4), _number("margin", 0, 3), _number("columns", 1, 6),
        _number("skirt", 0, 2),
        _flag("pow2"), _flag("square"), _one("layout", "row", "column"), _flag("fold"), _one("page-limit", "40x40"),
        _one("make-clip", "a=0-2"), _one("fill", "down"), _one("fit-page", "64x64"), _one("cell", "24x20"),
    ), "out/s.kivel.json"),
    "atlas": ("atlas owl moth -o out/a.png", _some(
        *_TIMES[:3], _number("gap", 0, 4), _flag("turn"), _flag("pow2"), _number("skirt", 0, 2), _one("outline", "6"),
        _one("trim", "none"), _one("compress", "small"),
    ), "out/a.kivel.json"),
    "adopt": ("adopt old.png", _some(
        _one("cell", "12x10"), _one("row-clips", "a"), *_TIMES[:4], _one("names", "o_{number}"),
    ), "old.kivel.json"),
    "slice": ("slice old.png -o out/cut", _some(
        _one("cell", "12x10"), _one("pivot", "bottom"), _one("row-clips", "a"), _one("empty", "keep"),
        _number("fps", 1, 30),
    ), "out/cut/old.kivel.json"),
    "prep": ("prep owl -o out/p --step 'pad 1'", _some(
        *(lambda chance: f"--step {shlex.quote(chance.choice(_STEPS))}" for _ in range(4)), *_MAPS,
    ), "out/p"),
    "resample": ("resample owl -o out/r --count 4", _some(
        _flag("mix"), _one("pace", "ease", "linear"), _flag("one-shot"), *_MAPS,
    ), "out/r"),
    "layer": ("layer owl moth -o out/l", _some(
        _one("until", "longest", "base", "common"), _one("opacity", "50%"), _flag("linear"), _one("compress", "small"),
    ), "out/l"),
    "loop": ("loop owl -o out/o --close 1", _some(*_MAPS, _flag("no-warp")), "out/o"),
}  # fmt: skip


def _sources() -> None:
    for number in range(6):
        write(Path(f"owl/owl_{number}.png"), art(number, width=12, height=10))
        write(Path(f"bump/owl_{number}.png"), art(number + 50, width=12, height=10))
    for number in range(3):
        write(Path(f"moth/moth_{number}.png"), art(number + 20, width=9, height=7))
    write(Path("old.png"), np.hstack([art(number, width=12, height=10) for number in range(5)]))


def again_wrong(command: str, seed: int) -> str | None:
    """Run a random line, and again; return what differs, "" for a line that is refused."""
    chance = random.Random(f"{command} {seed}")
    line, more, target = LINES[command]
    line = f"{line} {more(chance)}"
    with tempfile.TemporaryDirectory() as folder, contextlib.chdir(folder):
        _sources()
        first = in_process(shlex.split(line), Path(folder))
        if first.code:
            return "" if first.code in (1, 2) and "bug" not in first.err else f"{line}: {first.err}"
        before = files(Path(folder))
        done = in_process(["again", target], Path(folder))
        if done.code:
            return f"{line}: again says {done.err}"
        after = files(Path(folder))
    changed = sorted(name for name in {*before, *after} if before.get(name) != after.get(name))
    return f"{line}: {changed}" if changed else None


def round_wrong(seed: int) -> str | None:
    """Take a random sheet apart and make it of its frames; return which pages differ."""
    chance = random.Random(f"round {seed}")
    with tempfile.TemporaryDirectory() as folder, contextlib.chdir(folder):
        how = chance.choice((_random_sheet, _random_sheet, _random_sheet, _irregular))(chance, seed)
        pages = {
            name: read(Path(name)) for name in sorted(os.listdir()) if name.startswith("s") and name.endswith(".png")
        }
        kivel.sheet("cut", out="t.png")
        for name, page in pages.items():
            again = read(Path("t" + name[1:]))
            if again.shape != page.shape or not np.array_equal(again, page):
                return f"{seed}: {how}: {name} differs"
    return None


def _random_sheet(chance: Chance, seed: int) -> str:
    step = chance.choice((1, 2))
    width, height = (2 * chance.randint(2, 8) for _ in range(2))
    depth: Any = chance.choice((np.uint8, np.uint16))
    for number in range(chance.randint(1, 14)):
        write(Path(f"raw/{number}.png"), art(number + seed, width=width, height=height, dtype=depth))
        write(Path(f"n/{number}.png"), art(number + seed + 90, width=width // step, height=height // step))
    skirt = step * chance.randint(0, 2)
    options: dict[str, Any] = {
        "skirt": skirt,
        "gap": step * chance.randint(0, 3),
        "margin": step * chance.randint(0, 2),
    }
    if skirt and chance.random() < 0.5:
        options["skirt_wrap"] = True
    if chance.random() < 0.5:
        options |= (
            {"map": {"normal": "n"}, "map_scale": {"normal": f"1/{step}"}} if step > 1 else {"map": {"normal": "n"}}
        )
    kind = chance.randrange(3)
    if kind == 0:
        options["columns"] = chance.randint(1, 6)
    elif kind == 1:
        options["page_limit"] = f"{3 * (width + 24)}x{2 * (height + 24)}"
    if chance.random() < 0.3:
        options["fill"] = "down"
    kivel.sheet("raw", out="s.png", **options)
    kivel.slice("s.kivel.json", out="cut")
    return str(options)


def _irregular(chance: Chance, seed: int) -> str:
    """Islands, or regions of the same things."""
    write(Path("s.png"), irregular_sheet(seed).image)
    if chance.random() < 0.5:
        kivel.slice("s.png", out="cut", islands=True)
        return "islands"
    kivel.slice("s.png", islands=True, save_regions="r.regions.toml")
    kivel.slice("s.png", out="cut", regions="r.regions.toml")
    return "regions"


def _again(item: tuple[str, int]) -> str | None:
    return again_wrong(*item)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    seeds = range(1000 * options.seed, 1000 * options.seed + options.count)
    names = list(LINES)
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        lines = list(pool.map(_again, [(names[seed % len(names)], seed) for seed in seeds], chunksize=8))
        rounds = list(pool.map(round_wrong, seeds, chunksize=8))
    wrong = [one for one in (*lines, *rounds) if one]
    for one in wrong:
        print(one)
    refused = sum(one == "" for one in lines)
    print(
        f"{len(lines) - refused} lines made again ({refused} refused), {len(rounds)} sheets there and back, "
        f"{len(wrong)} wrong"
    )


if __name__ == "__main__":
    main()
