"""Prints the result of `kivel inspect`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.report import Report
from kivel.cli.streams import say
from kivel.views.inspection_tables import clip_table, group_table, page_table, series_table, summary_table

if TYPE_CHECKING:
    from rich.table import Table

    from kivel.making.looking.inspect import InspectMade
    from kivel.making.options.inspect_options import InspectOptions
    from kivel.sequences.choosing import ListedSeries
    from kivel.sequences.inspection import PageCheck

__all__ = ["show"]


def show(made: InspectMade, _: InspectOptions, report: Report) -> int:
    if made.schema is not None:
        say(made.schema, end="")
        return 0
    if made.series:
        return _list_series(made, report)
    if not report.is_silent:
        report.tables(_tables(made))
    if made.files:
        report.line("")
        described = {made.files[0].path.name: "chart of changes, seam and mass, 1280x800 px"}
        report.written(made.files, described, dry_run=False)
    if made.found:
        first = made.found[0]
        report.line("")
        report.line(f"as a sheet: {first.described()} ({first.percent} sure; kivel slice takes it apart)")
    inspection = made.inspection
    document = inspection.document() if inspection else {"pages": [_page(page) for page in made.pages]}
    report.document(document | ({"found": [way.document() for way in made.found]} if made.found else {}))
    return 0 if made.is_as_stated else 1


def _list_series(made: InspectMade, report: Report) -> int:
    if not report.is_silent:
        report.line(f"{len(made.series)} series; inspect one of them: --series NAME, or its pattern")
        report.line("")
        report.tables([series_table(made.series)])
    report.document({"series": [_series(one) for one in made.series], "notes": list(made.notes)})
    return 0


def _series(one: ListedSeries) -> dict[str, object]:
    return {
        "name": one.name,
        "pattern": one.pattern.strip('"'),
        "frames": one.frames,
        "first": one.numbers[0] if one.numbers else None,
        "last": one.numbers[1] if one.numbers else None,
        "sizes": [{"size": list(size), "frames": count} for size, count in one.sizes],
    }


def _page(page: PageCheck) -> dict[str, object]:
    return page._asdict() | {"size": list(page.size)}


def _tables(made: InspectMade) -> list[Table]:
    inspection = made.inspection
    tables = [summary_table(inspection)] if inspection else []
    if inspection and inspection.clips:
        tables.append(clip_table(inspection.clips))
        tables += [group_table(inspection.frames.groups)] if inspection.frames.groups else []
    if made.pages:
        tables.append(page_table(made.pages))
    return tables
