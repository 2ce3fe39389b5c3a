"""A folder that holds what Kivel keeps for itself: reached by handles, no step of the way through a link.

A file in it is read only with the mark of this user's key, and written whole, under a random name first.
"""

from __future__ import annotations

import contextlib
import os
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Self

from kivel.core.named_tuples import NamedTuple
from kivel.files.own_state import blake2b, is_own, own_mark

__all__ = ["Entry", "OwnFolder"]

_HANDLES = {os.open, os.mkdir, os.stat, os.unlink, os.rename, os.link} <= os.supports_dir_fd
"""Elsewhere (Windows) each step is looked at before it is taken."""
_FOLDER = os.O_RDONLY | getattr(os, "O_DIRECTORY", 0) | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_CLOEXEC", 0)
_FILE = getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_CLOEXEC", 0)
_BINARY = getattr(os, "O_BINARY", 0)
_DIGEST_BYTES = 16
_PIECE = 1 << 20


class Entry(NamedTuple):
    """Holds what lies in a folder: `used_ns` is when it was last changed, or marked as used."""

    name: str
    is_folder: bool
    length: int
    used_ns: int


class OwnFolder(NamedTuple):
    """A folder within `root`, by the names of the way there."""

    root: Path
    parts: tuple[str, ...] = ()

    @property
    def path(self) -> Path:
        return self.root.joinpath(*self.parts)

    def within(self, *names: str) -> Self:
        return self._replace(parts=(*self.parts, *names))

    def is_there(self) -> bool:
        """Whether it is a folder, and the way there leads through no link."""
        with contextlib.suppress(OSError), self._reached():
            return True
        return False

    def made(self) -> Self:
        """Make it, with the folders from the root to it. A link or a file in its way is removed, not what it leads to.

        Raises
        ------
        OSError
            If that cannot be done.
        """
        with self._reached(make=True):
            return self

    def emptied(self) -> Self:
        """Make it again, with nothing in it."""
        self.removed()
        return self.made()

    def removed(self) -> None:
        """Remove it with its contents; links in it are not followed."""
        if not self.parts:
            _remove_tree(_Place(os.fspath(self.root.parent), None), self.root.name)
            return
        with contextlib.suppress(FileNotFoundError, NotADirectoryError), self._above()._reached() as place:
            _remove_tree(place, self.parts[-1])

    def entries(self) -> list[Entry]:
        """Return what lies in it, links and pipes left out, by name; nothing where it is not there."""
        try:
            with self._reached() as place:
                names = sorted(os.listdir(place.descriptor if place.descriptor is not None else place.path))
                found = [(name, _stat(place, name)) for name in names]
        except OSError:
            return []
        return [
            Entry(name, stat.S_ISDIR(state.st_mode), state.st_size, state.st_mtime_ns)
            for name, state in found
            if state and (stat.S_ISDIR(state.st_mode) or stat.S_ISREG(state.st_mode))
        ]

    def bytes_of(self, name: str, *, most: int) -> bytes | None:
        """Return what a file in it holds; None for what is no regular file, is longer than that, or is not there."""
        with contextlib.suppress(OSError), self._reached() as place, _opened(place, name, os.O_RDONLY) as descriptor:
            state = os.fstat(descriptor)
            if stat.S_ISREG(state.st_mode) and state.st_size <= most:
                with open(descriptor, "rb", closefd=False) as file:
                    return file.read(state.st_size)
        return None

    def write(self, name: str, content: bytes) -> None:
        """Write a file whole, in place of whatever is called so."""
        with self._reached() as place:
            beside = f"{name}.{os.urandom(8).hex()}"
            try:
                with _opened(place, beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL) as descriptor:
                    _write_all(descriptor, content)
                if _is_folder(place, name):
                    _remove_tree(place, name)
                os.replace(place.named(beside), place.named(name), **place.both())
            finally:
                with contextlib.suppress(FileNotFoundError):
                    os.unlink(place.named(beside), **place.one())

    def append(self, name: str, content: bytes) -> None:
        """Write at the end of a file that is there, a regular one with no second name, or of a new one."""
        with self._reached() as place:
            flags = os.O_WRONLY | os.O_APPEND | os.O_CREAT
            with _opened(place, name, flags) as descriptor:
                state = os.fstat(descriptor)
                if not stat.S_ISREG(state.st_mode) or state.st_nlink != 1:
                    raise OSError(f"{place.named(name)} is not one of Kivel's own files")
                _write_all(descriptor, content)

    def kept(self, name: str, purpose: str, *, most: int) -> bytes | None:
        """Return what `keep` wrote into a file; None for what this user's Kivel has not written."""
        found = self.bytes_of(name, most=most)
        mark, _, content = (found or b"").partition(b"\n")
        return content if found and is_own(purpose, content, mark.decode("ascii", "replace")) else None

    def keep(self, name: str, purpose: str, content: bytes) -> None:
        """Write a file with the mark of this user's key in front."""
        self.write(name, own_mark(purpose, content).encode() + b"\n" + content)

    def share(self, name: str, target: OwnFolder) -> None:
        """Give a file a second name in another folder; where the file system cannot do that, copy it."""
        with self._reached() as here, target._reached() as there:
            try:
                more = {} if not _HANDLES else {"src_dir_fd": here.descriptor, "dst_dir_fd": there.descriptor}
                os.link(here.named(name), there.named(name), follow_symlinks=False, **more)
            except FileNotFoundError:
                raise
            except (OSError, NotImplementedError):
                with (
                    _opened(here, name, os.O_RDONLY) as source,
                    _opened(there, name, os.O_WRONLY | os.O_CREAT | os.O_EXCL) as copy,
                ):
                    for piece in _pieces(source):
                        _write_all(copy, piece)

    def digest_of(self, name: str) -> str | None:
        """Return a digest of a file's bytes that nobody can match on purpose; None for what is no regular file."""
        digest = blake2b(digest_size=_DIGEST_BYTES)
        with contextlib.suppress(OSError), self._reached() as place, _opened(place, name, os.O_RDONLY) as descriptor:
            if stat.S_ISREG(os.fstat(descriptor).st_mode):
                for piece in _pieces(descriptor):
                    digest.update(piece)
                return digest.hexdigest()
        return None

    def renamed(self, name: str) -> None:
        """Call it otherwise; what is called so, with something in it, stays, and `OSError` is raised."""
        with self._above()._reached() as place:
            os.rename(place.named(self.parts[-1]), place.named(name), **place.both())

    def touch(self) -> None:
        """Note that it is used."""
        with self._reached() as place:
            os.utime(place.descriptor if place.descriptor is not None else place.path)

    def _above(self) -> Self:
        return self._replace(parts=self.parts[:-1])

    @contextlib.contextmanager
    def _reached(self, *, make: bool = False) -> Iterator[_Place]:
        place = _step(_Place(os.fspath(self.root.parent), None), self.root.name, make=False)
        try:
            for name in self.parts:
                below = _step(place, name, make=make)
                place.close()
                place = below
            yield place
        finally:
            place.close()


class _Place(NamedTuple):
    """A folder that is reached: by a descriptor, or by its path where there are none of folders."""

    path: str
    descriptor: int | None

    def named(self, name: str) -> str:
        return name if self.descriptor is not None else os.path.join(self.path, name)

    def one(self) -> dict[str, Any]:
        return {} if self.descriptor is None else {"dir_fd": self.descriptor}

    def both(self) -> dict[str, Any]:
        return {} if self.descriptor is None else {"src_dir_fd": self.descriptor, "dst_dir_fd": self.descriptor}

    def close(self) -> None:
        if self.descriptor is not None:
            os.close(self.descriptor)


def _step(place: _Place, name: str, *, make: bool) -> _Place:
    """Go into a folder; raises `OSError` for what is none."""
    if make:
        _make_folder(place, name)
    path = os.path.join(place.path, name)
    if _HANDLES:
        return _Place(path, os.open(place.named(name), _FOLDER, **place.one()))
    if not stat.S_ISDIR(os.lstat(path).st_mode):
        raise NotADirectoryError(path)
    return _Place(path, None)


def _make_folder(place: _Place, name: str) -> None:
    """Make it if it is not there; several processes may do so at the same time."""
    try:
        os.mkdir(place.named(name), **place.one())
    except FileExistsError:
        if _is_folder(place, name):
            return
        with contextlib.suppress(FileNotFoundError, IsADirectoryError):  # another was first
            os.unlink(place.named(name), **place.one())
        with contextlib.suppress(FileExistsError):
            os.mkdir(place.named(name), **place.one())


def _stat(place: _Place, name: str) -> os.stat_result | None:
    try:
        return os.stat(place.named(name), follow_symlinks=False, **place.one())
    except FileNotFoundError:
        return None


def _is_folder(place: _Place, name: str) -> bool:
    state = _stat(place, name)
    return state is not None and stat.S_ISDIR(state.st_mode)


def _pieces(descriptor: int) -> Iterator[bytes]:
    while piece := os.read(descriptor, _PIECE):
        yield piece


@contextlib.contextmanager
def _opened(place: _Place, name: str, flags: int) -> Iterator[int]:
    if not _HANDLES and os.path.islink(place.named(name)):
        raise OSError(f"{place.named(name)} is a link")
    descriptor = os.open(place.named(name), flags | _FILE | _BINARY, 0o666, **place.one())
    try:
        yield descriptor
    finally:
        os.close(descriptor)


def _write_all(descriptor: int, content: bytes) -> None:
    with open(descriptor, "wb", closefd=False) as file:
        file.write(content)


def _remove_tree(place: _Place, name: str) -> None:
    if not _is_folder(place, name):
        with contextlib.suppress(FileNotFoundError):
            os.unlink(place.named(name), **place.one())
        return
    from shutil import rmtree  # slow to load, and seldom needed

    rmtree(place.named(name), **place.one())
