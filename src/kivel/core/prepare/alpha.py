"""Steps that work on alpha, and on colour under it."""

from __future__ import annotations

import numpy as np

from kivel.core.pixels.pixels import Pixels, full_scale

__all__ = ["bled", "faded", "hardened", "multiplied", "unmultiplied"]


def multiplied(image: Pixels) -> Pixels:
    """Colour times alpha, on stored values: premultiplied, as some engines want textures. (H, W, 4), any depth."""
    full = full_scale(image)
    result = image.copy()
    product = image[..., :3].astype(np.float64) * image[..., 3:] / full
    result[..., :3] = product if image.dtype == np.float32 else np.rint(product)
    return result


def unmultiplied(image: Pixels) -> Pixels:
    """Colour divided by alpha, on stored values; colour under alpha 0 stays. Undoes what a renderer premultiplied."""
    full = full_scale(image)
    alpha = image[..., 3:].astype(np.float64)
    straight = np.divide(image[..., :3] * float(full), alpha, out=image[..., :3].astype(np.float64), where=alpha > 0)
    result = image.copy()
    result[..., :3] = straight if image.dtype == np.float32 else np.rint(np.minimum(straight, full))
    return result


def hardened(image: Pixels, level: float) -> Pixels:
    """Alpha full from `level` (0 to 1) on, and 0 below it."""
    full = full_scale(image)
    result = image.copy()
    result[..., 3] = np.where(image[..., 3] >= level * full, full, 0)
    return result


def faded(image: Pixels, share: float) -> Pixels:
    """Alpha times `share`."""
    result = image.copy()
    alpha = image[..., 3] * np.float64(share)
    result[..., 3] = alpha if image.dtype == np.float32 else np.rint(np.minimum(alpha, full_scale(image)))
    return result


def bled(image: Pixels, *, reach: float | None = None) -> Pixels:
    """Under every transparent pixel the colour of the nearest visible one, so that filtering mixes in no black.

    Parameters
    ----------
    image : (H, W, 4) array
        Any depth. Alpha stays as it is; a frame without a visible pixel stays wholly.
    reach : float or None
        How far in pixels colour spreads; None is everywhere.

    Nearest by Euclidean distance (Maurer, Qi and Raghavan 2003, "A Linear Time Algorithm for Computing Exact Euclidean
    Distance Transforms", as SciPy has it).
    """
    transparent = image[..., 3] <= 0
    if transparent.all() or not transparent.any():
        return image
    from scipy.ndimage import distance_transform_edt  # a fifth of a second that no other step need spend

    distance, (rows, columns) = distance_transform_edt(transparent, return_indices=True)
    result = image.copy()
    result[..., :3] = image[rows, columns, :3]
    if reach is not None:
        far = distance > reach
        result[far] = image[far]
    return result
