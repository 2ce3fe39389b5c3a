"""The table of all steps: how each is written, what it says of itself, and what it does."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.exposure import exposed
from kivel.core.pixels.scaling import FILTERS
from kivel.core.playback.notation import Ordered
from kivel.core.prepare import alpha, geometry, ramp
from kivel.core.prepare import parameters as p
from kivel.core.prepare.actions import Action, Each, Order, each_image
from kivel.core.prepare.parameters import Parameter
from kivel.core.prepare.steady import steadying
from kivel.core.prepare.step_actions import (
    anchoring_at,
    cropping,
    distorting,
    dropping,
    fitting,
    keeping,
    matting,
    padding,
    ramping,
    read_anchor,
    scaling_by,
    shifting,
    trimming,
    turning,
)
from kivel.core.prepare.varying import AT_PACE, OVER_FRAMES, changing
from kivel.core.steadying import STEADY_REACH

__all__ = ["STEPS", "StepKind"]


class StepKind(NamedTuple):
    """One kind of step.

    `build` takes the values by their names. `colour_only` steps mean nothing to data maps. Those that are `moving`
    leave pixel values alone, and so may follow `premultiply`. In those that `vary` numbers and sizes may change over
    the sequence.
    """

    name: str
    summary: str
    build: Callable[..., Action]
    parameters: tuple[Parameter, ...]
    example: str
    shows: str
    colour_only: bool = False
    moving: bool = False
    varies: bool = True

    @property
    def may_vary(self) -> bool:
        return self.varies and any(parameter.is_measure for parameter in self.parameters)

    @property
    def all_parameters(self) -> tuple[Parameter, ...]:
        """Its own, and for values that change those that say how."""
        if not self.may_vary:
            return self.parameters
        return (*(changing(one) if one.is_measure else one for one in self.parameters), OVER_FRAMES, AT_PACE)

    @property
    def varying_example(self) -> str:
        """How a changing value of this step would be written."""
        one = next(parameter for parameter in self.parameters if parameter.is_measure)
        values = "8x8..64x64" if one.form == "WxH" else "0..1"
        return f"{self.name} {values}" if one.positional else f"{self.name} {one.name}={values}"


_ALL = (
    StepKind(
        "matte",
        "cut out of the background: alpha from brightness, or from a key colour, and the colour un-mixed from it",
        matting,
        (
            p.choice(
                "how",
                ("bright", "dark", "key", "corner"),
                "bright on dark, dark on bright, a key colour, or the colour of most corners",
                default="bright",
            ).first(),
            p.colour("color", "the key colour, for key", default=None),
            p.number(
                "floor", "bright and dark: how far the background is from black or white", least=0, most=254, default=0
            ),
            p.number(
                "tolerance",
                "key and corner: up to which difference all is background",
                least=0,
                most=255,
                default=8,
            ),
            p.number(
                "softness", "key and corner: further difference over which alpha rises", least=0, most=255, default=24
            ),
            p.number("spill", "key and corner: how much of the key's hue to take out", least=0, most=1, default=0.0),
        ),
        "matte key color=#00b140 tolerance=20 softness=60 spill=1",
        "a green screen, its green taken off the edges too",
        colour_only=True,
    ),
    StepKind(
        "premultiply",
        "multiply colour by alpha, for engines that want it so; put it last",
        lambda: each_image(alpha.multiplied),
        (),
        "premultiply",
        "the manifest then says premultiplied",
        colour_only=True,
    ),
    StepKind(
        "unpremultiply",
        "divide colour by alpha, for frames that a renderer premultiplied",
        lambda: each_image(alpha.unmultiplied),
        (),
        "unpremultiply",
        "no dark edge remains",
        colour_only=True,
        moving=True,
    ),
    StepKind(
        "threshold",
        "make alpha full or nothing",
        lambda level: each_image(lambda image: alpha.hardened(image, level / 255)),
        (p.number("level", "the least alpha that becomes full", least=0, most=255, default=128).first(),),
        "threshold 96",
        "alpha from 96 on is full, below it nothing",
    ),
    StepKind(
        "opacity",
        "multiply alpha by a share",
        lambda share: each_image(lambda image: alpha.faded(image, share), reach="colours"),
        (p.number("share", "the share", least=0, most=1).first(),),
        "opacity 0..1 over=0-7 pace=ease-in",
        "a fade-in over the first eight frames",
    ),
    StepKind(
        "bleed",
        "put the colour of the nearest visible pixel under transparent ones, against dark fringes",
        lambda reach: each_image(lambda image: alpha.bled(image, reach=reach)),
        (p.number("reach", "how far; without it everywhere", least=1, most=10_000, unit="px", default=None).first(),),
        "bleed 8",
        "eight pixels around what is visible",
        colour_only=True,
    ),
    StepKind(
        "ramp",
        "colour by brightness, through colour stops mixed in linear light; alpha stays",
        ramping,
        (
            p.stop("stops", "colours from dark to bright, spread evenly or at @0 to @1"),
            p.image("image", "a gradient image to read them from, along its longer side", default=None),
            p.choice(
                "by",
                ramp.BRIGHTNESS,
                "what is bright: colour times alpha, as it shows over black; colour; or alpha",
                default="shown",
            ),
        ),
        "ramp #2a1b3d #a6452e@0.4 #ffc861 #fff6d8",
        "from plum over rust and amber to cream",
        colour_only=True,
    ),
    StepKind(
        "crop",
        "keep a part",
        cropping,
        (
            p.size("size", "of the part").first(),
            p.point("at", "its top left; without it the part is aligned", default=None, whole=True),
            p.align("where it lies"),
        ),
        "crop 64x64 at=8,0",
        "64 by 64 pixels from column 8 on",
        moving=True,
    ),
    StepKind(
        "trim",
        "cut transparent borders off: to the box of the whole sequence, so that nothing jumps",
        trimming,
        (
            p.flag("each", "every frame to its own box; the pivot keeps them registered"),
            p.number("threshold", "alpha up to it counts as transparent", least=0, most=254, default=0),
            p.number("margin", "leave so much around", least=0, most=4096, unit="px", default=0, whole=True),
        ),
        "trim threshold=4 margin=1",
        "without the faintest glow, and a pixel to spare",
        moving=True,
        varies=False,
    ),
    StepKind(
        "pad",
        "add transparent pixels around",
        padding,
        (
            p.number("all", "every side", least=0, most=16384, unit="px", default=None, whole=True).first(),
            *(
                p.number(side, f"the {side} side", least=0, most=16384, unit="px", default=None, whole=True)
                for side in ("left", "top", "right", "bottom")
            ),
            p.size("to", "a whole size instead", default=None),
            p.align("where the frame lies in to="),
        ),
        "pad to=128x128 align=bottom",
        "on a larger canvas, standing on its bottom edge",
        moving=True,
    ),
    StepKind(
        "fit",
        "scale to fit into a size, premultiplied and in linear light",
        fitting,
        (
            p.size("size", "to fit into").first(),
            p.choice("filter", FILTERS, "without it box shrinks, leaving no halo, and lanczos enlarges", default=None),
            p.flag("stretch", "to just that size, whatever the aspect"),
            p.flag("upscale", "enlarge what is smaller; without it that stays as it is"),
        ),
        "fit 256x256 filter=lanczos",
        "the longer side becomes 256 pixels, crisper than by box",
    ),
    StepKind(
        "scale",
        "scale by a factor, premultiplied and in linear light",
        scaling_by,
        (
            p.number("by", "the factor", least=0.01, most=64).first(),
            p.choice(
                "filter",
                FILTERS,
                "without it nearest for 2, 3, ..., else box shrinks and lanczos enlarges",
                default=None,
            ),
        ),
        "scale 2",
        "pixel art at twice its size, each pixel a square",
    ),
    StepKind(
        "square",
        "pad to a square",
        lambda align: Each(lambda frame, _: geometry.squared(frame, align), alike=True),
        (p.align("where the frame lies"),),
        "square align=bottom",
        "so that it can turn without being cut",
        moving=True,
    ),
    StepKind(
        "anchor",
        "move frames by whole pixels so that a point sits at the same place of the cell, and is the pivot",
        anchoring_at,
        (
            Parameter(
                "at",
                "mass|bottom|X,Y",
                "the centre of the alpha mass, the middle of the bottom edge, or a pixel",
                read_anchor,
                positional=True,
            ),
            p.point("to", "where in the cell, in fractions of it", default=(0.5, 0.5)),
            p.flag("each", "by every frame's own point; without it by one for the sequence"),
            p.number("threshold", "alpha up to it may be cut off at the borders", least=0, most=254, default=0),
        ),
        "anchor mass threshold=2",
        "a burst spins around its own middle, its faintest haze cut off rather than the canvas grown",
        moving=True,
        varies=False,
    ),
    StepKind(
        "steady",
        "move each frame of a row that jitters so that what stays, stays; whole pixels, or smooth: parts of them",
        lambda reach, smooth: steadying(reach, smooth=smooth),
        (
            p.number(
                "reach",
                "how far apart two frames may be",
                least=1,
                most=256,
                unit="px",
                default=STEADY_REACH,
                whole=True,
            ).first(),
            p.flag("smooth", "to parts of pixels, interpolated"),
        ),
        "steady 12",
        "a hand-drawn row, up to twelve pixels off",
        varies=False,
    ),
    StepKind(
        "shift",
        "move right and down; parts of a pixel are interpolated",
        shifting,
        (
            p.number("dx", "to the right", least=-16384, most=16384, unit="px").first(),
            p.number("dy", "down", least=-16384, most=16384, unit="px").first(),
            p.flag("each", "the second frame once, the third twice, and so on"),
            p.flag("wrap", "what leaves on one side comes in on the other"),
        ),
        "shift 0 -4 each wrap",
        "cancels a scroll of four pixels a frame downwards",
    ),
    StepKind(
        "turn",
        "turn clockwise; normal maps turn their vectors too",
        turning,
        (p.choice("degrees", ("90", "180", "270"), "how far").first(),),
        "turn 90",
        "a quarter turn",
        moving=True,
    ),
    StepKind(
        "flip",
        "mirror; normal maps mirror their vectors too",
        lambda axis: Each(partial(geometry.flipped, axis=axis), vectors=True),
        (p.choice("axis", geometry.AXES, "x: left and right change places; y: top and bottom").first(),),
        "flip x",
        "faces the other way",
        moving=True,
    ),
    StepKind(
        "distort",
        "displace by a grey image, fixed or scrolling over the sequence",
        distorting,
        (
            p.image("by", "black pulls one way, white the other, middle grey not at all; stretched to the frame"),
            p.number("strength", "how far white pulls", least=-4096, most=4096, unit="px"),
            p.number("angle", "which way, clockwise from right, in degrees", least=-360, most=360, default=45.0),
            p.point("scroll", "how often that image moves across and down, in all", default=(0, 0), whole=True),
            p.flag("wrap", "for tiles: pixels come in from the other side"),
            p.flag("nearest", "whole pixels, for pixel art"),
        ),
        "distort by=swell.png strength=6 scroll=1,0 wrap",
        "ripples that run through a tile and close",
    ),
    StepKind(
        "expose",
        "float frames (OpenEXR) to 8 or 16 bits: brightened by stops, then sRGB; others stay",
        lambda stops, depth: each_image(lambda image: exposed(image, stops, depth=int(depth)), reach="colours"),
        (
            p.number("stops", "each doubles the light", least=-32, most=32, default=0.0).first(),
            p.choice("depth", ("8", "16"), "bits", default="8"),
        ),
        "expose 1.5",
        "one and a half stops brighter",
        colour_only=True,
    ),
    StepKind(
        "drop",
        "leave frames out",
        dropping,
        (p.order("frames", "which"),),
        "drop 0,40-47",
        "nine frames less",
        moving=True,
    ),
    StepKind(
        "keep",
        "leave all other frames out",
        keeping,
        (p.order("frames", "which"),),
        "keep 8-39",
        "32 frames, in the order they are in",
        moving=True,
    ),
    StepKind(
        "reverse",
        "the last frame first",
        lambda: Order(lambda count: [Ordered(index) for index in range(count - 1, -1, -1)]),
        (),
        "reverse",
        "it closes instead of opening",
        moving=True,
    ),
    StepKind(
        "reorder",
        "frames in another order: 0-7 backwards as 7-0, 5*3 holds frame 5 three times as long",
        lambda frames: Order(lambda _: list(frames)),
        (p.order("frames", "in their new order"),),
        "reorder 0-4,3-1",
        "there and back again",
        moving=True,
    ),
)

STEPS = {kind.name: kind for kind in _ALL}
"""Every step by its name, in the order in which they are listed."""
