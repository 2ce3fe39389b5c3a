"""Palettes hold what they can, err little where they cannot, and change nothing that they need not."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kivel.core.option_words import Dither
from kivel.core.pixels.palettes import Colours, Error, Palette, best_palette, error_between
from kivel.core.pixels.pixels import Pixels


def colours_of(*frames: Pixels, premultiplied: bool = False) -> Colours:
    colours = Colours(premultiplied=premultiplied)
    for frame in frames:
        colours.add(frame)
    return colours


def glow(shift: float = 0.0) -> Pixels:
    """A soft light with a coloured rim, on nothing."""
    y, x = np.mgrid[-1:1:48j, -1:1:48j]
    alpha = np.clip(1.1 - np.hypot(x + shift, y) * 1.3, 0, 1)
    image = np.stack((alpha**0.5, alpha, 0.4 + 0.4 * x, alpha), axis=-1)
    return np.where(alpha[..., None] > 0, image * 255, 0).astype(np.uint8)


BLUES = np.array([[0, 0, 0, 0], [10, 20, 60, 255], [10, 20, 160, 255], [250, 250, 0, 255]], np.uint8)


def between(share: float) -> Pixels:
    """So much of the way from one blue to the other."""
    return np.full((16, 16, 4), np.rint(BLUES[1] * (1 - share) + BLUES[2] * share), np.uint8)


@settings(max_examples=50)
@given(count=st.integers(2, 40), more=st.integers(0, 3), seed=st.integers(0, 99))
def test_few_colours_stay_as_they_are_and_more_are_never_made(count: int, more: int, seed: int) -> None:
    table = np.random.default_rng(seed).integers(0, 256, (count + more, 4), np.uint8)
    frame = table[np.arange(20 * 20).reshape(20, 20) % len(table)]
    palette = best_palette(colours_of(frame), count)
    mapped = palette.mapped(frame)
    assert len(np.unique(mapped.reshape(-1, 4), axis=0)) <= count
    if len(np.unique(table, axis=0)) <= count:
        assert (mapped == frame).all()


@pytest.mark.parametrize("premultiplied", [False, True])
def test_more_colours_err_less_and_nothing_stays_nothing(premultiplied: bool) -> None:
    frames = [glow(shift) for shift in (-0.2, 0.0, 0.2)]
    if premultiplied:
        for frame in frames:
            frame[..., :3] = frame[..., :3].astype(int) * frame[..., 3:] // 255
    errors = []
    for count in (4, 16, 64, 256):
        palette = best_palette(colours_of(*frames, premultiplied=premultiplied), count)
        assert len(palette.colours) <= count
        mapped = [palette.mapped(frame) for frame in frames]
        assert all((after[before[..., 3] == 0] == 0).all() for before, after in zip(frames, mapped, strict=True))
        pairs = zip(frames, mapped, strict=True)
        errors.append(float(np.mean([error_between(*pair, premultiplied=premultiplied) for pair in pairs])))
    assert errors == sorted(errors, reverse=True)
    assert Error.decibels(errors[-1]) > 42


def test_opaque_stays_opaque_and_a_palette_does_not_hang_on_the_order_of_frames() -> None:
    frames = [np.dstack((glow(shift)[..., :3], np.full((48, 48), 255, np.uint8))) for shift in (0.0, 0.3)]
    tables = [best_palette(colours_of(*order), 24).colours for order in (frames, frames[::-1])]
    assert (tables[0] == tables[1]).all()
    assert set(tables[0][:, 3]) == {255}


@pytest.mark.parametrize("dither", ["none", "ordered"])
def test_what_stands_still_does_not_flicker(dither: Dither) -> None:
    """A pixel that is the same in two frames is the same in both afterwards, whatever is around it."""
    first, second = glow(), glow()
    second[:, 30:] = glow(0.3)[:, 30:]
    palette = best_palette(colours_of(first, second), 12, dither=dither)
    one, other = palette.mapped(first), palette.mapped(second)
    assert (one[:, :30] == other[:, :30]).all()
    if dither == "ordered":
        for share in (0.2, 0.45):
            spread = Palette(BLUES, dither=dither).mapped(between(share))
            assert np.unique(spread[..., 3]).tolist() == [255]
            assert (spread[:8, :8] == spread[8:, 8:]).all()
            assert abs(spread[..., 2].mean() - between(share)[0, 0, 2]) < 2


def test_errors_are_those_of_what_is_seen() -> None:
    before = np.array([[[200, 100, 0, 255], [255, 255, 255, 0]]], np.uint8)
    after = np.array([[[200, 100, 0, 255], [0, 0, 0, 51]]], np.uint8)
    assert error_between(before, before) == Error(0, 0)
    assert error_between(before, after) == Error(0, 51**2 / 2)
    assert Error.decibels(0) == float("inf")
