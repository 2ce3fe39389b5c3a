"""Drawing by formula, the same pixels on every machine.

Masks are (H, W) bool; coordinates are pixels with (0, 0) at the top left corner, so that a pixel's centre is at a half.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

__all__ = ["Canvas", "Colour", "Mask", "colour"]

Mask = NDArray[np.bool_]
Colour = tuple[int, int, int]
Point = tuple[float, float]


def colour(text: str) -> Colour:
    """`#rrggbb` as three values."""
    return int(text[1:3], 16), int(text[3:5], 16), int(text[5:7], 16)


class Canvas:
    """A transparent image to paint hard-edged shapes on."""

    def __init__(self, width: int, height: int) -> None:
        self.pixels = np.zeros((height, width, 4), np.uint8)
        rows, columns = np.mgrid[:height, :width]
        self.x, self.y = columns + 0.5, rows + 0.5

    def ellipse(self, cx: float, cy: float, rx: float, ry: float) -> Mask:
        return np.asarray(((self.x - cx) / rx) ** 2 + ((self.y - cy) / ry) ** 2 <= 1)

    def box(self, x: float, y: float, w: float, h: float) -> Mask:
        return np.asarray((self.x >= x) & (self.x < x + w) & (self.y >= y) & (self.y < y + h))

    def line(self, start: Point, end: Point, width: float = 1) -> Mask:
        """Every pixel whose centre is within half the width of the segment."""
        (ax, ay), (bx, by) = start, end
        length = max((bx - ax) ** 2 + (by - ay) ** 2, 1e-9)
        along = np.clip(((self.x - ax) * (bx - ax) + (self.y - ay) * (by - ay)) / length, 0, 1)
        distance = np.hypot(self.x - ax - along * (bx - ax), self.y - ay - along * (by - ay))
        return np.asarray(distance <= width / 2 + 0.2)

    def polygon(self, points: Sequence[Point]) -> Mask:
        """Inside by the even-odd rule."""
        inside = np.zeros(self.x.shape, bool)
        for (ax, ay), (bx, by) in zip(points, [*points[1:], points[0]], strict=True):
            if ay == by:
                continue
            crosses = (self.y < ay) != (self.y < by)
            inside ^= crosses & (self.x < (bx - ax) * (self.y - ay) / (by - ay) + ax)
        return inside

    def paint(self, mask: Mask, value: Colour) -> None:
        self.pixels[mask] = (*value, 255)

    def shade(self, mask: Mask, value: Colour) -> None:
        """Paint only where something is already."""
        self.paint(mask & (self.pixels[..., 3] > 0), value)

    def outline(self, value: Colour) -> None:
        """Paint the transparent pixels that touch a painted one by a side."""
        drawn = np.pad(self.pixels[..., 3] > 0, 1)
        near = drawn[:-2, 1:-1] | drawn[2:, 1:-1] | drawn[1:-1, :-2] | drawn[1:-1, 2:]
        self.paint(near & ~drawn[1:-1, 1:-1], value)
