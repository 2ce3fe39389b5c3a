"""Bringing to an end what runs that died left in a folder: their sets completed or undone, their litter removed.

What the key of this user does not prove to be Kivel's own is left as it is, unread.
"""

from __future__ import annotations

import contextlib
import errno
import os
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Literal

from kivel.core.named_tuples import NamedTuple
from kivel.files.journals import Journal, State
from kivel.files.locks import FileLock, locked
from kivel.files.staging import (
    HalfMadeError,
    Stage,
    finish,
    is_stage,
    journal_that_counts,
    lock_of,
    stages_in,
    undo,
)

__all__ = ["Settled", "is_half_made", "remove_litter", "settle", "strangers_in", "unsettled_in"]

_PATIENCE_S = 60.0
_LOOK_AGAIN_S = 0.01


class Settled(NamedTuple):
    """A set of somebody who died, and what became of it; `left` are files that were changed since, and stay."""

    folder: Path
    names: tuple[str, ...]
    what: Literal["completed", "undone"]
    left: tuple[str, ...] = ()


def unsettled_in(folder: Path) -> bool:
    """Whether there is a set that is being put in place, or was when its maker died."""
    return any(journal_that_counts(path) for path in stages_in(folder))


def is_half_made(path: Path) -> bool:
    """Whether a file is one of a set that is being put in place, or was when its maker died."""
    for stage in stages_in(path.parent):
        own = Journal.read(stage)
        if own and path.name in own.names and journal_that_counts(stage):
            return True
    return False


def strangers_in(folder: Path) -> list[Path]:
    """Return what looks like a stage and was not made by this user: it came with a clone, an archive, or is another
    user's.
    """
    return [path for path in stages_in(folder) if Stage.is_left_by_others(path)]


def settle(folder: Path, *, touch: bool = True) -> list[Settled]:
    """Complete or undo what the dead left half-made in a folder, and remove their litter.

    Without `touch` it only says what would be done.

    Raises
    ------
    HalfMadeError
        If there is a half-made set that cannot be settled from here.
    """
    found = [done for path in stages_in(folder) if (done := _settled(path, touch=touch))]
    if touch:
        _remove_lock(lock_of(folder))
    return found


def remove_litter(folder: Path) -> None:
    """Remove what the dead left in a folder; their half-made sets stay for `settle`."""
    for path in stages_in(folder):
        _tidied(path)


def _remove_lock(path: Path) -> None:
    """One that nobody holds; it is always empty, and so what has something in it is not Kivel's."""
    with contextlib.suppress(OSError):
        if os.lstat(path).st_size == 0:
            lock = FileLock.taken(path, create=False)
            if lock:
                lock.release()


def _settled(path: Path, *, touch: bool) -> Settled | None:
    until = time.monotonic() + _PATIENCE_S
    while journal := journal_that_counts(path):
        home, found = journal
        settled = Settled(home.parent, found.names, "completed" if found.state == "place" else "undone")
        if not touch:
            return settled
        left = _brought_to_an_end(home, found)
        if left is not None:
            return settled._replace(left=tuple(left))
        if time.monotonic() > until:
            raise HalfMadeError(home.parent, found.names, "another Kivel is at work there")
        time.sleep(_LOOK_AGAIN_S)
    if touch:
        _tidied(path)
    return None


def _tidied(path: Path) -> None:
    with contextlib.suppress(OSError):  # litter that may not be removed harms nobody
        stage = Stage.of_the_dead(path)
        if stage:
            stage.close()


def _brought_to_an_end(home: Path, journal: Journal) -> list[str] | None:
    """The files that another program changed, while the rest of the set is whole now.

    None while its maker lives, or another does the same.
    """
    others = [Path(os.path.normpath(home / seen)) for seen in journal.others]
    paths = [home, *(path for path in others if is_stage(path) and not Stage.is_left_by_others(path))]
    stages: list[Stage] = []
    left: list[str] = []
    try:
        with locked([lock_of(path.parent) for path in paths], patience_s=_PATIENCE_S, busy=_busy):
            for path in paths:
                stage = Stage.of_the_dead(path)
                if stage is None:
                    return None
                stages.append(stage)
                stage.read_journal()
            now = stages[0].read_journal()
            if now:
                left = _end(stages, now.state)
            while stages:
                stages.pop().close()
    except OSError as error:
        waiting = [name for stage in stages for name in stage.waiting()]
        reason = error.strerror or str(error)
        raise HalfMadeError(home.parent, waiting or journal.names, reason) from error
    finally:
        for stage in stages:
            stage.leave()
    return left


def _end(stages: Sequence[Stage], state: State) -> list[str]:
    home, *others = stages
    return undo(home, others) if state == "undo" else finish(home, others)


def _busy(path: Path) -> OSError:
    return OSError(errno.EBUSY, "another Kivel is writing there", str(path))
