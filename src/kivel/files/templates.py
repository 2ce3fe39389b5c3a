"""Templates (Jinja2, sandboxed) rendered in a process of their own, with limits on time, memory and length."""

from __future__ import annotations

import json
import subprocess
import sys
import threading
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple

__all__ = ["RenderJob", "TemplateError", "rendered"]

_SECONDS = 2.0
"""For one rendering; a process takes a tenth of a second to start."""
_START_SECONDS = 10.0
_MEMORY = 256 << 20
_CHILD = Path(__file__).with_name("template_child.py")


class RenderJob(NamedTuple):
    """A template by its number, and what it is given: plain JSON values."""

    template: int
    variables: Mapping[str, Any]


class TemplateError(KivelError):
    """A template that cannot be rendered: the number of the job, and the template's line from 1, where it is known."""

    def __init__(self, message: str, *, job: int, line: int | None) -> None:
        super().__init__(message)
        self.job = job
        self.line = line


def rendered(templates: Sequence[str], jobs: Sequence[RenderJob]) -> list[str]:
    """The text of each job.

    Raises
    ------
    TemplateError
        Of the first job that fails, takes longer than two seconds, needs more than 256 MB or writes without end.
    """
    if not jobs:
        return []
    given = {"templates": list(templates), "jobs": list(jobs), "memory": _MEMORY, "cpu_seconds": 2 + 2 * len(jobs)}
    # isolated: no folder of the user's is searched for modules
    words = [sys.executable, "-I", str(_CHILD)]
    child = subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
    assert child.stdin
    assert child.stdout
    writer = threading.Thread(target=_give, args=(child, json.dumps(given).encode()), daemon=True)
    writer.start()
    try:
        if not _line(child, _START_SECONDS)[0]:
            raise KivelError("the process that renders templates did not start; is Jinja2 installed whole?")
        return [_answer(child, number) for number in range(len(jobs))]
    finally:
        child.kill()
        child.wait()
        child.stdout.close()


def _give(child: subprocess.Popen[bytes], data: bytes) -> None:
    assert child.stdin
    try:
        with child.stdin as stream:
            stream.write(data)
    except OSError:
        pass  # it has ended; what it said of that is read by the other thread


def _line(child: subprocess.Popen[bytes], seconds: float) -> tuple[bytes, bool]:
    """What it says next, nothing if it ends before, and whether that was because it took too long."""
    assert child.stdout
    clock = threading.Timer(seconds, child.kill)
    clock.start()
    try:
        return child.stdout.readline(), not clock.is_alive()
    finally:
        clock.cancel()


def _answer(child: subprocess.Popen[bytes], job: int) -> str:
    line, late = _line(child, _SECONDS)
    if not line:
        why = f"it takes longer than {_SECONDS:.0f} seconds" if late else "it needs too much memory"
        raise TemplateError(why, job=job, line=None)
    answer = json.loads(line)
    if "error" in answer:
        raise TemplateError(answer["error"], job=job, line=answer["line"])
    text: str = answer["text"]
    return text
