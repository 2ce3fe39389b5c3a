"""The plan of a recipe, kept from one build to the next: to read and check a recipe takes longer than to see that it
is the same.
"""

from __future__ import annotations

import contextlib
import gc
import json
import os
from collections.abc import Iterator, Sequence
from glob import glob
from pathlib import Path
from typing import Any

from kivel import __version__
from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.files.own_folder import OwnFolder
from kivel.files.own_state import blake2b
from kivel.files.safety import file_text, opened_file
from kivel.recipe.task import Task

__all__ = ["Plan", "planned"]

_FORMAT = 1
_MOST_BYTES = 1 << 28
_PURPOSE = "plan"


class Plan(NamedTuple):
    """The tasks of a recipe, each behind those that it needs, and how much of their steps may be kept.

    `texts` are the files of the recipe, `globs` the patterns by which names of things were found.
    """

    tasks: Sequence[Task]
    store_bytes: int
    texts: tuple[str, ...]
    globs: tuple[str, ...]


def planned(path: Path, state: OwnFolder | None) -> Plan:
    """Return the plan of the recipe at a path; the one that is kept, if nothing has changed that it depends on.

    Raises
    ------
    KivelError
        What the recipe may not say.
    """
    name = f"plan-{path.name}.json"
    with contextlib.suppress(KivelError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
        found = json.loads((state and state.kept(name, _PURPOSE, most=_MOST_BYTES)) or b"{}")
        if found["by"] == [_FORMAT, __version__] and _is_same(found):
            tasks = [_task(one) for one in found["tasks"]]
            asked = tuple(pattern for pattern, _ in found["globs"])
            return Plan(tasks, int(found["store_bytes"]), tuple(found["texts"]), asked)
    from kivel.recipe.planning import tasks_of
    from kivel.recipe.recipe_file import read_recipe

    with _uncollected():
        recipe = read_recipe(path)
        paths = tuple(text.path.as_posix() for text in recipe.texts)
        plan = Plan(tasks_of(recipe), recipe.store_bytes, paths, tuple(pattern for pattern, _ in recipe.globs))
    texts = {text.path.as_posix(): _mark(text.path) for text in recipe.texts}
    # somebody may have saved one meanwhile: a plan of the old text must not be kept as that of the new
    is_of_these = all(file_text(text.path, most=_MOST_BYTES) == text.text for text in recipe.texts)
    globs = [[pattern, names] for pattern, names in recipe.globs]
    content = {**plan._asdict(), "by": [_FORMAT, __version__], "texts": texts, "globs": globs}
    if state and is_of_these:
        with contextlib.suppress(OSError):  # where it cannot be kept, it is made again
            state.keep(name, _PURPOSE, json.dumps(content, separators=(",", ":")).encode())
    return plan


@contextlib.contextmanager
def _uncollected() -> Iterator[None]:
    """Ten thousand things are a million values, none of which has to be looked through for circles again and again."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def _is_same(found: Any) -> bool:
    texts = all(_mark(Path(path)) == mark for path, mark in found["texts"].items())
    return bool(found["texts"]) and texts and all(sorted(glob(pattern)) == names for pattern, names in found["globs"])


def _mark(path: Path) -> list[Any]:
    """Return by which a file is the very one that was planned."""
    with opened_file(path) as file:
        stat = os.fstat(file.fileno())
        return [stat.st_ino, stat.st_ctime_ns, blake2b(file.read(stat.st_size), digest_size=16).hexdigest()]


def _task(found: Sequence[Any]) -> Task:
    values: list[Any] = [tuple(value) if isinstance(value, list) else value for value in found]
    return Task(*values)
