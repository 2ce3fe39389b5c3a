"""Companion maps of stacked layers, a pixel at a time in float64, by the shares of Porter and Duff."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

from kivel.core.pixels.blend import Layer
from kivel.core.pixels.light import Kind
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.pixels.stacked_maps import MappedLayer, stacked_map
from program import art

# of what is above and below, by their alphas a and b
SHARES: dict[str, Callable[[float, float], tuple[float, float]]] = {
    operator: eval(f"lambda a, b: ({shares})")
    for operator, shares in (
        ("src-over", "1, 1 - a"), ("src-in", "b, 0"), ("src-out", "1 - b, 0"), ("src-atop", "b, 1 - a"),
        ("xor", "1 - b, 1 - a"), ("copy", "1, 0"), ("clear", "0, 0"), ("dst-over", "1 - b, 1"), ("dst-in", "0, a"),
        ("dst-out", "0, 1 - a"), ("dst-atop", "1 - b, a"),
    )
}  # fmt: skip
BLENDS = ("normal", "multiply", "plus-lighter")
SIZE = Size(5, 4)


def picture(seed: int) -> Pixels:
    """With every kind of alpha: none, full and between."""
    image = art(seed, width=SIZE.w, height=SIZE.h).copy()
    image[..., 3] = np.random.default_rng(seed).choice([0, 0, 90, 200, 255, 255], image.shape[:2])
    return image


def expected(
    colors: list[Pixels], maps: list[Pixels | None], blend: str, operator: str, opacity: float, kind: Kind
) -> Any:
    """The map of two layers as float64, straight, 0 to 255."""
    found = np.zeros((SIZE.h, SIZE.w, 4))
    for y, x in itertools.product(range(SIZE.h), range(SIZE.w)):
        a, b = colors[1][y, x, 3] / 255 * opacity, colors[0][y, x, 3] / 255
        above, below = SHARES[operator](a, b)
        covers = blend == "normal" or operator not in ("src-over", "src-atop")
        light = [np.zeros(4) if one is None else one[y, x] / 255.0 for one in maps]
        if kind == "color":
            if blend == "plus-lighter":
                above, below = 1, 1
            elif not covers:
                below = 1
            for one in light:
                one[:3] *= one[3]
            value = np.minimum(light[1] * opacity * above + light[0] * below, 1)
            found[y, x] = [*(np.clip(value[:3] / value[3], 0, 1) if value[3] > 1e-6 else np.zeros(3)), value[3]]
            continue
        if blend == "plus-lighter" or not covers:
            above, below = (0 if operator == "src-atop" else 1 - b), 1
        whole = a * above + b * below
        share = a * above / whole if whole > 0 and maps[1] is not None else 0
        if kind == "normal":
            vectors = [(one[:3] * 2 - 1) * one[3] for one in light]
            mixed = vectors[1] * share + vectors[0] * (1 - share)
            length = np.linalg.norm(mixed)
            unit = mixed / length if length > 1e-6 else np.array([0, 0, 1])
            found[y, x] = [*(unit * 0.5 + 0.5), light[1][3] * share + light[0][3] * (1 - share)]
            exact = {0: 0, 1: 1}.get(share)
            if exact is not None:
                found[y, x] = light[exact]
        else:
            found[y, x] = light[1] * share + light[0] * (1 - share)
    return found * 255


@pytest.mark.parametrize("kind", ["color", "mask", "normal"])
@pytest.mark.parametrize("operator", SHARES)
def test_each_map_goes_where_its_layer_shows(operator: str, kind: Kind) -> None:
    for number, (blend, opacity, has_map) in enumerate(itertools.product(BLENDS, (1.0, 0.5), (True, False))):
        if blend == "plus-lighter" and operator != "src-over":
            continue
        colors, maps = [picture(number), picture(number + 50)], [picture(number + 20), picture(number + 70)]
        brought = [maps[0], maps[1] if has_map else None]
        layers = [
            MappedLayer(Layer(colors[0]), brought[0]),
            MappedLayer(Layer(colors[1], blend, opacity, operator=operator), brought[1]),
        ]
        made = stacked_map(SIZE, layers, kind, depth=8)
        wanted = expected(colors, brought, blend, operator, opacity, kind)
        seen = wanted[..., 3:] > 0.5
        assert np.abs(np.where(seen | (kind == "mask"), made - wanted, 0)).max() < 0.53, (blend, opacity, has_map)
        assert np.abs(made[..., 3] - wanted[..., 3]).max() < 0.53


def test_what_nothing_covers_is_not_changed_by_a_bit() -> None:
    """Colours under alpha 0 included, of 16 bits too; a layer with an offset covers where it lies."""
    base, own = picture(1), picture(2).astype(np.uint16) * 257 + 1
    patch = np.full((2, 2, 4), 255, np.uint8)
    for kind in ("color", "normal", "mask"):
        layers = [MappedLayer(Layer(base), own), MappedLayer(Layer(patch, offset=(3, 1)), patch)]
        made = stacked_map(SIZE, layers, kind, depth=16)
        kept = np.ones((SIZE.h, SIZE.w), bool)
        kept[1:3, 3:5] = False
        assert np.array_equal(made[kept], own[kept])
        assert (made[~kept] == 65535).all()


def test_light_of_a_layer_reaches_beyond_it_and_what_is_over_it_covers_it() -> None:
    """A lamp on an empty base, with a halo where it has no colour, behind a fence."""
    nothing, lamp, fence = (np.zeros((1, 3, 4), np.uint8) for _ in range(3))
    lamp[0, 0] = fence[0, 2] = 255
    halo = np.full((1, 3, 4), 200, np.uint8)
    layers = [MappedLayer(Layer(nothing), None), MappedLayer(Layer(lamp), halo), MappedLayer(Layer(fence), None)]
    made = stacked_map(Size(3, 1), layers, "color", depth=8)
    assert made[0].tolist() == [[200] * 4, [200] * 4, [0] * 4]
