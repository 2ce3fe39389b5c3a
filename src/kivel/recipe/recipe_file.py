"""Read a recipe, `kivel.toml`, and those that it includes."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator, Mapping
from fnmatch import fnmatchcase
from functools import lru_cache
from glob import glob
from pathlib import Path
from typing import Any, NoReturn

from kivel.core.numbering import natural_order
from kivel.core.suggestions import did_you_mean
from kivel.files.documents import TomlError
from kivel.files.models import KeyPath
from kivel.files.safety import shown
from kivel.files.toml_file import TomlFile, read_toml_file
from kivel.recipe.things import FRAME_COMMANDS, MANIFEST_COMMANDS, RECIPE_COMMANDS, Act, Recipe, Thing

__all__ = ["RECIPE", "read_recipe"]

RECIPE = "kivel.toml"
_MOST_BYTES = 16 << 20
_MOST_FILES = 1000
_USUAL_STORE = 2_000_000_000
_KEYS = ("include", "allow", "store", "defaults", "make")
_UNITS = {"kB": 10**3, "MB": 10**6, "GB": 10**9}
_NAME = "{name}"
_SHORT = {"prep": "step"}
"""The option that is meant where a command has a list or a text in place of a table."""


def read_recipe(path: Path) -> Recipe:
    """A recipe with all that it includes, its defaults filled in, its patterns resolved to the names that are there.

    Raises
    ------
    TomlError
        If it says what it may not: the file, the line, the key, and what was expected.
    OutputError
        If a file cannot be read.
    """
    reader = _Reader(path)
    reader.file(path, ())
    return reader.recipe()


class _Reader:
    """Gathers what the files of a recipe say."""

    def __init__(self, path: Path) -> None:
        self._folder = path.parent
        self._texts: list[TomlFile] = []
        self._things: dict[str, Thing] = {}
        self._patterns: list[tuple[TomlFile, str, Any, Any]] = []
        self._allowed: list[Path] = []
        self._store = _USUAL_STORE
        self._globs: dict[str, list[str]] = {}
        self._written: set[str] | None = None

    def recipe(self) -> Recipe:
        by_hand = dict(self._things)
        taken: dict[str, str] = {}
        for file, pattern, said, defaults in self._patterns:
            for name in self._names(file, pattern, said):
                if name in by_hand:
                    continue
                other = taken.setdefault(name, pattern)
                if other != pattern:
                    message = f"{name} is also made by {other!r}; rename it in one of them"
                    raise file.error(("make", pattern), message)
                self._add(_thing(file, name, ("make", pattern), _filled(said, name), defaults))
        things = tuple(self._things.values())
        return Recipe(
            self._folder, tuple(self._texts), things, tuple(self._allowed), self._store, tuple(self._globs.items())
        )

    def file(self, path: Path, within: tuple[Path, ...]) -> None:
        if path.resolve() in within:
            raise TomlError("includes itself", where=shown(path))
        if len(self._texts) == _MOST_FILES:
            raise TomlError(f"more than {_MOST_FILES} files are included", where=shown(path))
        file = read_toml_file(path, most=_MOST_BYTES)
        said = file.content()
        self._texts.append(file)
        _known(file, (), said, _KEYS)
        for name in _texts_of(file, ("include",), said.get("include", [])):
            self.file(path.parent / name, (*within, path.resolve()))
        self._allowed += [path.parent / name for name in _texts_of(file, ("allow",), said.get("allow", []))]
        if "store" in said:
            self._store = _bytes(file, said["store"])
        defaults = _defaults(file, said.get("defaults", {}))
        made = _table(file, ("make",), said.get("make", {}))
        for name, one in made.items():
            if any(sign in name for sign in "*?["):
                self._patterns.append((file, name, one, defaults))
            else:
                self._add(_thing(file, name, ("make", name), one, defaults))

    def _names(self, file: TomlFile, pattern: str, said: Any) -> list[str]:
        """The names that a pattern means, by the folders and files that are there."""
        place = ("make", pattern)
        table = _table(file, place, said)
        sources = [one for one in _texts_of(file, (*place, "from"), table.get("from", [])) if _NAME in one]
        if not sources:
            raise file.error(place, f'is a pattern; set from to a path with the names, like "characters/{_NAME}/"')
        found = set()
        folder = "" if file.path.parent == Path() else f"{file.path.parent.as_posix()}/"
        for source in sources:
            before, _, behind = source.partition(_NAME)
            told = re.compile(re.escape(folder + before) + r"([^/\\]+)" + _behind(behind))
            asked = folder + before + "*" + behind.replace("#", "*").replace(_NAME, "*")
            self._globs[asked] = sorted(glob(asked))
            for path in self._globs[asked]:
                match = told.fullmatch(path)
                if not match or not fnmatchcase(match[1], pattern) or match[1].startswith("."):
                    continue
                if not self._is_output(os.path.relpath(path, self._folder)):
                    found.add(match[1])
        return natural_order(sorted(found))

    def _is_output(self, path: str) -> bool:
        """Whether a folder or file that a pattern finds is where the recipe itself writes, and nothing of it reads."""
        if self._written is None:
            self._written = self._output_folders()
        return any(folder == path or folder.startswith(path + os.sep) for folder in self._written)

    def _output_folders(self) -> set[str]:
        """Folders of all outputs, as far as they are the same for all names, as seen from the recipe's."""
        written, read = set(), set()
        tables: list[tuple[TomlFile, tuple[str, ...], list[Mapping[str, Any]]]]
        tables = [(thing.file, thing.sources, [act.given for act in thing.outputs]) for thing in self._things.values()]
        for file, _, said, _ in self._patterns:
            acts = [act for act in said.values() if isinstance(act, (dict, list))] if isinstance(said, dict) else []
            every: list[Mapping[str, Any]]
            every = [one for act in acts for one in (act if isinstance(act, list) else [act]) if isinstance(one, dict)]
            tables.append((file, (), every))
        for file, sources, given in tables:
            base = os.path.relpath(file.path.parent, self._folder)
            read |= {os.path.normpath(os.path.join(base, source)) for source in sources}
            for out in (one["out"] for one in given if isinstance(one.get("out"), str)):
                before = out.partition(_NAME)[0]
                has_suffix = "." in out.rpartition("/")[2]
                folder = before if _NAME not in out and not has_suffix else os.path.dirname(before)
                written.add(os.path.normpath(os.path.join(base, folder or ".")))
        return written - read - {"."}

    def _add(self, thing: Thing) -> None:
        other = self._things.get(thing.name)
        if other is not None:
            raise thing.file.error(thing.place, f"is already defined in {shown(other.file.path)}; choose another name")
        if not re.fullmatch(r"[^\s/\\@:{}.][^/\\@:{}]*", thing.name):
            raise thing.file.error(thing.place, "a name must begin with a letter and cannot contain / \\ @ : { }")
        self._things[thing.name] = thing


def _known(
    file: TomlFile, place: KeyPath, said: Mapping[str, Any], keys: Iterable[str], *, inside: Iterable[str] = ()
) -> None:
    """`inside` are commands with tables of their own, where a key may have been meant to be."""
    keys = list(keys)
    for key in said:
        if key not in keys:
            for command in inside:
                if key in _options_of(command).declared():
                    meant = f"it is an option of {command}: {command} = {{ {key} = ... }}"
                    raise file.error((*place, key), f"unknown key; {meant}")
            meant = did_you_mean(key, keys, otherwise=f"there are {', '.join(keys)}")
            raise file.error((*place, key), f"unknown key{meant}")


def _wrong(file: TomlFile, place: KeyPath, expected: str, found: Any) -> NoReturn:
    words = {dict: "a table", list: "a list", bool: "true or false", str: "text", int: "a number", float: "a number"}
    told = f"{found!r}" if isinstance(found, (str, int, float)) else words.get(type(found), type(found).__name__)
    raise file.error(place, f"expected {expected}, found {told}")


def _table(file: TomlFile, place: KeyPath, said: Any) -> Mapping[str, Any]:
    if not isinstance(said, dict):
        _wrong(file, place, "a table", said)
    return said


def _texts_of(file: TomlFile, place: KeyPath, said: Any) -> list[str]:
    """A text, or several."""
    found = [said] if isinstance(said, str) else said
    if not isinstance(found, list) or not all(isinstance(one, str) and one.strip() for one in found):
        _wrong(file, place, "text or a list of texts", said)
    return found


def _bytes(file: TomlFile, said: Any) -> int:
    match = re.fullmatch(r"(\d+(?:\.\d+)?) ?(kB|MB|GB)", said) if isinstance(said, str) else None
    if match is None:
        _wrong(file, ("store",), 'a size as "2 GB"', said)
    return int(float(match[1]) * _UNITS[match[2]])


class _Defaults:
    """Holds what is given to every command that has such an option, and to single commands."""

    def __init__(self, common: Mapping[str, Any], single: Mapping[str, Mapping[str, Any]]) -> None:
        self._common = common
        self._single = single

    def filled(self, command: str, given: Mapping[str, Any]) -> dict[str, Any]:
        """Return what is given to a command, and what it is given by default; never what contradicts what is given."""
        options = _options_of(command)
        declared = options.declared()
        more = {name: value for name, value in self._common.items() if name in declared}
        more |= self._single.get(command, {})
        groups = options.excluding()
        against = {name for names in groups if any(one in given for one in names) for name in names}
        return {**{name: value for name, value in more.items() if name not in against}, **given}


@lru_cache
def _options_of(name: str) -> Any:
    from kivel.making.commands import command

    return command(name).options


def _defaults(file: TomlFile, said: Any) -> _Defaults:
    common: dict[str, Any] = {}
    single: dict[str, Mapping[str, Any]] = {}
    for key, value in _table(file, ("defaults",), said).items():
        if key in RECIPE_COMMANDS and isinstance(value, dict):
            _known(file, ("defaults", key), value, _options_of(key).declared())
            single[key] = value
        else:
            common[key] = value
    if common:
        every = {name for command in RECIPE_COMMANDS for name in _options_of(command).declared()}
        _known(file, ("defaults",), common, sorted(every))
    return _Defaults(common, single)


def _thing(file: TomlFile, name: str, place: KeyPath, said: Any, defaults: _Defaults) -> Thing:
    table = _table(file, place, said)
    _known(
        file, place, table, ("from", "steps", *RECIPE_COMMANDS), inside=[one for one in RECIPE_COMMANDS if one in table]
    )
    sources = tuple(_texts_of(file, (*place, "from"), table.get("from", [])))
    steps = _with_retimes(file, _steps(file, (*place, "steps"), table.get("steps", []), defaults))
    outputs = _with_retimes(file, _outputs(file, place, table, defaults))
    if not (steps or outputs):
        raise file.error(place, f"has no command; add one of {', '.join(RECIPE_COMMANDS)}")
    return Thing(name, file, sources, tuple(steps), tuple(outputs), place)


def _steps(file: TomlFile, place: KeyPath, said: Any, defaults: _Defaults) -> Iterator[Act]:
    """Each a table of one key, the command."""
    if not isinstance(said, list):
        _wrong(file, place, 'a list of steps, like [{ prep = ["trim"] }]', said)
    for number, one in enumerate(said):
        if not isinstance(one, dict) or len(one) != 1:
            _wrong(file, (*place, number), 'a step is one command, like { prep = ["trim"] }', one)
        _known(file, (*place, number), one, (*FRAME_COMMANDS, "retime"))
        for command, given in one.items():
            yield _act(file, (*place, number, command), command, given, defaults)


def _outputs(file: TomlFile, place: KeyPath, table: Mapping[str, Any], defaults: _Defaults) -> Iterator[Act]:
    """Return what is made of the frames: first what holds them, then what is made of that; several of a command in a
    list.
    """
    for command in (*FRAME_COMMANDS, *MANIFEST_COMMANDS, "retime", "export", "preview", "check"):
        said = table.get(command)
        if said is None:
            continue
        if isinstance(said, list) and all(isinstance(one, dict) for one in said):
            for number, one in enumerate(said):
                yield _act(file, (*place, command, number), command, one, defaults)
        else:
            yield _act(file, (*place, command), command, said, defaults)


def _act(file: TomlFile, place: KeyPath, command: str, said: Any, defaults: _Defaults) -> Act:
    if not isinstance(said, dict):
        if command not in _SHORT:
            _wrong(file, place, "a table of options", said)
        said = {_SHORT[command]: said}
    _known(file, place, said, _options_of(command).declared())
    return Act(command, defaults.filled(command, said), place)


def _with_retimes(file: TomlFile, acts: Iterable[Act]) -> list[Act]:
    """Changes to clips belong to what made these."""
    found: list[Act] = []
    for act in acts:
        if act.command != "retime":
            found.append(act)
        elif not found or found[-1].command not in (*FRAME_COMMANDS, *MANIFEST_COMMANDS):
            raise file.error(act.place, "changes the clips of an earlier command, and there is none")
        else:
            found[-1] = found[-1]._replace(retimes=(*found[-1].retimes, act))
    return found


def _behind(text: str) -> str:
    """Return what may follow a name: the same name again, numbers, and whatever a pattern has."""
    signs = {"*": r"[^/\\]*", "?": r"[^/\\]", "#": r"\d"}
    return "".join(
        r"\1" if part == _NAME else signs.get(part, re.escape(part)) for part in re.split(r"(\{name\}|[*?#])", text)
    )


def _filled(said: Any, name: str) -> Any:
    """The same with the name wherever it is asked for."""
    if isinstance(said, str):
        return said.replace(_NAME, name)
    if isinstance(said, list):
        return [_filled(one, name) for one in said]
    if isinstance(said, dict):
        return {key: _filled(value, name) for key, value in said.items()}
    return said
