"""What `kivel export` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.report import Report, files_as_json

if TYPE_CHECKING:
    from kivel.making.export import ExportMade, ExportOptions

__all__ = ["EXAMPLES", "show"]

EXAMPLES = """\
examples:
  kivel export moth.kivel.json -o moth.json
      every frame's rectangle, texture coordinates and pivot, and each clip's steps with their times

  kivel export night.kivel.json --clip moth -o night.h --origin bottom --half-texel --clock 60
      the same as constants for C and C++, coordinates from the bottom left, holds in sixtieths of a second
"""


def show(made: ExportMade, options: ExportOptions, report: Report) -> int:
    from kivel.making.export import TARGETS

    if options.list:
        for name, target in TARGETS.items():
            report.line(f"{name:6} {target.about} ({', '.join(target.suffixes)})")
            report.line(f"       cannot carry: {target.lacks}")
        report.document({"targets": [{"name": name, **target._asdict()} for name, target in TARGETS.items()]})
        return 0
    report.written(made.files, {}, dry_run=options.dry_run)
    report.document({"files": files_as_json(made.files), "notes": list(made.notes)})
    return 0
