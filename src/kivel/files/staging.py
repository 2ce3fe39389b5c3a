"""Where the files of a set lie until all of them can appear: a hidden folder beside them, locked while its maker lives.

Once every file is there, a journal says what each is to be called. From that moment the set exists, whatever happens:
whoever comes next to a folder whose maker died completes it, or goes back where the maker had begun to. Without a
journal what lies there is litter. A set in several folders has a stage in each; the journal of the first is the one
that counts.
"""

from __future__ import annotations

import contextlib
import errno
import json
import os
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Literal, Self, get_args

from kivel.core.named_tuples import NamedTuple
from kivel.files.flushing import flush_to_disk
from kivel.files.locks import FileLock, locked

__all__ = ["HalfMadeError", "Settled", "Stage", "lock_of", "place_all", "settle", "unsettled_in"]

_PREFIX = ".kivel-"
_FOLDER_LOCK = ".kivel.lock"
_LOCK, _JOURNAL = "lock", "journal"
_PATIENCE_S = 60.0
_LOOK_AGAIN_S = 0.01
_SURELY_DEAD_S = 3600.0
"""Where locks tell nothing, a stage as old as that has no maker any more."""
_MOST_JOURNAL_BYTES = 64 << 20

State = Literal["place", "undo"]


class HalfMadeError(Exception):
    """A set is half-made, and cannot be settled from here; `names` are the files that are not what they should be."""

    def __init__(self, folder: Path, names: Sequence[str], reason: str) -> None:
        super().__init__(reason)
        self.folder = folder
        self.names = tuple(names)
        self.reason = reason


class _Journal(NamedTuple):
    """`names` are what the files 0, 1, ... are to be called, None for one that stays where it is.

    `home` is the stage whose journal counts, None in that one itself, which has all `others`; both as paths seen from
    the stage.
    """

    state: State
    names: tuple[str | None, ...]
    home: str | None = None
    others: tuple[str, ...] = ()

    @classmethod
    def read(cls, path: Path) -> Self | None:
        """The journal in a stage; None if there is none, or none of ours."""
        try:
            if path.is_symlink() or path.stat().st_size > _MOST_JOURNAL_BYTES:
                return None
            content = json.loads(path.read_bytes())
            found = cls(content["state"], tuple(content["names"]), content["home"], tuple(content["others"]))
        except (OSError, ValueError, TypeError, KeyError, RecursionError):
            return None
        is_one = isinstance(content["names"], list) and found.state in get_args(State)
        seen = [*found.others, *([] if found.home is None else [found.home])]
        if not (is_one and all(isinstance(path, str) for path in seen)):
            return None
        return found if all(name is None or _is_plain(name) for name in found.names) else None

    def written(self, path: Path) -> None:
        temporary = path.with_name(f"{path.name}.new")
        with open(temporary, "wb") as file:
            file.write(json.dumps(self._asdict()).encode())
            file.flush()
            flush_to_disk(file.fileno())
        os.replace(temporary, path)
        _sync_folder(path.parent)


def _is_plain(name: object) -> bool:
    """Whether it names a file beside the stage and nowhere else: a journal that was sent to us must not reach out."""
    if not isinstance(name, str) or name in ("", ".", ".."):
        return False
    return not set(name) & set("/\\\0") and name == os.path.basename(name)


class Stage:
    """A hidden folder in the folder that its files are for.

    The files are called 0, 1, ... there, so that no name is too long; `names` are what they will be called.
    """

    def __init__(self, path: Path, lock: FileLock) -> None:
        self.path = path
        self.names: list[str | None] = []
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
                    return cls(path, lock)

    @classmethod
    def of_the_dead(cls, path: Path) -> Self | None:
        """One whose maker is gone; None while it lives."""
        try:
            lock = FileLock.taken(path / _LOCK, create=False)
        except FileNotFoundError:
            with contextlib.suppress(OSError):
                path.rmdir()
            if not path.exists():
                return None
            # its maker locks it before anything else is in it: copied without its lock, or damaged
            lock = FileLock.taken(path / _LOCK)
        if lock is None:
            return None
        if not lock.is_certain and time.time() - lock.path.stat().st_mtime < _SURELY_DEAD_S:
            lock.release(remove=False)
            return None
        return cls(path, lock)

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
            if keep_old and target.exists():
                _keep(target, self._old(number))
            os.replace(self.new(number), target)

    def take_back(self) -> None:
        """Undo `place`, as far as it came; what was there before is there again."""
        for number, name in enumerate(self.names):
            if name is None:
                continue
            target, old = self.folder / name, self._old(number)
            if old.exists():
                os.replace(old, target)
            elif not self.new(number).exists():
                target.unlink(missing_ok=True)
                # so that this is not done twice, should the undoing be cut short and somebody write a file meanwhile
                self.new(number).touch()

    def write_journal(self, state: State, *, home: Stage | None = None, others: Sequence[Stage] = ()) -> None:
        seen = [os.path.relpath(other.path, self.path) for other in others]
        from_here = os.path.relpath(home.path, self.path) if home else None
        _Journal(state, tuple(self.names), from_here, tuple(seen)).written(self.path / _JOURNAL)

    def read_journal(self) -> _Journal | None:
        found = _Journal.read(self.path / _JOURNAL)
        self.names = list(found.names) if found else []
        return found

    def close(self) -> None:
        """Remove it, its lock last; but one with a journal that counts is left for another to settle."""
        if _journal_that_counts(self.path):
            self.leave()
            return
        try:
            (self.path / _JOURNAL).unlink(missing_ok=True)
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


def _sync_folder(folder: Path) -> None:
    """After a power loss names are as they are now; where folders cannot be opened (Windows) the system sees to it."""
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            flush_to_disk(descriptor)
        finally:
            os.close(descriptor)


def lock_of(folder: Path) -> Path:
    """What is locked while files are put in place in a folder."""
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
            _undone(home, others)
        except OSError as second:
            names = [name for stage in stages for name in stage.names if name is not None]
            raise HalfMadeError(home.folder, names, second.strerror or str(second)) from error
        raise
    _finished(home, others)


def _undone(home: Stage, others: Sequence[Stage]) -> None:
    for stage in (home, *others):
        stage.take_back()
    _finished(home, others)


def _finished(home: Stage, others: Sequence[Stage]) -> None:
    for stage in (home, *others):
        _sync_folder(stage.folder)
    with contextlib.suppress(OSError):  # all is in place; the next to come finds nothing to do, and tries again
        (home.path / _JOURNAL).unlink(missing_ok=True)


class Settled(NamedTuple):
    """A set of somebody who died, and what became of it."""

    folder: Path
    names: tuple[str, ...]
    what: Literal["completed", "undone"]


def unsettled_in(folder: Path) -> bool:
    """Whether there is a set that is being put in place, or was when its maker died."""
    return any(_journal_that_counts(path) for path in _stages_in(folder))


def settle(folder: Path, *, touch: bool = True) -> list[Settled]:
    """Complete or undo what the dead left half-made in a folder, and remove their litter.

    Without `touch` it only says what would be done.

    Raises
    ------
    HalfMadeError
        If there is a half-made set that cannot be settled from here.
    """
    found = [done for path in _stages_in(folder) if (done := _settled(path, touch=touch))]
    if touch and lock_of(folder).exists():
        with contextlib.suppress(OSError):
            lock = FileLock.taken(lock_of(folder), create=False)
            if lock:
                lock.release()
    return found


def _stages_in(folder: Path) -> list[Path]:
    try:
        with os.scandir(folder) as entries:
            found = [entry.name for entry in entries if entry.name.startswith(_PREFIX)]
    except OSError:
        return []
    return [path for name in sorted(found) if _is_stage(path := folder / name)]


def _is_stage(path: Path) -> bool:
    return path.name.startswith(_PREFIX) and path.is_dir() and not path.is_symlink()


def _settled(path: Path, *, touch: bool) -> Settled | None:
    until = time.monotonic() + _PATIENCE_S
    while journal := _journal_that_counts(path):
        home, found = journal
        names = tuple(name for name in found.names if name is not None)
        settled = Settled(home.parent, names, "completed" if found.state == "place" else "undone")
        if not touch:
            return settled
        if _brought_to_an_end(home, found, names):
            return settled
        if time.monotonic() > until:
            raise HalfMadeError(home.parent, names, "another Kivel is at work there")
        time.sleep(_LOOK_AGAIN_S)
    if touch:
        _tidied(path)
    return None


def _journal_that_counts(path: Path) -> tuple[Path, _Journal] | None:
    """The home of a stage's set, and its journal; None while the set is not begun, or when it is done with."""
    found = _Journal.read(path / _JOURNAL)
    if found is None or found.home is None:
        return (path, found) if found else None
    home = Path(os.path.normpath(path / found.home))
    counts = _Journal.read(home / _JOURNAL) if _is_stage(home) else None
    return (home, counts) if counts and counts.home is None else None


def _tidied(path: Path) -> None:
    with contextlib.suppress(OSError):  # litter that may not be removed harms nobody
        stage = Stage.of_the_dead(path)
        if stage:
            stage.close()


def _brought_to_an_end(home: Path, journal: _Journal, names: Sequence[str]) -> bool:
    """Whether the set is whole now; not while its maker lives, or another does the same."""
    others = [Path(os.path.normpath(home / seen)) for seen in journal.others]
    paths = [home, *filter(_is_stage, others)]
    stages: list[Stage] = []
    try:
        with locked([lock_of(path.parent) for path in paths], patience_s=_PATIENCE_S, busy=_busy):
            for path in paths:
                stage = Stage.of_the_dead(path)
                if stage is None:
                    return False
                stages.append(stage)
                stage.read_journal()
            now = stages[0].read_journal()
            if now:
                _end(stages, now.state)
            while stages:
                stages.pop().close()
    except OSError as error:
        waiting = [name for stage in stages for name in stage.waiting()]
        raise HalfMadeError(home.parent, waiting or names, error.strerror or str(error)) from error
    finally:
        for stage in stages:
            stage.leave()
    return True


def _end(stages: Sequence[Stage], state: State) -> None:
    home, *others = stages
    if state == "undo":
        _undone(home, others)
        return
    for stage in stages:
        for _ in stage.place(keep_old=False):
            pass
    _finished(home, others)


def _busy(path: Path) -> OSError:
    return OSError(errno.EBUSY, "another Kivel is writing there", str(path))
