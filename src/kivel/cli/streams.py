"""Standard output and error: what libraries print there, and when nobody takes what we print."""

from __future__ import annotations

import contextlib
import errno
import io
import os
import sys
from collections.abc import Callable, Iterator
from typing import TextIO

from kivel.core.wording import first_few, printable

__all__ = ["StandardOutputError", "complete", "flush", "given_up", "library_prints", "say"]

_READER_GONE = (errno.EPIPE, errno.EINVAL)
"""As POSIX systems say it, and Windows."""
_MOST_KEPT = 1 << 16


@contextlib.contextmanager
def library_prints(tell: Callable[[str], object]) -> Iterator[TextIO]:
    """Hide what libraries print on standard error, and sum it up in one note at the end.

    Those in C write to the descriptor itself, others to `sys.stderr`. Gives the stream that is ours alone meanwhile.
    """
    before = sys.stderr
    try:
        ours = os.dup(2)
        kept = _scratch_file()
    except OSError:  # no standard error at all
        yield before
        return
    with (
        open(ours, "w", encoding=getattr(before, "encoding", None), errors="backslashreplace", buffering=1) as stream,
        open(kept, "w+", errors="replace", buffering=1) as theirs,
    ):
        os.dup2(kept, 2)
        sys.stderr = theirs
        try:
            # in a test, or under another program, it may be something else than the descriptor
            yield stream if _descriptor_of(before) == 2 else before
        finally:
            sys.stderr = before
            theirs.flush()
            os.dup2(ours, 2)
            theirs.seek(0)
            lines = dict.fromkeys(line.strip() for line in theirs.read(_MOST_KEPT).splitlines())
            if said := [printable(line) for line in lines if line]:
                tell(f"an image library says: {first_few(said, most=3)}")


def _descriptor_of(stream: object) -> int | None:
    try:
        return stream.fileno()  # type: ignore[attr-defined, no-any-return]
    except (AttributeError, io.UnsupportedOperation, ValueError):
        return None


def _scratch_file() -> int:
    if hasattr(os, "memfd_create"):
        return os.memfd_create("prints")
    import tempfile  # slow to load

    with tempfile.TemporaryFile() as file:
        return os.dup(file.fileno())


def complete() -> None:
    """Give the process the standard streams that it was started without: no file must take their place."""
    for descriptor, name, mode in ((0, "stdin", "r"), (1, "stdout", "w"), (2, "stderr", "w")):
        try:
            os.fstat(descriptor)
        except OSError:
            if os.open(os.devnull, os.O_RDWR) != descriptor:  # the lowest that is free
                raise
        if getattr(sys, name) is None:
            setattr(sys, name, open(descriptor, mode, errors="backslashreplace", closefd=False))  # noqa: SIM115


class StandardOutputError(Exception):
    """Nobody takes what is printed."""


def say(text: str, *, end: str = "\n", flush: bool = False) -> None:
    """Print on standard output, the only way in which Kivel does.

    Raises
    ------
    StandardOutputError
        If it cannot be written.
    """
    try:
        print(text, end=end, flush=flush)
    except OSError as error:
        raise StandardOutputError from error


def flush() -> None:
    """Raises what `say` does."""
    try:
        sys.stdout.flush()
    except OSError as error:
        raise StandardOutputError from error


def given_up(error: StandardOutputError, err: TextIO) -> int:
    """Leave standard output alone from here on; the exit code. That its reader has gone is no fault (`| head`).

    `err` is where to say what else is wrong.
    """
    with contextlib.suppress(OSError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    cause = error.__cause__
    if not isinstance(cause, OSError) or cause.errno in _READER_GONE:
        return 0
    print(f"error: standard output cannot be written: {cause.strerror or cause}", file=err)
    return 1
