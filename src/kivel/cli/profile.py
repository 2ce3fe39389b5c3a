"""Prints the result of `kivel profile`."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from kivel.cli.report import Report, files_as_json
from kivel.core.wording import counted
from kivel.making.exports.pack_variables import VARIABLE_HELP

if TYPE_CHECKING:
    from kivel.making.exports.profile import ProfileMade
    from kivel.making.options.profile_options import ProfileOptions

__all__ = ["show"]


_WIDEST = 92
_ONE_OF = {"clip": "clips", "group": "groups", "frame": "frames"}


def show(made: ProfileMade, options: ProfileOptions, report: Report) -> int:
    report.document(
        {
            "files": files_as_json(made.files),
            "about": made.about,
            "outputs": list(made.outputs),
            "variables": made.variables,
            "notes": list(made.notes),
        }
    )
    if options.action == "new":
        report.written(made.files, {}, dry_run=options.dry_run)
    elif options.action == "check":
        on = f"; on {counted(len(options.on), 'sheet')} it makes {counted(len(made.outputs), 'file')}:"
        report.line(f"{options.file}: no errors{on if options.on else ''}")
        for name in made.outputs:
            report.line(f"  {name}")
    else:
        for line in _variable_lines(made.variables):
            report.line(line)
    return 0


def _variable_lines(variables: dict[str, Any]) -> Iterator[str]:
    """Each name with its value; of lists the first item, the others are alike."""
    for name, about in VARIABLE_HELP.items():
        yield f"{name:8} {about}"
        if name in _ONE_OF:
            yield f"  {name}: an item of {_ONE_OF[name]}"
        elif name in variables:
            yield from _values(f"  {name}", variables[name])


def _values(name: str, value: Any) -> Iterator[str]:
    if isinstance(value, dict):
        for key, each in value.items():
            yield from _values(f"{name}.{key}", each)
    elif isinstance(value, list) and value and isinstance(value[0], dict):
        yield f"{name}: {counted(len(value), 'item')}, the first:"
        yield from _values(f"{name}[0]", value[0])
    else:
        text = json.dumps(value, ensure_ascii=False)
        yield f"{name} = {text if len(text) <= _WIDEST else f'{text[:_WIDEST]}...'}"
