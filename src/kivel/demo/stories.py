"""Describes what the demo runs: the short story, and a tour for each task; the pages of the documents show the same
commands.
"""

from __future__ import annotations

from kivel.core.named_tuples import NamedTuple

__all__ = ["SHORT_STORY", "TOURS", "Story", "StoryStep"]


class StoryStep(NamedTuple):
    """Why, and the command line; under `edits`, a frame and the recipe are changed before."""

    why: str
    line: str
    edits: bool = False


class Story(NamedTuple):
    """Holds what it is about, the art that it needs by the names of `demo/art.py`, its steps, and what to do then."""

    title: str
    art: tuple[str, ...]
    steps: tuple[StoryStep, ...]
    then: tuple[str, ...]


SHORT_STORY = Story(
    "from frames to a playing sheet, and back",
    ("moth", "beetle", "spore"),
    (
        StoryStep("Five drawn frames in a row, twelve a second.", "sheet moth/ -o moth.png --layout row --fps 12"),
        StoryStep(
            "Ping-pong, with the ends held longer.", "retime moth.kivel.json --direction alternate --holds 2,1,1,1,3"
        ),
        StoryStep("Watch it, eight times as large.", "preview moth.kivel.json -o moth.apng --scale 8"),
        StoryStep("Take the sheet apart again: the same frames, bit for bit.", "slice moth.kivel.json -o moth-frames/"),
        StoryStep(
            "An old sheet without a manifest: the grid is found, each row becomes a clip.",
            "adopt beetle.png --row-clips walk,run,dig --fps 10",
        ),
        StoryStep(
            "A rendered burst, grey on black: cut out and coloured.",
            'prep spore/ -o burst/ --step matte --step "ramp #2a1b3d #a6452e@0.35 #ffc861@0.7 #fff6d8"',
        ),
        StoryStep("All 40 frames on one sheet, played once.", "sheet burst/ -o burst.png --hold 40ms --repeat 1"),
        StoryStep("What would go wrong in an engine? (Here, one finding.)", "check moth.kivel.json --only cell-bleed"),
        StoryStep("The same sheet again with that mended, and its timing kept.", "again moth.png --mip-safe 3 --gap 8"),
        StoryStep("A page to look closer: scrub, step, zoom, onion skin.", "preview beetle.kivel.json -o beetle.html"),
    ),
    (
        "Open moth.apng and beetle.html in a browser, or type: kivel play moth.kivel.json",
        "Next: kivel demo --tour pixel-art   (or effects, sheets, maps, pack, engine, project; --all runs every tour)",
        "Your own frames: kivel sheet FOLDER -o NAME.png; kivel --help lists the commands",
    ),
)

TOURS = {
    "effects": Story(
        "rendered effects to a flipbook",
        ("spore", "smoke"),
        (
            StoryStep("Are all frames there, of one size, with alpha?", "inspect spore/"),
            StoryStep(
                "Cut out, coloured by brightness, the middle of the burst in the middle of each frame.",
                'prep spore/ -o burst/ --step matte --step "ramp #2a1b3d #a6452e@0.35 #ffc861@0.7 #fff6d8" '
                '--step "anchor mass threshold=8" --step square',
            ),
            StoryStep(
                "25 of the first 32 frames, both ends included.",
                "resample burst/ -o burst-25/ --range 0-31 --count 25 --one-shot",
            ),
            StoryStep("Which sheets could hold them? What fits a page of 512?", "plan burst-25/ --fit-page 512x512"),
            StoryStep("One sheet of 25 cells.", "sheet burst-25/ -o burst.png"),
            StoryStep(
                "Proof: the sheet shows exactly what the frames show, at their times.",
                "check burst.kivel.json --plays burst-25/ --only plays-otherwise",
            ),
            StoryStep("Every frame at a glance.", "preview burst.kivel.json -o burst-contact.png"),
            StoryStep(
                "Smoke: 16 of 64 frames, and a motion map to rebuild the others.",
                "resample smoke/ -o smoke-16/ --count 16 --motion",
            ),
            StoryStep("The sheet and its motion map, in matching cells.", "sheet smoke-16/ -o smoke.png"),
            StoryStep(
                "16 frames that play like 64.",
                "preview smoke.kivel.json -o smoke.webp --scale 3",
            ),
        ),
        ("Open smoke.webp and burst-contact.png.",),
    ),
    "pixel-art": Story(
        "pixel art: rows, holds, palettes",
        ("moth", "lantern", "firefly", "moss"),
        (
            StoryStep("Five frames in a row, twelve a second.", "sheet moth/ -o moth.png --layout row --fps 12"),
            StoryStep(
                "Ping-pong, each frame with its own hold, and an event when the wings are down.",
                "retime moth.kivel.json --direction alternate --holds 6,4*3,8 --timebase 60 --event 4:flutter",
            ),
            StoryStep("Which frame shows when?", "timeline moth.kivel.json --for 0.4s"),
            StoryStep("A frame was repainted? The same sheet again, with its timing.", "again moth.kivel.json"),
            StoryStep(
                "Moth and lantern on one sheet; a part of the moth is a clip of its own.",
                'sheet moth.kivel.json "lantern/lantern_#.png" -o night.png --make-clip rise=moth:2-4',
            ),
            StoryStep(
                "Nine lamps that do not flicker together; the game picks one at random.",
                "retime night.kivel.json --clip lantern --holds 8,3,5,2 --timebase 30 --stagger 9 "
                '--make-group "row=lantern-*" --choose random',
            ),
            StoryStep("All clips on one page.", "preview night.kivel.json -o night.html"),
            StoryStep("One palette of 8 colours for all frames.", "sheet firefly/ -o firefly.png --colors 8 --fps 8"),
            StoryStep(
                "A tile that scrolls by whole pixels.",
                'scroll "moss.png scroll=0,1" -o moss-flow/ --count 32 --fps 16 --filter nearest',
            ),
        ),
        ("Open night.html, or type: kivel play night.kivel.json",),
    ),
    "sheets": Story(
        "take a sheet apart and put it back",
        ("beetle", "shed"),
        (
            StoryStep("The grid is found; the last row is short.", "slice beetle.png -o beetle-frames/"),
            StoryStep("A frame was edited? Put all of them back.", "sheet beetle-frames/ -o beetle-new.png"),
            StoryStep("Cells between drawn lines are found too.", "slice lamps.png -o lamps-frames/"),
            StoryStep(
                "A sheet that was scaled once: its cells are not whole pixels.",
                "slice beetle-small.png -o beetle-small-frames/ --columns 7 --rows 3 --cell 213/7x23",
            ),
            StoryStep(
                "No grid: every separate shape, and a file of regions to name them in.",
                "slice shed.png -o shed-frames/ --islands --save-regions shed.regions.toml",
            ),
            StoryStep(
                "Or leave the sheet alone, and describe it in a manifest.",
                "adopt beetle.png --row-clips walk,run,dig --fps 10",
            ),
            StoryStep("Does the image still match?", "inspect beetle.kivel.json"),
        ),
        ("Edit shed.regions.toml, then: kivel slice shed.png -o tools/ --regions shed.regions.toml",),
    ),
    "maps": Story(
        "companion maps: normal, emission, mask",
        ("vane", "lantern", "moth", "moss"),
        (
            StoryStep(
                "A lantern and its light on matching sheets.",
                'sheet "lantern/lantern_#.png" -o lantern.png --map-suffix emission=_emission --fps 8',
            ),
            StoryStep(
                "120 frames become 48 with motion blur; the normals are averaged as vectors.",
                'resample "vane/vane_#.png" -o vane-48/ --count 48 --mix --map-suffix normal=_normal',
            ),
            StoryStep("Does the turntable loop?", "loop vane-48/"),
            StoryStep("Two sheets in matching cells.", "sheet vane-48/ -o vane.png --page-limit 2048x2048"),
            StoryStep(
                "The shape of a lantern in red and its glow in green, for one texture.",
                'channels --red "lantern/lantern_#.png:alpha" --green "lantern/lantern_#_emission.png:brightness" '
                "-o lantern-packed/",
            ),
            StoryStep("Are the maps in step, and the normals sound?", "check vane.kivel.json"),
            StoryStep("A page that shows every map.", "preview vane.kivel.json -o vane.html"),
            StoryStep(
                "The light added on top, for engines without emission maps.",
                'layer "lantern/lantern_#.png" "lantern/lantern_#_emission.png blend=plus-lighter matte" -o lit/',
            ),
            StoryStep("Half of the turntable's frames.", 'resample "vane/vane_#.png" -o vane-60/ --count 60'),
            StoryStep(
                "One scene: moss, the vane, a moth, and a lantern with its light.",
                'layer moss.png vane-60/ "moth/ offset=84,14" "lantern/lantern_#.png offset=8,82" '
                '"lantern/lantern_#_emission.png blend=plus-lighter matte offset=8,82" -o scene/',
            ),
            StoryStep("Six seconds of it.", "preview scene/ -o scene.apng --fps 10 --scale 2"),
        ),
        ('Open scene.apng; open vane.html, choose "lit" under Map, and drag the lamp.',),
    ),
    "pack": Story(
        "a resource pack",
        ("moth", "props"),
        (
            StoryStep(
                "A sheet with its timing.", "sheet moth/ -o moth.png --layout row --fps 12 --direction alternate"
            ),
            StoryStep(
                "Props of all sizes, trimmed and packed tight, with outlines.",
                "atlas props/ -o props.png --turn --outline 6 --page-limit 512x256 --effort quick",
            ),
            StoryStep("How full is the page?", "preview props.kivel.json -o props-layout.png --view layout"),
            StoryStep("A profile: how the game wants its tiles.", "profile new tiles.toml --example tiles"),
            StoryStep("Is it right, and does it work on the moth?", "profile check tiles.toml --on moth.kivel.json"),
            StoryStep("The pack.", "export moth.kivel.json --profile tiles.toml -o orchard-pack/"),
            StoryStep(
                "Is everything there, named right and up to date?",
                "check orchard-pack/ --profile tiles.toml --on moth.kivel.json",
            ),
        ),
        ("Edit tiles.toml for your own game; every key is explained in: kivel profile new blank.toml",),
    ),
    "engine": Story(
        "in the engine: tables, shaders, glTF",
        ("moth", "lantern"),
        (
            StoryStep(
                "A sheet with its timing.", "sheet moth/ -o moth.png --layout row --fps 12 --direction alternate"
            ),
            StoryStep("What can it be exported to?", "export --list"),
            StoryStep("Rectangles, texture coordinates and times as JSON.", "export moth.kivel.json -o moth.json"),
            StoryStep(
                "The same for C and C++, from the bottom left, in sixtieths of a second.",
                "export moth.kivel.json -o moth.h --origin bottom --half-texel --clock 60",
            ),
            StoryStep("On a web page, at its exact times.", "export moth.kivel.json -o moth-web.html"),
            StoryStep("A shader that plays it.", "export moth.kivel.json -o moth.glsl"),
            StoryStep("A glTF scene.", "export moth.kivel.json -o moth.glb"),
            StoryStep(
                "What does a game at 30 frames a second show of it?", "timeline moth.kivel.json --clock 30 --for 0.3s"
            ),
            StoryStep("What would go wrong in an engine?", "check moth.kivel.json --clock 60"),
        ),
        ("Open moth-web.html in a browser.",),
    ),
    "project": Story(
        "a whole project with build",
        ("firefly", "spore", "recipe"),
        (
            StoryStep("What does kivel.toml make?", "build --list"),
            StoryStep("Build it: frames prepared, thinned, laid out, timed, exported, checked.", "build"),
            StoryStep("Again: everything is up to date.", "build"),
            StoryStep("A firefly was repainted, and a hold changed. Why build spark?", "build --why spark", edits=True),
            StoryStep("Only what depends on the changes.", "build"),
        ),
        ("Change kivel.toml or a frame, then: kivel build",),
    ),
}
"""By the names of the tasks in the documents."""
