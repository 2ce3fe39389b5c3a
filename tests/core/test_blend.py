"""Blends against the formulas of W3C Compositing and Blending, a pixel at a time in float64."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import pytest

import plain
from kivel.core.errors import UsageError
from kivel.core.layers import LAYER, stack_length
from kivel.core.pixels.blend import BLENDS, OPERATORS, Layer, stacked
from kivel.core.pixels.pixels import Size
from kivel.core.prepare.written import parse_source
from program import art

Channel = Callable[[float, float], float]


def hard_light(b: float, s: float) -> float:
    return b * 2 * s if s <= 0.5 else b + (2 * s - 1) - b * (2 * s - 1)


def soft_light(b: float, s: float) -> float:
    if s <= 0.5:
        return b - (1 - 2 * s) * b * (1 - b)
    d = ((16 * b - 12) * b + 4) * b if b <= 0.25 else math.sqrt(b)
    return b + (2 * s - 1) * (d - b)


SEPARABLE: dict[str, Channel] = {
    "normal": lambda _, s: s,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: 1 - (1 - b) * (1 - s),
    "overlay": lambda b, s: hard_light(s, b),
    "darken": min,
    "lighten": max,
    "color-dodge": lambda b, s: 0 if b == 0 else 1 if s >= 1 else min(1, b / (1 - s)),
    "color-burn": lambda b, s: 1 if b >= 1 else 0 if s <= 0 else 1 - min(1, (1 - b) / s),
    "hard-light": hard_light,
    "soft-light": soft_light,
    "difference": lambda b, s: abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
}


def lum(c: list[float]) -> float:
    return 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2]


def set_lum(c: list[float], level: float) -> list[float]:
    c = [value + level - lum(c) for value in c]
    middle, low, high = lum(c), min(c), max(c)
    if low < 0:
        c = [middle + (value - middle) * middle / (middle - low) for value in c]
    if high > 1:
        c = [middle + (value - middle) * (1 - middle) / (high - middle) for value in c]
    return c


def set_sat(c: list[float], saturation: float) -> list[float]:
    low, high = min(c), max(c)
    return [(value - low) * saturation / (high - low) if high > low else 0.0 for value in c]


def sat(c: list[float]) -> float:
    return max(c) - min(c)


WHOLE: dict[str, Callable[[list[float], list[float]], list[float]]] = {
    "hue": lambda b, s: set_lum(set_sat(s, sat(b)), lum(b)),
    "saturation": lambda b, s: set_lum(set_sat(b, sat(s)), lum(b)),
    "color": lambda b, s: set_lum(s, lum(b)),
    "luminosity": lambda b, s: set_lum(b, lum(s)),
}


def composed(below: list[float], above: list[float], name: str) -> list[float]:
    """Section 5.8.1 and 9: Cs' = (1 - ab) Cs + ab B(Cb, Cs), then source over; premultiplied."""
    alpha_below, alpha_above = below[3], above[3]
    b, s = below[:3], above[:3]
    if name == "plus-lighter":
        return [min(1, x * alpha_below + y * alpha_above) for x, y in zip([*b, 1], [*s, 1], strict=True)]
    mixed = WHOLE[name](b, s) if name in WHOLE else [SEPARABLE[name](x, y) for x, y in zip(b, s, strict=True)]
    source = [(1 - alpha_below) * y + alpha_below * m for y, m in zip(s, mixed, strict=True)]
    colour = [alpha_above * y + (1 - alpha_above) * alpha_below * x for x, y in zip(b, source, strict=True)]
    return [*colour, alpha_above + alpha_below * (1 - alpha_above)]


@pytest.mark.parametrize("name", BLENDS)
def test_blends_are_those_of_the_recommendation(name: str) -> None:
    below, above = art(1, width=16, height=12), art(2, width=16, height=12)
    above[3], below[4] = below[3], (0, 0, 0, 255)
    above[5, ::2], below[6, ::3] = (255, 255, 255, 255), (255, 255, 255, 255)
    result = stacked(Size(16, 12), [Layer(below), Layer(above, name, opacity=0.75)])
    for y, x in np.ndindex(12, 16):
        b, s = (below[y, x] / 255).tolist(), (above[y, x] / 255).tolist()
        expected = composed(b, [*s[:3], s[3] * 0.75], name)
        assert result[y, x, 3] == pytest.approx(expected[3] * 255, abs=0.51)
        if result[y, x, 3] > 8:
            straight = [min(1.0, max(0.0, value / expected[3])) * 255 for value in expected[:3]]
            assert result[y, x, :3].tolist() == pytest.approx(straight, abs=0.6)


def test_layers_lie_at_their_offsets_and_fade_together() -> None:
    below, above = art(3, width=8, height=6), np.full((2, 3, 4), 255, np.uint8)
    placed = stacked(Size(8, 6), [Layer(below), Layer(above, offset=(6, -1))])
    assert (placed[0, 6:] == 255).all()
    placed[0, 6:] = below[0, 6:]
    visible = below[..., 3] > 0
    assert np.array_equal(placed[visible], below[visible])
    faded = stacked(Size(8, 6), [Layer(below)], opacity=0.5)
    assert np.abs(faded[..., 3] - below[..., 3] / 2).max() <= 0.5


def test_linear_light_mixes_light() -> None:
    black, white = np.array([[[0, 0, 0, 255]]], np.uint8), np.array([[[255, 255, 255, 128]]], np.uint8)
    assert stacked(Size(1, 1), [Layer(black), Layer(white)])[0, 0, 0] == 128
    linear = stacked(Size(1, 1), [Layer(black), Layer(white)], linear=True)[0, 0, 0]
    assert linear == round(plain.encoded(128 / 255) * 255)
    deep = stacked(Size(1, 1), [Layer(black), Layer(white.astype(np.uint16) * 257)])
    assert deep.dtype == np.uint16
    assert stacked(Size(1, 1), [Layer(black.astype(np.float32))]).dtype == np.float32


SHARES: dict[str, Callable[[float, float], tuple[float, float]]] = {
    "src-over": lambda s, _: (1, 1 - s),
    "src-in": lambda _, b: (b, 0),
    "src-out": lambda _, b: (1 - b, 0),
    "src-atop": lambda s, b: (b, 1 - s),
    "xor": lambda s, b: (1 - b, 1 - s),
    "copy": lambda *_: (1, 0),
    "clear": lambda *_: (0, 0),
    "dst-over": lambda _, b: (1 - b, 1),
    "dst-in": lambda s, _: (0, s),
    "dst-out": lambda s, _: (0, 1 - s),
    "dst-atop": lambda s, b: (1 - b, s),
}
"""Fa and Fb of section 9: co = as Fa Cs + ab Fb Cb."""


@pytest.mark.parametrize("operator", OPERATORS)
def test_operators_are_those_of_the_recommendation(operator: str) -> None:
    below, above = art(11, width=16, height=12), art(12, width=16, height=12)
    below[:, 3, 3], above[2, :, 3], above[5, :, 3] = 0, 0, 255
    result = stacked(Size(16, 12), [Layer(below), Layer(above, operator=operator)])
    for y, x in np.ndindex(12, 16):
        b, s = below[y, x] / 255, above[y, x] / 255
        keep_above, keep_below = SHARES[operator](s[3], b[3])
        alpha = s[3] * keep_above + b[3] * keep_below
        assert result[y, x, 3] == pytest.approx(alpha * 255, abs=0.53)
        if result[y, x, 3] > 8:
            colour = (s[3] * keep_above * s[:3] + b[3] * keep_below * b[:3]) / alpha
            assert result[y, x, :3].tolist() == pytest.approx((colour * 255).tolist(), abs=0.53)


def test_layers_are_written_behind_their_source() -> None:
    plain_values = {
        "blend": "normal", "opacity": 1.0, "offset": (0, 0), "matte": False, "operator": "over", "clip": False,
        "mask": None,
    }  # fmt: skip
    assert parse_source("a glow/", LAYER) == ("a glow/", plain_values)
    source, values = parse_source('"my glow"/x_#.png matte blend=screen opacity=50% offset=-2,3', LAYER)
    assert source == "my glow/x_#.png"
    assert values == {**plain_values, "blend": "screen", "opacity": 0.5, "offset": (-2, 3), "matte": True}
    for text, message in (
        ("glow/ blend=add", "blend: expected normal, multiply, "),
        ("glow/ opacty=1", "glow/ has no opacty=; did you mean opacity?"),
        ("opacity=1", "expected a source before the values"),
    ):
        with pytest.raises(UsageError, match=message.replace("?", "[?]")):
            parse_source(text, LAYER)


def test_stacks_are_as_long_as_asked() -> None:
    assert [stack_length([8, 12, 3], how) for how in ("longest", "base", "common")] == [12, 8, 24]
    with pytest.raises(UsageError, match="above the limit of 10,000"):
        stack_length([9973, 9967], "common")
