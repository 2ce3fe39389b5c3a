"""Built again whenever something changes that the recipe reads."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from kivel.core.errors import KivelError
from kivel.recipe.build_state import BuildState
from kivel.recipe.kept_plan import planned
from kivel.recipe.state_folder import own_state
from kivel.recipe.task import STORE

__all__ = ["changes"]

_QUIET_MS, _LONGEST_MS, _LOOK_MS = 80, 2000, 300
"""A burst of changes is over when nothing has happened for so long, or has gone on for so long."""


def changes(recipe: Path) -> Iterator[tuple[str, ...]]:
    """What has changed, each time when it is time to build again, for ever.

    The first is told when watching has begun, and may be empty: what changed just before has been seen by nobody.
    Bursts of changes come as one. What builds write themselves is no change, nor is what editors keep beside a file.

    Raises
    ------
    KivelError
        If the extra that watches is not installed.
    """
    try:
        from watchfiles import watch
    except ImportError as error:
        raise KivelError("to watch takes one more package; pip install 'kivel[watch]'") from error
    while True:
        roots = _watched(recipe)
        begun = False
        for found in watch(*roots, step=_QUIET_MS, debounce=_LONGEST_MS, yield_on_timeout=True, rust_timeout=_LOOK_MS):
            own = _written(recipe) if found else set()
            paths = {os.path.relpath(path, recipe.parent) for _, path in found}
            told = tuple(sorted(path for path in paths if path not in own and _counts(path, recipe.parent)))
            if told or not begun:
                begun = True
                yield told
                if _watched(recipe) != roots:
                    break  # the recipe reads other files now


def _watched(recipe: Path) -> list[Path]:
    """Folders to look into: where the recipe is, and where what it reads lies."""
    folders = {recipe.parent}
    try:
        tasks = planned(recipe, own_state(recipe.parent)).tasks
    except KivelError:
        return [recipe.parent]  # a change of the recipe may mend it
    for read in (read for task in tasks for read in task.reads if not read.startswith(STORE)):
        path = recipe.parent / read
        while not path.is_dir() and path != path.parent:
            path = path.parent
        folders.add(path)
    return sorted(folders)


def _written(recipe: Path) -> set[str]:
    """What earlier builds made."""
    state = BuildState(own_state(recipe.parent), recipe.name)
    return {os.path.normpath(path) for one in state.records.values() for path in one.outputs}


def _counts(path: str, folder: Path) -> bool:
    """Whether a file is one that people mean: hidden ones and editors' copies are not."""
    hidden = any(part.startswith(".") and part != ".." for part in Path(path).parts)
    return not hidden and not path.endswith(("~", ".tmp", ".swp")) and (folder / path).parent.is_dir()
