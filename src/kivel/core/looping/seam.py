"""How well a sequence closes: the change from its last frame to its first, judged by its own usual changes."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.looping.signature import NEARLY, Signatures, changes, spread

__all__ = ["Seam", "TileSeam", "Verdict", "judge_seam", "tile_seam", "usual_change"]

Verdict = Literal["loop", "repeats", "jump", "pop", "one-shot", "still", "too short"]

_LOOP_LIMIT = 1.6
"""Times a usual step. Walk cycles close with about three quarters of one; half as much again is not seen."""
_RETURNING_LIMIT = 2.0
"""The same where the last frames come nearer to the first: few frames are uneven."""
_POP_LIMIT = 2.5
_RETURNS = 0.75
"""Of the farthest that any frame is from the first: what ends farther away than this has not come back."""
_FLAT = 1e-6
_LARGE, _LARGER = 0.95, 1.1
"""A seam in a tile is no fault up to a tenth more than the largest twentieth of its own steps."""


class Seam(NamedTuple):
    """What happens from the last frame to the first. Changes are root mean squares from 0 to 1.

    `seam` is in usual steps (`step`), `pop` the change of speed across it in usual changes of speed.
    """

    verdict: Verdict
    change: float
    step: float
    seam: float
    pop: float


def usual_change(steps: NDArray[np.float64]) -> float:
    """The median of the steps that change anything; 0 when none does."""
    moving = steps[steps > _FLAT]
    return float(np.median(moving)) if moving.size else 0.0


def judge_seam(signatures: Signatures) -> Seam:
    """Whether the sequence closes.

    - `too short`: fewer than three frames. `still`: nothing changes.
    - `repeats`: the last frame is nearly the first, and would show twice.
    - `loop`: the step across the seam is about as large as others, next to it or usual; the speed changes as usual.
    - `pop`: the step is, but the speed changes far more than anywhere else.
    - `jump`: the end comes back towards the start, but not all the way.
    - `one-shot`: it does not come back; perhaps it is not meant to.
    """
    if len(signatures) < 3:
        return Seam("too short", 0.0, 0.0, 0.0, 0.0)
    steps = changes(signatures)
    step = usual_change(steps)
    from_first = spread(signatures, 0)
    change = float(from_first[-1])
    if not step:
        return Seam("still", change, 0.0, 0.0, 0.0)
    pop, pops = _pop(signatures)
    verdict = _verdict(change, step, steps, from_first, pops)
    return Seam(verdict, change, step, change / step, pop)


def _verdict(
    change: float, step: float, steps: NDArray[np.float64], from_first: NDArray[np.float64], pops: bool
) -> Verdict:
    if change <= NEARLY * step:
        return "repeats"
    # a hair nearer is noise: what stands still at the end is not on its way back
    nearing = change < 0.98 * float(from_first[-2])
    limit = _RETURNING_LIMIT if nearing else _LOOP_LIMIT
    if change <= limit * max(step, float(steps[0]), float(steps[-1])):
        return "pop" if pops else "loop"
    return "jump" if nearing and change <= _RETURNS * float(from_first.max()) else "one-shot"


def _pop(signatures: Signatures) -> tuple[float, bool]:
    """The change of speed across the seam in usual ones, and whether it stands out from all others."""
    frames = [one.values.astype(np.float64) for one in signatures]
    # the last two triples lie across the seam: one ends with the first frame, one has it in the middle
    around = [*frames, *frames[:2]]
    triples = zip(around, around[1:], around[2:], strict=False)
    turns = np.array([float(np.sqrt(np.mean(np.square(a - 2 * b + c)))) for a, b, c in triples])
    inner, across = turns[:-2], float(turns[-2:].max())
    usual = usual_change(inner)
    if not usual:
        return 0.0, False
    # a sequence that jerks everywhere has no pop of its own
    return across / usual, bool(across > _POP_LIMIT * usual and across > 1.2 * inner.max())


class TileSeam(NamedTuple):
    """How opposite sides of an image meet: left against right and top against bottom.

    The changes across the seams are in usual changes between neighbours; 0 where nothing changes, even there.
    """

    across: float
    down: float
    meets: bool


def tile_seam(planes: NDArray[np.float32]) -> TileSeam:
    """How the sides of (H, W, 4) values meet: no seam shows that is hardly more than the image's own larger steps."""
    across, across_meets = _side_seam(planes.swapaxes(0, 1))
    down, down_meets = _side_seam(planes)
    return TileSeam(across, down, across_meets and down_meets)


def _side_seam(lines: NDArray[np.float32]) -> tuple[float, bool]:
    if len(lines) < 2:
        return 0.0, True
    steps = np.sqrt(np.mean(np.square(np.diff(lines.astype(np.float64), axis=0)), axis=(1, 2)))
    seam = float(np.sqrt(np.mean(np.square(lines[0].astype(np.float64) - lines[-1]))))
    usual = usual_change(steps)
    if not usual:
        return (0.0, True) if seam <= _FLAT else (float("inf"), False)
    return seam / usual, bool(seam <= max(_LOOP_LIMIT * usual, _LARGER * np.quantile(steps, _LARGE)))
