"""How far what is rebuilt between two frames is from what was there."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from kivel.core.motion.warping import Planes, Vectors, enlarged, warped
from kivel.core.named_tuples import NamedTuple

__all__ = ["NOTHING_MISSED", "Missed", "missed", "total_missed"]

_LEVELS = 255


class Missed(NamedTuple):
    """Sums over the pixels that are visible in the truth: their number, the squares that warping and fading miss."""

    visible: int
    warping: float
    fading: float

    @property
    def error(self) -> float:
        """The error of warping: root mean square over the four premultiplied, linear values of visible pixels, in
        1/255.
        """
        return self._rms(self.warping)

    @property
    def faded(self) -> float:
        """The error of cross-fading, likewise."""
        return self._rms(self.fading)

    @property
    def ratio(self) -> float:
        """The error of warping as a share of cross-fading's: below 1 it is better; 1 where nothing is missed at all."""
        return math.sqrt(self.warping / self.fading) if self.fading > 0 else 1.0

    def _rms(self, squares: float) -> float:
        return _LEVELS * math.sqrt(squares / (4 * self.visible)) if self.visible else 0.0


NOTHING_MISSED = Missed(0, 0.0, 0.0)


def missed(
    earlier: Planes,
    later: Planes,
    between: Sequence[Planes],
    times: Sequence[float],
    vectors: Vectors,
    *,
    wraps: bool = False,
) -> Missed:
    """Return what warping by vectors, of any size, and fading miss of the frames between two.

    Parameters
    ----------
    earlier, later : (4, H, W) arrays
    between : sequence of (4, H, W) arrays
        The truth, at these `times` from 0 to 1.
    """
    vectors = enlarged(vectors, *earlier.shape[1:], wraps=wraps)
    still = not vectors.any()
    visible, warping, fading = 0, 0.0, 0.0
    for time, truth in zip(times, between, strict=True):
        visible += int(np.count_nonzero(truth[3] > 0))
        fade = _squares(earlier + np.float32(time) * (later - earlier) - truth)
        fading += fade
        warping += fade if still else _squares(warped(earlier, later, vectors, time, wraps=wraps) - truth)
    return Missed(visible, warping, fading)


def total_missed(every: Iterable[Missed]) -> Missed:
    """Return the error of several pairs together."""
    found = [NOTHING_MISSED, *every]
    return Missed(*(sum(column) for column in zip(*found, strict=True)))


def _squares(rest: Planes) -> float:
    return float(np.square(rest).sum(dtype=np.float64))
