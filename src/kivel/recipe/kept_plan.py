"""The plan of a recipe, kept from one build to the next: to read and check a recipe takes longer than to see that it
is the same.
"""

from __future__ import annotations

import contextlib
import gc
import hashlib
import json
import os
from collections.abc import Iterator, Sequence
from glob import glob
from pathlib import Path
from typing import Any

from kivel import __version__
from kivel.core.named_tuples import NamedTuple
from kivel.recipe.task import STORE, Task

__all__ = ["Plan", "planned"]

_FORMAT = 1


class Plan(NamedTuple):
    """The tasks of a recipe, each behind those that it needs, and how much of their steps may be kept."""

    tasks: Sequence[Task]
    store_bytes: int


def planned(path: Path) -> Plan:
    """The plan of the recipe at a path; the one that is kept, if nothing has changed that it depends on.

    Raises
    ------
    KivelError
        What the recipe may not say.
    """
    kept = path.parent / STORE / f"plan-{path.name}.json"
    with contextlib.suppress(OSError, ValueError, KeyError, TypeError):
        found = json.loads(kept.read_bytes())
        if found["by"] == [_FORMAT, __version__] and _is_same(found):
            return Plan([_task(one) for one in found["tasks"]], found["store_bytes"])
    from kivel.recipe.planning import tasks_of
    from kivel.recipe.recipe_file import read_recipe

    with _uncollected():
        recipe = read_recipe(path)
        plan = Plan(tasks_of(recipe), recipe.store_bytes)
    texts = {text.path.as_posix(): _mark(text.path) for text in recipe.texts}
    globs = [[pattern, names] for pattern, names in recipe.globs]
    _keep(kept, {"by": [_FORMAT, __version__], "texts": texts, "globs": globs, **plan._asdict()})
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
    """By which a file is the very one that was planned.

    A plan is not checked again, and one that came along with somebody's files must not be believed: nobody can say
    beforehand which number a file gets here, and when.
    """
    stat = path.stat()
    return [stat.st_ino, stat.st_ctime_ns, hashlib.blake2b(path.read_bytes(), digest_size=16).hexdigest()]


def _task(found: Sequence[Any]) -> Task:
    values: list[Any] = [tuple(value) if isinstance(value, list) else value for value in found]
    return Task(*values)


def _keep(path: Path, content: Any) -> None:
    """Where it cannot be kept, it is made again."""
    beside = path.with_name(f"{path.name}.{os.getpid()}")
    with contextlib.suppress(OSError):
        path.parent.mkdir(exist_ok=True)
        beside.write_text(json.dumps(content, ensure_ascii=False, separators=(",", ":")), encoding="utf-8")
        os.replace(beside, path)
