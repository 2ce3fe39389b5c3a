"""Where the mass goes, what is nearly the same, and what goes back the way it came."""

from __future__ import annotations

import math

import numpy as np
import pytest

from kivel.core.looping.likeness import Mirror, Wander, mirror, nearly_same, slide, wander
from kivel.core.looping.signature import Signature, signature
from kivel.core.pixels.pixels import Rect
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


@pytest.mark.parametrize(
    ("dx", "dy", "wobble", "found"),
    [(0.5, 0, 0, True), (0.5, -0.25, 0.2, True), (0.01, 0, 0, False), (0.5, 0, 6, False), (0, 0, 2, False)],
    ids=["right", "right and up, nearly", "hardly", "a way of its own", "to and fro"],
)
def test_a_steady_slide_is_measured(dx: float, dy: float, wobble: float, found: bool) -> None:
    path = [(10 + dx * n, 20 + dy * n + wobble * math.sin(1.9 * n)) for n in range(24)]
    boxes = [None, *(Rect(int(x) - 4, int(y) - 4, 8, 8) for x, y in path), None]
    slid = slide([None, *path, None], boxes)
    assert (slid is not None) == found
    if slid:
        assert slid == pytest.approx((dx, dy), abs=0.02)


def test_a_picture_that_changes_its_shape_does_not_slide() -> None:
    path = [(10.0, 20 - 0.5 * n) for n in range(8)]
    assert slide(path, [Rect(0, 0, 20 - n, 40) for n in range(8)]) is None
    assert slide(path, [Rect(0, 0, 20, 40)] * 8) is not None  # opaque: there is no box to tell


def test_borders_along_which_a_picture_is_visible_are_told() -> None:
    image = np.zeros((20, 20, 4), np.uint8)
    image[5:20, 8:12] = 255
    assert survey_frame(image).reaches == ("bottom",)
    image[6:9, 12:] = 255
    assert survey_frame(image).reaches == ("right", "bottom")
    assert survey_frame(np.full((8, 8, 4), 255, np.uint8)).reaches == ()
