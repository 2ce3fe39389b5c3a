"""One page that plays clips in a browser: no network, everything in it, each image once."""

from __future__ import annotations

import base64
import hashlib
import json
import re
from collections.abc import Iterator, Mapping, Sequence
from importlib import resources
from string import Template
from typing import Any

from kivel.core.motion.pairs import MotionPairs
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip
from kivel.core.playback.groups import Group
from kivel.core.playback.player import Player
from kivel.files.own_digest import BLANK_DIGEST

__all__ = ["ViewedFrame", "ViewedMotion", "ViewedPage", "ViewedSource", "viewer_html"]

_SHADER = re.compile(r"(?<=#version 300 es\n)[^`]*")
_AROUND_SIGNS = re.compile(r" *([-+*/%=<>?:,;(){}&|]) *")
_TEXT_OR_SIGNS = re.compile(r"""("(?:\\.|[^"\\\n])*"|`(?:\\.|[^`\\])*`)| *([=<>?:,;(){}&|*]+) *""")
_SCRIPTS = ("playing.js", "instances.js", "drawing.js", "picture.js", "page.js")


class ViewedPage(NamedTuple):
    """Its size in pixels; by map the number of its image, and into how many parts of a page's side it is divided."""

    size: tuple[int, int]
    maps: dict[str, tuple[int, int]]


class ViewedFrame(NamedTuple):
    """A frame: `rect` on its page, mirrored, then turned by this many degrees; where that lies on its canvas."""

    name: str
    page: int
    rect: tuple[int, int, int, int]
    turn: int
    flip: str
    canvas: tuple[int, int]
    offset: tuple[int, int]
    pivot: tuple[float, float]
    outline: tuple[tuple[float, float], ...] | None = None


class ViewedMotion(NamedTuple):
    """The map of motion, by name, and what its vectors mean."""

    map: str
    motion: MotionPairs


class ViewedSource(NamedTuple):
    """Holds what came from one source: its frames, on pages that count from 0, and the clips and groups that play
    them.
    """

    name: str
    pages: Sequence[ViewedPage]
    frames: Sequence[ViewedFrame]
    clips: Sequence[Clip]
    groups: Sequence[Group]
    motion: ViewedMotion | None = None


def viewer_html(
    sources: Sequence[ViewedSource],
    images: Sequence[bytes],
    *,
    view: Mapping[str, object],
    contact: bytes,
    timing: bytes | None,
    reload: str | None = None,
) -> str:
    """The page.

    Parameters
    ----------
    sources : sequence of ViewedSource
        The first is what the page is of; clips of others can be seen beside its own.
    images : sequence of bytes
        PNG files, by the numbers that pages name.
    view : mapping
        How it is looked at to begin with, by the names of the page's own state (`page.js`).
    contact, timing : bytes
        PNG files of a contact sheet and of a timing chart, which the page does without if it is None.
    reload : str or None
        An address whose answer changes when the page would be another; it looks there by itself.
    """
    script = _terse("\n".join(_lean(_part(one)).replace('"use strict";\n', "") for one in _SCRIPTS))
    script = f'"use strict";\n{script}'
    style = _lean(_part("viewer.css"))
    connect = " connect-src 'self';" if reload else ""
    policy = (
        f"default-src 'none'; script-src {_hash(script)}; style-src {_hash(style)} 'unsafe-hashes'; "
        f"img-src blob:;{connect} base-uri 'none'; form-action 'none'"
    )
    return Template(_lean(_part("viewer.html"))).substitute(
        policy=policy,
        digest=BLANK_DIGEST,
        style=style,
        script=script,
        data=_embedded(_data(sources, view) | {"timing": timing is not None} | ({"reload": reload} if reload else {})),
        images="\n".join(
            _image_scripts({**dict(enumerate(images)), "frames": contact, **({"timing": timing} if timing else {})})
        ),
    )


def _part(name: str) -> str:
    return resources.files(__package__).joinpath("viewer", name).read_text(encoding="utf-8")


def _lean(text: str) -> str:
    """Without what only those read who change it: indents and comments."""
    lines = (line.partition("// ")[0].strip() for line in text.splitlines())
    return "\n".join(line for line in lines if line)


def _terse(script: str) -> str:
    """Without spaces around signs, but in texts; templates within templates are not told apart from code."""
    script = _SHADER.sub(lambda shader: _AROUND_SIGNS.sub(r"\1", shader[0]), script)
    return _TEXT_OR_SIGNS.sub(lambda found: found[1] or found[2] or found[0], script)


def _hash(text: str) -> str:
    """Return what a content-security policy knows a script or a style by."""
    return f"'sha256-{base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()}'"


def _embedded(data: Any) -> str:
    """JSON that cannot end the element that it is in."""
    text = json.dumps(data, ensure_ascii=True, separators=(",", ":"))
    return text.replace("<", "\\u003c").replace(">", "\\u003e").replace("&", "\\u0026")


def _image_scripts(images: Mapping[int | str, bytes]) -> Iterator[str]:
    """Images as text that is not decoded before it is asked for; they come last, so that the page need not wait."""
    for name, png in images.items():
        yield f'<script type="text/plain" id="image-{name}">{base64.b64encode(png).decode()}</script>'


def _data(sources: Sequence[ViewedSource], view: Mapping[str, object]) -> dict[str, Any]:
    """One list of pages, of frames and of clips for all sources; a source knows where its frames begin."""
    data: dict[str, Any] = {"sources": [], "pages": [], "frames": [], "clips": [], "view": view}
    for number, source in enumerate(sources):
        keys = {clip["key"] for clip in data["clips"]}
        data["clips"] += [_clip(clip, number, _key(clip.name, source.name, keys)) for clip in source.clips]
        groups = [
            {"name": one.name, "members": one.members, "choose": one.choose, "weights": one.weights}
            for one in source.groups
        ]
        first = len(data["frames"])
        about = {"name": source.name, "groups": groups, "first": first, "count": len(source.frames)}
        data["sources"].append(about | _motion(source.motion))
        before = len(data["pages"])
        data["frames"] += [_frame(frame) | {"page": frame.page + before} for frame in source.frames]
        for start, end in source.motion.motion.pairs if source.motion else ():
            data["frames"][first + start] |= {"leads": first + end, "source": number}
        data["pages"] += [_page(page) for page in source.pages]
    return data


def _motion(known: ViewedMotion | None) -> dict[str, Any]:
    if known is None:
        return {}
    return {"motion": {"map": known.map, "reach": known.motion.reach, "wraps": known.motion.wraps}}


def _key(clip: str, source: str, taken: set[str]) -> str:
    """Return what a clip is called on the page, where each has a name of its own."""
    keys = [clip, f"{source}: {clip}", *(f"{source} {number}: {clip}" for number in range(2, len(taken) + 3))]
    return next(key for key in keys if key not in taken)


def _page(page: ViewedPage) -> dict[str, Any]:
    maps = {name: {"image": image, "parts": parts} for name, (image, parts) in page.maps.items()}
    return {"size": page.size, "maps": maps}


def _frame(frame: ViewedFrame) -> dict[str, Any]:
    return {key: value for key, value in frame._asdict().items() if value is not None}


def _clip(clip: Clip, source: int, key: str) -> dict[str, Any]:
    """A cycle written out; fractions as pairs of texts, which lose no digit in a browser."""
    player = Player(clip)
    phase = player.phase_share * sum(step.hold for step in clip.cycle())
    return {
        "name": clip.name,
        "key": key,
        "source": source,
        "timebase": [str(clip.timebase.numerator), str(clip.timebase.denominator)],
        "cycle": [[number, *clip.steps[number]] for number in clip.order()],
        "phase": [str(phase.numerator), str(phase.denominator)],
        "repeat": None if clip.repeat == "forever" else clip.repeat,
        "end": clip.end,
        "then": clip.then,
        "blends": clip.blends,
        "warps": clip.interpolation == "motion",
        "events": [{"step": event.step, "name": event.name} for event in clip.events],
    }
