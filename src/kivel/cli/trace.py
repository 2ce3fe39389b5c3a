"""What `kivel trace` says, row by row as they are found."""

from __future__ import annotations

import json
import sys
from typing import TYPE_CHECKING

from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.making.trace import TraceMade, TraceOptions

__all__ = ["EXAMPLES", "NOTES_AT_END", "advance", "show"]

EXAMPLES = """\
examples:
  kivel trace moth.kivel.json --for 1s
      which frame begins to show at what time in the first second, with events and cycles

  kivel trace lantern.kivel.json --clip lantern --clock 60 --for 2s --format csv
      what each rendered frame of a game at 60 a second shows, and which steps it misses
"""

NOTES_AT_END = True
"""They sum up the rows, and follow them."""


def advance() -> bool:
    """By hand: whether a line of standard input asks for a further step."""
    return bool(sys.stdin.readline())


def show(made: TraceMade, options: TraceOptions, report: Report) -> int:
    from kivel.views.rows import rows_as

    if report.quiet:
        return 0
    if report.as_json:
        print('{"rows":')
    for line in rows_as("json" if report.as_json else options.format, made.columns, made.rows):
        print(line, flush=options.manual)
    if report.as_json:
        print(f', "notes": {json.dumps(list(made.notes), ensure_ascii=False)}}}')
    elif options.format == "table":
        for note in made.notes:
            print(note)
    else:
        for note in made.notes:
            print(f"note: {note}", file=sys.stderr)
    return 0
