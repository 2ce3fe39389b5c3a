"""CSS that plays a clip: a class whose background steps from frame to frame, at its exact times."""

from __future__ import annotations

import re
from urllib.parse import quote

from kivel.core.exporting.keyframes import Keyframe, Keyframes
from kivel.core.exporting.playback_table import PlaybackTable
from kivel.core.pixels import Size
from kivel.files.manifest.names import COLOR

__all__ = ["css_text"]


def css_text(table: PlaybackTable, clip: str, keyframes: Keyframes) -> str:
    """A class named after the sheet and the clip, and its keyframes. All frames are on page `keyframes` names."""
    frames = [table.frames[one.frame] for one in keyframes.keyframes if one.frame is not None]
    page = table.pages[frames[0].page] if frames else table.pages[0]
    canvas = Size(max(frame.canvas.w for frame in frames), max(frame.canvas.h for frame in frames))
    name = _identifier(f"{table.name}-{clip}")
    times = "infinite" if keyframes.repeat == "forever" else str(keyframes.repeat)
    file = quote(page.files[COLOR], safe="/")
    lines = [
        f".{name} {{",
        f"  width: {canvas.w}px;",
        f"  height: {canvas.h}px;",
        f'  background: url("{file}") 0 0 / {page.size.w}px {page.size.h}px no-repeat;',
        "  image-rendering: pixelated;",
        f"  animation: {name} {_number(keyframes)}ms step-end {times} both;",
        "}",
        f"@keyframes {name} {{",
        *(f"  {one.percent} {{ {_shown(table, one, canvas)} }}" for one in keyframes.keyframes),
        f"  100% {{ {_shown(table, keyframes.keyframes[-1], canvas)} }}",
        "}",
    ]
    return "\n".join(lines) + "\n"


def _number(keyframes: Keyframes) -> str:
    whole, rest = divmod(round(keyframes.milliseconds * 10**6), 10**6)
    return f"{whole}{f'.{rest:06}'.rstrip('0') if rest else ''}"


def _shown(table: PlaybackTable, keyframe: Keyframe, canvas: Size) -> str:
    """The page moved so that the frame is in the box, and what is around a trimmed one cut off."""
    if keyframe.frame is None:
        return "visibility: hidden"
    frame = table.frames[keyframe.frame]
    x, y = frame.offset.x - frame.rect.x, frame.offset.y - frame.rect.y
    right, bottom = canvas.w - frame.offset.x - frame.rect.w, canvas.h - frame.offset.y - frame.rect.h
    sides = " ".join(f"{side}px" for side in (frame.offset.y, right, bottom, frame.offset.x))
    return f"background-position: {x}px {y}px; clip-path: inset({sides}); visibility: visible"


def _identifier(name: str) -> str:
    """A name that needs no escapes in CSS."""
    plain = re.sub(r"[^A-Za-z0-9_-]+", "-", name).strip("-") or "clip"
    return plain if plain[0].isalpha() else f"c{plain}"
