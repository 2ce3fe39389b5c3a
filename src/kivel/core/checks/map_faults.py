"""Whether a companion map belongs to its colour: what it covers, when it changes, which way its normals point."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Value

__all__ = [
    "Lag", "NormalFigures", "common_shift", "coverage", "map_lag", "map_shift", "normal_figures", "place_energy",
    "unseen_emission",
]  # fmt: skip

_PLACES = 16
_FEWEST_CHANGES = 3
_FEWEST_NORMALS = 64
_AS_GROUND = 2
_FLAT = 0.01
"""Change of slope, a pixel: less is the rounding of 8 bits."""


class NormalFigures(NamedTuple):
    """Visible normals: median and 90th percentile of |length - 1|, share that points inward, `axis` correlation.

    `axis` is below 0 where one axis is flipped; None where the surface is too flat to tell.
    """

    length_median: float
    length_p90: float
    inward: float
    axis: float | None


def coverage(color: Pixels, other: Pixels, ground: Value) -> float | None:
    """The share of a map's pixels that say something, (H, W, 4) uint8, that lie on visible colour; None where none do.

    Those that are transparent, or as the map's empty `ground`, say nothing.
    """
    seen = _says_something(other, ground)
    total = int(seen.sum())
    return int((seen & (color[..., 3] > 0)).sum()) / total if total else None


def _says_something(other: Pixels, ground: Value) -> NDArray[np.bool_]:
    seen: NDArray[np.bool_] = (other[..., 3] > 0) & (
        np.abs(other[..., :3].astype(np.int16) - ground[:3]) > _AS_GROUND
    ).any(axis=-1)
    return seen


def map_shift(color: Pixels, other: Pixels, ground: Value) -> tuple[int, int] | None:
    """How far to the right and down the box of what a map says lies from the colour's, where both are of one size.

    Images are (H, W, 4) uint8 of one size; None where either is empty, or they are of other sizes.
    """
    boxes = [_box(color[..., 3] > 0), _box(_says_something(other, ground))]
    if boxes[0] is None or boxes[1] is None or boxes[0][2:] != boxes[1][2:]:
        return None
    return boxes[1][0] - boxes[0][0], boxes[1][1] - boxes[0][1]


def _box(seen: NDArray[np.bool_]) -> tuple[int, int, int, int] | None:
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    if not rows.size:
        return None
    x, y = int(columns[0]), int(rows[0])
    return x, y, int(columns[-1]) + 1 - x, int(rows[-1]) + 1 - y


def common_shift(shifts: Sequence[tuple[int, int] | None]) -> tuple[int, int] | None:
    """The shift of most frames, if most have one and it is one; None for none."""
    (shift, count) = Counter(shifts).most_common(1)[0] if shifts else (None, 0)
    return shift if shift and shift != (0, 0) and count * 2 > len(shifts) else None


def unseen_emission(color: Pixels, emission: Pixels) -> float:
    """The share of what an emission map gives off, (H, W, 4) uint8, where the colour is transparent."""
    light = emission[..., :3].max(axis=-1).astype(np.float32) * emission[..., 3]
    total = float(light.sum())
    return float(light[color[..., 3] == 0].sum()) / total if total else 0.0


def place_energy(before: Pixels, after: Pixels) -> NDArray[np.float64]:
    """(256,): how much changes at each of 16 x 16 places from a frame to the next, (H, W, 4) uint8 of one size."""
    change = np.abs(_seen(after) - _seen(before)).sum(axis=-1)
    height, width = change.shape
    rows = np.linspace(0, height, _PLACES + 1).astype(int)
    columns = np.linspace(0, width, _PLACES + 1).astype(int)
    sums = np.pad(change.cumsum(0).cumsum(1), ((1, 0), (1, 0)))[rows][:, columns]
    energy: NDArray[np.float64] = np.diff(np.diff(sums, axis=0), axis=1).astype(np.float64).ravel()
    return energy


def _seen(image: Pixels) -> NDArray[np.float32]:
    """Colours as far as they cover."""
    values = image.astype(np.float32)
    return np.concatenate([values[..., :3] * (values[..., 3:] / 255), values[..., 3:]], axis=-1)


class Lag(NamedTuple):
    """By how many frames a map is late (below 0 early), how well it correlates there, and how well as it is."""

    frames: int
    there: float
    here: float


def map_lag(color: Sequence[NDArray[np.float64]], other: Sequence[NDArray[np.float64]]) -> Lag | None:
    """Return by which lag the changes of a map follow those of its colour, by place; None where too little changes.

    Each place's mean over time is removed, so that what always moves tells nothing.
    """
    a, b = (np.array(each) - np.mean(each, axis=0) if len(each) else np.zeros((0, 1)) for each in (color, other))
    count = len(a)
    if count < _FEWEST_CHANGES or not a.any() or not b.any():
        return None
    most = max(1, min(count // 2, 12))
    found = {lag: _correlation(a[max(0, -lag) : count - max(0, lag)], b[max(0, lag) : count - max(0, -lag)])
             for lag in range(-most, most + 1)}  # fmt: skip
    best = max(found, key=lambda lag: (found[lag], -abs(lag)))
    return Lag(best, found[best], found[0])


def _correlation(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    size = float(np.sqrt((a * a).sum() * (b * b).sum()))
    return float((a * b).sum()) / size if size else 0.0


def normal_figures(image: Pixels, color: Pixels | None = None, *, y_down: bool = False) -> NormalFigures | None:
    """Return what is odd about a normal map, (H, W, 4) uint8; None where hardly any of it is visible."""
    visible = image[..., 3] > 0
    if color is not None:
        visible &= color[..., 3] > 0
    if int(visible.sum()) < _FEWEST_NORMALS:
        return None
    vectors: NDArray[np.float32] = image[..., :3].astype(np.float32) / np.float32(255) * 2 - 1
    if y_down:
        vectors[..., 1] *= -1
    lengths = np.abs(np.sqrt((vectors * vectors).sum(axis=-1))[visible] - 1)
    inward = float((vectors[..., 2][visible] < -0.02).mean())
    return NormalFigures(
        float(np.median(lengths)), float(np.percentile(lengths, 90)), inward, _axis_correlation(vectors, visible)
    )


def _axis_correlation(vectors: NDArray[np.float32], visible: NDArray[np.bool_]) -> float | None:
    """Slopes of one surface have dp/dy = dq/dx; where one axis is flipped they are each other's opposites."""
    z = np.maximum(vectors[..., 2], 0.05)
    p, q = -vectors[..., 0] / z, vectors[..., 1] / z
    inside = visible[1:-1, 1:-1] & visible[2:, 1:-1] & visible[:-2, 1:-1] & visible[1:-1, 2:] & visible[1:-1, :-2]
    across, down = (p[2:, 1:-1] - p[:-2, 1:-1])[inside], (q[1:-1, 2:] - q[1:-1, :-2])[inside]
    across, down = np.clip(across, -4, 4), np.clip(down, -4, 4)
    size = float(np.sqrt((across * across).sum() * (down * down).sum()))
    if across.size < _FEWEST_NORMALS or size < across.size * _FLAT**2:
        return None
    return float((across * down).sum()) / size
