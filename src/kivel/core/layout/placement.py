"""Where a frame's pixels lie on a page, and putting them there and taking them from there again."""

from __future__ import annotations

from typing import Literal, get_args

import numpy as np

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Rect, Turn, upright

__all__ = ["FLIPS", "Flip", "Placement", "flipped", "put_on_page", "skirted", "taken_from_page"]

Flip = Literal["x", "y", "xy"]
FLIPS: tuple[Flip, ...] = get_args(Flip)
"""Left and right, top and bottom, or both change places."""


class Placement(NamedTuple):
    """`box` of a frame's canvas lies in `rect` of a page, mirrored by `flip` and turned clockwise by `turn`.

    A frame without pixels has an empty `rect`. `shared` frames have their pixels on the page through another frame.
    """

    page: int
    rect: Rect
    box: Rect
    turn: Turn = 0
    flip: Flip | None = None
    shared: bool = False

    def divided(self, parts: int) -> Placement:
        """The same on a map whose sides are one part of this many; everything must divide."""
        return self._replace(rect=_divided(self.rect, parts), box=_divided(self.box, parts))


def _divided(rect: Rect, parts: int) -> Rect:
    if any(value % parts for value in rect):
        raise AssertionError(f"{rect} does not divide by {parts}")
    return Rect(*(value // parts for value in rect))


def flipped(image: Pixels, flip: Flip | None) -> Pixels:
    """`image` mirrored, as a view."""
    if flip is None:
        return image
    return image[:: -1 if "y" in flip else 1, :: -1 if "x" in flip else 1]


def put_on_page(page: Pixels, part: Pixels, placement: Placement) -> None:
    """Put the pixels of `placement.box` where they belong."""
    stored = flipped(part, placement.flip)
    placement.rect.of(page)[:] = np.rot90(stored, -1) if placement.turn == 90 else stored


def taken_from_page(page: Pixels, rect: Rect, turn: Turn, flip: Flip | None) -> Pixels:
    """The pixels before they were put there, as a view."""
    return flipped(upright(rect.of(page), turn), flip)


def skirted(page: Pixels, rect: Rect, skirt: int, *, wrap: bool = False) -> None:
    """Repeat the edge pixels of `rect` outward by `skirt` pixels; under `wrap`, those of the opposite side follow.

    The page must have room for it.
    """
    if not skirt or not rect.w or not rect.h:
        return
    rows, columns = (np.arange(-skirt, length + skirt) for length in (rect.h, rect.w))
    if wrap:
        rows, columns = rows % rect.h, columns % rect.w
    else:
        rows, columns = rows.clip(0, rect.h - 1), columns.clip(0, rect.w - 1)
    around = Rect(rect.x - skirt, rect.y - skirt, rect.w + 2 * skirt, rect.h + 2 * skirt)
    around.of(page)[:] = rect.of(page)[rows[:, None], columns]
