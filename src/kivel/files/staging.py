"""Where the files of a set lie until all of them can appear: a hidden folder beside them, locked while its maker lives.

Once every file is there, a journal says what each is to be called. From that moment the set exists, whatever happens:
whoever comes next to a folder whose maker died completes it, or goes back where the maker had begun to
(`files/settling.py`). Without a journal what lies there is litter. A set in several folders has a stage in each; the
journal of the first is the one that counts.
"""

from __future__ import annotations

import contextlib
import os
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Self

from kivel.files.file_digest import file_digest
from kivel.files.journals import Journal, PlannedFile, State, is_own_stage, stage_mark, sync_folder
from kivel.files.locks import FileLock

__all__ = [
    "HalfMadeError", "Stage", "finish", "is_stage", "journal_that_counts", "lock_of", "place_all", "stages_in", "undo",
]  # fmt: skip

_PREFIX = ".kivel-"
_FOLDER_LOCK = ".kivel.lock"
_LOCK = "lock"
_SURELY_DEAD_S = 3600.0
"""Where locks tell nothing, a stage as old as that has no maker any more."""


class HalfMadeError(Exception):
    """A set is half-made, and cannot be settled from here; `names` are the files that are not what they should be."""

    def __init__(self, folder: Path, names: Sequence[str], reason: str) -> None:
        super().__init__(reason)
        self.folder = folder
        self.names = tuple(names)
        self.reason = reason


class Stage:
    """A hidden folder in the folder that its files are for.

    The files are called 0, 1, ... there, so that no name is too long; `names` are what they will be called.
    """

    def __init__(self, path: Path, lock: FileLock) -> None:
        self.path = path
        self.names: list[str | None] = []
        self.planned: tuple[PlannedFile, ...] = ()
        self._removed: set[int] = set()
        self._lock = lock

    @classmethod
    def made_in(cls, folder: Path) -> Self:
        """A new one."""
        while True:
            path = folder / f"{_PREFIX}{os.urandom(4).hex()}"
            path.mkdir()
            # somebody who tidies up may come between the folder and its lock, and take it for a dead one's
            with contextlib.suppress(FileNotFoundError):
                lock = FileLock.taken(path / _LOCK)
                if lock is not None:
                    lock.write(stage_mark(path))
                    return cls(path, lock)

    @classmethod
    def of_the_dead(cls, path: Path) -> Self | None:
        """Return one of this user's whose maker is gone; None while it lives."""
        try:
            lock = FileLock.taken(path / _LOCK, create=False)
        except FileNotFoundError:
            with contextlib.suppress(OSError):
                path.rmdir()  # its maker died before it was locked
            if Journal.read(path) is None:
                return None
            lock = FileLock.taken(path / _LOCK)  # copied without its lock
        if lock is None:
            return None
        if not is_own_stage(path, _LOCK):
            lock.release(remove=False)
            return None
        if not lock.is_certain and time.time() - lock.path.stat().st_mtime < _SURELY_DEAD_S:
            lock.release(remove=False)
            return None
        return cls(path, lock)

    @staticmethod
    def is_left_by_others(path: Path) -> bool:
        """Whether it belongs to another user and is not in use."""
        if is_own_stage(path, _LOCK):
            return False
        try:
            lock = FileLock.taken(path / _LOCK, create=False)
        except OSError:
            return path.is_dir()
        if lock is None:
            return False
        lock.release(remove=False)
        return True

    @property
    def folder(self) -> Path:
        return self.path.parent

    def new(self, number: int) -> Path:
        return self.path / str(number)

    def _old(self, number: int) -> Path:
        return self.path / f"{number}.old"

    def add(self, name: str) -> Path:
        """Where to write the file that will be called `name`."""
        self.names.append(name)
        return self.new(len(self.names) - 1)

    def add_removal(self, name: str) -> Path:
        """Have the file of a name removed; what is written here only marks that this is still to be done."""
        mark = self.add(name)
        mark.touch()
        self._removed.add(len(self.names) - 1)
        return mark

    def keep_back(self, path: Path) -> None:
        """Leave out one that was added: what is there already is the same."""
        self.names[int(path.name)] = None
        path.unlink(missing_ok=True)

    def waiting(self) -> list[str]:
        """The files that are not in their place yet."""
        return [name for number, name in enumerate(self.names) if name is not None and self.new(number).exists()]

    def place(self, *, keep_old: bool) -> Iterator[Path]:
        """Put each file in its place; gives the place just before, so that an error can be told of it."""
        for number, name in enumerate(self.names):
            if name is None or not self.new(number).exists():
                continue
            target = self.folder / name
            yield target
            if number in self._removed:
                if keep_old:
                    os.replace(target, self._old(number))
                else:
                    target.unlink()
                self.new(number).unlink()
                continue
            if keep_old and target.exists():
                _keep(target, self._old(number))
            os.replace(self.new(number), target)

    def complete(self) -> list[str]:
        """Put what is not in its place there, as far as all is as the journal states.

        Returns the names of files that another has changed since; they stay.
        """
        left = []
        for number, file in enumerate(self.planned):
            new = self.new(number)
            if file.name is None or not os.path.lexists(new):
                continue
            target = self.folder / file.name
            if file.put is None and self._may_take(file):
                target.unlink(missing_ok=True)
                new.unlink()
            elif file_digest(new) == file.put and self._may_take(file):
                os.replace(new, target)
            else:
                left.append(file.name)
        return left

    def take_back(self) -> list[str]:
        """Undo `place`, as far as it came and all is as the journal states; what was there before is there again.

        Returns the names of files that another has changed since; they stay.
        """
        left = []
        for number, file in enumerate(self.planned):
            if file.name is None:
                continue
            target, old, new = self.folder / file.name, self._old(number), self.new(number)
            if os.path.lexists(old):
                if file_digest(old) == file.old and self._may_take(file):
                    os.replace(old, target)
                else:
                    left.append(file.name)
            elif not os.path.lexists(new) and os.path.lexists(target):
                if file_digest(target) != file.put:
                    left.append(file.name)
                    continue
                target.unlink()
                # so that this is not done twice, should the undoing be cut short and somebody write a file meanwhile
                new.touch()
        return left

    def _may_take(self, file: PlannedFile) -> bool:
        """Whether the place of a file is free, or holds what the set found or put there."""
        target = self.folder / str(file.name)
        return not os.path.lexists(target) or file_digest(target) in {file.old, file.put} - {None}

    def plan(self) -> None:
        """Look at all files, at those that wait and at those in whose place they come."""
        self.planned = tuple(
            PlannedFile(None, None, None)
            if name is None
            else PlannedFile(name, self._planned_digest(number), file_digest(self.folder / name))
            for number, name in enumerate(self.names)
        )

    def _planned_digest(self, number: int) -> str | None:
        return None if number in self._removed else file_digest(self.new(number))

    def write_journal(self, state: State, *, home: Stage | None = None, others: Sequence[Stage] = ()) -> None:
        seen = [os.path.relpath(other.path, self.path) for other in others]
        from_here = os.path.relpath(home.path, self.path) if home else None
        Journal(state, self.planned, from_here, tuple(seen)).written(self.path)

    def read_journal(self) -> Journal | None:
        found = Journal.read(self.path)
        self.planned = found.files if found else ()
        self.names = [file.name for file in self.planned]
        return found

    def close(self) -> None:
        """Remove it, its lock last; but one with a journal that counts is left for another to settle."""
        if journal_that_counts(self.path):
            self.leave()
            return
        try:
            Journal.removed(self.path)
            for entry in self.path.iterdir():
                if entry.name != _LOCK:
                    _remove(entry)
        except OSError:  # the next to come tries again
            self.leave()
            return
        self._lock.release()
        with contextlib.suppress(OSError):
            self.path.rmdir()

    def leave(self) -> None:
        """Let go of it as it is, for another to settle."""
        self._lock.release(remove=False)


def _keep(target: Path, old: Path) -> None:
    """Keep what is in a place that will be taken. A second name for it, so that the place is never empty."""
    old.unlink(missing_ok=True)
    try:
        os.link(target, old)
    except OSError:  # no hard links here: empty for an instant, for which the journal makes up
        os.replace(target, old)


def _remove(entry: Path) -> None:
    if entry.is_dir() and not entry.is_symlink():
        from shutil import rmtree  # slow to load, and seldom needed

        rmtree(entry, ignore_errors=True)
    else:
        entry.unlink(missing_ok=True)


def lock_of(folder: Path) -> Path:
    """Return what is locked while files are put in place in a folder."""
    return folder / _FOLDER_LOCK


def place_all(stages: Sequence[Stage]) -> Iterator[Path]:
    """Put the files of a set in place, all or none; the locks of their folders are held.

    Gives each place just before it is taken. What goes wrong takes everything back.

    Raises
    ------
    OSError
        What went wrong.
    HalfMadeError
        If even taking back went wrong; whoever comes next tries again.
    """
    files = sum(name is not None for stage in stages for name in stage.names)
    if files <= 1:  # one rename is all or nothing by itself
        for stage in stages:
            yield from stage.place(keep_old=False)
        return
    for stage in stages:
        stage.plan()
    home, *others = [stage for stage in stages if any(name is not None for name in stage.names)]
    for other in others:
        other.write_journal("place", home=home)
    home.write_journal("place", others=others)
    try:
        for stage in (home, *others):
            yield from stage.place(keep_old=True)
    except BaseException as error:
        try:
            home.write_journal("undo", others=others)
            undo(home, others)
        except OSError as second:
            names = [name for stage in stages for name in stage.names if name is not None]
            raise HalfMadeError(home.folder, names, second.strerror or str(second)) from error
        raise
    _finished(home, others)


def undo(home: Stage, others: Sequence[Stage]) -> list[str]:
    """Take a set back that was begun; the names of files that stay, for another has changed them since."""
    left = [name for stage in (home, *others) for name in stage.take_back()]
    _finished(home, others)
    return left


def finish(home: Stage, others: Sequence[Stage]) -> list[str]:
    """Complete a set that was begun; the names of files that stay, for another has changed them since."""
    left = [name for stage in (home, *others) for name in stage.complete()]
    _finished(home, others)
    return left


def _finished(home: Stage, others: Sequence[Stage]) -> None:
    for stage in (home, *others):
        sync_folder(stage.folder)
    with contextlib.suppress(OSError):  # all is in place; the next to come finds nothing to do, and tries again
        Journal.removed(home.path)


def stages_in(folder: Path) -> list[Path]:
    """The folders in a folder that are called as stages are."""
    try:
        with os.scandir(folder) as entries:
            found = [entry.name for entry in entries if entry.name.startswith(_PREFIX)]
    except OSError:
        return []
    return [path for name in sorted(found) if is_stage(path := folder / name)]


def is_stage(path: Path) -> bool:
    """Whether a path may be a stage, by its name and its kind."""
    return path.name.startswith(_PREFIX) and path.is_dir() and not path.is_symlink()


def journal_that_counts(path: Path) -> tuple[Path, Journal] | None:
    """The home of a stage's set, and its journal; None while the set is not begun, or when it is done with."""
    found = Journal.read(path)
    if found is None or found.home is None:
        return (path, found) if found else None
    home = Path(os.path.normpath(path / found.home))
    counts = Journal.read(home) if is_stage(home) else None
    return (home, counts) if counts and counts.home is None else None
