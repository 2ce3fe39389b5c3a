"""Prints the result of `kivel export`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli.report import Report, files_as_json
from kivel.core.wording import counted
from kivel.making.options.export_options import FEATURES, TARGETS

if TYPE_CHECKING:
    from kivel.making.exports.export import ExportMade
    from kivel.making.options.export_options import ExportOptions

__all__ = ["show"]


def _list(report: Report) -> None:
    """Each target with its forms; then what becomes of what a clip or a sheet may have."""
    from kivel.views.tables import add_row, plain_table  # a tenth of a second that exports need not spend

    for name, target in TARGETS.items():
        report.line(f"{name:6}  {target.about} ({', '.join(target.suffixes)})")
    report.line("")
    table = plain_table()
    for column in ("", *TARGETS):
        table.add_column(column)
    for number, feature in enumerate(FEATURES):
        add_row(table, feature, *(target.carries[number] for target in TARGETS.values()))
    report.tables([table])
    report.line("")
    report.line("written out: exactly, as steps and frames. noted: left out with a note (--strict makes it an error).")
    report.line("one: the map that --show names. For anything else, write your own profile: kivel profile new")
    targets = [
        {"name": name, **target._asdict(), "carries": dict(zip(FEATURES, target.carries, strict=True))}
        for name, target in TARGETS.items()
    ]
    report.document({"targets": targets})


def _report_changes(made: ExportMade, folder: Path, report: Report) -> None:
    """Return what would change in a pack: a line for each file that would, and how many would not."""
    same = sum(file.outcome == "unchanged" for file in made.files)
    for file in made.files:
        if file.outcome != "unchanged":
            report.line(f"{'+' if file.outcome == 'new' else '~'} {file.path.as_posix()}")
    for name in made.removed:
        report.line(f"- {(folder / name).as_posix()}")
    report.line(f"{counted(same, 'file')} unchanged")


def show(made: ExportMade, options: ExportOptions, report: Report) -> int:
    if options.list:
        _list(report)
        return 0
    if options.diff:
        _report_changes(made, Path(options.out or ""), report)
    else:
        report.written(made.files, {}, dry_run=options.dry_run)
        for name in made.removed:
            report.line(f"{Path(options.out or '') / name}   ({'would be removed' if options.dry_run else 'removed'})")
    report.document({"files": files_as_json(made.files), "removed": list(made.removed), "notes": list(made.notes)})
    changes = bool(made.removed) or any(file.outcome != "unchanged" for file in made.files)
    return 1 if options.diff and changes else 0
