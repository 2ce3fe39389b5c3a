"""Describes what a picture shows about where cells might meet: measured once, before any grid is thought of.

Arrays are `[row, column]`. A border `b` along a direction lies between pixels `b - 1` and `b`.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, full_scale
from kivel.core.slicing.background import Drawn

__all__ = ["Evidence", "Profile", "gathered_evidence"]

_LUMA = (0.299, 0.587, 0.114)
_MOST_LINES = 512
"""Lines of pixels that are compared with themselves: of larger pictures, as many at even steps."""
_BLOCK = 128

Levels = NDArray[np.float32]
Values = NDArray[np.float64]


class Profile(NamedTuple):
    """One direction of a picture. `thickness` is its length in the other.

    `drawn` (L + 1,) has how many pixels before each border are drawn; `touching` (L + 1,) how many pairs of drawn
    pixels meet at it; `step` (L + 1,) the sum of differences across it; `unlike` (L,) how much the picture differs from
    itself when it is moved along, 0 for a copy.
    """

    length: int
    thickness: int
    drawn: Values
    touching: Values
    step: Values
    unlike: Values


class Evidence(NamedTuple):
    """Both directions of a picture."""

    across: Profile
    down: Profile


def gathered_evidence(image: Pixels, drawn: Drawn) -> Evidence:
    """Everything that finding a grid asks of a picture of which something is drawn."""
    channels = _channels(image, drawn)
    return Evidence(
        across=_profile(drawn.seen, channels),
        down=_profile(drawn.seen.T, [channel.T for channel in channels]),
    )


def _channels(image: Pixels, drawn: Drawn) -> list[Levels]:
    """Premultiplied luminance and alpha; of a picture without background, luminance and red against blue."""
    values = image[..., :3].astype(np.float32) / np.float32(full_scale(image))
    luma = values @ np.array(_LUMA, np.float32)
    if drawn.is_full:
        chroma = (values[..., 0] - values[..., 2]) / 2
        return [luma - luma.mean(), chroma - chroma.mean()]
    alpha = image[..., 3].astype(np.float32) / np.float32(full_scale(image)) * drawn.seen
    return [luma * alpha, alpha]


def _profile(seen: NDArray[np.bool_], channels: list[Levels]) -> Profile:
    thickness, length = seen.shape
    touching, step = np.zeros(length + 1), np.zeros(length + 1)
    touching[1:-1] = np.count_nonzero(seen[:, 1:] & seen[:, :-1], axis=0)
    for channel in channels:
        step[1:-1] += np.abs(channel[:, 1:] - channel[:, :-1]).sum(axis=0, dtype=np.float64)
    drawn = np.concatenate(([0.0], np.cumsum(np.count_nonzero(seen, axis=0))))
    return Profile(length, thickness, drawn, touching, step, _unlike(channels))


def _unlike(channels: list[Levels]) -> Values:
    """Squared difference between the picture and itself moved by s, over the energy of both parts, for every s.

    By the autocorrelation theorem: the squared differences are the energies less twice the correlation.
    """
    from scipy import fft  # a tenth of a second that a stated grid need not spend

    thickness, length = channels[0].shape
    size = fft.next_fast_len(2 * length, real=True)
    power = np.zeros(size // 2 + 1)
    energy = np.zeros(length)
    every = -(-thickness // _MOST_LINES)
    for channel in channels:
        lines = np.ascontiguousarray(channel[::every])
        energy += np.einsum("ij,ij->j", lines, lines, dtype=np.float64)
        for start in range(0, len(lines), _BLOCK):
            spectrum = fft.rfft(lines[start : start + _BLOCK], size, axis=1)
            power += (spectrum.real**2 + spectrum.imag**2).sum(axis=0, dtype=np.float64)
    correlation: Any = fft.irfft(power, size)[:length]
    total = np.concatenate(([0.0], np.cumsum(energy)))
    moved = np.arange(length)
    both = total[length - moved] + total[length] - total[moved]
    enough = both > 1e-6 * max(total[-1], 1e-9)
    return np.where(enough, (both - 2 * correlation) / np.where(enough, both, 1), 1.0)
