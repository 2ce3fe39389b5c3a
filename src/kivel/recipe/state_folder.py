"""`.kivel/` beside a recipe, what is known and kept of builds: opened if this user made it, else set aside."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable
from pathlib import Path

from kivel.core.errors import KivelError
from kivel.files.own_folder import OwnFolder
from kivel.files.own_state import VARIABLE, state_key
from kivel.files.settling import remove_litter
from kivel.files.staging import Stage
from kivel.recipe.task import STORE

__all__ = ["made_state", "own_state", "removed_state"]

_MARK, _PURPOSE, _CONTENT = "mark", "state folder", b"kivel state 1\n"
_ASIDE = ".kivel.aside"


def own_state(folder: Path, tell: Callable[[str], object] = lambda _text: None) -> OwnFolder | None:
    """Return the state beside a recipe; None where there is none that this user made, which is noted."""
    state = OwnFolder(folder / STORE)
    if state.kept(_MARK, _PURPOSE, most=1 << 10) == _CONTENT:
        return state
    if os.path.lexists(state.path):
        tell(f"{state.path.as_posix()} was not made by you on this machine and is not used")
    return None


def made_state(folder: Path, tell: Callable[[str], object]) -> OwnFolder:
    """Return it, made where there is none; one that is not this user's is set aside unread, which is noted.

    Raises
    ------
    KivelError
        If it can be neither made nor set aside.
    """
    try:
        remove_litter(folder)
        state = own_state(folder)
        if state is None:
            _set_aside(folder / STORE, tell)
            _make(folder / STORE)
            state = own_state(folder)
    except OSError as error:
        raise KivelError(f"cannot be written: {error.strerror or error}", where=(folder / STORE).as_posix()) from error
    if state is None:
        raise KivelError("another build renamed it; run the command again", where=(folder / STORE).as_posix())
    lacks = state_key().lacks
    if lacks:
        tell(f"builds keep nothing for the next one ({lacks}); set {VARIABLE} to a long random text")
    return state


def removed_state(folder: Path) -> bool:
    """Remove all that is kept; whether there was anything.

    Raises
    ------
    KivelError
        If it is not this user's, or cannot be removed.
    """
    path = folder / STORE
    if not os.path.lexists(path):
        return False
    state = own_state(folder)
    if state is None:
        raise KivelError("was not made by you on this machine; remove it yourself", where=path.as_posix())
    try:
        state.removed()
    except OSError as error:
        raise KivelError(f"cannot be removed: {error.strerror}", where=path.as_posix()) from error
    return True


def _set_aside(path: Path, tell: Callable[[str], object]) -> None:
    if not os.path.lexists(path):
        return
    aside = path.with_name(_ASIDE)
    if os.path.lexists(aside):
        aside = path.with_name(f"{_ASIDE}-{os.urandom(4).hex()}")
    os.rename(path, aside)
    tell(
        f"{path.as_posix()} was not made by you on this machine and is not used; renamed to {aside.name}, remove "
        f"it if nobody needs it (to share one, set the same {VARIABLE})"
    )


def _make(path: Path) -> None:
    """Make it with its mark, or not at all: another build may do the same."""
    stage = Stage.made_in(path.parent)
    try:
        beside = OwnFolder(stage.add(path.name))
        os.mkdir(beside.path)
        beside.keep(_MARK, _PURPOSE, _CONTENT)
        beside.write(".gitignore", b"*\n")
        with contextlib.suppress(OSError):  # another was first
            os.rename(beside.path, path)
    finally:
        stage.close()
