"""What is said of frames and clips, against the same by the words of its definition, pixel by pixel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from numpy.typing import NDArray

from kivel.core.checks.clip_faults import doubled_turns, phases_repeated, seen_on_clock, unseen_events
from kivel.core.checks.cut_borders import box_above, cut_sides
from kivel.core.checks.flicker import brightness_of, flickers
from kivel.core.checks.fringe import fringe, hidden_colours
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.clip import Clip, Event, Step
from strategies import clips

IMAGES = arrays(np.uint8, st.tuples(st.integers(2, 6), st.integers(2, 6), st.just(4)))
ALPHAS = arrays(np.uint8, st.tuples(st.integers(1, 9), st.integers(1, 9)), elements=st.sampled_from([0, 7, 8, 255]))


def with_holes(image: Pixels) -> Pixels:
    image[..., 3] = np.where(image[..., 3] > 120, image[..., 3], 0)
    return image


def plain_fringe(image: Pixels) -> float:
    height, width = image.shape[:2]
    seen, values = image[..., 3] > 0, image.astype(float)

    def spread(y: int, x: int) -> NDArray[np.float64]:
        if seen[y, x]:
            return values[y, x, :3]
        around = [(y + dy, x + dx) for dy, dx in product((-1, 0, 1), repeat=2)]
        near = [values[b, a, :3] for b, a in around if 0 <= b < height and 0 <= a < width and seen[b, a]]
        return np.mean(near, axis=0) if near else np.zeros(3)

    found = []
    for y, x in product(range(height - 1), range(width - 1)):
        four = [(y, x), (y, x + 1), (y + 1, x), (y + 1, x + 1)]
        if len({bool(seen[one]) for one in four}) == 2:
            stored = np.mean([values[one][:3] for one in four], axis=0)
            cured = np.mean([spread(*one) for one in four], axis=0)
            found.append(np.abs(stored - cured).max() * np.mean([values[one][3] for one in four]) / 255)
    return float(np.percentile(found, 90)) if found else 0.0


@given(IMAGES)
def test_a_fringe_is_what_filtering_shows_beside_colours_that_were_spread(image: Pixels) -> None:
    assert fringe(with_holes(image)) == pytest.approx(plain_fringe(image), abs=1e-3)


@given(arrays(np.uint8, st.tuples(st.integers(1, 14), st.integers(1, 14), st.just(4)), elements=st.integers(0, 255)))
def test_hidden_colours_are_those_far_from_all_that_is_visible(image: Pixels) -> None:
    image[..., 3] = np.where(image[..., 3] > 250, 255, 0)
    visible = np.argwhere(image[..., 3] > 0)
    colours = {
        tuple(image[y, x, :3].tolist())
        for y, x in np.ndindex(image.shape[:2])
        if not any(max(abs(y - b), abs(x - a)) <= 4 for b, a in visible)
    }
    assert hidden_colours(image) == (0 if colours <= {(0, 0, 0)} else len(colours))


def plainly_cut(alpha: NDArray[np.uint8]) -> set[str]:
    """By the words of `cut_sides`."""
    found = set()
    turned = {"top": alpha, "bottom": alpha[::-1], "left": alpha.T, "right": alpha.T[::-1]}
    for side, rows in turned.items():
        if min(alpha.shape) < 4:
            continue
        border, second, fourth = (rows[number] > 7 for number in (0, 1, 3))
        goes_on = (border & second).sum() >= 0.8 * border.sum()
        if 3 <= border.sum() < 0.98 * border.size and goes_on and fourth.sum() >= 0.6 * border.sum():
            found.add(side)
    return found


@given(ALPHAS, st.integers(0, 254))
def test_cut_sides_and_boxes_are_those_of_their_words(alpha: NDArray[np.uint8], above: int) -> None:
    assert set(cut_sides(alpha)) == plainly_cut(alpha)
    rows, columns = np.nonzero(alpha > above)
    box = box_above(alpha, above)
    if not rows.size:
        assert box is None
    else:
        assert box is not None
        assert (box.x, box.y, box.right - 1, box.bottom - 1) == (
            columns.min(), rows.min(), columns.max(), rows.max(),
        )  # fmt: skip


def lit(levels: Sequence[float], *, side: int = 16) -> list[NDArray[np.float32]]:
    """Frames of one texture, so bright."""
    texture = np.random.default_rng(3).integers(60, 160, (side, side, 1))
    frames = [np.dstack([np.clip(texture * level, 0, 255)] * 3 + [np.full((side, side, 1), 255)]) for level in levels]
    return [brightness_of(frame.astype(np.uint8)) for frame in frames]


FLICKERS: dict[str, tuple[list[float], list[int]]] = {
    "even": ([1.0] * 9, []),
    "a jump up": ([1, 1, 1, 1, 1.2, 1, 1, 1, 1], [4]),
    "a jump down": ([1, 1, 1, 1, 0.8, 1, 1, 1, 1], [4]),
    "a step is no jump": ([1, 1, 1, 1, 1.2, 1.2, 1.2, 1.2], []),
    "a fade": ([1 + 0.05 * k for k in range(9)], []),
    "below 2 %": ([1, 1, 1, 1, 1.015, 1, 1, 1, 1], []),
    "two apart": ([1, 1, 1.2, 1, 1, 1, 1, 0.8, 1, 1, 1, 1], [2, 7]),
    "always": ([1, 1.1] * 5, []),
    "too few to know": ([1, 1.2, 1], []),
}


@pytest.mark.parametrize(("levels", "found"), FLICKERS.values(), ids=FLICKERS)
def test_a_frame_flickers_that_alone_is_brighter_or_darker(levels: list[float], found: list[int]) -> None:
    assert flickers(lit(levels)) == found


def test_what_is_hardly_seen_does_not_flicker() -> None:
    assert flickers(lit([1, 1, 1, 1, 1.2, 1, 1, 1, 1], side=7)) == []
    faint = np.full((8, 8, 4), 16, np.uint8)
    assert not brightness_of(faint).any()
    faint[..., 3] = 17
    assert (brightness_of(faint) == 16).all()


@given(clips(), st.integers(1, 120))
def test_a_step_is_unseen_where_some_beginning_leaves_it_between_two_pictures(clip: Clip, rate: int) -> None:
    unseen, uneven = seen_on_clock(clip, rate)
    shown: dict[int, set[int]] = {}
    start = Fraction(0)
    for number in clip.order():
        end = start + clip.steps[number].hold / clip.timebase
        first, last = -(-start.numerator * rate // start.denominator), -(-end.numerator * rate // end.denominator)
        shown.setdefault(clip.steps[number].hold, set()).add(last - first)
        start = end
    for number in range(len(clip.steps)):
        ticks = clip.steps[number].hold * rate / clip.timebase
        assert (number in unseen) == (ticks < 1)
        assert (number in uneven) == (ticks >= 1 and len(shown[clip.steps[number].hold]) > 1)


def moth(order: str, direction: str = "alternate", **more: object) -> Clip:
    steps = tuple(Step(int(frame), 2) for frame in order)
    return Clip("moth", Fraction(12), steps, direction=direction, **more)  # type: ignore[arg-type]


TURNS: dict[str, tuple[Clip, list[int]]] = {
    "nothing twice": (moth("0123"), []),
    "the end twice": (moth("01233"), [4, 3]),
    "the start twice": (moth("00123"), [1, 0]),
    "within": (moth("01123"), []),
    "held on purpose": (moth("01233", hold_ends=True), []),
    "one way only": (moth("01233", "normal"), []),
    "one step": (moth("0"), []),
}


@pytest.mark.parametrize(("clip", "steps"), TURNS.values(), ids=TURNS)
def test_a_turn_that_shows_a_frame_twice_is_found(clip: Clip, steps: list[int]) -> None:
    assert doubled_turns(clip) == steps


def test_events_before_the_phase_of_what_plays_once_are_never_seen() -> None:
    events = tuple(Event(step, str(step)) for step in range(4))
    for repeat, phase, unseen in (
        ("forever", Fraction(2), []), (1, Fraction(2), ["0", "1"]), (1, Fraction(3, 2), ["0", "1"]),
        (1, Fraction(0), []), (2, Fraction(2), []), (0, Fraction(0), ["0", "1", "2", "3"]),
    ):  # fmt: skip
        clip = moth("0123", "normal", repeat=repeat, phase=phase, events=events)
        assert unseen_events(clip) == unseen, (repeat, phase)


def test_clips_that_play_alike_are_paired_with_the_first_that_does() -> None:
    one, late = moth("012"), moth("012", phase=Fraction(1))
    named = [replace(clip, name=name) for clip, name in ((one, "a"), (late, "b"), (one, "c"), (one, "d"), (late, "e"))]
    assert phases_repeated(named) == [("a", "c"), ("a", "d"), ("b", "e")]
