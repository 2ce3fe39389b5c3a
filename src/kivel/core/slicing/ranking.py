"""Which of the grids that a picture might have it has: a linear score, and its softmax as the confidence.

A conditional logit (McFadden 1974, "Conditional logit analysis of qualitative choice behavior"), its weights fitted to
sheets whose grids are known.
"""

from __future__ import annotations

from itertools import islice
from math import log, log2

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.slicing.background import Drawn
from kivel.core.slicing.candidates import Candidate, candidates
from kivel.core.slicing.cell_sums import CellSums, cell_sums
from kivel.core.slicing.evidence import Evidence
from kivel.core.slicing.lattice import Lattice

__all__ = ["WEIGHTS", "GridRank", "features", "pairs_of", "ranked_grids"]

_PAIRS = 64
_MOST_CELLS = 20_000
"""The most cells of a grid that is looked for: more than any sheet has, and slow to look into."""
_LEAST_DIP = 0.01

Pairing = tuple[Candidate, Candidate]


class GridRank(NamedTuple):
    """A grid, and how likely it is among all that were thought of, 0 to 1.

    `dip` is how much more the picture is like itself at the grid's pitches than near them, of both directions.
    """

    lattice: Lattice
    likelihood: float
    dip: float


WEIGHTS = {
    "touching": -0.48, "touching_ratio": -3.09, "step_ratio": 0.82, "clean": 2.92, "dip": 7.41,
    "dip_of_best": -0.56, "sub_dip": -14.66, "sub_dip_excess": 15.66, "off_dip": -0.68, "outside": -429.4,
    "ln_count": 0.45, "ln_cell": -1.56, "below_16": -1.84, "below_8": -3.6, "spaced": -1.62,
    "short": -5.21, "fraction": -0.43, "padded": -1.43, "uneven_sides": -2.96, "aspect": -1.64,
    "ln_cells": 0.45, "up_to_2": -3.82, "one_cell": 0.12, "one_row": -2.62, "square": 0.59,
    "filled": 3.1, "centre_spread_x": -13.18, "centre_spread_y": -13.91, "edges_1": -1.89, "edges_2": -1.96,
    "edges_3": 0.4,
}  # fmt: skip
"""Says what each feature adds to the score: the first of both directions added up, those from `uneven_sides` on of the
whole grid.
"""


def ranked_grids(drawn: Drawn, evidence: Evidence) -> list[GridRank]:
    """The grids that a picture might have, the likeliest first. Something must be drawn."""
    pairs = pairs_of(evidence)
    scores = features(drawn, pairs) @ np.array(list(WEIGHTS.values()))
    likelihoods = np.exp(scores - scores.max())
    likelihoods /= likelihoods.sum()
    order = np.argsort(-likelihoods, kind="stable")
    return [_rank(pairs[k], float(likelihoods[k])) for k in order]


def _rank(pair: Pairing, likelihood: float) -> GridRank:
    across, down = pair
    return GridRank(Lattice(across.run, down.run), likelihood, across.dip + down.dip)


def pairs_of(evidence: Evidence) -> list[Pairing]:
    """The likeliest pairs of divisions across and down, and the picture as one cell."""
    across, down = candidates(evidence.across), candidates(evidence.down)
    pairs = [(one, other) for one in across for other in down if one.run.count * other.run.count <= _MOST_CELLS]
    pairs.sort(key=lambda pair: -(pair[0].score + pair[1].score - 2.1 * _aspect(pair)))
    whole = (pair for pair in pairs if pair[0].run.count == pair[1].run.count == 1 and _uneven(pair) == 0)
    kept = pairs[:_PAIRS]
    return kept + [pair for pair in islice(whole, 1) if pair not in kept]


def features(drawn: Drawn, pairs: list[Pairing]) -> NDArray[np.float64]:
    """(pairs, features): what the score of each grid is made of, in the order of `WEIGHTS`."""
    sums = cell_sums(drawn.seen, [pair[0].run for pair in pairs], [pair[1].run for pair in pairs])
    best = [max((one.dip for one in side if one.run.count > 1), default=0.0) for side in zip(*pairs, strict=True)]
    return np.array([_of_sides(pair, best) + _of_grid(pair, sums) for pair in pairs])


def _of_sides(pair: Pairing, best_dips: list[float]) -> list[float]:
    both = zip(*(_of_side(one, best) for one, best in zip(pair, best_dips, strict=True)), strict=True)
    return [one + other for one, other in both]


def _of_side(one: Candidate, best_dip: float) -> list[float]:
    return [
        one.touching,
        one.touching_ratio,
        one.step_ratio,
        one.clean,
        one.dip,
        one.dip / best_dip if one.run.count > 1 and best_dip > _LEAST_DIP else 0.0,
        one.sub_dip,
        max(0.0, one.sub_dip - one.dip),
        one.off_dip,
        one.outside,
        log(one.run.count),
        log(one.cell),
        one.cell < 16,
        one.cell < 8,
        one.run.gap > 0 or one.run.at > 0,
        one.kind == "short",
        one.kind == "fraction",
        one.kind == "padded",
    ]


def _of_grid(pair: Pairing, sums: CellSums) -> list[float]:
    across, down = pair
    cells = across.run.count * down.run.count
    of_cells = sums.of(Lattice(across.run, down.run))
    return [
        _uneven(pair),
        _aspect(pair),
        log(cells),
        cells <= 2,
        cells == 1,
        (across.run.count == 1) + (down.run.count == 1),
        across.run.cell == down.run.cell,
        of_cells.filled / cells,
        of_cells.spread_x,
        of_cells.spread_y,
        *of_cells.touched,
    ]


def _uneven(pair: Pairing) -> int:
    return sum(one.kind != "whole" for one in pair)


def _aspect(pair: Pairing) -> float:
    """How far from square a cell is, in powers of two."""
    return abs(log2(pair[0].cell / pair[1].cell))
