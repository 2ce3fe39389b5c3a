"""Reads the options after the target of `kivel again`, and prints its result."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from importlib import import_module
from typing import TYPE_CHECKING, Any

from kivel.cli.arguments import add_options, command_line, given
from kivel.cli.report import Report
from kivel.cli.word_parser import Parser, unknown_words
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from typing import NoReturn

    from kivel.making.again import AgainMade
    from kivel.making.commands import Command
    from kivel.making.options.again_options import AgainOptions

__all__ = ["command_before", "given_behind", "run_again", "show"]


class _Behind(Parser):
    """For what follows the target; what is wrong there is reported like all that is found on the way."""

    def _leave(self, prog: str, message: str) -> NoReturn:  # noqa: ARG002 - as it is called
        raise UsageError(message)


def given_behind(one: Command, words: Sequence[str]) -> Mapping[str, Any]:
    """Return the options of the command that made the target, by their names, as they are written behind it.

    Raises
    ------
    UsageError
        If it has no such option.
    """
    parser = _Behind(prog=f"kivel {one.name}", allow_abbrev=False, add_help=False)
    add_options(parser, one.options, positional=False)
    args, unknown = parser.parse_known_args(words)
    if unknown:
        parser.error(unknown_words(unknown, list(parser._option_string_actions)))
    return given(args)


def command_before(given: Mapping[str, Any]) -> Command:
    """Return the command that made the target."""
    from kivel.making.again import made_before

    return made_before(given["target"]).command


def run_again(given: Mapping[str, Any], behind: Sequence[str], report: Report) -> int:
    """Run `again` with options of the command that made its target, and return the exit code."""
    from kivel.cli.telling import run_command

    return run_command("again", given, report, instead=given_behind(command_before(given), behind))


def show(made: AgainMade, options: AgainOptions, report: Report) -> int:  # noqa: ARG001 - as all of them
    declared = made.options.declared()
    told = {
        name: texts if declared[name].many or len(texts) > 1 else texts[0]
        for name, texts in made.options.texts.items()
        if declared[name].kept
    }
    report.note(f"same as {command_line(made.command, type(made.options), told)}")
    code: int = import_module(f"kivel.cli.{made.command}").show(made.made, made.options, report)
    return code
