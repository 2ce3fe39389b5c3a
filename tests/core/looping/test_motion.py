"""Where the mass goes, what is nearly the same, and what goes back the way it came."""

from __future__ import annotations

import numpy as np
import pytest

from kivel.core.looping.likeness import Mirror, Wander, mirror, nearly_same, wander
from kivel.core.looping.signature import Signature, signature
from kivel.core.survey import survey_frame
from program import art


def frames(order: list[int], *, noise: int = 0) -> list[Signature]:
    rng = np.random.default_rng(5)
    images = [art(number, width=9, height=8).astype(int) for number in order]
    return [
        signature(np.clip(image + rng.integers(0, noise + 1, image.shape), 0, 255).astype(np.uint8)) for image in images
    ]


@pytest.mark.parametrize(
    ("order", "expected"),
    [
        ([0, 1, 2, 3, 2, 1], Mirror(4, hold_ends=False)),
        ([0, 1, 2, 2, 1, 0], Mirror(3, hold_ends=True)),
        ([0, 1, 2, 3, 4, 5], None),
        ([0, 1, 2, 1, 0], None),
        ([0, 0, 0, 0], None),
        ([0, 1], None),
    ],
)
def test_a_mirrored_half_is_a_ping_pong(order: list[int], expected: Mirror | None) -> None:
    assert mirror(frames(order)) == expected
    if expected and len(order) > 2:
        assert mirror(frames(order, noise=3)) == expected


def test_frames_that_hardly_differ_are_grouped() -> None:
    order = [0, 1, 1, 2, 0, 3]
    assert nearly_same(frames(order, noise=3)) == [[0, 4], [1, 2]]
    assert nearly_same(frames([4, 4, 4])) == []


def test_mass_is_of_alpha_or_of_brightness() -> None:
    path = []
    for x in (2, 4, 6):
        image = np.zeros((5, 9, 4), np.uint8)
        image[1, x] = (9, 9, 9, 255)
        path.append(survey_frame(image).mass)
        lit = np.full((5, 9, 4), (0, 0, 0, 255), np.uint8)
        lit[1, x, 1] = 200
        assert survey_frame(lit).mass == path[-1] == (x + 0.5, 1.5)
    assert wander([*path, None]) == Wander(2.5, 1.5, 6.5, 1.5, 2)
    assert wander([None, (1, 1)]) is None
    assert survey_frame(np.zeros((2, 2, 4), np.uint8)).mass is None
