"""`kivel COMMAND`: finds the command, runs it, and turns what goes wrong into one line and an exit code."""

from __future__ import annotations

import argparse
import gc
import os
import signal
import sys
import warnings
from collections.abc import Sequence
from io import TextIOWrapper
from types import FrameType
from typing import NoReturn

from kivel import __version__
from kivel.cli.arguments import given
from kivel.cli.report import Report
from kivel.cli.running import add_command, run_command
from kivel.core.errors import KivelError
from kivel.making.commands import COMMANDS as MAKING

__all__ = ["COMMANDS", "main", "program"]

COMMANDS = {"demo": "draw demo art and run a full example on it", **MAKING}

_INTERRUPTED = 130


def program() -> NoReturn:
    """What the installed program runs: `main`, without what a short-lived process need not do.

    Collecting garbage while modules load and taking the interpreter down in order are a tenth of a small sheet's time.
    Files are flushed and closed by then, in `OutputSet`.
    """
    gc.set_threshold(100_000)
    code = main()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; the exit code is 0, 1 (the input), 2 (the usage) or 130 (interrupted)."""
    words = list(sys.argv[1:] if argv is None else argv)
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # NumPy would start threads that nothing here uses
    if isinstance(sys.stdout, TextIOWrapper):
        sys.stdout.reconfigure(errors="backslashreplace")  # a file name is no reason to fail
    warnings.filterwarnings("ignore", module="PIL")  # what matters of them is raised later, as an error
    args = _parser(words).parse_args(words)
    verbose = args.verbose
    for name in ("SIGTERM", "SIGHUP"):  # closed terminals and shutdowns clean up as Ctrl-C does
        if hasattr(signal, name):
            signal.signal(getattr(signal, name), _interrupt)
    try:
        code = _run(args)
        sys.stdout.flush()
        return code
    except KivelError as error:
        return _failed(f"error: {error}", error.exit_code)
    except KeyboardInterrupt:
        return _failed("interrupted; nothing was written", _INTERRUPTED)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())  # nobody reads on; nothing is left to flush
        return 0
    except MemoryError:
        return _failed("error: not enough memory for this; try smaller frames or fewer --jobs", 1)
    except Exception as error:
        if verbose:
            raise
        return _failed(f"error: a bug in Kivel, please report it: {_bug(error)} (-v shows where)", 1)


def _failed(line: str, code: int) -> int:
    print(line, file=sys.stderr)
    return code


def _bug(error: Exception) -> str:
    return f"{type(error).__name__}: {error}".splitlines()[0]


def _interrupt(_number: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _run(args: argparse.Namespace) -> int:
    report = Report(as_json=args.json, quiet=args.quiet)
    try:
        if args.command == "demo":
            from kivel.cli import demo

            return demo.run(args, report)
        return run_command(args.command, given(args), report)
    finally:
        report.stop()


def _parser(words: Sequence[str]) -> argparse.ArgumentParser:
    """The parser with the arguments of the one command that is named; the others are not even imported."""
    parser = argparse.ArgumentParser(
        prog="kivel",
        description="Animation frames into sheets and back, with exact timing, for games.",
        epilog="kivel COMMAND --help shows examples. Begin with: kivel demo",
    )
    parser.add_argument("--version", action="version", version=f"kivel {__version__}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", dest="command", required=True)
    named = next((word for word in words if not word.startswith("-")), None)
    for name, summary in COMMANDS.items():
        one = commands.add_parser(
            name, help=summary, allow_abbrev=False, formatter_class=argparse.RawDescriptionHelpFormatter
        )
        if name == named:
            add_command(one, name)
    return parser
