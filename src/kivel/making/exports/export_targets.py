"""What can be exported to: a new target is a function and a line of the table."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError
from kivel.core.exporting.cues import cues_of
from kivel.core.exporting.keyframes import keyframes_of
from kivel.core.exporting.playback_table import PlaybackTable
from kivel.core.exporting.quads import NO_QUAD, quad_of
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import is_opaque
from kivel.core.playback.clip import Clip
from kivel.core.playback.schedule import schedule
from kivel.files.formats.css_files import css_text, html_text, svg_text
from kivel.files.formats.gltf_files import GltfClip, GltfPage, glb_bytes
from kivel.files.formats.shader_files import shader_text
from kivel.files.formats.table_files import TABLE_FORMATS
from kivel.files.formats.vtt_files import vtt_text
from kivel.making.exports.export_ktx import ktx_of

if TYPE_CHECKING:
    from kivel.core.exporting.keyframes import Keyframes
    from kivel.making.exports.exported_sheets import ExportedSheet

__all__ = ["Exported", "ToExport", "exported"]


class ToExport(NamedTuple):
    """A sheet, its frames and the clips that are meant, one where a target takes one; the suffix says which form."""

    sheet: ExportedSheet
    table: PlaybackTable
    suffix: str

    @property
    def clips(self) -> list[Clip]:
        return [table.clip for table in self.table.clips]


class Exported(NamedTuple):
    """A file, what the target has no place for in which clips, and what a person should know.

    Other files may lie `beside` it, by the ending that takes the place of its own.
    """

    content: bytes
    lost: Mapping[str, Sequence[str]] = {}
    notes: tuple[str, ...] = ()
    beside: Mapping[str, bytes] = {}


def exported(target: str, what: ToExport) -> Exported:
    """What is written for a target."""
    return _WRITERS[target](what)


def _table(what: ToExport) -> Exported:

    return Exported(TABLE_FORMATS[what.suffix](what.table).encode())


def _shader(what: ToExport) -> Exported:

    notes = ("wrap times to one cycle before they reach the shader",) if what.clips else ()
    return Exported(shader_text(what.table, what.suffix).encode(), _lost(what.clips, _FINITE, _EVENTS), notes)


def _vtt(what: ToExport) -> Exported:

    clip = what.table.clips[0].clip
    cues = cues_of(clip, what.sheet.others)
    frames = [what.table.frames[cue.frame] for cue in cues.cues if cue.frame is not None]
    lost = {
        f"playing {'for ever' if cues.repeat == 'forever' else f'{cues.repeat} times'}": cues.repeat != 1,
        "turned or mirrored frames": any(frame.turn or frame.flip for frame in frames),
        "what was trimmed off": any(frame.rect.size != frame.canvas and not frame.turn for frame in frames),
    }
    notes = (f"times are up to {float(cues.error * 1000):.3f} ms off",) if cues.error else ()
    named = {each: [clip.name] for each, there in lost.items() if there}
    return Exported(vtt_text(what.table, cues).encode(), {**_lost([clip], _BLENDING, _EVENTS), **named}, notes)


def _gltf(what: ToExport) -> Exported:
    """Clips in order from left to right, the largest canvas one unit high."""

    table, sheet = what.table, what.sheet
    sheet.require_bytes("glTF")
    if sheet.is_premultiplied:
        raise UsageError(
            f"{sheet.path}: its colours are premultiplied, which glTF does not know; make it of straight ones"
        )
    quads = [quad_of(frame, table.pages[frame.page].size, half_texel=table.half_texel) for frame in table.frames]
    if not what.clips:
        raise UsageError(f"{sheet.path}: there is no clip, and a glTF shows nothing else")
    unit = max(frame.canvas.h for frame in table.frames)
    clips, right = [], Fraction(0)
    for one in table.clips:
        plan = schedule(replace(one.clip, interpolation="step"), blends=Fraction(1), others=sheet.others)
        shown = [
            (0, NO_QUAD, shot.seconds)
            if shot.frame is None
            else (table.frames[shot.frame].page, quads[shot.frame], shot.seconds)
            for shot in plan.shots
        ]
        left = min(quad.left for _, quad, _ in shown)
        right -= left
        clips.append(GltfClip(one.clip.name, shown, right))
        right += max(quad.left + quad.width for _, quad, _ in shown) + Fraction(unit, 8)
    pages = [GltfPage(sheet.page_png(number), is_opaque(sheet.page(number))) for number in range(len(table.pages))]
    notes = (f"one unit is {unit} px; clips stand side by side, their pivots at height 0",)
    lost = _lost(what.clips, _BLENDING, _FINITE, _EVENTS)
    return Exported(glb_bytes(clips, pages, unit, nearest=sheet.is_crisp), lost, notes)


def _ktx2(what: ToExport) -> Exported:

    made = ktx_of(what)
    lost = _lost(what.clips, _BLENDING, _EVENTS)
    if what.sheet.options.page is not None:
        lost = _lost(what.clips, ("when frames show", lambda _clip: True))
    return Exported(made.content, {} if made.beside else lost, made.notes, made.beside)


_Loss = tuple[str, Callable[[Clip], bool]]
_BLENDING: _Loss = ("blending", lambda clip: clip.interpolation != "step")
_FINITE: _Loss = ("how often a clip plays", lambda clip: clip.repeat != "forever")
_EVENTS: _Loss = ("events", lambda clip: bool(clip.events))


def _lost(clips: Sequence[Clip], *losses: _Loss) -> dict[str, list[str]]:
    """The clips of which each is lost, where there are any."""
    found = {what: [clip.name for clip in clips if is_there(clip)] for what, is_there in losses}
    return {what: names for what, names in found.items() if names}


def _css(what: ToExport) -> Exported:

    clip = what.table.clips[0].clip
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
    """The keyframes of a clip whose frames are upright, on one page."""

    clip = what.table.clips[0].clip
    keyframes = keyframes_of(clip, what.sheet.others)
    frames = [what.table.frames[one.frame] for one in keyframes.keyframes if one.frame is not None]
    odd = [frame.name for frame in frames if frame.turn or frame.flip]
    if odd or len({frame.page for frame in frames}) != 1:
        why = f"{odd[0]} is turned or mirrored" if odd else "its frames are on several pages, or there are none"
        raise UsageError(f'clip "{clip.name}": CSS shows upright frames of one page, and {why}; make a sheet of it')
    return keyframes


def _played(clip: Clip, text: str, keyframes: Keyframes) -> Exported:
    notes = (f"a cycle is {float(keyframes.error):.6f} ms off",) if keyframes.error else ()
    return Exported(text.encode(), _lost([clip], _EVENTS), notes)


_WRITERS: dict[str, Callable[[ToExport], Exported]] = {
    "table": _table,
    "css": _css,
    "svg": _svg,
    "shader": _shader,
    "gltf": _gltf,
    "ktx2": _ktx2,
    "vtt": _vtt,
}
