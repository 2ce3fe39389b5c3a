"""Describes what of a picture is drawn, and what lies behind it: transparency, one flat colour, or nothing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Rect, full_scale

__all__ = ["SEEN", "Drawn", "KeyColour", "KeyRequest", "drawn_part", "is_key_like", "lies_around", "without_key"]

SEEN = 8 / 255
"""Alpha from which a pixel counts when cells are looked for. A frame may be fainter: this is for finding alone."""

_OPAQUE_SHARE = 0.995
_KEY_OF_BORDER, _KEY_OF_ALL = 0.30, 0.12
_FRAME = 3
"""Pixels: a line around all is thinner."""
_AROUND_A_BOX, _AROUND_BOXES = 0.5, 0.9
_LEAST_OF_BORDER = 16
"""Pixels: on less of a border nothing is common."""

KeyColour = tuple[int | float, int | float, int | float]
"""Red, green and blue as stored."""

KeyRequest = Literal["find", "corner", "none"] | tuple[int, int, int]
"""Where to look for the background colour; or which it is, in 8 bits."""


def is_key_like(key: KeyColour, image: Pixels) -> bool:
    """Whether a colour is one that is drawn for nothing else: magenta, and the other pure ones that no art is all of.

    A ground of black or grey may be a render's own.
    """
    return set(key) == {0, full_scale(image)}


class Drawn(NamedTuple):
    """`seen` is (H, W) bool: what is drawn. `key` is the background colour, if one does."""

    seen: NDArray[np.bool_]
    key: KeyColour | None

    @property
    def is_full(self) -> bool:
        """Whether there is no background at all."""
        return self.key is None and bool(self.seen.mean() >= _OPAQUE_SHARE)


def drawn_part(image: Pixels, key: KeyRequest = "find", *, seen_above: float = SEEN) -> Drawn:
    """Return what of a picture is drawn.

    Parameters
    ----------
    image : (H, W, 4) array
        Straight-alpha RGBA of any depth.
    key : "find", "corner", "none" or colour
        The background colour, a colour in 8 bits. Found where the picture is opaque: the border's
        commonest, if it makes up 30 % of the border and 12 % of the picture.
    seen_above : float
        Alpha, from 0 to 1, from which a pixel is seen.
    """
    seen = image[..., 3] >= seen_above * full_scale(image)
    if key == "none":
        return Drawn(seen, None)
    colour = _found_key(image, seen) if key == "find" else _corner(image) if key == "corner" else _stated(key, image)
    if colour is None:
        return Drawn(seen, None)
    return Drawn(seen & ~_is_colour(image, colour), colour)


def without_key(image: Pixels, key: KeyColour | None) -> Pixels:
    """The picture with what has the key's colour transparent and black; itself where there is none."""
    if key is None:
        return image
    result = image.copy()
    result[_is_colour(image, key)] = 0
    return result


def lies_around(image: Pixels, key: KeyColour, boxes: Sequence[Rect]) -> bool:
    """Whether a colour is a background: whether it lies around what is drawn in nearly all boxes.

    It has most of the outermost pixels of such a box, or of those that lie around it. Boxes that show nothing else say
    nothing. A colour that is in some boxes alone, or at parts of their borders, is the art's own: of a tile, of a
    swatch, of a full-bleed picture.
    """
    is_key = _is_colour(image, key)
    height, width = is_key.shape
    around = []
    for box in boxes:
        part = box.of(is_key)
        if part.size and not part.all():
            left, top = max(0, box.x - 1), max(0, box.y - 1)
            right, bottom = min(width, box.x + box.w + 1), min(height, box.y + box.h + 1)
            outside = _border_share(is_key[top:bottom, left:right])
            around.append(max(_border_share(part), outside) >= _AROUND_A_BOX)
    return bool(around) and float(np.mean(around)) >= _AROUND_BOXES


def _border_share(part: NDArray[np.bool_]) -> float:
    return float(np.concatenate((part[0], part[-1], part[1:-1, 0], part[1:-1, -1])).mean())


def _corner(image: Pixels) -> KeyColour:
    return _colour(image[0, 0])


def _stated(key: tuple[int, int, int], image: Pixels) -> KeyColour:
    """The colour at the depth of the picture."""
    red, green, blue = (np.array(key) / 255 * full_scale(image)).astype(image.dtype).tolist()
    return red, green, blue


def _found_key(image: Pixels, seen: NDArray[np.bool_]) -> KeyColour | None:
    if seen.mean() < _OPAQUE_SHARE:
        return None
    outer, inner = _commonest(image), _commonest(image[_FRAME:-_FRAME, _FRAME:-_FRAME])
    # a drawn line around all is no ground: that lies behind it
    for colour in (inner, outer) if outer != inner and inner else (outer,):
        if colour and _KEY_OF_ALL <= _is_colour(image, colour).mean() < 1:
            return colour
    return None


def _commonest(image: Pixels) -> KeyColour | None:
    """The colour of a good part of the border, if there is one."""
    if not image.size:
        return None
    border = np.concatenate((image[0], image[-1], image[1:-1, 0], image[1:-1, -1]))[:, :3]
    colours, counts = np.unique(border, axis=0, return_counts=True)
    commonest = int(counts.argmax())
    enough = max(_KEY_OF_BORDER * len(border), _LEAST_OF_BORDER)
    return _colour(colours[commonest]) if counts[commonest] >= enough else None


def _colour(pixel: Pixels) -> KeyColour:
    red, green, blue = pixel[:3].tolist()
    return red, green, blue


def _is_colour(image: Pixels, colour: KeyColour) -> NDArray[np.bool_]:
    red, green, blue = (image[..., channel] == value for channel, value in enumerate(colour))
    found: NDArray[np.bool_] = red & green & blue
    return found
