"""One command: its arguments, its work, the text about it, and what becomes of errors."""

from __future__ import annotations

import argparse
import sys
import warnings
from collections.abc import Mapping
from io import TextIOWrapper
from typing import Any

from kivel.cli import help_line
from kivel.cli.arguments import add_help, add_options, given
from kivel.cli.interrupts import ends_as_interrupts, was_interrupted
from kivel.cli.report import Report
from kivel.cli.streams import StandardOutputError, flush, given_up, library_prints, say
from kivel.cli.telling import run_command
from kivel.core.errors import KivelError
from kivel.core.wording import printable
from kivel.making.commands import command
from kivel.making.options.option import Options

__all__ = ["add_command", "run"]

_USAGE, _INTERRUPTED = 2, 130


def add_command(parser: argparse.ArgumentParser, name: str) -> None:
    """The arguments of a command, and its help. What reports its result is loaded when there is one."""
    options: type[Options]
    if name == "demo":
        from kivel.cli.demo_options import ABOUT, DemoOptions  # one command of twenty needs it, as below

        about, options = ABOUT, DemoOptions
    else:
        about, options = command(name).about.strip(), command(name).options
    add_options(parser, options)
    add_help(parser, name, about, options)
    if name == "prep":
        from kivel.cli.step_listing import add_step_listing

        add_step_listing(parser)
    group = parser.add_argument_group("output format")
    group.add_argument("--json", action="store_true")
    group.add_argument("--json-schema", action=_PrintSchema, nargs=0)
    group.add_argument("-q", "--quiet", action="store_true")
    group.add_argument("-v", "--verbose", action="store_true")


class _PrintSchema(argparse.Action):
    """Prints and ends, as --help does."""

    def __call__(self, parser: argparse.ArgumentParser, _: object, values: object, option: object = None) -> None:  # noqa: ARG002
        from kivel.cli.document_schemas import document_schema
        from kivel.views.rows import json_text

        say(json_text(document_schema(parser.prog.rpartition(" ")[2]), indent=2))
        parser.exit()


def run(args: argparse.Namespace) -> int:
    """Run the command that was parsed; what goes wrong becomes one line and an exit code."""
    if isinstance(sys.stdout, TextIOWrapper):
        sys.stdout.reconfigure(errors="backslashreplace")  # a file name is no reason to fail
    report = Report(as_json=args.json, quiet=args.quiet, command=args.command)
    with ends_as_interrupts(), warnings.catch_warnings(), library_prints(report.note) as report.err:
        warnings.simplefilter("ignore")  # what matters of the libraries' is raised later, as an error
        return _code(args, report)


def _code(args: argparse.Namespace, report: Report) -> int:
    try:
        code = _told(args, report)
        flush()
        return code
    except KivelError as error:
        more = f"\n{help_line(f'kivel {args.command}')}" if error.exit_code == _USAGE else ""
        return _failed(report, f"error: {error}{more}", error.exit_code, error.document())
    except KeyboardInterrupt:
        return _failed(report, _interrupted(report), _INTERRUPTED, {"code": "interrupted"})
    except StandardOutputError as error:
        return given_up(error, report.err)
    except MemoryError:
        line = "error: not enough memory for this; try smaller frames or fewer --jobs"
        return _failed(report, line, 1, {"code": "memory"})
    except Exception as error:
        if was_interrupted(error):
            return _failed(report, _interrupted(report), _INTERRUPTED, {"code": "interrupted"})
        if args.verbose:
            raise
        line = f"error: a bug in Kivel, please report it: {_bug(error)} (-v shows where)"
        return _failed(report, line, 1, {"code": "bug"})


def _told(args: argparse.Namespace, report: Report) -> int:
    try:
        if args.command == "demo":
            from kivel.cli import demo

            return demo.run(args, report)
        if args.command == "again" and "behind" in args:
            from kivel.cli.again import command_before, run_again

            options = given(args)
            args.command = command_before(options).name  # whose help is more useful after an error
            return run_again(options, args.behind, report)
        return run_command(args.command, given(args), report)
    finally:
        report.stop()


def _failed(report: Report, line: str, code: int, document: Mapping[str, Any]) -> int:
    print(line, file=report.err)
    plain = {"message": line.removeprefix("error: "), "file": None, "line": None, "key": None, "hint": None}
    try:
        report.error({"code": "", **plain, **document})
        flush()
    except StandardOutputError:
        pass  # nobody reads it; what is wrong is noted
    return code


def _interrupted(report: Report) -> str:
    """Return the message after an interrupt: sets are whole or not written at all."""
    from kivel.core.wording import counted, first_few

    files = [file.path.as_posix() for file in report.files if file.outcome != "unchanged"]
    if not files:
        return "interrupted; nothing was written"
    return f"interrupted; {counted(len(files), 'file')} were finished before that: {first_few(files)}"


def _bug(error: Exception) -> str:
    return printable(f"{type(error).__name__}: {error}")
