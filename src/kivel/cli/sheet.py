"""Prints the result of `kivel sheet`."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.cli.report import Report, clips_line, files_as_json, maps_described
from kivel.core.wording import counted
from kivel.views.motion_lines import motion_document, motion_lines

if TYPE_CHECKING:
    from kivel.files.manifest.model import Manifest
    from kivel.making.options.sheet_options import SheetOptions
    from kivel.making.sheets.sheet_cells import SheetMade

__all__ = ["show"]


def show(made: SheetMade, options: SheetOptions, report: Report) -> int:
    if options.into:
        return _show_added(made, options, report)
    manifest = made.manifest
    described = maps_described(manifest)
    described |= {page.maps["color"].file: _page_line(manifest, number) for number, page in enumerate(manifest.pages)}
    described[_manifest_name(made)] = clips_line(manifest.clips)
    report.written(made.files, described, dry_run=options.dry_run)
    for line in motion_lines(made.motion) if made.motion else ():
        report.line(line)
    report.document(
        {
            "files": files_as_json(made.files),
            "size": list(manifest.pages[0].size),
            "pages": len(manifest.pages),
            **_grid_document(manifest),
            "frames": len(manifest.frames),
            "maps": list(manifest.pages[0].maps),
            "clips": [clip.name for clip in manifest.clips],
            **motion_document(made.motion),
            "notes": list(made.notes),
        }
    )
    return 0


def _grid_document(manifest: Manifest) -> dict[str, Any]:
    """Nothing where frames lie where they lay on a sheet that had no grid."""
    grid = manifest.grid
    if grid is None:
        return {}
    empty = len(manifest.pages) * grid.columns * grid.rows - len(manifest.frames)
    return {"columns": grid.columns, "rows": grid.rows, "cell": list(grid.cell), "empty": empty}


def _manifest_name(made: SheetMade) -> str:
    return made.files[-1].path.name


def _show_added(made: SheetMade, options: SheetOptions, report: Report) -> int:
    manifest = made.manifest
    new = manifest.frames[made.first :]
    span = f"{counted(len(new), 'frame')}, {_span(range(made.first, len(manifest.frames)))}"
    described = {file.path.name: f"added {span}" for file in made.files}
    added = [clip for clip in manifest.clips if min(step.frame for step in clip.steps) >= made.first]
    described[Path(options.into or "").name] = clips_line(added)
    report.written(made.files, described, dry_run=options.dry_run)
    report.document(
        {
            "files": files_as_json(made.files),
            "added": [frame.name for frame in new],
            "frames": len(manifest.frames),
            "clips": [clip.name for clip in manifest.clips],
            "notes": list(made.notes),
        }
    )
    return 0


def _page_line(manifest: Manifest, number: int) -> str:
    page = manifest.pages[number].size
    on_page = [index for index, frame in enumerate(manifest.frames) if frame.page == number]
    if manifest.grid is None:
        return f"{page} px: {_frames(on_page)}, each in its place"
    grid = manifest.grid.cells()
    empty = grid.capacity - len(on_page)
    parts = [f"{page} px: {_frames(on_page)}"]
    parts.append(f"{counted(grid.columns, 'column')} x {counted(grid.rows, 'row')} of {grid.cell}")
    if empty:
        parts.append(f"{counted(empty, 'cell')} empty")
    right, below = page.w - grid.size.w, page.h - grid.size.h
    if right or below:
        parts.append(f"{right} px unused to the right, {below} below")
    return ", ".join(parts)


def _frames(numbers: Sequence[int]) -> str:
    return f"{len(numbers)} frames, {_span(numbers)}" if len(numbers) > 1 else "1 frame"


def _span(numbers: Sequence[int]) -> str:
    return f"{numbers[0]}-{numbers[-1]}" if len(numbers) > 1 else str(numbers[0])
