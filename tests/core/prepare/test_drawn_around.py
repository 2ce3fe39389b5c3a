"""Outlines, shadows and other colours, a pixel at a time."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.errors import UsageError
from kivel.core.pixels.pixels import PixelError, Pixels
from kivel.core.prepare.actions import Frame
from kivel.core.prepare.chain import prepared
from kivel.core.prepare.drawn_around import ColourPair, outlined_in, pairs_of_image, recoloured, shadowed
from kivel.core.prepare.steps import actions_of, parse_step
from program import art


def figure(seed: int, *, soft: bool = False) -> Pixels:
    generator = np.random.default_rng(seed)
    image = generator.integers(0, 256, (7, 9, 4), np.uint8)
    image[..., 3] = generator.choice([0, 0, 0, 255] if not soft else [0, 0, 60, 200, 255], (7, 9))
    return image


def distance(y: int, x: int, other: tuple[int, int], neighbors: int) -> int:
    down, across = abs(y - other[0]), abs(x - other[1])
    return down + across if neighbors == 4 else max(down, across)


@given(st.integers(0, 99), st.integers(1, 3), st.sampled_from((4, 8)), st.sampled_from(("outside", "inside")))
def test_a_line_is_as_far_as_its_width_counted_over_neighbours(
    seed: int, width: int, neighbors: int, side: Any
) -> None:
    image = figure(seed)
    made = outlined_in(image, (1.0, 0.2, 0.0), width, side=side, neighbors=neighbors)
    seen = [place for place in itertools.product(range(7), range(9)) if image[place][3]]
    empty = [place for place in itertools.product(range(7), range(9)) if not image[place][3]]
    for place in itertools.product(range(7), range(9)):
        others = seen if side == "outside" else empty
        own = (place in empty) == (side == "outside")
        is_line = own and any(distance(*place, other, neighbors) <= width for other in others)
        assert made[place].tolist() == ([255, 51, 0, 255] if is_line else image[place].tolist())


@given(st.integers(0, 99), st.integers(-4, 4), st.integers(-4, 4), st.sampled_from((1.0, 0.5)))
def test_a_shadow_lies_below_what_is_seen(seed: int, x: int, y: int, opacity: float) -> None:
    image = figure(seed, soft=True)
    made = shadowed(image, (x, y), (0.0, 0.0, 1.0), opacity)
    for row, column in itertools.product(range(7), range(9)):
        inside = 0 <= row - y < 7 and 0 <= column - x < 9
        shadow = (np.rint(image[row - y, column - x, 3] * opacity) if inside else 0) / 255
        above = image[row, column, 3] / 255
        alpha = above + shadow * (1 - above)
        if not shadow * (1 - above):
            assert made[row, column].tolist() == image[row, column].tolist()
            continue
        colour = (image[row, column, :3] * above + np.array([0, 0, 255]) * shadow * (1 - above)) / alpha
        assert np.abs(made[row, column] - [*colour, alpha * 255]).max() < 0.53


def test_colours_are_replaced_all_at_once_and_the_rest_stays() -> None:
    image = figure(3)
    first, second = (tuple(map(int, image[place][:3])) for place in ((0, 0), (1, 1)))
    made = recoloured(image, [ColourPair(first, second), ColourPair(second, first)])  # type: ignore[arg-type]
    assert made[0, 0].tolist() == [*second, image[0, 0, 3]]
    assert made[1, 1].tolist() == [*first, image[1, 1, 3]]
    assert np.array_equal(recoloured(made, [ColourPair(first, second), ColourPair(second, first)]), image)  # type: ignore[arg-type]
    deep = recoloured(image.astype(np.uint16) * 257, [ColourPair(first, second)])  # type: ignore[arg-type]
    assert np.array_equal(deep, recoloured(image, [ColourPair(first, second)]).astype(np.uint16) * 257)  # type: ignore[arg-type]


def test_five_variants_of_a_picture_equal_a_look_up() -> None:
    generator = np.random.default_rng(5)
    colours = generator.choice(1 << 24, 12, replace=False)
    table = np.zeros((6, 12, 4), np.uint8)
    table[0, :, :3] = np.stack([colours >> 16, colours >> 8 & 255, colours & 255], axis=-1)
    table[1:, :, :3] = generator.integers(0, 256, (5, 12, 3))
    table[..., 3] = 255
    indices = generator.integers(0, 12, (20, 30))
    for variant in range(1, 6):
        made = recoloured(table[0][indices], pairs_of_image(table, variant))
        assert np.array_equal(made, table[variant][indices])


WRONG = (
    ("recolor", "use either pairs"),
    ("recolor #fff=#000 #ffffff=#111", "#ffffff is to become two colours"),
    ("recolor #fff", "expected a pair like #8a2b2b=#2b5d8a, found '#fff'"),
    ("recolor by=v.png variant=9", "variant=9: the picture has 4 rows below its first, counted from 1"),
)


@pytest.mark.parametrize(("text", "words"), WRONG)
def test_wrong_pairs_are_named(text: str, words: str) -> None:
    def run() -> object:
        actions = actions_of([parse_step(text, where="")], load_file=lambda _: art(1))
        return prepared([lambda: Frame(figure(1))], actions, run=lambda f, items: map(f, items))[0].load()

    with pytest.raises(UsageError, match=words):
        run()


@pytest.mark.parametrize("text", ["outline #000", "shadow 1,1", "recolor #fff=#000"])
def test_float_frames_are_refused(text: str) -> None:
    actions = actions_of([parse_step(text, where="")], load_file=lambda _: art(1))
    with pytest.raises(PixelError, match="is for 8 and 16 bits, and these frames are float"):
        prepared([lambda: Frame(np.zeros((2, 2, 4), np.float32))], actions, run=lambda f, items: map(f, items))[
            0
        ].load()
