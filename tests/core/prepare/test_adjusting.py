"""Brightness, contrast, saturation, hue, tint, one colour, blur and edges, by their formulas in float64."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

import plain
from kivel.core.errors import UsageError
from kivel.core.pixels.pixels import Pixels
from kivel.core.prepare.actions import Frame
from kivel.core.prepare.adjust import brightened, contrasted, hue_turned, only_color, saturated, tinted
from kivel.core.prepare.chain import prepared
from kivel.core.prepare.outlined import edged
from kivel.core.prepare.ramp import Stop
from kivel.core.prepare.soften import blurred
from kivel.core.prepare.steps import actions_of, parse_step
from program import art

CLOSE = 0.53
"""Of 255: the rounding, and what 32-bit floats add."""


def saturate(s: float, r: float, g: float, b: float) -> tuple[float, float, float]:
    """feColorMatrix of Filter Effects, type saturate."""
    return (
        (0.213 + 0.787 * s) * r + (0.715 - 0.715 * s) * g + (0.072 - 0.072 * s) * b,
        (0.213 - 0.213 * s) * r + (0.715 + 0.285 * s) * g + (0.072 - 0.072 * s) * b,
        (0.213 - 0.213 * s) * r + (0.715 - 0.715 * s) * g + (0.072 + 0.928 * s) * b,
    )


def hue_rotate(degrees: float, r: float, g: float, b: float) -> tuple[float, float, float]:
    """feColorMatrix of Filter Effects, type hueRotate."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return (
        (0.213 + c * 0.787 - s * 0.213) * r + (0.715 - c * 0.715 - s * 0.715) * g + (0.072 - c * 0.072 + s * 0.928) * b,
        (0.213 - c * 0.213 + s * 0.143) * r + (0.715 + c * 0.285 + s * 0.140) * g + (0.072 - c * 0.072 - s * 0.283) * b,
        (0.213 - c * 0.213 - s * 0.787) * r + (0.715 - c * 0.715 + s * 0.715) * g + (0.072 + c * 0.928 + s * 0.072) * b,
    )


FORMULAS: dict[str, tuple[Callable[[Pixels], Pixels], Callable[..., Any]]] = {
    "brightness": (lambda image: brightened(image, 1.7), lambda *rgb: [value * 1.7 for value in rgb]),
    "contrast": (lambda image: contrasted(image, 1.4), lambda *rgb: [value * 1.4 - 0.5 * 1.4 + 0.5 for value in rgb]),
    "less contrast": (lambda image: contrasted(image, 0.3), lambda *rgb: [value * 0.3 + 0.35 for value in rgb]),
    "saturation": (lambda image: saturated(image, 2.5), lambda *rgb: saturate(2.5, *rgb)),
    "grey": (lambda image: saturated(image, 0), lambda *rgb: saturate(0, *rgb)),
    "hue": (lambda image: hue_turned(image, 100), lambda *rgb: hue_rotate(100, *rgb)),
    "hue back": (lambda image: hue_turned(image, -30), lambda *rgb: hue_rotate(-30, *rgb)),
    "tint": (lambda image: tinted(image, (1, 0.5, 0.2)), lambda r, g, b: (r, g * 0.5, b * 0.2)),
    "half a tint": (lambda image: tinted(image, (1, 0.5, 0), 0.5), lambda r, g, b: (r, g * 0.75, b * 0.5)),
}


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
@pytest.mark.parametrize(("change", "formula"), FORMULAS.values(), ids=FORMULAS)
def test_colours_follow_the_formulas_and_alpha_stays(
    change: Callable[[Pixels], Pixels], formula: Callable[..., Any], dtype: type
) -> None:
    stored = art(5, width=23, height=9, dtype=np.uint16 if dtype is np.float32 else dtype)
    full = np.iinfo(stored.dtype).max
    light = np.vectorize(plain.linear)(stored / full).astype(np.float32)
    light[..., 3] = stored[..., 3] / full
    image = light if dtype is np.float32 else stored
    result = change(image)
    assert result.dtype == image.dtype
    assert np.array_equal(result[..., 3], image[..., 3])
    for y, x in np.ndindex(image.shape[:2]):
        wanted = np.clip(formula(*(stored[y, x, :3] / full)), 0, 1)
        found = [plain.encoded(v) for v in result[y, x, :3]] if dtype is np.float32 else result[y, x, :3] / full
        assert np.abs(np.array(found) - wanted).max() * 255 <= (0.01 if dtype is np.float32 else CLOSE)


def test_light_above_white_stays_above() -> None:
    lamp = np.array([[[4.0, 2.0, 1.0, 1.0]]], np.float32)
    assert brightened(lamp, 1.5)[0, 0, 0] > 8
    assert np.allclose(saturated(lamp, 1), lamp, rtol=1e-5)


def test_only_one_colour_is_kept_unchanged() -> None:
    image = art(3, width=40, height=30)
    image[::2, ::3, :3] = (60, 255, 60)
    image[0, 0], image[1, 1] = (68, 247, 60, 9), (69, 255, 60, 255)
    image[2, 2] = (60, 255, 60, 0)
    result = only_color(image, (60 / 255, 1, 60 / 255), 8 / 255)
    for y, x in np.ndindex(image.shape[:2]):
        near = max(abs(int(a) - b) for a, b in zip(image[y, x, :3], (60, 255, 60), strict=True)) <= 8
        assert np.array_equal(result[y, x], image[y, x] if near and image[y, x, 3] else np.zeros(4))


def bell(distance: float, radius: float) -> float:
    return math.exp(-0.5 * (distance / radius) ** 2)


@pytest.mark.parametrize("wraps", [False, True])
@pytest.mark.parametrize("radius", [0.6, 2.0])
def test_a_blur_is_a_gaussian_of_light(radius: float, wraps: bool) -> None:
    image = art(8, width=17, height=13)
    light, reach = plain.light(image), math.floor(4 * radius + 0.5)
    weights = {step: bell(step, radius) for step in range(-reach, reach + 1)}
    total = sum(weights.values())
    for axis in (0, 1):
        before, light = light, np.zeros_like(light)
        length = before.shape[axis]
        for step, weight in weights.items():
            for place in range(length):
                source = (place + step) % length if wraps else place + step
                if 0 <= source < length:
                    to: Any = (place,) if axis == 0 else (slice(None), place)
                    of: Any = (source,) if axis == 0 else (slice(None), source)
                    light[to] += weight / total * before[of]
    same(blurred(image, radius, wraps=wraps), light)


def same(found: Pixels, light: Any) -> None:
    """Within the rounding where alpha is enough to tell a colour."""
    assert np.abs(found[..., 3] - light[..., 3] * 255).max() <= CLOSE
    for y, x in np.ndindex(found.shape[:2]):
        alpha = light[y, x, 3]
        if alpha > 0.02:
            wanted = [plain.encoded(value / alpha) * 255 for value in light[y, x, :3]]
            assert np.abs(found[y, x, :3] - np.array(wanted)).max() <= CLOSE, (y, x)


@pytest.mark.parametrize("angle", [0.0, 90.0, 30.0, -45.0])
def test_a_blur_along_an_angle_smears_along_it(angle: float) -> None:
    """A dot becomes a line: its weights are the bell curve's, and its spread across the line is none."""
    image = np.zeros((41, 41, 4), np.uint16)
    image[20, 20] = 65535
    smeared = blurred(image, 4, angle=angle)[..., 3] / 65535
    assert smeared.sum() == pytest.approx(1, abs=0.01)
    rows, columns = np.mgrid[:41, :41] - 20.0
    along = columns * math.cos(math.radians(angle)) + rows * math.sin(math.radians(angle))
    across = rows * math.cos(math.radians(angle)) - columns * math.sin(math.radians(angle))
    assert math.sqrt((smeared * along**2).sum() / smeared.sum()) == pytest.approx(4, rel=0.04)
    assert math.sqrt((smeared * across**2).sum() / smeared.sum()) < 0.6


def test_edges_are_coloured_by_their_distance_from_the_outline() -> None:
    rows, columns = np.mgrid[:31, :31]
    image = art(4, width=31, height=31)
    image[..., 3] = np.where(np.hypot(rows - 15, columns - 15) <= 11, 255, 0)
    stops = (Stop((1, 1, 1), 0.0), Stop((1, 0, 0), 1.0))
    result, faded = edged(image, stops, 3), edged(image, (), 3, fade=True)
    outside = np.argwhere(image[..., 3] == 0)
    for y, x in np.ndindex(31, 31):
        share = (np.hypot(*(outside - (y, x)).T).min() - 0.5) / 3
        if image[y, x, 3] == 0 or share >= 1:
            assert np.array_equal(result[y, x], image[y, x])
            assert np.array_equal(faded[y, x], image[y, x])
            continue
        other = plain.encoded(1 - share) * 255
        assert np.abs(result[y, x] - np.array([255, other, other, 255])).max() <= CLOSE
        assert abs(faded[y, x, 3] - share * 255) <= CLOSE
    assert edged(image[:3, 13:16], stops, 3) is not None
    opaque = np.full((4, 4, 4), 255, np.uint8)
    assert np.array_equal(edged(opaque, stops, 3), opaque)


WHITE = np.full((1, 1, 4), 255, np.uint8)


def pixels_over(text: str, count: int) -> list[list[int]]:
    """The first pixel of white frames after a step."""
    actions = actions_of([parse_step(text, where="s")], load_file=lambda _: None)
    made = prepared([lambda: Frame(WHITE)] * count, actions, run=lambda do, items: map(do, items))
    return [one.load().image[0, 0].tolist() for one in made]


def values_over(text: str, count: int) -> list[list[int]]:
    return [pixel[:3] for pixel in pixels_over(text, count)]


def alphas_over(text: str, count: int) -> list[int]:
    return [pixel[3] for pixel in pixels_over(text, count)]


def test_values_and_colours_change_over_the_frames() -> None:
    assert [rgb[0] for rgb in values_over("brightness 0..1", 6)] == [0, 51, 102, 153, 204, 255]
    half = round(plain.encoded(0.5) * 255)
    for text, expected in (
        ("opacity 0..1", [0, 85, 170, 255]), ("opacity 0..1 ends=open", [64, 128, 191, 255]),
        ("opacity 1..0 ends=open", [255, 191, 128, 64]), ("opacity 0..0 ends=open", [0, 0, 0, 0]),
        ("opacity 0..1 over=1-2 ends=open", [0, 128, 255, 255]), ("opacity 0.5..1 ends=open", [128, 170, 212, 255]),
    ):  # fmt: skip
        assert alphas_over(text, 4) == expected, text
    assert values_over("tint #000..#fff over=1-3", 5) == [[value] * 3 for value in (0, 0, half, 255, 255)]
    ramped = values_over("ramp #000 #00f..#f00", 3)
    assert ramped == [[0, 0, 255], [half, 0, half], [255, 0, 0]]
    assert values_over("edge #000..#fff width=2", 2) == [[255] * 3] * 2  # nothing is outside


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("edge width=2", "use colours, like #ffffff #a6452e, or fade"),
        ("tint red", "tint: color: expected a colour like #00b140, found 'red'"),
        ("keep-color #fff..#000", "expected a colour like #00b140, found '#fff..#000'"),
        ("brightness 1 over=0-3", "over= is for a value that changes, like brightness 0..1; there is none"),
        ("opacity 1 ends=open", "ends= is for a value that changes, like opacity 0..1; there is none"),
        ("opacity 0..1 ends=shut", "expected closed or open, found 'shut'"),
        ("tint #fff pace=ease", "pace= is for a value that changes, like tint #000..#fff; there is none"),
    ],
)
def test_what_makes_no_sense_is_refused(text: str, message: str) -> None:
    with pytest.raises(UsageError) as error:
        actions_of([parse_step(text, where="s")], load_file=lambda _: None)
    assert message in str(error.value)
