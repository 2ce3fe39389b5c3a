"""Dark or coloured edges: what hides under transparent pixels comes through where straight colours are filtered."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Pixels

__all__ = ["fringe", "hidden_colours"]

_NEIGHBOURS = [(down, across) for down in (-1, 0, 1) for across in (-1, 0, 1) if down or across]
_FAR_PX = 4
_MANY = 10_000
_MOST_PLACES = 1 << 14
_BAND = 256
"""Rows at once, and the places that are looked at of them: enough to tell."""


def fringe(image: Pixels) -> float:
    """How far filtering (H, W, 4) uint8 pixels of straight alpha is from filtering them with colour spread outward.

    Of every 2 x 2 pixels that mix transparent and visible ones, the colour that shows there, of 255; the 90th
    percentile, 0 where nothing mixes.
    """
    bands = [_differences(image[top : top + _BAND + 1]) for top in range(0, max(1, image.shape[0] - 1), _BAND)]
    found = np.concatenate(bands)
    return float(np.percentile(found, 90)) if found.size else 0.0


def _differences(image: Pixels) -> NDArray[np.float32]:
    """Return the fringe for each 2 x 2 pixels that mix."""
    alpha = image[..., 3]
    visible = alpha > 0
    pairs = visible[:-1] != visible[1:]
    mixed = pairs[:, :-1] | pairs[:, 1:] | (visible[:-1, :-1] != visible[:-1, 1:])
    rows, columns = np.nonzero(mixed)
    step = -(-rows.size // _MOST_PLACES) or 1
    rows, columns = rows[::step], columns[::step]
    straight = np.zeros((rows.size, 3), np.float32)
    spread = np.zeros((rows.size, 3), np.float32)
    share = np.zeros(rows.size, np.float32)
    for down in (0, 1):
        for across in (0, 1):
            at = (rows + down, columns + across)
            colour = image[at][:, :3].astype(np.float32)
            straight += colour
            spread += np.where(visible[at][:, None], colour, _nearby(image, visible, *at))
            share += alpha[at]
    difference: NDArray[np.float32] = np.abs(straight - spread).max(axis=1) / 4 * (share / (4 * 255))
    return difference


def _nearby(
    image: Pixels, visible: NDArray[np.bool_], rows: NDArray[np.intp], columns: NDArray[np.intp]
) -> NDArray[np.float32]:
    """The mean colour of the visible pixels around each place; black where there are none."""
    total = np.zeros((rows.size, 3), np.float32)
    count = np.zeros((rows.size, 1), np.float32)
    height, width = visible.shape
    for down, across in _NEIGHBOURS:
        row, column = rows + down, columns + across
        inside = (row >= 0) & (row < height) & (column >= 0) & (column < width)
        at = (np.clip(row, 0, height - 1), np.clip(column, 0, width - 1))
        seen = (visible[at] & inside)[:, None]
        total += np.where(seen, image[at][:, :3], 0)
        count += seen
    mean: NDArray[np.float32] = np.asarray(total / np.maximum(count, 1), np.float32)
    return mean


def hidden_colours(image: Pixels) -> int:
    """How many colours (H, W, 4) uint8 pixels have that are transparent and far from visible ones.

    A colour that was spread outward to cure a fringe is near them, or is everywhere the same.
    """
    found: set[int] = set()
    for top in range(0, image.shape[0], _BAND):
        above = min(top, _FAR_PX)
        band = image[top - above : top + _BAND + _FAR_PX]
        far = _far_from(band[..., 3] > 0)[above : above + _BAND]
        colours = band[above : above + _BAND][far][:, :3].astype(np.uint32)
        if colours.any():
            found |= set(np.unique(colours[:, 0] << 16 | colours[:, 1] << 8 | colours[:, 2]).tolist())
        if len(found) > _MANY:
            break
    return len(found)


def _far_from(visible: NDArray[np.bool_]) -> NDArray[np.bool_]:
    near = visible.copy()
    for axis in (0, 1):
        grown = near.copy()
        for offset in range(1, _FAR_PX + 1):
            ahead, behind = ((slice(None),) * axis + (part,) for part in (slice(offset, None), slice(None, -offset)))
            if near.shape[axis] > offset:
                grown[ahead] |= near[behind]
                grown[behind] |= near[ahead]
        near = grown
    return ~near
