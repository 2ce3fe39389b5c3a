"""The worked examples and notes in the help of each command, on the demo's art."""

from __future__ import annotations

from kivel.core.named_tuples import NamedTuple

__all__ = ["EXAMPLES", "NOTES", "Example"]


class Example(NamedTuple):
    """A command line, and what comes of it."""

    line: str
    result: str


EXAMPLES = {
    "demo": (
        Example("kivel demo", "a sheet, its timing and an animated moth in ./mothlight-orchard, in a few seconds"),
        Example("kivel demo --tour pixel-art", "the story of one task; --all tells them all"),
    ),
    "inspect": (
        Example('kivel inspect "vane/vane_#.png"', "a long render: are all frames there, of one size, with alpha?"),
        Example(
            "kivel inspect moth.kivel.json --chart moth-chart.png",
            "a sheet: does its image match the manifest? And a chart of how its frames change",
        ),
    ),
    "prep": (
        Example(
            'kivel prep spore/ -o spore-matte/ --step matte --step "ramp #1b1f3b #a6452e@0.4 #ffc861 #fff6d8"',
            "spore-matte/: grey on black becomes colour with alpha",
        ),
        Example(
            'kivel prep spore-matte/ -o spore-cell/ --step "anchor mass" --step "fit 96x96"',
            "spore-cell/: the burst in the middle of each frame, 96x96 px",
        ),
    ),
    "loop": (
        Example(
            'kivel loop "vane/vane_#.png" --find 40-70', "does the turntable loop? Which 40 to 70 frames loop best?"
        ),
        Example(
            "kivel loop spore/ -o spore-loop/ --close 8", "spore-loop/: the last 8 frames are blended into the first 8"
        ),
    ),
    "layer": (
        Example(
            'kivel layer "lantern/lantern_#.png" "lantern/lantern_#_emission.png blend=plus-lighter matte" -o lit/',
            "lit/: a lantern with its own light added on top",
        ),
        Example(
            'kivel layer "vane/vane_#.png" "moth/ blend=normal offset=70,8" -o visited/ --until common',
            "visited/: a moth of 5 frames over a turntable of 120, repeated until both end together",
        ),
    ),
    "scroll": (
        Example(
            'kivel scroll "moss.png scroll=0,1 by=swell.png strength=6 by-scroll=1,0" -o moss-flow/ --count 48',
            "moss-flow/: moss that flows down while a swell runs through it; loops after 48 frames",
        ),
        Example(
            'kivel scroll "moss.png scroll=1,0" "moss.png scroll=-1,0 blend=screen opacity=0.4" -o two/ --count 32',
            "two/: two layers of moss that scroll against each other",
        ),
    ),
    "channels": (
        Example(
            "kivel channels --red spore/ --green spore/ --blue spore/ --alpha spore/:brightness -o spore-cut/",
            "spore-cut/: the frames as they are, with their brightness as alpha",
        ),
        Example(
            "kivel channels --red moth/:alpha --green moth/:brightness --blue 0.5 -o moth-packed/",
            "moth-packed/: the shape in red and the brightness in green, as data for a shader",
        ),
    ),
    "resample": (
        Example(
            'kivel resample "vane/vane_#.png" -o vane-48/ --count 48 --mix',
            "vane-48/: 120 frames become 48, with motion blur instead of stutter",
        ),
        Example(
            "kivel resample spore/ -o spore-25/ --count 25 --range 1-32 --one-shot --pace ease-out",
            "spore-25/: 25 of the first 32 frames of a burst, both ends included",
        ),
    ),
    "plan": (
        Example("kivel plan spore/", "the sheets that 40 frames could make: cells, waste and memory"),
        Example(
            'kivel plan "vane/vane_#.png" --fit-page 2048x2048 --gap 2',
            "also the largest cell with which all frames fit that page",
        ),
    ),
    "sheet": (
        Example(
            "kivel sheet moth/ -o moth.png --layout row --fps 12", "moth.png, five frames in a row, and moth.kivel.json"
        ),
        Example(
            'kivel sheet "vane/vane_#.png" -o vane.png --map-suffix normal=_normal --page-limit 2048x2048',
            "vane-0.png, vane-0.normal.png, ...: a render and its normal map on matching pages",
        ),
    ),
    "atlas": (
        Example(
            "kivel atlas props/ -o props.png --pow2", "props.png: all props, trimmed and packed on a power-of-two page"
        ),
        Example(
            'kivel atlas moth/ "lantern/lantern_#.png" -o night.png --turn --page-limit 1024x1024',
            "night.png: two sequences on one page, frames rotated where that helps",
        ),
    ),
    "slice": (
        Example(
            "kivel slice beetle.png -o beetle-frames/",
            "beetle-frames/: the grid is found; if it is not clear, nothing is written",
        ),
        Example(
            "kivel slice moth.kivel.json -o moth-frames/", "moth-frames/: every frame bit for bit, with maps and timing"
        ),
    ),
    "adopt": (
        Example(
            "kivel adopt beetle.png --row-clips walk,run,dig --fps 10",
            "beetle.kivel.json beside the picture, with a clip for each row",
        ),
        Example("kivel adopt shed.png --islands", "shed.kivel.json: every separate shape is a frame"),
    ),
    "again": (
        Example("kivel again moth.kivel.json", "the same sheet from the frames of now, with the timing that was set"),
        Example("kivel again moth.png --gap 2", "the same with another gap; all other options stay"),
    ),
    "retime": (
        Example(
            "kivel retime moth.kivel.json --direction alternate --holds 4,2,2,2,8 --timebase 60 --event 4:flutter",
            "ping-pong, with its own hold for each frame and an event when the wings close",
        ),
        Example(
            'kivel retime lantern.kivel.json --clip lantern --stagger 12 --make-group "row=lantern-*" --dry-run',
            "shows twelve lamps at evenly spread phases, and writes nothing",
        ),
    ),
    "timeline": (
        Example(
            "kivel timeline moth.kivel.json --for 1s",
            "which frame shows when in the first second, with events and cycles",
        ),
        Example(
            "kivel timeline lantern.kivel.json --clock 60 --for 2s --format csv",
            "which frame a game at 60 frames a second shows in each rendered frame",
        ),
    ),
    "export": (
        Example(
            "kivel export moth.kivel.json -o moth.json",
            "rectangles, texture coordinates, pivots, and the steps of each clip with their times",
        ),
        Example(
            "kivel export moth.kivel.json lantern.kivel.json --profile tiles.toml -o pack/",
            "pack/: images and text files as your own profile describes them",
        ),
    ),
    "profile": (
        Example(
            "kivel profile new tiles.toml --example tiles",
            "tiles.toml, a profile to edit; without --example, a blank one that explains every key",
        ),
        Example(
            "kivel profile check tiles.toml --on moth.kivel.json",
            "errors with line and key; its templates are tried on that sheet",
        ),
    ),
    "check": (
        Example(
            'kivel check moth.kivel.json "vane/vane_#.png"',
            "findings, the gravest first; the exit code is 1 if there are errors",
        ),
        Example(
            "kivel check moth.kivel.json --plays moth/ --difference moth-difference.png",
            "proof that the sheet shows its frames at their exact times, or the first difference",
        ),
    ),
    "preview": (
        Example(
            "kivel preview moth.kivel.json -o moth.apng --scale 8",
            "moth.apng: the clip at its exact timing, eight times as large",
        ),
        Example(
            "kivel preview night.kivel.json -o night.html",
            "night.html: a viewer page with scrubbing, zoom, onion skin, maps and clips to compare",
        ),
    ),
    "play": (
        Example("kivel play moth.kivel.json", "the moth in the terminal: space pauses, left and right step, q quits"),
        Example('kivel play "vane/vane_#.png" --fps 24 --speed 1/2', "a folder of frames at half their speed"),
    ),
    "build": (
        Example("kivel build", "everything in kivel.toml that is out of date"),
        Example("kivel build burst --why burst", "why it would be built, or that it is up to date"),
    ),
}
NOTES = {
    "layer": (
        "A layer is written SRC blend=NAME opacity=N offset=X,Y matte. Use matte for art that is bright on "
        "black: it is cut out first. The blends are those of W3C Compositing: normal, multiply, screen, "
        "overlay, darken, lighten, color-dodge, color-burn, hard-light, soft-light, difference, exclusion, "
        "hue, saturation, color, luminosity and plus-lighter."
    ),
    "scroll": (
        "A tile is written IMAGE scroll=X,Y by=IMAGE strength=PX angle=DEGREES by-scroll=X,Y blend=NAME opacity=N."
    ),
    "prep": ("All steps of prep: kivel prep --steps. One of them: kivel prep --steps anchor."),
}
"""Says what the help of all options says besides."""
