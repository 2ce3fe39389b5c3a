"""Loops from tiles: scrolled a whole number of tiles and displaced by an image that moves a whole number of times.

Time runs from 0 to 1 and is exact, so that what is at 1 is, bit for bit, what is at 0.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.blend import BLENDS, Layer, stacked
from kivel.core.pixels.light import Kind, from_light, to_light
from kivel.core.pixels.pixels import Pixels, Size, bit_depth
from kivel.core.pixels.sampling import sampled, shifted_light
from kivel.core.prepare import parameters as p
from kivel.core.prepare.displace import TAPS, displacements, heights_of, light_of_rows
from kivel.core.prepare.stock_movement import StockMovement
from kivel.core.room import require_room

__all__ = ["TILE", "Tile", "scrolling"]

TILE = (
    p.point("scroll", "how many tiles it scrolls right and down in one loop", default=(0, 0), whole=True),
    p.heights("by", "a grey image, stretched to the tile, or a stock movement, to displace it by", default=None),
    p.number("strength", "how far white pulls, in pixels", least=-4096, most=4096, default=4.0),
    p.number("angle", "direction, clockwise from right, in degrees", least=-360, most=360, default=45.0),
    p.point("by-scroll", "how many of these images it scrolls right and down in one loop", default=(0, 0), whole=True),
    *(one._replace(name=f"by-{one.name}") for one in p.STOCK_DETAILS),
    p.choice("blend", tuple(BLENDS), "blend mode", default="normal"),
    p.number("opacity", "opacity of this layer", least=0, most=1, default=1.0),
)
"""Says what may follow a tile."""


_AT_A_TIME = 1 << 20
"""Pixels of a displaced tile; the light of all of a large one would be four times its size."""


class Tile(NamedTuple):
    """An image that repeats, (H, W, 4), and how it moves: see `TILE`."""

    image: Pixels
    scroll: tuple[int, int] = (0, 0)
    by: Pixels | StockMovement | None = None
    strength: float = 4.0
    angle: float = 45.0
    by_scroll: tuple[int, int] = (0, 0)
    blend: str = "normal"
    opacity: float = 1.0


def scrolling(tiles: Sequence[Tile], *, smooth: bool = True, kind: Kind = "color") -> Callable[[Fraction], Pixels]:
    """The loop that tiles make: a function from time, 0 to 1, to the frame then, (H, W, 4).

    Parameters
    ----------
    tiles : sequence of Tile
        From the bottom up. The first gives the size; the others repeat over it.
    smooth : bool
        Interpolate between pixels, premultiplied and in linear light; else move by whole pixels, for pixel art.
    kind : Kind
        What the values of the tiles mean; of data there is one tile alone.

    Raises
    ------
    KivelError
        If a tile does not go a whole number of times into the first.
    """
    height, width = tiles[0].image.shape[:2]
    repeated = [tile._replace(image=_repeated(tile.image, Size(width, height))) for tile in tiles]
    movers = [_mover(tile, smooth, kind) for tile in repeated]

    def frame(time: Fraction) -> Pixels:
        images = [mover(time) for mover in movers]
        if kind != "color" or (len(images) == 1 and tiles[0].opacity == 1):
            return images[0]
        layers = [Layer(image, tile.blend, tile.opacity) for image, tile in zip(images, tiles, strict=True)]
        return stacked(Size(width, height), layers)

    return frame


def _repeated(image: Pixels, size: Size) -> Pixels:
    height, width = image.shape[:2]
    if size.w % width or size.h % height:
        raise KivelError(
            f"a tile of {width}x{height} px does not go a whole number of times into the first one's {size}; fit it"
        )
    require_room(*size, bits=bit_depth(image))
    return image if size == (width, height) else np.tile(image, (size.h // height, size.w // width, 1))


def _mover(tile: Tile, smooth: bool, kind: Kind) -> Callable[[Fraction], Pixels]:
    """One tile over time."""
    height, width = tile.image.shape[:2]
    heights = None if tile.by is None else heights_of(tile.by, Size(width, height))
    light = to_light(tile.image, kind) if smooth and heights is None else None

    def moved(time: Fraction) -> Pixels:
        # exact, as fractions: at time 1 this is 0 again, and the loop closes bit for bit
        dx, dy = (turns * time % 1 * length for turns, length in zip(tile.scroll, (width, height), strict=True))
        pull = None
        if heights is not None:
            across, down = (float(turns * time % 1) for turns in tile.by_scroll)
            pull = displacements(heights, (across, down))
        if not smooth:
            return _moved_whole(tile, float(dx), float(dy), pull)
        if pull is not None:
            return _pulled(tile, float(dx), float(dy), pull, kind)
        if light is None or dx.denominator == dy.denominator == 1:
            return np.roll(tile.image, (int(dy), int(dx)), (0, 1))
        frame = np.empty_like(tile.image)
        for rows in row_bands(height, width):
            band = shifted_light(light, float(dx), float(dy), edge="wrap", rows=rows)
            frame[rows] = from_light(band, frame.dtype, kind)
        return frame

    return moved


def _pulled(tile: Tile, dx: float, dy: float, pull: NDArray[np.float32], kind: Kind) -> Pixels:
    frame = np.empty_like(tile.image)
    for rows in row_bands(*frame.shape[:2], pixels=_AT_A_TIME):
        x, y = _positions(tile, dx, dy, pull, rows)
        first, last = math.floor(y.min()) - TAPS, math.ceil(y.max()) + TAPS
        light = light_of_rows(tile.image, np.arange(first, last + 1), "wrap", kind)
        frame[rows] = from_light(sampled(light, x, y - first, edge="wrap"), frame.dtype, kind)
    return frame


def _positions(
    tile: Tile, dx: float, dy: float, pull: NDArray[np.float32], rows: slice
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Where each pixel of these rows is fetched from."""
    y, x = np.mgrid[rows.start : rows.stop, : pull.shape[1]].astype(np.float64)
    pull, angle = pull[rows] * np.float32(tile.strength), math.radians(tile.angle)
    return x - dx + pull * math.cos(angle), y - dy + pull * math.sin(angle)


def _moved_whole(tile: Tile, dx: float, dy: float, pull: NDArray[np.float32] | None) -> Pixels:
    image = tile.image
    if pull is None:
        return np.roll(image, (math.floor(dy + 0.5), math.floor(dx + 0.5)), (0, 1))
    moved = np.empty_like(image)
    height, width = image.shape[:2]
    for band in row_bands(height, width):
        x, y = _positions(tile, 0, 0, pull, band)
        columns = (np.rint(x).astype(np.intp) - math.floor(dx + 0.5)) % width
        rows = (np.rint(y).astype(np.intp) - math.floor(dy + 0.5)) % height
        moved[band] = image[rows, columns]
    return moved
