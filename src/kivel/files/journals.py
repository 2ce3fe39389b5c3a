"""Describes what a stage says of itself: whose it is, and in its journal what each of its files is to be called.

Both carry a digest with the user's key. A folder that looks like a stage, in a clone or an archive, proves nothing.
"""

from __future__ import annotations

import contextlib
import json
import os
from pathlib import Path
from typing import Any, Literal, Self, get_args

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.files.flushing import flush_to_disk
from kivel.files.own_state import is_own, own_mark
from kivel.files.safety import file_bytes

__all__ = ["Journal", "PlannedFile", "State", "is_own_stage", "stage_mark", "sync_folder"]

State = Literal["place", "undo"]
_JOURNAL = "journal"
_MOST_BYTES = 64 << 20
_MOST_MARK_BYTES = 256


class PlannedFile(NamedTuple):
    """A file of a set: what it is to be called, its digest, and that of the file in whose place it comes.

    `name` is None for one that stays where it is, `put` for one that is to be removed, `old` where there is no such
    file yet.
    """

    name: str | None
    put: str | None
    old: str | None


class Journal(NamedTuple):
    """Holds what is to become of the files 0, 1, ... of a stage.

    `home` is the stage whose journal counts, None in that one itself, which has all `others`; both as paths seen from
    the stage.
    """

    state: State
    files: tuple[PlannedFile, ...]
    home: str | None = None
    others: tuple[str, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(file.name for file in self.files if file.name is not None)

    @classmethod
    def read(cls, stage: Path) -> Self | None:
        """Return the journal in a stage; None if there is none, or none that this user wrote for this stage."""
        try:
            data = file_bytes(stage / _JOURNAL, most=_MOST_BYTES, follow_links=False)
        except KivelError:
            return None
        mark, _, text = data.partition(b"\n")
        if not is_own("journal", _said_of(stage, text), mark.decode("ascii", "replace")):
            return None
        try:
            return cls._of(json.loads(text))
        except (ValueError, TypeError, KeyError, RecursionError):  # of another version
            return None

    @classmethod
    def _of(cls, content: Any) -> Self | None:
        files = tuple(PlannedFile(*one) for one in content["files"])
        paths = [*content["others"], *([] if content["home"] is None else [content["home"]])]
        digests = [value for file in files for value in (file.put, file.old) if value is not None]
        is_one = (
            content["state"] in get_args(State)
            and all(isinstance(value, str) for value in (*paths, *digests))
            and all(file.name is None or _is_plain(file.name) for file in files)
        )
        return cls(content["state"], files, content["home"], tuple(content["others"])) if is_one else None

    def written(self, stage: Path) -> None:
        """Write it into a stage, all or nothing."""
        text = json.dumps({**self._asdict(), "files": [list(file) for file in self.files]}).encode()
        temporary = stage / f"{_JOURNAL}.new"
        temporary.unlink(missing_ok=True)
        with open(temporary, "xb") as file:
            file.write(own_mark("journal", _said_of(stage, text)).encode() + b"\n" + text)
            file.flush()
            flush_to_disk(file.fileno())
        os.replace(temporary, stage / _JOURNAL)
        sync_folder(stage)

    @staticmethod
    def removed(stage: Path) -> None:
        """Take the journal out of a stage, which from then on is litter."""
        (stage / _JOURNAL).unlink(missing_ok=True)


def _said_of(stage: Path, text: bytes) -> bytes:
    return os.fsencode(stage.name) + b"\n" + text


def _is_plain(name: object) -> bool:
    """Whether it names a file beside the stage and nowhere else."""
    if not isinstance(name, str) or name in ("", ".", ".."):
        return False
    return not set(name) & set("/\\\0") and name == os.path.basename(name)


def stage_mark(stage: Path) -> bytes:
    """Return what is in the lock of a stage of this user's."""
    return own_mark("stage", os.fsencode(stage.name)).encode()


def is_own_stage(stage: Path, lock: str) -> bool:
    """Whether this user made a stage, whose lock has such a name.

    An empty one is as good as one's own, and so is one that went while it was looked at: there is nothing to lose.
    """
    try:
        held = file_bytes(stage / lock, most=_MOST_MARK_BYTES, follow_links=False)
    except KivelError:
        held = b""
    if held == stage_mark(stage) or Journal.read(stage):
        return True
    try:
        return not held and set(os.listdir(stage)) <= {lock}
    except OSError:
        return not os.path.lexists(stage)


def sync_folder(folder: Path) -> None:
    """After a power loss names are as they are now; where folders cannot be opened (Windows) the system sees to it."""
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            flush_to_disk(descriptor)
        finally:
            os.close(descriptor)
