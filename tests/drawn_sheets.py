"""Sheets of every kind, drawn: each with the grid or the boxes that it was drawn by."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Pixels, Rect
from kivel.core.slicing.lattice import Lattice, Run

__all__ = ["GRIDS", "DrawnSheet", "drawn_sheet", "irregular_sheet", "jittered_row"]

Random = np.random.Generator
MAGENTA = (255, 0, 255)


class DrawnSheet(NamedTuple):
    """A picture, and the grid it was drawn by; `boxes` are those of what was drawn where there is no grid."""

    image: Pixels
    lattice: Lattice | None
    frames: int
    boxes: tuple[Rect, ...] = ()

    @property
    def stated(self) -> dict[str, Any]:
        """The options that state its grid; of one without, that there are islands."""
        if self.lattice is None:
            return {"islands": True}
        across, down = self.lattice.across, self.lattice.down
        counts = {"columns": across.count, "rows": down.count, "cell": f"{across.cell}x{down.cell}"}
        return {**counts, "gap": f"{across.gap}x{down.gap}", "at": f"{across.at},{down.at}"}


def drawn_sheet(kind: str, number: int) -> DrawnSheet:
    """One of many of a kind; the same number draws the same."""
    return GRIDS[kind](np.random.default_rng([number, *kind.encode()]))


def jittered_row(number: int, *, far: int = 4) -> tuple[list[Pixels], NDArray[np.int64]]:
    """The frames of one row, each off by up to `far` pixels either way, and by how many (N, 2)."""
    rng = np.random.default_rng([number, 7])
    figure, w, h, count = _figure(rng), int(rng.integers(24, 72)), int(rng.integers(24, 72)), int(rng.integers(4, 24))
    shifts = rng.integers(-far, far + 1, (count, 2))
    frames = []
    for frame, (x, y) in enumerate(shifts.tolist()):
        canvas = np.zeros((h + 2 * far, w + 2 * far, 4), np.uint8)
        canvas[far + y : far + y + h, far + x : far + x + w] = _pose(figure, w, h, 0.8, frame / count, (0, 0))
        frames.append(canvas)
    return frames, shifts


class _Figure(NamedTuple):
    """Something with a body, limbs and spots, that can be drawn in many poses."""

    body: tuple[float, float]
    parts: list[tuple[float, float, float]]
    colours: NDArray[np.uint8]
    soft: bool


def _figure(rng: Random) -> _Figure:
    parts = [(rng.uniform(0, 6.28), rng.uniform(0.5, 1.0), rng.uniform(0.12, 0.4)) for _ in range(rng.integers(2, 6))]
    colours = rng.integers(20, 250, (len(parts) + 1, 3)).astype(np.uint8)
    return _Figure((rng.uniform(0.35, 0.8), rng.uniform(0.35, 0.9)), parts, colours, bool(rng.random() < 0.4))


def _pose(figure: _Figure, w: int, h: int, fill: float, phase: float, jitter: tuple[float, float]) -> Pixels:
    """The figure in a cell, its parts swung by the phase, in cycles."""
    y, x = np.mgrid[:h, :w] + 0.5
    rx, ry = fill * w / 2, fill * h / 2
    cx, cy = w / 2 + jitter[0], h / 2 + jitter[1]
    image = np.zeros((h, w, 4), np.uint8)
    blobs = [(cx, cy, rx * figure.body[0], ry * figure.body[1])]
    for place, (angle, reach, size) in enumerate(figure.parts):
        swing = angle + 0.5 * np.sin(6.283 * (phase + place / 3))
        blobs.append(
            (cx + rx * (reach - size) * np.cos(swing), cy + ry * (reach - size) * np.sin(swing), rx * size, ry * size)
        )
    for (bx, by, bw, bh), colour in zip(blobs, figure.colours, strict=True):
        distance = np.hypot((x - bx) / max(bw, 0.6), (y - by) / max(bh, 0.6))
        shade = np.clip(1.15 - 0.5 * distance, 0.3, 1)[..., None]
        alpha = np.clip((1.15 - distance) * 4, 0, 1) if figure.soft else (distance <= 1).astype(float)
        drawn = alpha * 255 > image[..., 3]
        image[drawn, :3] = (colour * shade)[drawn].astype(np.uint8)
        image[..., 3] = np.maximum(image[..., 3], (alpha * 255).astype(np.uint8))
    return image


def _tile(rng: Random, w: int, h: int) -> Pixels:
    """An opaque tile: a colour with noise, stripes, bricks or an object on it."""
    base, other = rng.integers(20, 235, (2, 3))
    y, x = np.mgrid[:h, :w]
    kind = rng.integers(0, 4)
    mask = [
        x + y * 0 < -1,
        (x // max(2, w // 4)) % 2 == 0,
        (y // max(2, h // 3)) % 2 == 0,
        (x - w / 2) ** 2 + (y - h / 2) ** 2 < (w / 3) ** 2,
    ][kind]
    image = np.full((h, w, 4), 255, np.uint8)
    values = np.where(mask[..., None], other, base) + rng.normal(0, rng.uniform(0, 14), (h, w, 1))
    image[..., :3] = np.clip(values, 0, 255).astype(np.uint8)
    return image


class _Plan(NamedTuple):
    columns: int
    rows: int
    w: int
    h: int


def _plan(rng: Random, least: int = 12, most: int = 72) -> _Plan:
    w = int(rng.integers(least, most))
    h = w if rng.random() < 0.6 else int(rng.integers(max(least, w // 2), min(most, 2 * w) + 1))
    return _Plan(int(rng.integers(2, 10)), int(rng.integers(1, 7)), w, h)


def _cells(rng: Random, plan: _Plan, frames: int) -> list[Pixels]:
    """One figure moving in each row, or another one in every cell; holes here and there."""
    fill = rng.uniform(0.55, 1.0)
    jitter = rng.uniform(0, 0.08) * min(plan.w, plan.h)
    moving = rng.random() < 0.7
    holes = rng.random() < 0.15
    figure = _figure(rng)
    cells = []
    for number in range(frames):
        row, column = divmod(number, plan.columns)
        if not moving or (column == 0 and row):
            figure = _figure(rng)
        if holes and 0 < number < frames - 1 and rng.random() < 0.15:
            cells.append(np.zeros((plan.h, plan.w, 4), np.uint8))
            continue
        shift = (float(rng.uniform(-jitter, jitter)), float(rng.uniform(-jitter, jitter)))
        cells.append(_pose(figure, plan.w, plan.h, fill, column / plan.columns, shift))
    return cells


def _laid(lattice: Lattice, cells: list[Pixels], width: int, height: int) -> Pixels:
    image = np.zeros((height, width, 4), np.uint8)
    for rect, cell in zip(lattice.cells(), cells, strict=False):
        part = rect.of(image)
        part[:] = cell[: part.shape[0], : part.shape[1]]
    return image


def _short_row(rng: Random, plan: _Plan) -> int:
    """How many frames there are: now and then the last row is short."""
    capacity = plan.columns * plan.rows
    return capacity - (int(rng.integers(1, plan.columns)) if rng.random() < 0.3 and plan.columns > 1 else 0)


def _plain(rng: Random) -> DrawnSheet:
    plan = _plan(rng)
    frames = _short_row(rng, plan)
    lattice = Lattice(Run(plan.columns, Fraction(plan.w)), Run(plan.rows, Fraction(plan.h)))
    image = _laid(lattice, _cells(rng, plan, frames), plan.columns * plan.w, plan.rows * plan.h)
    return DrawnSheet(image, lattice, frames)


def _strip(rng: Random) -> DrawnSheet:
    plan = _plan(rng)._replace(rows=1)
    lattice = Lattice(Run(plan.columns, Fraction(plan.w)), Run(1, Fraction(plan.h)))
    image = _laid(lattice, _cells(rng, plan, plan.columns), plan.columns * plan.w, plan.h)
    return DrawnSheet(image, lattice, plan.columns)


def _tileset(rng: Random) -> DrawnSheet:
    plan = _plan(rng, 12, 40)
    plan = plan._replace(columns=plan.columns + 4, rows=plan.rows + 2)
    frames = plan.columns * plan.rows
    lattice = Lattice(Run(plan.columns, Fraction(plan.w)), Run(plan.rows, Fraction(plan.h)))
    cells = [_tile(rng, plan.w, plan.h) for _ in range(frames)]
    return DrawnSheet(_laid(lattice, cells, plan.columns * plan.w, plan.rows * plan.h), lattice, frames)


def _lines(rng: Random) -> DrawnSheet:
    """Drawn lines of 1 or 2 px, with or without a frame around; some dirty, some missing between empty cells."""
    plan = _plan(rng, 14, 64)
    thick = 2 if rng.random() < 0.2 else 1
    around = thick if rng.random() < 0.85 else 0
    frames = _short_row(rng, plan)
    lattice = Lattice(
        Run(plan.columns, Fraction(plan.w), around, thick), Run(plan.rows, Fraction(plan.h), around, thick)
    )
    width = 2 * around + plan.columns * plan.w + (plan.columns - 1) * thick
    height = 2 * around + plan.rows * plan.h + (plan.rows - 1) * thick
    tiles = rng.random() < 0.3
    cells = [_tile(rng, plan.w, plan.h) for _ in range(frames)] if tiles else _cells(rng, plan, frames)
    image = _laid(lattice, cells, width, height)
    between = np.ones((height, width), bool)
    for number, rect in enumerate(lattice.cells()):
        rect.of(between)[:] = False
        if number >= frames and rng.random() < 0.3:  # around empty cells lines may be missing
            between[rect.y : rect.bottom + thick, rect.x : rect.right + thick] = False
    image[between] = (*rng.integers(0, 256, 3), 255)
    if rng.random() < 0.35:  # dirty: drawn over here and there, or a shade off
        spots = between & (rng.random((height, width)) < rng.uniform(0.02, 0.15))
        image[spots, :3] = rng.integers(0, 256, 3) if rng.random() < 0.5 else np.clip(image[spots, :3] + 9.0, 0, 255)
    return DrawnSheet(image, lattice, frames)


def _padded(rng: Random) -> DrawnSheet:
    """The canvas is larger than the cells: to a power of two, or by a few pixels."""
    plan = _plan(rng)
    frames = _short_row(rng, plan)
    lattice = Lattice(Run(plan.columns, Fraction(plan.w)), Run(plan.rows, Fraction(plan.h)))
    width, height = plan.columns * plan.w, plan.rows * plan.h
    if rng.random() < 0.5:
        width, height = (1 << (length - 1).bit_length() for length in (width, height))
    else:
        width, height = width + int(rng.integers(1, plan.w)), height + int(rng.integers(0, plan.h))
    return DrawnSheet(_laid(lattice, _cells(rng, plan, frames), width, height), lattice, frames)


def _fractional(rng: Random) -> DrawnSheet:
    plan = _plan(rng, 14, 60)
    plan = plan._replace(columns=max(2, plan.columns))
    width = plan.columns * plan.w + int(rng.integers(1, plan.columns))
    lattice = Lattice(Run(plan.columns, Fraction(width, plan.columns)), Run(plan.rows, Fraction(plan.h)))
    cells = _cells(rng, plan, plan.columns * plan.rows)
    image = np.zeros((plan.rows * plan.h, width, 4), np.uint8)
    for rect, cell in zip(lattice.cells(), cells, strict=True):
        image[rect.y : rect.bottom, rect.x : rect.x + plan.w] = cell[:, : rect.w]
    return DrawnSheet(image, lattice, len(cells))


def _keyed(rng: Random) -> DrawnSheet:
    """Opaque, on a colour that stands for nothing."""
    sheet = _plain(rng)
    image = sheet.image.copy()
    key = MAGENTA if rng.random() < 0.6 else (0, 0, 0)
    image[image[..., 3] < 128] = (*key, 255)
    image[..., 3] = 255
    return sheet._replace(image=image)


def _spaced(rng: Random) -> DrawnSheet:
    plan = _plan(rng)
    at, gap = int(rng.integers(0, 3)), int(rng.integers(1, 3))
    frames = _short_row(rng, plan)
    lattice = Lattice(Run(plan.columns, Fraction(plan.w), at, gap), Run(plan.rows, Fraction(plan.h), at, gap))
    width = 2 * at + plan.columns * plan.w + (plan.columns - 1) * gap
    height = 2 * at + plan.rows * plan.h + (plan.rows - 1) * gap
    return DrawnSheet(_laid(lattice, _cells(rng, plan, frames), width, height), lattice, frames)


def _single(rng: Random) -> DrawnSheet:
    w, h = rng.integers(20, 160, 2).tolist()
    image = _pose(_figure(rng), w, h, rng.uniform(0.8, 1.1), rng.random(), (0.0, 0.0))
    return DrawnSheet(image, Lattice(Run(1, Fraction(w)), Run(1, Fraction(h))), 1)


def irregular_sheet(number: int, *, gap: int = 1) -> DrawnSheet:
    """Things of many sizes laid out by hand in rough rows, at least `gap` empty pixels apart."""
    rng = np.random.default_rng([number, 77])
    rows: list[tuple[int, list[tuple[Pixels, int, int]]]] = []
    y = int(rng.integers(0, 8))
    width = 0
    for _ in range(rng.integers(2, 6)):
        tallest, x, things = int(rng.integers(16, 64)), int(rng.integers(0, 8)), []
        for place in range(rng.integers(2, 9)):
            h = tallest if place == 0 else int(rng.integers(max(8, tallest * 3 // 5), tallest + 1))
            w = int(rng.integers(8, 64))
            thing = _solid(_pose(_figure(rng)._replace(soft=False), w, h, 1.0, rng.random(), (0.0, 0.0)))
            things.append((thing, x, y + int(rng.integers(0, tallest - thing.shape[0] + 1))))
            x += thing.shape[1] + gap + int(rng.integers(0, 12))
        rows.append((tallest, things))
        width = max(width, x)
        y += tallest + gap + int(rng.integers(0, 8))
    image = np.zeros((y, width, 4), np.uint8)
    boxes = []
    for _, things in rows:
        for thing, left, top in things:
            box = Rect(left, top, thing.shape[1], thing.shape[0])
            box.of(image)[:] = thing
            boxes.append(box)
    return DrawnSheet(image, None, len(boxes), tuple(boxes))


def _solid(thing: Pixels) -> Pixels:
    """Its largest part, cut to its box, so that it is one island."""
    from scipy import ndimage

    labels, _ = ndimage.label(thing[..., 3] > 0, structure=np.ones((3, 3), int))
    largest = int(np.bincount(labels.ravel())[1:].argmax()) + 1
    thing = np.where((labels == largest)[..., None], thing, 0).astype(np.uint8)
    place: Any = ndimage.find_objects((labels == largest).astype(int))[0]
    cut: Pixels = thing[place]
    return cut


GRIDS: dict[str, Callable[[Random], DrawnSheet]] = {
    "plain": _plain,
    "strip": _strip,
    "tileset": _tileset,
    "lines": _lines,
    "padded": _padded,
    "fractional": _fractional,
    "keyed": _keyed,
    "spaced": _spaced,
    "single": _single,
}
