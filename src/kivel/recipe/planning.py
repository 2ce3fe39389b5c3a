"""Describes what follows from a recipe: tasks, each one command with its options as texts, and which of them others
depend on.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterator, Sequence
from functools import cache
from pathlib import Path
from typing import Any

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.suggestions import did_you_mean
from kivel.files.documents import TomlError
from kivel.files.images import IMAGE_SUFFIXES
from kivel.files.manifest.names import manifest_beside, manifest_in
from kivel.making.commands import command
from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import moved_path
from kivel.recipe.task import STORE, Said, Task, as_given
from kivel.recipe.things import FRAME_COMMANDS, FROM, FROM_REST, MANIFEST_COMMANDS, Act, Recipe, Thing

__all__ = ["tasks_of"]

_WRITES = ("out", "look", "save-regions")
_NAME = re.compile(r"\b(?<!\.)\w+|\b\w+\b(?!$)")


class _Result(NamedTuple):
    """Holds what a thing, or a step of it, is for those that depend on it: paths, and the tasks that make them."""

    paths: tuple[str, ...]
    needs: tuple[str, ...] = ()


def tasks_of(recipe: Recipe) -> list[Task]:
    """The tasks, each behind those that it needs.

    Raises
    ------
    TomlError
        If options contradict each other, things depend on each other in a circle, two write one file, or one is written
        outside the recipe's folder and what it allows: the file, the line and the key.
    """
    return _Planner(recipe).tasks()


class _Planner:
    def __init__(self, recipe: Recipe) -> None:
        self._recipe = recipe
        self._things = {thing.name: thing for thing in recipe.things}
        self._results: dict[str, _Result] = {}
        self._within: list[str] = []
        self._tasks: list[Task] = []
        self._written: dict[str, list[Task]] = {}
        self._names_written: set[str] = set()
        self._checked: set[tuple[str, ...]] = set()
        self._real: dict[str, str] = {}
        self._beside: dict[Path, str] = {}
        self._allowed = [os.path.realpath(one) for one in (recipe.folder, *recipe.allowed)]

    def tasks(self) -> list[Task]:
        for thing in self._recipe.things:
            self._result(thing.name, thing, thing.place)
        self._names_written = {os.path.basename(key) for key in self._written}
        return _in_order([self._with_readers(task) for task in self._tasks])

    def _with_readers(self, task: Task) -> Task:
        """A task needs those that write what it reads, also where it names the file and not the thing."""
        likely = [path for path in task.reads if self._may_be_written(path)]
        found = {self._key(path) for path in likely} & self._written.keys()
        more = {writer.name for key in found for writer in self._written[key]} - {task.name}
        return task._replace(needs=tuple(dict.fromkeys((*task.needs, *sorted(more))))) if more else task

    def _may_be_written(self, path: str) -> bool:
        """By its name alone, or as a link: to follow every folder takes longer."""
        name = os.path.basename(path.rstrip("/")).casefold()
        return name in self._names_written or os.path.islink(os.path.join(self._recipe.folder, path.rstrip("/")))

    def _key(self, path: str) -> str:
        """Return by which a file is the same under whatever name."""
        return self._full(path).casefold()

    def _full(self, path: str) -> str:
        """Links of folders followed, each once."""
        folder, name = os.path.split(path.rstrip("/"))
        if folder not in self._real:
            self._real[folder] = os.path.realpath(self._recipe.folder / folder)
        full = os.path.join(self._real[folder], name)
        return os.path.realpath(full) if os.path.islink(full) else full

    def _folder_of(self, thing: Thing) -> str:
        """The folder of a thing's file, as seen from the recipe's."""
        path = thing.file.path
        if path not in self._beside:
            self._beside[path] = os.path.relpath(path.parent, self._recipe.folder)
        return self._beside[path]

    def _result(self, name: str, asking: Thing, place: tuple[str | int, ...]) -> _Result:
        """Return what a thing is, its tasks being made on the way."""
        if name in self._results:
            return self._results[name]
        thing = self._things.get(name)
        if thing is None:
            raise asking.file.error(place, f"nothing in the recipe is called {name}{did_you_mean(name, self._things)}")
        if name in self._within:
            circle = " -> ".join([*self._within[self._within.index(name) :], name])
            raise thing.file.error(thing.place, f"depends on itself: {circle}")
        self._within.append(name)
        try:
            self._results[name] = self._made(thing)
        finally:
            self._within.pop()
        return self._results[name]

    def _made(self, thing: Thing) -> _Result:
        frames = self._sources(thing)
        for number, act in enumerate(thing.steps):
            out = f"{STORE}/steps/{thing.name}/{number}/{thing.name}"
            task = self._task(thing, act, frames, out, step="out" not in act.given)
            frames = _Result(_out_of(task), (task.name,))
        result = None
        for act in thing.outputs:
            holds = act.command in (*FRAME_COMMANDS, *MANIFEST_COMMANDS)
            task = self._task(thing, act, frames if holds or result is None else result, None, step=False)
            if holds and result is None:
                result = _Result(_out_of(task), (task.name,))
        return result or frames

    def _sources(self, thing: Thing) -> _Result:
        """Return the sources of a thing as the first of its commands takes it: `"@light opacity=0.5"` for `layer`."""
        place = (*thing.place, "from")
        first = next(iter((*thing.steps, *thing.outputs)), None)
        taken = first and _options_of(first.command).declared().get(FROM.get(first.command, "sources"))
        paths: list[str] = []
        needs: dict[str, None] = {}
        for text in thing.sources:
            if taken and taken.from_folder not in (None, moved_path) and text.lstrip("@") not in self._things:
                paths.append(self._moved(thing, place, taken, text, needs))
                continue
            resolved, more = self._resolved(thing, place, (text,))
            paths += resolved
            needs |= dict.fromkeys(more)
        return _Result(tuple(paths), tuple(needs))

    def _task(self, thing: Thing, act: Act, source: _Result, out: str | None, *, step: bool) -> Task:
        options = _options_of(act.command)
        declared = options.declared()
        given = dict(act.given)
        taken = FROM.get(act.command, "sources")
        own = taken not in given
        if own and not source.paths:
            raise thing.file.error(act.place, f"it has no source; set from, or {taken}")
        if not step and "out" not in given and act.command in FRAME_COMMANDS and act.command != "loop":
            kept = 'out = "DIR" is needed for its frames'
            message = f"{kept}; if they are only for the next command, use steps = [{{ {act.command} = ... }}]"
            raise thing.file.error(act.place, message)
        needs = dict.fromkeys(source.needs if own else ())
        said: Said = {}
        for name, value in given.items():
            with _placed(thing, act, (*act.place, name)):
                texts = declared[name].texts(value)
                said[name] = [self._moved(thing, (*act.place, name), declared[name], text, needs) for text in texts]
        rest = FROM_REST.get(act.command)
        if own and rest and rest not in given and len(source.paths) > 1:
            said[taken], said[rest] = [source.paths[0]], list(source.paths[1:])
        elif own:
            said[taken] = list(source.paths)
        if step:
            said["out"] = [out or ""]
        self._check(thing, act, said)
        retimes = tuple(self._retimed(thing, one) for one in act.retimes)
        name = ".".join(map(str, (thing.name, *act.place[len(thing.place) :])))
        reads, writes = tuple(_reads(act.command, said)), tuple(_writes(act.command, said))
        line = thing.file.error(act.place, "").where or ""
        task = Task(name, thing.name, act.command, said, retimes, reads, writes, tuple(needs), step, line)
        if not step:
            task = self._allowed_and_alone(thing, act, task)
        self._tasks.append(task)
        return task

    def _check(self, thing: Thing, act: Act, said: Said) -> None:
        """Once for all that differ in nothing but the names of files: a pattern makes thousands of those."""
        options = _options_of(act.command)
        declared = options.declared()
        alike = [[*map(_shape, texts)] if declared[name].from_folder else texts for name, texts in said.items()]
        key = (act.command, *said, str(alike))
        if key not in self._checked:
            with _placed(thing, act, act.place):
                options.of(as_given(said, declared), door="recipe")
            self._checked.add(key)

    def _moved(
        self, thing: Thing, place: tuple[str | int, ...], one: Option[Any], text: str, needs: dict[str, None]
    ) -> str:
        """A text with its paths as seen from the recipe's folder, names of things replaced by what they are."""
        if one.from_folder is None:
            return text

        def move(path: str) -> str:
            paths, more = self._resolved(thing, place, (path,))
            needs.update(dict.fromkeys(more))
            return paths[0]

        return one.from_folder(text, move)

    def _resolved(
        self, thing: Thing, place: tuple[str | int, ...], texts: Sequence[str]
    ) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Paths as seen from the recipe's folder, and the tasks that make them."""
        paths: list[str] = []
        needs: dict[str, None] = {}
        for text in texts:
            if text.startswith("@"):
                result = self._result(text[1:], thing, place)
                paths += result.paths
                needs |= dict.fromkeys(result.needs)
            else:
                folder = self._folder_of(thing)
                # a folder keeps its stroke, and what is in this folder has no dot in front
                paths.append(text if folder == "." or os.path.isabs(text) else f"{folder}/{text}")
        return tuple(paths), tuple(needs)

    def _retimed(self, thing: Thing, act: Act) -> Said:
        options = command("retime").options
        declared = options.declared()
        said: Said = {}
        for name, value in act.given.items():
            place = (*act.place, name)
            if name in ("manifest", "pivot"):
                raise thing.file.error(place, "it is set by the command that makes the clips; remove it")
            with _placed(thing, act, place):
                said[name] = declared[name].texts(value)
        with _placed(thing, act, act.place):
            options.of({**as_given(said, declared), "manifest": "it"}, door="recipe")
        return said

    def _allowed_and_alone(self, thing: Thing, act: Act, task: Task) -> Task:
        """Refuse what is written outside, and what two write; packs are filled by many, each with files of its own."""
        for path in task.writes:
            full = self._full(path)
            if not any(full == one or full.startswith(one.rstrip(os.sep) + os.sep) for one in self._allowed):
                message = f'{path} is outside the recipe\'s folder; allow its folder: allow = ["../art"]'
                raise thing.file.error(act.place, message)
            writers = self._written.setdefault(self._key(path), [])
            writers.append(task)
            other = writers[0]
            if other is not task and not (task.fills_a_pack and other.fills_a_pack):
                raise thing.file.error(act.place, f"{path} is already written by {other.name} ({other.line})")
        return task


class _placed:  # noqa: N801 - reads as a word
    """Errors raised within say where in the recipe the value is."""

    def __init__(self, thing: Thing, act: Act, place: tuple[str | int, ...]) -> None:
        self._thing, self._act, self._place = thing, act, place

    def __enter__(self) -> None:
        pass

    def __exit__(self, kind: object, error: BaseException | None, _trace: object) -> None:
        if isinstance(error, KivelError):
            error.door = "recipe"
            place, message = self._place, str(error)
            if error.where and error.where in self._act.given:  # the option is named: its own line says more
                place, message = (*self._act.place, error.where), error.message
            raise self._thing.file.error(place, message) from error


@cache
def _options_of(name: str) -> type[CommonOptions]:
    return command(name).options


def _in_order(tasks: Sequence[Task]) -> list[Task]:
    """Each behind those that it needs, else as they are in the recipe.

    Raises
    ------
    TomlError
        If some depend on each other.
    """
    names: set[str] = set()
    found: list[Task] = []
    waiting = list(tasks)
    while waiting:
        left = []
        for task in waiting:
            if names.issuperset(task.needs):
                names.add(task.name)
                found.append(task)
            else:
                left.append(task)
        if len(left) == len(waiting):
            told = ", ".join(task.name for task in left[:5])
            raise TomlError(f"depend on each other: {told}", where=left[0].line)
        waiting = left
    return found


def _shape(path: str) -> str:
    """A path as far as options look at it: signs and the ending.

    >>> [_shape("art/moth 1.png"), _shape("normal=art/moth_##.exr"), _shape("art/moth/")]
    ['w/w w.png', 'w=w/w##.exr', 'w/w/']
    """
    return _NAME.sub("w", path)


def _reads(name: str, said: Said) -> list[str]:
    found: list[str] = []

    def noted(path: str) -> str:
        found.append(path)
        return path

    for path_option, from_folder in _path_options(name):
        for text in said.get(path_option, ()):
            from_folder(text, noted)
    return found


@cache
def _path_options(name: str) -> list[tuple[str, Callable[[str, Callable[[str], str]], str]]]:
    """Those that name what is read."""
    declared = _options_of(name).declared().items()
    return [(key, one.from_folder) for key, one in declared if one.from_folder and key not in _WRITES]


def _writes(name: str, said: Said) -> Iterator[str]:
    for option_ in _WRITES:
        yield from said.get(option_, ())
    if name in MANIFEST_COMMANDS:
        yield from _manifest(name, said)


def _manifest(name: str, said: Said) -> tuple[str, ...]:
    """The manifest of what is laid out or adopted."""
    if "into" in said:
        return (said["into"][0],)
    if name == "adopt" and "out" in said:
        return tuple(said["out"])
    if name == "adopt":
        return tuple(_adopted(Path(one)).as_posix() for one in said["sources"])
    return tuple(manifest_beside(Path(one)).as_posix() for one in said["out"])


def _adopted(source: Path) -> Path:
    """The manifest of a sheet, which is an image, or of a folder, which may not be there yet."""
    return manifest_beside(source) if source.suffix.lower() in IMAGE_SUFFIXES else manifest_in(source)


def _out_of(task: Task) -> tuple[str, ...]:
    """Return what others read of it."""
    return _manifest(task.command, task.said) if task.command in MANIFEST_COMMANDS else tuple(task.said["out"])
