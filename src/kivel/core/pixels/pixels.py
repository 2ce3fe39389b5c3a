"""Pixels and rectangles.

Arrays are `(height, width, 4)`, RGBA with straight alpha, row 0 at the top: `uint8`, `uint16`, or `float32` in linear
light from 0 to 1 (colour may be brighter). Rectangles are in pixels from the top left, their far edges excluded.
"""

from __future__ import annotations

from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Align
from kivel.core.room import require_room

__all__ = [
    "ALIGNMENTS",
    "NO_PAIR",
    "AlphaKind",
    "Box",
    "Pair",
    "PixelError",
    "Pixels",
    "Rect",
    "Size",
    "Turn",
    "Value",
    "aligned_offset",
    "alpha_kind",
    "associated",
    "bit_depth",
    "colour_weight",
    "depth_dtype",
    "full_scale",
    "has_light_without_alpha",
    "in_canvas",
    "is_grey",
    "is_opaque",
    "looks_premultiplied",
    "on_canvas",
    "opaque_bounds",
    "require_rgba",
    "size_of",
    "upright",
    "visibility",
    "widened",
    "with_alpha",
]

Pixels = NDArray[Any]
"""(H, W, 4) RGBA, straight alpha; `uint8`, `uint16`, or `float32` in linear light."""

Value = tuple[int | float, int | float, int | float, int | float]
"""One pixel: red, green, blue and alpha as stored."""

AlphaKind = Literal["none", "binary", "soft"]
Turn = Literal[0, 90]

_MOST_TOLD, _FEWEST_TOLD, _NOISE = 2048, 16, 0.002
_FEW_ROWS, _STRIP_ROWS = 16, 64
_FAINTEST = 2.0**-20
"""Light up to this is not seen; the least normal number of half floats is 2^-14."""
_AROUND = [(down * step, across * step) for step in (1, 2, 3) for down, across in ((0, 1), (1, 0), (0, -1), (-1, 0))]

ALIGNMENTS: tuple[Align, ...] = get_args(Align)


class PixelError(KivelError):
    """An array is not an image of a supported kind."""


class Size(NamedTuple):
    """Width and height in pixels."""

    w: int
    h: int

    def __str__(self) -> str:
        return f"{self.w}x{self.h}"


class Pair(NamedTuple):
    """A number of pixels across, and one down."""

    x: int = 0
    y: int = 0


NO_PAIR = Pair()


class Rect(NamedTuple):
    """A rectangle in pixels from the top left; `x + w` and `y + h` are outside."""

    x: int
    y: int
    w: int
    h: int

    @property
    def size(self) -> Size:
        return Size(self.w, self.h)

    @property
    def right(self) -> int:
        return self.x + self.w

    @property
    def bottom(self) -> int:
        return self.y + self.h

    def of(self, image: Pixels) -> Pixels:
        """This part of `image`, as a view."""
        return image[self.y : self.bottom, self.x : self.right]

    def fits(self, size: Size) -> bool:
        """Whether it lies wholly inside an image of this size."""
        return self.x >= 0 and self.y >= 0 and self.right <= size.w and self.bottom <= size.h


Box = Rect | None


def size_of(image: Pixels) -> Size:
    """Its width and height."""
    return Size(image.shape[1], image.shape[0])


def require_rgba(image: Pixels) -> None:
    """Raise `PixelError` unless `image` is (H, W, 4), `uint8`, `uint16` or `float32`, and not empty."""
    if image.ndim != 3 or image.shape[2] != 4 or 0 in image.shape:
        raise PixelError(f"expected an array of shape (height, width, 4), found {image.shape}")
    if image.dtype not in (np.uint8, np.uint16, np.float32):
        raise PixelError(f"expected 8 or 16 bits or float32 a channel, found {image.dtype}")


def depth_dtype(bits: int) -> type[Any]:
    """The dtype of pixels of 8, 16 or, for float, 32 bits a channel."""
    return {8: np.uint8, 16: np.uint16, 32: np.float32}[bits]


def bit_depth(image: Pixels) -> int:
    """Bits per channel: 8, 16, or 32 for float."""
    return int(image.dtype.itemsize) * 8


def full_scale(image: Pixels) -> int:
    """The largest value: 255, 65535, or 1 for float."""
    return 1 if image.dtype == np.float32 else int(np.iinfo(image.dtype).max)


def widened(image: Pixels, depth: int) -> Pixels:
    """`image` at `depth` bits, exactly: 8 bits become 16 by v * 257. Never narrows.

    Raises
    ------
    PixelError
        If `image` is deeper than `depth`, or float is asked for.
    """
    if bit_depth(image) == depth:
        return image
    if bit_depth(image) > depth or depth == 32:
        raise PixelError(f"{bit_depth(image)} bits a channel do not fit into {depth}")
    return image.astype(np.uint16) * np.uint16(257)


def visibility(image: Pixels) -> NDArray[Any]:
    """How much is seen of each pixel, (H, W) in the image's own units: its alpha.

    Float frames may hold light that has no alpha, to be added to what is behind: it counts by its brightest channel,
    but for the last faint traces of a glow, which never end.
    """
    alpha = image[..., 3]
    if image.dtype != np.float32:
        return alpha
    light = image[..., :3].max(axis=-1)
    return np.where(alpha > 0, alpha, np.where(light > _FAINTEST, light, 0))


def colour_weight(image: Pixels) -> NDArray[Any]:
    """How much the colour of each pixel weighs, (H, W) in the image's own units: its alpha; light without alpha 1."""
    alpha = image[..., 3]
    return np.where(alpha > 0, alpha, np.float32(1)) if image.dtype == np.float32 else alpha


def associated(image: Pixels) -> Pixels:
    """A float frame with colours multiplied by alpha, as OpenEXR holds them; light without alpha as it is."""
    stored = image.copy()
    for top in range(0, len(image), _STRIP_ROWS):
        strip = slice(top, top + _STRIP_ROWS)
        stored[strip, :, :3] *= colour_weight(image[strip])[..., None]
    return stored


def with_alpha(image: Pixels, alpha: NDArray[Any]) -> Pixels:
    """The image with another alpha, (H, W). In float no colour is left where it was taken away: that would be light."""
    result = image.copy()
    result[..., 3] = alpha
    if image.dtype == np.float32:
        result[(alpha <= 0) & (image[..., 3] > 0)] = 0
    return result


def has_light_without_alpha(image: Pixels) -> bool:
    """Whether a float frame holds light that has no alpha, to be added to what is behind."""
    return image.dtype == np.float32 and bool((image[image[..., 3] <= 0][:, :3] > 0).any())


def opaque_bounds(image: Pixels, *, threshold: float = 0) -> Box:
    """Smallest rectangle holding every pixel whose visibility exceeds `threshold`.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight-alpha RGBA of any depth, row 0 at the top. Not modified.
    threshold : float
        In the image's own units (0 to 255 for uint8); what is seen up to it counts as empty.

    Returns
    -------
    Rect or None
        In pixels from the top left; None when every pixel is empty.

    Raises
    ------
    PixelError
        If `image` is not an (H, W, 4) array of a supported depth.
    """
    require_rgba(image)
    opaque = visibility(image) > threshold
    rows = np.flatnonzero(opaque.any(axis=1))
    columns = np.flatnonzero(opaque.any(axis=0))
    if not rows.size:
        return None
    x, y = int(columns[0]), int(rows[0])
    return Rect(x, y, w=int(columns[-1]) + 1 - x, h=int(rows[-1]) + 1 - y)


def is_opaque(image: Pixels) -> bool:
    """Whether every pixel is; the corner pixel settles most images that are not."""
    full = full_scale(image)
    return bool(image[0, 0, 3] >= full and image[..., 3].min() >= full)


def is_grey(image: Pixels) -> bool:
    """Whether red, green and blue are the same everywhere; a few rows settle most images."""
    sparse = image[:: 1 + len(image) // _FEW_ROWS]
    strips = (image[first : first + _STRIP_ROWS] for first in range(0, len(image), _STRIP_ROWS))
    return _channels_agree(sparse) and all(map(_channels_agree, strips))


def _channels_agree(image: Pixels) -> bool:
    if image.dtype == np.uint8 and image.flags.c_contiguous:
        whole = image.view("<u4")  # red is the lowest byte: each is compared with the one above it at once
        return not ((whole ^ (whole >> np.uint32(8))) & np.uint32(0xFFFF)).any()
    red = image[..., 0]
    return bool((red == image[..., 1]).all() and (red == image[..., 2]).all())


def alpha_kind(image: Pixels) -> AlphaKind:
    """`none` when every pixel is opaque, `binary` when alpha is only 0 or full, else `soft`."""
    alpha = image[..., 3]
    full = full_scale(image)
    if is_opaque(image):
        return "none"
    return "binary" if bool(((alpha <= 0) | (alpha >= full)).all()) else "soft"


def looks_premultiplied(image: Pixels) -> bool | None:
    """Whether the colour looks premultiplied already; None when there is nothing to judge by.

    Premultiplied colour can hardly exceed its alpha, but for noise in a pixel of five hundred. Straight colour that is
    dark may not either: so that most partly transparent pixels near opaque ones must be more like these divided by
    their alpha; where none are near, they must come close to the limit somewhere.
    """
    alpha = image[..., 3]
    full = full_scale(image)
    if _surely_straight(image[:: 1 + len(image) // _FEW_ROWS], full):
        return False
    places = np.flatnonzero((alpha > 0) & (alpha < full))
    if not places.size:
        return None
    places = places[:: -(-places.size // _MOST_TOLD)]
    flat = image.reshape(-1, 4)
    told = flat[places].astype(np.float32) * np.float32(1 / full)
    brightest, limit = told[:, :3].max(axis=1), told[:, 3]
    if float((brightest > limit + 1.5 / 255).mean()) > _NOISE:
        return False
    better = _more_like_neighbours(image, places, told)
    if better is not None:
        return better
    return bool((brightest * 2 > limit).any())


def _surely_straight(image: Pixels, full: float) -> bool:
    """Whether this many colours exceed their alpha that there is no need to look at the rest."""
    alpha = image[..., 3]
    partly = (alpha > 0) & (alpha < full)
    told = image[partly].astype(np.float32) * np.float32(1 / full)
    return len(told) >= _FEWEST_TOLD and float((told[:, :3].max(axis=1) > told[:, 3] + 1.5 / 255).mean()) > 8 * _NOISE


def _more_like_neighbours(image: Pixels, places: NDArray[np.intp], told: NDArray[np.float32]) -> bool | None:
    """Whether most of the pixels at places are more like opaque ones within 3 px once divided by alpha; None of few."""
    height, width = image.shape[:2]
    rows, columns = np.divmod(places, width)
    full = full_scale(image)
    known = np.zeros(places.size, bool)
    near = np.zeros((places.size, 3), np.float32)
    for down, across in _AROUND:
        row, column = np.clip(rows + down, 0, height - 1), np.clip(columns + across, 0, width - 1)
        pixels = image[row, column]
        fresh = (pixels[:, 3] == full) & ~known
        near[fresh] = pixels[fresh, :3] * np.float32(1 / full)
        known |= fresh
    if known.sum() < _FEWEST_TOLD:
        return None
    colour, alpha, near = told[known, :3], told[known, 3:], near[known]
    divided = np.abs(np.minimum(colour / alpha, 1) - near).sum(axis=1)
    return bool((divided < np.abs(colour - near).sum(axis=1)).mean() > 0.5)


def upright(image: Pixels, turn: Turn) -> Pixels:
    """An image that was stored turned clockwise by 0 or 90 degrees, turned back, as a view."""
    return np.rot90(image) if turn == 90 else image


def aligned_offset(inner: Size, outer: Size, align: Align) -> tuple[int, int]:
    """Where the top left of `inner` lies when it is aligned in `outer`; odd halves go to the top left.

    >>> aligned_offset(Size(3, 3), Size(8, 8), "center")
    (2, 2)
    >>> aligned_offset(Size(3, 3), Size(8, 8), "bottom-right")
    (5, 5)
    """
    spare_w, spare_h = outer.w - inner.w, outer.h - inner.h
    x = 0 if align.endswith("left") else spare_w if align.endswith("right") else spare_w // 2
    y = 0 if align.startswith("top") else spare_h if align.startswith("bottom") else spare_h // 2
    return x, y


def in_canvas(image: Pixels, canvas: Size, offset: tuple[int, int]) -> Pixels:
    """`image` on a transparent canvas, its top left at `offset` (x, y); itself when it fills the canvas.

    Raises
    ------
    PixelError
        If it reaches beyond the canvas.
    """
    height, width = image.shape[:2]
    place = Rect(*offset, width, height)
    if not place.fits(canvas):
        raise PixelError(f"{place.size} px at {offset} reach beyond a canvas of {canvas} px")
    if place.size == canvas:
        return image
    require_room(*canvas, bits=bit_depth(image))
    whole = np.zeros((canvas.h, canvas.w, 4), image.dtype)
    place.of(whole)[:] = image
    return whole


def on_canvas(image: Pixels, size: Size, offset: tuple[int, int]) -> Pixels:
    """`image` on a transparent canvas, its top left at `offset` (x, y), and cut where it reaches over."""
    require_room(*size, bits=bit_depth(image))
    canvas = np.zeros((size.h, size.w, 4), image.dtype)
    (left, right, from_x), (top, bottom, from_y) = (
        (max(place, 0), min(place + length, whole), max(-place, 0))
        for place, length, whole in zip(offset, size_of(image), size, strict=True)
    )
    if right > left and bottom > top:
        part = image[from_y : from_y + bottom - top, from_x : from_x + right - left]
        canvas[top:bottom, left:right] = part
    return canvas
