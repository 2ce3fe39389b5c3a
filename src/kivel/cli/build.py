"""Prints the result of `kivel build`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli.report import Report, files_as_json
from kivel.cli.streams import flush
from kivel.core.errors import KivelError
from kivel.core.wording import counted, first_few
from kivel.making.work import Work
from kivel.recipe.build import make_build
from kivel.recipe.watching import changes
from kivel.views.rows import json_text

if TYPE_CHECKING:
    from kivel.recipe.build import BuildMade
    from kivel.recipe.build_options import BuildOptions
    from kivel.recipe.runner import Outcome

__all__ = ["show"]


def show(made: BuildMade, options: BuildOptions, report: Report) -> int:
    code = _show_made(made, options, report)
    if not options.watch:
        return code
    return _watch(options, report)


def _watch(options: BuildOptions, report: Report) -> int:
    """Until Ctrl-C, which is how it ends; what cannot be built is noted, and waits for the next change."""
    begun = False
    try:
        for changed in changes(Path(options.file)):
            if changed:
                report.line(f"changed: {first_few(changed)}")
            try:
                made = make_build(options, Work(report))
                if changed or any(one.state != "up to date" for one in made.outcomes):
                    _show_made(made, options, report)
            except KivelError as error:
                report.fault(str(error))
            if not begun:
                report.line("watching; Ctrl-C ends it")
            begun = True
            flush()
    except KeyboardInterrupt:
        return 0
    return 0


def _show_made(made: BuildMade, options: BuildOptions, report: Report) -> int:
    if made.schema is not None:
        for line in [] if report.as_json else json_text(made.schema, indent=2).splitlines():
            report.line(line)
        report.plain_document(made.schema)
        return 0
    shown = [one for one in made.outcomes if one.state != "up to date" or options.why]
    for outcome in shown:
        _show(outcome, report)
    for path in made.leftover:
        report.line(f"no longer built: {path}")
    for path in made.removed:
        report.line(f"removed: {path}")
    report.written(made.files, {}, dry_run=options.dry_run)
    if not (options.list or options.why or options.clean or options.init or options.ninja):
        report.line(_summary(made))
    for outcome in made.outcomes:
        if outcome.error is not None:
            report.fault(f"{outcome.task.line}: {outcome.error}")
    report.document(
        {
            "tasks": [_document(one) for one in made.outcomes],
            "leftover": list(made.leftover),
            "removed": list(made.removed),
            "notes": list(made.notes),
            "files": files_as_json(made.files),
        }
    )
    return 1 if made.failed else 0


def _document(one: Outcome) -> dict[str, object]:
    known: dict[str, object] = {
        "name": one.task.name,
        "command": one.task.command,
        "state": one.state,
        "reasons": list(one.reasons),
        "files": list(one.files),
        "changed": list(one.changed),
    }
    return known | ({"error": one.error} if one.error is not None else {})


def _show(outcome: Outcome, report: Report) -> None:
    task = outcome.task
    if outcome.state == "built":
        what = first_few(outcome.changed) if outcome.changed else "unchanged"
        what = "no findings" if task.command == "check" else what
        what = counted(len(outcome.changed), "file") if task.step and outcome.changed else what
    elif outcome.state == "listed":
        what = first_few(outcome.files) or "fails if it finds an error"
    else:
        what = "; ".join(outcome.reasons[:3]) or "nothing changed"
        more = len(outcome.reasons) - 3
        what += f"; and {more} more" if more > 0 else ""
    report.line(f"{outcome.state if outcome.state != 'listed' else '':11} {task.name}: {what}".strip())


def _summary(made: BuildMade) -> str:
    words = ("built", "out of date", "failed", "skipped", "up to date")
    counts = {word: sum(one.state == word for one in made.outcomes) for word in words}
    return ", ".join(f"{count} {word}" for word, count in counts.items() if count) or "the recipe has nothing to build"
