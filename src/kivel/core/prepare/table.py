"""The table of all steps: how each is written, what it says of itself, and what it does."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.exposure import exposed
from kivel.core.playback.notation import Ordered
from kivel.core.prepare import adjust, alpha, geometry, ramp
from kivel.core.prepare import parameters as p
from kivel.core.prepare.actions import Action, Each, Order, each_image
from kivel.core.prepare.parameters import Parameter
from kivel.core.prepare.steady import steadying
from kivel.core.prepare.step_actions import (
    SAMPLING,
    anchoring_at,
    blurring,
    cropping,
    distorting,
    dropping,
    edging,
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

__all__ = ["STEPS", "STEP_GROUPS", "StepKind"]


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
        values = {"WxH": "8x8..64x64", "N": "0..1"}.get(one.form, "#000..#fff")
        return f"{self.name} {values}" if one.positional else f"{self.name} {one.name}={values}"


_ALL = (
    StepKind(
        "matte",
        "cut frames out of their background: by brightness, or by a key colour (chroma key)",
        matting,
        (
            p.choice(
                "how",
                ("bright", "dark", "key", "corner"),
                "bright on black, dark on white, a key colour, or the colour of most corners",
                default="bright",
            ).first(),
            p.colour("color", "the key colour, for key", default=None),
            p.number(
                "floor", "bright and dark: distance of the background from black or white", least=0, most=254, default=0
            ),
            p.number(
                "tolerance",
                "key and corner: largest difference that is still background",
                least=0,
                most=255,
                default=8,
            ),
            p.number(
                "softness",
                "key and corner: further difference over which alpha rises to full",
                least=0,
                most=255,
                default=24,
            ),
            p.number("spill", "key and corner: how much of the key's hue to remove", least=0, most=1, default=0.0),
        ),
        "matte key color=#00b140 tolerance=20 softness=60 spill=1",
        "a green screen; green spill is removed from the edges too",
        colour_only=True,
    ),
    StepKind(
        "premultiply",
        "multiply colour by alpha, for engines that need it; put it last",
        lambda: each_image(alpha.multiplied),
        (),
        "premultiply",
        "the manifest then states premultiplied",
        colour_only=True,
    ),
    StepKind(
        "unpremultiply",
        "divide colour by alpha, for premultiplied renders",
        lambda: each_image(alpha.unmultiplied),
        (),
        "unpremultiply",
        "no dark edges remain",
        colour_only=True,
        moving=True,
    ),
    StepKind(
        "threshold",
        "make every pixel fully opaque or fully transparent",
        lambda level: each_image(lambda image: alpha.hardened(image, level / 255)),
        (p.number("level", "alpha from here on becomes full", least=0, most=255, default=128).first(),),
        "threshold 96",
        "alpha from 96 on becomes full, the rest 0",
    ),
    StepKind(
        "opacity",
        "multiply alpha by a factor",
        lambda share: each_image(lambda image: alpha.faded(image, share), reach="colours"),
        (p.number("share", "the factor", least=0, most=1).first(),),
        "opacity 0..1 over=0-7 pace=ease-in",
        "a fade-in over the first eight frames",
    ),
    StepKind(
        "bleed",
        "spread colour under transparent pixels, against dark fringes",
        lambda reach: each_image(lambda image: alpha.bled(image, reach=reach)),
        (p.number("reach", "how far; everywhere if not given", least=1, most=10_000, unit="px", default=None).first(),),
        "bleed 8",
        "eight pixels around everything visible",
        colour_only=True,
    ),
    StepKind(
        "ramp",
        "colour by brightness, from a gradient (palette ramp); alpha stays",
        ramping,
        (
            p.stop("stops", "colours from dark to bright, evenly spread or placed at @0 to @1"),
            p.image("image", "a gradient image to read them from, along its longer side", default=None),
            p.choice(
                "by",
                ramp.BRIGHTNESS,
                "what counts as bright: colour over black (shown), colour alone, or alpha",
                default="shown",
            ),
        ),
        "ramp #2a1b3d #a6452e@0.4 #ffc861 #fff6d8",
        "from plum over rust and amber to cream",
        colour_only=True,
    ),
    StepKind(
        "brightness",
        "multiply colour by a factor; formula of CSS Filter Effects, on stored values",
        lambda amount: each_image(partial(adjust.brightened, amount=amount)),
        (p.number("amount", "1 changes nothing, 0 is black", least=0, most=64).first(),),
        "brightness 1..1.6 pace=ease-out",
        "a lamp that flares up over the sequence",
        colour_only=True,
    ),
    StepKind(
        "contrast",
        "move colour away from middle grey, or towards it; formula of CSS Filter Effects",
        lambda amount: each_image(partial(adjust.contrasted, amount=amount)),
        (p.number("amount", "1 changes nothing, 0 is grey", least=0, most=64).first(),),
        "contrast 1.2",
        "a little harder",
        colour_only=True,
    ),
    StepKind(
        "saturation",
        "more or less colour; formula of CSS Filter Effects (saturate)",
        lambda amount: each_image(partial(adjust.saturated, amount=amount)),
        (p.number("amount", "1 changes nothing, 0 is grey", least=0, most=64).first(),),
        "saturation 1..0",
        "colour drains over the sequence",
        colour_only=True,
    ),
    StepKind(
        "hue",
        "rotate the hue; formula of CSS Filter Effects (hue-rotate)",
        lambda degrees: each_image(partial(adjust.hue_turned, degrees=degrees)),
        (p.number("degrees", "from red towards yellow and green", least=-3600, most=3600).first(),),
        "hue 0..360",
        "through all hues once; for a loop, leave the last frame out",
        colour_only=True,
    ),
    StepKind(
        "tint",
        "multiply by a colour, as engines tint a sprite",
        lambda color, amount: each_image(partial(adjust.tinted, color=color, amount=amount)),
        (
            p.colour("color", "the colour", varies=True).first(),
            p.number("amount", "how much of it", least=0, most=1, default=1.0),
        ),
        "tint #ffffff..#ff7a3c over=0-7",
        "white light that turns to rust over the first eight frames",
        colour_only=True,
    ),
    StepKind(
        "keep-color",
        "keep only pixels of one colour, unchanged, such as what glows; the rest becomes empty",
        lambda color, tolerance: each_image(partial(adjust.only_color, color=color, tolerance=tolerance / 255)),
        (
            p.colour("color", "the colour").first(),
            p.number("tolerance", "largest difference of a channel", least=0, most=255, default=8),
        ),
        "keep-color #3cff3c tolerance=40",
        "the green lights alone, for an emission map",
        colour_only=True,
    ),
    StepKind(
        "blur",
        "blur evenly, or along an angle (motion blur), in linear light; frames do not grow, so pad them first",
        blurring,
        (
            p.number("radius", "standard deviation, as in CSS", least=0, most=256, unit="px").first(),
            p.number(
                "angle",
                "only along this direction, clockwise from right, in degrees",
                least=-360,
                most=360,
                default=None,
            ),
            p.flag("wrap", "tiles: wrap around the edges"),
        ),
        "blur 0..6 angle=30",
        "frames that smear more and more along 30 degrees",
    ),
    StepKind(
        "edge",
        "colour or fade the outline inward, by the distance from it",
        edging,
        (
            p.stop("stops", "colours from the outline inward, evenly spread or placed at @0 to @1"),
            p.number("width", "how far inward", least=0.5, most=256, unit="px", default=1.0),
            p.flag("fade", "alpha rises from the outline inward"),
            p.number("threshold", "alpha up to this counts as outside", least=0, most=254, default=0),
        ),
        "edge #fff6d8 #a6452e width=3",
        "a rim of three pixels, cream outside and rust inside",
        colour_only=True,
    ),
    StepKind(
        "crop",
        "keep a rectangle of each frame",
        cropping,
        (
            p.size("size", "size of the rectangle").first(),
            p.point("at", "its top left corner; aligned if not given", default=None, whole=True),
            p.align("where the rectangle lies"),
        ),
        "crop 64x64 at=8,0",
        "64x64 pixels from column 8 on",
        moving=True,
    ),
    StepKind(
        "trim",
        "cut off transparent borders; all frames alike, so that nothing jumps",
        trimming,
        (
            p.flag("each", "each frame to its own box; the pivot keeps them aligned"),
            p.number("threshold", "alpha up to this counts as transparent", least=0, most=254, default=0),
            p.number("margin", "border to leave", least=0, most=4096, unit="px", default=0, whole=True),
        ),
        "trim threshold=4 margin=1",
        "the faintest glow is cut off, and one pixel left around",
        moving=True,
        varies=False,
    ),
    StepKind(
        "pad",
        "add transparent pixels around each frame (padding)",
        padding,
        (
            p.number("all", "every side", least=0, most=16384, unit="px", default=None, whole=True).first(),
            *(
                p.number(side, f"the {side} side", least=0, most=16384, unit="px", default=None, whole=True)
                for side in ("left", "top", "right", "bottom")
            ),
            p.size("to", "size of the result instead", default=None),
            p.align("where the frame lies in that size"),
        ),
        "pad to=128x128 align=bottom",
        "a larger canvas; the frame is at its bottom edge",
        moving=True,
    ),
    StepKind(
        "fit",
        "scale (resize) to fit into a size, in linear light",
        fitting,
        (
            p.size("size", "size to fit into").first(),
            p.choice(
                "filter", SAMPLING, "smooth (default): box to shrink, without halos, lanczos to enlarge", default=None
            ),
            p.flag("stretch", "to exactly that size, ignoring the aspect ratio"),
            p.flag("upscale", "enlarge smaller frames too; without it they stay"),
        ),
        "fit 256x256 filter=lanczos",
        "the longer side becomes 256 pixels, crisper than with box",
    ),
    StepKind(
        "scale",
        "scale (resize) by a factor, in linear light",
        scaling_by,
        (
            p.number("by", "the factor", least=0.01, most=64).first(),
            p.choice(
                "filter",
                SAMPLING,
                "nearest for factors 2, 3, ... if not given; smooth: box to shrink, lanczos to enlarge",
                default=None,
            ),
        ),
        "scale 2",
        "pixel art at twice its size, with square pixels",
    ),
    StepKind(
        "square",
        "pad to a square",
        lambda align: Each(lambda frame, _: geometry.squared(frame, align), alike=True),
        (p.align("where the frame lies"),),
        "square align=bottom",
        "so that it can be rotated without being cut",
        moving=True,
    ),
    StepKind(
        "anchor",
        "move frames by whole pixels so that a point stays in place, and becomes the pivot",
        anchoring_at,
        (
            Parameter(
                "at",
                "mass|bottom|X,Y",
                "the centre of mass of alpha, the middle of the bottom edge, or a pixel",
                read_anchor,
                positional=True,
            ),
            p.point("to", "where in the frame, in fractions of it", default=(0.5, 0.5)),
            p.flag("each", "use each frame's own point; without it one for the whole sequence"),
            p.number("threshold", "alpha up to this may be cut off at the borders", least=0, most=254, default=0),
        ),
        "anchor mass threshold=2",
        "a burst around its own middle; the faintest haze is cut off, so that frames do not grow",
        moving=True,
        varies=False,
    ),
    StepKind(
        "steady",
        "cancel jitter: move each frame so that what does not move stays in place",
        lambda reach, smooth: steadying(reach, smooth=smooth),
        (
            p.number(
                "reach",
                "largest jitter between two frames",
                least=1,
                most=256,
                unit="px",
                default=STEADY_REACH,
                whole=True,
            ).first(),
            p.flag("smooth", "move by fractions of pixels, interpolated"),
        ),
        "steady 12",
        "hand-drawn frames, up to twelve pixels off",
        varies=False,
    ),
    StepKind(
        "shift",
        "move right and down; fractions of pixels are interpolated",
        shifting,
        (
            p.number("dx", "to the right", least=-16384, most=16384, unit="px").first(),
            p.number("dy", "down", least=-16384, most=16384, unit="px").first(),
            p.flag("each", "the second frame once, the third twice, and so on"),
            p.flag("wrap", "wrap around the edges"),
        ),
        "shift 0 -4 each wrap",
        "cancels a scroll of four pixels a frame downwards",
    ),
    StepKind(
        "turn",
        "rotate clockwise by 90, 180 or 270 degrees; vectors of normal maps too",
        turning,
        (p.choice("degrees", ("90", "180", "270"), "degrees").first(),),
        "turn 90",
        "a quarter turn",
        moving=True,
    ),
    StepKind(
        "flip",
        "mirror horizontally (x) or vertically (y); vectors of normal maps too",
        lambda axis: Each(partial(geometry.flipped, axis=axis), vectors=True),
        (p.choice("axis", geometry.AXES, "x swaps left and right, y swaps top and bottom").first(),),
        "flip x",
        "the frames face the other way",
        moving=True,
    ),
    StepKind(
        "distort",
        "displace by a grey image or a stock movement, which may scroll over the sequence",
        distorting,
        (
            p.heights("by", "black pulls one way, white the other, grey not at all; stretched to the frame"),
            p.number("strength", "how far white pulls", least=-4096, most=4096, unit="px"),
            p.number("angle", "direction, clockwise from right, in degrees", least=-360, most=360, default=45.0),
            p.point("scroll", "how often that image scrolls across and down, in total", default=(0, 0), whole=True),
            p.flag("wrap", "tiles: wrap around the edges"),
            p.flag("nearest", "by whole pixels, for pixel art"),
            *p.STOCK_DETAILS,
        ),
        "distort by=swell.png strength=6 scroll=1,0 wrap",
        "ripples that run through a tile and loop",
    ),
    StepKind(
        "expose",
        "convert float frames (OpenEXR) to 8 or 16 bits of sRGB; other frames stay",
        lambda stops, depth: each_image(lambda image: exposed(image, stops, depth=int(depth)), reach="colours"),
        (
            p.number("stops", "each stop doubles the light", least=-32, most=32, default=0.0).first(),
            p.choice("depth", ("8", "16"), "bits", default="8"),
        ),
        "expose 1.5",
        "one and a half stops brighter",
        colour_only=True,
    ),
    StepKind(
        "drop",
        "remove frames",
        dropping,
        (p.order("frames", "which frames"),),
        "drop 0,40-47",
        "removes nine frames",
        moving=True,
    ),
    StepKind(
        "keep",
        "keep only these frames",
        keeping,
        (p.order("frames", "which frames"),),
        "keep 8-39",
        "keeps 32 frames, in their order",
        moving=True,
    ),
    StepKind(
        "reverse",
        "reverse the order of the frames",
        lambda: Order(lambda count: [Ordered(index) for index in range(count - 1, -1, -1)]),
        (),
        "reverse",
        "a door closes instead of opening",
        moving=True,
    ),
    StepKind(
        "repeat",
        "repeat the sequence; a still becomes a number of frames, for values that change",
        lambda times: Order(lambda count: [Ordered(index) for _ in range(times) for index in range(count)]),
        (
            p.number("times", "how often it is there then", least=1, most=10_000, whole=True)
            ._replace(is_measure=False)
            .first(),
        ),
        "repeat 40",
        "forty frames of one still; a hue or a shift that changes comes after it",
        moving=True,
    ),
    StepKind(
        "reorder",
        "put frames in another order: 7-0 is backwards, 5*3 holds frame 5 three times as long",
        lambda frames: Order(lambda _: list(frames)),
        (p.order("frames", "in their new order"),),
        "reorder 0-4,3-1",
        "there and back (ping-pong)",
        moving=True,
    ),
)

STEPS = {kind.name: kind for kind in _ALL}
"""Every step by its name."""
STEP_GROUPS = {
    "cut out, and alpha": ("matte", "threshold", "opacity", "bleed", "premultiply", "unpremultiply"),
    "colour": ("ramp", "tint", "brightness", "contrast", "saturation", "hue", "keep-color", "edge", "blur", "expose"),
    "size": ("trim", "crop", "pad", "square", "fit", "scale"),
    "place": ("anchor", "steady", "shift", "turn", "flip", "distort"),
    "which frames": ("drop", "keep", "repeat", "reverse", "reorder"),
}
"""The steps as they are listed."""
