"""The text about pictures that were taken apart."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from kivel.cli.report import Report

if TYPE_CHECKING:
    from kivel.files.manifest.model import Manifest
    from kivel.making.cutting.handled_sheets import HandledSheet, HandledSheets

__all__ = ["report_sheets"]


def report_sheets(
    report: Report,
    made: HandledSheets,
    *,
    dry_run: bool,
    line: Callable[[HandledSheet, Manifest], str],
    document: Callable[[HandledSheet, Manifest], dict[str, Any]],
) -> None:
    """For each a `line`, or the ways it may divide where that is not sure; for scripts a `document`."""
    for sheet in made.sheets:
        if sheet.manifest is None:
            report.line(f"{sheet.source}  may be")
            for number, way in enumerate(sheet.found, 1):
                report.line(way.line(number))
            continue
        report.line(line(sheet, sheet.manifest))
        described = {file.path.name: "regions, for editing" for file in sheet.regions}
        report.written(sheet.regions, described, dry_run=dry_run)
    described = {file.path.name: "the likeliest divisions" for file in made.looks}
    report.written(made.looks, described, dry_run=dry_run)
    rows = []
    for sheet in made.sheets:
        of_it = document(sheet, sheet.manifest) if sheet.manifest is not None else {}
        found = {"found": [way.document() for way in sheet.found]} if sheet.found else {}
        rows.append({"source": sheet.source, **of_it, **found})
    report.document({**(rows[0] if len(rows) == 1 else {"sheets": rows}), "notes": list(made.notes)})
