"""Six kinds of art to measure compression with, drawn in code, seeded: what compresses one best is no good for another.

Each function gives frames of (side, side, 4), `uint8`; another `seed` draws others of the kind.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from frames import Field, burst, noise

__all__ = ["KINDS", "Frame"]

Frame = NDArray[np.uint8]


def _grid(side: int) -> tuple[Field, Field]:
    """x and y of every pixel, -1 to 1."""
    at = (np.arange(side) + 0.5) * 2 / side - 1
    return np.broadcast_to(at, (side, side)), np.broadcast_to(at[:, None], (side, side))


def _bytes(*channels: Field | float) -> Frame:
    parts = np.broadcast_arrays(*channels)
    return np.stack([np.clip(part * 255 + 0.5, 0, 255).astype(np.uint8) for part in parts], axis=-1)


def soft_few(seed: int) -> Iterator[Frame]:  # noqa: ARG001 - the frames that all else is measured with
    """A glowing burst: every colour follows from one brightness."""
    yield from burst(64, 256)


def soft_many(seed: int) -> Iterator[Frame]:
    """Smoke with a grain of its own in each channel: hundreds of thousands of colours."""
    rng = np.random.default_rng(seed)
    x, y = _grid(256)
    body = [noise(rng, 256, blur) for blur in (22, 9, 4)]
    grain = [noise(rng, 256, 0.9) for _ in range(4)]
    for index in range(64):
        time = index / 64
        puff = sum(np.roll(one, (-index * (3 + k), index * k), (0, 1)) * 0.3 / (k + 1) for k, one in enumerate(body))
        alpha = np.clip(1.1 - np.hypot(x, y + 0.3 - 0.4 * time) * 1.6 + puff * 0.5, 0, 1) * (1 - 0.5 * time)
        light = 0.55 + 0.2 * puff - 0.2 * y
        moved = [np.roll(one, index * 5, 1) * 0.012 for one in grain]
        colours = [light * tint + one for tint, one in zip((1.0, 0.86, 0.74), moved, strict=False)]
        yield _bytes(*(colour * (alpha > 0) for colour in colours), alpha + moved[3] * alpha)


def pixel_art(seed: int) -> Iterator[Frame]:
    """256 small sprites in a palette of sixteen, outlined, each walking through eight frames."""
    rng = np.random.default_rng(seed)
    palette = rng.integers(20, 236, (16, 4)).astype(np.uint8)
    palette[:, 3] = 255
    palette[0] = 0
    x, y = _grid(64)
    for _ in range(32):
        shape = noise(rng, 64, 4)
        shape = shape + shape[:, ::-1] - np.hypot(x * 1.2, y) * 3 + 1.6
        shade = noise(rng, 64, 5) - x - y
        dither = (np.add.outer(np.arange(64), np.arange(64)) % 2) * 0.35
        ramps = rng.permutation(np.arange(2, 14)).reshape(3, 4)
        ramp = ramps[np.clip(y * 1.5 + 1.5, 0, 2).astype(int)]
        tone = np.clip((shade + dither) * 0.9 + 1.5, 0, 3).astype(int)
        plain = np.where(shape > 0, np.take_along_axis(ramp, tone[..., None], 2)[..., 0], 0)
        for step in range(8):
            moved = plain.copy()
            moved[40:] = np.roll(plain[40:], (step % 4) - 2, 1)
            moved = np.roll(moved, -(step % 3), 0)
            solid = np.pad(moved > 0, 1)
            near = solid[:-2, 1:-1] | solid[2:, 1:-1] | solid[1:-1, :-2] | solid[1:-1, 2:]
            yield palette[np.where(near & (moved == 0), 1, moved)]


def painted_props(seed: int) -> Iterator[Frame]:
    """Hand-painted things: strokes over shaded bodies with soft edges, transparent around."""
    rng = np.random.default_rng(seed)
    x, y = _grid(256)
    for _ in range(64):
        size, tall, lean = rng.uniform(0.55, 0.9), rng.uniform(0.7, 1.4), rng.uniform(-0.3, 0.3)
        wobble = noise(rng, 256, 14) * 0.06
        inside = 1 - np.hypot((x - lean * y) / size, y * tall / size) + wobble
        angle = rng.uniform(0, np.pi)
        across = x * np.cos(angle) + y * np.sin(angle)
        strokes = noise(rng, 256, 2.2) * 0.05 + np.sin(across * rng.uniform(15, 40) + noise(rng, 256, 8) * 2) * 0.04
        light = 0.5 - 0.3 * x - 0.25 * y + strokes + noise(rng, 256, 0.8) * 0.006
        hue = rng.uniform(0.4, 1.1, 3)
        alpha = np.clip(inside * 22, 0, 1)
        yield _bytes(*(light * tint * (alpha > 0) + 0.02 * k * strokes for k, tint in enumerate(hue)), alpha)


def opaque_tiles(seed: int) -> Iterator[Frame]:
    """Ground that fills its cell: stones in mortar, moss, some grain."""
    rng = np.random.default_rng(seed)
    for _ in range(64):
        stones, moss, fine = (noise(rng, 256, blur) for blur in (9, 16, 0.7))
        joint = np.abs(stones) < 0.18
        light = np.where(joint, 0.25, 0.5 + 0.12 * np.tanh(stones) + 0.05 * noise(rng, 256, 3)) + fine * 0.012
        green = np.clip(moss - 0.4, 0, 1) * 0.3
        yield _bytes(light * 0.95, light * 0.9 + green, light * 0.8 - green * 0.3, 1.0)


def normal_maps(seed: int) -> Iterator[Frame]:
    """Directions of a bumpy surface, green up, and nothing behind them."""
    rng = np.random.default_rng(seed)
    for _ in range(64):
        height = noise(rng, 256, 10) * 6 + noise(rng, 256, 3) * 0.8 + noise(rng, 256, 1.2) * 0.12
        slope_y, slope_x = np.gradient(height)
        length = np.sqrt(slope_x**2 + slope_y**2 + 1)
        yield _bytes(*(part / length * 0.5 + 0.5 for part in (-slope_x, slope_y, np.ones_like(height))), 1.0)


KINDS: dict[str, Callable[[int], Iterator[Frame]]] = {
    "soft, few colours": soft_few,
    "soft, many colours": soft_many,
    "pixel art": pixel_art,
    "painted props": painted_props,
    "opaque tiles": opaque_tiles,
    "normal maps": normal_maps,
}
