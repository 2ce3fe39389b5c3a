"""The example that the demo runs: what a technical artist would do, in order."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from kivel.core.named_tuples import NamedTuple

__all__ = ["EXAMPLE", "WHERE_TO_LOOK", "ExampleStep"]


class ExampleStep(NamedTuple):
    """Why, the command, and its options by their names; under `edits` a frame and the recipe are changed before."""

    why: str
    command: str
    options: Mapping[str, Any]
    edits: bool = False


EXAMPLE = (
    ExampleStep("Are all frames there?", "inspect", {"sources": ["moth"]}),
    ExampleStep(
        "Five drawn frames in a row, twelve a second: texture and manifest.",
        "sheet",
        {"sources": ["moth"], "out": "moth.png", "layout": "row", "fps": 12},
    ),
    ExampleStep(
        "To and fro, the ends held longer, counted in ticks of sixty a second; a sound each time the wings go down.",
        "retime",
        {
            "manifest": "moth.kivel.json",
            "direction": "alternate",
            "holds": "6,4*3,8",
            "timebase": 60,
            "event": ["4:flutter"],
        },
    ),
    ExampleStep(
        "A frame was repainted? The same sheet once more, as it was made, with what was set on its clip.",
        "again",
        {"target": "moth.kivel.json"},
    ),
    ExampleStep(
        "What will a game at thirty frames a second show of it?",
        "timeline",
        {"manifest": "moth.kivel.json", "clock": 30},
    ),
    ExampleStep(
        "See it play, eight times as large.",
        "preview",
        {"sources": ["moth.kivel.json"], "out": "moth.apng", "scale": 8},
    ),
    ExampleStep(
        "The moth as it plays now, and a lantern, on one sheet; and a part of the moth as a clip of its own.",
        "sheet",
        {"sources": ["moth.kivel.json", "lantern/lantern_#.png"], "out": "night.png", "make-clip": ["rise=moth:2-4"]},
    ),
    ExampleStep(
        "Nine lamps, unsteady, that do not burn in step; a game may draw any of them.",
        "retime",
        {
            "manifest": "night.kivel.json",
            "clip": ["lantern"],
            "holds": "8,3,5,2",
            "timebase": 30,
            "stagger": 9,
            "make-group": ["row=lantern-*"],
            "choose": "random",
        },
    ),
    ExampleStep(
        "When does what show?",
        "preview",
        {"sources": ["night.kivel.json"], "out": "night-timing.png", "view": "timing"},
    ),
    ExampleStep(
        "All of it on one page, to be opened in a browser: scrub, step, zoom; ? lists the keys.",
        "preview",
        {"sources": ["night.kivel.json"], "out": "night.html"},
    ),
    ExampleStep(
        "The lantern with its own light, bright on black, added on top.",
        "layer",
        {
            "base": "lantern/lantern_#.png",
            "over": ["lantern/lantern_#_emission.png blend=plus-lighter matte"],
            "out": "lantern-lit",
        },
    ),
    ExampleStep(
        "A tile scrolls down while a swell runs through it. After 48 frames it is back at its start.",
        "scroll",
        {
            "tiles": ["moss.png scroll=0,1 by=swell.png strength=6 by-scroll=1,0"],
            "out": "moss-flow",
            "count": 48,
            "fps": 24,
        },
    ),
    ExampleStep(
        "The swell scrolls the other way. It will be the light.",
        "scroll",
        {"tiles": ["swell.png scroll=-1,1"], "out": "glint", "count": 48, "fps": 24},
    ),
    ExampleStep(
        "Moss under moving light. Both loops have the same length, so the result loops too.",
        "layer",
        {
            "base": "moss-flow",
            "over": ["glint blend=soft-light opacity=0.8"],
            "out": "moss-lit",
        },
    ),
    ExampleStep(
        "Sixteen frames of sixty-four, and a map of how the smoke moves, fitted to those that are left out.",
        "resample",
        {"sources": ["smoke"], "out": "smoke-16", "count": 16, "motion": True},
    ),
    ExampleStep(
        "Both on sheets of the same places; the clip is warped along the map.",
        "sheet",
        {"sources": ["smoke-16"], "out": "smoke.png"},
    ),
    ExampleStep(
        "Sixteen frames that play like sixty-four.",
        "preview",
        {"sources": ["smoke.kivel.json"], "out": "smoke.webp", "scale": 3},
    ),
    ExampleStep(
        "A rendered burst, grey on black: cut out, coloured by brightness, its own middle in the middle of every cell.",
        "prep",
        {
            "sources": ["spore"],
            "out": "burst",
            "step": [
                "matte",
                "ramp #2a1b3d #a6452e@0.35 #ffc861@0.7 #fff6d8",
                "anchor mass threshold=8",
                "square",
            ],
        },
    ),
    ExampleStep(
        "Its first 32 frames as 25, both ends included; they last as long as the 32 did.",
        "resample",
        {
            "sources": ["burst"],
            "out": "burst-25",
            "range": "0-31",
            "count": 25,
            "one-shot": True,
        },
    ),
    ExampleStep(
        "Which sheets could hold them? And a page of 512?",
        "plan",
        {"sources": ["burst-25"], "fit-page": "512x512"},
    ),
    ExampleStep(
        "25 cells of one sheet, to be spun around their middle.",
        "sheet",
        {"sources": ["burst-25"], "out": "burst.png"},
    ),
    ExampleStep(
        "A rendered burst, two pixels apart, played once in 1.6 seconds, as small a file as can be.",
        "sheet",
        {"sources": ["spore"], "out": "spore.png", "gap": 2, "hold": "40ms", "repeat": 1, "compress": "small"},
    ),
    ExampleStep(
        "Every frame at a glance.",
        "preview",
        {"sources": ["spore.kivel.json"], "out": "spore-contact.png"},
    ),
    ExampleStep(
        "The vane's 120 frames as 48, each the mean of what it stands for; its normals likewise, as vectors.",
        "resample",
        {
            "sources": ["vane/vane_#.png"],
            "out": "vane-48",
            "count": 48,
            "mix": True,
            "map-suffix": ["normal=_normal"],
        },
    ),
    ExampleStep("Does the turntable close?", "loop", {"sources": ["vane-48"]}),
    ExampleStep(
        "A sheet of them: the folder brings the timing, and the normal map in the very same cells.",
        "sheet",
        {"sources": ["vane-48"], "out": "vane.png"},
    ),
    ExampleStep(
        "Props of all sizes, trimmed and packed, each with an outline of six points against overdraw.",
        "atlas",
        {
            "sources": ["props"],
            "out": "props.png",
            "turn": True,
            "outline": 6,
            "page-limit": "512x256",
            "effort": "quick",
        },
    ),
    ExampleStep(
        "How full is the page?",
        "preview",
        {"sources": ["props.kivel.json"], "out": "props-layout.png", "view": "layout"},
    ),
    ExampleStep(
        "An old sheet, nobody knows of how many columns, its last row short: it gets a manifest, a clip for each row.",
        "adopt",
        {"sources": ["beetle.png"], "row-clips": "walk,run,dig", "fps": 10},
    ),
    ExampleStep("Back into frames, as that says.", "slice", {"sources": ["beetle.png"], "out": "beetle-frames"}),
    ExampleStep("Cells between drawn lines are found too.", "slice", {"sources": ["lamps.png"], "out": "lamps-frames"}),
    ExampleStep(
        "This one was scaled once: its cells are parts of pixels wide.",
        "slice",
        {"sources": ["beetle-small.png"], "out": "beetle-small-frames", "columns": 7, "rows": 3, "cell": "213/7x23"},
    ),
    ExampleStep(
        "No grid here: each tool, seed and leaf by itself; their places in a file, to give them names.",
        "slice",
        {
            "sources": ["shed.png"],
            "out": "shed-frames",
            "save-regions": "shed.regions.toml",
            "look": "shed-ways.png",
        },
    ),
    ExampleStep(
        "The numbers of the moth for a program: rectangles, texture coordinates, steps with their times.",
        "export",
        {"manifests": ["moth.kivel.json"], "out": "moth-table.json"},
    ),
    ExampleStep(
        "The same moth on a web page, at its exact times.",
        "export",
        {"manifests": ["moth.kivel.json"], "to": ["css"], "out": "moth.html"},
    ),
    ExampleStep(
        "How the orchard's tiles want their sheets: a file of your own, to be filled in.",
        "profile",
        {"action": "new", "file": "tiles.toml", "example": "tiles"},
    ),
    ExampleStep(
        "Does it fit the moth?", "profile", {"action": "check", "file": "tiles.toml", "on": ["moth.kivel.json"]}
    ),
    ExampleStep(
        "A whole pack as it says: images laid out anew, times beside them.",
        "export",
        {"manifests": ["moth.kivel.json", "burst.kivel.json"], "profile": "tiles.toml", "out": "orchard-pack"},
    ),
    ExampleStep("What would go wrong in an engine?", "check", {"sources": ["moth.kivel.json"]}),
    ExampleStep(
        "Does the sheet show what the 25 frames show, pixel by pixel, at their times?",
        "check",
        {"sources": ["burst.kivel.json"], "plays": "burst-25"},
    ),
    ExampleStep("Does the sheet still match its manifest?", "inspect", {"sources": ["spore.kivel.json"]}),
    ExampleStep("A whole job, written down in kivel.toml: what would be made?", "build", {"list": True}),
    ExampleStep("Make it: frames prepared, thinned out, laid out, timed, exported, checked.", "build", {}),
    ExampleStep("Again: nothing has changed, and nothing is made.", "build", {}),
    ExampleStep(
        "Now a firefly was repainted, its eyes open, and in kivel.toml the spark's hold is 50 ms. Why make it?",
        "build",
        {"why": "spark"},
        edits=True,
    ),
    ExampleStep("What the changes reach, and no more.", "build", {}),
)

WHERE_TO_LOOK = """\
Look at:
  night.html            every clip of a sheet, to be played, scrubbed and looked at closely
  moth.apng             plays in any browser; kivel play moth.kivel.json plays it here
  night-timing.png      when each clip shows what
  spore-contact.png     every frame, numbered, with its hold
  props-layout.png      how tight the props are packed
  shed-ways.png         how the shed's sheet may divide; it is cut the first way
  kivel.toml            a job written down; change it, or a frame, and kivel build again
  spore.kivel.json      what an engine needs to know, in plain text
  kivel COMMAND --help  two examples for each command"""
