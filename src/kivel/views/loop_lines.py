"""What there is to say about loops and tiles, in words."""

from __future__ import annotations

from collections.abc import Sequence

from kivel.core.looping.seam import Seam, TileSeam, Verdict
from kivel.core.looping.search import Window
from kivel.core.playback.clip import Clip

__all__ = ["VERDICTS", "seam_lines", "seam_text", "tile_lines", "window_lines"]

VERDICTS: dict[Verdict, str] = {
    "loop": "loops: the step across the seam is like the others",
    "repeats": "closes, but the last frame repeats the first and would show twice; drop it",
    "jump": "jumps at the seam: it comes back towards its start, but not all the way; see --find and --close",
    "pop": "pops at the seam: the position fits, the speed does not; see --find and --close",
    "one-shot": "a one-shot, it seems: it does not come back to its start; --close K would make it a loop",
    "still": "a still: no frame differs from another",
    "too short": "too short to tell: a loop has three frames or more",
}


def seam_lines(name: str, numbers: Sequence[int], seam: Seam, clips: Sequence[Clip]) -> list[str]:
    """A few lines on the seam, frames by their numbers."""
    lines = [f"{name}: {len(numbers)} frames, {numbers[0]}-{numbers[-1]}"]
    if seam.step:
        lines += [
            f"  seam     {numbers[-1]} to {numbers[0]} is {seam.seam:.2f} of a usual step"
            f" (a change of {_percent(seam.change)} against {_percent(seam.step)})",
            f"  speed    changes there {seam.pop:.2f} times as much as usual",
        ]
    lines.append(f"  verdict  {VERDICTS[seam.verdict]}")
    if seam.verdict in ("jump", "one-shot", "pop") and any(clip.alternates for clip in clips):
        lines.append("           (its clip plays to and fro, which closes by itself)")
    return lines


def seam_text(seam: Seam) -> str:
    """A seam in one line."""
    said = VERDICTS[seam.verdict].split(";")[0]
    return f"{said} ({seam.seam:.2f} of a usual step)" if seam.step else said


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
    return ["", *lines, "(off by: what would follow against the start, in steps; seam: last to first, in steps)"]


def tile_lines(names: Sequence[str], seams: Sequence[TileSeam]) -> list[str]:
    """How sides meet: one tile in full, of several the worst."""
    worst = max(range(len(seams)), key=lambda index: max(seams[index].across, seams[index].down))
    seam = seams[worst]
    count = f" (the worst of {len(seams)})" if len(seams) > 1 else ""
    return [
        f"{names[worst]}{count}",
        f"  left to right  {_times(seam.across)}",
        f"  top to bottom  {_times(seam.down)}",
        f"  verdict        {'tiles: no seam to be seen' if seam.meets else 'does not tile: a seam shows'}",
    ]


def _times(value: float) -> str:
    return "a line where all else is flat" if value == float("inf") else f"{value:.2f} of a usual step between pixels"
