"""The worked examples in the help of each command, from the demo's scenario."""

from __future__ import annotations

__all__ = ["EXAMPLES"]

EXAMPLES = {
    "demo": """\
examples:
  kivel demo
      draw and run everything in ./mothlight-orchard

  kivel demo try/orchard --json
      the same elsewhere, for a script: the files and the commands that ran
""",
    "inspect": """\
examples:
  kivel inspect "vane/vane_#.png"
      a long render: are all frames there, of one size, with the alpha they should have?

  kivel inspect spore.kivel.json --chart spore-chart.png
      a sheet: is its image what the manifest says? and a picture of how its frames change, and where they wander
""",
    "prep": """\
examples:
  kivel prep spore/ -o spore-matte/ --step matte --step "ramp #1b1f3b #a6452e@0.4 #ffc861 #fff6d8"
      grey on black becomes colour with alpha: cut out, then coloured by brightness

  kivel prep spore-matte/ -o spore-cell/ --step "anchor mass" --step "fit 96x96"
      the burst's own middle goes to the middle of the cell, then all is scaled in linear light

all steps: kivel prep --steps; one of them: kivel prep --steps anchor
""",
    "loop": """\
examples:
  kivel loop "vane/vane_#.png" --find 40-70
      does the turntable close? and which 40 to 70 frames of it would loop best?

  kivel loop spore/ -o spore-loop/ --close 8
      a burst that begins anew while the last of it fades: the end cross-faded into the start
""",
    "layer": """\
examples:
  kivel layer "lantern/lantern_#.png" "lantern/lantern_#_emission.png blend=plus-lighter matte" -o lit/
      a lantern, and its own light, bright on black, added on top

  kivel layer "vane/vane_#.png" "moth/ blend=normal offset=70,8" -o visited/ --until common
      a moth's five frames over a turntable's 120, repeated until both end together

a layer is written SRC blend=NAME opacity=N offset=X,Y matte; matte is for what is bright on black: cut out first; the
blends are those of W3C Compositing:
  normal, multiply, screen, overlay, darken, lighten, color-dodge, color-burn, hard-light, soft-light, difference,
  exclusion, hue, saturation, color, luminosity, plus-lighter
""",
    "scroll": """\
examples:
  kivel scroll "moss.png scroll=0,1 by=swell.png strength=6 by-scroll=1,0" -o moss-flow/ --count 48
      moss that flows down while a swell runs through it from the left, closed after 48 frames

  kivel scroll "moss.png scroll=1,0" "moss.png scroll=-1,0 blend=screen opacity=0.4" -o two/ --count 32 --filter nearest
      two layers against each other, moved by whole pixels

a tile is written IMAGE scroll=X,Y by=IMAGE strength=PX angle=DEGREES by-scroll=X,Y blend=NAME opacity=N
""",
    "resample": """\
examples:
  kivel resample "vane/vane_#.png" -o vane-48/ --count 48 --mix
      a turntable of 120 frames as 48, each the average of what lies between: motion blur instead of stutter

  kivel resample spore/ -o spore-25/ --count 25 --range 1-32 --one-shot --pace ease-out
      25 of a burst's first 32 frames, both ends included, close together towards the end

  kivel resample smoke/ -o smoke-16/ --count 16 --motion
      16 of 64 frames, and a map of motion by which players rebuild those between: nearly as smooth, in a third of
      the memory
""",
    "plan": """\
examples:
  kivel plan spore/
      the sheets that forty frames could make, what they waste, and their memory in five formats

  kivel plan "vane/vane_#.png" --fit-page 2048x2048 --gap 2
      also the largest cell in which all frames fit that page, and what to do for half of it

  kivel plan smoke/ --motion --error 15
      how few of 64 frames will do when players warp between them, and how many it takes to fade as well
""",
    "sheet": """\
examples:
  kivel sheet moth/ -o moth.png --layout row --fps 12
      five drawn frames in one row, moth.png and moth.kivel.json

  kivel sheet "vane/vane_#.png" -o vane.png --map-suffix normal=_normal --page-limit 2048x2048 --multiple-of 4
      a render and its normal map in step, on as many pages as it takes: vane-0.png, vane-0.normal.png, ...
""",
    "atlas": """\
examples:
  kivel atlas props/ -o props.png --pow2
      sixty props on the smallest page of powers of two that was found to hold them

  kivel atlas moth/ "lantern/lantern_#.png" -o night.png --turn --page-limit 1024x1024 --pages together
      two sequences, quarter turns allowed, frames of one folder on one page
""",
    "slice": """\
examples:
  kivel slice beetle.png -o beetle-frames/
      a plain image, taken apart by what is seen in it; says how sure that is, and writes nothing when it is not

  kivel slice moth.kivel.json -o moth-frames/
      every frame of the sheet as its manifest says, with its maps and its timing
""",
    "adopt": """\
examples:
  kivel adopt beetle.png --row-clips walk,run,rest --fps 10
      a sheet from elsewhere gets a manifest beside it, with a clip for each row; then retime, preview and timeline work

  kivel adopt shed.png --regions shed.regions.toml
      an irregular sheet, by named rectangles that are yours to edit
""",
    "again": """\
examples:
  kivel again moth.kivel.json
      a frame was repainted, added or taken away: the same sheet once more, with what was set on its clips

  kivel again moth.png --gap 2
      the same with another gap; every other option stays as it was
""",
    "retime": """\
examples:
  kivel retime moth.kivel.json --direction alternate --holds "4,2,2,2,8" --timebase 60 --event 0:flutter
      to and fro, the ends held longer, an event each time frame 0 begins to show

  kivel retime lantern.kivel.json --clip lantern --stagger 12 --make-group "row=lantern-*" --dry-run
      twelve lamps at evenly spread phases that do not blink together; shown, and not written
""",
    "timeline": """\
examples:
  kivel timeline moth.kivel.json --for 1s
      which frame begins to show at what time in the first second, with events and cycles

  kivel timeline lantern.kivel.json --clip lantern --clock 60 --for 2s --format csv
      what each rendered frame of a game at 60 a second shows, and which steps it misses
""",
    "export": """\
examples:
  kivel export moth.kivel.json -o moth.json
      every frame's rectangle, texture coordinates and pivot, and each clip's steps with their times

  kivel export moth.kivel.json lantern.kivel.json --profile tiles.toml -o pack/
      a whole pack, as a profile of yours says (kivel profile new): images, and files from templates; --diff looks first

  kivel export night.kivel.json --clip moth -o night.h --origin bottom --half-texel --clock 60
      the same as constants for C and C++, coordinates from the bottom left, holds in sixtieths of a second
""",
    "profile": """\
examples:
  kivel profile new tiles.toml --example tiles
      a profile to fill in, of the demo's tiles; without --example a blank one with every key explained

  kivel profile check tiles.toml --on moth.kivel.json
      errors with line and key; on a sheet its templates are tried too, and nothing is written

  kivel profile show tiles.toml --on moth.kivel.json
      what a template may say, with the values of that sheet
""",
    "check": """\
examples:
  kivel check moth.kivel.json vane/
      what would go wrong in the engine, the gravest first; exit code 1 if there are errors

  kivel check moth.kivel.json --plays moth/ --difference moth-difference.png
      proof that the sheet shows what its frames show, at their exact times; or the first difference

  kivel check orchard-pack/ --profile tiles.toml --on moth.kivel.json
      what is missing, misnamed or stale in a pack; kivel check --codes explains every code
""",
    "preview": """\
examples:
  kivel preview moth.kivel.json -o moth.apng --scale 8
      the moth's clip, eight times as large, at its exact timing

  kivel preview night.kivel.json -o night.html
      one page that plays every clip in a browser: scrub, zoom, onion skin, maps, two clips side by side

  kivel preview spore/ -o spore-contact.png
      every frame in order, numbered, with its hold

  kivel preview moth.kivel.json -o moth-timing.png --view timing
      every clip's steps to scale, with events, cycles and pace

  kivel preview props.kivel.json -o props-layout.png --view layout
      the packed page: boxes, numbers, outlines, free space and the share used
""",
    "play": """\
examples:
  kivel play moth.kivel.json
      the moth as its manifest says; space stops it, arrows go from step to step

  kivel play "vane/vane_#.png" --fps 24 --speed 1/2
      a folder's frames, at half their speed
""",
    "build": """\
examples:
  kivel build
      make all that kivel.toml says, as far as it changed since it was made

  kivel build burst --why burst
      what changed, or that nothing did

  kivel build "lantern*" --dry-run
      what would be made of the things by these names
""",
}
