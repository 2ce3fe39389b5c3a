"""How well a sequence closes: the change from its last frame to its first, judged by its own usual changes."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.looping.signature import NEARLY, Signatures, changes, distances, spread
from kivel.core.named_tuples import NamedTuple

__all__ = ["Decider", "Seam", "TileSeam", "Verdict", "judge_seam", "median_pair", "tile_seam", "usual_change"]

Verdict = Literal["closes", "burst", "repeats", "open", "still", "too few"]

_FEWEST = 4
_BURST_MASS, _BURST_OPACITY, _FAINT = 0.60, 0.15, 0.30
_OVER_LARGEST, _OVER_LARGEST_BY_COUNT = 1.05, 0.6
_OVER_PAIRS, _FAR_OVER_PAIRS = 0.85, 1.45
_FLAT = 1e-6
_CLOSE_CALL, _CLEAR = 0.1, 0.35
"""Logarithms of how far a figure is from the limit that it decided by."""
_MOST_PAIRS = 400
_MEETS, _LOOK_AT = 1.1, 1.5
_LARGE, _UNLIKE = 0.95, 0.05
_AT_A_TIME = 1 << 20


Decider = Literal["", "mass", "opacity", "repeat", "largest", "pairs"]


class Seam(NamedTuple):
    """Holds what happens from the last frame to the first. Changes are root mean squares from 0 to 1.

    `seam` is in usual steps (`step`), `of_largest` in the largest one, `of_pairs` in the median change between any two
    frames. `by` is the figure that decided, `value` what it is, and `limit` what it was held against; `confidence` is
    how far, in logarithms, the figures are from where the verdict would turn. Under `afresh` a burst begins and ends
    with hardly anything: repeated, it shows no jump. Under `held` the last frame holds the first, as frames do
    elsewhere.
    """

    verdict: Verdict
    change: float
    step: float
    seam: float
    of_largest: float = 0.0
    of_pairs: float = 0.0
    by: Decider = ""
    value: float = 0.0
    limit: float = 0.0
    confidence: float = 0.0
    afresh: bool = False
    held: bool = False

    @property
    def sureness(self) -> Literal["a close call", "likely", "clearly"]:
        if self.confidence < _CLOSE_CALL:
            return "a close call"
        return "likely" if self.confidence < _CLEAR else "clearly"


def usual_change(steps: NDArray[np.float64]) -> float:
    """The median of the steps that change anything; 0 when none does."""
    moving = steps[steps > _FLAT]
    return float(np.median(moving)) if moving.size else 0.0


def judge_seam(signatures: Signatures) -> Seam:
    """Return what repeating the sequence would look like.

    - `too few`: fewer than four frames, which do not tell. `still`: nothing changes.
    - `burst`: it begins or ends with far less than it shows in between: a burst, an appearance, a fading.
    - `repeats`: the last frame is nearly the first, and would show twice. Where frames are held elsewhere too it is a
      hold that goes on across the seam, and closes.
    - `open`: the step across the seam is larger than any within, and the ends are unlike: it does not close. Whether it
      was meant to, pixels cannot tell.
    - `closes`: otherwise.

    Notes
    -----
    The limits are those that did best on 608 sequences, each game left out in turn: steps are compared with the
    largest, since flicker and held frames break their median. Not to be told from pixels: an action that returns to its
    stance from a loop, a last pose as near to the first as any step, a loop that pulses from a burst.
    """
    steps = changes(signatures) if len(signatures) > 1 else np.zeros(0)
    step = usual_change(steps)
    change = float(spread(signatures, 0)[-1])
    if not step:
        return Seam("still" if len(signatures) >= _FEWEST else "too few", change, 0.0, 0.0)
    found = Seam("closes", change, step, change / step, change / float(steps.max()), change / median_pair(signatures))
    if len(signatures) < _FEWEST:
        return found._replace(verdict="too few")
    burst = _burst(signatures, found)
    if burst.verdict == "burst":
        return burst
    moving = int((steps > NEARLY * step).sum())
    if change <= NEARLY * step:
        # where frames are held elsewhere too it is a hold, across the seam
        held = moving < len(steps)
        verdict: Verdict = "closes" if held else "repeats"
        return _decided(found._replace(verdict=verdict, held=held), "repeat", max(change, _FLAT), NEARLY * step)
    decided = _open(found, moving + 1)
    return decided._replace(confidence=min(decided.confidence, burst.confidence))


def _burst(signatures: Signatures, found: Seam) -> Seam:
    """Whether one end shows far less than the middle; the figures, whatever they say."""
    masses = [one.mass for one in signatures if one.mass is not None]
    opacities = [one.opacity for one in signatures if one.opacity is not None]
    # what is seen may be too faint for any pixel to count as seen
    if len(masses) < len(signatures) or not max(masses) or not max(opacities):
        return found._replace(confidence=math.inf)
    ends = min(masses[0], masses[-1]) / max(masses)
    fading = abs(opacities[0] - opacities[-1]) / max(opacities)
    afresh = max(masses[0], masses[-1]) < _FAINT * max(masses)
    by_mass = _decided(found, "mass", max(ends, _FLAT), _BURST_MASS)
    if ends < _BURST_MASS:
        return by_mass._replace(verdict="burst", afresh=afresh)
    by_opacity = _decided(found, "opacity", max(fading, _FLAT), _BURST_OPACITY)
    if fading > _BURST_OPACITY:
        return by_opacity._replace(verdict="burst", afresh=afresh)
    return found._replace(confidence=min(by_mass.confidence, by_opacity.confidence))


def _open(found: Seam, count: int) -> Seam:
    """Whether the step across the seam is out of proportion, of this many frames that differ."""
    limit = _OVER_LARGEST + _OVER_LARGEST_BY_COUNT / count
    by_largest = _decided(found, "largest", found.of_largest, limit)
    if found.of_pairs > _FAR_OVER_PAIRS:
        return _decided(found, "pairs", found.of_pairs, _FAR_OVER_PAIRS)._replace(verdict="open")
    by_pairs = _decided(found, "pairs", found.of_pairs, _OVER_PAIRS)
    if found.of_largest > limit and found.of_pairs > _OVER_PAIRS:
        # both had to hold: the one nearer to its limit might have turned it
        return by_largest._replace(verdict="open", confidence=min(by_largest.confidence, by_pairs.confidence))
    if found.of_largest > limit:
        return by_pairs
    # the ends are alike, too: two reasons are surer than one
    both = found.of_pairs <= _OVER_PAIRS
    return by_largest._replace(confidence=max(by_largest.confidence, by_pairs.confidence if both else 0.0))


def _decided(found: Seam, by: Decider, value: float, limit: float) -> Seam:
    return found._replace(by=by, value=value, limit=limit, confidence=abs(math.log(max(value, _FLAT) / limit)))


def median_pair(signatures: Signatures) -> float:
    """The median change between any two frames; of many frames, evenly chosen ones."""
    every = -(-len(signatures) // _MOST_PAIRS)
    some = signatures[::every]
    if len(some) < 2:
        return 1.0
    apart = distances(some, range(1, len(some)))
    return max(float(np.nanmedian(apart)), _FLAT)


class TileSeam(NamedTuple):
    """How opposite sides of an image meet: left against right and top against bottom.

    1 is as the image's own larger steps from line to line are. Up to 1.1 no seam is to be seen; above 1.5 one is.
    """

    across: float
    down: float

    @property
    def verdict(self) -> Literal["meets", "look at it", "does not meet"]:
        worst = max(self.across, self.down)
        return "meets" if worst <= _MEETS else "look at it" if worst <= _LOOK_AT else "does not meet"

    @property
    def meets(self) -> bool:
        return self.verdict == "meets"


def tile_seam(planes: NDArray[np.float32]) -> TileSeam:
    """How the sides of (H, W, 4) values meet, by their difference and by how alike their lines run."""
    return TileSeam(_side_seam(planes.swapaxes(0, 1)), _side_seam(planes))


def _side_seam(lines: NDArray[np.float32]) -> float:
    if len(lines) < 2:
        return 0.0
    steps, products, lengths = _along(lines)
    steps, seam = steps[:-1], float(steps[-1])
    if seam <= _FLAT:
        return 0.0
    large = float(np.quantile(steps, _LARGE))
    by_steps = seam / large if large > _FLAT else np.inf
    weights = lengths * np.roll(lengths, -1)
    unlike = 1 - np.divide(products, weights, out=np.ones_like(products), where=weights > _FLAT)
    usual = float(np.quantile(unlike[:-1], 1 - _UNLIKE))
    return min(by_steps, float(unlike[-1]) / usual if usual > _FLAT else np.inf)


def _along(lines: NDArray[np.float32]) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """For each line: the root mean square to the next one, their product about their means, and its own length.

    The line after the last is the first. A few lines are looked at at a time, in double precision.
    """
    count = len(lines)
    steps, products, lengths = np.empty(count), np.empty(count), np.empty(count)
    at_a_time = max(1, _AT_A_TIME // max(1, lines[0].size))
    for start in range(0, count, at_a_time):
        end = min(start + at_a_time, count)
        part = np.concatenate((lines[start:end], lines[end % count : end % count + 1]))
        whole = part.reshape(len(part), -1).astype(np.float64)
        steps[start:end] = np.sqrt(np.mean(np.square(np.diff(whole, axis=0)), axis=1))
        whole -= whole.mean(axis=1, keepdims=True)
        products[start:end] = (whole[:-1] * whole[1:]).sum(axis=1)
        lengths[start:end] = np.sqrt((whole[:-1] * whole[:-1]).sum(axis=1))
    return steps, products, lengths
