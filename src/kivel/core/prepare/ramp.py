"""Brightness through a list of colours."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.bands import in_bands
from kivel.core.pixels.light import linear_to_srgb, srgb_to_linear
from kivel.core.pixels.pixels import Pixels, colour_weight, full_scale, is_grey, visibility

__all__ = ["BRIGHTNESS", "Brightness", "Stop", "luma", "ramped", "spread_stops", "stops_of_image"]

Brightness = Literal["shown", "color", "alpha"]
"""Says what counts as bright: colour times alpha, as it shows over black; the colour alone; or alpha alone."""
BRIGHTNESS: tuple[Brightness, ...] = get_args(Brightness)

_REC_709 = (0.2126, 0.7152, 0.0722)
_FINE = 255 * 255
"""Steps of a table: as many as 8-bit grey times 8-bit alpha can be."""


class Stop(NamedTuple):
    """A colour, red, green and blue from 0 to 1 on stored (sRGB) values, and where it is, from 0 to 1."""

    colour: tuple[float, float, float]
    position: float | None = None


def spread_stops(stops: Sequence[Stop]) -> tuple[Stop, ...]:
    """Stops with every position filled in: the first at 0, the last at 1, the others evenly between their neighbours.

    Raises
    ------
    UsageError
        If there are fewer than two, or positions do not rise.
    """
    if len(stops) < 2:
        raise UsageError(f"a ramp needs at least two stops, found {len(stops)}")
    positions = [stop.position for stop in stops]
    first = 0.0 if positions[0] is None else positions[0]
    last = 1.0 if positions[-1] is None else positions[-1]
    known = [(0, first), *((i, p) for i, p in enumerate(positions[1:-1], 1) if p is not None), (len(stops) - 1, last)]
    filled = np.interp(range(len(stops)), [i for i, _ in known], [p for _, p in known])
    if (np.diff(filled) < 0).any():
        raise UsageError(f"the positions of stops must rise from 0 to 1, found {', '.join(f'{p:g}' for p in filled)}")
    return tuple(stop._replace(position=float(position)) for stop, position in zip(stops, filled, strict=True))


def stops_of_image(image: Pixels) -> tuple[Stop, ...]:
    """A gradient image, read along the middle of its longer side: each pixel a stop, the ends at 0 and 1."""
    height, width = image.shape[:2]
    line = image[height // 2] if width >= height else image[:, width // 2]
    colours = line[:, :3] / full_scale(image)
    if image.dtype == np.float32:
        colours = linear_to_srgb(np.clip(colours, 0, 1))
    return spread_stops([Stop((float(r), float(g), float(b))) for r, g, b in colours])


@in_bands
def ramped(image: Pixels, stops: Sequence[Stop], *, by: Brightness = "shown") -> Pixels:
    """Each pixel's brightness looked up in `stops`, which are mixed in linear light; alpha stays.

    Parameters
    ----------
    image : (H, W, 4) array
        Any depth, straight alpha.
    stops : sequence of Stop
        With positions, as `spread_stops` gives them.
    by : "shown", "color" or "alpha"
        Brightness is luma (Rec. 709 weights on stored values), for `shown` times alpha.
    """
    table = _table(tuple(stops), image.dtype.str)
    index = _fine_brightness(image, by)
    if image.dtype == np.uint8:
        # every index is in the table: clip passes over the check that raise makes
        pixels = table.take(index, mode="clip").view(np.uint8).reshape(image.shape)
        pixels[..., 3] = image[..., 3]
        return pixels
    result = np.empty_like(image)
    result[..., :3] = table[index]
    result[..., 3] = image[..., 3]
    if image.dtype == np.float32:
        result[visibility(image) <= 0] = 0
    return result


def _fine_brightness(image: Pixels, by: Brightness) -> NDArray[np.uint16]:
    """Brightness in steps of the table."""
    if image.dtype == np.uint8 and by == "shown" and is_grey(image):
        return image[..., 0].astype(np.uint16) * image[..., 3]
    level = _brightness(image, by)
    # in place: a second array of the frame's size costs more than the sums
    level *= _FINE
    level += 0.5
    return level.astype(np.uint16)


def _brightness(image: Pixels, by: Brightness) -> NDArray[np.float32]:
    """From 0 to 1."""
    full = np.float32(full_scale(image))
    # a float frame's alpha may be above 1
    if by == "alpha":
        return np.minimum(np.divide(image[..., 3], full, dtype=np.float32), 1)
    level = luma(image)
    if by == "shown":
        level *= np.minimum(np.divide(colour_weight(image), full, dtype=np.float32), 1)
    return level


def luma(image: Pixels) -> NDArray[np.float32]:
    """Rec. 709 luma of stored values, 0 to 1, (H, W); of float frames that of their sRGB values, cut off at 1."""
    full = full_scale(image)
    if image.dtype == np.float32:
        values = linear_to_srgb(np.clip(image[..., :3], 0, 1))
        weighted = sum(values[..., channel] * weight for channel, weight in enumerate(_REC_709))
        return np.asarray(weighted, np.float32)
    red, green, blue = (np.float32(weight / full) for weight in _REC_709)
    level = image[..., 0] * red
    level += image[..., 1] * green
    level += image[..., 2] * blue
    capped: NDArray[np.float32] = np.minimum(level, 1)
    return capped


@lru_cache(maxsize=8)
def _table(stops: tuple[Stop, ...], depth: str) -> NDArray[Any]:
    """The ramp in fine steps: RGBX packed into one `uint32` each for 8 bits, else (n, 3) of the depth."""
    places = np.linspace(0, 1, _FINE + 1)
    colours = srgb_to_linear(np.array([stop.colour for stop in stops]))
    positions = [stop.position or 0.0 for stop in stops]
    linear = np.stack([np.interp(places, positions, colours[:, channel]) for channel in range(3)], axis=-1)
    dtype = np.dtype(depth)
    if dtype == np.float32:
        return linear.astype(np.float32)
    stored = np.rint(linear_to_srgb(linear) * np.iinfo(dtype).max).astype(dtype)
    if dtype != np.uint8:
        return stored
    packed = np.zeros((len(stored), 4), np.uint8)
    packed[:, :3] = stored
    return packed.view(np.uint32).ravel()
