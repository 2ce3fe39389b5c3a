"""Boxes, alpha, alignment, and looking at images."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.option_words import Align
from kivel.core.pixels.compose import over, parse_backdrop, parse_scale, to_8_bits
from kivel.core.pixels.pixels import (
    ALIGNMENTS,
    PixelError,
    Pixels,
    Rect,
    Size,
    aligned_offset,
    alpha_kind,
    in_canvas,
    looks_premultiplied,
    opaque_bounds,
    require_rgba,
    upright,
    widened,
)
from kivel.core.pixels.scaling import nearest_scaled
from kivel.core.survey import identical_frames, survey_frame, union
from strategies import images


def from_mask(mask: NDArray[np.bool_]) -> Pixels:
    image = np.zeros((*mask.shape, 4), np.uint8)
    image[..., 3] = np.where(mask, 9, 0)
    return image


@given(arrays(bool, array_shapes(min_dims=2, max_dims=2)).filter(np.any))
def test_opaque_bounds_hold_every_pixel_and_touch_each_side(mask: NDArray[np.bool_]) -> None:
    r = opaque_bounds(from_mask(mask))
    assert r is not None
    inside = mask[r.y : r.bottom, r.x : r.right]
    assert inside.sum() == mask.sum()
    assert all(side.any() for side in (inside[0], inside[-1], inside[:, 0], inside[:, -1]))


def test_faint_pixels_lie_below_a_threshold() -> None:
    image = from_mask(np.eye(3, dtype=bool))
    assert opaque_bounds(image, threshold=8) == Rect(0, 0, 3, 3)
    assert opaque_bounds(image, threshold=9) is None


@given(
    st.builds(Size, st.integers(1, 9), st.integers(1, 9)),
    st.integers(0, 9),
    st.integers(0, 9),
    st.sampled_from(ALIGNMENTS),
)
def test_an_aligned_image_lies_inside_its_canvas_whole(inner: Size, dw: int, dh: int, align: Align) -> None:
    canvas = Size(inner.w + dw, inner.h + dh)
    offset = aligned_offset(inner, canvas, align)
    image = np.full((inner.h, inner.w, 4), 7, np.uint8)
    whole = in_canvas(image, canvas, offset)
    assert whole.shape[:2] == (canvas.h, canvas.w)
    assert np.array_equal(Rect(*offset, *inner).of(whole), image)
    assert whole.sum() == image.sum()


def test_an_image_beyond_its_canvas_is_refused() -> None:
    with pytest.raises(PixelError, match=r"4x4 px at \(1, 0\) reach beyond a canvas of 4x4"):
        in_canvas(np.zeros((4, 4, 4), np.uint8), Size(4, 4), (1, 0))


@pytest.mark.parametrize(
    ("alpha", "kind"), [([255, 255], "none"), ([0, 255], "binary"), ([0, 128], "soft"), ([0, 0], "binary")], ids=str
)
def test_alpha_is_none_binary_or_soft(alpha: list[int], kind: str) -> None:
    image = np.zeros((1, 2, 4), np.uint8)
    image[0, :, 3] = alpha
    assert alpha_kind(image) == kind
    assert alpha_kind(widened(image, 16)) == kind


@given(images())
def test_premultiplied_colour_is_never_taken_for_straight(image: Pixels) -> None:
    full = np.iinfo(image.dtype).max
    product = image.astype(np.uint64)
    product[..., :3] = product[..., :3] * product[..., 3:] // full
    assert looks_premultiplied(product.astype(image.dtype)) is not True or (image[..., :3] > 0).any()
    straight = image.copy()
    straight[0, 0] = (full, full, full, full // 2)
    assert looks_premultiplied(straight) is False


@given(images(dtype=np.uint8))
def test_16_bits_hold_8_exactly(image: Pixels) -> None:
    assert np.array_equal(to_8_bits(widened(image, 16)), image)
    with pytest.raises(PixelError, match="16 bits a channel do not fit into 8"):
        widened(widened(image, 16), 8)


@pytest.mark.parametrize(
    "array",
    [np.zeros((2, 2, 3), np.uint8), np.zeros((2, 2, 4)), np.zeros((0, 2, 4), np.uint8)],
    ids=lambda a: f"{a.shape} {a.dtype}",
)
def test_other_arrays_are_refused(array: NDArray[Any]) -> None:
    with pytest.raises(PixelError, match="expected"):
        require_rgba(array)


def test_a_turned_frame_comes_back_upright() -> None:
    image = np.arange(24, dtype=np.uint8).reshape(2, 3, 4)
    assert np.array_equal(upright(np.rot90(image, -1), 90), image)
    assert upright(image, 0) is image


@given(images(), st.integers(1, 4))
def test_nearest_scaling_repeats_pixels(image: Pixels, times: int) -> None:
    height, width = image.shape[:2]
    larger = nearest_scaled(image, Size(width * times, height * times))
    assert np.array_equal(larger, image.repeat(times, 0).repeat(times, 1))
    assert np.array_equal(nearest_scaled(larger, Size(width, height)), image)


def test_over_a_colour_is_the_share_of_each() -> None:
    image = np.array([[[200, 100, 0, 0], [200, 100, 0, 255], [200, 100, 0, 51]]], np.uint8)
    assert over(image, (10, 20, 30)).tolist() == [[[10, 20, 30, 255], [200, 100, 0, 255], [48, 36, 24, 255]]]
    assert over(image, "none") is image
    assert over(image, "checker")[0, 0, 0] == over(image, "checker")[0, 0, 1 - 1]


def test_looks_are_read_as_typed() -> None:
    assert parse_backdrop("#20242c") == (0x20, 0x24, 0x2C)
    assert parse_backdrop("Pink", {"pink": "#ffc0cb"}) == (255, 192, 203)
    assert parse_scale("1/2") == parse_scale("0.5") == Fraction(1, 2)
    for bad in ("#12345", "pnk", "#gg0000"):
        with pytest.raises(UsageError, match="checker, none, or a colour"):
            parse_backdrop(bad, {"pink": "#ffc0cb"})
    for bad in ("0", "-1", "65", "x"):
        with pytest.raises(UsageError, match="above 0 and up to 64"):
            parse_scale(bad)


def test_identical_frames_are_grouped_and_boxes_joined() -> None:
    frames = [from_mask(np.array([[a, b]], bool)) for a, b in ((1, 0), (0, 1), (1, 0), (0, 0))]
    surveys = [survey_frame(frame) for frame in frames]
    assert identical_frames(surveys) == [[0, 2]]
    assert union(survey.bounds for survey in surveys) == Rect(0, 0, 2, 1)
    assert union([None]) is None
