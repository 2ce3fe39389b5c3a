"""What `kivel adopt` says."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from kivel.cli.report import Report, files_as_json
from kivel.core.wording import counted

if TYPE_CHECKING:
    from kivel.files.manifest.model import Manifest
    from kivel.making.adopt import AdoptedSheet, AdoptMade, AdoptOptions

__all__ = ["EXAMPLES", "show"]

EXAMPLES = """\
examples:
  kivel adopt beetle.png --row-clips walk,run,rest --fps 10
      a sheet from elsewhere gets a manifest beside it, a clip for each row; retime, preview and trace work on it then

  kivel adopt shed.png --regions shed.regions.toml
      an irregular sheet, by named rectangles that are yours to edit
"""


def show(made: AdoptMade, options: AdoptOptions, report: Report) -> int:
    for sheet in made.sheets:
        if sheet.manifest is not None:
            described = {sheet.files[0].path.name: _described(sheet.manifest)}
            report.written(sheet.files, described, dry_run=options.dry_run)
        else:
            report.line(f"{sheet.source}  may be")
            for number, way in enumerate(sheet.found, 1):
                report.line(way.line(number))
    if made.looks:
        report.written(
            made.looks, {made.looks[0].path.name: "the likeliest ways to divide it"}, dry_run=options.dry_run
        )
    documents = [_document(sheet) for sheet in made.sheets]
    several = {"sheets": documents}
    report.document({**(documents[0] if len(documents) == 1 else several), "notes": list(made.notes)})
    return 0


def _described(manifest: Manifest) -> str:
    clips = ", ".join(clip.name for clip in manifest.clips)
    grid = manifest.grid
    where = f"{grid.columns} x {grid.rows} cells of {grid.cell} px" if grid else "no grid"
    return f"{counted(len(manifest.frames), 'frame')}, {where}; {counted(len(manifest.clips), 'clip')}: {clips}"


def _document(sheet: AdoptedSheet) -> dict[str, Any]:
    row: dict[str, Any] = {"source": sheet.source}
    if sheet.manifest is not None:
        row |= {
            "files": files_as_json(sheet.files),
            "frames": len(sheet.manifest.frames),
            "clips": [clip.name for clip in sheet.manifest.clips],
        }
    if sheet.found:
        row["found"] = [way.document() for way in sheet.found]
    return row
