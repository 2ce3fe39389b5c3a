"""Steps that work on colour and alpha, and leave pixels where they are."""

from __future__ import annotations

from functools import partial

from kivel.core.pixels.exposure import exposed
from kivel.core.prepare import adjust, alpha, drawn_around, ramp
from kivel.core.prepare import parameters as p
from kivel.core.prepare.actions import each_image
from kivel.core.prepare.step_actions import blurring, edging, matting, outlining, ramping, recolouring
from kivel.core.prepare.step_kind import StepKind

__all__ = ["COLOUR_STEPS"]

COLOUR_STEPS = (
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
        "outline",
        "draw a line of one colour around what is seen; frames do not grow, so pad them first",
        outlining,
        (
            p.colour("color", "colour of the line", varies=True).first(),
            p.number("width", "width of the line", least=1, most=64, default=1, whole=True, unit="px"),
            p.choice(
                "side", ("outside", "inside"), "outside of what is seen, or along its inner edge", default="outside"
            ),
            p.choice("neighbors", ("4", "8"), "count over sides (4), or corners too (8)", default="4"),
            p.number("threshold", "alpha up to this counts as outside", least=0, most=254, default=0),
        ),
        "outline #1b1f3b width=1 neighbors=8",
        "a dark line of one pixel around each figure",
        colour_only=True,
    ),
    StepKind(
        "shadow",
        "draw a hard shadow (drop shadow) of one colour below what is seen; pad frames first",
        lambda offset, color, opacity: each_image(
            partial(drawn_around.shadowed, offset=offset, color=color, opacity=opacity)
        ),
        (
            p.point("offset", "where it falls, in pixels to the right and down", whole=True).first(),
            p.colour("color", "its colour", default=(0.0, 0.0, 0.0), varies=True),
            p.number("opacity", "how opaque it is", least=0, most=1, default=1.0),
        ),
        "shadow 1,1 color=#0b0d1a opacity=0.6",
        "a shadow one pixel to the right and below",
        colour_only=True,
    ),
    StepKind(
        "recolor",
        "replace exact colours by others (palette swap); alpha stays",
        recolouring,
        (
            p.colour_pair("pairs", "the colour that is there, and the one that it becomes"),
            p.image("by", "a picture instead: its first row what is there, each further row a variant", default=None),
            p.number("variant", "which row of the picture, from 1", least=1, most=4096, default=1, whole=True),
        ),
        "recolor #8a2b2b=#2b5d8a #c94f4f=#4f8fc9",
        "two reds become two blues",
        colour_only=True,
        varies=False,
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
)
