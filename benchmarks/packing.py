"""Measure the packer on families of rectangles, against their area: `python benchmarks/packing.py`.

Every packing is painted into a bitmap: each piece there once, inside, none over another. Gaps are medians over
instances that the packer was not tuned on; seconds are medians too, and differ from machine to machine.
"""

from __future__ import annotations

import argparse
import random
import time
from collections.abc import Callable, Sequence
from statistics import median
from typing import NamedTuple

import numpy as np

from kivel.core.layout.packing import EFFORTS, packed, packed_into
from kivel.core.layout.packing_search import Packing
from kivel.core.option_words import Effort
from kivel.core.pixels.pixels import Size

_INSTANCES = {"cuts, 100": 21, "cuts, 200": 21}
"""Few pieces: what is reached differs by a factor of three from one instance to the next."""

Family = Callable[[int, int], list[Size]]


class Bar(NamedTuple):
    """The largest gap in percent, without turning and with."""

    plain: float
    turned: float


def cut(count: int, seed: int, *, page: Size | None = None) -> list[Size]:
    """A rectangle cut through from side to side, again and again: nothing is wasted."""
    chance = random.Random(f"cut {count} {seed}")
    pieces = [tuple(page) if page else (chance.randint(700, 1300), chance.randint(700, 1300))]
    while len(pieces) < count:
        index = max(chance.sample(range(len(pieces)), min(4, len(pieces))), key=lambda i: pieces[i][0] * pieces[i][1])
        w, h = pieces[index]
        across = chance.random() < w / (w + h)
        length = w if across else h
        if length >= 8:
            at = chance.randint(max(2, length // 5), length - max(2, length // 5))
            pieces[index] = (at, h) if across else (w, at)
            pieces.append((w - at, h) if across else (w, h - at))
    chance.shuffle(pieces)
    return [Size(*piece) for piece in pieces]


def figures(count: int, seed: int) -> list[Size]:
    """Trimmed frames of figures: runs of 25 that differ a little, of many statures."""
    chance = random.Random(f"figures {seed}")
    sizes: list[Size] = []
    while len(sizes) < count:
        w, h = chance.uniform(30, 90), chance.uniform(50, 130)
        sizes += [
            Size(max(4, round(chance.gauss(w, w * 0.18))), max(4, round(chance.gauss(h, h * 0.12)))) for _ in range(25)
        ]
    return sizes[:count]


def mixed(count: int, seed: int) -> list[Size]:
    """Sprites of 8 to 200 px, small ones more often than large ones."""
    chance = random.Random(f"mixed {seed}")
    return [Size(round(8 * 25 ** chance.random()), round(8 * 25 ** chance.random())) for _ in range(count)]


CASES: dict[str, tuple[Family, int, dict[Effort, Bar]]] = {
    "cuts, 100": (cut, 100, {"normal": Bar(2.7, 1.7), "high": Bar(2.2, 1.2)}),
    "cuts, 200": (cut, 200, {"normal": Bar(2.2, 1.1), "high": Bar(1.8, 0.9)}),
    "cuts, 1,000": (cut, 1000, {"normal": Bar(0.5, 0.3), "high": Bar(0.4, 0.25)}),
    "figures, 500": (figures, 500, {"normal": Bar(1.8, 1.1), "high": Bar(1.5, 0.9)}),
    "figures, 2,000": (figures, 2000, {"normal": Bar(0.8, 0.5), "high": Bar(0.6, 0.4)}),
    "mixed, 10,000": (mixed, 10_000, {"normal": Bar(0.4, 0.4), "high": Bar(0.2, 0.2)}),
}


def check(pieces: Sequence[Size], packing: Packing, *, turn: bool) -> None:
    painted = np.zeros((packing.size.h, packing.size.w), np.uint8)
    for size, place in zip(pieces, packing.places, strict=True):
        w, h = (size.h, size.w) if place.turned else size
        part = painted[place.y : place.y + h, place.x : place.x + w]
        if part.shape != (h, w) or part.any() or (place.turned and not turn):
            raise SystemExit(f"a wrong packing: {size} at {place}")
        part[...] = 1


def gap_case(name: str, effort: Effort, instances: int) -> None:
    family, count, bars = CASES[name]
    for turn in (False, True):
        gaps, seconds = [], []
        for seed in range(instances):
            pieces = family(count, 1000 + seed)
            start = time.perf_counter()
            packing = packed(pieces, turn=turn, effort=effort)
            seconds.append(time.perf_counter() - start)
            if packing is None:
                raise SystemExit(f"{name}: no packing")
            check(pieces, packing, turn=turn)
            gaps.append(100 * (packing.size.w * packing.size.h / sum(w * h for w, h in pieces) - 1))
        bar = None if effort not in bars else bars[effort].turned if turn else bars[effort].plain
        held = "" if bar is None else f"bar {bar:4} {'held' if median(gaps) <= bar else 'MISSED'}"
        each = ", ".join(f"{gap:.2f}" for gap in gaps)
        print(f"{name:16} {effort:7} {'turned' if turn else 'plain':7} {median(gaps):5.2f} %  {held:16} ({each})"
              f"  {median(seconds):.1f} s", flush=True)  # fmt: skip


def plain_shelf(pieces: Sequence[Size], width: int) -> int:
    """The height of first-fit shelves of falling height."""
    shelves: list[list[int]] = []
    for w, h in sorted(pieces, key=lambda size: (-size.h, -size.w)):
        shelf = next((shelf for shelf in shelves if shelf[0] + w <= width), None)
        if shelf is None:
            shelves.append([w, h])
        else:
            shelf[0] += w
    return sum(height for _, height in shelves)


def plain_skyline(pieces: Sequence[Size], width: int) -> int:
    """The height when each piece of falling height goes where its top is lowest, leftmost of those."""
    heights = np.zeros(width, np.int64)
    for w, h in sorted(pieces, key=lambda size: (-size.h, -size.w)):
        under = np.lib.stride_tricks.sliding_window_view(heights, w).max(axis=1)
        x = int(under.argmin())
        heights[x : x + w] = under[x] + h
    return int(heights.max())


def plain_best_fit(pieces: Sequence[Size], width: int) -> int:
    """The height when the lowest gap takes the widest piece that fits, the higher of equal ones."""
    heights = np.zeros(width, np.int64)
    left = sorted(pieces, key=lambda size: (size.w, size.h))
    while left:
        low = int(heights.min())
        start = int(heights.argmin())
        higher = np.flatnonzero(heights[start:] > low)
        end = start + int(higher[0]) if higher.size else width
        fitting = [index for index, size in enumerate(left) if size.w <= end - start]
        if fitting:
            w, h = left.pop(fitting[-1])
            heights[start : start + w] += h
        else:
            walls = [int(heights[at]) for at in (start - 1, end) if 0 <= at < width]
            heights[start:end] = min(walls)
    return int(heights.max())


PLAIN = {"shelf": plain_shelf, "skyline": plain_skyline, "best-fit": plain_best_fit}
ADVERSARIES = {
    "all equal": [Size(8, 6)] * 96,
    "equal, of a prime number": [Size(13, 7)] * 97,
    "one huge, 5,000 tiny": [Size(900, 700), *[Size(5, 4)] * 5000],
    "slivers lying": [Size(length, 1) for length in range(1, 200)],
    "slivers standing": [Size(1, length) for length in range(1, 200)],
    "slivers of both ways": [size for n in range(1, 120) for size in (Size(n, 1), Size(1, n))],
    "squares of every side": [Size(side, side) for side in range(1, 48)],
}


def floor_case(effort: Effort) -> None:
    """Against the plain ways, each at its best of 40 widths; turning not allowed."""
    families = {
        f"{name}, {seed}": CASES[name][0](CASES[name][1], 3000 + seed) for name in list(CASES)[:4] for seed in (0, 1)
    }
    for name, pieces in {**ADVERSARIES, **families}.items():
        packing = packed(pieces, effort=effort)
        if packing is None:
            raise SystemExit(f"{name}: no packing")
        check(pieces, packing, turn=False)
        ours = packing.size.w * packing.size.h
        root = sum(w * h for w, h in pieces) ** 0.5
        first = max(max(w for w, _ in pieces), int(root / 1.4))
        widths = sorted({first + step * max(1, int(root * 1.4) - first) // 39 for step in range(40)})
        areas = {plain: min(width * height(pieces, width) for width in widths) for plain, height in PLAIN.items()}
        below = [plain for plain, area in areas.items() if area < ours]
        more = ", ".join(f"{plain} {100 * (area / ours - 1):+.2f} %" for plain, area in areas.items())
        print(f"floor: {name:26} {'WORSE than ' + ', '.join(below) if below else 'held':8} ({more})", flush=True)


def page_case(count: int, full: float, instances: int) -> None:
    """A power-of-two page that is known to hold them."""
    page = Size(1024, 1024)
    for turn in (False, True):
        found = 0
        for seed in range(instances):
            pieces = cut(round(count / full), 2000 + seed, page=page)
            while sum(w * h for w, h in pieces) > full * page.w * page.h:
                pieces.pop()
            packing = packed_into(pieces, page, turn=turn)
            if packing:
                check(pieces, packing, turn=turn)
                found += 1
        print(
            f"page {full:.0%} full, {count:5} {'turned' if turn else 'plain':7} found {found} of {instances}",
            flush=True,
        )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument(
        "--instances",
        type=int,
        metavar="N",
        help="of each family (default: 5; of cuts below 500 pieces, which differ most, 21)",
    )
    parser.add_argument("--effort", choices=EFFORTS, action="append", help="default: normal and high")
    args = parser.parse_args()
    efforts: list[Effort] = args.effort or ["normal", "high"]
    for effort in efforts:
        for name in CASES:
            gap_case(name, effort, args.instances or _INSTANCES.get(name, 5))
    gap_case("mixed, 10,000", "quick", args.instances or 5)
    floor_case("normal")
    for count in (300, 1000):
        for full in (0.97, 0.98):
            page_case(count, full, args.instances or 5)


if __name__ == "__main__":
    main()
