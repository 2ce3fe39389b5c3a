"""What can be exported to: a new target is a function and a line of the table."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

from kivel.core.exporting.playback_table import PlaybackTable
from kivel.core.playback.clip import Clip

if TYPE_CHECKING:
    from kivel.core.exporting.keyframes import Keyframes
    from kivel.making.exported_sheets import ExportedSheet

__all__ = ["Exported", "ToExport", "exported"]


class ToExport(NamedTuple):
    """A sheet, its frames and the clips that are meant, one where a target takes one; the suffix says which form."""

    sheet: ExportedSheet
    table: PlaybackTable
    suffix: str


class Exported(NamedTuple):
    """A file, what the target has no place for, and what a person should know."""

    content: bytes
    lost: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


def exported(target: str, what: ToExport) -> Exported:
    """What is written for a target."""
    return _WRITERS[target](what)


def _table(what: ToExport) -> Exported:
    from kivel.files.formats.table_files import TABLE_FORMATS

    return Exported(TABLE_FORMATS[what.suffix](what.table).encode())


def _shader(what: ToExport) -> Exported:
    from kivel.files.formats.shader_files import shader_text

    clips = [table.clip for table in what.table.clips]
    lost = {
        "how often a clip plays and how it ends": any(clip.repeat != "forever" for clip in clips),
        "events": any(clip.events for clip in clips),
    }
    notes = ("wrap times to one cycle before they reach the shader",) if clips else ()
    return Exported(shader_text(what.table, what.suffix).encode(), _there(lost), notes)


def _vtt(what: ToExport) -> Exported:
    from kivel.core.exporting.cues import cues_of
    from kivel.files.formats.vtt_files import vtt_text

    clip = what.table.clips[0].clip
    cues = cues_of(clip, what.sheet.others)
    frames = [what.table.frames[cue.frame] for cue in cues.cues if cue.frame is not None]
    lost = {
        "blending": clip.interpolation != "step",
        "events": bool(clip.events),
        f"playing {'for ever' if cues.repeat == 'forever' else f'{cues.repeat} times'}": cues.repeat != 1,
        "turned or mirrored frames": any(frame.turn or frame.flip for frame in frames),
        "what was trimmed off": any(frame.rect.size != frame.canvas and not frame.turn for frame in frames),
    }
    notes = (f"times are up to {float(cues.error * 1000):.3f} ms off",) if cues.error else ()
    return Exported(vtt_text(what.table, cues).encode(), _there(lost), notes)


def _there(lost: dict[str, bool]) -> tuple[str, ...]:
    return tuple(each for each, there in lost.items() if there)


def _css(what: ToExport) -> Exported:
    from kivel.files.formats.css_files import css_text

    clip = what.table.clips[0].clip
    keyframes = _keyframes(what)
    return _played(clip, css_text(what.table, clip.name, keyframes), keyframes)


def _svg(what: ToExport) -> Exported:
    from kivel.files.formats.css_files import svg_text

    clip = what.table.clips[0].clip
    keyframes = _keyframes(what)
    page = next(what.table.frames[one.frame].page for one in keyframes.keyframes if one.frame is not None)
    return _played(clip, svg_text(what.table, clip.name, keyframes, what.sheet.page_png(page)), keyframes)


def _keyframes(what: ToExport) -> Keyframes:
    """The keyframes of a clip whose frames are upright, on one page."""
    from kivel.core.errors import UsageError
    from kivel.core.exporting.keyframes import keyframes_of

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
    return Exported(text.encode(), ("events",) if clip.events else (), notes)


_WRITERS: dict[str, Callable[[ToExport], Exported]] = {
    "table": _table,
    "css": _css,
    "svg": _svg,
    "shader": _shader,
    "vtt": _vtt,
}
