"""Keys as they are pressed, on every system: letters, `up`, `down`, `left`, `right`, `home`, `escape`."""

from __future__ import annotations

import contextlib
import os
import re
import signal
import sys
import time
from collections.abc import Callable
from importlib import import_module
from types import FrameType
from typing import Any, Protocol

from kivel.core.errors import UsageError

__all__ = ["Keyboard", "keyboard"]

_REST_OF_A_KEY = 0.05
"""Seconds that the rest of an arrow key's code may take over a slow line."""
_CODES = {
    b"\x1b[A": "up", b"\x1b[B": "down", b"\x1b[C": "right", b"\x1b[D": "left",
    b"\x1bOA": "up", b"\x1bOB": "down", b"\x1bOC": "right", b"\x1bOD": "left",
    b"\x1b[H": "home", b"\x1bOH": "home", b"\x1b[1~": "home", b"\x1b[7~": "home",
}  # fmt: skip
_CODE = re.compile(rb"\x1b(?:\[[0-?]*[ -/]*[@-~]|O.)")
"""A key that is no letter, known or not (ECMA-48, 5.4)."""
_LOOK_AGAIN = 0.01
_WINDOWS_CODES = {"H": "up", "P": "down", "M": "right", "K": "left", "G": "home"}
_ESCAPE = "\x1b"


class Keyboard(Protocol):
    """Keys without the line that a terminal would gather them in, between `begin` and `end`."""

    def begin(self, around: _Around) -> None: ...
    def end(self) -> None: ...

    def key(self, timeout: float) -> str | None:
        """The next key within this many seconds."""


class _Around(Protocol):
    """Who has the screen: it is given back while the program is suspended."""

    def leave(self) -> None: ...
    def enter(self) -> None: ...


def keyboard() -> Keyboard:
    """That of this system.

    Raises
    ------
    UsageError
        If it gives programs no single keys.
    """
    for module, kind in _KINDS.items():
        with contextlib.suppress(ImportError):
            return kind(import_module(module))
    raise UsageError("playing in this system's terminal is not possible; see kivel preview")


class _PosixKeyboard:
    """A terminal, by its descriptor."""

    def __init__(self, termios: Any) -> None:
        self._termios = termios
        self._input = sys.stdin.fileno()
        self._before = termios.tcgetattr(self._input)
        self._waiting = b""
        self._around: _Around | None = None

    def begin(self, around: _Around) -> None:
        self._around = around
        self._without_lines()
        signal.signal(signal.SIGTSTP, self._suspended)

    def end(self) -> None:
        signal.signal(signal.SIGTSTP, signal.SIG_DFL)
        self._as_before()

    def key(self, timeout: float) -> str | None:
        if not self._waiting:
            if not self._comes(timeout):
                return None
            self._waiting = os.read(self._input, 64)
            if not self._waiting:
                return "escape"  # nobody will ever press a key again
            if self._waiting == b"\x1b" and self._comes(_REST_OF_A_KEY):
                self._waiting += os.read(self._input, 64)
        code = _CODE.match(self._waiting)
        if code:
            self._waiting = self._waiting[code.end() :]
            return _CODES.get(code[0], "")
        letter, self._waiting = self._waiting[:1].decode("ascii", "replace"), self._waiting[1:]
        return "escape" if letter == _ESCAPE else letter

    def _comes(self, timeout: float) -> bool:
        import select

        return bool(select.select([self._input], [], [], max(timeout, 0))[0])

    def _without_lines(self) -> None:
        import tty

        tty.setcbreak(self._input)

    def _as_before(self) -> None:
        with contextlib.suppress(OSError, self._termios.error):  # the terminal may be gone
            self._termios.tcsetattr(self._input, self._termios.TCSADRAIN, self._before)

    def _suspended(self, _number: int, _frame: FrameType | None) -> None:
        """Ctrl-Z: the shell gets its terminal back, until the program goes on."""
        if self._around:
            self._around.leave()
        self.end()
        os.kill(os.getpid(), signal.SIGTSTP)
        if self._around:
            self.begin(self._around)
            self._around.enter()


class _WindowsKeyboard:
    """The console, which is asked again and again whether a key was pressed."""

    def __init__(self, msvcrt: Any) -> None:
        self._msvcrt = msvcrt

    def begin(self, around: _Around) -> None:
        pass

    def end(self) -> None:
        pass

    def key(self, timeout: float) -> str | None:
        until = time.monotonic() + timeout
        while not self._msvcrt.kbhit():
            if time.monotonic() >= until:
                return None
            time.sleep(_LOOK_AGAIN)
        letter: str = self._msvcrt.getwch()
        if letter in ("\0", "\xe0"):  # an arrow, or a key of no use here, follows
            return _WINDOWS_CODES.get(self._msvcrt.getwch(), "")
        if letter == "\x03":
            raise KeyboardInterrupt
        return "escape" if letter == _ESCAPE else letter


_KINDS: dict[str, Callable[[Any], Keyboard]] = {"termios": _PosixKeyboard, "msvcrt": _WindowsKeyboard}
