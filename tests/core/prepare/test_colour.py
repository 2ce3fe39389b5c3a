"""Matte, ramp and alpha, against plain loops."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given

import plain
from kivel.core.errors import UsageError
from kivel.core.pixels.pixels import Pixels
from kivel.core.prepare.alpha import bled, faded, hardened, multiplied, unmultiplied
from kivel.core.prepare.matte import corner_colour, matte_brightness, matte_key
from kivel.core.prepare.ramp import Stop, ramped, spread_stops, stops_of_image
from program import art
from strategies import images

LEVEL = 1 / 255 + 1e-6


def opaque(image: Pixels) -> Pixels:
    return np.concatenate((image[..., :3], np.full_like(image[..., :1], np.iinfo(image.dtype).max)), axis=-1)


@given(images())
def test_what_is_matted_shows_the_source_over_its_background(image: Pixels) -> None:
    """Within one level of 8 bits, whichever brightness it was cut by."""
    source = opaque(image)
    seen = source[..., :3] / np.iinfo(source.dtype).max
    assert np.abs(plain.over(matte_brightness(source), (0, 0, 0)) - seen).max() <= LEVEL
    assert np.abs(plain.over(matte_brightness(source, inverted=True), (1, 1, 1)) - seen).max() <= LEVEL
    floor = 20 / 255
    lifted = plain.over(matte_brightness(source, floor=floor), (floor,) * 3)
    assert np.abs(lifted - np.maximum(seen, floor)).max() <= LEVEL


@given(images())
def test_matte_is_the_smallest_alpha_and_keeps_what_was_there(image: Pixels) -> None:
    full = np.iinfo(image.dtype).max
    matted = matte_brightness(opaque(image))
    assert np.array_equal(matted[..., 3], image[..., :3].max(axis=-1))
    kept = matte_brightness(image)[..., 3]
    assert np.abs(kept - image[..., :3].max(axis=-1) / full * image[..., 3]).max() <= 0.51
    assert not matted[matted[..., 3] == 0].any()


def test_grey_on_black_is_white_with_alpha() -> None:
    """The quick way for grey frames gives what the general one does."""
    grey = opaque(np.repeat(np.arange(256, dtype=np.uint8).reshape(16, 16, 1), 4, axis=-1))
    quick = matte_brightness(grey)
    assert np.array_equal(quick[..., 3], grey[..., 0])
    assert (quick[grey[..., 0] > 0][:, :3] == 255).all()
    assert np.array_equal(quick, matte_brightness(grey, floor=1e-9))


@given(images(dtype=np.uint8))
def test_keyed_frames_show_the_source_over_the_key(image: Pixels) -> None:
    key = (0.0, 177 / 255, 64 / 255)
    source = opaque(image)
    result = matte_key(source, key, tolerance=0.05, softness=0.3)
    seen = source[..., :3] / 255
    distance = np.abs(seen - key).max(axis=-1)
    assert not result[distance < 0.0499][:, 3].any()
    assert (result[distance > 0.351][:, 3] == 255).all()
    visible = result[..., 3] > 0
    assert np.abs(plain.over(result, key) - seen)[visible].max(initial=0) <= LEVEL


def test_spill_takes_the_keys_hue_out() -> None:
    green = np.array([[[90, 200, 80, 255], [200, 90, 80, 255]]], np.uint8)
    clean = matte_key(green, (0, 1, 0), tolerance=0.1, softness=0.01, spill=1)
    assert clean[0, 0, 1] <= max(clean[0, 0, 0], clean[0, 0, 2]) + 1
    assert np.array_equal(clean[0, 1], green[0, 1])


def test_the_corner_colour_is_what_most_corners_have() -> None:
    image = np.zeros((3, 3, 4), np.uint8)
    image[2] = image[0, 2] = (10, 20, 30, 255)
    assert corner_colour(image) == (10 / 255, 20 / 255, 30 / 255)


STOPS = spread_stops([Stop((0.1, 0.1, 0.25)), Stop((0.65, 0.27, 0.18), 0.4), Stop((1.0, 0.8, 0.4)), Stop((1, 1, 1))])


@given(images())
def test_ramp_matches_the_definition(image: Pixels) -> None:
    full = np.iinfo(image.dtype).max
    stops = [(stop.colour, stop.position or 0.0) for stop in STOPS]
    luma = image[..., :3] / full @ np.array([0.2126, 0.7152, 0.0722])
    alpha = image[..., 3] / full
    for by, level in (("shown", luma * alpha), ("color", luma), ("alpha", alpha)):
        result = ramped(image, STOPS, by=by)  # type: ignore[arg-type]
        expected = np.array([plain.ramp(value, stops) for value in level.flat]).reshape(*level.shape, 3)
        assert np.abs(result[..., :3] / full - expected).max() <= LEVEL
        assert np.array_equal(result[..., 3], image[..., 3])


def test_stops_are_spread_and_read_from_images() -> None:
    assert [stop.position for stop in STOPS] == [0, 0.4, pytest.approx(0.7), 1]
    gradient = np.linspace(0, 255, 32).astype(np.uint8)[:, None, None].repeat(3, axis=1).repeat(4, axis=2)
    assert len(stops_of_image(gradient)) == 32
    assert stops_of_image(gradient)[-1] == Stop((1, 1, 1), 1)
    with pytest.raises(UsageError, match=r"positions of stops must rise from 0 to 1, found 0, 0\.8, 0\.5, 1"):
        spread_stops([Stop((0, 0, 0)), Stop((0, 0, 0), 0.8), Stop((0, 0, 0), 0.5), Stop((0, 0, 0))])


@given(images())
def test_premultiplying_can_be_undone(image: Pixels) -> None:
    full = np.iinfo(image.dtype).max
    product = multiplied(image)
    assert np.abs(product[..., :3] - image[..., :3] / 1.0 * image[..., 3:] / full).max() <= 0.5
    back = unmultiplied(product)[..., :3].astype(float)
    error = np.abs(back - image[..., :3]) * image[..., 3:] / full
    assert error.max() <= 1


def test_alpha_steps() -> None:
    alpha = np.array([[0, 127, 128, 255]], np.uint8)
    image = np.dstack((alpha, alpha, alpha, alpha))
    assert hardened(image, 128 / 255)[..., 3].tolist() == [[0, 0, 255, 255]]
    assert faded(image, 0.5)[..., 3].tolist() == [[0, 64, 64, 128]]


@given(images(side=7))
def test_bleed_gives_the_colour_of_a_nearest_visible_pixel(image: Pixels) -> None:
    result = bled(image)
    visible = np.argwhere(image[..., 3] > 0)
    assert np.array_equal(result[..., 3], image[..., 3])
    for y, x in np.argwhere(image[..., 3] == 0):
        if not len(visible):
            assert np.array_equal(result, image)
            break
        distances = ((visible - (y, x)) ** 2).sum(axis=1)
        nearest = visible[distances == distances.min()]
        assert any(np.array_equal(result[y, x, :3], image[row, column, :3]) for row, column in nearest)


def test_bleed_reaches_so_far() -> None:
    image = np.zeros((1, 6, 4), np.uint8)
    image[0, 0] = (9, 8, 7, 255)
    assert [bool(pixel.any()) for pixel in bled(image, reach=2)[0, :, :3]] == [True, True, True, False, False, False]


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_steps_leave_their_argument_alone(dtype: type) -> None:
    image = art(1, dtype=dtype)
    image.setflags(write=False)
    for step in (
        matte_brightness,
        multiplied,
        unmultiplied,
        bled,
        lambda i: hardened(i, 0.5),
        lambda i: ramped(i, STOPS),
    ):
        assert step(image).dtype == dtype


IN_BANDS: dict[str, Callable[[Pixels], Pixels]] = {
    "multiplied": multiplied,
    "unmultiplied": unmultiplied,
    "hardened": lambda image: hardened(image, 0.4),
    "faded": lambda image: faded(image, 0.3),
    "matted": matte_brightness,
    "keyed": lambda image: matte_key(image, (0.1, 0.8, 0.2), tolerance=0.2, softness=0.3, spill=0.5),
    "ramped": lambda image: ramped(image, spread_stops([Stop((0, 0, 0.2)), Stop((1, 1, 1))])),
}


@pytest.mark.parametrize("name", IN_BANDS)
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
def test_a_large_picture_is_changed_as_its_rows_are(name: str, dtype: type) -> None:
    """What is decided of the whole, such as that all of it is grey or opaque, changes nothing."""
    image = art(3, width=300, height=500, dtype=np.uint16)
    image[:250, :, 1:3] = image[:250, :, :1]
    image[:200, :, 3] = 65535
    if dtype != np.uint16:
        image = (image >> 8).astype(np.uint8) if dtype == np.uint8 else image.astype(np.float32) / 60000
    change = IN_BANDS[name]
    assert np.array_equal(change(image), np.concatenate([change(image[row : row + 1]) for row in range(len(image))]))
