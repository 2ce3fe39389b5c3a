"""What a sequence's pixels are like: their alpha, the box they fill, and which frames are the same."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from kivel.core.digest import pixel_digest
from kivel.core.pixels import AlphaKind, Box, Pixels, Rect, alpha_kind, looks_premultiplied, opaque_bounds

__all__ = ["FrameSurvey", "identical_frames", "strongest_alpha", "survey_frame", "union"]

_ALPHA_ORDER: tuple[AlphaKind, ...] = ("none", "binary", "soft")


class FrameSurvey(NamedTuple):
    """One frame. `premultiplied` is None when nothing tells; `bounds` is None when it is wholly transparent."""

    alpha: AlphaKind
    premultiplied: bool | None
    bounds: Box
    digest: str


def survey_frame(image: Pixels) -> FrameSurvey:
    """Look at every pixel of a frame, (H, W, 4)."""
    return FrameSurvey(alpha_kind(image), looks_premultiplied(image), opaque_bounds(image), pixel_digest(image))


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
