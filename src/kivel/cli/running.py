"""One command: its arguments, its work, and what is said of it."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Mapping
from functools import partial
from importlib import import_module
from typing import Any

from kivel.cli.arguments import add_options
from kivel.cli.report import Report
from kivel.making.commands import command
from kivel.making.work import Work

__all__ = ["add_command", "run_command"]


def add_command(parser: argparse.ArgumentParser, name: str) -> None:
    """The arguments of a command. Its module here has `EXAMPLES`, and perhaps more arguments to add."""
    said = import_module(f"kivel.cli.{name}")
    if name == "demo":
        said.add_arguments(parser)
    else:
        one = command(name)
        parser.description = one.about
        parser.epilog = said.EXAMPLES
        add_options(parser, one.options)
        if hasattr(said, "add_more"):
            said.add_more(parser)
    _add_telling(parser)


def _add_telling(parser: argparse.ArgumentParser) -> None:
    """How the result is told; every command has these."""
    group = parser.add_argument_group("telling")
    group.add_argument("--json", action="store_true", help="print the result as one JSON document")
    group.add_argument("-q", "--quiet", action="store_true", help="print errors only")
    group.add_argument("-v", "--verbose", action="store_true", help="show where in Kivel a bug is")


def run_command(name: str, given: Mapping[str, Any], report: Report) -> int:
    """Make what a command makes and tell of it; the exit code.

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
    make: Callable[..., Any] = one.make
    if hasattr(said, "advance"):
        make = partial(make, advance=said.advance)
    work = Work(None if hasattr(said, "NOTES_AT_END") else report)
    code: int = said.show(make(options, work), options, report)
    return code
