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

  kivel export night.kivel.json -o night.h --origin bottom --half-texel --clock 60
      the same as constants for C and C++, coordinates from the bottom left, holds in sixtieths of a second
"""


def show(made: ExportMade, options: ExportOptions, report: Report) -> int:
    about = {".json": "table of frames and clips, JSON", ".csv": "table of frames and clips, CSV", ".h": "C header"}
    described = {file.path.name: about[file.path.suffix.lower()] for file in made.files}
    report.written(made.files, described, dry_run=options.dry_run)
    report.document({"files": files_as_json(made.files), "notes": list(made.notes)})
    return 0
