"""What speaks for a grid, against the same counted pixel by pixel."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise
from math import log

import numpy as np
import pytest
from drawn_sheets import drawn_sheet
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from numpy.typing import NDArray

from kivel.core.slicing.background import Drawn, drawn_part
from kivel.core.slicing.candidates import Candidate, candidates
from kivel.core.slicing.cell_sums import OfCells, cell_sums
from kivel.core.slicing.evidence import Profile, gathered_evidence
from kivel.core.slicing.lattice import Lattice, Run
from kivel.core.slicing.ranking import WEIGHTS, features, pairs_of, ranked_grids

SEEN = arrays(bool, st.tuples(st.integers(2, 12), st.integers(2, 12)))


def counted(seen: NDArray[np.bool_], lattice: Lattice) -> OfCells:
    """By looking into each cell."""
    centres, touched = [], []
    for cell in lattice.cells():
        part = seen[cell.y : cell.bottom, cell.x : cell.right]
        if part.any():
            y, x = np.nonzero(part)
            middle = (part.shape[1] / 2, part.shape[0] / 2)
            centres.append(((x.mean() + 0.5 - middle[0]), (y.mean() + 0.5 - middle[1])))
            touched.append(sum(bool(edge.any()) for edge in (part[0], part[-1], part[:, 0], part[:, -1])))
    if not centres:
        return OfCells(0, 0.0, 0.0, (0.0, 0.0, 0.0))
    spread = np.std(centres, axis=0) / (float(lattice.across.cell), float(lattice.down.cell))
    shares = [float(np.mean([edges >= least for edges in touched])) for least in (1, 2, 3)]
    return OfCells(len(centres), spread[0], spread[1], (shares[0], shares[1], shares[2]))


@given(SEEN, st.data())
def test_sums_say_what_lies_in_the_cells(seen: NDArray[np.bool_], data: st.DataObject) -> None:
    height, width = seen.shape
    across, down = (Run(n, Fraction(length, n)) for length in (width, height) for n in [data.draw(st.integers(1, 3))])
    lattice = Lattice(across, down)
    if any(cell.w < 1 or cell.h < 1 for cell in lattice.cells()):
        return
    found, expected = cell_sums(seen, [across], [down]).of(lattice), counted(seen, lattice)
    assert found.filled == expected.filled
    np.testing.assert_allclose(found[1:3], expected[1:3], atol=1e-6)
    np.testing.assert_allclose(found.touched, expected.touched)


def profile(image: NDArray[np.uint8], drawn: Drawn) -> Profile:
    return gathered_evidence(image, drawn).across


@given(arrays(np.uint8, st.tuples(st.integers(1, 5), st.integers(3, 9), st.just(4))))
def test_a_profile_is_what_is_counted_along_a_side(image: NDArray[np.uint8]) -> None:
    image[..., 3] = np.where(image[..., 3] > 90, image[..., 3], 0)
    image[0, 0, 3] = 255
    seen = image[..., 3] > 0
    found = profile(image, Drawn(seen, None))
    if Drawn(seen, None).is_full:
        return
    values = image / 255
    channels = [(values[..., :3] @ (0.299, 0.587, 0.114)) * values[..., 3], values[..., 3]]
    length = image.shape[1]
    assert (found.length, found.thickness) == (length, image.shape[0])
    for border in range(length + 1):
        assert found.drawn[border] == seen[:, :border].sum()
        inside = 0 < border < length
        assert found.touching[border] == (sum(row[border - 1] and row[border] for row in seen) if inside else 0)
        step = sum(float(np.abs(one[:, border] - one[:, border - 1]).sum()) for one in channels) if inside else 0
        assert found.step[border] == pytest.approx(step, abs=1e-4)
    whole = sum(float(np.square(one).sum()) for one in channels)
    for moved in range(length):
        parts = [(one[:, moved:], one[:, : length - moved]) for one in channels]
        energy = sum(float(np.square(a).sum() + np.square(b).sum()) for a, b in parts)
        if energy > 1e-3 * whole:
            different = sum(float(np.square(a - b).sum()) for a, b in parts)
            assert found.unlike[moved] == pytest.approx(different / energy, abs=1e-3)


def figures(side: Profile, one: Candidate) -> dict[str, float]:
    """By the words of `Candidate`, for runs without gaps that fill the side."""
    borders = [int(place) for place in one.run.edges()[0][1:]]
    meeting = [side.touching[border] for border in borders]
    pitch, inner = one.run.pitch, range(1, side.length)

    def dip(at: int) -> float:
        near = [side.unlike[k] for k in range(max(1, int(0.55 * at)), min(side.length - 1, int(1.45 * at) + 1) + 1)]
        return float(np.median(near) - side.unlike[at]) if len(near) >= 3 else 0.0

    likest = min(range(max(2, int(pitch) - 3), min(side.length - 2, int(pitch) + 4)), key=lambda k: (side.unlike[k], k))
    mean_step = float(np.mean([side.step[k] for k in inner]))
    return {
        "touching": float(np.mean(meeting)) / side.thickness,
        "touching_ratio": min(2.0, float(np.mean(meeting)) / float(np.mean([side.touching[k] for k in inner]))),
        "step_ratio": log(float(np.mean([side.step[border] for border in borders])) / mean_step + 0.05),
        "clean": float(np.mean([pairs == 0 for pairs in meeting])),
        "dip": dip(int(pitch)),
        "sub_dip": max(dip(int(pitch / part)) for part in range(2, 6) if pitch >= 3 * part and pitch % part == 0),
        "off_dip": min(3.0, abs(likest - float(pitch))),
        "outside": 0.0,
    }


def test_the_figures_of_a_division_are_those_that_its_words_say() -> None:
    sheet = drawn_sheet("plain", 203)
    side = gathered_evidence(sheet.image, drawn_part(sheet.image)).across
    whole = [
        one
        for one in candidates(side)
        if one.kind == "whole" and one.run.count > 1 and one.cell >= 12 and all(one.cell % k == 0 for k in (2, 3, 4))
        and one.cell < side.length - 4
    ]  # fmt: skip
    assert whole
    for one in whole:
        expected = figures(side, one)
        if one.cell % 5 and one.cell >= 15:
            expected.pop("sub_dip")  # a fifth of it is no whole number of pixels
        for name, value in expected.items():
            assert getattr(one, name) == pytest.approx(value, abs=1e-6), name


@pytest.mark.parametrize("kind", ["plain", "padded", "spaced", "fractional"])
def test_grids_are_ranked_by_their_scores_and_nothing_of_a_picture_is_left_out(kind: str) -> None:
    sheet = drawn_sheet(kind, 204)
    drawn = drawn_part(sheet.image)
    evidence = gathered_evidence(sheet.image, drawn)
    pairs = pairs_of(evidence)
    scores = features(drawn, pairs) @ list(WEIGHTS.values())
    ranks = ranked_grids(drawn, evidence)
    assert sum(rank.likelihood for rank in ranks) == pytest.approx(1)
    assert all(a.likelihood >= b.likelihood for a, b in pairwise(ranks))
    best = pairs[int(np.argmax(scores))]
    assert ranks[0].lattice == Lattice(best[0].run, best[1].run)
    assert ranks[0].likelihood / ranks[1].likelihood == pytest.approx(np.exp(np.diff(np.sort(scores)[-2:])[0]))
    assert Lattice(Run(1, Fraction(sheet.image.shape[1])), Run(1, Fraction(sheet.image.shape[0]))) in [
        rank.lattice for rank in ranks
    ]
    for side in (evidence.across, evidence.down):
        for one in candidates(side):
            starts, ends = (np.minimum(edge, side.length) for edge in one.run.edges())
            inside = sum(side.drawn[end] - side.drawn[start] for start, end in zip(starts, ends, strict=True))
            assert inside >= 0.97 * side.drawn[-1]
