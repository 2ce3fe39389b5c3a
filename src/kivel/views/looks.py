"""Frames made ready to be looked at: scaled, over a backdrop, 8 bits a channel."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import Backdrop, over, scaled_size, to_8_bits
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.pixels.scaling import scaled
from kivel.files.images import FrameSource

__all__ = ["NO_MARKS", "Look", "Marks", "Smoothing", "default_scale", "marked", "shown_frame"]

Smoothing = Literal["nearest", "smooth"]

_COMFORTABLE_PX = 256
_ARM = 7
_PIVOT, _OUTLINE = (255, 90, 90, 255), (255, 220, 90, 255)


class Look(NamedTuple):
    """How to show frames."""

    scale: Fraction
    filter: Smoothing
    backdrop: Backdrop


class Marks(NamedTuple):
    """Holds what is drawn over frames: where they turn, and the polygon around what they show."""

    pivot: bool = False
    outline: bool = False


NO_MARKS = Marks()


def marked(shown: NDArray[np.uint8], frame: FrameSource, marks: Marks) -> NDArray[np.uint8]:
    """A frame that was made ready, (H, W, 4) uint8, with its marks."""
    if not any(marks):
        return shown
    import PIL.Image
    import PIL.ImageDraw

    picture = PIL.Image.fromarray(shown)
    draw = PIL.ImageDraw.Draw(picture)
    across, down = picture.width / frame.size.w, picture.height / frame.size.h
    if marks.outline and frame.outline:
        points = [(x * across, y * down) for x, y in frame.outline]
        draw.line([*points, points[0]], fill=_OUTLINE, width=1)
    if marks.pivot:
        x, y = (share * (length - 1) for share, length in zip(frame.pivot, picture.size, strict=True))
        for dark, colour in ((1, (0, 0, 0, 255)), (0, _PIVOT)):
            draw.line([(x - _ARM + dark, y + dark), (x + _ARM + dark, y + dark)], fill=colour)
            draw.line([(x + dark, y - _ARM + dark), (x + dark, y + _ARM + dark)], fill=colour)
    return np.asarray(picture)


def default_scale(size: Size) -> Fraction:
    """Small art is shown larger by a whole number, so that its longer side comes near 256 pixels."""
    return Fraction(max(1, _COMFORTABLE_PX // max(size)))


def shown_frame(image: Pixels, look: Look) -> NDArray[np.uint8]:
    """(H, W, 4) uint8."""
    height, width = image.shape[:2]
    size = scaled_size(Size(width, height), look.scale)
    plain = to_8_bits(image)
    if look.scale != 1:
        plain = scaled(plain, size, filter="lanczos" if look.filter == "smooth" else "nearest")
    return over(plain, look.backdrop)
