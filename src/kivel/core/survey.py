"""Describes what a sequence's pixels are like: their alpha, the box they fill, and which frames are the same."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.digest import pixel_digest
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import (
    AlphaKind,
    Box,
    Pixels,
    Rect,
    alpha_kind,
    full_scale,
    has_light_without_alpha,
    looks_premultiplied,
    opaque_bounds,
    visibility,
)

__all__ = [
    "FrameSurvey",
    "Point",
    "Side",
    "borders_reached",
    "centre_of",
    "identical_frames",
    "strongest_alpha",
    "survey_frame",
    "union",
]

Point = tuple[float, float]

Side = Literal["left", "top", "right", "bottom"]
_VISIBLE = 32 / 255
_FEWEST, _PART = 3, 6

_ALPHA_ORDER: tuple[AlphaKind, ...] = ("none", "binary", "soft")


class FrameSurvey(NamedTuple):
    """One frame. `premultiplied` is None when nothing tells; `bounds` is None when it is wholly transparent.

    `mass` is where the middle of what is seen lies, in pixels: of the alpha, in opaque frames of the brightness.
    `reaches` are the borders along a good part of which it is visible, as where it was cut off; none of opaque frames.
    It `adds_light` if some of its light has no alpha.
    """

    alpha: AlphaKind
    premultiplied: bool | None
    bounds: Box
    digest: str
    mass: Point | None
    reaches: tuple[Side, ...] = ()
    adds_light: bool = False


def survey_frame(image: Pixels) -> FrameSurvey:
    """Look at every pixel of a frame, (H, W, 4)."""
    kind = alpha_kind(image)
    mass = centre_of(visibility(image) if kind != "none" else image[..., :3].max(axis=-1))[1]
    bounds = opaque_bounds(image)
    reaches = borders_reached(image, bounds) if kind != "none" and bounds else ()
    return FrameSurvey(
        kind, looks_premultiplied(image), bounds, pixel_digest(image), mass, reaches, has_light_without_alpha(image)
    )


def borders_reached(image: Pixels, bounds: Rect) -> tuple[Side, ...]:
    """The borders of a frame, (H, W, 4), along a sixth of whose picture or more it is visible, by 3 pixels at least."""
    alpha = visibility(image) > _VISIBLE * full_scale(image)
    lines: dict[Side, tuple[NDArray[Any], int]] = {
        "left": (alpha[:, 0], bounds.h), "top": (alpha[0], bounds.w),
        "right": (alpha[:, -1], bounds.h), "bottom": (alpha[-1], bounds.w),
    }  # fmt: skip
    return tuple(side for side, (line, length) in lines.items() if line.sum() >= max(_FEWEST, length / _PART))


def centre_of(weights: NDArray[Any]) -> tuple[float, Point | None]:
    """The sum of (H, W) weights, and their centre (x, y) in pixels from the top left; None when they are all 0."""
    down, across = weights.sum(axis=1, dtype=np.float64), weights.sum(axis=0, dtype=np.float64)
    total = float(down.sum())
    if not total:
        return 0.0, None
    x = float((across * (np.arange(across.size) + 0.5)).sum()) / total
    y = float((down * (np.arange(down.size) + 0.5)).sum()) / total
    return total, (x, y)


def strongest_alpha(surveys: Iterable[FrameSurvey]) -> AlphaKind:
    """`soft` if any frame has it, else `binary` if any has that, else `none`."""
    return max((survey.alpha for survey in surveys), key=_ALPHA_ORDER.index)


def union(boxes: Iterable[Box]) -> Box:
    """The smallest rectangle that holds all of them; None when there are none."""
    rects = [box for box in boxes if box is not None]
    if not rects:
        return None
    x, y = min(r.x for r in rects), min(r.y for r in rects)
    return Rect(x, y, max(r.right for r in rects) - x, max(r.bottom for r in rects) - y)


def identical_frames(surveys: Sequence[FrameSurvey]) -> list[list[int]]:
    """Groups of frame numbers whose pixels are the same, by their first."""
    groups: dict[str, list[int]] = defaultdict(list)
    for number, survey in enumerate(surveys):
        groups[survey.digest].append(number)
    return [group for group in groups.values() if len(group) > 1]
