"""Describes what steps do that take more than a line to say, by the values that are written behind their names."""

from __future__ import annotations

from functools import lru_cache, partial
from typing import Any, Literal

from kivel.core.errors import UsageError
from kivel.core.option_words import Align
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.pixels.sampling import Edge
from kivel.core.pixels.scaling import FILTERS, Filter
from kivel.core.playback.notation import Ordered, within_count
from kivel.core.prepare import drawn_around, geometry, matte, ramp
from kivel.core.prepare.actions import Action, Each, Frame, Measured, Order, Place, each_image
from kivel.core.prepare.anchor import Anchor, anchoring
from kivel.core.prepare.displace import detailed, displaced, displacements, heights_of
from kivel.core.prepare.outlined import edged
from kivel.core.prepare.parameters import read_point
from kivel.core.prepare.soften import blurred
from kivel.core.prepare.stock_movement import StockMovement
from kivel.core.survey import Point

__all__ = [
    "SAMPLING",
    "anchoring_at",
    "blurring",
    "cropping",
    "distorting",
    "dropping",
    "edging",
    "fitting",
    "keeping",
    "matting",
    "padding",
    "ramping",
    "read_anchor",
    "shifting",
    "trimming",
    "turning",
]


def matting(
    how: str, color: tuple[float, float, float] | None, floor: float, tolerance: float, softness: float, spill: float
) -> Action:
    """Black, white or one colour becomes transparent."""
    if how in ("bright", "dark"):
        return each_image(lambda image: matte.matte_brightness(image, inverted=how == "dark", floor=floor / 255))
    if how == "key" and color is None:
        raise UsageError("key needs the background colour, like color=#00b140")
    levels = {"tolerance": tolerance / 255, "softness": softness / 255, "spill": spill}
    return each_image(lambda image: matte.matte_key(image, color or matte.corner_colour(image), **levels))


def ramping(stops: tuple[ramp.Stop, ...], image: Pixels | None, by: ramp.Brightness) -> Action:
    """Brightness becomes colour."""
    if (image is None) == (not stops):
        raise UsageError("use either colours, like #1b1f3b #ffc861, or image= with a gradient")
    filled = ramp.stops_of_image(image) if image is not None else ramp.spread_stops(stops)
    return each_image(lambda frame: ramp.ramped(frame, filled, by=by))


def blurring(radius: float, angle: float | None, wrap: bool) -> Action:
    """Frames are softened; companion maps that hold colour too."""

    def transform(frame: Frame, place: Place) -> Frame:
        return frame._replace(image=blurred(frame.image, radius, angle=angle, wraps=wrap, kind=place.kind))

    return Each(transform, stays=True, reach="colours")


def edging(stops: tuple[ramp.Stop, ...], width: float, fade: bool, threshold: float) -> Action:
    """The outline is coloured or faded inward."""
    if not stops and not fade:
        raise UsageError("use colours, like #ffffff #a6452e, or fade")
    filled = ramp.spread_stops(stops * 2 if len(stops) == 1 else stops) if stops else ()
    return each_image(lambda image: edged(image, filled, width, fade=fade, threshold=threshold / 255))


def outlining(
    color: drawn_around.Colour, width: int, side: drawn_around.Side, neighbors: str, threshold: float
) -> Action:
    """A line is drawn around what is seen."""
    return each_image(
        lambda image: drawn_around.outlined_in(
            image, color, int(width), side=side, neighbors=int(neighbors), threshold=threshold / 255
        )
    )


def recolouring(pairs: tuple[drawn_around.ColourPair, ...], by: Pixels | None, variant: int) -> Action:
    """Colours become others."""
    if (by is None) == (not pairs):
        raise UsageError("use either pairs, like #8a2b2b=#2b5d8a, or by= with a picture of variants")
    wanted = pairs if by is None else drawn_around.pairs_of_image(by, int(variant))
    return each_image(lambda image: drawn_around.recoloured(image, wanted))


def cropping(size: Size, at: tuple[int, int] | None, align: Align) -> Action:
    """A rectangle of each frame."""
    return Each(lambda frame, _: geometry.cropped(frame, size, at, align), alike=True)


Seen = Literal["any", "color"]
"""Whose visible pixels count: those of frames and of their companion maps, or of frames alone."""


def trimming(each: bool, threshold: float, margin: int, by: Seen) -> Action:
    """Empty borders are cut off."""
    return _judged_by(geometry.trimming(threshold / 255, margin, each=each), by)


def _judged_by(action: Measured, by: Seen) -> Measured:
    return action._replace(also=None) if by == "color" else action


def padding(all: int | None, to: Size | None, align: Align, **named: int | None) -> Action:
    """Empty pixels are added around."""
    sides = [named[side] for side in geometry.Sides._fields]
    if to is not None:
        if all is not None or any(side is not None for side in sides):
            raise UsageError("use either to=WxH or pixels for the sides")
        return Each(lambda frame, _: geometry.aligned_in(frame, to, align), alike=True)
    if all is None and not any(sides):
        raise UsageError("how much? Give a number for all sides, left= top= right= bottom=, or to=WxH")
    added = geometry.Sides(*((all or 0) if side is None else side for side in sides))
    return Each(lambda frame, _: geometry.padded(frame, added), alike=True)


SAMPLING = ("nearest", "smooth", "box", "lanczos")
"""How pixels are sampled; smooth is box where frames shrink, and lanczos where they grow."""


def fitting(size: Size, filter: str | None, **how: Any) -> Action:
    """Frames are resized."""
    sampling = _filter_of(filter)
    return Each(lambda frame, place: geometry.fitted(frame, place, size, sampling, **how), vectors=True)


def scaling_by(by: float, filter: str | None) -> Action:
    """Frames are resized by a factor; whole ones keep pixels square unless told otherwise."""
    how = _filter_of(filter or ("nearest" if by >= 1 and by == int(by) else None))

    def transform(frame: Frame, place: Place) -> Frame:
        height, width = frame.image.shape[:2]
        size = Size(max(1, round(width * by)), max(1, round(height * by)))
        return geometry.fitted(frame, place, size, how, stretch=True, upscale=True)

    return Each(transform, vectors=True)


def _filter_of(sampling: str | None) -> Filter | None:
    return next((one for one in FILTERS if one == sampling), None)


def anchoring_at(at: Anchor, to: Point, each: bool, threshold: float, by: Seen) -> Action:
    """The art is moved so that one point of it stays in one place."""
    return _judged_by(anchoring(at, to, each=each, threshold=threshold / 255), by)


def read_anchor(text: str) -> Anchor:
    """A pixel is meant by its number: its centre is half a pixel further."""
    if text in ("mass", "bottom"):
        return "mass" if text == "mass" else "bottom"
    try:
        x, y = read_point(text)
    except UsageError:
        raise UsageError(f"expected mass, bottom, or a pixel like 80,76, found {text!r}") from None
    return x + 0.5, y + 0.5


def shifting(dx: float, dy: float, each: bool, wrap: bool) -> Action:
    """Frames are moved, by parts of pixels too."""
    alike = not each and dx == int(dx) and dy == int(dy)
    return Each(partial(geometry.shifted, dx=dx, dy=dy, each=each, edge=_edge(wrap)), alike=alike)


def _edge(wrap: bool) -> Edge:
    return "wrap" if wrap else "clear"


def distorting(
    by: Pixels | StockMovement,
    strength: float,
    angle: float,
    scroll: tuple[int, int],
    wrap: bool,
    nearest: bool,
    size: float | None,
    seed: int | None,
) -> Action:
    """Frames are displaced by a grey image, or a stock movement."""
    # frames are nearly always of one size
    heights = lru_cache(maxsize=1)(partial(heights_of, detailed(by, size, seed)))

    def transform(frame: Frame, place: Place) -> Frame:
        height, width = frame.image.shape[:2]
        time = place.number / place.total
        pull = displacements(heights(Size(width, height)), (scroll[0] * time, scroll[1] * time))
        image = displaced(frame.image, pull, strength, angle, edge=_edge(wrap), smooth=not nearest, kind=place.kind)
        return frame._replace(image=image)

    return Each(transform, vectors=True)


def turning(degrees: str) -> Action:
    """Quarter turns."""
    return Each(partial(geometry.turned, degrees=int(degrees)), vectors=True)


def dropping(frames: list[Ordered]) -> Action:
    """Some frames are left out."""

    def pick(count: int) -> list[Ordered]:
        within_count(frames, count)
        gone = {entry.frame for entry in frames}
        return [Ordered(index) for index in range(count) if index not in gone]

    return Order(pick)


def keeping(frames: list[Ordered]) -> Action:
    """Those named, in the order they are in: what changes the order is `reorder`."""

    def pick(count: int) -> list[Ordered]:
        within_count(frames, count)
        wanted = {entry.frame for entry in frames}
        return [Ordered(index) for index in range(count) if index in wanted]

    return Order(pick)
