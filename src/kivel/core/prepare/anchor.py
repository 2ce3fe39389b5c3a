"""Moving every frame so that a point sits at the same place of the cell, to spin or to is there."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from kivel.core.contents import Content
from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Box, Pixels, Rect, Size, full_scale, on_canvas, opaque_bounds, size_of, visibility
from kivel.core.prepare.actions import Decision, Frame, Measured, Place
from kivel.core.survey import Point, centre_of, union
from kivel.core.trimming import content_box

__all__ = ["Anchor", "anchoring"]

Anchor = Point | Literal["mass", "bottom"]
"""A point in pixels from the top left, the centre of the alpha mass, or the middle of the visible bottom edge."""


_ALL_OPAQUE = 0.999


class _Seen(NamedTuple):
    """A frame, its visible box, the centre of its alpha, how much that is, and whether that is all there can be."""

    size: Size
    bounds: Box
    centre: Point | None
    mass: float
    is_opaque: bool


def anchoring(anchor: Anchor, target: Point, *, each: bool, threshold: float = 0.0) -> Measured:
    """Every frame moved by whole pixels so that its anchor lies at `target`, in fractions of the cell.

    The anchor is that of the sequence (the centre of all its alpha mass; the bottom of the box that all visible pixels
    fill), or under `each` that of each frame. The canvas stays as large as it is and grows where visible pixels would
    be cut off, visible being what has an alpha above `threshold` (0 to 1). The pivot is where the anchor then lies.
    Frames without a visible pixel move with the rest.

    Raises
    ------
    KivelError
        If `target` is a border and visible pixels lie beyond the anchor, so that no canvas is large enough.
    """

    def measure(frame: Frame, _: Place) -> _Seen:
        image = frame.image
        mass, centre = centre_of(visibility(image))
        bounds = opaque_bounds(image, threshold=threshold * full_scale(image))
        is_opaque = mass >= _ALL_OPAQUE * full_scale(image) * image.shape[0] * image.shape[1]
        return _Seen(size_of(image), bounds, centre, mass, is_opaque)

    def decide(seen: Sequence[_Seen]) -> Decision:
        common = _common_point(anchor, seen)
        points = [(_point_of(anchor, one) or common) if each else common for one in seen]
        size = Size(*(_cell_length(seen, points, target, axis) for axis in (0, 1)))
        offsets = [_offset(point, target, size) for point in points]

        def transform(frame: Frame, place: Place) -> Frame:
            (x, y), (px, py) = offsets[place.number], points[place.number]
            return Frame(on_canvas(frame.image, size, (x, y)), ((px + x) / size.w, (py + y) / size.h))

        return Decision(transform, _told(anchor, seen, points, offsets, size))

    def also(seen: _Seen, image: Pixels, content: Content) -> _Seen:
        return seen._replace(
            bounds=union([seen.bounds, content_box(image, content, threshold=threshold * full_scale(image))])
        )

    return Measured(measure, decide, also)


def _told(
    anchor: Anchor, seen: Sequence[_Seen], points: Sequence[Point], offsets: Sequence[tuple[int, int]], size: Size
) -> str:
    """Return what was measured and where it went."""
    what = str(anchor) if isinstance(anchor, str) else "the point"
    if anchor == "mass" and all(one.is_opaque for one in seen):
        what = "every pixel is opaque, so the centre of mass is the middle (matte it first): mass"
    at = ", ".join(_span_of([point[axis] for point in points], "{:.1f}") for axis in (0, 1))
    by = ", ".join(_span_of([offset[axis] for offset in offsets], "{:+d}") for axis in (0, 1))
    return f"{what} at {at}, moved by {by} px, in {size} px"


def _span_of(values: Sequence[float], form: str) -> str:
    low, high = form.format(min(values)), form.format(max(values))
    return low if low == high else f"{low} to {high}"


def _point_of(anchor: Anchor, seen: _Seen) -> Point | None:
    """One frame's anchor; None if nothing is visible."""
    if anchor == "mass":
        return seen.centre
    if anchor == "bottom":
        return None if seen.bounds is None else _bottom(seen.bounds)
    return anchor


def _bottom(box: Rect) -> Point:
    return box.x + box.w / 2, float(box.bottom)


def _common_point(anchor: Anchor, seen: Sequence[_Seen]) -> Point:
    """The anchor of the whole sequence; the centre of the first frame when nothing is visible anywhere."""
    box = union(one.bounds for one in seen)
    total = sum(one.mass for one in seen)
    if not isinstance(anchor, str):
        return anchor
    if box is None or not total:
        return seen[0].size.w / 2, seen[0].size.h / 2
    if anchor == "bottom":
        return _bottom(box)
    centres = [(one.centre, one.mass) for one in seen if one.centre is not None]
    x, y = (sum(centre[axis] * mass for centre, mass in centres) / total for axis in (0, 1))
    return x, y


def _offset(point: Point, target: Point, size: Size) -> tuple[int, int]:
    x, y = (round(share * length - at) for share, length, at in zip(target, size, point, strict=True))
    return x, y


def _cell_length(seen: Sequence[_Seen], points: Sequence[Point], target: Point, axis: int) -> int:
    """The least length, from the frames' own on, at which no visible pixel of any frame is cut off."""
    share = target[axis]
    spans = [(*_span(one.bounds, axis), point[axis]) for one, point in zip(seen, points, strict=True) if one.bounds]
    length = max(one.size[axis] for one in seen)
    for first, last, point in spans:
        length = max(length, math.floor(max(_needed(point - first, share), _needed(last - point, 1 - share))))
    while not all(_holds(length, share, *span) for span in spans):
        length += 1
    return length


def _holds(length: int, share: float, first: int, last: int, point: float) -> bool:
    """Whether a cell of `length` shows all from `first` to `last`, `point` being as near to its share as can be."""
    offset = round(share * length - point)
    return first + offset >= 0 and last + offset <= length


def _needed(reach: float, share: float) -> float:
    """How long a cell is that leaves `reach` pixels on the side of the anchor that has `share` of it."""
    if reach <= 0:
        return 0
    if share <= 0:
        raise KivelError(
            f"visible pixels reach {reach:g} px beyond the anchor, which is on that border; choose another to="
        )
    return reach / share


def _span(bounds: Rect, axis: int) -> tuple[int, int]:
    return (bounds.x, bounds.right) if axis == 0 else (bounds.y, bounds.bottom)
