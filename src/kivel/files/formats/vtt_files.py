"""WebVTT with a rectangle of the page in each cue, `#xywh=` as the W3C's Media Fragments URI 1.0 has it."""

from __future__ import annotations

from urllib.parse import quote

from kivel.core.exporting.cues import CueList
from kivel.core.exporting.playback_table import PlaybackTable
from kivel.files.own_digest import BLANK_DIGEST

__all__ = ["vtt_text"]


def vtt_text(table: PlaybackTable, cues: CueList) -> str:
    """A cue for each frame that shows; none while nothing does."""
    blocks = ["WEBVTT", f"NOTE digest: {BLANK_DIGEST}"]
    for cue in cues.cues:
        if cue.frame is not None:
            frame = table.frames[cue.frame]
            file = quote(table.pages[frame.page].files[table.shown.name], safe="/")
            place = ",".join(map(str, frame.rect))
            blocks.append(f"{_time(cue.start_ms)} --> {_time(cue.end_ms)}\n{file}#xywh={place}")
    return "\n\n".join(blocks) + "\n"


def _time(milliseconds: int) -> str:
    """
    >>> _time(3723004)
    '01:02:03.004'
    """
    seconds, rest = divmod(milliseconds, 1000)
    return f"{seconds // 3600:02}:{seconds // 60 % 60:02}:{seconds % 60:02}.{rest:03}"
