"""Describes what is known of earlier builds: of each task what it was, what it read and what it wrote.

`.kivel/state-kivel.toml.jsonl` has a line for each task that was done, later lines in place of earlier ones, so that a
build that is killed loses nothing but what it was at. Each line has the mark of this user's key in front; a line
without it says nothing. The file can be deleted: then everything is made again.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from kivel import __version__
from kivel.core.named_tuples import NamedTuple
from kivel.files.own_folder import OwnFolder
from kivel.files.own_state import is_own, own_mark, state_key
from kivel.recipe.stamps import Stamp

__all__ = ["BuildState", "Record"]

_FORMAT = 2
_MOST_BYTES = 1 << 30
_PURPOSE = "build state"


class Record(NamedTuple):
    """A finished task: `said` in full, by whom, and the stamps of files before and after."""

    said: Mapping[str, Any]
    version: str
    inputs: Mapping[str, Stamp]
    outputs: Mapping[str, Stamp]


class BuildState:
    """Records by the names of tasks, kept in a folder, or where there is none for as long as the process lives.

    `looked_ns` is when the youngest of them was written: a file as young as that may have changed since without a sign.
    """

    def __init__(self, folder: OwnFolder | None, recipe: str) -> None:
        self._folder = folder
        self._name = f"state-{recipe}.jsonl"
        self.records: dict[str, Record] = {}
        self.looked_ns = 0
        self._lines = 0
        if folder:
            self._read(folder)

    def _read(self, folder: OwnFolder) -> None:
        key = state_key()
        for line in (folder.bytes_of(self._name, most=_MOST_BYTES) or b"").splitlines():
            mark, _, text = line.partition(b" ")
            if not is_own(_PURPOSE, self._marked(text), mark.decode("ascii", "replace"), key=key):
                continue  # of a build that was killed, its task is done again; or somebody else's
            try:
                self._take(json.loads(text))
            except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
                continue  # of another version
        self.looked_ns = max((one.used_ns for one in folder.entries() if one.name == self._name), default=0)

    def _marked(self, text: bytes) -> bytes:
        return self._name.encode() + b"\n" + text

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
        self._lines += 1
        if self._folder is None:
            return
        try:
            self._folder.append(self._name, self._line(name, record))
        except OSError:  # a link, a pipe, or a file that has a second name, in a backup say: it is left as it is
            self._write(self._folder)

    def tidy(self) -> None:
        """Write it again where most of its lines are of no use any more."""
        if self._folder and self._lines > 2 * len(self.records) + 100:
            self._write(self._folder)

    def _write(self, folder: OwnFolder) -> None:
        folder.write(self._name, b"".join(self._line(name, record) for name, record in self.records.items()))
        self._lines = len(self.records)

    def _line(self, name: str, record: Record | None) -> bytes:
        known = record._asdict() if record else {}
        text = json.dumps({"format": _FORMAT, "name": name, **known}, ensure_ascii=True, separators=(",", ":")).encode()
        return own_mark(_PURPOSE, self._marked(text)).encode() + b" " + text + b"\n"
