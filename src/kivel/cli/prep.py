"""Prints the result of `kivel prep`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import report_frames
from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.making.frames.prep import PrepMade
    from kivel.making.options.prep_options import PrepOptions

__all__ = ["show"]


def show(made: PrepMade, options: PrepOptions, report: Report) -> int:
    for line in made.measured:
        report.line(line)
    more = {"steps": list(made.steps), "measured": list(made.measured)}
    report_frames(report, options, made.manifest, made.files, made.notes, **more)
    return 0
