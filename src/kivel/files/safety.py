"""Reading people's files: what the system says about them becomes a line that a person can act on."""

from __future__ import annotations

import contextlib
import errno
from collections.abc import Iterator
from pathlib import Path

from kivel.core.errors import KivelError

__all__ = ["OutputError", "reading", "shown"]

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
