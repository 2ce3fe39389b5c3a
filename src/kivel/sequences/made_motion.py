"""A map of motion that was made, and how well it serves."""

from __future__ import annotations

from typing import NamedTuple

from kivel.core.motion.motion_error import Missed, total_missed
from kivel.sequences.map_frames import MapFrames

__all__ = ["MotionMade", "PairMotion"]


class PairMotion(NamedTuple):
    """What became of a pair: its frames, the error of warping and of fading where that could be told, and how far the
    motion is distrusted where it could not. A `fallback` has no motion: fading is better, or as good."""

    earlier: int
    later: int
    missed: Missed | None
    distrust: float | None
    fallback: bool


class MotionMade(NamedTuple):
    """A map with a frame for each of the sequence's, and what is said of its pairs; after `cuts` the scene changes."""

    map: MapFrames
    pairs: tuple[PairMotion, ...]
    cuts: tuple[int, ...] = ()

    @property
    def total(self) -> Missed:
        """Over all pairs whose error is known."""
        return total_missed(pair.missed for pair in self.pairs if pair.missed)
