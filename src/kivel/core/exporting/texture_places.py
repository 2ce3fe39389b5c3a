"""Where a rectangle lies on a texture, in its coordinates: 0 to 1, from the top left or the bottom left."""

from __future__ import annotations

from fractions import Fraction
from typing import get_args

from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import TextureOrigin
from kivel.core.pixels.pixels import Rect, Size

__all__ = ["TEXTURE_ORIGINS", "TexturePlace", "texture_place"]

TEXTURE_ORIGINS: tuple[TextureOrigin, ...] = get_args(TextureOrigin)


class TexturePlace(NamedTuple):
    """Offset and scale: the point (s, t) of a frame, 0 to 1, is at offset + scale * (s, t) of the texture."""

    u: Fraction
    v: Fraction
    u_scale: Fraction
    v_scale: Fraction


def texture_place(rect: Rect, page: Size, origin: TextureOrigin, *, half_texel: bool = False) -> TexturePlace:
    """The place of a rectangle of a page, its corners, or under `half_texel` the centres of its outermost texels.

    >>> texture_place(Rect(32, 0, 32, 32), Size(128, 64), "bottom")
    TexturePlace(u=Fraction(1, 4), v=Fraction(1, 2), u_scale=Fraction(1, 4), v_scale=Fraction(1, 2))
    """
    above = rect.y if origin == "top" else page.h - rect.bottom
    # in halves of a texel
    inset = 1 if half_texel and rect.w and rect.h else 0
    return TexturePlace(
        Fraction(2 * rect.x + inset, 2 * page.w),
        Fraction(2 * above + inset, 2 * page.h),
        Fraction(rect.w - inset, page.w),
        Fraction(rect.h - inset, page.h),
    )
