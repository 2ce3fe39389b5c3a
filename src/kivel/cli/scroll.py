"""Prints the result of `kivel scroll`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import report_frames
from kivel.cli.report import Report
from kivel.views.loop_lines import seam_text

if TYPE_CHECKING:
    from kivel.making.frames.scroll import ScrollMade
    from kivel.making.options.scroll_options import ScrollOptions

__all__ = ["show"]


def show(made: ScrollMade, options: ScrollOptions, report: Report) -> int:
    report_frames(report, options, made.manifest, made.files, made.notes, closes=made.closes, seam=made.seam._asdict())
    closes = "is" if made.closes else "is NOT"
    report.line(f"  seam     frame {options.count} {closes} frame 0, bit for bit; {seam_text(made.seam)}")
    return 0
