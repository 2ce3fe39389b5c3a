"""One page that plays clips in a browser: no network, everything in it, each image once."""

from __future__ import annotations

import base64
import hashlib
import json
from collections.abc import Iterator, Sequence
from importlib import resources
from string import Template
from typing import Any, NamedTuple

from kivel.core.playback.clip import Clip
from kivel.core.playback.player import Player
from kivel.files.seals import BLANK_SEAL

__all__ = ["ViewedFrame", "ViewedPage", "viewer_html"]

_SCRIPTS = ("playing.js", "drawing.js", "page.js")


class ViewedPage(NamedTuple):
    """Its size in pixels; by map the number of its image, and into how many parts of a page's side it is divided."""

    size: tuple[int, int]
    maps: dict[str, tuple[int, int]]


class ViewedFrame(NamedTuple):
    """A frame: `rect` on its page, mirrored, then turned by so many degrees; where that lies on its canvas."""

    name: str
    page: int
    rect: tuple[int, int, int, int]
    turn: int
    flip: str
    canvas: tuple[int, int]
    offset: tuple[int, int]
    pivot: tuple[float, float]
    outline: tuple[tuple[float, float], ...] | None = None


def viewer_html(
    name: str,
    pages: Sequence[ViewedPage],
    frames: Sequence[ViewedFrame],
    clips: Sequence[Clip],
    images: Sequence[bytes],
    *,
    contact: bytes,
    timing: bytes,
    reload: str | None = None,
) -> str:
    """The page.

    Parameters
    ----------
    images : sequence of bytes
        PNG files, by the numbers that pages name.
    contact, timing : bytes
        PNG files of a contact sheet and of a timing chart.
    reload : str or None
        An address whose answer changes when the page would be another; it looks there by itself.
    """
    data = {
        "name": name,
        "pages": [_page(page) for page in pages],
        "frames": [_frame(frame) for frame in frames],
        "clips": [_clip(clip) for clip in clips],
        **({"reload": reload} if reload else {}),
    }
    script = "\n".join(_part(one).replace('"use strict";\n', "") for one in _SCRIPTS)
    script = f'"use strict";\n{script}'
    style = _part("viewer.css")
    connect = " connect-src 'self';" if reload else ""
    policy = (
        f"default-src 'none'; script-src {_hash(script)}; style-src {_hash(style)} 'unsafe-hashes'; "
        f"img-src data: blob:;{connect} base-uri 'none'; form-action 'none'"
    )
    return Template(_part("viewer.html")).substitute(
        policy=policy,
        seal=BLANK_SEAL,
        style=style,
        script=script,
        data=_embedded(data),
        images="\n".join(_image_scripts(images)),
        contact=f'<img alt="Every frame" src="{_data_uri(contact)}">',
        timing=f'<img alt="When each clip shows what" src="{_data_uri(timing)}">',
    )


def _part(name: str) -> str:
    return resources.files(__package__).joinpath("viewer", name).read_text(encoding="utf-8")


def _hash(text: str) -> str:
    """What a content-security policy knows a script or a style by."""
    return f"'sha256-{base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()}'"


def _embedded(data: Any) -> str:
    """JSON that cannot end the element that it stands in."""
    text = json.dumps(data, ensure_ascii=True, separators=(",", ":"))
    return text.replace("<", "\\u003c").replace(">", "\\u003e").replace("&", "\\u0026")


def _data_uri(png: bytes) -> str:
    return f"data:image/png;base64,{base64.b64encode(png).decode()}"


def _image_scripts(images: Sequence[bytes]) -> Iterator[str]:
    """Images as text that is not decoded before it is asked for."""
    for number, png in enumerate(images):
        yield f'<script type="text/plain" id="image-{number}">{base64.b64encode(png).decode()}</script>'


def _page(page: ViewedPage) -> dict[str, Any]:
    maps = {name: {"image": image, "parts": parts} for name, (image, parts) in page.maps.items()}
    return {"size": page.size, "maps": maps}


def _frame(frame: ViewedFrame) -> dict[str, Any]:
    return {key: value for key, value in frame._asdict().items() if value is not None}


def _clip(clip: Clip) -> dict[str, Any]:
    """A cycle written out; fractions as pairs of texts, which lose no digit in a browser."""
    player = Player(clip)
    phase = player.phase_share * sum(step.hold for step in clip.cycle())
    return {
        "name": clip.name,
        "timebase": [str(clip.timebase.numerator), str(clip.timebase.denominator)],
        "cycle": [[number, *clip.steps[number]] for number in clip.order()],
        "phase": [str(phase.numerator), str(phase.denominator)],
        "repeat": None if clip.repeat == "forever" else clip.repeat,
        "end": clip.end,
        "then": clip.then,
        "blends": clip.interpolation == "linear",
        "events": [{"step": event.step, "name": event.name} for event in clip.events],
    }
