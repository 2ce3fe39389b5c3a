"""Describes what a step may do to a sequence: change each frame, measure all before it changes each, or choose and
order them.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from kivel.core.contents import Content
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.light import Kind
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.notation import Ordered
from kivel.core.survey import Point

__all__ = [
    "Action", "Decision", "Each", "Frame", "Measured", "Order", "Place", "Reach", "Transform", "each_image", "moved",
]  # fmt: skip


class Frame(NamedTuple):
    """Pixels, and the pivot in fractions of their size; it may lie outside."""

    image: Pixels
    pivot: Point = (0.5, 0.5)


class Place(NamedTuple):
    """Where a frame is in its sequence, from 0 and of how many; what its values mean; its name."""

    number: int
    total: int
    kind: Kind = "color"
    name: str = ""


Transform = Callable[[Frame, Place], Frame]
Reach = Literal["all", "colours", "base"]
"""The reach of a change: the frames and all their companion maps, those that hold colour, or the frames alone."""


class Each(NamedTuple):
    """Changes every frame by itself. `stays` says that no pixel moves: companion maps are still in step.

    Under `vectors` it turns or stretches the picture, and with it what motion vectors mean. Under `alike` it moves
    frames of one size by the same whole pixels: how things move from one to the next stays the same.
    """

    transform: Transform
    stays: bool = False
    reach: Reach = "all"
    vectors: bool = False
    alike: bool = False


class Decision(NamedTuple):
    """Holds what was decided, and a line that says it."""

    transform: Transform
    said: str = ""


class Measured(NamedTuple):
    """Looks at every frame first; what was measured, in order, decides how each is changed.

    `also` gives what was measured of a frame widened by what one of its companion maps shows. `alike` is as for `Each`.
    """

    measure: Callable[[Frame, Place], Any]
    decide: Callable[[Sequence[Any]], Decision]
    also: Callable[[Any, Pixels, Content], Any] | None = None
    alike: bool = False


class Order(NamedTuple):
    """Chooses and orders frames: from their number to the new order, with holds."""

    pick: Callable[[int], list[Ordered]]


Action = Each | Measured | Order


def each_image(change: Callable[[Pixels], Pixels], *, reach: Reach = "base") -> Each:
    """A step that changes pixels, and neither moves nor counts them."""
    return Each(lambda frame, _: frame._replace(image=change(frame.image)), stays=True, reach=reach)


def moved(frame: Frame, image: Pixels, offset: Point) -> Frame:
    """`image` shows the frame with its top left at `offset` (x, y, in pixels): the pivot stays on what it marks."""
    height, width = frame.image.shape[:2]
    x = (frame.pivot[0] * width + offset[0]) / image.shape[1]
    y = (frame.pivot[1] * height + offset[1]) / image.shape[0]
    return Frame(image, (x, y))
