"""The sizes to be packed, as big-integer bit masks: what fits a gap is found with a few operations.

Best-fit by masks: a bit for each distinct size (both ways round where it may turn), in the order in which sizes are
preferred, so that the highest bit of what is left and fits is the choice.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from typing import Any

from kivel.core.pixels.pixels import Size

__all__ = ["PREFERENCES", "Kinds", "Preference"]

Preference = Callable[[int, int], Any]

PREFERENCES: dict[str, Preference] = {
    "height": lambda w, h: (h, w),
    "area": lambda w, h: (w * h, h),
    "tall area": lambda w, h: (w * h**4, w),
    "wide area": lambda w, h: (w * w * h, h),
}
"""Says what to take first of all that fits: which is best differs from one set of sizes to the next."""


class Kinds:
    """The distinct sizes in one order of preference.

    `groups` are the sizes as given (turned ones counted together), `counts` how many there are of each; `group_of` and
    `bits` lead from a kind to its group and back.
    """

    def __init__(self, pieces: Sequence[Size], *, turn: bool, preference: Preference) -> None:
        counted = Counter((min(size), max(size)) if turn else tuple(size) for size in pieces)
        self.groups = sorted(counted)
        self.counts = [counted[group] for group in self.groups]
        kinds = [(w, h, number) for number, (w, h) in enumerate(self.groups)]
        if turn:
            kinds += [(h, w, number) for w, h, number in kinds if w != h]
        kinds.sort(key=lambda kind: (preference(kind[0], kind[1]), kind))
        self.widths = [kind[0] for kind in kinds]
        self.heights = [kind[1] for kind in kinds]
        self.group_of = [kind[2] for kind in kinds]
        self.bits = [0] * len(self.groups)
        for bit, number in enumerate(self.group_of):
            self.bits[number] |= 1 << bit
        self.all = (1 << len(kinds)) - 1
        self.of_width = _by_value(self.widths)
        self.of_height = _by_value(self.heights)
        self.up_to_width = _running(self.of_width, max(self.widths))
        self.up_to_height = _running(self.of_height, max(self.heights))
        self.total = len(pieces)
        self.area = sum(size.w * size.h for size in pieces)

    def fitting(self, left: int, gap: int, room: int) -> int:
        """Return the kinds in the mask `left` that are no wider than `gap` and no higher than `room`."""
        if room <= 0:
            return 0
        widths, heights = self.up_to_width, self.up_to_height
        if gap < len(widths):
            left &= widths[gap]
        return left & heights[room] if room < len(heights) else left


def _by_value(values: Sequence[int]) -> dict[int, int]:
    masks: dict[int, int] = {}
    for bit, value in enumerate(values):
        masks[value] = masks.get(value, 0) | 1 << bit
    return masks


def _running(masks: dict[int, int], largest: int) -> list[int]:
    """For every value from 0 to the largest the mask of all up to it."""
    running, total = [], 0
    for value in range(largest + 1):
        total |= masks.get(value, 0)
        running.append(total)
    return running
