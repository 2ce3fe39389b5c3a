"""Frames moved so that what they have in common stays in place: against the jitter of hand-drawn rows."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.contents import Content
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.pixels import Box, Pixels, Rect, Size, on_canvas, opaque_bounds, size_of
from kivel.core.prepare.actions import Decision, Frame, Measured, Place, moved
from kivel.core.prepare.geometry import shifted
from kivel.core.steadying import STEADY_REACH, steady_shifts
from kivel.core.survey import union
from kivel.core.trimming import content_box

__all__ = ["shifts_text", "steadying"]


class _Drawn(NamedTuple):
    """Holds what is drawn on a frame: its part in 8 bits, where that lies, and what of all maps is to stay visible."""

    size: Size
    box: Box
    part: NDArray[np.uint8]
    bounds: Box


def steadying(reach: int = STEADY_REACH, *, smooth: bool = False, rows: Sequence[int] | None = None) -> Measured:
    """Every frame moved by whole pixels, or `smooth` by parts of them, to where it agrees with those around it.

    The canvas stays as large as it is and grows where visible pixels would be cut off. The pivot stays on the canvas.
    Frames of several `rows`, one number for each, are steadied row by row.
    """

    def measure(frame: Frame, _: Place) -> _Drawn:
        box = opaque_bounds(frame.image)
        part = box.of(to_8_bits(frame.image)).copy() if box else np.zeros((0, 0, 4), np.uint8)
        return _Drawn(size_of(frame.image), box, part, box)

    def decide(drawn: Sequence[_Drawn]) -> Decision:
        shifts = np.zeros((len(drawn), 2))
        members = _by_row(rows or [0] * len(drawn))
        for numbers in members.values():
            shifts[numbers] = steady_shifts([_whole(drawn[n]) for n in numbers], reach=reach, smooth=smooth)
        left, top, right, bottom = _missing(drawn, shifts)
        size = Size(*(max(one.size[axis] for one in drawn) for axis in (0, 1)))
        grown = Size(size.w + left + right, size.h + top + bottom)

        def transform(frame: Frame, place: Place) -> Frame:
            own = size_of(frame.image)
            larger = Size(own.w + left + right, own.h + top + bottom)
            on_it = frame if larger == own else moved(frame, on_canvas(frame.image, larger, (left, top)), (left, top))
            x, y = shifts[place.number].tolist()
            return shifted(on_it, place, x, y, each=False, edge="clear")._replace(pivot=on_it.pivot)

        told = [
            (f"row {row}: " if len(members) > 1 else "") + shifts_text(shifts[numbers])
            for row, numbers in members.items()
        ]
        larger_now = f"; frames grow to {grown} px so that nothing is cut off" if grown != size else ""
        return Decision(transform, f"shifts {'; '.join(told)}{larger_now}")

    def also(drawn: _Drawn, image: Pixels, content: Content) -> _Drawn:
        return drawn._replace(bounds=union([drawn.bounds, content_box(image, content, threshold=0)]))

    return Measured(measure, decide, also)


def _by_row(rows: Sequence[int]) -> dict[int, list[int]]:
    return {row: [number for number, each in enumerate(rows) if each == row] for row in sorted(set(rows))}


def shifts_text(shifts: NDArray[np.float64]) -> str:
    """`0,0 +1,-2 0,+0.5`: x and y for each frame."""
    return " ".join(
        ",".join("0" if not value else f"{value:+.2f}".rstrip("0").rstrip(".") for value in row) for row in shifts
    )


def _whole(drawn: _Drawn) -> NDArray[np.uint8]:
    """The frame in 8 bits, up to what is drawn last."""
    if drawn.box is None:
        return np.zeros((1, 1, 4), np.uint8)
    image = np.zeros((drawn.box.bottom, drawn.box.right, 4), np.uint8)
    drawn.box.of(image)[...] = drawn.part
    return image


def _missing(drawn: Sequence[_Drawn], shifts: NDArray[np.float64]) -> tuple[int, int, int, int]:
    """How many pixels what is visible reaches over each border once it is moved."""
    over = [0, 0, 0, 0]
    for one, (x, y) in zip(drawn, shifts.tolist(), strict=True):
        bounds: Rect | None = one.bounds
        if bounds is not None:
            reaches = (-(bounds.x + x), -(bounds.y + y), bounds.right + x - one.size.w, bounds.bottom + y - one.size.h)
            over = [max(known, math.ceil(reach)) for known, reach in zip(over, reaches, strict=True)]
    left, top, right, bottom = over
    return left, top, right, bottom
