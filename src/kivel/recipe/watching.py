"""Built again whenever something changes that the recipe reads."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from fnmatch import fnmatchcase
from glob import has_magic
from pathlib import Path

from kivel.core.errors import KivelError
from kivel.recipe.build_state import BuildState
from kivel.recipe.kept_plan import planned
from kivel.recipe.stamps import files_of
from kivel.recipe.state_folder import own_state
from kivel.recipe.task import STORE

__all__ = ["changes"]

_QUIET_MS, _LONGEST_MS, _LOOK_MS = 80, 2000, 300
"""A burst of changes is over when nothing has happened for so long, or has gone on for so long."""


def changes(recipe: Path) -> Iterator[tuple[str, ...]]:
    """Return what has changed, each time when it is time to build again, for ever.

    The first comes when watching has begun, and may be empty: what changed just before has been seen by nobody.
    Bursts of changes come as one. What builds write themselves is no change, nor is what editors keep beside a file.

    Raises
    ------
    KivelError
        If the extra that watches is not installed.
    """
    try:
        from watchfiles import watch
    except ImportError as error:
        raise KivelError("watching needs one more package; pip install 'kivel[watch]'") from error
    seen = _Reads(recipe)
    while True:
        roots = seen.folders()
        begun = False
        for found in watch(*roots, step=_QUIET_MS, debounce=_LONGEST_MS, yield_on_timeout=True, rust_timeout=_LOOK_MS):
            own = _written(recipe) if found else set()
            paths = {os.path.relpath(path, recipe.parent) for _, path in found}
            told = tuple(sorted(path for path in paths if path not in own and seen.counts(path)))
            if told or not begun:
                begun = True
                yield told
                seen = _Reads(recipe, before=seen)
                if seen.folders() != roots:
                    break  # the recipe reads other files now


class _Reads:
    """Holds what a recipe reads: its own files, frames, maps, profiles, and whatever may become a thing of a pattern.

    Where the recipe cannot be read, what it read before.
    """

    def __init__(self, recipe: Path, *, before: _Reads | None = None) -> None:
        self._recipe = recipe
        self._files = {recipe.name}
        self._within: list[str] = []
        self._patterns: list[str] = []
        try:
            plan = planned(recipe, own_state(recipe.parent))
        except KivelError:
            if before:
                self._files, self._within, self._patterns = before._files, before._within, before._patterns
            return
        self._files |= {os.path.relpath(text, recipe.parent) for text in plan.texts}
        self._patterns = [_pattern(os.path.relpath(text, recipe.parent)) for text in plan.globs]
        with contextlib.chdir(recipe.parent):
            for read in dict.fromkeys(read for task in plan.tasks for read in task.reads):
                if not read.startswith(STORE):
                    self._add(read)

    def _add(self, read: str) -> None:
        path = os.path.normpath(read)
        if os.path.isdir(read) or read.endswith("/"):
            self._within.append(path)
        elif not os.path.lexists(read) and (has_magic(read) or "#" in read):
            self._patterns.append(_pattern(path))
        else:
            self._files |= set(map(os.path.normpath, files_of(read)))

    def counts(self, path: str) -> bool:
        """Whether a change of a file, as seen from the recipe's folder, is one of what is read."""
        if not _is_meant(path):
            return False
        return (
            path in self._files
            or any(folder == "." or path == folder or path.startswith(folder + os.sep) for folder in self._within)
            or any(fnmatchcase(path, one) or fnmatchcase(path, f"{one}/*") for one in self._patterns)
        )

    def folders(self) -> list[Path]:
        """Where it lies; of what is not there the nearest folder that is."""
        found = {self._recipe.parent}
        for read in (*self._within, *self._files):
            path = self._recipe.parent / read
            while not path.is_dir() and path != path.parent:
                path = path.parent
            found.add(path)
        return sorted(found)


def _pattern(path: str) -> str:
    return path.replace("#", "[0-9]*")


def _written(recipe: Path) -> set[str]:
    """Return what earlier builds made."""
    state = BuildState(own_state(recipe.parent), recipe.name)
    return {os.path.normpath(path) for one in state.records.values() for path in one.outputs}


def _is_meant(path: str) -> bool:
    """Whether a file is one that people mean: hidden ones and editors' copies are not."""
    hidden = any(part.startswith(".") and part != ".." for part in Path(path).parts)
    return not hidden and not path.endswith(("~", ".tmp", ".swp"))
