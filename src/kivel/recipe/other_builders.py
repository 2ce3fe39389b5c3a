"""A build told to other build systems: what it reads and writes for Make and Ninja, and rules for Ninja."""

from __future__ import annotations

import re
import shlex
from collections.abc import Iterable, Sequence

from kivel.recipe.stamps import files_of
from kivel.recipe.task import STORE, Task

__all__ = ["depfile_text", "ninja_text"]


def depfile_text(outputs: Iterable[str], inputs: Iterable[str]) -> str:
    """One rule, as Make and Ninja read it: all that is written depends on all that is read."""
    targets = " ".join(map(_for_make, dict.fromkeys(outputs)))
    sources = " \\\n  ".join(map(_for_make, dict.fromkeys(inputs)))
    return f"{targets}: \\\n  {sources}\n"


def _for_make(path: str) -> str:
    return re.sub(r"([ #\\])", r"\\\1", path).replace("$", "$$")


def ninja_text(tasks: Sequence[Task], recipe: str) -> str:
    """Rules for Ninja, an edge for each thing that writes something; builds wait for each other, so one at a time."""
    by_thing: dict[str, list[Task]] = {}
    for task in tasks:
        by_thing.setdefault(task.thing, []).append(task)
    whose = {task.name: task.thing for task in tasks}
    written = {thing: _written(own) for thing, own in by_thing.items()}
    lines = [
        "# written by kivel build; run it again when the recipe changes",
        "pool kivel",
        "  depth = 1",
        "rule kivel",
        f"  command = kivel build --quiet --file {_for_shell(recipe)} --depfile $depfile $thing",
        "  description = kivel build $thing",
        "  depfile = $depfile",
        "  pool = kivel",
        "  restat = 1",
    ]
    for thing, own in by_thing.items():
        if not written[thing]:
            continue
        made = {path for paths in written.values() for path in paths}
        others = {whose[name] for task in own for name in task.needs} - {thing}
        reads = [path for task in own for read in task.reads for path in files_of(read)]
        given = [path for path in dict.fromkeys(reads) if path not in made and not path.startswith(f"{STORE}/")]
        given += [path for other in sorted(others) for path in written[other][:1]]
        outputs, inputs = (" ".join(map(_for_ninja, paths)) for paths in (written[thing], [*given, recipe]))
        lines += [f"build {outputs}: kivel {inputs}", f"  thing = {_for_shell(thing).replace('$', '$$')}"]
        lines += [f"  depfile = {_for_ninja(f'{STORE}/{thing}.d')}"]
    return "\n".join(lines) + "\n"


def _written(tasks: Iterable[Task]) -> list[str]:
    """The files that are known to be written; a folder of frames is not one."""
    paths = [path for task in tasks if not task.step for path in task.writes]
    return [path for path in dict.fromkeys(paths) if "." in path.rpartition("/")[2]]


def _for_ninja(path: str) -> str:
    return re.sub(r"([$ :])", r"$\1", path)


def _for_shell(text: str) -> str:
    return shlex.quote(text)
