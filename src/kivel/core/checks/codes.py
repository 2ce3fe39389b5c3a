"""Describes what a check may say: every code, how it is measured, and why it matters."""

from __future__ import annotations

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple

__all__ = ["CODES", "Code", "explained"]


class Code(NamedTuple):
    """Holds what a code means: in a line, how it is measured, from what figure on it is reported, and why it matters.

    One that is `asked` is looked for only where it is named: it costs much, or is wrong too often.
    """

    about: str
    measure: str
    threshold: str
    why: str
    asked: bool = False


CODES: dict[str, Code] = {
    "manifest": Code(
        "the manifest contradicts itself",
        "the checks of every command that reads it",
        "error",
        "frames outside pages, steps with missing frames, a clip that leads nowhere: an engine would crash or guess",
    ),
    "page-missing": Code(
        "an image of a page is missing",
        "its path",
        "error",
        "nothing would show",
    ),
    "page-unreadable": Code(
        "a page's file cannot be read",
        "decoding the whole image",
        "error",
        "nothing would show",
    ),
    "page-size": Code(
        "an image does not have the size that the manifest states",
        "pixels",
        "error",
        "every frame would be cut at the wrong place",
    ),
    "page-edited": Code(
        "a page was changed since its manifest was written",
        "the digest of its pixels",
        "warning",
        "trimmed boxes, outlines and shared frames may no longer match",
    ),
    "page-not-divided": Code(
        "columns and rows do not divide a page evenly, and a profile uses them",
        "page size against columns x cell and rows x cell, gaps and margins",
        "warning",
        "an engine that knows only columns and rows divides the page by them, and cells are shifted",
    ),
    "fade-differs": Code(
        "frames were cross-faded in another way than the target of a profile fades",
        "how the manifest says that frames were faded, against fade of the profile",
        "warning",
        "frames between others are lighter or darker than what the target shows around them",
    ),
    "cell-bleed": Code(
        "neighbouring cells bleed into a frame",
        "the largest alpha, of 255, that bilinear sampling inside the frame's rectangle takes from "
        "outside it, at each mip (box filter, premultiplied)",
        "note above 2, warning above 16; error if the sheet was made safe for that mip and it is above 2"
        " half a texel inside",
        "seams flicker at a distance or when the picture is scaled",
    ),
    "fringe": Code(
        "edges get a dark or coloured fringe",
        "at 2x2 places that mix transparent and visible pixels, how far straight filtering is from the "
        "same with the visible colour spread outward; 90th percentile of 255",
        "note above 8, warning above 16",
        "engines filter straight colour: colour under transparent pixels shows at the edges",
    ),
    "hidden-color": Code(
        "there is a picture under transparent pixels",
        "different colours at least 4 pixels away from anything visible",
        "note from 64 colours on",
        "it costs bytes, and shows if alpha is dropped",
    ),
    "sides-of-four": Code(
        "width or height is not a multiple of 4",
        "pixels",
        "note",
        "block compression pads or refuses such textures",
    ),
    "memory": Code(
        "a page takes more memory than the budget",
        "4 bytes a pixel",
        "warning above the budget",
        "it would not fit",
    ),
    "waste": Code(
        "much of a page is empty",
        "the share of the page that no frame uses",
        "note above half",
        "wasted memory",
    ),
    "texture-precision": Code(
        "32-bit texture coordinates are off by more than a 512th of a texel",
        "side x 2^-25",
        "note",
        "edges may flicker",
    ),
    "number-gap": Code(
        "numbers are missing",
        "the numbers in the files' names",
        "warning",
        "the motion jumps",
    ),
    "odd-size": Code(
        "frames have different sizes",
        "pixels",
        "warning if most frames have one size",
        "they would not line up",
    ),
    "mixed-depth": Code(
        "frames differ in depth, or only some have alpha",
        "bits and channels",
        "note",
        "some may have lost their alpha or depth",
    ),
    "twins": Code(
        "frames are identical",
        "digests of their pixels",
        "note",
        "one longer hold does the same",
    ),
    "near-repeat": Code(
        "neighbouring frames differ only by noise",
        "their largest difference, of 255",
        "note from 1 to 2",
        "one frame held longer does the same",
    ),
    "first-is-last": Code(
        "the last frame repeats the first",
        "digests",
        "note",
        "it shows twice at the loop",
    ),
    "mirrored-half": Code(
        "the second half is the first half backwards",
        "likeness of pairs",
        "note",
        "play the first half as ping-pong",
    ),
    "loop-pops": Code(
        "the loop jumps at the seam",
        "as `kivel loop` judges it",
        "note",
        "visible in every cycle",
    ),
    "cut": Code(
        "the picture is cut off at a border",
        "a straight edge along the border",
        "note",
        "the camera or the canvas was too small",
    ),
    "hardly-visible": Code(
        "a frame is almost invisible",
        "its strongest alpha, of 255",
        "note below 16",
        "an empty step",
    ),
    "faint-edges": Code(
        "nearly invisible pixels make frames larger",
        "the box with and without alpha 1 to 7",
        "note above a quarter more",
        "waste",
    ),
    "premultiplied": Code(
        "colours look premultiplied",
        "colour above alpha in partly transparent pixels, and likeness to opaque neighbours",
        "note",
        "shown as straight alpha, they get dark edges",
    ),
    "flicker": Code(
        "brightness jumps for single frames",
        "a frame's ratio to the mean of its neighbours",
        "note above 2 % and far above the usual change",
        "renders with unsteady exposure",
    ),
    "frame-shifted": Code(
        "a single frame is shifted against its neighbours",
        "the shift at which it agrees best with both, compared with steady motion between them",
        "note: off by 1 to 3 pixels, and a twentieth better than any steady motion",
        "it jumps for a moment; with much motion this cannot be judged, and a jump may be intended",
        asked=True,
    ),
    "tile-seam": Code(
        "the sides of a tile do not meet",
        f"as `kivel loop` judges it, for tiles: with {option('sides', True)}, or with a skirt from the opposite edge",
        "note above 1.1 times its own larger changes, warning above 1.5",
        "its borders show where it is repeated",
    ),
    "map-coverage": Code(
        "a map does not cover the same pixels as the colour",
        "the share of the map's visible pixels that lie on visible colour",
        "warning below 0.8",
        "it belongs to other frames, or was trimmed on its own",
    ),
    "map-shifted": Code(
        "a map is shifted against its colour",
        "the boxes of visible pixels have one size but different places",
        "warning if this is so in most frames",
        "light and shape do not line up",
    ),
    "map-late": Code(
        "a map is frames late or early",
        "correlation of changes, at each lag",
        "warning: a lag 0.05 better than none",
        "light and shape are out of sync",
    ),
    "normal-length": Code(
        "normals are not of unit length",
        "median and 90th percentile of |length - 1|",
        "note above 0.1 / 0.15, warning above 0.15",
        "saved as sRGB, or scaled as colour",
    ),
    "normal-inward": Code(
        "normals point into the surface",
        "the share whose z is below 0",
        "warning above 1 %",
        "they would be lit from behind",
    ),
    "normal-axis": Code(
        "an axis of the normals is flipped",
        "correlation of dp/dy with dq/dx",
        "note at -0.1, warning at -0.2",
        "lit from below, or from the wrong side",
    ),
    "emission-unseen": Code(
        "light where the colour is transparent",
        "share of the emission that is on transparent pixels",
        "note above a tenth",
        "it shows without the object",
    ),
    "motion-unserved": Code(
        "a clip uses motion, but some of its changes have no vectors",
        "the pairs of frames in the motion map, compared with the steps that play",
        "error",
        "a player would cross-fade there, or warp with the wrong vectors",
    ),
    "motion-unused": Code(
        "no clip uses the motion map",
        "the clips' interpolation",
        "note",
        "wasted memory",
    ),
    "motion-cut-off": Code(
        "vectors reach the limit of their map",
        "the share of vectors at the limit",
        "warning above 1 %",
        "things would not move far enough",
    ),
    "motion-worse": Code(
        "warping is worse than cross-fading",
        "the difference that remains when two frames are warped to meet half way, for the worst pair",
        "warning above 102 %",
        "the map belongs to other frames, or these were repainted",
    ),
    "step-unseen": Code(
        "a step is never seen",
        "one cycle in a game at 30, 60 or 120 frames a second, from every start",
        "note",
        "it is shorter than a rendered frame",
    ),
    "steps-uneven": Code(
        "equal holds show for unequal times",
        "rendered frames for each step, over a cycle",
        "note at 30 and 60",
        "it judders",
    ),
    "turn-doubled": Code(
        "an end frame shows twice at the turn",
        "the steps of a cycle as they play",
        "note",
        "the motion stops there",
    ),
    "off-clock": Code(
        "holds are not whole ticks of the target's clock",
        "the target's clock, if given",
        "note",
        "they will be rounded",
    ),
    "event-unseen": Code(
        "an event is on a step that never shows",
        "the steps of a cycle, from its phase on",
        "warning",
        "it never fires",
    ),
    "phase-repeated": Code(
        "clips of a group play in sync",
        "steps, holds and phases",
        "note",
        "they were meant to differ",
    ),
    "file-missing": Code(
        "a file of the pack is missing",
        "the profile's ledger, or the files that the manifests make",
        "error",
        "the game does not find it",
    ),
    "file-misnamed": Code(
        "a file has almost the name of a missing file",
        "names without case, ending and spaces",
        "error",
        "it is ignored silently",
    ),
    "file-stale": Code(
        "a file is older than its manifest",
        "its bytes",
        "warning",
        "old timing with new pictures",
    ),
    "file-edited": Code(
        "a file was changed since Kivel wrote it",
        "its digest",
        "note",
        "the next export keeps it, or stops",
    ),
    "text-encoding": Code(
        "a text file has a byte-order mark, or was saved by a word processor",
        "its first bytes",
        "warning",
        "many readers take a byte-order mark for a letter, and none reads a word processor's file",
    ),
    "schema": Code(
        "a file does not match the profile's schema",
        "JSON Schema",
        "error",
        "the game refuses it",
    ),
    "lone-map": Code(
        "a map has no colour image",
        "names and suffixes",
        "warning",
        "it is never loaded",
    ),
    "case-clash": Code(
        "names differ only in case",
        "names",
        "error",
        "on other systems they are one file",
    ),
    "orphan": Code(
        "no manifest makes this file",
        "the ledger and the manifests",
        "note",
        "left over, or somebody's own file",
    ),
    "plays-otherwise": Code(
        "the sheet does not show what its source shows",
        "every step, pixel by pixel, at its exact time",
        "error",
        "the proof failed",
    ),
}
"""Every code, in the order of a report."""


def explained(name: str) -> str:
    """A code in a paragraph."""
    code = CODES[name]
    asked = f"\nrun with:  kivel check SRC {option('only', name)}" if code.asked else ""
    return f"{name}: {code.about}\nmeasured: {code.measure}\nreported: {code.threshold}\nwhy:      {code.why}{asked}"
