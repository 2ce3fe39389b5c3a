"""Reading people's files: what the system says about them becomes a line that a person can act on."""

from __future__ import annotations

import contextlib
import errno
import os
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from kivel.core.errors import KivelError

__all__ = ["OutputError", "file_bytes", "file_text", "opened_file", "reading", "shown", "whatever_the_system_says"]

_NEVER_WAIT = getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0) | getattr(os, "O_CLOEXEC", 0)

_REASONS = {
    errno.ENOSPC: "the disk is full; free some space and run the command again",
    errno.EDQUOT: "the disk quota is used up; free some space and run the command again",
    errno.EIO: "the disk reports an error; check the disk, or copy the file again",
    errno.EFBIG: "larger than the largest file allowed here; raise the limit or write less",
    errno.EACCES: "no permission; check who owns it, or choose another place",
    errno.EPERM: "no permission; check who owns it, or choose another place",
    errno.EROFS: "the disk is read-only; choose another place",
    errno.ENOENT: "no such file or folder; check the name",
    errno.ELOOP: "it is a link, and links are not followed here; remove it",
    errno.ENODEV: "it is a pipe or a device, expected a file; remove it",
    errno.EISDIR: "it is a folder, expected a file",
    errno.ENOTDIR: "part of its path is a file, not a folder; choose another place",
    errno.EEXIST: "it is a file, expected a folder; choose another place or move it away",
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


def opened_file(path: Path, *, follow_links: bool = True) -> BinaryIO:
    """Open a file to read; Kivel opens none in another way, since a pipe or a device would wait for ever, or never end.

    Raises
    ------
    OutputError
        If it cannot be opened, or is no regular file; without `follow_links` also if it is a link.
    """
    try:
        # a pipe that nobody writes to is opened at once in this way, and seen for what it is
        opener = _open_at_once if follow_links else _open_no_link
        file = open(path, "rb", opener=opener)  # noqa: SIM115 - given to whoever closes it
    except OSError as error:
        raise OutputError(_reason(error), where=shown(path)) from error
    if not stat.S_ISREG(os.fstat(file.fileno()).st_mode):
        file.close()
        raise OutputError("is a pipe or a device, not a file; give a file", where=shown(path))
    return file


def _open_at_once(name: str, flags: int) -> int:
    return os.open(name, flags | _NEVER_WAIT)


def _open_no_link(name: str, flags: int) -> int:
    return os.open(name, flags | _NEVER_WAIT | getattr(os, "O_NOFOLLOW", 0))


def file_bytes(path: Path, *, most: int, follow_links: bool = True) -> bytes:
    """Return all of a file.

    Raises
    ------
    OutputError
        If it cannot be read, or has more than `most` bytes.
    """
    with opened_file(path, follow_links=follow_links) as file, reading(path):
        length = os.fstat(file.fileno()).st_size
        if length > most:
            raise OutputError(
                f"it has {length:,} bytes, more than the {most:,} that such a file may have here", where=shown(path)
            )
        data = file.read(length + 1)
        if len(data) > length:
            raise OutputError("is still being written; try again later", where=shown(path))
        return data


def file_text(path: Path, *, most: int) -> str:
    """All of a text in UTF-8, without the byte order mark that some editors put in front.

    Raises
    ------
    OutputError
        If it cannot be read, has more than `most` bytes, or is no UTF-8.
    """
    try:
        return file_bytes(path, most=most).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise OutputError(f"not UTF-8 at byte {error.start}; save it as UTF-8", where=shown(path)) from error


@contextlib.contextmanager
def whatever_the_system_says() -> Iterator[None]:
    """The same for all of a command: what nobody nearer to the file has caught, such as a name that is too long."""
    try:
        yield
    except OSError as error:
        where = shown(Path(error.filename)) if isinstance(error.filename, str) else None
        raise OutputError(_reason(error), where=where) from error


def _reason(error: OSError) -> str:
    return _REASONS.get(error.errno or 0, f"{error.strerror or error}; check the disk, and run the command again")
