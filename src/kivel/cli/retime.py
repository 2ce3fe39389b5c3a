"""Prints the result of `kivel retime`."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.cli.report import Report, files_as_json
from kivel.core.wording import counted
from kivel.files.manifest.text import plain_value
from kivel.views.clip_changes import change_table

if TYPE_CHECKING:
    from kivel.files.manifest.model import Manifest
    from kivel.making.options.retime_options import RetimeOptions
    from kivel.making.playback.retime import RetimeMade

__all__ = ["show"]


def show(made: RetimeMade, options: RetimeOptions, report: Report) -> int:
    report.tables([change_table(made.changes)] if made.changes else [])
    report.written(made.files, {made.files[0].path.name: _described(made.manifest)}, dry_run=options.dry_run)
    report.document(
        {
            "files": files_as_json(made.files),
            "changes": [{"before": plain_value(before), "after": plain_value(after)} for before, after in made.changes],
            "groups": [
                {"name": group.name, "members": list(group.members), "choose": group.choose}
                for group in made.manifest.groups
            ],
            "notes": list(made.notes),
        }
    )
    return 0


def _described(manifest: Manifest) -> str:
    text = counted(len(manifest.clips), "clip")
    for group in manifest.groups:
        text += f', group "{group.name}" ({group.choose} of {len(group.members)})'
    return text
