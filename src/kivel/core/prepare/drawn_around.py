"""Outlines and shadows drawn around what frames show, and colours replaced by others, as pixel art has them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import PixelError, Pixels, full_scale

__all__ = ["ColourPair", "outlined_in", "pairs_of_image", "recoloured", "shadowed"]

Mask = NDArray[np.bool_]
Colour = tuple[float, float, float]
Side = Literal["outside", "inside"]


class ColourPair(NamedTuple):
    """A colour that is there, and the one that it becomes; red, green and blue of 8 bits."""

    old: tuple[int, int, int]
    new: tuple[int, int, int]


def outlined_in(
    image: Pixels, color: Colour, width: int = 1, *, side: Side = "outside", neighbors: int = 4, threshold: float = 0
) -> Pixels:
    """Draw a line of one colour around what is seen, or along its inner edge.

    Parameters
    ----------
    image : (H, W, 4) array
        Any depth, straight alpha.
    color : (float, float, float)
        Stored values from 0 to 1.
    width : int
        In pixels, counted over 4 neighbours (sides) or 8 (corners too).
    side : "outside" or "inside"
        Outside the line lies under soft edges; inside it takes the colour of the pixels, and their alpha stays. What
        ends at the edge of the frame has no line there.
    threshold : float
        Alpha, from 0 to 1, up to which a pixel is outside.

    Returns
    -------
    (H, W, 4) array
        Pixels that are not of the line are unchanged.
    """
    _require_stored(image, "outline")
    seen = image[..., 3] > threshold * full_scale(image)
    result = image.copy()
    if side == "inside":
        rim = seen & _grown(~seen, width, neighbors)
        result[rim, :3] = _as_stored(color, image.dtype)
        return result
    line = _grown(seen, width, neighbors) & ~seen
    layer = np.zeros_like(image)
    layer[line] = (*_as_stored(color, image.dtype), full_scale(image))
    return _over(image, layer)


def shadowed(image: Pixels, offset: tuple[int, int], color: Colour, opacity: float) -> Pixels:
    """Draw below what is seen its own shape in one colour, moved by `offset` (x, y) and as opaque as `opacity` says.

    (H, W, 4), 8 or 16 bits; pixels on which no shadow falls are unchanged.
    """
    _require_stored(image, "shadow")
    height, width = image.shape[:2]
    x, y = offset
    layer = np.zeros_like(image)
    layer[..., :3] = _as_stored(color, image.dtype)
    to_rows, to_columns = (slice(max(0, move), max(0, side + min(0, move))) for move, side in ((y, height), (x, width)))
    rows, columns = (slice(max(0, -move), max(0, side - max(0, move))) for move, side in ((y, height), (x, width)))
    layer[to_rows, to_columns, 3] = np.rint(image[rows, columns, 3] * np.float64(opacity))
    return _over(image, layer)


def recoloured(image: Pixels, pairs: Sequence[ColourPair]) -> Pixels:
    """Every pixel of an old colour in its new one, all at once, so that two may change places; alpha stays.

    (H, W, 4), 8 bits; of 16 bits only values that 8 bits hold exactly are the same colour.

    Raises
    ------
    UsageError
        If one colour is to become two.
    """
    _require_stored(image, "recolor")
    becomes: dict[tuple[int, int, int], tuple[int, int, int]] = {}
    for pair in pairs:
        if becomes.setdefault(pair.old, pair.new) != pair.new:
            raise UsageError(f"#{bytes(pair.old).hex()} is to become two colours; give it once")
    step = full_scale(image) // 255
    packed = _packed(image[..., :3].astype(np.uint64))
    result = image.copy()
    for old, new in becomes.items():
        wanted = _packed(np.array(old, np.uint64) * np.uint64(step))
        result[packed == wanted, :3] = np.array(new) * step
    return result


def pairs_of_image(image: Pixels, variant: int) -> list[ColourPair]:
    """The colours of a picture's first row with those of row `variant` below it, column by column.

    Raises
    ------
    UsageError
        If there is no such row.
    """
    if not 1 <= variant < len(image):
        raise UsageError(f"variant={variant}: the picture has {len(image) - 1} rows below its first, counted from 1")
    rows = (image[[0, variant]].astype(np.float64) * (255 / full_scale(image))).round().astype(int)
    found = [ColourPair(_triple(old), _triple(new)) for old, new in zip(*rows.tolist(), strict=True) if old[3]]
    return list(dict.fromkeys(found))


def _triple(values: Sequence[int]) -> tuple[int, int, int]:
    red, green, blue, *_ = values
    return red, green, blue


def _packed(colours: NDArray[np.uint64]) -> Any:
    return colours[..., 0] << np.uint64(32) | colours[..., 1] << np.uint64(16) | colours[..., 2]


def _require_stored(image: Pixels, step: str) -> None:
    if image.dtype == np.float32:
        raise PixelError(f'{step} is for 8 and 16 bits, and these frames are float; put the step "expose 0" before it')


def _as_stored(color: Colour, dtype: np.dtype[Any]) -> NDArray[Any]:
    stored: NDArray[Any] = np.rint(np.array(color) * np.iinfo(dtype).max).astype(dtype)
    return stored


def _grown(mask: Mask, width: int, neighbors: int) -> Mask:
    """The mask and all within `width` steps of it, from pixel to pixel over their sides, or over corners too."""
    for _ in range(width):
        grown = mask.copy()
        grown[1:] |= mask[:-1]
        grown[:-1] |= mask[1:]
        sideways = grown if neighbors == 8 else mask
        spread = grown.copy()
        spread[:, 1:] |= sideways[:, :-1]
        spread[:, :-1] |= sideways[:, 1:]
        if (spread == mask).all():
            break
        mask = spread
    return mask


def _over(image: Pixels, below: Pixels) -> Pixels:
    """An image over a layer, on stored values; where either alone is seen, that is unchanged."""
    full = full_scale(image)
    above, under = image[..., 3:] / np.float64(full), below[..., 3:] / np.float64(full)
    rest = under * (1 - above)
    alpha = above + rest
    colours = image[..., :3] * above + below[..., :3] * rest
    mixed = np.empty_like(image)
    mixed[..., :3] = np.rint(np.divide(colours, alpha, out=np.zeros_like(colours), where=alpha > 0))
    mixed[..., 3:] = np.rint(alpha * full)
    result: Pixels = np.where(rest > 0, np.where(above > 0, mixed, below), image)
    return result
