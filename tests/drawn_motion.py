"""Sequences of eight kinds, drawn: each with another seed, some flickering, on twos or noisy."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Pixels

__all__ = ["ELSEWHERE", "KINDS", "LOOPS", "drawn"]

SIDE = 48
Levels = NDArray[np.float64]
_ROWS, _COLUMNS = np.mgrid[:SIDE, :SIDE] + 0.5


def drawn(kind: str, number: int) -> list[Pixels]:
    """One of ten of a kind, (48, 48, 4) uint8 frames."""
    rng = np.random.default_rng([number, *kind.encode()])
    count = int(rng.integers(8, 25))
    frames = KINDS[kind](rng, count)
    if number % 5 == 1:  # flicker
        frames = [_brighter(frame, rng.uniform(0.92, 1.0)) for frame in frames]
    if number % 5 == 2:  # on twos
        frames = [frame for frame in frames for _ in range(2)]
    if number % 5 == 3:  # noise
        frames = [_noisy(frame, rng) for frame in frames]
    return frames


def _brighter(frame: Pixels, share: float) -> Pixels:
    return np.dstack((np.rint(frame[..., :3] * share), frame[..., 3])).astype(np.uint8)


def _noisy(frame: Pixels, rng: np.random.Generator) -> Pixels:
    noise = rng.normal(0, 2, frame.shape) * (frame[..., 3:] > 0)
    return np.clip(frame + noise, 0, 255).astype(np.uint8) * np.uint8(1)


def _disc(x: float, y: float, radius: float) -> Levels:
    level: Levels = np.clip(radius + 0.5 - np.hypot(_COLUMNS - x, _ROWS - y), 0, 1)
    return level


def _limb(x: float, y: float, angle: float, length: float, width: float = 2.2) -> Levels:
    steps = np.linspace(0, length, 10)
    level: Levels = np.max([_disc(x + s * math.sin(angle), y + s * math.cos(angle), width) for s in steps], axis=0)
    return level


def _shown(parts: list[tuple[Levels, tuple[int, int, int]]]) -> Pixels:
    """Discs and limbs over each other, with straight alpha."""
    colour = np.zeros((SIDE, SIDE, 3))
    alpha = np.zeros((SIDE, SIDE))
    for level, value in parts:
        colour = colour * (1 - level[..., None]) + np.array(value) * level[..., None]
        alpha = alpha + level * (1 - alpha)
    return np.rint(np.dstack((colour, alpha * 255))).astype(np.uint8)


def _figure(lean: float, y: float, legs: tuple[float, float], arms: tuple[float, float], x: float = 24) -> Pixels:
    hip, neck = y + 8, y - 4
    body = _limb(x, neck, -lean, 12, 4)
    return _shown(
        [
            (_limb(x, hip, legs[0], 12), (90, 70, 60)),
            (_limb(x, neck + 2, arms[0], 9, 1.6), (150, 110, 80)),
            (body, (60, 100, 140)),
            (_limb(x, hip, legs[1], 12), (120, 90, 70)),
            (_limb(x, neck + 2, arms[1], 9, 1.6), (190, 140, 100)),
            (_disc(x + 6 * math.sin(lean), neck - 4, 4), (220, 180, 150)),
        ]
    )


def _turns(count: int) -> list[float]:
    return [math.tau * index / count for index in range(count)]


def _walk(rng: np.random.Generator, count: int) -> list[Pixels]:
    swing, bob, first = rng.uniform(0.4, 0.8), rng.uniform(0.5, 2), rng.uniform(0, math.tau)
    return [
        _figure(0.05, 22 + bob * math.cos(2 * (t + first)), (swing * math.sin(t + first), -swing * math.sin(t + first)),
                (-swing * math.sin(t + first), swing * math.sin(t + first)))
        for t in _turns(count)
    ]  # fmt: skip


def _burst(rng: np.random.Generator, count: int) -> list[Pixels]:
    angles, speeds = rng.uniform(0, math.tau, 12), rng.uniform(8, 22, 12)
    frames = []
    for index in range(count):
        age = (index + rng.uniform(0, 0.3)) / count
        size, fade = 3 * math.sqrt(age) * (1.4 - age) + 0.4, max(0.0, 1 - age) ** 1.3 * min(1, 0.3 + 4 * age)
        spots = [
            _disc(24 + s * age * math.cos(a), 24 + s * age * math.sin(a), size) * fade
            for a, s in zip(angles, speeds, strict=True)
        ]
        frames.append(_shown([(spot, (255, 200, 90)) for spot in spots]))
    return frames


def _eased(share: float) -> float:
    return share * share * (3 - 2 * share)


def _death(rng: np.random.Generator, count: int) -> list[Pixels]:
    """Falls over and lies; as much is seen of it as before."""
    turn = rng.choice([-1, 1])
    frames = []
    for index in range(count):
        fallen = _eased(min(1, index / (count * 0.7)))
        frames.append(
            _figure(turn * fallen * 1.5, 22 + 12 * fallen, (turn * fallen * 1.5, turn * fallen * 1.3),
                    (turn * fallen * 2.2, turn * fallen * 1.8), x=24 - turn * 6 * fallen)
        )  # fmt: skip
    return frames


def _flame(rng: np.random.Generator, count: int) -> list[Pixels]:
    phases, turns = rng.uniform(0, math.tau, 3), rng.integers(1, 3, 3)
    frames = []
    for t in _turns(count):
        sway = sum(2 * math.sin(k * t + p) for k, p in zip(turns, phases, strict=True))
        tall = 16 + 4 * math.sin(turns[0] * t + phases[1])
        tongues = [
            (_limb(24 + dx, 42, math.pi + 0.02 * sway * (i + 1), tall - 4 * i, 6 - 1.6 * i), colour)
            for i, (dx, colour) in enumerate([(0, (200, 60, 20)), (1, (250, 140, 30)), (-1, (255, 230, 120))])
        ]
        frames.append(_shown(tongues))
    return frames


def _water(rng: np.random.Generator, count: int) -> list[Pixels]:
    """An opaque tile of waves that run through it."""
    waves = [(*rng.integers(1, 4, 2), rng.integers(1, 3), rng.uniform(0, math.tau)) for _ in range(4)]
    frames = []
    for t in _turns(count):
        level = sum(np.sin(math.tau * (a * _COLUMNS + b * _ROWS) / SIDE + k * t + p) for a, b, k, p in waves) / 8 + 0.5
        colour = np.dstack((level * 60 + 20, level * 90 + 70, level * 80 + 120, np.full_like(level, 255)))
        frames.append(np.clip(np.rint(colour), 0, 255).astype(np.uint8))
    return frames


def _attack(rng: np.random.Generator, count: int) -> list[Pixels]:
    """Out and back to the stance."""
    reach = rng.uniform(1.2, 2)
    frames = []
    for index in range(count):
        out = math.sin(math.pi * index / count) ** 2
        frames.append(_figure(0.3 * out, 22, (0.5 * out, -0.4 * out), (-0.3 * out, reach * out), x=24 + 5 * out))
    return frames


def _win(rng: np.random.Generator, count: int) -> list[Pixels]:
    """Arms go up, and stay."""
    frames = []
    for index in range(count):
        up = _eased(min(1, index / (count * 0.5)))
        frames.append(_figure(0, 22 - 5 * up, (0.5 * up, -0.5 * up), (-2.7 * up, 2.7 * up + rng.uniform(0, 0.02))))
    return frames


def _turntable(rng: np.random.Generator, count: int) -> list[Pixels]:
    spots = rng.uniform(0, math.tau, 5)
    heights = rng.uniform(10, 38, 5)
    count = 2 * count + 8
    frames = []
    for t in _turns(count):
        parts: list[tuple[Levels, tuple[int, int, int]]] = [(_limb(24, 8, 0, 32, 12), (100, 90, 110))]
        for i, (spot, y) in enumerate(zip(spots, heights, strict=True)):
            if math.cos(t + spot) > 0:
                parts.append((_disc(24 + 10 * math.sin(t + spot), y, 3), (220, 60 + 30 * i, 80)))
        frames.append(_shown(parts))
    return frames


KINDS: dict[str, Callable[[np.random.Generator, int], list[Pixels]]] = {
    "walk": _walk, "burst": _burst, "death": _death, "flame": _flame, "water": _water, "attack": _attack, "win": _win,
    "turntable": _turntable,
}  # fmt: skip
LOOPS = ("walk", "flame", "water", "attack", "turntable")
ELSEWHERE = ("death", "win")
