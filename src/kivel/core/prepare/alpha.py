"""Steps that work on alpha, and on colour under it."""

from __future__ import annotations

import numpy as np

from kivel.core.pixels.bands import in_bands, row_bands
from kivel.core.pixels.pixels import PixelError, Pixels, colour_weight, full_scale, with_alpha

__all__ = ["bled", "faded", "hardened", "multiplied", "unmultiplied"]


@in_bands
def multiplied(image: Pixels) -> Pixels:
    """Colour times alpha, on stored values: premultiplied, as some engines want textures. (H, W, 4), any depth."""
    full = full_scale(image)
    result = image.copy()
    product = image[..., :3].astype(np.float64) * colour_weight(image)[..., None] / full
    result[..., :3] = product if image.dtype == np.float32 else np.rint(product)
    return result


@in_bands
def unmultiplied(image: Pixels) -> Pixels:
    """Colour divided by alpha, on stored values; colour under alpha 0 stays. Undoes what a renderer premultiplied."""
    full = full_scale(image)
    alpha = image[..., 3:].astype(np.float64)
    straight = np.divide(image[..., :3] * float(full), alpha, out=image[..., :3].astype(np.float64), where=alpha > 0)
    result = image.copy()
    result[..., :3] = straight if image.dtype == np.float32 else np.rint(np.minimum(straight, full))
    return result


@in_bands
def hardened(image: Pixels, level: float) -> Pixels:
    """Alpha full from `level` (0 to 1) on, and 0 below it."""
    full = full_scale(image)
    return with_alpha(image, np.where(image[..., 3] >= level * full, full, 0))


@in_bands
def faded(image: Pixels, share: float) -> Pixels:
    """Alpha times `share`, and light without alpha likewise."""
    alpha = image[..., 3] * np.float64(share)
    if image.dtype != np.float32:
        return with_alpha(image, np.rint(np.minimum(alpha, full_scale(image))))
    result = with_alpha(image, alpha)
    result[image[..., 3] <= 0, :3] *= np.float32(share)
    return result


def bled(image: Pixels, *, reach: float | None = None) -> Pixels:
    """Under every transparent pixel the colour of the nearest visible one, so that filtering mixes in no black.

    Parameters
    ----------
    image : (H, W, 4) array
        Any depth. Alpha stays as it is; a frame without a visible pixel stays wholly.
    reach : float or None
        How far in pixels colour spreads; None is everywhere.

    Raises
    ------
    PixelError
        If the image is float: colour under alpha 0 is light there.

    Nearest by Euclidean distance (Maurer, Qi and Raghavan 2003, "A Linear Time Algorithm for Computing Exact Euclidean
    Distance Transforms", as SciPy has it).
    """
    if image.dtype == np.float32:
        raise PixelError(
            "colour under transparent pixels is light in float frames, and would be added to the scene; put the step "
            '"expose 0" before it'
        )
    transparent = image[..., 3] <= 0
    if transparent.all() or not transparent.any():
        return image
    from scipy.ndimage import distance_transform_edt  # a fifth of a second that no other step need spend

    if reach is None:
        rows, columns = distance_transform_edt(transparent, return_distances=False, return_indices=True)
    else:
        distance, (rows, columns) = distance_transform_edt(transparent, return_indices=True)
    result = image.copy()
    for band in row_bands(*transparent.shape):
        result[band, :, :3] = image[rows[band], columns[band], :3]
        if reach is not None:
            far = distance[band] > reach
            result[band][far] = image[band][far]
    return result
