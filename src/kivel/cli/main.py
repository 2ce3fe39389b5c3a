"""`kivel COMMAND`: finds the command and runs it."""

from __future__ import annotations

import argparse
import gc
import os
import sys

from kivel import __version__
from kivel.making.commands import COMMANDS as MAKING

TYPE_CHECKING = False  # typing itself takes a tenth of the time to --help
if TYPE_CHECKING:
    from collections.abc import Sequence
    from typing import NoReturn

__all__ = ["ALL_COMMANDS", "main", "program"]

ALL_COMMANDS = {"demo": "draw demo art and run a full example on it", **MAKING}


def program() -> NoReturn:
    """What the installed program runs: `main`, without what a short-lived process need not do.

    Collecting garbage while modules load and taking the interpreter down in order are a tenth of a small sheet's time.
    Files are flushed and closed by then, in `OutputSet`.
    """
    gc.set_threshold(100_000)
    from kivel.cli.streams import StandardOutputError, complete, flush, given_up

    complete()
    try:
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
    args = _parser(words).parse_args(words)
    from kivel.cli.running import run  # not for --help

    return run(args)


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        """What was typed is shown as text, whatever it would do to a terminal."""
        from kivel.core.wording import printable

        super().error(printable(message))


def _parser(words: Sequence[str]) -> argparse.ArgumentParser:
    """The parser with the arguments of the one command that is named; the others are not even imported."""
    parser = _Parser(
        prog="kivel",
        description="Animation frames into sheets and back, with exact timing, for games.",
        epilog="kivel COMMAND --help shows examples. Begin with: kivel demo",
    )
    parser.add_argument("--version", action="version", version=f"kivel {__version__}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", dest="command", required=True)
    named = next((word for word in words if not word.startswith("-")), None)
    for name, summary in ALL_COMMANDS.items():
        one = commands.add_parser(
            name, help=summary, allow_abbrev=False, formatter_class=argparse.RawDescriptionHelpFormatter
        )
        if name == named:
            from kivel.cli.running import add_command

            add_command(one, name)
    return parser
