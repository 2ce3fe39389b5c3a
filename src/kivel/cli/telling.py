"""A command from its options to the text about its result."""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from typing import Any

from kivel.cli.report import Report
from kivel.making.commands import command
from kivel.making.work import Work

__all__ = ["run_command"]


def run_command(name: str, given: Mapping[str, Any], report: Report, **more: Any) -> int:
    """Make what a command makes and tell of it; the exit code. `more` is what its work takes besides options.

    Raises
    ------
    KivelError
        What the options, the input or the disk do not allow.
    """
    said = import_module(f"kivel.cli.{name}")
    one = command(name)
    if hasattr(said, "before"):
        said.before()
    options = one.options.of(given, door="command")
    more |= {"advance": said.advance} if hasattr(said, "advance") else {}
    work = Work(None if hasattr(said, "NOTES_AT_END") else report)
    try:
        made = one.run(options, work, **more)
    finally:
        report.files += work.files
        report.edits += work.edits
    code: int = said.show(made, options, report)
    return code
