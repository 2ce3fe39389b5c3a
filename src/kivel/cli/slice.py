"""Prints the result of `kivel slice`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import frames_document, frames_line
from kivel.cli.report import Report
from kivel.cli.sheets import report_sheets
from kivel.core.wording import counted

if TYPE_CHECKING:
    from kivel.making.cutting.handled_sheets import HandledSheets
    from kivel.making.options.slice_options import SliceOptions

__all__ = ["show"]


def show(made: HandledSheets, options: SliceOptions, report: Report) -> int:
    report_sheets(
        report,
        made,
        dry_run=options.dry_run,
        line=lambda sheet, manifest: (
            frames_line(options, manifest, sheet.files)
            if sheet.files
            else f"{sheet.source}  {counted(len(manifest.frames), 'region')}; no frames written, -o DIR writes them"
        ),
        document=lambda sheet, manifest: frames_document(manifest, [*sheet.files, *sheet.regions]),
    )
    return 0
