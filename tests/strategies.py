"""Inputs that several tests draw."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.clip import Clip, Event, Step

__all__ = ["clips", "images", "sequences"]


@st.composite
def images(draw: st.DrawFn, *, dtype: Any = None, side: int = 12, shape: tuple[int, int] | None = None) -> Pixels:
    """Small RGBA images of every kind that PNG stores apart: grey, opaque, few colours, colour under alpha 0."""
    dtype = draw(st.sampled_from((np.uint8, np.uint16))) if dtype is None else dtype
    height, width = shape or (draw(st.integers(1, side)), draw(st.integers(1, side)))
    full = int(np.iinfo(dtype).max)
    few = draw(st.booleans())
    values = st.sampled_from((0, full // 3, full)) if few else st.integers(0, full)
    image: Pixels = draw(arrays(dtype, (height, width, 4), elements=values))
    if draw(st.booleans()):
        image[..., 1:3] = image[..., :1]
    if draw(st.booleans()):
        image[..., 3] = full
    image.setflags(write=False)
    return image


@st.composite
def sequences(draw: st.DrawFn, *, most: int = 9) -> list[Pixels]:
    """Frames of one size and depth."""
    first = draw(images())
    shape = (first.shape[0], first.shape[1])
    count = draw(st.integers(0, most - 1))
    return [first, *(draw(images(dtype=first.dtype.type, shape=shape)) for _ in range(count))]


@st.composite
def clips(draw: st.DrawFn, *, most_steps: int = 12, frames: int = 8) -> Clip:
    """Clips of every kind."""
    steps = draw(
        st.lists(st.builds(Step, st.integers(0, frames - 1), st.integers(1, 9)), min_size=1, max_size=most_steps).map(
            tuple
        )
    )
    events = st.builds(Event, st.integers(0, len(steps) - 1), st.sampled_from(("chirp", "glow")))
    clip = Clip(
        "moth",
        draw(st.fractions(Fraction(1, 2), 240, max_denominator=1001)),
        steps,
        direction=draw(st.sampled_from(("normal", "reverse", "alternate", "alternate-reverse"))),
        repeat=draw(st.sampled_from(("forever", 0, 1, 2, 5))),
        end=draw(st.sampled_from(("last", "first", "none"))),
        interpolation=draw(st.sampled_from(("step", "linear"))),
        events=tuple(draw(st.lists(events, max_size=3))),
        hold_ends=draw(st.sampled_from((None, True))),
    )
    parts = len(clip.order()) * 12
    return replace(clip, phase=Fraction(draw(st.integers(0, parts - 1)), 12))
