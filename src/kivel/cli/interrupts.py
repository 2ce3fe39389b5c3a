"""Telling an interrupt from a fault, and losing none."""

from __future__ import annotations

import _thread
import contextlib
import signal
import sys
import threading
import time

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Iterator
    from sys import UnraisableHookArgs
    from types import FrameType

__all__ = ["ends_as_interrupts", "lose_none", "was_interrupted"]

_ENDS = ("SIGTERM", "SIGHUP")

_UNTIL_AGAIN = 0.01
"""Seconds after which code that swallowed an interrupt has ended."""


_come: list[int] = []
"""Interrupts that have come while a command runs."""


def was_interrupted(error: BaseException | None) -> bool:
    """Whether an interrupt is behind an error.

    Python 3.11 wraps what is raised while a class is made (`__set_name__`), and a library in C that is being loaded
    may raise an error of its own in place of it.
    """
    return bool(_come) or _is_of_an_interrupt(error)


def _is_of_an_interrupt(error: BaseException | None) -> bool:
    while error is not None and not isinstance(error, KeyboardInterrupt):
        error = error.__cause__
    return error is not None


@contextlib.contextmanager
def ends_as_interrupts() -> Iterator[None]:
    """Have closed terminals and shutdowns clean up as Ctrl-C does; whoever called has their own handlers back then."""
    numbers = [getattr(signal, name) for name in _ENDS if hasattr(signal, name)]
    if signal.getsignal(signal.SIGINT) is signal.default_int_handler:  # a shell's background job ignores it
        numbers.append(signal.SIGINT)
    if threading.current_thread() is threading.main_thread():
        _come.clear()
    else:
        numbers = []  # only there may handlers be set, and only there they run
    before = [(number, signal.signal(number, _interrupt)) for number in numbers]
    try:
        yield
    finally:
        for number, handler in before:
            signal.signal(number, handler if handler is not None else signal.SIG_DFL)


def _interrupt(number: int, _frame: FrameType | None) -> None:
    _come.append(number)
    raise KeyboardInterrupt


def lose_none() -> None:
    """Have interrupts come again where Python would print and forget them: in destructors and weak references' calls.

    While a module loads there are many such moments.
    """
    sys.unraisablehook = _unraisable


def _unraisable(ignored: UnraisableHookArgs) -> None:
    if _is_of_an_interrupt(ignored.exc_value):
        _thread.start_new_thread(_interrupt_again, ())
    else:
        sys.__unraisablehook__(ignored)


def _interrupt_again() -> None:
    time.sleep(_UNTIL_AGAIN)
    # a shell's background job ignores the first
    handled = (number for number in (signal.SIGINT, signal.SIGTERM) if callable(signal.getsignal(number)))
    _thread.interrupt_main(next(handled, signal.SIGINT))
