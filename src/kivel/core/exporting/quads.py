"""Frames as upright rectangles in space, and where their corners are on a texture."""

from __future__ import annotations

from fractions import Fraction

from kivel.core.exporting.playback_table import TableFrame
from kivel.core.exporting.texture_places import texture_place
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = ["NO_QUAD", "Quad", "quad_of"]


class Quad(NamedTuple):
    """A rectangle whose lower left corner is `left`, `bottom` from the frame's pivot, in pixels, y up.

    Its point (s, t), from the top left, is at offset + scale * (s, t) of a texture whose (0, 0) is its top left; where
    it is `turned`, at offset + (-t, s), each scaled first: a quarter to the right.
    """

    left: Fraction = Fraction(0)
    bottom: Fraction = Fraction(0)
    width: int = 0
    height: int = 0
    u: Fraction = Fraction(0)
    v: Fraction = Fraction(0)
    s_scale: Fraction = Fraction(1)
    t_scale: Fraction = Fraction(1)
    turned: bool = False


NO_QUAD = Quad()
"""Where nothing shows: it has no size."""


def quad_of(frame: TableFrame, page: Size, *, half_texel: bool) -> Quad:
    """The rectangle of a frame's pixels, mirrored first and then turned as they lie on the page."""
    turned = frame.turn == 90
    width, height = frame.rect.size[::-1] if turned else frame.rect.size
    if not width or not height:
        return NO_QUAD
    place = texture_place(frame.rect, page, "top", half_texel=half_texel)
    u, v, s_scale, t_scale = place.u, place.v, place.u_scale, place.v_scale
    if turned:
        # what goes down in the frame goes to the left on the page, from its right edge
        u, s_scale, t_scale = u + place.u_scale, place.v_scale, place.u_scale
    if "x" in frame.flip:
        u, v = (u, v + s_scale) if turned else (u + s_scale, v)
        s_scale = -s_scale
    if "y" in frame.flip:
        u, v = (u - t_scale, v) if turned else (u, v + t_scale)
        t_scale = -t_scale
    left = frame.offset.x - frame.pivot[0] * frame.canvas.w
    bottom = frame.pivot[1] * frame.canvas.h - frame.offset.y - height
    return Quad(left, bottom, width, height, u, v, s_scale, t_scale, turned)
