"""Describes what people and scripts get to read: results on stdout, notes and progress on stderr."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Any, TextIO

from kivel.cli.streams import say
from kivel.core.numbers import whole_number
from kivel.core.wording import WARNING, printable
from kivel.making.work import Note, Progress

if TYPE_CHECKING:
    from rich.table import Table

    from kivel.core.playback.clip import Clip
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.sequences.reconciling.frame_edits import FrameEdit

__all__ = ["Report", "clips_line", "file_line", "files_as_json", "maps_described"]

_PAGES = (".png", ".exr")
_PATIENCE = 0.5
"""Seconds before a progress bar appears; most work is done by then."""


class Report:
    """The one voice of a command; it watches the work."""

    def __init__(self, *, as_json: bool, quiet: bool, command: str = "") -> None:
        self.command = command
        self.as_json = as_json
        self.quiet = quiet
        self.err: TextIO = sys.stderr
        """Where notes and progress go."""
        self.files: list[Written] = []
        """All that was put in place so far."""
        self.edits: list[FrameEdit] = []
        """Says what was done to the frames that were taken, since a manifest said something of them."""
        self._bar: _Bar | None = None

    @property
    def is_silent(self) -> bool:
        """Whether people get to read nothing."""
        return self.quiet or self.as_json

    def __call__(self, event: Note | Progress) -> None:
        """A note, which in JSON is part of the result; or progress, a bar on a terminal."""
        if self.is_silent:
            return
        if isinstance(event, Note):
            self.note(event.text)
        elif self.err.isatty():
            self._show(event)

    def note(self, text: str) -> None:
        """A note that is no part of the result."""
        if self.is_silent:
            return
        line = text if text.startswith(WARNING) else f"note: {text}"
        if self._bar is None or not self._bar.say_above(line):
            print(line, file=self.err)

    def _show(self, event: Progress) -> None:
        if not event.done:
            self.stop()
            self._bar = _Bar(event.what, event.total, self.err)
        elif self._bar is not None:
            self._bar.show(event.done)
        if event.done >= event.total:
            self.stop()

    def stop(self) -> None:
        """Take a bar away that is there."""
        if self._bar is not None:
            self._bar.stop()
            self._bar = None

    def fault(self, text: str) -> None:
        """Print what failed while other things went on; it is never silent."""
        self.stop()
        print(f"error: {text}", file=self.err)

    def line(self, text: str) -> None:
        """A line of the result, for people."""
        if not self.is_silent:
            say(printable(text))

    def tables(self, tables: Iterable[Table]) -> None:
        """Tables of the result, for people: as wide as `COLUMNS` says, or the terminal is; coloured there, unless
        `NO_COLOR` is set.
        """
        if self.is_silent:
            return
        from kivel.views.tables import render

        terminal = sys.stdout.isatty()
        width = whole_number(os.environ.get("COLUMNS", "")) or (os.get_terminal_size().columns if terminal else None)
        say(render(tables, colour=terminal and not os.environ.get("NO_COLOR"), width=width))

    def document(self, content: dict[str, Any]) -> None:
        """The result for scripts, under --json, with what it is and its version."""
        edits = {"edits": [_edit_as_json(edit) for edit in self.edits]} if self.edits else {}
        self.plain_document({"format": f"kivel-{self.command}", "version": 1, **content, **edits})

    def plain_document(self, content: dict[str, Any]) -> None:
        """The same of what has a form of its own."""
        if self.as_json:
            from kivel.views.rows import json_text

            say(json_text(content, indent=2))

    def error(self, content: dict[str, Any]) -> None:
        """Print what ended the command, for scripts, under --json."""
        self.plain_document({"format": "kivel-error", "version": 1, "error": content})

    def written(self, files: Sequence[Written], described: dict[str, str], *, dry_run: bool) -> None:
        """A line for each file: its path, what it is, and what became of it."""
        width = max((len(str(file.path)) for file in files), default=0)
        for file in files:
            text = described.get(file.path.name, "")
            if text and file.path.suffix.lower() in _PAGES:
                text = f"{text}; {file.length:,} bytes"
            self.line(file_line(file, text, dry_run=dry_run, width=width))


def file_line(file: Written, text: str, *, dry_run: bool, width: int = 0) -> str:
    """A file's path, what it is, and what became of it."""
    outcome = {"new": "", "replaced": " (replaced)", "unchanged": " (unchanged)", "removed": " (removed)"}[file.outcome]
    would = " (not written: --dry-run)" if dry_run and file.outcome not in ("unchanged", "removed") else ""
    return f"{file.path!s:{width}}  {text}{outcome}{would}".rstrip()


class _Bar:
    """A progress bar that is made only when the work turns out to be long."""

    def __init__(self, what: str, total: int, err: TextIO) -> None:
        self._what, self._total, self._err = what, total, err
        self._start = time.monotonic()
        self._progress: Any = None

    def show(self, done: int) -> None:
        if self._progress is None and time.monotonic() - self._start > _PATIENCE:
            from rich.console import Console
            from rich.progress import Progress as Bars

            self._progress = Bars(console=Console(file=self._err), transient=True)
            self._progress.start()
            self._task = self._progress.add_task(self._what, total=self._total)
        if self._progress is not None:
            self._progress.update(self._task, completed=done)

    def say_above(self, line: str) -> bool:
        """Print a line above the bar; False if there is no bar yet."""
        if self._progress is None:
            return False
        self._progress.console.print(line, markup=False, highlight=False, emoji=False, soft_wrap=True)
        return True

    def stop(self) -> None:
        if self._progress is not None:
            self._progress.stop()


def _edit_as_json(edit: FrameEdit) -> dict[str, Any]:
    """Return what it has to say, a hold in exact seconds."""
    hold = None if edit.hold is None else [edit.hold.numerator, edit.hold.denominator]
    content = {**edit._asdict(), "clips": list(edit.clips), "hold": hold}
    return {key: value for key, value in content.items() if value not in (None, [])}


def files_as_json(files: Iterable[Written]) -> list[dict[str, Any]]:
    """Return what became of each file."""
    return [{"path": file.path.as_posix(), "outcome": file.outcome, "bytes": file.length} for file in files]


def clips_line(clips: Sequence[Clip]) -> str:
    """The first clip, and how many there are."""
    from kivel.core.playback.notation import format_repeat, format_seconds
    from kivel.core.wording import counted

    if not clips:
        return "no clips"
    clip = clips[0]
    more = f", and {counted(len(clips) - 1, 'more clip')}" if len(clips) > 1 else ""
    steps = counted(len(clip.steps), "step")
    return f'clip "{clip.name}": {steps}, {format_seconds(clip.length)}, {format_repeat(clip.repeat)}{more}'


def maps_described(manifest: Manifest) -> dict[str, str]:
    """The text about each companion map's file."""
    return {
        file.file: f'map "{name}"' + (f", {file.scale} as large" if file.scale else "")
        for page in manifest.pages
        for name, file in page.maps.items()
        if name != "color"
    }
