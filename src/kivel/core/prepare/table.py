"""The table of all steps: how each is written, what it says of itself, and what it does."""

from __future__ import annotations

from functools import partial

from kivel.core.playback.notation import Ordered
from kivel.core.prepare import geometry
from kivel.core.prepare import parameters as p
from kivel.core.prepare.actions import Each, Order
from kivel.core.prepare.colour_steps import COLOUR_STEPS
from kivel.core.prepare.parameters import Parameter
from kivel.core.prepare.steady import steadying
from kivel.core.prepare.step_actions import (
    SAMPLING,
    anchoring_at,
    cropping,
    distorting,
    dropping,
    fitting,
    keeping,
    padding,
    read_anchor,
    scaling_by,
    shifting,
    trimming,
    turning,
)
from kivel.core.prepare.step_kind import StepKind
from kivel.core.steadying import STEADY_REACH

__all__ = ["STEPS", "STEP_GROUPS"]

_JUDGED_BY = p.choice(
    "by", ("any", "color"), "visible is what frames or their companion maps show (any), or frames alone", default="any"
)
_PLACING_STEPS = (
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
            _JUDGED_BY,
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
            _JUDGED_BY,
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

STEPS = {kind.name: kind for kind in (*COLOUR_STEPS, *_PLACING_STEPS)}
"""Every step by its name."""
STEP_GROUPS = {
    "cut out, and alpha": ("matte", "threshold", "opacity", "bleed", "premultiply", "unpremultiply"),
    "colour": (
        "ramp",
        "tint",
        "brightness",
        "contrast",
        "saturation",
        "hue",
        "keep-color",
        "recolor",
        "edge",
        "outline",
        "shadow",
        "blur",
        "expose",
    ),
    "size": ("trim", "crop", "pad", "square", "fit", "scale"),
    "place": ("anchor", "steady", "shift", "turn", "flip", "distort"),
    "which frames": ("drop", "keep", "repeat", "reverse", "reorder"),
}
"""The steps as they are listed."""
