"""How well pictures are taken apart from their pixels alone: `python benchmarks/slicing.py FOLDER truth.json`.

`truth.json` lists sheets in FOLDER, [{"path", "kind", "columns", "rows", "cell", "margin", "gap"}, ...]: the last three
are two numbers each, of cells perhaps parts of pixels; 0 columns where there are several grids. Beside finding their
grids it makes irregular pages of their frames, for islands and their order, and rows that jitter, for steadying.
Seconds are of one processor.
"""

from __future__ import annotations

import argparse
import itertools
import json
import time
import zlib
from collections import defaultdict
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction
from functools import partial
from multiprocessing import get_context
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Pixels, Rect, opaque_bounds
from kivel.core.slicing.background import SEEN, without_key
from kivel.core.slicing.islands import found_islands
from kivel.core.slicing.lattice import Lattice, Run
from kivel.core.slicing.looking import SURE, PictureLook, look_at
from kivel.core.steadying import steady_shifts
from kivel.files.images import open_image

LIMIT = 1 << 28
SEEN_8 = int(SEEN * 255)
JITTER = 4
ALIKE = 0.05
UNLIKE = 0.3
"""How far the sizes on an irregular page are apart: the frames of one movement, side by side, are a sheet."""
LARGE = 5_000_000
MOVING = ("plain", "strip", "padded")
"""Kinds of sheets whose rows may be movements; others hold tiles and lists of things."""


class SheetResult(NamedTuple):
    """One sheet: the place of the true grid among those found, from 0, and what else the table asks for."""

    path: str
    kind: str
    place: int
    partition: bool
    confidence: float
    as_islands: bool
    lines: bool
    seconds: float
    pixels: int
    page: PageResult | None
    off: tuple[float, ...]

    @property
    def game(self) -> str:
        return self.path.split("/")[0]


class PageResult(NamedTuple):
    """An irregular page made of a sheet's frames."""

    as_islands: bool
    boxes: float
    ordered: bool


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("truth", type=Path)
    parser.add_argument("--jobs", type=int, default=2)
    options = parser.parse_args()
    sheets = [sheet for sheet in json.loads(options.truth.read_text()) if (options.folder / sheet["path"]).is_file()]
    with ProcessPoolExecutor(options.jobs, mp_context=get_context("spawn")) as pool:
        results = list(pool.map(partial(measured, options.folder), sheets, chunksize=4))
    print_bars(results)
    for name, key in (("kind", lambda one: one.kind), ("game", lambda one: one.game)):
        print_by(name, key, results)


def measured(folder: Path, sheet: dict[str, Any]) -> SheetResult:
    image = open_image(folder / sheet["path"], max_pixels=LIMIT)[0].load()
    start = time.process_time()
    look = look_at(image)
    seconds = time.process_time() - start
    truth = lattice_of(sheet) if sheet["columns"] else None
    found = [one.lattice for one in look.found]
    first = look.found[0]
    place = next((n for n, one in enumerate(found) if truth and one and is_same(one, truth)), len(found))
    alike = bool(truth and found[0] and parts_alike(found[0], truth, look.drawn.seen))
    frames = frames_of(without_key(image, look.drawn.key), truth) if truth and not look.drawn.is_full else []
    rng = np.random.default_rng(zlib.crc32(sheet["path"].encode()))
    return SheetResult(
        sheet["path"], sheet["kind"], place, alike, first.confidence, first.kind == "islands", first.kind == "lines",
        seconds, image.shape[0] * image.shape[1], page_result(frames, rng),
        jitter_result(frames, truth, rng) if sheet["kind"] in MOVING else (),
    )  # fmt: skip


def lattice_of(sheet: dict[str, Any]) -> Lattice:
    counts = (sheet["columns"], sheet["rows"])
    cells = (Fraction(length).limit_denominator(1000) for length in sheet["cell"])
    across, down = map(Run, counts, cells, sheet["margin"], sheet["gap"])
    return Lattice(across, down)


def is_same(found: Lattice, truth: Lattice) -> bool:
    return all(
        a.count == b.count
        and abs(a.cell - b.cell) < Fraction(1, 50)
        and a.at == b.at
        and (a.count == 1 or a.gap == b.gap)
        for a, b in ((found.across, truth.across), (found.down, truth.down))
    )


def parts_alike(found: Lattice, truth: Lattice, seen: NDArray[np.bool_]) -> bool:
    """Whether every two drawn pixels are in one cell of both or of neither."""
    pairs = np.unique(np.stack([cells_of(one, seen) for one in (found, truth)], axis=1), axis=0)
    return all(len(np.unique(column)) == len(pairs) for column in pairs.T)


def cells_of(lattice: Lattice, seen: NDArray[np.bool_]) -> NDArray[np.int64]:
    """The number of the cell of every drawn pixel, below 0 outside."""
    axes = []
    for run, length in ((lattice.down, seen.shape[0]), (lattice.across, seen.shape[1])):
        numbers = np.full(length, -1, np.int64)
        for number, (start, end) in enumerate(zip(*run.edges(), strict=True)):
            numbers[max(0, start) : end] = number
        axes.append(numbers)
    rows, columns = np.nonzero(seen)
    down, across = axes[0][rows], axes[1][columns]
    return np.where((down < 0) | (across < 0), -1, down * (1 << 20) + across)


def frames_of(image: Pixels, lattice: Lattice) -> list[tuple[int, Pixels]]:
    """The row and the pixels of every cell on which something is drawn."""
    cells = zip(lattice.places(), lattice.cells(), strict=True)
    parts = [(row, cell.of(image)) for (row, _), cell in cells]
    return [(row, part) for row, part in parts if part.size and (part[..., 3] >= SEEN_8).any()]


def page_result(frames: list[tuple[int, Pixels]], rng: np.random.Generator) -> PageResult | None:
    """Up to forty of the frames, each as one island, cut at random, in rows with gaps of one to three pixels."""
    islands = [one_island(frame, rng) for _, frame in frames]
    parts = [island for island in islands if island is not None and min(island.shape[:2]) >= 4]
    areas = [part.shape[0] * part.shape[1] for part in parts]
    if len(parts) < 8 or np.std(np.log(areas)) < UNLIKE:
        return None
    chosen = [parts[index] for index in rng.permutation(len(parts))[:40]]
    gap, width = int(rng.integers(1, 4)), max(part.shape[1] for part in chosen) * int(rng.integers(3, 7))
    boxes: list[Rect] = []
    x = y = height = 0
    for part in chosen:
        h, w = part.shape[:2]
        if x + w > width:
            x, y, height = 0, y + height + gap, 0
        boxes.append(Rect(x, y, w, h))
        x, height = x + w + gap + int(rng.integers(0, 6)), max(height, h)
    page = np.zeros((y + height, width, 4), chosen[0].dtype)
    for part, box in zip(chosen, boxes, strict=True):
        box.of(page)[...] = part
    look = look_at(page)
    found = look.islands.boxes
    exact = len(set(found) & set(boxes)) / max(len(found), len(boxes))
    return PageResult(look.found[0].kind == "islands", exact, ordered(look, boxes))


def one_island(frame: Pixels, rng: np.random.Generator) -> Pixels | None:
    """The largest thing of a frame that hangs together, half of them cut off below."""
    islands = found_islands(frame[..., 3] >= SEEN_8)
    largest = int(np.argmax(islands.areas))
    kept = np.where((islands.labels == largest + 1)[..., None], frame, 0)
    part = islands.boxes[largest].of(kept)
    if rng.random() < 0.5:
        part = part[: max(4, int(part.shape[0] * rng.uniform(0.5, 1)))]
    again = found_islands(part[..., 3] >= SEEN_8)
    if len(again.boxes) != 1:
        return None
    box = opaque_bounds(part, threshold=SEEN_8 - 1)
    return box.of(part) if box else None


def ordered(look: PictureLook, boxes: list[Rect]) -> bool:
    """Whether those that have the boxes that were drawn come in the order in which they were."""
    known = [box for box in look.islands.boxes if box in boxes]
    return known == [box for box in boxes if box in known]


def jitter_result(
    frames: list[tuple[int, Pixels]], truth: Lattice | None, rng: np.random.Generator
) -> tuple[float, ...]:
    """How far the frames of up to two rows that move are off once they jittered and were steadied."""
    if truth is None or not truth.is_whole or not 16 <= min(truth.canvas) <= max(truth.canvas) <= 256:
        return ()
    off: list[float] = []
    for number in sorted({row for row, _ in frames}):
        row = [frame for each, frame in frames if each == number and frame.shape[:2] == truth.canvas[::-1]][:24]
        if len(row) < 4 or not is_a_movement(row) or len(off) > 48:
            continue
        shifts = rng.integers(-JITTER, JITTER + 1, (len(row), 2))
        moved = [shifted(frame, *shift) for frame, shift in zip(row, shifts.tolist(), strict=True)]
        left = steady_shifts(moved) + shifts
        off += np.abs(left - np.median(left, axis=0)).max(axis=1).tolist()
    return tuple(off)


def is_a_movement(row: list[Pixels]) -> bool:
    """Whether neighbours have something in common: a row may be a list of other things."""
    shares = []
    for before, frame in itertools.pairwise(row):
        seen = before[..., 3] >= SEEN_8
        shares.append(np.mean((before == frame).all(axis=-1)[seen]) if seen.any() else 0)
    return bool(np.mean(shares) > ALIKE)


def shifted(frame: Pixels, x: int, y: int) -> Pixels:
    return np.pad(frame, ((JITTER + y, JITTER - y), (JITTER + x, JITTER - x), (0, 0)))


def average(values: Iterable[float]) -> float:
    known = [float(value) for value in values]
    return sum(known) / len(known) if known else float("nan")


def share(values: Iterable[float]) -> str:
    known = [float(value) for value in values]
    return f"{np.mean(known):.3f} of {len(known)}" if known else "none"


def print_bars(results: list[SheetResult]) -> None:
    grids = [one for one in results if one.kind != "several grids"]
    plain = [one for one in grids if one.kind == "plain"]
    sure = [one for one in grids if one.confidence >= SURE]
    pages = [one.page for one in results if one.page]
    off = [value for one in results for value in one.off]
    seconds = np.array([one.seconds for one in results])
    large = [one.seconds for one in results if one.pixels >= LARGE]
    times = (np.median(seconds), np.percentile(seconds, 95), seconds.max())
    rows = {
        "plain: first": share(one.place == 0 for one in plain),
        "plain: among three": share(one.place < 3 for one in plain),
        "lines found": share(one.lines for one in results if one.kind == "lines"),
        "lines where none are": share(one.lines for one in grids if one.kind != "lines"),
        "all: first": share(one.place == 0 for one in grids),
        "all: among three": share(one.place < 3 for one in grids),
        "all: same partition": share(one.partition for one in grids),
        f"confidence >= {SURE}": share(one.confidence >= SURE for one in grids),
        "of those: same partition": share(one.partition for one in sure),
        "islands: exact boxes": share(page.boxes for page in pages),
        "islands: order": share(page.ordered for page in pages),
        "grids taken as grids": share(not one.as_islands for one in grids),
        "irregular as islands": share(page.as_islands for page in pages),
        "steadied: exact": share(value == 0 for value in off),
        "steadied: within 1 px": share(value <= 1 for value in off),
        "seconds: median, p95, most":  ", ".join(f"{each:.3f}" for each in times),
        f"seconds from {LARGE // 1_000_000} MP on: most": f"{max(large):.2f} of {len(large)}" if large else "none",
    }  # fmt: skip
    for name, value in rows.items():
        print(f"{name:28} {value}")


def print_by(name: str, key: Callable[[SheetResult], str], results: list[SheetResult]) -> None:
    groups = defaultdict(list)
    for one in results:
        groups[key(one)].append(one)
    print(f"\n{name:22} sheets  first  three  partition  sure   right  seconds")
    for group, ones in sorted(groups.items()):
        sure = [one.partition for one in ones if one.confidence >= SURE]
        figures = [
            average(one.place == 0 for one in ones), average(one.place < 3 for one in ones),
            average(one.partition for one in ones), len(sure) / len(ones), average(sure),
            float(np.median([one.seconds for one in ones])),
        ]  # fmt: skip
        print(f"{group:22} {len(ones):6}  " + "  ".join(f"{figure:5.3f}" for figure in figures))


if __name__ == "__main__":
    main()
