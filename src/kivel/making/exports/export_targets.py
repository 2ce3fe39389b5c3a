"""Describes what can be exported to: a new target is a function and a line of the table."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError
from kivel.core.exporting.cues import cues_of
from kivel.core.exporting.keyframes import keyframes_of
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip
from kivel.files.formats.css_files import css_text, html_text, svg_text
from kivel.files.formats.shader_files import shader_text
from kivel.files.formats.table_files import TABLE_FORMATS
from kivel.files.formats.vtt_files import vtt_text
from kivel.making.exports.export_gltf import gltf_of
from kivel.making.exports.export_ktx import ktx_of
from kivel.making.exports.exported_sheets import ToExport
from kivel.making.options.export_options import TARGETS

if TYPE_CHECKING:
    from kivel.core.exporting.keyframes import Keyframes

__all__ = ["Exported", "exported"]


class Exported(NamedTuple):
    """A file, what the target has no place for in which clips, and what a person should know.

    Other files may lie `beside` it, by the ending that takes the place of its own.
    """

    content: bytes
    lost: Mapping[str, Sequence[str]] = {}
    notes: tuple[str, ...] = ()
    beside: Mapping[str, bytes] = {}


def exported(target: str, what: ToExport) -> Exported:
    """Return what is written for a target."""
    return _WRITERS[target](what)


def _table(what: ToExport) -> Exported:
    return Exported(TABLE_FORMATS[what.suffix](what.table).encode())


def _shader(what: ToExport) -> Exported:
    notes = ("wrap times to one cycle before they reach the shader",) if what.clips else ()
    return Exported(shader_text(what.table, what.suffix).encode(), _lost("shader", what.clips), notes)


def _vtt(what: ToExport) -> Exported:
    clip = what.table.clips[0].clip
    cues = cues_of(clip, what.sheet.others)
    frames = [what.table.frames[cue.frame] for cue in cues.cues if cue.frame is not None]
    lost = {
        "repeat counts": cues.repeat != 1,
        "rotated or mirrored frames": any(frame.turn or frame.flip for frame in frames),
        "trimmed borders": any(frame.rect.size != frame.canvas and not frame.turn for frame in frames),
    }
    notes = (f"times are up to {float(cues.error * 1000):.3f} ms off",) if cues.error else ()
    named = {each: [clip.name] for each, there in lost.items() if there}
    return Exported(vtt_text(what.table, cues).encode(), {**_lost("vtt", [clip], but="repeat"), **named}, notes)


def _gltf(what: ToExport) -> Exported:
    made = gltf_of(what)
    return Exported(made.content, _lost("gltf", what.clips), made.notes)


def _ktx2(what: ToExport) -> Exported:
    made = ktx_of(what)
    lost = _lost("ktx2", what.clips)
    if what.sheet.options.page is not None:
        lost = {"when frames show": [clip.name for clip in what.clips]} if what.clips else {}
    return Exported(made.content, {} if made.beside else lost, made.notes, made.beside)


_LOSSES: dict[str, tuple[str, Callable[[Clip], bool]]] = {
    "blending": ("blending", lambda clip: clip.interpolation != "step"),
    "repeat": ("repeat counts", lambda clip: clip.repeat != "forever"),
    "events": ("events", lambda clip: bool(clip.events)),
}
"""By the fields of `Carries`: what is lost is called, and whether a clip has it."""


def _lost(target: str, clips: Sequence[Clip], *, but: str = "") -> dict[str, list[str]]:
    """Return what the target has no place for, with the clips that have it; `but` is judged elsewhere."""
    carries = TARGETS[target].carries
    found = {
        called: [clip.name for clip in clips if has(clip)]
        for feature, (called, has) in _LOSSES.items()
        if getattr(carries, feature) == "noted" and feature != but
    }
    return {called: names for called, names in found.items() if names}


def _css(what: ToExport) -> Exported:
    clip = what.table.clips[0].clip
    what.sheet.require_no_float("CSS")
    keyframes = _keyframes(what)
    text = html_text if what.suffix == ".html" else css_text
    return _played(clip, text(what.table, clip.name, keyframes, crisp=what.sheet.is_crisp), keyframes)


def _svg(what: ToExport) -> Exported:
    clip = what.table.clips[0].clip
    keyframes = _keyframes(what)
    page = next(what.table.frames[one.frame].page for one in keyframes.keyframes if one.frame is not None)
    what.sheet.require_bytes("SVG")
    png = what.sheet.page_png(page)
    return _played(clip, svg_text(what.table, clip.name, keyframes, png, crisp=what.sheet.is_crisp), keyframes)


def _keyframes(what: ToExport) -> Keyframes:
    """The keyframes of a clip whose frames are on one page."""
    clip = what.table.clips[0].clip
    keyframes = keyframes_of(clip, what.sheet.others)
    frames = [what.table.frames[one.frame] for one in keyframes.keyframes if one.frame is not None]
    if len({frame.page for frame in frames}) != 1:
        raise UsageError(
            f'clip "{clip.name}": CSS needs frames on one page, but its frames are on several, or there are none; make '
            "a sheet"
        )
    return keyframes


def _played(clip: Clip, text: str, keyframes: Keyframes) -> Exported:
    notes = (f"a cycle is {float(keyframes.error):.6f} ms off",) if keyframes.error else ()
    return Exported(text.encode(), _lost("css", [clip]), notes)


_WRITERS: dict[str, Callable[[ToExport], Exported]] = {
    "table": _table,
    "css": _css,
    "svg": _svg,
    "shader": _shader,
    "gltf": _gltf,
    "ktx2": _ktx2,
    "vtt": _vtt,
}
