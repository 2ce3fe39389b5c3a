"""What `kivel loop` says."""

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
    if made.seam is None:
        return _show_tiles(made, report)

    found: dict[str, Any] = {
        "seam": made.seam._asdict(),
        "windows": [window._asdict() for window in made.windows],
    }
    for line in (
        *seam_lines(made.name, made.numbers, made.seam, made.clips),
        *window_lines(made.windows, made.numbers),
    ):
        report.line(line)
    if made.manifest is None:
        report.document({"frames": len(made.numbers), **found, "notes": list(made.notes)})
        return 0
    if made.closed:
        found["closed"] = made.closed._asdict()
    report_frames(report, options, made.manifest, made.files, made.notes, **found)
    if made.closed:
        report.line(f"  closed   {seam_text(made.closed)}")
    return 0


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
