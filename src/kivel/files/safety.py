"""Keeping people's files safe: what is written appears whole or not at all, and nothing of theirs is overwritten.

Everything that one command writes is gathered in an `OutputSet`. Each file is written beside its target under a
temporary name and flushed to the disk; when all are there, they are renamed one after the other. Whatever goes wrong
before that leaves the folder as it was.
"""

from __future__ import annotations

import contextlib
import errno
import filecmp
import os
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import Literal, NamedTuple, Self

from kivel.core.errors import KivelError, option

__all__ = ["OutputError", "OutputSet", "Written", "reading", "shown"]

Outcome = Literal["new", "replaced", "unchanged"]

_REASONS = {
    errno.ENOSPC: "the disk is full; free some space and run it again",
    errno.EDQUOT: "the disk quota is used up; free some space and run it again",
    errno.EIO: "the disk reports an error; check the disk, or copy the file again",
    errno.EFBIG: "it grew past the largest file allowed here; raise the limit or write less",
    errno.EACCES: "no permission; check who owns it, or choose another place",
    errno.EPERM: "no permission; check who owns it, or choose another place",
    errno.EROFS: "the disk is read-only; choose another place",
    errno.ENOENT: "there is no such file or folder; check the name",
    errno.EISDIR: "it is a folder, a file was expected",
    errno.ENOTDIR: "part of its path is a file, not a folder; choose another place",
    errno.EEXIST: "a file is in its place, a folder was expected; choose another place or move it away",
    errno.ENAMETOOLONG: "the name is too long; choose a shorter one",
}


class OutputError(KivelError):
    """A file cannot be read or written, or must not be overwritten."""


class Written(NamedTuple):
    """One file of a finished command."""

    path: Path
    outcome: Outcome
    length: int


def shown(path: Path) -> str:
    """The path as people see it: with forward slashes, as given."""
    return path.as_posix()


@contextlib.contextmanager
def reading(path: Path) -> Iterator[None]:
    """Turn what the system says about a file into a line that a person can act on."""
    try:
        yield
    except OSError as error:
        raise OutputError(_reason(error), where=shown(path)) from error


def _reason(error: OSError) -> str:
    return _REASONS.get(error.errno or 0, f"{error.strerror or error}; nothing was written")


@dataclass
class _Pending:
    target: Path
    temporary: Path
    length: int
    outcome: Outcome


class OutputSet:
    """The files of one command, all or none.

    Parameters
    ----------
    force : bool
        Overwrite whatever is there.
    is_ours : callable
        Says of an existing file whether Kivel wrote it and nobody has edited it since.
    dry_run : bool
        Compute and compare, but write nothing.
    """

    def __init__(self, *, force: bool, is_ours: Callable[[Path], bool], dry_run: bool = False) -> None:
        self._force = force
        self._is_ours = is_ours
        self._dry_run = dry_run
        self._pending: list[_Pending] = []
        self._folders: list[Path] = []
        self.written: list[Written] = []

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        try:
            if kind is None:
                self._rename_all()
        finally:
            self._clear()

    def check(self, target: Path) -> None:
        """Refuse at once a target that can never be written, before the slow work.

        Raises
        ------
        OutputError
            If it is a folder, or lies in something that is no folder.
        """
        with reading(target):
            is_folder = target.is_dir()
        if is_folder:
            raise OutputError("is a folder, a file is to be written there; choose another name", where=shown(target))
        parent = next(p for p in target.absolute().parents if p.exists())
        if not parent.is_dir():
            relative = next((p for p in target.parents if p.is_file()), parent)
            raise OutputError("is a file, a folder is needed there; choose another place", where=shown(relative))
        if not os.access(parent, os.W_OK | os.X_OK):
            raise OutputError("no permission to write there; choose another place", where=shown(parent))

    def add(self, target: Path, pieces: Iterable[bytes]) -> None:
        """Write a file under a temporary name; it appears when the whole set is done.

        Raises
        ------
        OutputError
            If it cannot be written, or would overwrite a file that is not Kivel's own.
        """
        self.check(target)
        if self._dry_run:
            self._compare(target, pieces)
            return
        with reading(target):
            self._make_folder(target.parent)
            # beside its target: a rename within one folder is atomic, between disks it is not
            temporary = target.parent / f".{target.name}.{os.urandom(4).hex()}.tmp"
            pending = _Pending(target, temporary, 0, "new")
            self._pending.append(pending)
            with open(temporary, "xb") as file:
                for piece in pieces:
                    pending.length += file.write(piece)
                file.flush()
                # before the rename: after a power loss the name must not stand for an empty file
                os.fsync(file.fileno())
            if target.exists():
                # the same bytes again leave the old file and its time alone, so that nothing downstream is made anew
                same = filecmp.cmp(target, temporary, shallow=False)
                pending.outcome = "unchanged" if same else self._replacement(target)

    def _compare(self, target: Path, pieces: Iterable[bytes]) -> None:
        """What adding the file would do, without touching the disk."""
        exists = target.exists()
        length, same = 0, exists
        with reading(target), open(target if exists else os.devnull, "rb") as file:
            for piece in pieces:
                length += len(piece)
                same = same and file.read(len(piece)) == piece
            same = same and not file.read(1)
        outcome: Outcome = "unchanged" if same else self._replacement(target) if exists else "new"
        self.written.append(Written(target, outcome, length))

    def _make_folder(self, folder: Path) -> None:
        """Make the folder; those that were not there before go again if nothing comes of it."""
        missing = [p for p in (folder, *folder.parents) if not p.exists()]
        for path in reversed(missing):
            path.mkdir()
            self._folders.append(path)

    def _replacement(self, target: Path) -> Outcome:
        if not (self._force or self._is_ours(target)):
            raise OutputError(
                f"already exists and is not as Kivel wrote it; pass {option('force', True)} to overwrite it, "
                "or choose another name",
                where=shown(target),
            )
        return "replaced"

    def _rename_all(self) -> None:
        for pending in self._pending:
            if pending.outcome != "unchanged":
                with reading(pending.target):
                    os.replace(pending.temporary, pending.target)
            self.written.append(Written(pending.target, pending.outcome, pending.length))
        self._folders.clear()

    def _clear(self) -> None:
        for pending in self._pending:
            pending.temporary.unlink(missing_ok=True)
        for folder in reversed(self._folders):
            with contextlib.suppress(OSError):
                folder.rmdir()
        self._folders.clear()
