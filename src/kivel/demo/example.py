"""The example that the demo runs: what a technical artist would type, in order."""

from __future__ import annotations

from typing import NamedTuple

__all__ = ["STEPS", "WHERE_TO_LOOK", "Step"]


class Step(NamedTuple):
    """Why, and the command line after `kivel`."""

    why: str
    line: str


STEPS = (
    Step("Are all frames there?", "inspect moth"),
    Step(
        "Five drawn frames in a row, twelve a second: texture and manifest.",
        "sheet moth -o moth.png --layout row --fps 12",
    ),
    Step(
        "To and fro, the ends held longer, counted in ticks of sixty a second; a sound each time the wings go down.",
        'retime moth.kivel.json --direction ping-pong --holds "6,4*3,8" --timebase 60 --event 4:flutter',
    ),
    Step(
        "What will a game at thirty frames a second show of it?",
        "trace moth.kivel.json --clock 30",
    ),
    Step("See it play, eight times as large.", "preview moth.kivel.json -o moth.apng --scale 8"),
    Step(
        "The moth as it plays now, and a lantern, on one sheet; and a part of the moth as a clip of its own.",
        'sheet moth.kivel.json "lantern/lantern_#.png" -o night.png --clip rise=moth:2-4',
    ),
    Step("When does what show?", "preview night.kivel.json -o night-timing.png --chart"),
    Step(
        "Twelve lamps, unsteady, that do not burn in step; a game may draw any of them.",
        "retime night.kivel.json --clip lantern --holds 8,3,5,2 --timebase 30 --stagger 12"
        ' --group "row=lantern-*" --choose random',
    ),
    Step(
        "The lantern with its own light, bright on black, added on top.",
        'layer "lantern/lantern_#.png" "lantern/lantern_#_emission.png blend=plus-lighter matte" -o lantern-lit',
    ),
    Step(
        "A tile drifts down while a swell runs through it; after 48 frames it is where it was.",
        'drift "moss.png scroll=0,1 map=swell.png strength=6 map-scroll=1,0" -o moss-drift --count 48 --fps 24',
    ),
    Step(
        "The swell itself drifts the other way, to be the light on it.",
        'drift "swell.png scroll=-1,1" -o glint --count 48 --fps 24',
    ),
    Step(
        "Moss under drifting light: both loops last as long, so it closes.",
        'layer moss-drift/moss.kivel.json "glint/swell.kivel.json blend=soft-light opacity=0.8" -o moss-lit',
    ),
    Step(
        "A rendered burst, grey on black: cut out, coloured by brightness, its own middle in the middle of every cell.",
        'prep spore -o burst --step matte --step "ramp #2a1b3d #a6452e@0.35 #ffc861@0.7 #fff6d8"'
        ' --step "anchor mass threshold=8" --step square',
    ),
    Step(
        "Its first 32 frames as 25, both ends included; they last as long as the 32 did.",
        "resample burst/spore.kivel.json -o burst-25 --range 0-31 --count 25 --one-shot",
    ),
    Step("Which sheets could hold them? And a page of 512?", "plan burst-25/spore.kivel.json --page 512x512"),
    Step("25 cells of one sheet, to be spun around their middle.", "sheet burst-25/spore.kivel.json -o burst.png"),
    Step(
        "A rendered burst, two pixels apart, played once in 1.6 seconds, as small a file as can be.",
        "sheet spore -o spore.png --gap 2 --hold 40ms --repeat 1 --compress small",
    ),
    Step("Every frame at a glance.", "preview spore.kivel.json -o spore-contact.png"),
    Step(
        "The vane's 120 frames as 48, each the mean of what it stands for; a pattern picks the colour.",
        'resample "vane/vane_#.png" -o vane-48 --count 48 --mix',
    ),
    Step(
        "Its normal map the same way: as vectors, that stay of unit length.",
        'resample "vane/vane_#_normal.png" -o vane-48-normal --count 48 --mix --as normal',
    ),
    Step("Does the turntable close?", "loop vane-48/vane.kivel.json"),
    Step(
        "A sheet of them, with the timing that they kept, and the normal map in the very same cells.",
        "sheet vane-48/vane.kivel.json -o vane.png --map normal=vane-48-normal/vane_normal.kivel.json",
    ),
    Step(
        "Props of all sizes, trimmed and packed, each with an outline of eight points to draw less of nothing.",
        "atlas props -o props.png --turn --outline 8 --page-limit 512x256 --effort quick",
    ),
    Step("How full is the page?", "preview props.kivel.json -o props-layout.png --layout"),
    Step(
        "An old sheet, three gaits of seven frames, the last row short: back into frames.",
        "slice beetle.png -o beetle-frames --columns 7 --rows 3",
    ),
    Step("Does the sheet still match its manifest?", "inspect spore.kivel.json"),
)

WHERE_TO_LOOK = """\
Look at:
  moth.apng             plays in any browser; kivel play moth.kivel.json plays it here
  night-timing.png      when each clip shows what
  spore-contact.png     every frame, numbered, with its hold
  props-layout.png      how tight the props are packed
  spore.kivel.json      what an engine needs to know, in plain text
  kivel COMMAND --help  two examples for each command"""
