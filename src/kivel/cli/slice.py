"""What `kivel slice` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.frames import frames_document, frames_line
from kivel.cli.report import Report
from kivel.cli.sheets import report_sheets

if TYPE_CHECKING:
    from kivel.making.cutting.handled_sheets import HandledSheets
    from kivel.making.options.slice_options import SliceOptions

__all__ = ["show"]


def show(made: HandledSheets, options: SliceOptions, report: Report) -> int:
    report_sheets(
        report,
        made,
        dry_run=options.dry_run,
        line=lambda sheet, manifest: frames_line(options, manifest, sheet.files),
        document=lambda sheet, manifest: frames_document(manifest, [*sheet.files, *sheet.regions]),
    )
    return 0
