"""Locks that go with their process, however it ends: a file, locked by the system through an open descriptor.

Our own and not a library's: those that were looked at take longer to load than a small sheet to make.
"""

from __future__ import annotations

import contextlib
import errno
import os
import stat
import sys
import time
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import Self

__all__ = ["FileLock", "locked"]

_LOOK_AGAIN_S = 0.01
_NO_LINK = getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_CLOEXEC", 0)


class FileLock:
    """A lock that is held.

    `is_certain` is False where the file system has no locks: then nothing is known of who else may be there.
    """

    def __init__(self, path: Path, descriptor: int, *, is_certain: bool) -> None:
        self.path = path
        self.is_certain = is_certain
        self._descriptor = descriptor

    @classmethod
    def taken(cls, path: Path, *, create: bool = True) -> Self | None:
        """Return the lock, or None while somebody else holds it.

        Raises
        ------
        OSError
            If there can be no such file, or something else is in its place: a link, a pipe, a device.
        """
        while True:
            descriptor = os.open(path, os.O_RDWR | _NO_LINK | (os.O_CREAT if create else 0), 0o666)
            try:
                _require_file(descriptor, path)
                held = _lock(descriptor)
                if held is False:
                    os.close(descriptor)
                    return None
                if _is_at(descriptor, path):
                    return cls(path, descriptor, is_certain=held is True)
            except BaseException:
                os.close(descriptor)
                raise
            # whoever held it before took the file away
            os.close(descriptor)

    @property
    def is_empty(self) -> bool:
        """Whether nothing is written in the file."""
        return os.fstat(self._descriptor).st_size == 0

    def write(self, content: bytes) -> None:
        """Write into the file, which stays locked."""
        os.write(self._descriptor, content)

    def release(self, *, remove: bool = True) -> None:
        """Let go; the file goes too."""
        windows = sys.platform == "win32"  # an open file cannot be removed there
        if remove and not windows:
            self._remove()
        os.close(self._descriptor)
        if remove and windows:
            self._remove()

    def _remove(self) -> None:
        with contextlib.suppress(OSError):  # the next to come tries again
            self.path.unlink(missing_ok=True)


def _require_file(descriptor: int, path: Path) -> None:
    if not stat.S_ISREG(os.fstat(descriptor).st_mode):
        raise OSError(errno.ENODEV, "it is not a regular file", str(path))


def _lock(descriptor: int) -> bool | None:
    """Whether it is ours now; None where there is no telling."""
    if sys.platform == "win32":
        import msvcrt

        try:
            msvcrt.locking(descriptor, msvcrt.LK_NBLCK, 1)
        except OSError:
            return False
        return True
    try:
        import fcntl
    except ImportError:
        return None
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    except OSError:  # some network file systems
        return None
    return True


def _is_at(descriptor: int, path: Path) -> bool:
    try:
        there = os.lstat(path)
    except FileNotFoundError:
        return False
    return os.path.samestat(os.fstat(descriptor), there)


@contextlib.contextmanager
def locked(paths: Iterable[Path], *, patience_s: float, busy: Callable[[Path], Exception]) -> Iterator[None]:
    """Hold several locks, taken in one order by everybody, so that no two wait for each other.

    Raises
    ------
    Exception
        `busy` of the path that somebody else has held for so long.
    """
    held: list[FileLock] = []
    try:
        for path in sorted(set(paths)):
            until = time.monotonic() + patience_s
            while (lock := FileLock.taken(path)) is None:
                if time.monotonic() > until:
                    raise busy(path)
                time.sleep(_LOOK_AGAIN_S)
            held.append(lock)
        yield
    finally:
        for lock in reversed(held):
            lock.release(remove=lock.is_empty)  # a file of that name with something in it is somebody's
