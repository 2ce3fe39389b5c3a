"""Outlines: convex, few points, every pixel inside, and hardly larger than can be."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays

from kivel.core.errors import KivelError
from kivel.core.outline import Polygon, convex_hull, outlined

masks = arrays(bool, array_shapes(min_dims=2, max_dims=2, max_side=24), elements=st.sampled_from((False, False, True)))


def sides(polygon: Polygon) -> list[tuple[tuple[Fraction, Fraction], tuple[Fraction, Fraction]]]:
    points = [(Fraction(x), Fraction(y)) for x, y in polygon.points]
    return list(pairwise([*points, points[0]]))


@given(masks, st.integers(3, 12))
def test_every_visible_pixel_is_inside(mask: np.ndarray, most: int) -> None:
    polygon = outlined(mask, most)
    assert (polygon is None) == (not mask.any())
    if polygon is None:
        return
    assert 3 <= len(polygon.points) <= most
    rows, columns = np.nonzero(mask)
    pixels = list(zip(columns.tolist(), rows.tolist(), strict=True))
    corners = {(x + dx, y + dy) for x, y in pixels for dx in (0, 1) for dy in (0, 1)}
    for (x1, y1), (x2, y2) in sides(polygon):
        assert all((x2 - x1) * (y - y1) - (y2 - y1) * (x - x1) >= 0 for x, y in corners)
    area = sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in sides(polygon)) / 2
    assert polygon.unseen == area - mask.sum()
    if most > 3:
        xs, ys = zip(*polygon.points, strict=True)
        assert min(xs) >= columns.min()
        assert max(xs) <= columns.max() + 1
        assert min(ys) >= rows.min()
        assert max(ys) <= rows.max() + 1


def disc(side: int) -> np.ndarray:
    y, x = np.mgrid[:side, :side] + 0.5
    return np.asarray((x - side / 2) ** 2 + (y - side / 2) ** 2 <= side**2 / 4)


@pytest.mark.parametrize(("points", "most"), [(3, 0.70), (4, 0.29), (6, 0.18), (8, 0.075), (12, 0.04), (16, 0.03)])
def test_a_disc_is_enclosed_tightly(points: int, most: float) -> None:
    """In its box a circle needs 27 % more with 4 points, 5.5 % with 8."""
    mask = disc(160)
    polygon = outlined(mask, points)
    assert polygon is not None
    assert polygon.unseen / mask.sum() <= most


def test_few_corners_are_kept_as_they_are_and_more_points_never_waste_more() -> None:
    mask = np.zeros((6, 8), bool)
    mask[1:4, 2:7] = True
    assert outlined(mask, 4) == Polygon(((2, 1), (7, 1), (7, 4), (2, 4)), 0)
    assert convex_hull(np.zeros((3, 3), bool)) == []
    unseen = [polygon.unseen for count in range(3, 20) if (polygon := outlined(disc(50), count))]
    assert unseen == sorted(unseen, reverse=True)
    with pytest.raises(KivelError, match="an outline of 2 points encloses nothing"):
        outlined(mask, 2)
