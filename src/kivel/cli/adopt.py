"""Prints the result of `kivel adopt`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.report import Report, file_line, files_as_json
from kivel.cli.sheets import report_sheets
from kivel.core.wording import counted

if TYPE_CHECKING:
    from kivel.files.manifest.model import Manifest
    from kivel.making.cutting.handled_sheets import HandledSheets
    from kivel.making.options.adopt_options import AdoptOptions

__all__ = ["show"]


def show(made: HandledSheets, options: AdoptOptions, report: Report) -> int:
    report_sheets(
        report,
        made,
        dry_run=options.dry_run,
        line=lambda sheet, manifest: file_line(sheet.files[0], _described(manifest), dry_run=options.dry_run),
        document=lambda sheet, manifest: {
            "files": files_as_json([*sheet.files, *sheet.regions]),
            "frames": len(manifest.frames),
            "clips": [clip.name for clip in manifest.clips],
        },
    )
    return 0


def _described(manifest: Manifest) -> str:
    clips = ", ".join(clip.name for clip in manifest.clips)
    grid = manifest.grid
    where = (
        f"{grid.columns} x {grid.rows} cells of {grid.cell} px"
        if grid
        else "no grid"
        if manifest.is_layout
        else "a file each"
    )
    return f"{counted(len(manifest.frames), 'frame')}, {where}; {counted(len(manifest.clips), 'clip')}: {clips}"
