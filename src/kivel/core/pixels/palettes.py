"""One palette for many frames: colours with alpha, chosen so that what is seen over black and over white errs least.

Colours are judged where they are mixed: multiplied by alpha, over black and over white at once, six values in all. The
mean of a group of colours is then the best colour for it, and k-means (Lloyd 1982, Least squares quantization in PCM)
finds groups; it begins from splits of the group that errs most, at its mean along the value that varies most (Wan,
Wong and Prusinkiewicz 1988, An algorithm for multidimensional data clustering). It finds a good palette, not the best.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Dither
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.depths import BAYER
from kivel.core.pixels.pixels import Pixels

__all__ = ["Colours", "Error", "Palette", "best_palette", "error_between", "nearest_own"]


_BITS = 7
_MOST_POINTS = 60_000
_ROUNDS = 16
_ENOUGH = 1e-3
_OPAQUE = 253.5
_MOST_ALIKE = 4
_NEIGHBOURS = 8
_LARGEST = 256
_AT_A_TIME = 1 << 20
Seen = NDArray[np.float64]
"""(n, 6): red, green, blue over black, then over white, 0 to 255 each."""


class Colours:
    """All colours of frames that are added one by one, in groups of nearly the same, and how often each occurs."""

    def __init__(self, *, premultiplied: bool = False) -> None:
        self.premultiplied = premultiplied
        self._keys = np.empty(0, np.uint32)
        self._sums = np.empty((0, 5))
        self._few: NDArray[np.uint32] | None = np.empty(0, np.uint32)
        self.has_nothing = False
        """Whether some pixel is not seen at all."""

    def add(self, image: Pixels) -> None:
        """A frame, (H, W, 4) uint8; in whatever order, for the sums are whole numbers."""
        for rows in row_bands(*image.shape[:2], pixels=_AT_A_TIME):
            self._add(image[rows])

    def _add(self, image: Pixels) -> None:
        if self._few is not None:
            known = np.union1d(self._few, np.ascontiguousarray(image).view(np.uint32))
            self._few = known if known.size <= _LARGEST else None
        mixed = _premultiplied(image, premultiplied=self.premultiplied).reshape(-1, 4)
        self.has_nothing = self.has_nothing or not mixed[:, 3].all()
        keys, where, counts = np.unique(_keys(mixed, _BITS), return_inverse=True, return_counts=True)
        sums = [np.bincount(where.reshape(-1), mixed[:, channel], keys.size) for channel in range(4)]
        self._keys, self._sums = _joined(
            np.concatenate((self._keys, keys)), np.concatenate((self._sums, np.column_stack((*sums, counts))))
        )

    @property
    def exact(self) -> NDArray[np.uint8] | None:
        """(n, 4): every colour there is, as stored, if there are no more than 256."""
        return None if self._few is None else self._few.view(np.uint8).reshape(-1, 4)

    def points(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """(n, 4) of premultiplied means of what is seen at all, and how many pixels each means."""
        sums, bits = self._sums, _BITS
        while len(sums) > _MOST_POINTS:
            bits -= 1
            means = (sums[:, :4] / sums[:, 4:]).astype(np.uint16)
            _, sums = _joined(_keys(means, bits), sums)
        seen = sums[:, :4].sum(axis=1) > 0
        return sums[seen, :4] / sums[seen, 4:], sums[seen, 4]


def _keys(mixed: NDArray[np.uint16], bits: int) -> NDArray[np.uint32]:
    """(n,): the upper bits of each value, one behind the other."""
    upper = (mixed >> (8 - bits)).astype(np.uint32)
    keys = upper[:, 0]
    for channel in range(1, 4):
        keys = keys << np.uint32(bits) | upper[:, channel]
    return keys


def _joined(keys: NDArray[np.uint32], sums: NDArray[np.float64]) -> tuple[NDArray[np.uint32], NDArray[np.float64]]:
    """Each key once, in order, with the sums of all that had it."""
    known, where = np.unique(keys, return_inverse=True)
    columns = [np.bincount(where.reshape(-1), column, known.size) for column in sums.T]
    return known, np.column_stack(columns)


def _premultiplied(image: Pixels, *, premultiplied: bool) -> NDArray[np.uint16]:
    mixed = image.astype(np.uint16)
    if not premultiplied:
        mixed[..., :3] = (mixed[..., :3] * mixed[..., 3:] + 127) // 255
    return mixed


def _seen(mixed: NDArray[Any]) -> Seen:
    over_black = mixed[:, :3].astype(np.float64)
    return np.hstack((over_black, over_black + 255 - mixed[:, 3:]))


class Palette:
    """Up to 256 colours, (n, 4) uint8 as they are stored, and the nearest of them for every pixel.

    A colour always becomes the same one, so that what does not move does not flicker. Under `ordered` it becomes one of
    the two between which it lies, the more often the nearer that is, by where in the frame it is (Bayer 1973, An
    optimum method for two-level rendition of continuous-tone pictures); what is in the palette stays.
    """

    def __init__(self, colours: NDArray[np.uint8], *, premultiplied: bool = False, dither: Dither = "none") -> None:
        from scipy.spatial import cKDTree

        self.colours = colours
        self._premultiplied = premultiplied
        self._dither = dither if len(colours) > 1 else "none"
        self._seen = _seen(_premultiplied(colours[None], premultiplied=premultiplied)[0])
        self._tree = cKDTree(self._seen)

    def nearest(self, colours: NDArray[np.uint8]) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
        """How far the nearest of its colours is from each of these, (n, 4) as stored, and which that is."""
        mixed = _premultiplied(colours[None], premultiplied=self._premultiplied)[0]
        distances, nearest = self._tree.query(_seen(mixed))
        return distances, nearest

    def mapped(self, image: Pixels) -> Pixels:
        """A frame, (H, W, 4) uint8, in these colours."""
        mapped: Pixels = np.empty_like(image)
        for rows in row_bands(*image.shape[:2], pixels=_AT_A_TIME, multiple=len(BAYER)):
            mapped[rows] = self._mapped(image[rows])
        return mapped

    def _mapped(self, image: Pixels) -> Pixels:
        height, width = image.shape[:2]
        mixed = _premultiplied(image, premultiplied=self._premultiplied).astype(np.uint8)
        unique, where = np.unique(mixed.reshape(-1, 4).view(np.uint32)[:, 0], return_inverse=True)
        where = where.reshape(height, width)
        wanted = unique.view(np.uint8).reshape(-1, 4)
        if self._dither == "none":
            indices = self._tree.query(_seen(wanted))[1][where]
        else:
            near, far, share = self._between(wanted)
            tiles = np.tile(BAYER, (-(-height // len(BAYER)), -(-width // len(BAYER))))[:height, :width]
            indices = np.where(share[where] > tiles, far[where], near[where])
        mapped: Pixels = self.colours[indices]
        return mapped

    def _between(self, wanted: NDArray[np.uint8]) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.float64]]:
        """For each colour the nearest, another such that what lies between both comes closest, and how far it is on
        the way there. What is opaque stays so.
        """
        seen = _seen(wanted)
        _, neighbours = self._tree.query(seen, k=min(_NEIGHBOURS, len(self.colours)))
        near = neighbours[:, 0]
        far, share, least = near.copy(), np.zeros(len(seen)), np.full(len(seen), np.inf)
        opaque = self.colours[:, 3] == 255
        for candidate in neighbours.T[1:]:
            way = self._seen[candidate] - self._seen[near]
            length = (way**2).sum(axis=1)
            along = np.clip(((seen - self._seen[near]) * way).sum(axis=1) / np.maximum(length, 1), 0, 1)
            missed = ((seen - self._seen[near] - along[:, None] * way) ** 2).sum(axis=1)
            better = (missed < least) & (opaque[candidate] | (wanted[:, 3] < 255))
            far[better], share[better], least[better] = candidate[better], along[better], missed[better]
        return near, far, share


def best_palette(colours: Colours, count: int, *, dither: Dither = "none") -> Palette:
    """Up to `count` colours for all that were added; exactly those, where there are no more.

    Where anything is wholly transparent, one of them is.
    """
    exact = colours.exact
    if exact is not None and len(exact) <= count:
        return Palette(exact, premultiplied=colours.premultiplied)
    points, weights = colours.points()
    seen = _seen(points)
    nothing = np.zeros((int(colours.has_nothing), 4), np.uint8)
    found = nothing
    for more in range(_MOST_ALIKE):  # groups that are stored as one leave room for others
        centres = _settled(seen, weights, _split(seen, weights, count - len(nothing) + more))
        stored = np.unique(np.vstack((nothing, _stored(centres, premultiplied=colours.premultiplied))), axis=0)
        if len(stored) > count:
            break
        found = stored
        if len(stored) == count:
            break
    return Palette(found, premultiplied=colours.premultiplied, dither=dither)


def nearest_own(palette: Palette, images: Iterable[Pixels]) -> NDArray[np.uint8]:
    """For each colour of a palette the nearest that occurs in images, (n, 4) uint8, in order and each once.

    A colour to which no pixel is nearest has none; the palette gets smaller by it.
    """
    best = np.full(len(palette.colours), np.inf)
    found = palette.colours.copy()
    for image in images:
        flat = np.unique(np.ascontiguousarray(image).view(np.uint32)).view(np.uint8).reshape(-1, 4)
        distances, nearest = palette.nearest(flat)
        order = np.lexsort((np.arange(len(flat)), distances, nearest))
        first = order[np.unique(nearest[order], return_index=True)[1]]
        closer = first[distances[first] < best[nearest[first]]]
        best[nearest[closer]], found[nearest[closer]] = distances[closer], flat[closer]
    return np.unique(found[np.isfinite(best)], axis=0)


def _stored(centres: Seen, *, premultiplied: bool) -> NDArray[np.uint8]:
    alpha = 255 - (centres[:, 3:] - centres[:, :3]).mean(axis=1, keepdims=True)
    alpha = np.rint(np.where(alpha > _OPAQUE, 255, alpha))
    colour = centres[:, :3] if premultiplied else centres[:, :3] * 255 / np.maximum(alpha, 1)
    return np.hstack((np.clip(np.rint(colour), 0, 255) * (alpha > 0), alpha)).astype(np.uint8)


def _split(seen: Seen, weights: NDArray[np.float64], count: int) -> NDArray[np.intp]:
    """(n,): the group of each point, of `count` or as many as there are different points."""
    groups = np.zeros(len(seen), np.intp)
    errors, spreads = [], []

    def measure(group: int) -> tuple[float, NDArray[np.float64]]:
        members = groups == group
        inside, heavy = seen[members], weights[members, None]
        spread = (heavy * (inside - (heavy * inside).sum(axis=0) / heavy.sum()) ** 2).sum(axis=0)
        return float(spread.sum()), spread

    error, spread = measure(0)
    errors.append(error)
    spreads.append(spread)
    while len(errors) < count and max(errors) > 0:
        group = int(np.argmax(errors))
        axis = int(np.argmax(spreads[group]))
        members = np.flatnonzero(groups == group)
        values = seen[members, axis]
        above = values > np.average(values, weights=weights[members])
        if not above.any():
            errors[group] = 0.0
            continue
        groups[members[above]] = len(errors)
        errors.append(0.0)
        spreads.append(spread)
        for one in (group, len(errors) - 1):
            errors[one], spreads[one] = measure(one)
    return groups


def _settled(seen: Seen, weights: NDArray[np.float64], groups: NDArray[np.intp]) -> Seen:
    """The centres of groups, each point being moved to the nearest until little changes."""
    from scipy.spatial import cKDTree

    centres = _means(seen, weights, groups)
    before = np.inf
    for _ in range(_ROUNDS):
        distances, groups = cKDTree(centres).query(seen)
        error = float((weights * distances**2).sum())
        if error >= before * (1 - _ENOUGH):
            break
        before = error
        centres = _means(seen, weights, groups)
    return centres


def _means(seen: Seen, weights: NDArray[np.float64], groups: NDArray[np.intp]) -> Seen:
    """Return it for each group that has any."""
    totals = np.bincount(groups, weights)
    sums = np.column_stack([np.bincount(groups, weights * column) for column in seen.T])
    there = totals > 0
    means: Seen = sums[there] / totals[there, None]
    return means


class Error(NamedTuple):
    """Mean square errors of a frame, of values from 0 to 255, over black and over white."""

    over_black: float
    over_white: float

    @staticmethod
    def decibels(square: float) -> float:
        """The error as a peak signal-to-noise ratio; infinite without error."""
        return float("inf") if square == 0 else float(10 * np.log10(255**2 / square))


def error_between(before: Pixels, after: Pixels, *, premultiplied: bool = False) -> Error:
    """How far apart two frames, (H, W, 4) uint8, look."""
    black, white = 0, 0
    for rows in row_bands(*before.shape[:2], pixels=_AT_A_TIME):
        mixed = [_premultiplied(each[rows], premultiplied=premultiplied).astype(np.int32) for each in (before, after)]
        apart = mixed[1] - mixed[0]
        black += int((apart[..., :3] ** 2).sum(dtype=np.int64))
        white += int(((apart[..., :3] - apart[..., 3:]) ** 2).sum(dtype=np.int64))
    values = before[..., :3].size
    return Error(black / values, white / values)
