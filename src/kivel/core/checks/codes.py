"""What a check may say: every code, how it is measured, and why it matters."""

from __future__ import annotations

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple

__all__ = ["CODES", "Code", "explained"]


class Code(NamedTuple):
    """What a code stands for: in a line, how it is measured, from what figure on it is said, and why it matters.

    One that is `asked` is looked for only where it is named: it costs much, or is wrong too often.
    """

    about: str
    measure: str
    threshold: str
    why: str
    asked: bool = False


CODES: dict[str, Code] = {
    "manifest": Code(
        "the manifest says what cannot be",
        "it is read and checked as every command does",
        "error",
        "frames outside pages, steps of frames that are not there, a clip that goes on to nowhere: an "
        "engine would crash or guess",
    ),
    "page-missing": Code(
        "a page's file is not there",
        "its path",
        "error",
        "nothing would show",
    ),
    "page-unreadable": Code(
        "a page's file cannot be read",
        "it is decoded whole",
        "error",
        "nothing would show",
    ),
    "page-size": Code(
        "a page has another size than its manifest says",
        "pixels",
        "error",
        "every frame would be cut elsewhere",
    ),
    "page-edited": Code(
        "a page was changed since its manifest was written",
        "the digest of its pixels",
        "warning",
        "trimmed boxes, outlines and shared frames may no longer be true",
    ),
    "cell-bleed": Code(
        "neighbours show at a frame's edge",
        "the largest alpha, of 255, that bilinear sampling inside the frame's rectangle takes from "
        "outside it, at each mip (box filter, premultiplied)",
        "note above 2, warning above 16; error where the sheet was made to be safe to a mip and it is above 2"
        " half a texel inside",
        "seams flicker at a distance or when the picture is scaled",
    ),
    "fringe": Code(
        "edges would be dark or coloured",
        "at 2x2 places that mix transparent and visible pixels, how far straight filtering is from the "
        "same with the visible colour spread outward; 90th percentile of 255",
        "note above 8, warning above 16",
        "engines filter straight colours: what hides under transparent pixels comes through at the edges",
    ),
    "hidden-color": Code(
        "a picture lies under transparent pixels",
        "different colours at least 4 pixels away from anything visible",
        "note from 64 colours on",
        "it costs bytes, and shows where alpha is dropped",
    ),
    "sides-of-four": Code(
        "a side is no multiple of 4",
        "pixels",
        "note",
        "block compression pads or refuses such textures",
    ),
    "memory": Code(
        "a page takes more memory than the budget",
        "4 bytes a pixel",
        "warning above the budget that is given",
        "it would not fit",
    ),
    "waste": Code(
        "much of a page is empty",
        "the share of the page that no frame uses",
        "note above half",
        "memory for nothing",
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
        "frames have several sizes",
        "pixels",
        "warning where most frames have one size",
        "they would not lie on each other",
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
        "a step may as well be held longer",
    ),
    "near-repeat": Code(
        "neighbours differ by noise alone",
        "their largest difference, of 255",
        "note from 1 to 2",
        "a render that should be held",
    ),
    "first-is-last": Code(
        "the last frame is the first again",
        "digests",
        "note",
        "it shows twice where the loop meets",
    ),
    "mirrored-half": Code(
        "the second half is the first backwards",
        "likeness of pairs",
        "note",
        "play half of it to and fro",
    ),
    "loop-pops": Code(
        "the loop jumps where it meets",
        "as `kivel loop` judges it",
        "note",
        "seen each time round",
    ),
    "cut": Code(
        "the picture is cut off at a border",
        "a straight run along the border that goes on inward",
        "note",
        "the camera or the canvas was too small",
    ),
    "hardly-visible": Code(
        "a frame shows next to nothing",
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
        "colours look multiplied by alpha",
        "colour above alpha in partly transparent pixels, and likeness to opaque neighbours",
        "note",
        "drawn as straight they get dark edges",
    ),
    "flicker": Code(
        "brightness jumps for single frames",
        "a frame's ratio to the mean of its neighbours",
        "note above 2 % and far above what is usual",
        "renders with unsteady exposure",
    ),
    "frame-shifted": Code(
        "a single frame lies beside its neighbours",
        "at which shifts it agrees best with both, against steady motion from one to the other",
        "note: off by 1 to 3 pixels, and a twentieth better than any steady motion",
        "it jumps for a moment; where all moves much it cannot be told, and a jump may be meant",
        asked=True,
    ),
    "tile-seam": Code(
        "the sides of a tile do not meet",
        f"as `kivel loop` judges it, of frames that are tiles: under {option('sides', True)}, or with a skirt from the "
        "opposite edge",
        "note above 1.1 of its own larger steps, warning above 1.5",
        "its borders show where it is repeated",
    ),
    "map-coverage": Code(
        "a map covers other pixels than the colour",
        "the share of the map's visible pixels that lie on visible colour",
        "warning below 0.8",
        "it belongs to other frames, or was trimmed by itself",
    ),
    "map-shifted": Code(
        "a map lies beside its colour",
        "the boxes of what is visible, of one size and at other places",
        "warning where it is so in most frames",
        "light and shape do not lie on each other",
    ),
    "map-late": Code(
        "a map is frames late or early",
        "correlation of what changes where, at each lag",
        "warning: a lag 0.05 better than none",
        "light and shape run apart",
    ),
    "normal-length": Code(
        "normals are not of unit length",
        "median and 90th percentile of |length - 1|",
        "note above 0.1 / 0.15, warning above 0.15",
        "saved as sRGB, or scaled without care",
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
        "light where nothing is",
        "emission on transparent pixels, of all that shines",
        "note above a tenth",
        "it shows only by itself",
    ),
    "motion-unserved": Code(
        "a clip is to be warped, and some of its changes have no motion",
        "the pairs of frames that vectors lead between, against the steps as they play",
        "error",
        "a player would fade there, or warp by vectors of other frames",
    ),
    "motion-unused": Code(
        "no clip is warped by the map of motion",
        "the clips' interpolation",
        "note",
        "memory for nothing",
    ),
    "motion-cut-off": Code(
        "vectors are as long as their map can say",
        "the share of them at the end of their reach",
        "warning above 1 %",
        "things would move less far than they do",
    ),
    "motion-worse": Code(
        "warping is worse than fading",
        "what is left of the difference of two frames that are warped to meet half way, the worst pair",
        "warning above 102 %",
        "the map belongs to other frames, or these were repainted",
    ),
    "step-unseen": Code(
        "a step is never seen",
        "a cycle as a game of 30, 60 or 120 frames a second shows it, from every start",
        "note",
        "it is shorter than a rendered frame",
    ),
    "steps-uneven": Code(
        "steps that last alike show unevenly",
        "rendered frames for each step, over a cycle",
        "note at 30 and 60",
        "it judders",
    ),
    "turn-doubled": Code(
        "an end shows twice at the turn",
        "the steps of a cycle as they play",
        "note",
        "the motion stands still there",
    ),
    "off-clock": Code(
        "holds are no whole ticks of the target",
        "the target's clock, where it is given",
        "note",
        "they will be rounded",
    ),
    "event-unseen": Code(
        "an event is on a step that never shows",
        "the steps of a cycle, from its phase on",
        "warning",
        "it never happens",
    ),
    "phase-repeated": Code(
        "clips of a group play in step",
        "steps, holds and phases",
        "note",
        "they were meant to differ",
    ),
    "file-missing": Code(
        "a file of the pack is not there",
        "the profile's ledger, or what the manifests make",
        "error",
        "the game finds nothing",
    ),
    "file-misnamed": Code(
        "a file has nearly the name of one that is missing",
        "names but for case, ending and spaces",
        "error",
        "it is ignored without a word",
    ),
    "file-stale": Code(
        "a file is not what its manifest makes now",
        "its bytes",
        "warning",
        "old timing with new pictures",
    ),
    "file-edited": Code(
        "a file was changed since Kivel wrote it",
        "its digest",
        "note",
        "the next export leaves it, or refuses",
    ),
    "text-encoding": Code(
        "a text file has a byte-order mark, or was saved by a word processor",
        "its first bytes",
        "warning",
        "many readers take a byte-order mark for a letter, and none reads a word processor's file",
    ),
    "schema": Code(
        "a file is not as the profile's schema says",
        "JSON Schema",
        "error",
        "the game refuses it",
    ),
    "lone-map": Code(
        "a map has no colour beside it",
        "names and suffixes",
        "warning",
        "it is never loaded",
    ),
    "case-clash": Code(
        "names differ by case alone",
        "names",
        "error",
        "on other systems they are one file",
    ),
    "orphan": Code(
        "nothing makes this file",
        "the ledger and the manifests",
        "note",
        "left over, or somebody's own",
    ),
    "plays-otherwise": Code(
        "the sheet shows something else than its source",
        "every step, pixel by pixel, at its exact time",
        "error",
        "it was what the check was for",
    ),
}
"""Every code, in the order of a report."""


def explained(name: str) -> str:
    """A code in a paragraph."""
    code = CODES[name]
    asked = f"\nasked:    only where it is named: kivel check SRC {option('only', name)}" if code.asked else ""
    return f"{name}: {code.about}\nmeasured: {code.measure}\nsaid:     {code.threshold}\nwhy:      {code.why}{asked}"
