"""Stock movements tile, are as large as asked, and are the same everywhere."""

from __future__ import annotations

import hashlib

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.errors import UsageError
from kivel.core.pixels.pixels import Size
from kivel.core.prepare.displace import detailed, heights_of
from kivel.core.prepare.steps import moved_step, parse_step
from kivel.core.prepare.stock_movement import STOCK_MOVEMENTS, StockMovement, StockName, stock_heights
from program import art


@given(
    st.sampled_from(STOCK_MOVEMENTS), st.integers(24, 70), st.integers(24, 70), st.integers(8, 40), st.integers(0, 99)
)
def test_the_sides_meet_as_neighbours_do(name: StockName, width: int, height: int, size: int, seed: int) -> None:
    (heights,) = stock_heights(StockMovement(name, size, seed), Size(width, height))
    assert heights.shape == (height, width)
    assert np.abs(heights).max() <= 1
    for axis in (0, 1):
        steps = np.abs(np.diff(heights, axis=axis)).max()
        seam = np.abs(heights.take(0, axis) - heights.take(-1, axis)).max()
        assert seam <= 1.5 * steps + 0.02


def test_waves_are_as_long_as_asked_and_divide_the_picture() -> None:
    (heights,) = stock_heights(StockMovement("waves", 16), Size(64, 8))
    assert np.allclose(heights, np.sin(2 * np.pi * np.arange(64) / 16), atol=1e-6)
    (odd,) = stock_heights(StockMovement("waves", 15), Size(64, 8))
    assert np.array_equal(odd, heights)


def test_ripples_are_rings_around_the_middle() -> None:
    (heights,) = stock_heights(StockMovement("ripples", 400), Size(400, 400))
    for x, y in ((210, 200), (200, 190), (205, 205)):
        assert heights[y, x] == pytest.approx(np.cos(2 * np.pi * np.hypot(x - 200, y - 200) / 400), abs=1e-3)


@pytest.mark.parametrize("name", ["noise", "turbulence"])
def test_noise_fills_its_range_and_another_seed_is_another_one(name: StockName) -> None:
    (one,), (other,) = (stock_heights(StockMovement(name, 8, seed), Size(96, 96)) for seed in (0, 1))
    assert one.max() - one.min() > 1
    assert abs(float(np.corrcoef(one.ravel(), other.ravel())[0, 1])) < 0.2
    again = stock_heights(StockMovement(name, 8, 0), Size(96, 96))[0]
    assert np.array_equal(one, again)


def test_the_same_seed_gives_the_same_on_every_machine() -> None:
    (heights,) = stock_heights(StockMovement("noise", 8, 7), Size(32, 32))
    coarse = np.rint(heights * 100).astype(np.int8).tobytes()
    assert hashlib.sha256(coarse).hexdigest()[:16] == "5cb5a3b1f157fddc"


def test_a_name_is_no_file_and_an_image_has_no_size() -> None:
    assert parse_step("distort by=waves strength=2", where="").values["by"] == StockMovement("waves")
    assert parse_step("distort by=./waves strength=2", where="").values["by"] == "./waves"
    assert moved_step("distort by=waves strength=2", lambda path: f"../{path}") == "distort by=waves strength=2"
    assert moved_step("distort by=w.png strength=2", lambda path: f"../{path}") == "distort by=../w.png strength=2"
    with pytest.raises(UsageError, match=r"an image or waves, ripples, .*, found 'wave'; did you mean waves"):
        parse_step("distort by=wave strength=3", where="step 1")
    with pytest.raises(UsageError, match="size and seed are for a stock movement"):
        detailed(art(1), 9, None)
    assert heights_of(detailed(StockMovement("noise"), 9, 3), Size(5, 4)).shape == (1, 4, 5)
