"""Prints the result of `kivel timeline`, row by row as they are found."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING

from kivel.cli.report import Report
from kivel.cli.streams import say
from kivel.views.rows import json_text, rows_as

if TYPE_CHECKING:
    from kivel.making.options.timeline_options import TimelineOptions
    from kivel.making.playback.timeline import TimelineMade

__all__ = ["NOTES_AT_END", "advance", "show"]


NOTES_AT_END = True
"""They sum up the rows, and follow them."""


def advance() -> bool:
    """By hand: whether a line of standard input asks for a further step."""
    return bool(sys.stdin.readline())


def show(made: TimelineMade, options: TimelineOptions, report: Report) -> int:
    if report.quiet:
        return 0
    if report.as_json:
        say('{"format": "kivel-timeline", "version": 1, "rows":')
    for line in rows_as("json" if report.as_json else options.format, made.columns, made.rows):
        say(line, flush=options.manual)
    if report.as_json:
        say(f', "notes": {json_text(list(made.notes))}}}')
    elif options.format == "table":
        for note in made.notes:
            say(note)
    else:
        for note in made.notes:
            report.note(note)
    return 0
