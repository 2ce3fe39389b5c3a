"""What `kivel slice` says."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from kivel.cli.frames import frames_document, frames_line
from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.making.slice import SlicedSheet, SliceMade, SliceOptions

__all__ = ["EXAMPLES", "show"]

EXAMPLES = """\
examples:
  kivel slice beetle.png -o beetle-frames/
      a plain image, taken apart by what is seen in it; says how sure that is, and writes nothing when it is not

  kivel slice moth.kivel.json -o moth-frames/
      every frame of the sheet as its manifest says, with its maps and its timing
"""


def show(made: SliceMade, options: SliceOptions, report: Report) -> int:
    for sheet in made.sheets:
        if sheet.manifest is not None:
            report.line(frames_line(options, sheet.manifest, sheet.files))
            if sheet.regions:
                report.written(
                    sheet.regions, {sheet.regions[0].path.name: "their places, to be edited"}, dry_run=options.dry_run
                )
        else:
            report.line(f"{sheet.source}  may be")
            for number, way in enumerate(sheet.found, 1):
                report.line(way.line(number))
    if made.looks:
        described = {made.looks[0].path.name: "the likeliest ways to divide it"}
        report.written(made.looks, described, dry_run=options.dry_run)
    documents = [_document(sheet) for sheet in made.sheets]
    several = {"sheets": documents}
    report.document({**(documents[0] if len(documents) == 1 else several), "notes": list(made.notes)})
    return 0


def _document(sheet: SlicedSheet) -> dict[str, Any]:
    row: dict[str, Any] = {"source": sheet.source}
    if sheet.manifest is not None:
        row |= frames_document(sheet.manifest, [*sheet.files, *sheet.regions])
    if sheet.found:
        row["found"] = [way.document() for way in sheet.found]
    return row
