"""Describes what the trade calls things, and what Kivel calls them: the one table that guesses, help and `kivel help`
read.
"""

from __future__ import annotations

from kivel.core.named_tuples import NamedTuple

__all__ = ["TRADE", "TradeWord", "plain_word"]


class TradeWord(NamedTuple):
    """Holds what a word of the trade means here, by where it is written.

    `options` are names with a value, if the word is one: `direction alternate`; the first that a command has is meant.
    `values` are words that an option takes. `step` is one of prep, `command` a command with what it needs. `said` is a
    sentence on it.
    """

    options: tuple[str, ...] = ()
    values: tuple[str, ...] = ()
    step: str = ""
    command: str = ""
    said: str = ""


_PING_PONG = TradeWord(("direction alternate",), ("alternate",), said="A clip that plays to the end and back.")
_SKIRT = TradeWord(("skirt",), step="pad", said="Repeat the edge pixels of each frame, against bleeding.")
_HOLD = TradeWord(("hold", "length"), command="retime", said="How long each frame shows: 80ms, or 2 for two ticks.")
_FOREVER = TradeWord(("repeat forever",), ("forever",), said="A clip that plays for ever.")
_FOLD = TradeWord(("fold",), said="Store duplicates merged; an atlas does so by itself.")
_COLORS = TradeWord(("colors",), said="One palette of at most N colours for all frames.")
_SEE = TradeWord(command="preview SRC -o look.html", said="The viewer page shows it: scrub, zoom, onion skin, speed.")
_CLIPS = TradeWord(("make-clip", "row-clips", "clip"), said="A named animation of a sheet: steps, holds, direction.")
_RATE = TradeWord(("fps",), command="retime", said="Frames a second: 12, or 24000/1001.")
_FIT = TradeWord(("scale-to-cell", "fit-page", "scale"), step="fit 64x64", said="Resize frames.")
_PIVOT = TradeWord(("pivot",), step="anchor", said="The anchor point of frames.")
_KEY = TradeWord(("key", "backdrop"), step="matte", said="The background colour to make transparent.")
_LAST = TradeWord(("end last",), ("last",), said="After a clip has ended its last frame stays.")
_SIZE = TradeWord(("fit-page", "page-limit", "cell"), said="The size of a page, or of a cell.")
_THIN = TradeWord(("count",), command="resample SRC -o DIR --count N", said="Fewer or more frames of one motion.")
_CENTER = TradeWord(("align center",), ("center",), step="anchor", said="The middle of a frame.")
_SMOOTH, _NEAREST = TradeWord(values=("smooth", "linear")), TradeWord(values=("nearest",))
_CUT = TradeWord(command="slice", said="Take a sheet apart into frames.")
_LOOK = TradeWord(command="inspect", said="Show what is there, and what is odd about it.")
_PROVE = TradeWord(command="check", said="Find what would go wrong in the engine.")
_SHOW = TradeWord(command="preview", said="Look at it: an animated image, a contact sheet, a page in the browser.")

_TABLE: tuple[tuple[str, TradeWord], ...] = (
    ("padding pad", TradeWord(("gap", "margin", "skirt"), step="pad", said="Space between and around cells.")),
    ("spacing space gutter", TradeWord(("gap",), said="Pixels between cells.")),
    ("border inset", TradeWord(("margin", "gap"), step="pad", said="Pixels around all cells.")),
    ("extrude extrusion bleed-edge edge-padding", _SKIRT),
    ("rotate rotation allow-rotation rotated", TradeWord(("turn",), step="turn 90", said="Turn frames by 90 degrees.")),
    ("ping-pong pingpong yoyo yo-yo bounce boomerang back-and-forth", _PING_PONG),
    ("backwards backward reversed reverse", TradeWord(("direction reverse",), ("reverse",), step="reverse")),
    ("forward forwards", TradeWord(("direction normal",), ("normal",))),
    ("loop loops looping looped loop-count loops-count iterations times play-count", TradeWord(
        ("repeat",), ("forever",), command="loop", said="How often a clip plays.")),
    ("once one-time play-once no-loop noloop", TradeWord(("repeat 1",), ("1",), said="A clip that plays once.")),
    ("infinite infinity endless -1 always", _FOREVER),
    ("duration delay interval frame-duration frame-time frametime delays durations ms", _HOLD),
    ("framerate frame-rate rate frames-per-second", _RATE),
    ("cols column", TradeWord(("columns",), said="How many cells are in a row of the sheet.")),
    ("row", TradeWord(("rows",))),
    ("grid", TradeWord(("columns", "rows", "grid"), command="sheet", said="Cells in rows and columns.")),
    ("palette quantize quantise colours colour indexed pal", _COLORS),
    ("dedupe deduplicate duplicates duplicate unique identical", _FOLD),
    ("anchor hotspot registration", _PIVOT),
    ("origin", TradeWord(("pivot", "at"), step="anchor", said="The anchor point of frames.")),
    ("trim", TradeWord(step="trim", said="Cut transparent borders off.")),
    ("crop", TradeWord(step="crop 32x32", said="Keep a part of each frame.")),
    ("matte", TradeWord(("key",), step="matte", said="Cut frames out of their background.")),
    ("premultiply premultiplied premult", TradeWord(step="premultiply", said="Colour times alpha.")),
    ("straight-alpha unpremultiplied", TradeWord(step="unpremultiply", said="Colour divided by alpha.")),
    ("scale resize rescale upscale downscale ratio percent factor", _FIT),
    ("opacity", TradeWord(("opacity",), step="opacity 50%")),
    ("flip mirror", TradeWord(step="flip x", said="Mirror frames.")),
    ("fringe defringe bleed alpha-bleed", TradeWord(step="bleed", said="Colour under transparent pixels.")),
    ("count thin decimate skip-frames subsample", _THIN),
    ("onion onion-skin onionskin zoom scrub", _SEE),
    ("output outfile dest destination output-dir", TradeWord(("out",))),
    ("name filename basename prefix", TradeWord(("names", "out"), said="Files are called after the output.")),
    ("format type filetype ext extension", TradeWord(("out",), said="The suffix of the output chooses the format.")),
    ("data json metadata sidecar meta", TradeWord(
        command="export NAME.kivel.json -o OUT.json", said="A manifest is always written beside a sheet.")),
    ("overwrite clobber yes replace-existing", TradeWord(("force",), said="Overwrite files that Kivel did not write.")),
    ("threads workers cores parallel cpus processes", TradeWord(("jobs",), said="Number of jobs in parallel.")),
    ("silent no-output", TradeWord(("quiet",), said="Print errors only.")),
    ("recursive recurse subfolders subdirectories", TradeWord(
        command="atlas FOLDER -o OUT.png", said="An atlas takes sub-folders too.")),
    ("sort order-by sequence-order", TradeWord(("order",), said="Frames come in number order.")),
    ("frames frame-list frame-numbers", TradeWord(("order", "range"), said="Which frames show, in order.")),
    ("no-rotate no-rotation", TradeWord(("turn",), said="Frames are rotated only if you allow it.")),
    ("stroke outline-color border-color", TradeWord(step="outline #000000", said="A line around what frames show.")),
    ("drop-shadow dropshadow", TradeWord(step="shadow 1,1", said="A hard shadow below what frames show.")),
    ("palette-swap color-swap recolour swap-colors replace-color", TradeWord(
        step="recolor #8a2b2b=#2b5d8a", said="Replace exact colours by others.")),
    ("polygon mesh hull collision tight", TradeWord(("outline",), said="A polygon around each frame.")),
    ("heuristic method algorithm packing", TradeWord(("effort",), said="How hard packing tries.")),
    ("filter sampling resampling", TradeWord(("filter", "scale-to-cell"), said="Nearest for pixel art, or smooth.")),
    ("greyscale grayscale desaturate tint colorize colourise", TradeWord(
        step='ramp #000000 #ffffff', said="Colour by brightness.")),
    ("rename", TradeWord(
        ("rename", "names"), command="retime NAME.kivel.json --clip OLD --rename NEW", said="Rename a clip.")),
    ("combine concat concatenate append join-sheets", TradeWord(
        command="sheet A/ B/ -o OUT.png", said="Several sequences on one sheet.")),
    ("compress", TradeWord(("compress",), command="sheet SRC -o OUT.png --compress least")),
    ("power-of-two pot force-pot power2", TradeWord(("pow2",), said="Sides that are powers of two.")),
    ("max-size maxsize max-width max-height", TradeWord(("page-limit", "fit-page"), said="The largest page.")),
    ("size width height resolution", _SIZE),
    ("tilesize tile-size tile cellsize cell-size frame-size framesize sprite-size", TradeWord(
        ("cell",), said="The size of a cell.")),
    ("bleeding neighbours bleeding-edge", TradeWord(
        ("mip-safe", "skirt", "gap"), command="check", said="Neighbouring cells show at the edges.")),
    ("waves wave wobble ripples ripple noise turbulence displace displacement warble heat-haze", TradeWord(
        step="distort by=waves strength=4", command='scroll "TILE.png by=waves strength=4"',
        said="Move pixels by waves, ripples, noise or turbulence, or by a picture.")),
    ("channel-packing pack-channels pack-textures rgba-packing swizzle split-channels", TradeWord(
        command="channels --red A --green B -o DIR", said="One sequence with each channel from another.")),
    ("tiling tileable seamless", TradeWord(
        ("sides",), command="loop TILE.png", said="Check whether the sides of a tile meet.")),
    ("tags tag animations animation anims anim clips", _CLIPS),
    ("quality optimize optimise compression level", TradeWord(("compress",), said="PNG: fast, small or least.")),
    ("speedup time-scale timescale playback-speed", TradeWord(("speed",))),
    ("ease easing curve", TradeWord(("pace",), said="How steps share the time: ease-in, cubic-bezier(...).")),
    ("crossfade cross-fade fade blend tween interpolate", TradeWord(
        ("interpolation linear", "close", "mix"), ("linear",), said="Blend from frame to frame.")),
    ("background bg bgcolor transparent transparency color-key colorkey chroma-key", _KEY),
    ("normalmap normal-map normals emissive", TradeWord(("map",), said="Companion maps in the same layout.")),
    ("start end-frame first-frame last-frame from to frame-range", TradeWord(("range",), said="Which numbers count.")),
    ("offset start-offset", TradeWord(("at", "phase"), step="shift")),
    ("markers marker triggers", TradeWord(("event",), said="Something that happens when a step begins to show.")),
    ("hold-last freeze clamp", _LAST),
    ("stop", TradeWord(values=("last",))),
    ("centre middle", _CENTER),
    ("feet ground floor foot", TradeWord(("pivot bottom",), ("bottom",), step="anchor bottom")),
    ("bilinear bicubic lanczos filtered", _SMOOTH),
    ("point pixelated pixel-art nearest-neighbor nearest-neighbour", _NEAREST),
    ("horizontal", TradeWord(("layout row",), ("row", "across", "x"))),
    ("vertical", TradeWord(("layout column",), ("column", "down", "y"))),
    ("strip", TradeWord(("layout row",), ("row",), command="sheet SRC -o OUT.png --layout row")),
    ("pack packer texture-atlas spritesheet sprite-sheet montage", TradeWord(
        command="sheet", said="Frames in equal cells are a sheet, frames of any size packed tight an atlas.")),
    ("unpack split cut extract explode", _CUT),
    ("info show ls list stat stats identify", _LOOK),
    ("validate lint verify test", _PROVE),
    ("init new", TradeWord(command="build --init", said="Write a first recipe of what is there.")),
    ("convert", TradeWord(command="preview SRC -o OUT.gif", said="The suffix of the output chooses its form.")),
    ("gif animate render apng webp video", TradeWord(command="preview SRC -o OUT.gif")),
    ("view open viewer", _SHOW),
    ("watch", TradeWord(("watch",), command="build --watch")),
    ("make run", TradeWord(command="build")),
    ("time timing", TradeWord(command="retime", said="Change how clips of a manifest play.")),
    ("compose composite merge-layers stack", TradeWord(command="layer", said="Lay sequences over each other.")),
    ("import", TradeWord(command="adopt", said="Describe an existing sheet in a manifest.")),
    ("redo rerun update refresh", TradeWord(command="again", said="Do once more what made a sheet.")),
)  # fmt: skip
TRADE = {word: meaning for words, meaning in _TABLE for word in words.split()}
"""By the word, in small letters with hyphens."""


def plain_word(word: str) -> str:
    """Return a word as the table has it: `--Frame_Rate` is `frame-rate`."""
    plain = word.strip().lower().replace("_", "-").replace(" ", "-")
    return plain if plain == "-1" else plain.lstrip("-")
