"""A patterned spot on nothing that moves: frames whose motion is known."""

from __future__ import annotations

import numpy as np

from kivel.core.motion.warping import Planes, places
from kivel.core.pixels.light import from_light
from kivel.core.pixels.pixels import Pixels

__all__ = ["circling", "crossing", "spot"]


def spot(x: float, y: float, *, side: int = 48, wraps: bool = False) -> Planes:
    """(4, side, side) premultiplied light; under `wraps` what leaves one side comes in at the other."""
    across, down = places(side, side)
    dx, dy = across - x, down - y
    if wraps:
        dx, dy = ((d + side / 2) % side - side / 2 for d in (dx, dy))
    alpha = np.clip(1.6 - np.hypot(dx, dy) / 6, 0, 1)
    light = 0.6 + 0.3 * np.sin(dx * 0.9) * np.cos(dy * 0.7)
    return np.stack([light * alpha, light * alpha * 0.5, alpha * 0.2, alpha]).astype(np.float32)


def circling(count: int, *, side: int = 48) -> list[Pixels]:
    """A loop: once around."""
    angles = [2 * np.pi * number / count for number in range(count)]
    middle, radius = side / 2, side / 4
    return [_frame(middle + radius * np.cos(a), middle + radius * np.sin(a), side) for a in angles]


def crossing(count: int, *, side: int = 48) -> list[Pixels]:
    """A one-shot: from left to right."""
    return [_frame(10 + (side - 20) * number / (count - 1), side / 2, side) for number in range(count)]


def _frame(x: float, y: float, side: int) -> Pixels:
    return from_light(spot(x, y, side=side), np.uint8)
