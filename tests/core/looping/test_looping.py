"""Seams, windows, cross-fades and tiles."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.errors import UsageError
from kivel.core.looping.closing import closed
from kivel.core.looping.seam import Decider, TileSeam, Verdict, judge_seam, tile_seam
from kivel.core.looping.search import best_windows
from kivel.core.looping.signature import Signature, changes, distances, planes_of, signature, signatures, thumbnail
from kivel.core.pixels.pixels import Pixels
from strategies import images


def blob(x: float, y: float = 20, *, bright: float = 1.0) -> Pixels:
    """A soft round spot on black, 48x40."""
    rows, columns = np.mgrid[:40, :48] + 0.5
    level = np.exp(-((columns - x) ** 2 + (rows - y) ** 2) / 90) * bright
    grey = np.rint(level * 255).astype(np.uint8)
    return np.dstack((grey, grey, grey, np.full_like(grey, 255)))


@pytest.mark.parametrize(("width", "height"), [(31, 33), (32, 65), (100, 7), (45, 70)])
def test_averages_of_any_size_are_averages(width: int, height: int) -> None:
    """Of cells of different sizes too: a plain frame has one value, and no weight gets lost."""
    plain = signature(np.full((height, width, 4), 255, np.uint8))
    assert plain.size == (width, height)
    assert max(plain.values.shape[:2]) <= 32
    assert np.allclose(plain.values, 1)


def small(frames: list[Pixels]) -> list[Signature]:
    return signatures([thumbnail(frame) for frame in frames])


def circling(turns: list[float]) -> list[Signature]:
    return small([blob(24 + 12 * math.cos(t * math.tau), 20 + 10 * math.sin(t * math.tau)) for t in turns])


def even(count: int, *, of: int | None = None) -> list[float]:
    return [index / (of or count) for index in range(count)]


VERDICTS: dict[str, tuple[list[Signature], Verdict, Decider]] = {
    "a loop": (circling(even(16)), "closes", "largest"),
    "of few frames": (circling(even(6)), "closes", "largest"),
    "its first again": (circling(even(17, of=16)), "repeats", "repeat"),
    "three quarters": (circling(even(24, of=32)), "open", "largest"),
    "half": (circling(even(8, of=16)), "open", "largest"),
    "crossing": (small([blob(6 + 2 * index) for index in range(18)]), "open", "largest"),
    "fading": (small([blob(24, bright=1 - index / 16) for index in range(16)]), "burst", "mass"),
    "on twos": (circling([t for turn in even(8) for t in (turn, turn)]), "closes", "largest"),
    "on twos, begun within": (circling([0.125 * (index // 2) for index in range(1, 17)]), "closes", "repeat"),
    "there and back": (circling([*even(9, of=16), *[t / 16 for t in range(7, 0, -1)]]), "closes", "largest"),
    "still": (small([blob(24)] * 5), "still", ""),
    "of three frames": (circling(even(3)), "too few", ""),
    "of one": (circling([0.0]), "too few", ""),
}


@pytest.mark.parametrize(("signatures", "verdict", "by"), VERDICTS.values(), ids=VERDICTS)
def test_seams_are_judged_by_the_sequences_own_steps(
    signatures: list[Signature], verdict: Verdict, by: Decider
) -> None:
    found = judge_seam(signatures)
    assert (found.verdict, found.by) == (verdict, by), found


def test_a_burst_that_begins_and_ends_faint_starts_afresh() -> None:
    found = judge_seam(small([blob(24, bright=math.sin(math.pi * (index + 0.5) / 12)) for index in range(12)]))
    assert (found.verdict, found.afresh) == ("burst", True)
    assert not judge_seam(VERDICTS["fading"][0]).afresh


@pytest.mark.parametrize("count", [9, 24])
def test_a_seam_as_large_as_the_steps_is_no_fault(count: int) -> None:
    seam = judge_seam(circling(even(count)))
    assert seam.seam == pytest.approx(1, abs=0.15)


def test_the_best_window_is_the_period() -> None:
    turns = [index / 20 if index < 70 else 3.5 + (index - 70) / 7 for index in range(100)]
    windows = best_windows(circling(turns), 15, 40)
    assert (windows[0].length, windows[0].first) == (20, 0)
    assert windows[0].mismatch < 0.05
    assert all(a.mismatch <= b.mismatch + 0.05 for a, b in pairwise(windows))
    fast = [window for window in best_windows(circling(turns), 5, 9) if window.mismatch < 0.05]
    assert {window.length for window in fast} == {7}
    assert all(window.first >= 69 for window in fast)
    roomy = best_windows(circling(turns), 12, 40, room=75)
    assert all(window.last + 75 < 100 for window in roomy)


def test_stills_are_not_offered_as_loops() -> None:
    turns = [0.0] * 40 + even(50, of=25)
    [best, *_] = best_windows(circling(turns), 20, 30)
    assert best.length == 25
    assert best.first >= 39


@pytest.mark.parametrize(("shortest", "longest", "lengths"), [(15, 19, range(15, 20)), (15, 20, [20]), (20, 25, [20])])
def test_windows_are_as_long_as_asked(shortest: int, longest: int, lengths: list[int]) -> None:
    """The period is 20: within the bounds it is found, both ends included; outside, no window is longer or shorter."""
    windows = best_windows(circling(even(60, of=20)), shortest, longest)
    assert windows[0].length in lengths
    assert all(shortest <= window.length <= longest for window in windows)


def test_windows_that_do_not_fit_are_refused() -> None:
    with pytest.raises(UsageError, match=r"no window of 12 frames or more can be compared .* there are 8 frames"):
        best_windows(circling(even(8)), 12, 20)


@given(st.lists(images(shape=(4, 3), dtype=np.uint8), min_size=3, max_size=20), st.integers(1, 3))
def test_products_give_the_distances(frames: list[Pixels], lag: int) -> None:
    signatures = [signature(frame) for frame in frames]
    expected = np.array([np.sqrt(np.mean((planes_of(a) - planes_of(b)) ** 2)) for a, b in zip(frames, frames[lag:])])  # noqa: B905
    assert changes(signatures, lag) == pytest.approx(expected, abs=1e-5)
    found = distances(signatures, range(1, 4))
    assert found[: len(frames) - lag, lag - 1] == pytest.approx(expected, abs=1e-5)
    assert np.isnan(found[len(frames) - lag :, lag - 1]).all()


@given(images())
def test_a_signature_averages_premultiplied_values(image: Pixels) -> None:
    tall = image.repeat(40, axis=0)[:70]
    averaged = signature(tall)
    assert max(averaged.values.shape[:2]) <= 32
    assert averaged.values.min() >= 0
    assert averaged.values.max() <= 1 + 1e-6
    assert np.allclose(signature(image).values, planes_of(image), atol=1e-5)


def test_a_cross_fade_goes_on_from_the_end_and_into_the_start() -> None:
    shares = closed(0, 6, 3, 9)
    assert [[(share.frame, share.weight) for share in parts] for parts in shares] == [
        [(6, 0.75), (0, 0.25)],
        [(7, 0.5), (1, 0.5)],
        [(8, 0.25), (2, 0.75)],
        [(3, 1.0)],
        [(4, 1.0)],
        [(5, 1.0)],
    ]
    with pytest.raises(
        UsageError, match="a cross-fade of 4 frames needs a loop of at least that length and as many frames after it"
    ):
        closed(0, 6, 4, 9)


def test_tiles_are_judged_by_their_own_steps() -> None:
    wave = np.sin(np.arange(32) / 32 * math.tau) * 60 + 128
    tile = np.full((32, 32, 4), 255, np.uint8)
    tile[..., :3] = ((wave[:, None] + wave) / 2)[..., None]
    assert tile_seam(planes_of(tile)).meets
    cut = tile_seam(planes_of(tile[:, :21]))
    assert cut.across > 1.5
    assert cut.down <= 1.1
    assert tile_seam(planes_of(np.zeros((4, 4, 4), np.uint8))) == TileSeam(0, 0)
