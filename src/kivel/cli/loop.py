"""Prints the result of `kivel loop`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from kivel.cli.frames import report_frames
from kivel.cli.report import Report
from kivel.views.loop_lines import seam_lines, seam_text, tile_lines, window_lines

if TYPE_CHECKING:
    from kivel.making.frames.loop import LoopMade
    from kivel.making.options.loop_options import LoopOptions

__all__ = ["show"]


def show(made: LoopMade, options: LoopOptions, report: Report) -> int:
    if made.tiles:
        return _show_tiles(made, report)
    judged = made.parts or (made,)
    for one in judged:
        if one.seam:
            for line in (
                *seam_lines(one.name, one.numbers, one.seam, one.clips),
                *window_lines(one.windows, one.numbers),
            ):
                report.line(line)
    found = {"loops": [_document(one) for one in made.parts]} if made.parts else _document(made)
    if made.manifest is None:
        report.document({"frames": len(made.numbers), **found, "notes": list(made.notes)})
        return 0
    report_frames(report, options, made.manifest, made.files, made.notes, **found)
    for one in judged:
        if one.closed:
            name = f"{one.name}: " if made.parts else ""
            report.line(f"  closed   {name}{seam_text(one.closed)}")
    return 0


def _document(made: LoopMade) -> dict[str, Any]:
    """Return what was found of one clip, or of all frames."""
    closed = {"closed": made.closed._asdict()} if made.closed else {}
    name = {"clip": made.name} if made.clips else {}
    seam = {"seam": made.seam._asdict()} if made.seam else {}
    return {**name, **seam, "windows": [window._asdict() for window in made.windows], **closed}


def _show_tiles(made: LoopMade, report: Report) -> int:
    for line in tile_lines([tile.source for tile in made.tiles], [tile.seam for tile in made.tiles]):
        report.line(line)
    report.document(
        {
            "tiles": [
                {
                    "source": source,
                    "across": seam.across,
                    "down": seam.down,
                    "meets": seam.meets,
                    "verdict": seam.verdict,
                }
                for source, seam in made.tiles
            ],
            "notes": list(made.notes),
        }
    )
    return 0
