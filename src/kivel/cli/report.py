"""What people and scripts get to read: results on stdout, notes and progress on stderr."""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import sys
import time
from collections.abc import Callable, Iterable, Iterator
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from rich.table import Table

    from kivel.files.safety import Written

__all__ = ["Report", "files_as_json"]

_PATIENCE = 0.5
"""Seconds before a progress bar appears; most work is done by then."""


class Report:
    """The one voice of a command."""

    def __init__(self, args: argparse.Namespace) -> None:
        self.as_json: bool = args.json
        self._quiet: bool = args.quiet

    def notes(self, notes: Iterable[str]) -> None:
        """Things a person should know though the work goes on; in JSON they are part of the result."""
        if self._quiet or self.as_json:
            return
        for note in notes:
            print(f"note: {note}", file=sys.stderr)

    def line(self, text: str) -> None:
        """A line of the result, for people."""
        if not (self._quiet or self.as_json):
            print(text)

    def tables(self, tables: Iterable[Table]) -> None:
        """Tables of the result, for people: as wide as the terminal, in colour there unless `NO_COLOR` is set."""
        if self._quiet or self.as_json:
            return
        from kivel.views.tables import render

        terminal = sys.stdout.isatty()
        width = os.get_terminal_size().columns if terminal else None
        print(render(tables, colour=terminal and not os.environ.get("NO_COLOR"), width=width))

    def document(self, content: dict[str, Any]) -> None:
        """The result for scripts, under --json."""
        if self.as_json:
            print(json.dumps(content, ensure_ascii=False, indent=2))

    def written(self, files: Iterable[Written], described: dict[str, str], *, dry_run: bool) -> None:
        """A line for each file: its path, what it is, and what became of it."""
        files = list(files)
        width = max((len(str(file.path)) for file in files), default=0)
        for file in files:
            outcome = {"new": "", "replaced": " (replaced)", "unchanged": " (unchanged)"}[file.outcome]
            would = " (not written: --dry-run)" if dry_run and file.outcome != "unchanged" else ""
            text = described.get(file.path.name, "")
            self.line(f"{file.path!s:{width}}  {text}{outcome}{would}".rstrip())

    @contextlib.contextmanager
    def progress(self, what: str, total: int) -> Iterator[Callable[[], None]]:
        """A function to call after each of `total` pieces of work; a bar on a terminal if they take a while."""
        if self._quiet or self.as_json or not sys.stderr.isatty():
            yield lambda: None
            return
        bar = _Bar(what, total)
        try:
            yield bar.advance
        finally:
            bar.stop()

    def watching(self, what: str) -> Callable[[Iterable[bytes], int], Iterator[bytes]]:
        """`watched`, for whoever knows the pieces and how many there are."""
        return lambda pieces, total: self.watched(what, pieces, total)

    def watched(self, what: str, pieces: Iterable[bytes], total: int) -> Iterator[bytes]:
        """The pieces as they come, with progress."""
        with self.progress(what, total) as advance:
            for piece in pieces:
                yield piece
                advance()


class _Bar:
    """A progress bar that is made only when the work turns out to be long."""

    def __init__(self, what: str, total: int) -> None:
        self._what, self._total = what, total
        self._done = 0
        self._start = time.monotonic()
        self._progress: Any = None

    def advance(self) -> None:
        self._done += 1
        if self._progress is None and time.monotonic() - self._start > _PATIENCE:
            from rich.console import Console
            from rich.progress import Progress

            self._progress = Progress(console=Console(stderr=True), transient=True)
            self._progress.start()
            self._task = self._progress.add_task(self._what, total=self._total)
        if self._progress is not None:
            self._progress.update(self._task, completed=self._done)

    def stop(self) -> None:
        if self._progress is not None:
            self._progress.stop()


def files_as_json(files: Iterable[Written]) -> list[dict[str, Any]]:
    """What became of each file."""
    return [{"path": file.path.as_posix(), "outcome": file.outcome, "bytes": file.length} for file in files]
