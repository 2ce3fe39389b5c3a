"""How far each frame of a hand-drawn sequence sits from where the others do, by what they have in common.

Lengths are pixels, x to the right and y down.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.pixels import Pixels

__all__ = ["STEADY_REACH", "steady_shifts"]

STEADY_REACH = 8
"""How far two frames are moved against each other, where nothing else is asked for."""

_WINDOW = 8
"""Each frame is held against this many before it and behind it: in a chain of neighbours alone, errors add up."""
_ROUNDS = 20
_COLOUR_WEIGHT = 2.0
_SEEN = 8
_HASHES = (0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9, 0x27D4EB2F165667C5)
_DIGITS = 5
"""Correlations, as shares of the largest, are compared to this many decimals: processors differ in the last ones."""

Shift = NDArray[np.int64]
Match = NDArray[np.float64]
"""(2 reach + 1, 2 reach + 1): how well two frames agree when the second is moved by (x - reach, y - reach)."""


def steady_shifts(images: Sequence[Pixels], *, reach: int = STEADY_REACH, smooth: bool = False) -> NDArray[np.float64]:
    """How far each frame is to be moved so that what they have in common stays in place.

    Two frames agree at a shift as far as their premultiplied colours correlate there, and as many of their pixels are
    the very same (by random phases for each colour: a count by correlation). Frames are brought to agree with all
    those near them, the nearest counting most, starting from a chain of neighbours; rounds end when nothing moves.

    Parameters
    ----------
    images : sequence of (H, W, 4) arrays
        Straight alpha, any depth; those of other sizes have their top left corners in common.
    reach : int
        The farthest that two frames are moved against each other.
    smooth : bool
        To parts of pixels, by a parabola through the best three; colours alone count then.

    Returns
    -------
    (N, 2) array
        x and y for each frame; the middle ones stay where they are. Whole numbers unless `smooth`. Zero for frames on
        which nothing is drawn.
    """
    matches = _matches(images, reach, with_hashes=not smooth)
    shifts = _agreed(_chained(len(images), matches, reach), matches, reach)
    moves = -shifts.astype(np.float64)
    if len(images) < 2:
        return moves
    if smooth:
        moves -= np.array([_rest(number, shifts, matches, reach) for number in range(len(images))]).reshape(-1, 2)
        return moves - np.median(moves, axis=0)
    return moves - np.round(np.median(moves, axis=0))


class _Pair(NamedTuple):
    first: int
    second: int


def _matches(images: Sequence[Pixels], reach: int, *, with_hashes: bool) -> dict[_Pair, Match]:
    """How each frame agrees with those behind it in the window; nothing for frames on which nothing is drawn."""
    from scipy import fft  # a tenth of a second that no other step need spend

    height, width = (max((image.shape[axis] for image in images), default=1) for axis in (0, 1))
    # what is moved by up to the reach must not come in on the other side
    size = [fft.next_fast_len(max(length, reach + 1) + reach, real=True) for length in (height, width)]
    found: dict[_Pair, Match] = {}
    before: deque[tuple[int, NDArray[np.complex64]]] = deque(maxlen=_WINDOW)
    for second, image in enumerate(images):
        spectrum = fft.rfft2(_features(image, with_hashes=with_hashes), size)
        for first, other in before:
            match = fft.irfft2((other.conj() * spectrum).sum(axis=0), size)
            near = np.roll(match, (reach, reach), (0, 1))[: 2 * reach + 1, : 2 * reach + 1].astype(np.float64)
            if near.max() > 0:
                found[_Pair(first, second)] = np.round(near / near.max(), _DIGITS)
        before.append((second, spectrum))
    return found


def _features(image: Pixels, *, with_hashes: bool) -> NDArray[np.float32]:
    """(C, H, W): premultiplied colours and alpha; for every visible colour some phases that no other colour has."""
    plain = to_8_bits(image)
    values = plain.astype(np.float32) / 255
    values[..., :3] *= values[..., 3:]
    channels = [*np.moveaxis(values * np.float32(_COLOUR_WEIGHT), -1, 0)]
    if with_hashes:
        seen = plain[..., 3] >= _SEEN
        colours = np.ascontiguousarray(plain).view(np.uint32)[..., 0].astype(np.uint64)
        for factor in _HASHES:
            mixed = colours * np.uint64(factor)
            mixed ^= mixed >> np.uint64(29)
            mixed *= np.uint64(0xBF58476D1CE4E5B9)
            phase = (mixed >> np.uint64(40)).astype(np.float32) * np.float32(2 * np.pi / (1 << 24))
            channels += [np.cos(phase) * seen, np.sin(phase) * seen]
    return np.stack(channels)


def _chained(count: int, matches: dict[_Pair, Match], reach: int) -> Shift:
    """Where each frame is, each by the one before it."""
    shifts = np.zeros((count, 2), np.int64)
    for number in range(1, count):
        match = matches.get(_Pair(number - 1, number))
        shifts[number] = shifts[number - 1] + (0 if match is None else _best(match, reach))
    return shifts


def _agreed(shifts: Shift, matches: dict[_Pair, Match], reach: int) -> Shift:
    """Where each frame is, by all those near it."""
    shifts = shifts.copy()
    for _ in range(_ROUNDS):
        moved = False
        for number in range(len(shifts)):
            total = _with_others(number, shifts, matches, reach)
            if total is not None:
                move = _best(total, reach)
                shifts[number] += move
                moved |= bool(move.any())
        if not moved:
            break
    return shifts


def _with_others(number: int, shifts: Shift, matches: dict[_Pair, Match], reach: int) -> Match | None:
    """How well a frame agrees with all near it when it is moved from where it is."""
    total = None
    for other in range(max(0, number - _WINDOW), min(len(shifts), number + _WINDOW + 1)):
        match = matches.get(_Pair(min(number, other), max(number, other)))
        if other == number or match is None:
            continue
        as_second = match if other < number else match[::-1, ::-1]
        near = _recentred(as_second, shifts[number] - shifts[other], reach) / abs(number - other) ** 0.5
        total = near if total is None else total + near
    return total


def _recentred(match: Match, at: Shift, reach: int) -> Match:
    """The match with the shift `at` in its middle; as bad as its worst where it says nothing."""
    result = np.full_like(match, match.min())
    x, y = at.tolist()
    rows, columns = (slice(max(0, -d), min(2 * reach + 1, 2 * reach + 1 - d)) for d in (y, x))
    from_rows, from_columns = (slice(max(0, d), min(2 * reach + 1, 2 * reach + 1 + d)) for d in (y, x))
    if rows.stop > rows.start and columns.stop > columns.start:
        result[rows, columns] = match[from_rows, from_columns]
    return result


def _best(match: Match, reach: int) -> Shift:
    """The best shift; of equal ones the nearest."""
    rows, columns = np.nonzero(match >= match.max() - 10.0**-_DIGITS)
    shifts = np.stack([columns, rows], axis=1) - reach
    return np.asarray(shifts[np.lexsort((shifts[:, 0], shifts[:, 1], np.abs(shifts).sum(axis=1)))[0]])


def _rest(number: int, shifts: Shift, matches: dict[_Pair, Match], reach: int) -> tuple[float, float]:
    """By what part of a pixel a frame is farther than it is taken to be."""
    total = _with_others(number, shifts, matches, reach)
    if total is None:
        return 0.0, 0.0
    return _vertex(total[reach, reach - 1 : reach + 2]), _vertex(total[reach - 1 : reach + 2, reach])


def _vertex(values: NDArray[np.float64]) -> float:
    """Where a parabola through three values a pixel apart is highest, from the middle one."""
    before, middle, behind = values.tolist()
    bend = before - 2 * middle + behind
    return 0.0 if bend >= 0 else float(np.clip(0.5 * (before - behind) / bend, -0.5, 0.5))
