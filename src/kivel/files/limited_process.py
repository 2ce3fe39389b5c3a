"""A process of its own for what strangers wrote and would run here: templates, schemas. Time and memory are limited."""

from __future__ import annotations

import json
import math
import signal
import subprocess
import sys
import threading
from collections.abc import Mapping, Sequence
from pathlib import Path
from types import TracebackType
from typing import Any, Self

from kivel.core.errors import KivelError

__all__ = ["GaveUpError", "LimitedProcess"]

_SECONDS = 2.0
"""Processor time for one job; measured by the process itself, where the system has a clock for that."""
_WAIT_SECONDS = 60.0
"""For a start or an answer, which take a tenth of a second: on a busy machine a process waits for its turn."""
_LATE = [int(getattr(signal, name)) for name in ("SIGPROF", "SIGXCPU") if hasattr(signal, name)]
_MEMORY = 256 << 20
_CHILD = Path(__file__).with_name("limited_child.py")


class GaveUpError(Exception):
    """A job took too long, or needed too much memory; the text says which."""


class LimitedProcess:
    """Begun with jobs; gives their answers in order.

    Raises
    ------
    KivelError
        If it does not start.
    """

    def __init__(self, does: str, jobs: Sequence[Any], **given: Any) -> None:
        whole = {
            "does": does,
            "jobs": list(jobs),
            "memory": _MEMORY,
            "cpu_seconds": math.ceil(_SECONDS * (1 + len(jobs))),
            "job_seconds": _SECONDS,
            **given,
        }
        # isolated: no folder of the user's is searched for modules
        words = [sys.executable, "-I", str(_CHILD)]
        self._child = subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
        threading.Thread(target=_give, args=(self._child, json.dumps(whole).encode()), daemon=True).start()
        if not self._line()[0]:
            self._end()
            raise KivelError("the process for templates and schemas did not start; is Kivel installed completely?")

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._end()

    def answer(self) -> Mapping[str, Any]:
        """Return what it says of the next job; raises `GaveUpError`."""
        line, late = self._line()
        if not line:
            raise GaveUpError(f"it takes longer than {_SECONDS:.0f} seconds" if late else "it needs too much memory")
        answer: Mapping[str, Any] = json.loads(line)
        return answer

    def _line(self) -> tuple[bytes, bool]:
        """Return what it says next, nothing if it ends before, and whether that was because it took too long."""
        assert self._child.stdout
        clock = threading.Timer(_WAIT_SECONDS, self._child.kill)
        clock.start()
        try:
            line = self._child.stdout.readline()
            late = not line and (not clock.is_alive() or -self._child.wait() in _LATE)
            return line, late
        finally:
            clock.cancel()

    def _end(self) -> None:
        self._child.kill()
        self._child.wait()
        assert self._child.stdout
        self._child.stdout.close()


def _give(child: subprocess.Popen[bytes], data: bytes) -> None:
    assert child.stdin
    try:
        with child.stdin as stream:
            stream.write(data)
    except OSError:
        pass  # it has ended; what it said of that is read by the other thread
