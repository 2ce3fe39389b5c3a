"""Crop, trim, pad, fit, anchor, shift, turn, flip, distort: where pixels go, and the pivot with them."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import plain
from kivel.core.errors import KivelError
from kivel.core.pixels.light import Kind
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.prepare.actions import Frame
from kivel.core.prepare.chain import prepared
from kivel.core.prepare.displace import displacements
from kivel.core.prepare.steps import actions_of, parse_step
from program import art
from strategies import images, sequences

LEVEL = 1.01


def done(
    frames: Sequence[Pixels], *steps: str, kind: Kind = "color", image: Pixels | None = None, pivot: float = 0.5
) -> list[Frame]:
    """The frames after a chain of steps as they are written."""
    grey = art(0) if image is None else image
    actions = actions_of([parse_step(step, where="") for step in steps], kind=kind, load_file=lambda _: grey)
    loads = [lambda frame=frame: Frame(frame, (pivot, pivot)) for frame in frames]
    return [item.load() for item in prepared(loads, actions, kind=kind, run=lambda f, items: map(f, items))]


def dot(x: int, y: int, *, width: int = 9, height: int = 7, alpha: int = 255) -> Pixels:
    image = np.zeros((height, width, 4), np.uint8)
    image[y, x] = (200, 100, 50, alpha)
    return image


@given(sequences(), st.integers(0, 3))
def test_trim_takes_the_box_of_all_and_pad_gives_it_back(frames: list[Pixels], margin: int) -> None:
    masks = np.max([frame[..., 3] for frame in frames], axis=0) > 0
    if not masks.any():
        with pytest.raises(KivelError, match=f"trim: none of the {len(frames)} frames has a visible pixel"):
            done(frames, "trim")
        return
    trimmed = done(frames, f"trim margin={margin}")
    rows, columns = np.flatnonzero(masks.any(axis=1)), np.flatnonzero(masks.any(axis=0))
    width, height = np.ptp(columns) + 1 + 2 * margin, np.ptp(rows) + 1 + 2 * margin
    for frame, (image, pivot) in zip(frames, trimmed, strict=True):
        assert image.shape[:2] == (height, width)
        assert pivot[0] * width + columns[0] - margin == pytest.approx(frame.shape[1] / 2)
        inside = image[margin : height - margin, margin : width - margin]
        assert np.array_equal(inside, frame[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1])


def test_trim_by_frame_keeps_them_registered() -> None:
    frames = [dot(2, 3), dot(6, 1)]
    first, second = done(frames, "trim each")
    assert first.image.shape == second.image.shape == (1, 1, 4)
    assert first.pivot == (4.5 - 2, 3.5 - 3)
    assert second.pivot == (4.5 - 6, 3.5 - 1)
    with pytest.raises(KivelError, match="frame 0: trim: frame 0 has no visible pixel"):
        done([dot(1, 1, alpha=0), dot(2, 2)], "trim each")
    assert done([dot(1, 1, alpha=9), dot(3, 1)], "trim threshold=9")[0].image.shape == (1, 1, 4)


def test_crop_pad_and_square_place_pixels() -> None:
    frame = art(3, width=6, height=4)
    assert np.array_equal(done([frame], "crop 3x2 at=1,2")[0].image, frame[2:4, 1:4])
    assert np.array_equal(done([frame], "crop 2x2 align=bottom-right")[0].image, frame[2:, 4:])
    padded, pivot = done([frame], "pad 1 left=3")[0]
    assert padded.shape[:2] == (6, 10)
    assert np.array_equal(padded[1:5, 3:9], frame)
    assert pivot == pytest.approx((0.6, 0.5))
    assert np.array_equal(done([frame], "pad left=2")[0].image[:, 2:], frame)
    assert np.array_equal(done([frame], "pad to=8x8 align=bottom")[0].image[4:, 1:7], frame)
    assert done([frame], "square")[0].image.shape[:2] == (6, 6)
    with pytest.raises(KivelError, match="frame 0: crop: a crop of 7x2 px at 0,0 reaches beyond a frame of 6x4 px"):
        done([frame], "crop 7x2 at=0,0")
    with pytest.raises(KivelError, match="pad: a frame of 6x4 px cannot be padded to 5x9"):
        done([frame], "pad to=5x9")


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@pytest.mark.parametrize(("name", "kernel"), [("box", plain.box), ("lanczos", plain.lanczos)])
@pytest.mark.parametrize("size", ["5x4", "3x13", "17x9", "1x1", "11x9"])
def test_fit_matches_a_plain_resize_in_linear_light(dtype: type, name: str, kernel, size: str) -> None:  # type: ignore[no-untyped-def]
    image = art(7, width=11, height=9, dtype=dtype)
    width, height = map(int, size.split("x"))
    result = done([image], f"fit {size} filter={name} stretch upscale")[0].image
    expected = plain.stored(plain.scaled(plain.light(image), width, height, kernel), dtype)
    assert result.shape == expected.shape
    seen = [values / np.iinfo(dtype).max for values in (result, expected)]
    assert np.abs(seen[0][..., 3] - seen[1][..., 3]).max() <= 1 / 255
    assert np.abs(seen[0][..., :3] - seen[1][..., :3])[expected[..., 3] > 0].max() <= LEVEL / 255


def test_fit_keeps_the_aspect_and_enlarges_only_when_asked() -> None:
    frame = art(1, width=30, height=20)
    assert done([frame], "fit 10x10")[0].image.shape[:2] == (7, 10)
    assert done([frame], "fit 60x60")[0].image is frame
    assert done([frame], "fit 60x60 upscale")[0].image.shape[:2] == (40, 60)
    nearest = done([frame], "fit 60x40 filter=nearest upscale")[0].image
    assert np.array_equal(nearest, frame.repeat(2, 0).repeat(2, 1))
    assert done([art(2, width=1, height=1)], "fit 1x1")[0].image.shape == (1, 1, 4)


@pytest.mark.parametrize("name", ["box", "lanczos"])
def test_even_frames_stay_even_when_scaled(name: str) -> None:
    """No ringing at borders, no darkening where alpha is soft."""
    frame = np.full((13, 9, 4), (200, 100, 50, 90), np.uint8)
    assert (done([frame], f"fit 4x4 filter={name}")[0].image == (200, 100, 50, 90)).all()


@given(sequences(most=4), st.sampled_from(["mass", "bottom", "2,1"]), st.booleans(), st.sampled_from([0.5, 0.25, 0.8]))
def test_anchor_brings_the_point_there_and_loses_nothing(frames: list[Pixels], at: str, each: bool, to: float) -> None:
    results = done(frames, f"anchor {at} to={to},{to}" + (" each" if each else ""))
    assert len({result.image.shape for result in results}) == 1
    for frame, (image, (u, v)) in zip(frames, results, strict=True):
        assert (image[..., 3] > 0).sum() == (frame[..., 3] > 0).sum()
        if (frame[..., 3] > 0).any() or not each:
            assert abs(u - to) * image.shape[1] <= 0.5 + 1e-9
            assert abs(v - to) * image.shape[0] <= 0.5 + 1e-9


def test_anchor_measures_once_or_by_frame() -> None:
    frames = [dot(1, 3), dot(5, 3)]
    once = done(frames, "anchor mass")
    assert [np.argwhere(frame.image[..., 3]).tolist() for frame in once] == [[[3, 2]], [[3, 6]]]
    each = done(frames, "anchor mass each")
    assert [np.argwhere(frame.image[..., 3]).tolist() for frame in each] == [[[3, 4]], [[3, 4]]]
    assert each[0].pivot == (0.5, 0.5)
    grown = done([dot(0, 0), dot(8, 6)], "anchor 0,0")
    assert grown[0].image.shape[:2] == (13, 17)
    with pytest.raises(KivelError, match=r"anchor: visible pixels reach 2[.]5 px beyond the anchor"):
        done([dot(1, 1), dot(5, 1)], "anchor mass to=0,0.5")


@given(images(dtype=np.uint8), st.integers(-20, 20), st.integers(-20, 20))
def test_whole_shifts_move_pixels_and_wrap_back(image: Pixels, dx: int, dy: int) -> None:
    wrapped = done([image], f"shift {dx} {dy} wrap")[0].image
    assert np.array_equal(done([wrapped], f"shift {-dx} {-dy} wrap")[0].image, image)
    cleared = done([image], f"shift {dx} {dy}")[0].image
    height, width = image.shape[:2]
    inside = slice(max(dy, 0), max(0, height + min(dy, 0))), slice(max(dx, 0), max(0, width + min(dx, 0)))
    assert np.array_equal(cleared[inside], wrapped[inside])


@pytest.mark.parametrize("wrap", [False, True])
def test_parts_of_a_pixel_are_interpolated(wrap: bool) -> None:
    image = art(5, width=7, height=6)
    values = plain.light(image)
    rows = [[plain.sampled(values, x - 1.25, y + 0.5, wrap=wrap) for x in range(7)] for y in range(6)]
    frames = done([image, image], "shift 0.625 -0.25 each" + (" wrap" if wrap else ""))
    twice = done([image] * 3, "shift 0.625 -0.25 each" + (" wrap" if wrap else ""))[2].image
    expected = plain.stored(np.array(rows))
    assert np.array_equal(frames[0].image, image)
    assert np.abs(twice.astype(int) - expected)[expected[..., 3] > 3].max() <= LEVEL


def test_turn_and_flip_take_pivot_and_normals_along() -> None:
    image = art(1, width=4, height=3)
    turned, pivot = done([image], "shift 1 0 wrap", "turn 90")[0]
    assert np.array_equal(turned, np.rot90(np.roll(image, 1, 1), -1))
    assert pivot == (0.5, 0.5)
    assert done([image], "turn 270", pivot=0.25)[0].pivot == (0.25, 0.75)
    right = np.full((1, 1, 4), (255, 128, 128, 255), np.uint8)
    assert done([right], "turn 90", kind="normal")[0].image[0, 0].tolist() == [128, 0, 128, 255]
    assert done([right], "turn 90", kind="normal-down")[0].image[0, 0].tolist() == [127, 255, 128, 255]
    assert done([right], "flip x", kind="normal")[0].image[0, 0].tolist() == [0, 128, 128, 255]
    four = done([image], *["turn 90"] * 4, kind="normal")[0].image
    assert np.array_equal(four, image)


@pytest.mark.parametrize("wrap", [False, True])
def test_distort_matches_a_plain_loop(wrap: bool) -> None:
    image, grey = art(2, width=8, height=6), np.zeros((6, 8, 4), np.uint8)
    grey[...] = np.random.default_rng(0).integers(0, 255, (6, 8, 1))
    strength, angle = 2.5, 30.0
    step = f"distort by=m.png strength={strength} angle={angle}"
    result = done([image], step + (" wrap" if wrap else ""), image=grey)
    values = plain.light(image)
    expected = np.empty_like(values)
    for y, x in np.ndindex(6, 8):
        pull = strength * (grey[y, x, 0] / 255 * 2 - 1)
        at = x + pull * math.cos(math.radians(angle)), y + pull * math.sin(math.radians(angle))
        expected[y, x] = plain.sampled(values, *at, wrap=wrap)
    stored = plain.stored(expected)
    assert np.abs(result[0].image.astype(int) - stored)[stored[..., 3] > 8].max() <= LEVEL
    assert np.abs(result[0].image[..., 3].astype(int) - stored[..., 3]).max() <= LEVEL


def test_a_scrolling_map_closes_and_a_middle_grey_one_does_nothing() -> None:
    image, grey = art(2, width=8, height=6), np.full((3, 4, 4), 255, np.uint8)
    grey[..., :3] = np.arange(12, dtype=np.uint8).reshape(3, 4, 1) * 20
    frames = done([image] * 4, "distort by=m.png strength=3 scroll=1,-1 wrap nearest", image=grey)
    assert len({frame.image.tobytes() for frame in frames}) == 4
    eight = done([image] * 8, "distort by=m.png strength=3 scroll=2,-2 wrap nearest", image=grey)
    assert [a.image.tobytes() for a in frames] == [b.image.tobytes() for b in eight[:4]]
    colours = {tuple(pixel) for pixel in image.reshape(-1, 4).tolist()}
    assert {tuple(pixel) for pixel in frames[1].image.reshape(-1, 4).tolist()} <= colours


def test_normals_stay_unit_vectors_when_scaled() -> None:
    left, right = (28, 128, 230, 255), (228, 128, 230, 255)
    image = np.array([[left, right] * 2] * 4, np.uint8)
    scaled = done([image], "fit 2x2 filter=box", kind="normal")[0].image
    assert (scaled == (128, 128, 255, 255)).all()
    mask = np.array([[(0, 100, 7, 0), (200, 100, 9, 0)]] * 2, np.uint8)
    assert done([mask], "fit 1x1 filter=box", kind="mask")[0].image.tolist() == [[[100, 100, 8, 0]]]


def test_order_steps_choose_frames() -> None:
    frames = [dot(index, 0) for index in range(6)]

    def places(*steps: str) -> list[int]:
        return [int(np.argwhere(frame.image[0, :, 3])[0, 0]) for frame in done(frames, *steps)]

    assert places("reverse") == [5, 4, 3, 2, 1, 0]
    assert places("drop 0,4-5") == [1, 2, 3]
    assert places("keep 3-1,0") == [0, 1, 2, 3]
    assert places("reorder 0-3,2-1") == [0, 1, 2, 3, 2, 1]
    assert places("keep 1-4", "reverse", "drop 0") == [3, 2, 1]


def test_float_frames_go_through_every_step_as_float() -> None:
    image = (art(1, width=8, height=8) / 100).astype(np.float32)
    image[..., 3] = np.minimum(image[..., 3], 1)
    steps = [
        "matte bright",
        "unpremultiply",
        "ramp #000 #fff",
        "pad 1",
        "fit 5x5",
        "shift 0.5 0",
        "opacity 0.5",
    ]
    steps += ["distort by=m.png strength=1", "anchor mass", "turn 90", "flip y", "trim", "threshold 1", "premultiply"]
    result = done([image], *steps, image=art(2))[0].image
    assert result.dtype == np.float32
    assert done([image], "expose -1 depth=16")[0].image.dtype == np.uint16
    bright = np.full((1, 1, 4), (0.5, 0.25, 4.0, 0.5), np.float32)
    assert done([bright], "expose 1")[0].image[0, 0].tolist() == [255, round(plain.encoded(0.5) * 255), 255, 128]
    assert Size(8, 8) == Size(*image.shape[1::-1])


def test_a_scroll_moves_the_displacing_image_right_and_down() -> None:
    heights = np.arange(24, dtype=np.float32).reshape(1, 4, 6)
    assert np.array_equal(displacements(heights, (1 / 3, 0.25)), np.roll(heights[0], (1, 2), (0, 1)))


def test_the_bottom_is_anchored_by_the_middle_of_what_is_seen() -> None:
    image = np.zeros((6, 8, 4), np.uint8)
    image[1:4, 0:4] = 255
    [moved] = done([image], "anchor bottom to=0.5,1")
    rows, columns = np.nonzero(moved.image[..., 3])
    assert (rows.max() + 1) / moved.image.shape[0] == 1
    assert (columns.min() + columns.max() + 1) / 2 / moved.image.shape[1] == 0.5


def test_float_normals_mirror_their_vectors_too() -> None:
    image = np.full((2, 2, 4), (0.25, 0.5, 1.0, 1.0), np.float32)
    [mirrored] = done([image], "flip x", kind="normal")
    assert mirrored.image[0, 0].tolist() == [0.75, 0.5, 1.0, 1.0]
