"""A terminal taken over for a while, and given back as before, however that ends."""

from __future__ import annotations

import contextlib
import os
import sys
from collections.abc import Iterable
from types import TracebackType
from typing import Self

from kivel.cli.keyboard import keyboard
from kivel.core.errors import UsageError

__all__ = ["Screen"]

_ENTER = "\x1b[?1049h\x1b[?25l\x1b[2J"
"""The other screen, no cursor, cleared (xterm's private modes 1049 and 25, which every terminal here knows)."""
_LEAVE = "\x1b[0m\x1b[?25h\x1b[?1049l"


class Screen:
    """The whole terminal, keys as they are pressed.

    Raises
    ------
    UsageError
        When there is no terminal.
    """

    def __init__(self) -> None:
        if not (sys.stdin.isatty() and sys.stdout.isatty()) or os.environ.get("TERM") == "dumb":
            raise UsageError("there is no terminal to play in; kivel preview SRC -o OUT.apng makes a file to look at")
        self._keyboard = keyboard()

    def __enter__(self) -> Self:
        self._keyboard.begin(self)
        self.enter()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.leave()
        self._keyboard.end()

    @property
    def size(self) -> os.terminal_size:
        """Columns and lines, at least one of each."""
        columns, lines = os.get_terminal_size(sys.stdout.fileno())
        return os.terminal_size((columns or 80, lines or 24))

    def draw(self, lines: Iterable[str]) -> None:
        """Lines from the top, whatever else was there removed."""
        text = "\x1b[H" + "\x1b[K\r\n".join(lines) + "\x1b[K\x1b[J"
        sys.stdout.write(text)
        sys.stdout.flush()

    def key(self, timeout: float) -> str | None:
        """The next key within this many seconds."""
        return self._keyboard.key(timeout)

    def enter(self) -> None:
        sys.stdout.write(_ENTER)
        sys.stdout.flush()

    def leave(self) -> None:
        with contextlib.suppress(OSError):  # the terminal may be gone
            sys.stdout.write(_LEAVE)
            sys.stdout.flush()
