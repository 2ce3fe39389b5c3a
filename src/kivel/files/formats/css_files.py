"""CSS that plays a clip: a class whose background steps from frame to frame at its exact times; and SVG of that."""

from __future__ import annotations

import base64
import re
from functools import partial
from urllib.parse import quote

from kivel.core.exporting.keyframes import Keyframe, Keyframes
from kivel.core.exporting.playback_table import PlaybackTable, TableFrame, TablePage
from kivel.core.pixels.pixels import Size
from kivel.files.own_digest import BLANK_DIGEST

__all__ = ["css_text", "html_text", "svg_text"]

_TURNING = ('  content: "";', "  position: absolute;", "  left: 0;", "  top: 0;", "  transform-origin: 0 0;")


def css_text(table: PlaybackTable, clip: str, keyframes: Keyframes, *, crisp: bool) -> str:
    """A class named after the sheet and the clip, and its keyframes; all frames are on one page."""
    file = quote(_page(table, keyframes).files[table.shown.name], safe="/")
    return "\n".join(_rules(table, clip, keyframes, file, crisp=crisp)) + "\n"


def html_text(table: PlaybackTable, clip: str, keyframes: Keyframes, *, crisp: bool) -> str:
    """A fragment of a page: the rules, and the box that plays."""
    rules = css_text(table, clip, keyframes, crisp=crisp)
    return f'<style>\n{rules}</style>\n<div class="{_name(table, clip)}"></div>\n'


def svg_text(table: PlaybackTable, clip: str, keyframes: Keyframes, page_png: bytes, *, crisp: bool) -> str:
    """A picture that plays by itself, its page in it: for whatever shows SVG as browsers do."""
    canvas = _canvas(table, keyframes)
    image = f"data:image/png;base64,{base64.b64encode(page_png).decode()}"
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{canvas.w}" height="{canvas.h}" '
        f'viewBox="0 0 {canvas.w} {canvas.h}">',
        "<style>",
        *_rules(table, clip, keyframes, image, crisp=crisp),
        "</style>",
        f'<foreignObject width="{canvas.w}" height="{canvas.h}">',
        f'<div xmlns="http://www.w3.org/1999/xhtml" class="{_name(table, clip)}"></div>',
        "</foreignObject>",
        "</svg>",
    ]
    return "\n".join(lines) + "\n"


def _rules(table: PlaybackTable, clip: str, keyframes: Keyframes, file: str, *, crisp: bool) -> list[str]:
    name, canvas, page = _name(table, clip), _canvas(table, keyframes), _page(table, keyframes)
    trims = any(frame.rect.size != canvas for frame in _frames(table, keyframes))
    hides = any(one.frame is None for one in keyframes.keyframes)
    turns = any(frame.turn or frame.flip for frame in _frames(table, keyframes))
    shown = partial(_shown_turned if turns else _shown, table, canvas=canvas, trims=trims, hides=hides)
    times = "infinite" if keyframes.repeat == "forever" else str(keyframes.repeat)
    return [
        f"/* digest: {BLANK_DIGEST} */",
        f".{name} {{",
        f"  width: {canvas.w}px;",
        f"  height: {canvas.h}px;",
        # a picture that turns is larger than its box at times, and must not push away what is beside it
        *(["  position: relative;", "}", f".{name}::before {{", *_TURNING] if turns else []),
        f'  background: url("{file}") 0 0 / {page.size.w}px {page.size.h}px no-repeat;',
        f"  image-rendering: {'pixelated' if crisp else 'auto'};",
        f"  animation: {name} {_number(keyframes)}ms step-end {times} both;",
        "}",
        f"@keyframes {name} {{",
        *(f"  {one.percent} {{ {shown(one)} }}" for one in keyframes.keyframes),
        f"  100% {{ {shown(keyframes.keyframes[-1])} }}",
        "}",
    ]


def _frames(table: PlaybackTable, keyframes: Keyframes) -> list[TableFrame]:
    return [table.frames[one.frame] for one in keyframes.keyframes if one.frame is not None]


def _page(table: PlaybackTable, keyframes: Keyframes) -> TablePage:
    return table.pages[_frames(table, keyframes)[0].page]


def _canvas(table: PlaybackTable, keyframes: Keyframes) -> Size:
    """Return what holds every frame."""
    frames = _frames(table, keyframes)
    return Size(max(frame.canvas.w for frame in frames), max(frame.canvas.h for frame in frames))


def _name(table: PlaybackTable, clip: str) -> str:
    return _identifier(f"{table.name}-{clip}")


def _number(keyframes: Keyframes) -> str:
    whole, rest = divmod(round(keyframes.milliseconds * 10**6), 10**6)
    return f"{whole}{f'.{rest:06}'.rstrip('0') if rest else ''}"


def _shown(table: PlaybackTable, keyframe: Keyframe, canvas: Size, *, trims: bool, hides: bool) -> str:
    """The page moved so that the frame is in the box, and what is around a trimmed one cut off.

    What is set in one keyframe is set in all: else a browser would look for it in the next that sets it.
    """
    if keyframe.frame is None:
        return "visibility: hidden"
    frame = table.frames[keyframe.frame]
    x, y = frame.offset.x - frame.rect.x, frame.offset.y - frame.rect.y
    right, bottom = canvas.w - frame.offset.x - frame.rect.w, canvas.h - frame.offset.y - frame.rect.h
    sides = " ".join(f"{side}px" for side in (frame.offset.y, right, bottom, frame.offset.x))
    rules = [f"background-position: {x}px {y}px"]
    if trims:
        rules.append(f"clip-path: inset({sides})")
    if hides:
        rules.append("visibility: visible")
    return "; ".join(rules)


def _shown_turned(table: PlaybackTable, keyframe: Keyframe, canvas: Size, *, trims: bool, hides: bool) -> str:  # noqa: ARG001
    """The frame's rectangle of the page by itself, turned and mirrored back, and moved to its place in the box."""
    if keyframe.frame is None:
        return "visibility: hidden"
    frame = table.frames[keyframe.frame]
    stored = frame.rect
    width, height = stored.size[::-1] if frame.turn else stored.size
    # stored (u, v) to upright (x, y): a quarter to the right is undone first, then a mirror (CSS Transforms 1, 12.2)
    a, b, c, d, e, f = (0, -1, 1, 0, 0, height) if frame.turn else (1, 0, 0, 1, 0, 0)
    if "x" in frame.flip:
        a, c, e = -a, -c, width - e
    if "y" in frame.flip:
        b, d, f = -b, -d, height - f
    rules = [
        f"width: {stored.w}px; height: {stored.h}px",
        f"background-position: {-stored.x}px {-stored.y}px",
        f"transform: matrix({a}, {b}, {c}, {d}, {e + frame.offset.x}, {f + frame.offset.y})",
    ]
    return "; ".join([*rules, *(["visibility: visible"] if hides else [])])


def _identifier(name: str) -> str:
    """A name that needs no escapes in CSS."""
    plain = re.sub(r"[^A-Za-z0-9_-]+", "-", name).strip("-") or "clip"
    return plain if plain[0].isalpha() else f"c{plain}"
