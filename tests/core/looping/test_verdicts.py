"""The verdicts that a practitioner would give, on drawn sequences of eight kinds, ten each."""

from __future__ import annotations

from collections import Counter
from functools import cache

import numpy as np
import pytest
from drawn_motion import ELSEWHERE, KINDS, LOOPS, drawn

from kivel.core.looping.seam import Seam, judge_seam, tile_seam
from kivel.core.looping.search import best_windows
from kivel.core.looping.signature import Signature, distances, planes_of, signatures, thumbnail
from kivel.core.pixels.pixels import Pixels

EACH = 5


def small(frames: list[Pixels]) -> list[Signature]:
    return signatures([thumbnail(frame) for frame in frames])


@cache
def sequence(kind: str, number: int) -> list[Pixels]:
    return drawn(kind, number)


@cache
def verdict(kind: str, number: int) -> Seam:
    return judge_seam(small(sequence(kind, number)))


def verdicts(*kinds: str) -> Counter[str]:
    return Counter(verdict(kind, number).verdict for kind in kinds for number in range(EACH))


def test_loops_close() -> None:
    """At most 2 in 100 are said not to."""
    assert verdicts(*LOOPS)["open"] <= 0.02 * EACH * len(LOOPS)


def test_bursts_are_bursts() -> None:
    assert verdicts("burst")["closes"] == 0
    assert all(verdict("burst", number).by in ("mass", "opacity") for number in range(EACH))


def test_what_ends_elsewhere_does_not_close() -> None:
    assert verdicts(*ELSEWHERE)["closes"] <= 0.15 * EACH * len(ELSEWHERE)


def test_loops_that_were_cut_do_not_close() -> None:
    """Cut where the seam is half as large again as any step: that pops."""
    cut = []
    for kind in LOOPS:
        for number in range(EACH):
            frames = sequence(kind, number)
            apart = distances(small(frames), range(1, len(frames)))
            largest = np.nanmax(apart[:, 0])
            lengths = [n for n in range(len(frames) // 2, len(frames) - 1) if n > 4 and apart[0, n - 2] > 1.4 * largest]
            if lengths:
                cut.append(judge_seam(small(frames[: lengths[len(lengths) // 2]])).verdict)
    assert len(cut) >= 3 * EACH
    assert cut.count("closes") <= 0.02 * len(cut)


def changed(frames: list[Pixels], *, closes: bool) -> list[list[Pixels]]:
    """The same motion otherwise: on a larger canvas, twice as large, each frame held, backwards; begun elsewhere."""
    mode = "edge" if frames[0][..., 3].min() == 255 else "constant"
    rolled = [frames[k:] + frames[:k] for k in (1, len(frames) // 3, len(frames) // 2)] if closes else []
    return [
        [np.pad(frame, ((7, 3), (5, 20), (0, 0)), mode=mode) for frame in frames],  # type: ignore[call-overload]
        [frame.repeat(2, 0).repeat(2, 1) for frame in frames],
        [frame for frame in frames for _ in range(2)],
        frames[::-1],
        *rolled,
    ]


@pytest.mark.parametrize("numbers", [range(0, EACH, 4), pytest.param(range(EACH), marks=pytest.mark.slow)])
def test_a_verdict_holds_for_the_same_motion_otherwise(numbers: range) -> None:
    """At most 1 in 100 changes."""
    same = [
        judge_seam(small(other)).verdict == verdict(kind, number).verdict
        for kind in KINDS
        for number in numbers
        for other in changed(sequence(kind, number), closes=kind in LOOPS)
    ]
    assert same.count(False) <= 0.01 * len(same)


def test_the_sentence_has_the_figure_that_decided() -> None:
    """A limit moved past that figure would turn it: so the verdict is beyond the limit, or within."""
    for kind in KINDS:
        for number in range(EACH):
            found = verdict(kind, number)
            values = {
                "largest": found.of_largest, "pairs": found.of_pairs, "repeat": found.change,
            }  # fmt: skip
            if found.by in values:
                assert found.value == pytest.approx(values[found.by])
            if found.verdict == "open":
                assert found.value > found.limit
            assert 0 <= found.confidence < 20


def test_the_true_period_is_found() -> None:
    """Loops repeated, with noise of half a step: first in 95 of 100, among three in 99."""
    places = []
    for kind in LOOPS:
        for number in range(EACH):
            if number % 5 in (1, 2, 3):  # flicker, noise and frames on twos are no clean loops
                continue
            frames = sequence(kind, number)
            rng = np.random.default_rng(number)
            long = [
                np.clip(frame + rng.normal(0, 2, frame.shape) * (frame[..., 3:] > 0), 0, 255).astype(np.uint8)
                for frame in (frames * 4)[: int(len(frames) * rng.uniform(2.2, 4))]
            ]
            windows = best_windows(small(long), max(2, len(frames) // 2), len(long) - 2)
            lengths = [window.length for window in windows]
            places.append(lengths.index(len(frames)) if len(frames) in lengths[:3] else 9)
    assert sum(place == 0 for place in places) >= 0.95 * len(places), places
    assert sum(place < 3 for place in places) >= 0.99 * len(places), places


def waves(seed: int, size: int = 48) -> Pixels:
    """A tile of waves of all lengths, as stone or grass has."""
    rng = np.random.default_rng(seed)
    rows, columns = np.mgrid[:size, :size]
    level = np.zeros((size, size))
    for _ in range(24):
        a, b = rng.integers(-8, 9, 2)
        weight = 1 / (1 + np.hypot(a, b))
        level += weight * np.sin(2 * np.pi * (a * columns + b * rows) / size + rng.uniform(0, 7))
    level = (level - level.min()) / np.ptp(level) * 255 + rng.normal(0, 6 * (seed % 3), level.shape)
    return np.dstack((*[np.clip(np.rint(level), 0, 255)] * 3, np.full_like(level, 255))).astype(np.uint8)


def test_tiles_meet_and_parts_of_them_do_not() -> None:
    tiles = [tile_seam(planes_of(waves(seed))).verdict for seed in range(40)]
    assert tiles.count("does not meet") <= 0.05 * len(tiles)
    parts = [tile_seam(planes_of(waves(seed)[:, :31])) for seed in range(40)]
    assert sum(part.meets for part in parts) == 0, [part for part in parts if part.meets]
