"""Keeping people's files safe: what is written appears whole or not at all, and nothing of theirs is overwritten.

Everything that one command writes is gathered in an `OutputSet`. Each file is written into a hidden folder beside its
target and flushed to the disk; when all are there, they are put in place together (`files/staging.py`). Whatever goes
wrong before that, or while it is done, leaves the folder as before.
"""

from __future__ import annotations

import contextlib
import filecmp
import os
import stat
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path
from types import TracebackType
from typing import Literal, Self

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.files.flushing import flush_to_disk
from kivel.files.half_made_sets import settled, told_half_made
from kivel.files.locks import locked
from kivel.files.portable import portable_notes
from kivel.files.safety import OutputError, reading, shown, whatever_the_system_says
from kivel.files.settling import unsettled_in
from kivel.files.staging import Stage, lock_of, place_all
from kivel.files.threads import uninterrupted
from kivel.files.whole_sets import require_unreplaced

__all__ = ["OutputSet", "Written"]

Outcome = Literal["new", "replaced", "unchanged", "removed"]
_PATIENCE_S = 60.0


class Written(NamedTuple):
    """One file of a finished command."""

    path: Path
    outcome: Outcome
    length: int


class _Stamp(NamedTuple):
    """Holds by which a file is known again: another in its place, or other bytes in it, has another."""

    device: int
    number: int
    length: int
    changed_ns: int

    @classmethod
    def of(cls, path: Path) -> Self | None:
        try:
            found = os.stat(path)
        except OSError:
            return None
        return cls(found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns)


class _Pending:
    """A file that is written and waits: `target` as given, `place` what that means, links followed."""

    def __init__(self, target: Path, place: Path, staged: Path) -> None:
        self.target = target
        self.place = place
        self.staged = staged
        self.length = 0
        self.outcome: Outcome = "new"
        self.seen: _Stamp | None = None


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
    page_of : callable
        For a set without a manifest: gives the manifest that knows a path as a page. Such a path is never written, by
        `force` neither: the manifest would no longer be true.
    tell : callable
        Is given what a person should know of what was found there.
    placed : callable
        Is given the files, in the moment when all are in place.
    """

    def __init__(
        self,
        *,
        force: bool,
        is_ours: Callable[[Path], bool],
        dry_run: bool = False,
        page_of: Callable[[Path], Path | None] = lambda _path: None,
        tell: Callable[[str], object] = lambda _text: None,
        placed: Callable[[Sequence[Written]], object] = lambda _files: None,
    ) -> None:
        self._force = force
        self._is_ours = is_ours
        self._dry_run = dry_run
        self._page_of = page_of
        self._tell = tell
        self._placed = placed
        self._pending: list[_Pending] = []
        self._stages: dict[Path, Stage] = {}
        self._real: dict[Path, Path] = {}
        self._folders: list[Path] = []
        self._replaceable: set[Path] = set()
        self._inputs: set[tuple[int, int]] = set()
        self._expected: dict[Path, _Stamp | None] = {}
        self.written: list[Written] = []

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        try:
            if kind is None and self._pending:
                require_unreplaced()
                uninterrupted(self._place)
            for text in portable_notes([file.path for file in self.written]):
                self._tell(text)
        finally:
            if self._stages or self._folders:
                uninterrupted(self._clear)

    def reads(self, paths: Iterable[Path]) -> None:
        """Remember files that the command reads: none of them may be written."""
        for path in paths:
            with contextlib.suppress(OSError):
                found = os.stat(path)
                self._inputs.add((found.st_dev, found.st_ino))

    def changes(self, path: Path) -> None:
        """Remember a file that is about to be read and written again: nobody else may have changed it meanwhile."""
        self._expected[path] = _Stamp.of(path)

    def may_replace(self, target: Path) -> None:
        """Return what is there holds nothing that is not in what is written; a link there is nobody's to follow
        unasked.
        """
        self._replaceable.add(target)

    def check(self, target: Path) -> None:
        """Refuse at once a target that can never be written, before the slow work.

        Raises
        ------
        OutputError
            If it is a folder or no regular file, is one of the command's own sources, or lies in something that is no
            folder.
        """
        with reading(target):
            place = self._place_of(target)
            there = _stat(place)
        if there and stat.S_ISDIR(there.st_mode):
            raise OutputError("is a folder, but a file is needed; choose another name", where=shown(target))
        if there and not stat.S_ISREG(there.st_mode):
            raise OutputError("is a pipe or a device, not a file; choose another name", where=shown(target))
        if there and (there.st_dev, there.st_ino) in self._inputs:
            raise OutputError(
                "is an input of this command and would be overwritten; write elsewhere", where=shown(target)
            )
        manifest = self._page_of(target) if there else None
        if manifest:
            what = f"is a page of {shown(manifest)}, which would no longer match; choose another name"
            raise OutputError(what, where=shown(target))
        if place.parent not in self._stages:
            self._check_folder(target, place)

    def _check_folder(self, target: Path, place: Path) -> None:
        parent = next(p for p in place.absolute().parents if p.exists())
        if not parent.is_dir():
            relative = next((p for p in target.parents if p.is_file()), parent)
            raise OutputError("is a file, but a folder is needed; choose another place", where=shown(relative))
        if not os.access(parent, os.W_OK | os.X_OK):
            raise OutputError("no permission to write there; choose another place", where=shown(parent))

    def add(self, target: Path, pieces: Iterable[bytes]) -> None:
        """Write a file into its stage; it appears when the whole set is done.

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
            place = self._place_of(target)
            if place.parent not in self._stages:
                # whole, or not at all: an interrupt in between would leave a folder that nobody knows of
                uninterrupted(lambda: self._open_stage(place.parent))
            pending = _Pending(target, place, self._stages[place.parent].add(place.name))
            self._pending.append(pending)
            with open(pending.staged, "xb") as file:
                for piece in pieces:
                    pending.length += file.write(piece)
                file.flush()
                # before the rename: after a power loss the name must not mean an empty file
                flush_to_disk(file.fileno())
            try:
                self._judge(pending)
            except OutputError:
                # another Kivel may be half through its set, whose manifest comes last
                with self._locked([place.parent]):
                    self._judge(pending)

    def rewrite(self, target: Path, pieces: Iterable[bytes]) -> None:
        """Write a file that was added to this set with other bytes.

        Raises what `add` does.
        """
        if self._dry_run:
            self.written = [each for each in self.written if each.path != target]
            self._compare(target, pieces)
            return
        pending = next(each for each in self._pending if each.target == target)
        with reading(target), open(pending.staged, "r+b") as file:
            file.truncate()
            pending.length = sum(map(file.write, pieces))
            file.flush()
            flush_to_disk(file.fileno())
        self._judge(pending)

    def remove(self, target: Path) -> None:
        """Remove a file with the set, if Kivel wrote it and nobody edited it since; else it stays, which is noted."""
        if target.is_symlink() or not target.is_file() or any(target == pending.target for pending in self._pending):
            return
        if not self._is_ours(target):
            self._tell(f"{shown(target)}: no longer made, but edited since; kept")
            return
        if self._dry_run:
            self.written.append(Written(target, "removed", 0))
            return
        with reading(target):
            place = self._place_of(target)
            if place.parent not in self._stages:
                uninterrupted(lambda: self._open_stage(place.parent))
            pending = _Pending(target, place, self._stages[place.parent].add_removal(place.name))
        pending.outcome, pending.seen = "removed", _Stamp.of(place)
        self._pending.append(pending)

    def _place_of(self, target: Path) -> Path:
        """Return what is meant by a target, all links followed."""
        if target.is_symlink():
            return _linked(target)
        folder = self._real.get(target.parent)
        if folder is None:
            folder = self._real[target.parent] = Path(os.path.realpath(target.parent))
        return folder / target.name

    def _compare(self, target: Path, pieces: Iterable[bytes]) -> None:
        """Return what adding the file would do, without touching the disk."""
        exists = target.exists()
        length, same = 0, exists
        with reading(target), open(target if exists else os.devnull, "rb") as file:
            for piece in pieces:
                length += len(piece)
                same = same and file.read(len(piece)) == piece
            same = same and not file.read(1)
        outcome: Outcome = "unchanged" if same else self._replacement(target) if exists else "new"
        self.written.append(Written(target, outcome, length))

    def _open_stage(self, folder: Path) -> None:
        self._make_folder(folder)
        self._stages[folder] = Stage.made_in(folder)

    def _make_folder(self, folder: Path) -> None:
        """Make the folder; those that were not there before go again if nothing comes of it."""
        missing = [p for p in (folder, *folder.parents) if not p.exists()]
        for path in reversed(missing):
            path.mkdir(exist_ok=True)
            self._folders.append(path)

    def _judge(self, pending: _Pending) -> None:
        """Return what becomes of the file that is there."""
        pending.seen = _Stamp.of(pending.place)
        if pending.seen is None:
            pending.outcome = "new"
            return
        # the same bytes again leave the old file and its time alone, so that nothing downstream is made again
        same = filecmp.cmp(pending.place, pending.staged, shallow=False)
        pending.outcome = "unchanged" if same else self._replacement(pending.target)
        if not same:
            os.chmod(pending.staged, stat.S_IMODE(pending.place.stat().st_mode))

    def _judge_again(self, pending: _Pending) -> None:
        """The same after another has changed what is there; what was to be removed stays then."""
        if pending.outcome == "removed":
            self._tell(f"{shown(pending.target)}: changed meanwhile; kept")
            pending.outcome = "unchanged"
        else:
            self._judge(pending)

    def _replacement(self, target: Path) -> Outcome:
        # what a dry run finds half-made will be settled before it is judged
        half_made = self._dry_run and unsettled_in(target.parent)
        may_replace = target in self._replaceable and not target.is_symlink()
        if not (self._force or half_made or may_replace or self._is_ours(target)):
            raise OutputError(
                f"already exists and was not written by Kivel, or was edited since; "
                f"pass {option('force', True)} to overwrite it, or choose another name",
                where=shown(target),
            )
        return "replaced"

    def _place(self) -> None:
        """Put all in place, while nobody else does so in these folders."""
        folders = sorted(self._stages)
        while True:
            for folder in folders:
                for text in settled(folder):
                    self._tell(text)
            with reading(folders[0]), self._locked(folders):
                if any(map(unsettled_in, folders)):
                    continue
                with told_half_made():
                    self._place_locked()
            self._clear()
            return

    @staticmethod
    @contextlib.contextmanager
    def _locked(folders: Iterable[Path]) -> Iterator[None]:
        with contextlib.ExitStack() as held:
            with whatever_the_system_says():
                held.enter_context(locked(map(lock_of, folders), patience_s=_PATIENCE_S, busy=_busy))
            yield

    def _place_locked(self) -> None:
        for path, seen in self._expected.items():
            if _Stamp.of(path) != seen:
                raise OutputError("was changed by another program meanwhile; run the command again", where=shown(path))
        for pending in self._pending:
            if _Stamp.of(pending.place) != pending.seen:
                self._judge_again(pending)
            if pending.outcome == "unchanged":
                self._stages[pending.place.parent].keep_back(pending.staged)
        waiting = place_all(list(self._stages.values()))
        with reading(self._pending[0].target):
            place = next(waiting, None)
        given = {each.place: each.target for each in self._pending}
        while place:
            with reading(given[place]):
                place = next(waiting, None)
        self.written = [Written(each.target, each.outcome, each.length) for each in self._pending]
        self._folders.clear()
        self._placed(self.written)

    def _clear(self) -> None:
        while self._stages:
            self._stages.popitem()[1].close()
        for folder in reversed(self._folders):
            with contextlib.suppress(OSError):
                folder.rmdir()
        self._folders.clear()


def _stat(path: Path) -> os.stat_result | None:
    try:
        return os.stat(path)
    except (FileNotFoundError, NotADirectoryError):
        return None


def _linked(target: Path) -> Path:
    """Return what a link points to, for a link is never replaced."""
    place = Path(os.path.realpath(target))
    if not place.exists():
        raise OutputError(f"is a broken link to {shown(place)}; remove the link", where=shown(target))
    return place


def _busy(path: Path) -> OutputError:
    return OutputError(
        "another Kivel has been writing there for a minute; run the command again", where=shown(path.parent)
    )
