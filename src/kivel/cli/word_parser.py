"""The parser of command lines, and what it says of words that it cannot take."""

from __future__ import annotations

import argparse

from kivel.cli import help_line

TYPE_CHECKING = False  # typing itself takes a tenth of the time to --help
if TYPE_CHECKING:
    from collections.abc import Callable, Sequence
    from re import Match
    from typing import NoReturn

    from kivel.core.suggestions import WordKind

__all__ = ["Parser", "unknown_words"]


def unknown_words(words: Sequence[str], options: Sequence[str]) -> str:
    """Return what to say of words that nothing takes; the first is what people mistyped."""
    word = words[0].partition("=")[0]
    if not word.startswith("-"):
        return f"{words[0]!r} is unexpected; quote names with spaces"
    return f"unknown option {word}{_meant(word, options, 'option')}"


_IN_OUR_WORDS: tuple[tuple[str, Callable[[Match[str]], str]], ...] = (
    (r"argument COMMAND: invalid choice: '(.*)' \(choose from .*", lambda found: _no_command(found[1])),
    (r"the following arguments are required: (.*)", lambda found: f"{found[1]} is needed"),
    (r"argument (\S+): expected one argument", lambda found: f"{found[1]} needs a value"),
    (r"argument (\S+): (.*)", lambda found: f"{found[1]}: {found[2]}"),
)
"""Messages of argparse, and ours instead."""


def _no_command(word: str) -> str:
    return f"unknown command {word!r}{_meant(word, Parser.known_commands, 'command')}"


def _meant(word: str, known: Sequence[str], kind: WordKind) -> str:
    from kivel.core.suggestions import did_you_mean  # only where something is mistyped

    return did_you_mean(word, known, kind=kind)


class Parser(argparse.ArgumentParser):
    """Says what is wrong first, as all of Kivel does, and then how to get help."""

    commands: argparse._SubParsersAction[Parser]
    known_commands: Sequence[str] = ()
    as_json = False
    """Whether what is wrong is noted as a document too."""

    def error(self, message: str) -> NoReturn:
        import re

        for pattern, in_our_words in _IN_OUR_WORDS:
            if found := re.fullmatch(pattern, message, re.DOTALL):
                message = in_our_words(found)
                break
        self._leave(self.prog, message)

    def error_of(self, command: str, message: str) -> NoReturn:
        """The same for one of its commands."""
        self._leave(f"{self.prog} {command}", message)

    def options_of(self, command: str) -> list[str]:
        """As they are written."""
        return list(self.commands.choices[command]._option_string_actions)

    def _leave(self, prog: str, message: str) -> NoReturn:
        from kivel.core.errors import spelled
        from kivel.core.wording import printable

        message = spelled(message, "command")
        if self.as_json:
            from kivel.cli.report import Report
            from kivel.core.errors import UsageError

            Report(as_json=True, quiet=False).error(UsageError(message).document())
        self.exit(2, f"error: {printable(message)}\n{help_line(prog)}\n")
