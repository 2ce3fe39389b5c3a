"""`kivel COMMAND`: finds the command and runs it."""

from __future__ import annotations

import argparse
import gc
import os
import sys

from kivel import __version__
from kivel.cli import help_line
from kivel.making.commands import COMMANDS as MAKING

TYPE_CHECKING = False  # typing itself takes a tenth of the time to --help
if TYPE_CHECKING:
    from collections.abc import Callable, Sequence
    from re import Match
    from typing import NoReturn

__all__ = ["ALL_COMMANDS", "main", "program"]

ALL_COMMANDS = {"demo": "draw demo art and run a full example on it", **MAKING}


def program() -> NoReturn:
    """What the installed program runs: `main`, without what a short-lived process need not do.

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
    parser = _parser(words)
    if not words:
        parser.print_help()
        return 0
    args, unknown = parser.parse_known_args(words)
    if unknown:
        parser.error_of(args.command, _unknown(unknown, parser.options_of(args.command)))
    from kivel.cli.running import run  # not for --help

    return run(args)


def _unknown(words: Sequence[str], options: Sequence[str]) -> str:
    """What to say of words that nothing takes; the first is what people mistyped."""
    word = words[0].partition("=")[0]
    if not word.startswith("-"):
        return f"{words[0]!r} is one word too many; quote what belongs together"
    return f"there is no option {word}{_meant(word, options)}"


_IN_OUR_WORDS: tuple[tuple[str, Callable[[Match[str]], str]], ...] = (
    (r"argument COMMAND: invalid choice: '(.*)' \(choose from .*", lambda found: _no_command(found[1])),
    (r"the following arguments are required: (.*)", lambda found: f"{found[1]} is needed"),
    (r"argument (\S+): expected one argument", lambda found: f"{found[1]} needs a value behind it"),
    (r"argument (\S+): (.*)", lambda found: f"{found[1]}: {found[2]}"),
)
"""What argparse says, and what is said instead."""


def _no_command(word: str) -> str:
    return f"there is no command {word!r}{_meant(word, list(ALL_COMMANDS))}"


def _meant(word: str, known: Sequence[str]) -> str:
    from kivel.core.suggestions import did_you_mean  # only where something is mistyped

    return did_you_mean(word, known)


class _Parser(argparse.ArgumentParser):
    """Says what is wrong first, as all of Kivel does, and then how to get help."""

    commands: argparse._SubParsersAction[_Parser]
    as_json = False
    """Whether what is wrong is told as a document too."""

    def error(self, message: str) -> NoReturn:
        import re

        for pattern, in_our_words in _IN_OUR_WORDS:
            if found := re.fullmatch(pattern, message, re.DOTALL):
                message = in_our_words(found)
                break
        self._leave(self.prog, message)

    def error_of(self, command: str, message: str) -> NoReturn:
        """Of one of its commands."""
        self._leave(f"{self.prog} {command}", message)

    def options_of(self, command: str) -> list[str]:
        """As they are written."""
        return list(self.commands.choices[command]._option_string_actions)

    def _leave(self, prog: str, message: str) -> NoReturn:
        from kivel.core.wording import printable

        if self.as_json:
            from kivel.cli.report import Report
            from kivel.core.errors import UsageError

            Report(as_json=True, quiet=False).error(UsageError(message).document())
        self.exit(2, f"error: {printable(message)}\n{help_line(prog)}\n")


class _PrintScript(argparse.Action):
    """Prints and ends, as --help does."""

    def __call__(self, parser: argparse.ArgumentParser, _: object, values: object, option: object = None) -> None:  # noqa: ARG002
        from kivel.cli.completion import script
        from kivel.cli.streams import say

        say(script(str(values)))
        parser.exit()


def _parser(words: Sequence[str]) -> _Parser:
    """The parser with the arguments of the one command that is named; the others are not even imported."""
    parser = _Parser(
        prog="kivel",
        description="Animation frames into sheets and back, with exact timing, for games.",
        epilog="kivel COMMAND --help shows examples. Begin with: kivel demo",
        allow_abbrev=False, add_help=False,
    )  # fmt: skip
    # what is added to the parser itself is formatted to prove it, which takes a module more
    group = parser.add_argument_group("options")
    group.add_argument("-h", "--help", action="help", help="print this")
    group.add_argument(
        "-V", "--version", action="version", version=f"kivel {__version__}", help="print which Kivel this is"
    )
    group.add_argument(
        "--completion", choices=("bash", "zsh", "fish"), action=_PrintScript, metavar="SHELL",
        help="print what makes bash, zsh or fish complete commands, options, files and clips",
    )  # fmt: skip
    parser.commands = commands = parser.add_subparsers(
        title="commands", metavar="COMMAND", dest="command", required=True,
        prog="kivel",  # else the usage is formatted to find it, which takes a whole module more
    )  # fmt: skip
    _Parser.as_json = "--json" in words
    named = next((word for word in words if not word.startswith("-")), None)
    # the others are there for the help of all, and to find the one that was meant
    only = words[:1] if words and words[0] in ALL_COMMANDS else ALL_COMMANDS
    for name in only:
        one = commands.add_parser(
            name, help=ALL_COMMANDS[name], allow_abbrev=False, add_help=False,
            formatter_class=argparse.RawDescriptionHelpFormatter,
        )  # fmt: skip
        if name == named:
            from kivel.cli.running import add_command

            add_command(one, name)
    return parser
