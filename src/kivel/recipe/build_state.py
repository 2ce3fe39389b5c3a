"""What is known of earlier builds: of each task what it was, what it read and what it wrote.

`.kivel/state-kivel.toml.jsonl` has a line for each task that was done, later lines in place of earlier ones, so that a
build that is killed loses nothing but what it was at. It can be deleted: then everything is made again.
"""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from kivel import __version__
from kivel.core.named_tuples import NamedTuple
from kivel.recipe.stamps import Stamp

__all__ = ["BuildState", "Record"]

_FORMAT = 1
_MOST_BYTES = 1 << 30


class Record(NamedTuple):
    """A task as it was done: `said` in full, by whom, and the stamps of files as they were before and after."""

    said: Mapping[str, Any]
    version: str
    inputs: Mapping[str, Stamp]
    outputs: Mapping[str, Stamp]


class BuildState:
    """Records by the names of tasks.

    `looked_ns` is when the oldest of them was written: a file as old as that may have changed since without a sign.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self.records: dict[str, Record] = {}
        self.looked_ns = 0
        self._lines = 0
        self._read()

    def _read(self) -> None:
        try:
            data = self._path.read_bytes()
        except OSError:
            return
        for line in data[:_MOST_BYTES].splitlines():
            try:
                self._take(json.loads(line))
            except (ValueError, KeyError, TypeError):
                continue  # of a build that was killed; its task is done again
        self.looked_ns = self._path.stat().st_mtime_ns

    def _take(self, found: Any) -> None:
        if found["format"] != _FORMAT:
            return
        self._lines += 1
        if "said" not in found:
            self.records.pop(found["name"], None)
            return
        stamps = [{path: Stamp(*stamp) for path, stamp in found[key].items()} for key in ("inputs", "outputs")]
        self.records[found["name"]] = Record(found["said"], found["version"], *stamps)

    def done(
        self, name: str, said: Mapping[str, Any], inputs: Mapping[str, Stamp], outputs: Mapping[str, Stamp]
    ) -> None:
        """Keep that a task was done."""
        self.records[name] = Record(said, __version__, dict(inputs), dict(outputs))
        self._append(name, self.records[name])

    def drop(self, name: str) -> None:
        """Forget a task."""
        if self.records.pop(name, None):
            self._append(name, None)

    def _append(self, name: str, record: Record | None) -> None:
        self._path.parent.mkdir(exist_ok=True)
        with open(self._path, "a", encoding="utf-8") as file:
            file.write(_line(name, record))
        self._lines += 1

    def tidy(self) -> None:
        """Write it anew where most of its lines are of no use any more."""
        if self._lines <= 2 * len(self.records) + 100:
            return
        beside = self._path.with_name(f"{self._path.name}.{os.getpid()}")
        beside.write_text("".join(_line(name, record) for name, record in self.records.items()), encoding="utf-8")
        os.replace(beside, self._path)
        self._lines = len(self.records)


def _line(name: str, record: Record | None) -> str:
    known = record._asdict() if record else {}
    return json.dumps({"format": _FORMAT, "name": name, **known}, ensure_ascii=False, separators=(",", ":")) + "\n"
