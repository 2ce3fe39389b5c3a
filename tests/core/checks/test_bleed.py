"""Bleeding is what plain filtering in 64 bits shows, and the cures bring none."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from kivel.core.checks.bleed import frame_bleed
from kivel.core.layout.grid import Grid
from kivel.core.pixels.pixels import Pair, Rect, Size

Plane = NDArray[np.float64]


def halving(side: int) -> Plane:
    """(side // 2, side): the share of each pixel in each of half as many, by area."""
    half = max(1, side // 2)
    edges = np.arange(half + 1) * side / half
    place = np.arange(side)
    low, high = np.maximum(edges[:-1, None], place), np.minimum(edges[1:, None], place + 1)
    shares = np.maximum(0, high - low)
    matrix: Plane = shares / shares.sum(axis=1, keepdims=True)
    return matrix


def sampling(start: int, end: int, whole: int, side: int, points: int = 257) -> Plane:
    """(points, side): bilinear samples from a border of a rectangle to the other."""
    place = np.clip(np.linspace(start, end, points) * side / whole - 0.5, 0, side - 1)
    first = np.floor(place).astype(int)
    matrix = np.zeros((points, side))
    matrix[np.arange(points), first] += 1 - (place - first)
    matrix[np.arange(points), np.minimum(first + 1, side - 1)] += place - first
    return matrix


def plainly(alpha: NDArray[np.uint8], rect: Rect, levels: int) -> list[float]:
    """The largest foreign alpha at each level, sampled densely."""
    page = alpha.astype(np.float64)
    page[rect.y : rect.bottom, rect.x : rect.right] = 0
    height, width = page.shape
    found = []
    for level in range(levels):
        if level:
            page = halving(page.shape[0]) @ page @ halving(page.shape[1]).T
        down = sampling(rect.y, rect.bottom, height, page.shape[0])
        across = sampling(rect.x, rect.right, width, page.shape[1])
        found.append(float((down @ page @ across.T).max()))
        if max(page.shape) == 1:
            break
    return found


@st.composite
def drawn_pages(draw: st.DrawFn) -> tuple[NDArray[np.uint8], Rect]:
    width, height = draw(st.integers(2, 70)), draw(st.integers(2, 70))
    random = np.random.default_rng(draw(st.integers(0, 999)))
    alpha = random.integers(0, 256, (height, width)) * (random.random((height, width)) < draw(st.floats(0, 1)))
    x, y = draw(st.integers(0, width - 1)), draw(st.integers(0, height - 1))
    return alpha.astype(np.uint8), Rect(x, y, draw(st.integers(1, width - x)), draw(st.integers(1, height - y)))


@settings(max_examples=25)
@given(drawn_pages())
def test_bleeding_is_what_plain_filtering_shows(page: tuple[NDArray[np.uint8], Rect]) -> None:
    """Dense samples come close to the exact maximum, and never exceed it."""
    alpha, rect = page
    measured, expected = frame_bleed(alpha, rect, [rect], 6), plainly(alpha, rect, 6)
    assert [one.level for one in measured] == list(range(len(expected)))
    for one, dense in zip(measured, expected, strict=True):
        slope = 255 * max(rect.w, rect.h) / 256 / 2**one.level
        assert dense - 0.01 <= one.edge <= dense + max(0.5, 2 * slope)
        assert one.inside <= one.edge + 1e-3


@pytest.mark.parametrize("skirt", [0, 4])
@pytest.mark.parametrize(("gap", "clean"), [(0, 0), (2, 1), (11, 4), (16, 4)])
def test_gaps_are_clean_to_the_level_that_the_guide_promises(gap: int, clean: int, skirt: int) -> None:
    """A gap of 1.5 * 2^N - 1 lets nothing in at mips up to N; a skirt is the frame's own."""
    grid = Grid(5, 4, Size(16, 16), Pair(gap, gap), Pair(gap, gap))
    # sides that halve: where they do not, a level is made of three pixels, and reaches further
    alpha = np.zeros((-(-grid.size.h // 16) * 16, -(-grid.size.w // 16) * 16), np.uint8)
    for number in range(20):
        rect = grid.cell_rect(number)
        alpha[rect.y : rect.bottom, rect.x : rect.right] = 255
    rect = grid.cell_rect(7)
    own = [Rect(rect.x - skirt, rect.y - skirt, rect.w + 2 * skirt, rect.h + 2 * skirt)]
    found = frame_bleed(alpha, rect, own, 4)
    assert all(one.edge < 1e-3 for one in found[:clean])
    assert clean == 4 or found[min(clean + 1, 3)].edge > 2 or skirt
