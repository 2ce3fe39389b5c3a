"""Describes what there is to say about loops and tiles, in words."""

from __future__ import annotations

from collections.abc import Sequence

from kivel.core.looping.seam import Decider, Seam, TileSeam, Verdict
from kivel.core.looping.search import Window
from kivel.core.playback.clip import Clip
from kivel.core.wording import counted

__all__ = ["VERDICTS", "seam_lines", "seam_text", "tile_lines", "window_lines"]

VERDICTS: dict[Verdict, str] = {
    "closes": "closes",
    "burst": "a burst",
    "repeats": "repeats its first frame",
    "open": "does not close",
    "still": "a still: all frames are the same",
    "too few": "too few frames to judge",
}


def seam_lines(name: str, numbers: Sequence[int], seam: Seam, clips: Sequence[Clip]) -> list[str]:
    """A few lines on the seam, frames by their numbers."""
    lines = [f"{name}: {counted(len(numbers), 'frame')}, {numbers[0]}-{numbers[-1]}"]
    if seam.step:
        lines.append(
            f"  seam     {numbers[-1]} to {numbers[0]} is {seam.of_largest:.2f} times the largest change, "
            f"{seam.seam:.2f} times the usual one ({_percent(seam.change)} against {_percent(seam.step)})"
        )
    lines.append(f"  verdict  {seam_text(seam)}")
    todo = _todo(seam)
    if seam.verdict in ("open", "burst") and any(
        clip.alternates and len(clip.shown_frames) == len(numbers) for clip in clips
    ):
        todo = "its clip plays as ping-pong, which always closes"
    if seam.verdict == "repeats" and clips and not any(_loops(clip) for clip in clips):
        todo = ""  # played once, it ends where it began
    return [*lines, *([f"           {todo}"] if todo else [])]


def _loops(clip: Clip) -> bool:
    return clip.repeat == "forever" or clip.repeat > 1


def _todo(seam: Seam) -> str:
    """Return what may be done about it."""
    if seam.verdict == "repeats":
        return "in a loop, the last frame shows twice: drop it"
    if seam.held:
        return "its last frame repeats the first, as other frames repeat; nothing to do"
    if seam.verdict == "open":
        return "to make it loop: --find looks for a part that does, --close K cross-fades its end into its start"
    if seam.verdict == "burst" and not seam.afresh:
        return "to make it loop: --close K cross-fades its end into its start"
    return ""


def seam_text(seam: Seam) -> str:
    """The verdict, with the figure that decided it and how sure that is."""
    said = VERDICTS[seam.verdict]
    if seam.verdict == "burst" and seam.afresh:
        said += " that restarts cleanly (no visible jump when repeated)"
    if not seam.by:
        return said
    figure, limit = _FIGURES[seam.by]
    found = figure.format(value=seam.value, percent=seam.value * 100)
    held_to = limit.format(value=seam.limit, percent=seam.limit * 100)
    return f"{said}: {found} (limit {held_to}; {seam.sureness})"


_FIGURES: dict[Decider, tuple[str, str]] = {
    "mass": ("its fainter end has {percent:.0f}% of the peak opacity", "{percent:.0f}%"),
    "opacity": ("first and last differ in opacity by {percent:.0f}%", "{percent:.0f}%"),
    "repeat": ("last and first differ by {percent:.2g}%", "{percent:.2g}%"),
    "largest": ("the seam is {value:.2f} times the largest change", "{value:.2f}"),
    "pairs": ("the seam is {value:.2f} times the change between any two frames", "{value:.2f}"),
}
"""Says what decided, and how its limit is written."""


def _percent(change: float) -> str:
    return f"{change * 100:.3g}%"


def window_lines(windows: Sequence[Window], numbers: Sequence[int]) -> list[str]:
    """The best loops, ranked."""
    if not windows:
        return []
    rows = [
        (str(rank), f"{numbers[w.first]}-{numbers[w.last]}", str(w.length), f"{w.mismatch:.2f}", f"{w.seam:.2f}")
        for rank, w in enumerate(windows, 1)
    ]
    table = [("rank", "frames", "count", "off by", "seam"), *rows]
    widths = [max(len(row[column]) for row in table) for column in range(5)]
    lines = ["  ".join(cell.rjust(width) for cell, width in zip(row, widths, strict=True)) for row in table]
    return [
        "",
        *lines,
        "(off by: error of the next frame against the first; seam: last to first; both in usual changes)",
    ]


def tile_lines(names: Sequence[str], seams: Sequence[TileSeam]) -> list[str]:
    """How sides meet: one tile in full, of several the worst."""
    worst = max(range(len(seams)), key=lambda index: max(seams[index].across, seams[index].down))
    seam = seams[worst]
    count = f" (the worst of {len(seams)})" if len(seams) > 1 else ""
    return [
        f"{names[worst]}{count}",
        f"  left to right  {_times(seam.across)}",
        f"  top to bottom  {_times(seam.down)}",
        f"  verdict        {_TILES[seam.verdict]}",
    ]


_TILES = {
    "meets": "tiles: no visible seam",
    "look at it": "may tile: look at it, the seam is barely visible or not",
    "does not meet": "does not tile: a visible seam",
}


def _times(value: float) -> str:
    if value == float("inf"):
        return "a line on a flat area"
    return f"{value:.2f} times its own larger changes from line to line (up to 1.1 meets, above 1.5 shows)"
