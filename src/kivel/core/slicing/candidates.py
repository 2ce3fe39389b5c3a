"""The ways in which one side of a picture may be divided into cells, and which of them are worth a closer look."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from math import log
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.slicing.evidence import Profile
from kivel.core.slicing.lattice import Run

__all__ = ["Candidate", "RunKind", "candidates"]

RunKind = Literal["whole", "fraction", "padded", "short", "spaced"]
"""How the cells fill the side: exactly, by parts of pixels, with something left over, with the last cell up to two
pixels short, or with empty gaps and margins."""

_LEAST_CELL = 4
_LEAST_FRACTION, _MOST_FRACTIONS = 8, 24
_LEAST_PADDED = 6
_MOST_SHORT = 2
_MOST_SPACE = 2
_NEAREST = 3
_KEPT: dict[RunKind, int] = {"whole": 12, "fraction": 5, "padded": 6, "short": 3, "spaced": 5}
_LEFT_OVER = 0.03
"""Share of what is drawn that may lie outside all cells."""


class Candidate(NamedTuple):
    """One way to divide a side, with what speaks for it.

    Attributes
    ----------
    touching : float
        Share of the borders' pixels at which drawn pixels meet, 0 to 1; of gaps, how much of them is drawn.
    touching_ratio : float
        The same against the average of all places, at most 2.
    step_ratio : float
        The logarithm of the difference across the borders over the average one.
    clean : float
        Share of the borders at which nothing meets.
    dip, sub_dip : float
        How much more the picture is like itself at the pitch than at others near it; the most at a 2nd to 5th of it.
    off_dip : float
        How far the pitch is from the one near it at which the picture is most like itself, in pixels, at most 3.
    outside : float
        Share of what is drawn that lies outside all cells.
    score : float
        By this direction alone.
    """

    run: Run
    kind: RunKind
    touching: float
    touching_ratio: float
    step_ratio: float
    clean: float
    dip: float
    sub_dip: float
    off_dip: float
    outside: float
    score: float = 0.0

    @property
    def cell(self) -> float:
        return float(self.run.cell)


def candidates(side: Profile) -> list[Candidate]:
    """The likeliest ways of each kind, the likeliest first; the side as one cell is always among them."""
    dips = _Dips(side.unlike)
    judged = [_judged(side, run, kind, dips) for run, kind in _possible(side)]
    judged = [one for one in judged if one.outside <= _LEFT_OVER]
    judged.sort(key=lambda one: (-one.score, one.run))
    found: list[Candidate] = []
    for kind, most in _KEPT.items():
        found += [one for one in judged if one.kind == kind][:most]
    found += [one for one in judged if one.run == Run(1, Fraction(side.length)) and one not in found]
    return found


def _possible(side: Profile) -> Iterator[tuple[Run, RunKind]]:
    length, drawn = side.length, side.drawn
    most_outside = _LEFT_OVER * drawn[-1]
    last = int(np.searchsorted(drawn, drawn[-1]))
    for count in range(1, max(1, length // _LEAST_CELL) + 1):
        if length % count == 0:
            yield Run(count, Fraction(length // count)), "whole"
        elif count <= _MOST_FRACTIONS and length >= _LEAST_FRACTION * count and last * count > length * (count - 1):
            # with nothing in its last cell it was padded, not scaled
            yield Run(count, Fraction(length, count)), "fraction"
    for pitch in range(_LEAST_PADDED, length):
        count, rest = divmod(length, pitch)
        if rest and drawn[-1] - drawn[count * pitch] <= most_outside:
            # what lies behind the last drawn cell is leftover too
            yield Run(min(count, -(-last // pitch)), Fraction(pitch)), "padded"
        if rest and pitch - rest <= _MOST_SHORT and pitch >= _LEAST_FRACTION:
            yield Run(count + 1, Fraction(pitch)), "short"
    yield from ((run, "spaced") for run in _spaced(side))


def _spaced(side: Profile) -> Iterator[Run]:
    """Cells with empty gaps between, or an empty margin on both sides; the last gap may be at the end."""
    length = side.length
    for at in range(_MOST_SPACE + 1):
        if side.drawn[at] > _LEFT_OVER * side.drawn[-1]:
            break
        for gap in range(_MOST_SPACE + 1):
            if not (at or gap):
                continue
            for count in range(1, (length - 2 * at + gap) // (_LEAST_CELL + gap) + 1):
                cell, rest = divmod(length - 2 * at - (count - 1) * gap, count)
                if rest == 0 and cell >= _LEAST_CELL:
                    yield Run(count, Fraction(cell), at, gap)
                pitch, rest = divmod(length - at, count)
                if gap and rest == 0 and pitch - gap >= _LEAST_CELL:
                    yield Run(count, Fraction(pitch - gap), at, gap)


class _Dips:
    """How much a picture is more like itself at a pitch than at the middling one of those from 0.55 to 1.45 of it."""

    def __init__(self, unlike: NDArray[np.float64]) -> None:
        self._unlike = unlike
        self._known: dict[int, float] = {}

    def at(self, pitch: Fraction) -> float:
        """For parts of pixels, the better of the whole numbers beside it."""
        length = len(self._unlike)
        low = int(pitch)
        high = low + (pitch.denominator > 1)
        if low < 2 or high >= length or length - pitch < 4:
            return 0.0
        return max(self._whole(low), self._whole(high))

    def off(self, pitch: Fraction) -> float:
        """How far the pitch is from the likest within 3 pixels of it."""
        middle = round(pitch)
        start, stop = max(2, middle - _NEAREST), min(len(self._unlike) - 2, middle + _NEAREST + 1)
        if start >= stop:
            return 0.0
        likest = start + int(self._unlike[start:stop].argmin())
        return min(float(_NEAREST), abs(float(likest - pitch)))

    def below(self, pitch: Fraction) -> float:
        """The deepest at a 2nd to 5th of the pitch."""
        return max((self.at(pitch / part) for part in range(2, 6) if pitch >= 3 * part), default=0.0)

    def _whole(self, pitch: int) -> float:
        if pitch not in self._known:
            start, stop = max(1, int(0.55 * pitch)), min(len(self._unlike) - 1, int(1.45 * pitch) + 1) + 1
            near = self._unlike[start:stop]
            self._known[pitch] = float(np.median(near) - self._unlike[pitch]) if len(near) >= 3 else 0.0
        return self._known[pitch]


def _judged(side: Profile, run: Run, kind: RunKind, dips: _Dips) -> Candidate:
    starts, ends = _edges(run, side.length)
    outside = 1 - _inside(side, starts, ends) if kind in ("padded", "spaced") else 0.0
    meeting, steps = _at_borders(side, run, starts, ends)
    average, mean_step = _average(side.touching), _average(side.step)
    one = Candidate(
        run=run,
        kind=kind,
        touching=float(meeting.mean()) / side.thickness if run.count > 1 else 0.0,
        touching_ratio=min(2.0, float(meeting.mean()) / average) if run.count > 1 and average else 0.0,
        step_ratio=log(float(steps.mean()) / mean_step + 0.05) if run.count > 1 and mean_step else 0.0,
        clean=float(np.mean(meeting == 0)) if run.count > 1 else 1.0,
        dip=dips.at(run.pitch) if run.count > 1 else 0.0,
        sub_dip=dips.below(run.pitch),
        off_dip=dips.off(run.pitch) if run.count > 1 else 0.0,
        outside=outside,
    )
    return one._replace(score=_score(one))


def _score(one: Candidate) -> float:
    """Return what this direction alone says of it, roughly: the closer look comes later."""
    uneven = {"whole": 0.0, "fraction": 4.0, "padded": 4.0, "short": 4.0, "spaced": 3.3 + 20 * one.touching}
    return (
        -4.5 * one.touching
        - 2.4 * one.touching_ratio
        + 0.5 * one.step_ratio
        + 0.96 * log(one.run.count)
        - 0.55 * log(one.cell)
        + 4 * one.dip
        - 5 * one.sub_dip
        + 6 * max(0.0, one.sub_dip - one.dip)
        - 20 * one.outside
        - uneven[one.kind]
    )


def _edges(run: Run, length: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Starts and ends, within the side."""
    starts, ends = run.edges()
    return np.minimum(starts, length), np.minimum(ends, length)


def _inside(side: Profile, starts: NDArray[np.int64], ends: NDArray[np.int64]) -> float:
    """Share of what is drawn that lies in cells."""
    return float((side.drawn[ends] - side.drawn[starts]).sum() / side.drawn[-1])


def _at_borders(
    side: Profile, run: Run, starts: NDArray[np.int64], ends: NDArray[np.int64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How many drawn pixels meet at each inner border (or lie in each gap), and the difference across it."""
    if run.gap:
        return side.drawn[starts[1:]] - side.drawn[ends[:-1]], side.step[starts[1:]]
    return side.touching[starts[1:]], side.step[starts[1:]]


def _average(values: NDArray[np.float64]) -> float:
    """Over all places between two pixels."""
    return float(values[1:-1].mean()) if len(values) > 2 else 0.0
