"""A build told to other build systems: what it reads and writes for Make and Ninja, and rules for Ninja."""

from __future__ import annotations

import os
import re
import shlex
from collections.abc import Iterable, Iterator, Sequence
from glob import has_magic

from kivel.recipe.task import STORE, Task

__all__ = ["depfile_text", "folders_of", "ninja_text"]


def depfile_text(depfile: str, inputs: Iterable[str]) -> str:
    """One rule, as Make and Ninja read it: the file itself, which is new after each build, depends on all that is read.

    Each input is a target of its own as well, so that one that is removed stops nobody.
    """
    sources = list(dict.fromkeys(map(_for_make, inputs)))
    rule = f"{_for_make(depfile)}: \\\n  " + " \\\n  ".join(sources)
    return "\n".join([rule, *(f"{source}:" for source in sources)]) + "\n"


def folders_of(reads: Iterable[str], written: Iterable[str]) -> list[str]:
    """The folders in which a file that is added or removed is read, or read no more.

    One into which the build itself writes tells nothing.
    """
    own = {os.path.dirname(path) for path in written}
    found: dict[str, None] = {}
    for read in reads:
        if os.path.isdir(read):
            found |= dict.fromkeys(_folders_within(read.rstrip("/")))
        elif not os.path.lexists(read) and (has_magic(read) or "#" in read):
            folder = os.path.dirname(read)
            while has_magic(folder):
                folder = os.path.dirname(folder)
            found[folder or "."] = None
    return [folder for folder in found if (folder if folder != "." else "") not in own and not folder.startswith(STORE)]


def _folders_within(folder: str) -> Iterator[str]:
    yield folder
    for entry in sorted(os.scandir(folder), key=lambda one: one.name):
        if entry.is_dir(follow_symlinks=False) and not entry.name.startswith("."):
            yield from _folders_within(entry.path)


def _for_make(path: str) -> str:
    return re.sub(r"([ #\\])", r"\\\1", path).replace("$", "$$")


def ninja_text(tasks: Sequence[Task], recipe: str, ninja: str, *, texts: Sequence[str], globs: Sequence[str]) -> str:
    """Rules for Ninja, an edge for each thing that writes something; builds wait for each other, so one at a time.

    Which files are read, each build says by its depfile. `texts` are the files of the recipe, `globs` the patterns by
    which names of things were found: when these change the rules are made again.
    """
    by_thing: dict[str, list[Task]] = {}
    for task in tasks:
        by_thing.setdefault(task.thing, []).append(task)
    whose = {task.name: task.thing for task in tasks}
    written = {thing: _written(own) for thing, own in by_thing.items()}
    made = {path for paths in written.values() for path in paths}
    again = " ".join(map(_for_ninja, [*texts, *folders_of(globs, [*made, ninja])]))
    lines = [
        "# written by kivel build, which writes it again when the recipe changes",
        "pool kivel",
        "  depth = 1",
        "rule kivel",
        f"  command = kivel build --quiet --file {_for_shell(recipe)} --depfile $out $thing",
        "  description = kivel build $thing",
        "  depfile = $out",
        "  pool = kivel",
        "  restat = 1",
        "rule rules",
        f"  command = kivel build --quiet --file {_for_shell(recipe)} --ninja $out",
        "  description = kivel build --ninja",
        "  pool = kivel",
        "  generator = 1",
        "  restat = 1",
        f"build {_for_ninja(ninja)}: rules {again}",
    ]
    for thing, own in by_thing.items():
        if not written[thing]:
            continue
        others = {whose[name] for task in own for name in task.needs} - {thing}
        named = [read for task in own for read in task.reads if os.path.isfile(read) and read not in made]
        given = [path for path in dict.fromkeys(named) if not path.startswith(f"{STORE}/")]
        given += [path for other in sorted(others) for path in written[other][:1]]
        outputs, inputs = (" ".join(map(_for_ninja, paths)) for paths in (written[thing], [*given, *texts]))
        lines += [f"build {_for_ninja(f'{STORE}/{thing}.d')} | {outputs}: kivel {inputs}"]
        lines += [f"  thing = {_for_shell(thing).replace('$', '$$')}"]
    return "\n".join(lines) + "\n"


def _written(tasks: Iterable[Task]) -> list[str]:
    """The files that are known to be written; a folder of frames is not one."""
    paths = [path for task in tasks if not task.step for path in task.writes]
    return [path for path in dict.fromkeys(paths) if "." in path.rpartition("/")[2]]


def _for_ninja(path: str) -> str:
    return re.sub(r"([$ :])", r"$\1", path)


def _for_shell(text: str) -> str:
    return shlex.quote(text)
