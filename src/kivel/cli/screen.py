"""A terminal taken over for a while, and given back as it was, however that ends."""

from __future__ import annotations

import contextlib
import os
import select
import signal
import sys
from collections.abc import Iterable
from types import FrameType, TracebackType
from typing import Any, Self

from kivel.core.errors import UsageError

__all__ = ["Screen"]

_ENTER = "\x1b[?1049h\x1b[?25l\x1b[2J"
"""The other screen, no cursor, cleared (xterm's private modes 1049 and 25, which every terminal here knows)."""
_LEAVE = "\x1b[0m\x1b[?25h\x1b[?1049l"
_REST_OF_A_KEY = 0.05
"""Seconds that the rest of an arrow key's code may take over a slow line."""
_KEYS = {
    b"\x1b[A": "up", b"\x1b[B": "down", b"\x1b[C": "right", b"\x1b[D": "left",
    b"\x1bOA": "up", b"\x1bOB": "down", b"\x1bOC": "right", b"\x1bOD": "left", b"\t": "tab", b"\x1b": "escape",
}  # fmt: skip


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
        try:
            import termios
        except ImportError:
            raise UsageError("playing in this system's terminal is not possible yet; see kivel preview") from None
        self._input = sys.stdin.fileno()
        self._termios: Any = termios
        self._before = termios.tcgetattr(self._input)
        self._waiting = b""

    def __enter__(self) -> Self:
        self._enter()
        signal.signal(signal.SIGTSTP, self._suspended)
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        signal.signal(signal.SIGTSTP, signal.SIG_DFL)
        self._leave()

    @property
    def size(self) -> os.terminal_size:
        """Columns and lines, at least one of each."""
        columns, lines = os.get_terminal_size(self._input)
        return os.terminal_size((columns or 80, lines or 24))

    def draw(self, lines: Iterable[str]) -> None:
        """Lines from the top, whatever else was there removed."""
        text = "\x1b[H" + "\x1b[K\r\n".join(lines) + "\x1b[K\x1b[J"
        sys.stdout.write(text)
        sys.stdout.flush()

    def key(self, timeout: float) -> str | None:
        """The next key within so many seconds: its letter, or `up`, `down`, `left`, `right`, `tab`, `escape`."""
        if not self._waiting:
            if not select.select([self._input], [], [], max(timeout, 0))[0]:
                return None
            self._waiting = os.read(self._input, 64)
            if not self._waiting:
                return "escape"  # nobody will ever press a key again
            if self._waiting == b"\x1b" and select.select([self._input], [], [], _REST_OF_A_KEY)[0]:
                self._waiting += os.read(self._input, 64)
        for code in sorted(_KEYS, key=len, reverse=True):
            if self._waiting.startswith(code):
                self._waiting = self._waiting[len(code) :]
                return _KEYS[code]
        letter, self._waiting = self._waiting[:1], self._waiting[1:]
        return letter.decode("ascii", "replace")

    def _enter(self) -> None:
        import tty

        tty.setcbreak(self._input)
        sys.stdout.write(_ENTER)
        sys.stdout.flush()

    def _leave(self) -> None:
        with contextlib.suppress(OSError):  # the terminal may be gone
            sys.stdout.write(_LEAVE)
            sys.stdout.flush()
        with contextlib.suppress(OSError, self._termios.error):
            self._termios.tcsetattr(self._input, self._termios.TCSADRAIN, self._before)

    def _suspended(self, _number: int, _frame: FrameType | None) -> None:
        """Ctrl-Z: the shell gets its terminal back, until the program goes on."""
        self._leave()
        signal.signal(signal.SIGTSTP, signal.SIG_DFL)
        os.kill(os.getpid(), signal.SIGTSTP)
        signal.signal(signal.SIGTSTP, self._suspended)
        self._enter()
