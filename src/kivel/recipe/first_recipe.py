"""A recipe of what lies in a folder: manifests say how they were made, and folders of frames can be sheets."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from kivel.core.errors import KivelError
from kivel.core.room import DEFAULT_MAX_PIXELS
from kivel.files.images import IMAGE_SUFFIXES
from kivel.files.manifest.model import Manifest
from kivel.files.manifest.names import SUFFIX
from kivel.files.manifest.parsing import read_manifest
from kivel.making.commands import command
from kivel.recipe.things import FRAME_COMMANDS, FROM, MANIFEST_COMMANDS
from kivel.sequences.finding import series_in
from kivel.sequences.opening import open_sources
from kivel.sequences.settings import SourceSettings

__all__ = ["first_recipe"]

_DEEPEST = 3
_FEWEST = 2
_PLAYBACK = ("fps", "hold", "repeat", "length", "timebase")


def first_recipe(folder: Path) -> str:
    """Its text: a thing for every manifest with its command, and every folder of frames that none of these uses."""
    things: dict[str, str] = {}
    used: set[str] = set()
    for path in sorted(_found(folder, SUFFIX)):
        try:
            manifest = read_manifest(path)
        except KivelError:
            continue  # not one of ours, or damaged; inspect tells
        text = _of_manifest(manifest, path, folder, used)
        if text:
            things[_free(path.name.removesuffix(SUFFIX), things)] = text
    for path in _frame_folders(folder):
        if path.relative_to(folder).as_posix() not in used:
            for name, source, maps in _series(path, folder):
                free = _free(name, things)
                more = {"map": maps} if maps else {}
                act = "sheet" if _one_size(folder / source) else "atlas"
                things[free] = f"from = {_toml(source)}\n{act} = {_toml({'out': f'built/{free}.png', **more})}\n"
    head = "# What is made of what here; kivel build makes it. docs/recipes.md tells all that a recipe can say.\n"
    return head + "".join(f"\n[make.{_key(name)}]\n{text}" for name, text in things.items())


def _of_manifest(manifest: Manifest, path: Path, folder: Path, used: set[str]) -> str | None:
    """The command that made it, with paths relative to the folder."""
    made = manifest.made
    if made is None or made.command not in (*FRAME_COMMANDS, *MANIFEST_COMMANDS):
        return None
    declared = command(made.command).options.declared()
    beside = os.path.relpath(path.parent, folder)

    def move(text: str) -> str:
        moved = text if beside == "." or os.path.isabs(text) else os.path.normpath(f"{beside}/{text}")
        used.add(moved.rstrip("/"))
        return moved + ("/" if text.endswith("/") and not moved.endswith("/") else "")

    given = {}
    for name, value in made.options.items():
        one = declared.get(name)
        if one is None:
            return None  # of another version
        values = value if isinstance(value, list) else [value]
        if one.from_folder:
            values = [one.from_folder(str(text), move) for text in values]
        given[name] = values if isinstance(value, list) else values[0]
    if any(clip.set for clip in manifest.clips):
        # what a recipe states wins: what was set since would be lost
        given = {name: value for name, value in given.items() if name not in _PLAYBACK}
    source = given.pop(FROM.get(made.command, "sources"), None)
    if isinstance(source, list) and len(source) == 1:
        (source,) = source
    if ".kivel/" in str(source):
        return None  # of a step of another recipe, which says it better
    lines = [f"from = {_toml(source)}\n"] if source is not None else []
    used.add(os.path.relpath(path.parent, folder) if made.command in FRAME_COMMANDS else "")
    return "".join([*lines, f"{made.command} = {_toml(given)}\n"])


def _series(path: Path, folder: Path) -> Iterator[tuple[str, str, list[str]]]:
    """The series of a folder of frames: name, source, and what goes along as maps."""
    place = path.relative_to(folder).as_posix()
    found = series_in(str(path), SourceSettings(DEFAULT_MAX_PIXELS, series=True))
    if len(found) < _FEWEST:
        yield path.name, f"{place}/", []
        return
    patterns = {one.name: os.path.relpath(one.quoted.strip('"'), folder) for one in found}
    for name, pattern in patterns.items():
        if not any(name.startswith(f"{other}_") for other in patterns):
            others = [other for other in patterns if other.startswith(f"{name}_")]
            yield name, pattern, [f"{other.removeprefix(f'{name}_')}={patterns[other]}" for other in others]


def _one_size(source: Path) -> bool:
    try:
        frames = open_sources([str(source)], SourceSettings(DEFAULT_MAX_PIXELS)).frames
    except KivelError:
        return True  # what is wrong is noted when it is built
    return len({frame.size for frame in frames}) == 1


def _found(folder: Path, suffix: str) -> Iterator[Path]:
    for place, names, files in os.walk(folder):
        depth = len(Path(place).relative_to(folder).parts)
        names[:] = [] if depth == _DEEPEST else sorted(name for name in names if not name.startswith("."))
        yield from (Path(place, name) for name in files if name.endswith(suffix) and not name.startswith("."))


def _frame_folders(folder: Path) -> list[Path]:
    counts: dict[Path, int] = {}
    for suffix in IMAGE_SUFFIXES:
        for path in _found(folder, suffix):
            counts[path.parent] = counts.get(path.parent, 0) + 1
    known = {path.parent for path in _found(folder, SUFFIX)}
    many = [path for path, count in counts.items() if count >= _FEWEST and path != folder]
    return sorted(path for path in many if path not in known)


def _free(name: str, taken: Mapping[str, str]) -> str:
    names = [name, *(f"{name}-{number}" for number in range(2, len(taken) + 3))]
    return next(one for one in names if one not in taken)


def _key(name: str) -> str:
    plain = name.isascii() and name.replace("-", "").replace("_", "").isalnum()
    return name if plain else _toml(name)


def _toml(value: Any) -> str:
    if isinstance(value, Mapping):
        return "{ " + ", ".join(f"{_key(key)} = {_toml(one)}" for key, one in value.items()) + " }"
    if isinstance(value, (list, tuple)):
        return "[" + ", ".join(map(_toml, value)) + "]"
    return json.dumps(value, ensure_ascii=False)
