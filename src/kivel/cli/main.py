"""`kivel COMMAND`: finds the command and runs it."""

from __future__ import annotations

import argparse
import gc
import os
import sys

from kivel import __version__
from kivel.cli.word_parser import Parser, unknown_words
from kivel.making.commands import COMMANDS as MAKING
from kivel.making.commands import ORDER_OF_WORK

TYPE_CHECKING = False  # typing itself takes a tenth of the time to --help
if TYPE_CHECKING:
    from collections.abc import Sequence
    from typing import NoReturn

__all__ = ["ALL_COMMANDS", "main", "program"]

_DEMO = {"demo": "draw demo art and run a short example on it"}
ALL_COMMANDS = {**_DEMO, **MAKING}


def program() -> NoReturn:
    """Run what the installed program runs: `main`, without what a short-lived process need not do.

    Collecting garbage while modules load and taking the interpreter down in order are a tenth of a small sheet's time.
    Files are flushed and closed by then, in `OutputSet`.
    """
    gc.set_threshold(100_000)
    from kivel.cli.interrupts import lose_none
    from kivel.cli.streams import StandardOutputError, complete, flush, given_up

    lose_none()
    try:
        complete()
        try:
            code = main()
        except SystemExit as left:  # --help, --version and wrong usage
            code = int(left.code or 0)
        flush()
    except StandardOutputError as error:
        code = given_up(error, sys.stderr)
    sys.stderr.flush()
    os._exit(code)


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; the exit code is 0, 1 (the input), 2 (the usage) or 130 (interrupted)."""
    words = list(sys.argv[1:] if argv is None else argv)
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # NumPy would start threads that nothing here uses
    asked = os.environ.get("COMP_LINE") if "_ARGCOMPLETE" in os.environ else None
    if asked is not None:
        from kivel.cli.completion import complete_line

        complete_line(_parser(asked.split()[1:]))
    if words[:1] == ["help"] and words[1:2] not in ([], ["--help"], ["-h"]):
        from kivel.cli.word_help import help_on

        words = help_on(words[1:], list(ALL_COMMANDS))
        if not words:
            return 0
    elif words[:1] == ["help"]:
        words = []
    parser = _parser(words)
    if not words:
        _say_program_help()
        return 0
    args, unknown = parser.parse_known_args(words)
    if unknown and args.command == "again":
        if words.index(unknown[0]) == 1:
            parser.error_of("again", f"TARGET comes first, then {unknown[0]}")
        args.behind = unknown  # options of the command that made what is named
    elif unknown:
        parser.error_of(args.command, unknown_words(unknown, parser.options_of(args.command)))
    from kivel.cli.running import run  # not for --help

    return run(args)


def _say_program_help() -> None:
    from kivel.cli.command_help import program_help
    from kivel.cli.streams import say

    last = {"whole projects": {**ORDER_OF_WORK["whole projects"], **_DEMO}}
    say(program_help({**ORDER_OF_WORK, **last}))


class _PrintHelp(argparse.Action):
    """Prints and ends."""

    def __call__(self, parser: argparse.ArgumentParser, *_: object) -> None:
        _say_program_help()
        parser.exit()


class _PrintScript(argparse.Action):
    """Prints and ends, as --help does."""

    def __call__(self, parser: argparse.ArgumentParser, _: object, values: object, option: object = None) -> None:  # noqa: ARG002
        from kivel.cli.completion import script
        from kivel.cli.streams import say

        say(script(str(values)))
        parser.exit()


def _parser(words: Sequence[str]) -> Parser:
    """The parser with the arguments of the one command that is named; the others are not even imported."""
    parser = Parser(prog="kivel", allow_abbrev=False, add_help=False)
    # what is added to the parser itself is formatted to prove it, which takes a module more
    group = parser.add_argument_group("options")
    group.add_argument("-h", "--help", action=_PrintHelp, nargs=0)
    group.add_argument("-V", "--version", action="version", version=f"kivel {__version__}")
    group.add_argument("--completion", choices=("bash", "zsh", "fish"), action=_PrintScript, metavar="SHELL")
    parser.commands = commands = parser.add_subparsers(
        metavar="COMMAND", dest="command", required=True,
        prog="kivel",  # else the usage is formatted to find it, which takes a whole module more
    )  # fmt: skip
    Parser.as_json, Parser.known_commands = "--json" in words, list(ALL_COMMANDS)
    named = next((word for word in words if not word.startswith("-")), None)
    # the others are there for the help of all, and to find the one that was meant
    only = words[:1] if words and words[0] in ALL_COMMANDS else ALL_COMMANDS
    for name in only:
        one = commands.add_parser(name, allow_abbrev=False, add_help=False)
        if name == named:
            from kivel.cli.running import add_command

            add_command(one, name)
    return parser
