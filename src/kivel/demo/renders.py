"""The rendered art: a bursting spore cap, smoke, a weather vane on a turntable, and two tiles."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

__all__ = ["SMOKE_FRAMES", "SPORE_FRAMES", "VANE_FRAMES", "moss_tile", "smoke", "spore", "swell_tile", "vane"]

Image = NDArray[np.uint8]
Floats = NDArray[np.float64]

SPORE_FRAMES = 40
SPORE_PX = 160
SMOKE_FRAMES = 64
SMOKE_PX = 128
VANE_FRAMES = 120
VANE_PX = 128
TILE_PX = 128

_SEED = 20_431
_SUPERSAMPLE = 2
_PUFFS = 900


def spore(frame: int) -> Image:
    """160x160, grey on black: a cap swells, bursts at a fifth of the way, and the spores drift apart."""
    rng = np.random.default_rng(_SEED)
    angle = rng.uniform(0, 2 * math.pi, _PUFFS)
    speed = rng.gamma(3, 0.33, _PUFFS)
    curl = rng.normal(0, 0.9, _PUFFS)
    glow = rng.uniform(0.3, 1, _PUFFS)
    time = frame / (SPORE_FRAMES - 1)
    age = max(0.0, time - 0.2) / 0.8
    radius = 6 + 62 * speed * (1 - (1 - age) ** 2.2)
    turn = angle + curl * age
    x = SPORE_PX / 2 + radius * np.cos(turn)
    y = SPORE_PX / 2 + radius * np.sin(turn) * 0.92 + 10 * age * age
    weight = glow * (1 - age) ** 1.3
    fine = _splatted(x, y, weight * (age > 0), 1.1 + 2.5 * age, SPORE_PX)
    cloud = _splatted(x, y, weight * (age > 0), 5 + 6 * age, SPORE_PX)
    centres = np.arange(SPORE_PX) + 0.5 - SPORE_PX / 2
    distance = np.hypot(centres[None, :], centres[:, None])
    swell = 10 + 34 * min(1.0, time / 0.2)
    cap = np.clip((swell - distance) / 6, 0, 1) * (0.45 + 0.3 * np.cos(distance / 5)) * max(0.0, 1 - age * 6)
    light = 1 - np.exp(-(6 * fine + 9 * cloud + 1.4 * cap))
    grey = np.rint(255 * light).astype(np.uint8)
    return np.dstack((grey, grey, grey, np.full_like(grey, 255)))


def smoke(frame: int) -> Image:
    """128x128, soft alpha, a loop: smoke curls up from a smudge pot, lit by that and from the left."""
    rng = np.random.default_rng(_SEED + 1)
    born = rng.uniform(0, SMOKE_FRAMES, _PUFFS)
    life = rng.uniform(26, 46, _PUFFS)
    spread, curl = rng.normal(0, 1, (2, _PUFFS))
    turn = rng.uniform(0, 2 * math.pi, _PUFFS)
    age = ((frame - born) % SMOKE_FRAMES) / life
    alive = age < 1
    age = np.minimum(age, 1)
    rise = 104 * (1 - (1 - age) ** 1.5)
    sway = 9 * np.sin(rise / 15 - 2 * math.pi * frame / SMOKE_FRAMES) * age
    x = SMOKE_PX / 2 + spread * (3 + 9 * age) + sway + 5 * age * np.sin(turn + 7 * age)
    y = SMOKE_PX - 14 - rise + 4 * age * curl
    density = np.zeros((SMOKE_PX, SMOKE_PX))
    for stage in range(4):
        weight = alive * (age >= stage / 4) * (age < (stage + 1) / 4) * (1 - age) ** 0.8
        density += _splatted(x, y, weight, 3 + 1.3 * stage, SMOKE_PX)
    alpha = 1 - np.exp(-9 * density)
    down, across = np.gradient(density)
    lit = np.clip(0.5 + 9 * across + 5 * down, 0.14, 0.95)
    warm = np.exp(-(((SMOKE_PX - 14 - np.arange(SMOKE_PX)) / 26) ** 2))[:, None]
    tints = ((1.0, 0.9), (0.93, 0.42), (0.98, 0.12))
    colours = [np.clip(lit * tint + warm * glow * 0.8, 0, 1) * 255 * (alpha > 0.5 / 255) for tint, glow in tints]
    image: Image = np.rint(np.dstack((*colours, alpha * 255))).astype(np.uint8)
    return image


def _splatted(x: Floats, y: Floats, weight: Floats, blur_px: float, side: int) -> Floats:
    """Points as round soft spots: counted into pixels, then blurred along both axes."""
    column, row = np.floor(x).astype(int), np.floor(y).astype(int)
    inside = (column >= 0) & (column < side) & (row >= 0) & (row < side)
    flat = row[inside] * side + column[inside]
    density = np.bincount(flat, weight[inside], side * side).reshape(side, side)
    offsets = np.arange(side)
    kernel = np.exp(-(((offsets[:, None] - offsets) / blur_px) ** 2) / 2)
    kernel /= blur_px * math.sqrt(2 * math.pi)
    blurred: Floats = np.einsum("ij,jk,lk->il", kernel, density, kernel, optimize=True)
    return blurred


def vane(frame: int) -> tuple[Image, Image]:
    """128x128: colour with soft alpha, and the normals of what is seen, of a vane turned by 3 degrees a frame."""
    points, normals, tones = _VANE
    turn = 2 * math.pi * frame / VANE_FRAMES
    spin = np.array([[math.cos(turn), 0, math.sin(turn)], [0, 1, 0], [-math.sin(turn), 0, math.cos(turn)]])
    tilt = 0.28
    look = np.array([[1, 0, 0], [0, math.cos(tilt), -math.sin(tilt)], [0, math.sin(tilt), math.cos(tilt)]])
    view = look @ spin
    right, up, near = view @ points.T
    side = VANE_PX * _SUPERSAMPLE
    column = ((right * 0.42 + 0.5) * side).astype(int)
    row = ((0.5 - up * 0.42) * side).astype(int)
    nearest = _nearest(row * side + column, near, side * side)
    hit = np.flatnonzero(nearest >= 0)
    chosen = nearest[hit]
    facing = normals[chosen] @ view.T
    light = np.clip(facing @ np.array([-0.45, 0.6, 0.66]), 0, 1)
    pixels, cover, colour, normal = _averaged(hit, tones[chosen] * (0.3 + 0.75 * light[:, None]), facing)
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    # both sides of the plate, seen edge on, cancel out: such a pixel faces the eye, like the ground
    unit = np.where(length > 0, normal / np.maximum(length, 1e-9), (0.0, 0.0, 1.0))
    opaque = np.full(len(pixels), 255.0)
    return (
        _laid(pixels, np.column_stack((np.clip(colour, 0, 255), cover * 255)), (0, 0, 0, 0)),
        _laid(pixels, np.column_stack((unit * 127.5 + 127.5, opaque)), (128, 128, 255, 255)),
    )


def _laid(pixels: NDArray[np.int_], values: Floats, ground: tuple[int, int, int, int]) -> Image:
    image = np.full((VANE_PX * VANE_PX, 4), ground, np.uint8)
    image[pixels] = np.rint(values)
    return image.reshape(VANE_PX, VANE_PX, 4)


def _nearest(samples: NDArray[np.int_], depth: Floats, count: int) -> NDArray[np.int_]:
    """For each sample the number of the point that is seen there, the last of equally near ones; -1 for none."""
    front = np.full(count, -np.inf)
    np.maximum.at(front, samples, depth)
    seen = np.flatnonzero(depth == front[samples])
    nearest = np.full(count, -1)
    nearest[samples[seen]] = seen
    return nearest


def _averaged(hit: NDArray[np.int_], *values: Floats) -> tuple[NDArray[np.int_], Floats, Floats, Floats]:
    """The pixels with samples that hit something, the share that did, and the mean of each of `values` over those."""
    row, column = np.divmod(hit, VANE_PX * _SUPERSAMPLE)
    pixels, place = np.unique((row // _SUPERSAMPLE) * VANE_PX + column // _SUPERSAMPLE, return_inverse=True)
    samples = np.zeros((_SUPERSAMPLE, _SUPERSAMPLE, len(pixels), 7))
    samples[row % _SUPERSAMPLE, column % _SUPERSAMPLE, place] = np.column_stack((*values, np.ones(len(hit))))
    total = (samples[0, 0] + samples[0, 1]) + (samples[1, 0] + samples[1, 1])
    count = total[:, 6]
    return pixels, count / _SUPERSAMPLE**2, total[:, :3] / count[:, None], total[:, 3:6] / count[:, None]


Cloud = tuple[Floats, Floats, Floats]
"""Points (n, 3), x right, y up, z towards the eye; unit normals (n, 3); colours (n, 3) from 0 to 255."""


def _tube(start: Floats, end: Floats, first: float, last: float, tone: tuple[int, int, int]) -> Cloud:
    """The skin of a tube or cone between two points."""
    axis = (end - start) / np.linalg.norm(end - start)
    across = np.cross(axis, [0.0, 0.0, 1.0] if abs(axis[2]) < 0.9 else [1.0, 0.0, 0.0])
    across /= np.linalg.norm(across)
    other = np.cross(axis, across)
    along, angle = np.meshgrid(np.linspace(0, 1, 260), np.linspace(0, 2 * math.pi, 44, endpoint=False))
    along, angle = along.ravel()[:, None], angle.ravel()[:, None]
    normals = np.cos(angle) * across + np.sin(angle) * other
    points = start + along * (end - start) + normals * (first + (last - first) * along)
    return points, normals, np.broadcast_to(np.array(tone, float), points.shape)


def _ball(centre: tuple[float, float, float], radius: float, tone: tuple[int, int, int]) -> Cloud:
    index = np.arange(3000) + 0.5
    height = 1 - 2 * index / 3000
    angle = math.pi * (1 + math.sqrt(5)) * index
    ring = np.sqrt(1 - height**2)
    normals = np.stack((np.cos(angle) * ring, height, np.sin(angle) * ring), axis=1)
    return np.array(centre) + radius * normals, normals, np.broadcast_to(np.array(tone, float), normals.shape)


def _moth_plate(tone: tuple[int, int, int]) -> Cloud:
    """The tail: a moth cut from sheet metal, seen from both sides."""
    x, y = (axis.ravel() for axis in np.meshgrid(np.linspace(-1.05, -0.3, 300), np.linspace(0.05, 0.75, 280)))
    wing = (((x + 0.72) / 0.3) ** 2 + ((y - 0.52) / 0.2) ** 2 < 1) | (
        ((x + 0.64) / 0.2) ** 2 + ((y - 0.26) / 0.16) ** 2 < 1
    )
    eye = ((x + 0.75) / 0.08) ** 2 + ((y - 0.53) / 0.08) ** 2 < 1
    keep = wing & ~eye
    flat = np.stack((x[keep], y[keep], np.zeros(keep.sum())), axis=1)
    thickness = np.array([0, 0, 0.012])
    points = np.concatenate((flat + thickness, flat - thickness))
    normals = np.repeat(np.array([[0.0, 0, 1], [0, 0, -1]]), len(flat), axis=0)
    return points, normals, np.broadcast_to(np.array(tone, float), points.shape)


def _built_vane() -> Cloud:
    at = np.array
    parts = (
        _tube(at([0.0, -1.1, 0]), at([0.0, 0.42, 0]), 0.045, 0.035, (125, 133, 150)),
        _ball((0, 0.45, 0), 0.085, (255, 200, 97)),
        _tube(at([-0.95, 0.1, 0]), at([0.8, 0.1, 0]), 0.028, 0.028, (166, 69, 46)),
        _tube(at([0.78, 0.1, 0]), at([1.08, 0.1, 0]), 0.11, 0.0, (166, 69, 46)),
        _tube(at([0.0, -0.45, -0.4]), at([0.0, -0.45, 0.4]), 0.022, 0.022, (125, 133, 150)),
        _tube(at([-0.4, -0.45, 0]), at([0.4, -0.45, 0]), 0.022, 0.022, (125, 133, 150)),
        _ball((0.42, -0.45, 0), 0.05, (47, 127, 121)),
        _ball((-0.42, -0.45, 0), 0.05, (47, 127, 121)),
        _ball((0, -0.45, 0.42), 0.05, (47, 127, 121)),
        _ball((0, -0.45, -0.42), 0.05, (47, 127, 121)),
        _moth_plate((244, 233, 205)),
    )
    points, normals, tones = (np.concatenate(column) for column in zip(*parts, strict=True))
    return points, normals, tones


_VANE = _built_vane()


def _waves(seed: int, count: int, most: int) -> Floats:
    """A sum of waves that fit the tile a whole number of times, from 0 to 1."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[:TILE_PX, :TILE_PX] * (2 * math.pi / TILE_PX)
    total = np.zeros((TILE_PX, TILE_PX))
    for _ in range(count):
        across, down = rng.integers(-most, most + 1, 2)
        strength = 1 / (1 + math.hypot(across, down))
        total += strength * np.cos(across * x + down * y + rng.uniform(0, 2 * math.pi))
    scaled: Floats = (total - total.min()) / (total.max() - total.min())
    return scaled


def moss_tile() -> Image:
    """128x128, opaque, repeats without a seam."""
    level = 0.6 * _waves(_SEED + 1, 60, 7) + 0.4 * _waves(_SEED + 2, 160, 30)
    stops = np.array([[24, 38, 40], [42, 78, 52], [91, 138, 63], [168, 190, 96]], float)
    position = np.clip(level, 0, 1) * (len(stops) - 1)
    low = np.minimum(position.astype(int), len(stops) - 2)
    share = (position - low)[..., None]
    rgb = stops[low] * (1 - share) + stops[low + 1] * share
    return np.dstack((np.rint(rgb), np.full(level.shape, 255))).astype(np.uint8)


def swell_tile() -> Image:
    """128x128, grey, repeats without a seam: how far to displace."""
    grey = np.rint(255 * _waves(_SEED + 3, 24, 3)).astype(np.uint8)
    return np.dstack((grey, grey, grey, np.full_like(grey, 255)))
