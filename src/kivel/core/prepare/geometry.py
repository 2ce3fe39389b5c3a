"""Steps that move pixels about and do not change them: crop, trim, pad, square, turn, flip, shift; and fit."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Literal, get_args

import numpy as np

from kivel.core.contents import Content
from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Align
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.light import Kind, from_light, to_light
from kivel.core.pixels.pixels import (
    Box,
    Pixels,
    Rect,
    Size,
    aligned_offset,
    full_scale,
    on_canvas,
    opaque_bounds,
    size_of,
)
from kivel.core.pixels.sampling import Edge, shifted_light
from kivel.core.pixels.scaling import Filter, scaled
from kivel.core.prepare.actions import Decision, Frame, Measured, Place, moved
from kivel.core.survey import union
from kivel.core.trimming import content_box

__all__ = [
    "AXES",
    "Axis",
    "Sides",
    "TrimError",
    "cropped",
    "fitted",
    "flipped",
    "padded",
    "shifted",
    "squared",
    "trimming",
    "turned",
]

Axis = Literal["x", "y"]
AXES: tuple[Axis, ...] = get_args(Axis)


class TrimError(KivelError):
    """There is nothing to trim to."""


class Sides(NamedTuple):
    """Pixels to add at each side."""

    left: int
    top: int
    right: int
    bottom: int


def _framed(frame: Frame, rect: Rect) -> Frame:
    """Return what of the frame, and of the nothing around it, lies in `rect`."""
    whole = Rect(0, 0, *size_of(frame.image))
    offset = (-rect.x, -rect.y)
    if rect.fits(whole.size):
        return moved(frame, rect.of(frame.image), offset)
    return moved(frame, on_canvas(frame.image, rect.size, offset), offset)


def cropped(frame: Frame, size: Size, at: tuple[int, int] | None, align: Align) -> Frame:
    """The part of `size` whose top left is `at`, or that is aligned.

    Raises
    ------
    KivelError
        If it reaches beyond the frame.
    """
    whole = size_of(frame.image)
    x, y = at or aligned_offset(size, whole, align)
    rect = Rect(x, y, *size)
    if not rect.fits(whole):
        raise KivelError(f"a crop of {size} px at {x},{y} reaches beyond a frame of {whole} px; pad it first")
    return _framed(frame, rect)


def padded(frame: Frame, sides: Sides) -> Frame:
    """With transparent pixels at its sides."""
    width, height = size_of(frame.image)
    size = (width + sides.left + sides.right, height + sides.top + sides.bottom)
    return _framed(frame, Rect(-sides.left, -sides.top, *size))


def aligned_in(frame: Frame, size: Size, align: Align) -> Frame:
    """On a transparent canvas of a size.

    Raises
    ------
    KivelError
        If the frame is larger.
    """
    whole = size_of(frame.image)
    if whole.w > size.w or whole.h > size.h:
        raise KivelError(f"a frame of {whole} px cannot be padded to {size}; crop or fit it first")
    x, y = aligned_offset(whole, size, align)
    return _framed(frame, Rect(-x, -y, *size))


def squared(frame: Frame, align: Align) -> Frame:
    """On a square canvas as large as the longer side."""
    side = max(size_of(frame.image))
    return aligned_in(frame, Size(side, side), align)


def _bounds(image: Pixels, threshold: float) -> Box:
    """The box of what is above a threshold from 0 to 1."""
    return opaque_bounds(image, threshold=threshold * full_scale(image))


def _widened(rect: Rect, margin: int) -> Rect:
    return Rect(rect.x - margin, rect.y - margin, rect.w + 2 * margin, rect.h + 2 * margin)


def trimming(threshold: float, margin: int, *, each: bool = False) -> Measured:
    """To the box that the visible pixels of all frames fill, so that nothing jumps; under `each` to every frame's own.

    Visible pixels of companion maps count too. The pivot stays on what it marks.

    Raises
    ------
    TrimError
        If no frame has a visible pixel; under `each`, if one has none.
    """

    def decide(boxes: Sequence[Box]) -> Decision:
        box = union(boxes)
        if box is None:
            above = f" above alpha {threshold * 255:g}" if threshold else ""
            raise TrimError(f"none of the {len(boxes)} frames has a visible pixel{above}, nothing to trim to")
        if not each:
            rect = _widened(box, margin)
            return Decision(lambda frame, _: _framed(frame, rect), f"to {rect.size} px at {rect.x},{rect.y}")
        sizes = [_widened(one, margin).size for one in boxes if one]
        least, most = (Size(pick(s.w for s in sizes), pick(s.h for s in sizes)) for pick in (min, max))
        said = f"each to its own box, {least} to {most} px"
        return Decision(partial(_trimmed_each, boxes=boxes, margin=margin), said)

    def also(box: Box, image: Pixels, content: Content) -> Box:
        return union([box, content_box(image, content, threshold=threshold * full_scale(image))])

    return Measured(lambda frame, _: _bounds(frame.image, threshold), decide, also, alike=not each)


def _trimmed_each(frame: Frame, place: Place, boxes: Sequence[Box], margin: int) -> Frame:
    box = boxes[place.number]
    if box is None:
        raise TrimError(f"frame {place.number} has no visible pixel to trim to; drop it, or trim all to one box")
    return _framed(frame, _widened(box, margin))


def fitted(frame: Frame, place: Place, size: Size, filter: Filter | None, *, stretch: bool, upscale: bool) -> Frame:
    """Scaled into `size`: as large as fits in at the same aspect, or to just that size under `stretch`.

    Without a `filter`, `box` shrinks (it leaves no halo) and `lanczos` enlarges.
    """
    whole = size_of(frame.image)
    wanted = size
    if not stretch:
        share = min(size.w / whole.w, size.h / whole.h)
        wanted = Size(max(1, min(size.w, round(whole.w * share))), max(1, min(size.h, round(whole.h * share))))
    if not upscale:
        wanted = Size(min(wanted.w, whole.w), min(wanted.h, whole.h))
    shrinks = wanted.w <= whole.w and wanted.h <= whole.h
    chosen: Filter = filter or ("box" if shrinks else "lanczos")
    return frame._replace(image=scaled(frame.image, wanted, filter=chosen, kind=place.kind))


def turned(frame: Frame, place: Place, degrees: int) -> Frame:
    """Clockwise by 90, 180 or 270 degrees; normals turn along."""
    quarters = degrees // 90
    image = np.rot90(frame.image, -quarters)
    u, v = frame.pivot
    pivot = {1: (1 - v, u), 2: (1 - u, 1 - v), 3: (v, 1 - u)}[quarters]
    if place.kind in ("normal", "normal-down"):
        down = place.kind == "normal-down"
        for _ in range(quarters):
            image = _normals_turned(image, y_down=down)
    return Frame(np.ascontiguousarray(image), pivot)


def _normals_turned(image: Pixels, *, y_down: bool) -> Pixels:
    """Vectors turned clockwise on the screen: with Y down (x, y) becomes (-y, x), with Y up (y, -x)."""
    x, y = image[..., 0], image[..., 1]
    result = image.copy()
    result[..., 0], result[..., 1] = (_negated(y), x) if y_down else (y, _negated(x))
    return result


def _negated(values: Pixels) -> Pixels:
    """The opposite component of a stored vector."""
    full = 1 if values.dtype == np.float32 else np.iinfo(values.dtype).max
    return (full - values).astype(values.dtype)


def flipped(frame: Frame, place: Place, axis: Axis) -> Frame:
    """Left and right (`x`) or top and bottom (`y`) change places; normals are mirrored along."""
    image = frame.image[:, ::-1] if axis == "x" else frame.image[::-1]
    u, v = frame.pivot
    if place.kind in ("normal", "normal-down"):
        image = image.copy()
        channel = 0 if axis == "x" else 1
        image[..., channel] = _negated(image[..., channel])
    return Frame(np.ascontiguousarray(image), (1 - u, v) if axis == "x" else (u, 1 - v))


def _shifted_by_parts(image: Pixels, kind: Kind, dx: float, dy: float, edge: Edge) -> Pixels:
    """A band of rows at a time: light takes four times what 8-bit pixels do."""
    light = to_light(image, kind)
    result = np.empty_like(image)
    for rows in row_bands(*image.shape[:2]):
        band = shifted_light(light, dx, dy, edge=edge, rows=rows)
        result[rows] = from_light(band, image.dtype, kind)
    return result


def shifted(frame: Frame, place: Place, dx: float, dy: float, *, each: bool, edge: Edge) -> Frame:
    """Moved right and down; under `each` the first frame stays, the second moves once, the third twice.

    Whole pixels are moved as they are; parts of one are interpolated in linear light. The pivot moves along, unless
    the frame wraps round.
    """
    times = place.number if each else 1
    dx, dy = dx * times, dy * times
    image = frame.image
    if dx == round(dx) and dy == round(dy):
        x, y = int(dx), int(dy)
        image = np.roll(image, (y, x), (0, 1)) if edge == "wrap" else on_canvas(image, size_of(image), (x, y))
    else:
        image = _shifted_by_parts(image, place.kind, dx, dy, edge)
    return frame._replace(image=image) if edge == "wrap" else moved(frame, image, (dx, dy))
