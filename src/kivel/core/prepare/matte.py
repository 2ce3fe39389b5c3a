"""Cutting frames out of their background: alpha from brightness, or from a key colour, and the colour un-mixed.

A frame over its background shows `a * colour + (1 - a) * background`; taking the background out again leaves no fringe
over any other (Porter and Duff 1984, "Compositing Digital Images", the equation of "over", solved for the colour).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.bands import in_bands
from kivel.core.pixels.pixels import Pixels, colour_weight, full_scale, is_grey, is_opaque, require_rgba
from kivel.core.prepare.ramp import luma

__all__ = ["brightness_mask", "corner_colour", "matte_brightness", "matte_key"]

Levels = NDArray[np.floating[Any]]
Background = tuple[float, float, float]
"""Red, green and blue from 0 to 1, on stored values."""


@in_bands
def brightness_mask(image: Pixels) -> Pixels:
    """White with the image's luma (Rec. 709, on stored values) times its alpha as alpha: a mask that is full where it
    is bright. (H, W, 4), any depth.
    """
    require_rgba(image)
    full = full_scale(image)
    mask = np.full_like(image, full)
    level = luma(image) * image[..., 3]
    mask[..., 3] = level if image.dtype == np.float32 else np.rint(level)
    return mask


@in_bands
def matte_brightness(image: Pixels, *, inverted: bool = False, floor: float = 0.0) -> Pixels:
    """Alpha from brightness: the smallest alpha with which the frame can be had over its background.

    Parameters
    ----------
    image : (H, W, 4) array
        Bright on dark; dark on bright if `inverted`. Any depth, straight alpha, which the new alpha multiplies.
    floor : float
        How far the background is from black (or from white), from 0 to 1; what is no further is empty.

    Returns
    -------
    (H, W, 4) array
        Over the background it shows `image` again, within half a level of each value.
    """
    require_rgba(image)
    # smoke and sparks rendered over black: one look-up instead of a dozen passes
    if not inverted and not floor and image.dtype == np.uint8 and is_opaque(image) and is_grey(image):
        return _WHITE_BY_ALPHA.take(image[..., 0], mode="clip").view(np.uint8).reshape(image.shape)
    level = 1 - floor if inverted else floor
    offset = _unit_values(image) - np.float32(level)
    offset = np.minimum(offset, 0) if inverted else np.maximum(offset, 0)
    background = (level, level, level)
    return _unmixed(image, background, offset, _least_alpha(offset, background))


def _white_by_alpha() -> NDArray[np.uint32]:
    """For each 8-bit grey, the pixel that shows it over black: white of that alpha."""
    table = np.full((256, 4), 255, np.uint8)
    table[:, 3] = np.arange(256)
    # no white under what is empty: it would bleed in when the frame is scaled
    table[0] = 0
    return table.view(np.uint32).ravel()


_WHITE_BY_ALPHA = _white_by_alpha()


@in_bands
def matte_key(image: Pixels, key: Background, *, tolerance: float, softness: float, spill: float = 0.0) -> Pixels:
    """Alpha from how far a pixel is from a key colour: 0 within `tolerance`, full from `softness` beyond it on.

    Parameters
    ----------
    image : (H, W, 4) array
        Any depth, straight alpha, which the new alpha multiplies.
    key : three floats
        From 0 to 1, on stored values.
    tolerance, softness : float
        Distances from 0 to 1: the largest difference in any channel.
    spill : float
        From 0 to 1: how much of the key's own hue is taken out of what remains, where its strongest channel outshines
        both others.

    Returns
    -------
    (H, W, 4) array
        Over the key colour it shows `image` again wherever alpha is not 0, if `spill` is 0.
    """
    require_rgba(image)
    values = _unit_values(image)
    offset = values - np.array(key, np.float32)
    distance = np.abs(offset).max(axis=-1)
    soft = np.clip((distance - tolerance) / max(softness, 1e-6), 0, 1)
    alpha = np.where(distance <= tolerance, 0, np.maximum(soft, _least_alpha(offset, key)))
    return _unmixed(image, key, offset, alpha.astype(np.float32), spill)


def corner_colour(image: Pixels) -> Background:
    """The colour that most of the four corner pixels have; the top left one's if they all differ."""
    corners = image[[0, 0, -1, -1], [0, -1, 0, -1], :3]
    alike = (corners[:, None] == corners[None]).all(axis=-1).sum(axis=1)
    red, green, blue = (float(value) / full_scale(image) for value in corners[int(alike.argmax())])
    return red, green, blue


def _unit_values(image: Pixels) -> Levels:
    return image[..., :3].astype(np.float32) / np.float32(full_scale(image))


def _least_alpha(offset: Levels, background: Background) -> Levels:
    """The smallest alpha that leaves every channel a colour from 0 to 1, `offset` being what differs from behind."""
    behind = np.array(background, np.float32)
    # brighter than behind can be white at most, darker can be black at most
    room = np.where(offset > 0, 1 - behind, behind)
    least: Levels = np.minimum((np.abs(offset) / np.maximum(room, 1e-6)).max(axis=-1), 1)
    return least


def _unmixed(image: Pixels, background: Background, offset: Levels, alpha: Levels, spill: float = 0.0) -> Pixels:
    """`image` without its background; with the alpha as it is stored, so that rounding does not show."""
    full = full_scale(image)
    stored = _stored(alpha, image.dtype, full)
    share = np.divide(full, stored, out=np.zeros(alpha.shape, np.float32), where=stored > 0, casting="unsafe")
    behind = np.array(background, np.float32)
    colour = behind + offset * share[..., None]
    if spill:
        colour = _without_spill(colour, behind, spill)
    result = np.empty_like(image)
    cap = np.inf if image.dtype == np.float32 else 1
    result[..., :3] = _stored(np.clip(colour, 0, cap), image.dtype, full) * (stored[..., None] > 0)
    result[..., 3] = stored
    if not is_opaque(image):
        before = np.minimum(colour_weight(image) / np.float32(full), 1)  # a float frame's may be above 1
        result[..., 3] = _stored(alpha * before, image.dtype, full)
    return result


def _stored(values: Levels, dtype: Any, full: int) -> Any:
    return values.astype(dtype) if dtype == np.float32 else np.rint(values * full).astype(dtype)


def _without_spill(colour: Levels, key: Levels, spill: float) -> Levels:
    """The key's strongest channel no brighter than the brighter of the others; grey keys have none."""
    order = np.argsort(key)
    strongest = int(order[-1])
    if key[strongest] == key[order[-2]]:
        return colour
    others = [channel for channel in range(3) if channel != strongest]
    excess = np.maximum(colour[..., strongest] - colour[..., others].max(axis=-1), 0)
    cleaned = colour.copy()
    cleaned[..., strongest] -= spill * excess
    return cleaned
