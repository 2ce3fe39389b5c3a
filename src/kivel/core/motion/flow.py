"""Optical flow: robust, smooth, from coarse to fine.

Horn and Schunck 1981, "Determining Optical Flow", on an image pyramid with warping, and with a robust data term (Black
and Anandan 1996, "The Robust Estimation of Multiple Motions"), solved by Jacobi's iteration. What is compared are any
pairs of images, each sampled at its own share of the vector, so that one vector answers to a whole sequence.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kivel.core.motion.warping import Planes, Vectors, enlarged, halved, places, sampled
from kivel.core.named_tuples import NamedTuple

__all__ = ["Meeting", "brightness_and_alpha", "finer", "gradients", "neighbour_mean", "pyramid", "refined", "smoothed"]

_NOISE = 0.01
"""Differences much smaller than this weigh by their square, larger ones by their size."""
_LUMINANCE = (0.2126, 0.7152, 0.0722)
"""Weights of linear red, green and blue (ITU-R BT.709)."""
_SWEEPS = 12
_LEAST_SIDE = 12


class Meeting(NamedTuple):
    """Two images, by number, that should be alike where the vector's shares `first_share` and `second_share` lead."""

    first: int
    first_share: float
    second: int
    second_share: float
    weight: float = 1.0


def pyramid(image: Planes, levels: int) -> list[Planes]:
    """The image, then each time half as large, as often as asked for or until it is tiny."""
    found = [image]
    while len(found) <= levels and min(found[-1].shape[1:]) >= 2 * _LEAST_SIDE:
        found.append(halved(found[-1]))
    return found


def brightness_and_alpha(image: Planes) -> Planes:
    """(2, H, W) of premultiplied light, (4, H, W): what flow is estimated by."""
    red, green, blue = (image[channel] * np.float32(share) for channel, share in enumerate(_LUMINANCE))
    return np.stack([red + green + blue, image[3]])


def gradients(image: Planes, *, wraps: bool = False) -> tuple[Planes, Planes]:
    """Central differences to the right and down."""
    if wraps:
        across = np.roll(image, -1, 2) - np.roll(image, 1, 2)
        down = np.roll(image, -1, 1) - np.roll(image, 1, 1)
    else:
        across, down = np.zeros_like(image), np.zeros_like(image)
        across[..., 1:-1] = image[..., 2:] - image[..., :-2]
        down[:, 1:-1] = image[:, 2:] - image[:, :-2]
    across *= np.float32(0.5)
    down *= np.float32(0.5)
    return across, down


def neighbour_mean(values: Planes, *, wraps: bool = False) -> Planes:
    """Each with its eight neighbours, by the weights 1, 2, 1 in both directions."""
    for axis in (1, 2):
        values = _mean_along(np.moveaxis(values, axis, 1), wraps)
        values = np.moveaxis(values, 1, axis)
    return values


def _mean_along(values: Planes, wraps: bool) -> Planes:
    total = values * np.float32(2)
    total[:, 1:] += values[:, :-1]
    total[:, :-1] += values[:, 1:]
    total[:, 0] += values[:, -1 if wraps else 0]
    total[:, -1] += values[:, 0 if wraps else -1]
    total *= np.float32(0.25)
    return total


def refined(
    images: Sequence[Planes],
    vectors: Vectors,
    meetings: Sequence[Meeting],
    *,
    smoothness: float,
    wraps: bool,
) -> Vectors:
    """Vectors by which the images meet better: one warp, linearised, and as smooth as it may be.

    Parameters
    ----------
    images : sequence of (C, H, W) arrays
    vectors : (2, H, W) array
        In pixels of these images.
    """
    at = places(*vectors.shape[1:])
    normal = np.zeros((3, *vectors.shape[1:]), np.float32)
    towards = np.zeros_like(vectors)
    for one in meetings:
        first = _seen(images[one.first], at, vectors, one.first_share, wraps)
        second = _seen(images[one.second], at, vectors, one.second_share, wraps)
        rest = second - first
        across, down = gradients((first + second) * np.float32(0.5), wraps=wraps)
        share = one.second_share - one.first_share
        weight = one.weight / np.sqrt((rest * rest).sum(axis=0) + np.float32(_NOISE**2))
        normal[0] += weight * share**2 * (across * across).sum(axis=0)
        normal[1] += weight * share**2 * (across * down).sum(axis=0)
        normal[2] += weight * share**2 * (down * down).sum(axis=0)
        towards[0] -= weight * share * (across * rest).sum(axis=0)
        towards[1] -= weight * share * (down * rest).sum(axis=0)
    return smoothed(vectors, normal, towards, smoothness=smoothness, wraps=wraps)


def _seen(image: Planes, at: Planes, vectors: Vectors, share: float, wraps: bool) -> Planes:
    return sampled(image, at + np.float32(share) * vectors, wraps=wraps) if share else image


def smoothed(
    vectors: Vectors, normal: Planes, towards: Vectors, *, smoothness: float, wraps: bool, sweeps: int = _SWEEPS
) -> Vectors:
    """Vectors moved as the normal equations want, and towards the mean of their neighbours.

    Parameters
    ----------
    normal : (3, H, W) array
        The symmetric 2 x 2 matrix of each pixel: xx, xy, yy.
    towards : (2, H, W) array
        The right side of the equations for the change of the vectors.
    """
    pull = np.float32(smoothness)
    xx, xy, yy = normal
    aim_x = towards[0] + xx * vectors[0] + xy * vectors[1]
    aim_y = towards[1] + xy * vectors[0] + yy * vectors[1]
    a, c = xx + pull, yy + pull
    share = 1 / (a * c - xy * xy)
    for _ in range(sweeps):
        mean = neighbour_mean(vectors, wraps=wraps)
        x, y = aim_x + pull * mean[0], aim_y + pull * mean[1]
        vectors = np.stack([(c * x - xy * y) * share, (a * y - xy * x) * share])
    return vectors


def finer(vectors: Vectors, shape: tuple[int, int], *, wraps: bool) -> Vectors:
    """Vectors for images of twice the size."""
    return enlarged(vectors, *shape, wraps=wraps) * np.float32(2)
