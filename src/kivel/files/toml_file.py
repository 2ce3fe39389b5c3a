"""TOML files that people write: what they say, and in which line whatever is wrong with it is."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterator, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any, TypeVar

from kivel.core.errors import NEW_LINE
from kivel.core.named_tuples import NamedTuple
from kivel.files.documents import TomlError, read_toml
from kivel.files.models import KeyPath, bounds_problem, key_path_text, value_problem, without_problem
from kivel.files.safety import file_text, shown

__all__ = ["TomlFile", "read_toml_file", "toml_lines"]

T = TypeVar("T")

_MOST_TOLD = 20

_TOKEN = re.compile(
    r'"""(?:[^\\]|\\.)*?"{3,5}|\'\'\'.*?\'{3,5}|"(?:[^"\\\n]|\\.)*"|\'[^\'\n]*\'|#[^\n]*|\n|[\[\]{}=.,]|[^\S\n]+'
    r'|[^\s"\'#\[\]{}=.,]+|.',
    re.DOTALL,
)


class TomlFile(NamedTuple):
    """A file and its text."""

    path: Path
    text: str

    def content(self) -> dict[str, Any]:
        """Return what the file says; raises `TomlError` with the line in which it is no TOML."""
        return read_toml(self.text, shown(self.path))

    def as_model(self, model: type[T]) -> T:
        """Return what the file says; raises `TomlError` with each line, key and what is expected."""
        import msgspec  # recipes are read without it

        content, found = self.content(), list[tuple[KeyPath, str]]()
        while len(found) < _MOST_TOLD:
            try:
                said = msgspec.convert(content, model)
            except msgspec.ValidationError as error:
                problem = value_problem(error, content, model)
                found.append((problem.place, problem.message))
                if not without_problem(content, problem.at, model):
                    break
            else:
                beyond = bounds_problem(said, model)
                found += [(beyond.place, beyond.message)] if beyond else []
                if not found:
                    return said
                break
        raise self.errors(found)

    def errors(self, found: Sequence[tuple[KeyPath, str]]) -> TomlError:
        """Return all that is wrong as one error, a line for each."""
        lines = _lines(self.text)
        by_line = sorted(found, key=lambda one: lines.get(one[0], 0))
        first, *others = (self.error(place, message) for place, message in by_line)
        told = [first.message, *(f"{one.where}: {one.message}" for one in others)]
        return TomlError(NEW_LINE.join(told), where=first.where)

    def error(self, place: KeyPath, message: str, *, line_of_value: int | None = None) -> TomlError:
        """Return what is wrong with a value, or with a line of it, from 1: the file, its line and its key."""
        lines = _lines(self.text)
        known = place
        while known and known not in lines:  # ends: it gets shorter
            known = known[:-1]
        line = lines.get(known)
        if line is not None and line_of_value is not None:
            # what is between three quotes may begin on the line below them
            below = self.text.split("\n")[line - 1].rstrip().endswith(('"""', "'''"))
            line += line_of_value - (0 if below else 1)
        where = shown(self.path) if line is None else f"{shown(self.path)}:{line}"
        return TomlError(message, where=f"{where}: {key_path_text(place)}" if place else where)


def read_toml_file(path: Path, *, most: int) -> TomlFile:
    """Return a file of at most this many bytes; raises `OutputError` if it cannot be read."""
    return TomlFile(path, file_text(path, most=most))


@lru_cache(maxsize=16)
def _lines(text: str) -> dict[KeyPath, int]:
    return toml_lines(text)


def toml_lines(text: str) -> dict[KeyPath, int]:
    """The line, from 1, of every table and every key of a valid TOML text, that on which it begins."""
    lines: dict[KeyPath, int] = {}
    counts: dict[KeyPath, int] = {}
    table: KeyPath = ()
    for line, tokens in _statements(text):
        if tokens[0] != "[":
            parts = _parts(tokens[: tokens.index("=")])
            for end in range(1, len(parts) + 1):
                lines.setdefault((*table, *parts[:end]), line)
            continue
        many = tokens[:2] == ["[", "["]
        table = _of_last_items(_parts([token for token in tokens if token not in ("[", "]")]), counts, many=many)
        if many:
            place = table
            counts[place] = counts.get(place, -1) + 1
            table = (*place, counts[place])
        lines.setdefault(table, line)
    return lines


def _of_last_items(keys: list[str], counts: dict[KeyPath, int], *, many: bool) -> KeyPath:
    """Where a header leads: into the last item of every array of tables on its way."""
    place: KeyPath = ()
    for number, key in enumerate(keys):
        place = (*place, key)
        if place in counts and not (many and number == len(keys) - 1):
            place = (*place, counts[place])
    return place


def _statements(text: str) -> Iterator[tuple[int, list[str]]]:
    """Each header or pair of key and value: its line, and its tokens without space and comments."""
    line, first, depth, tokens = 1, 1, 0, list[str]()
    for token in _TOKEN.findall(text + "\n"):
        if token == "\n" and (depth <= 0 or not tokens):
            if tokens:
                yield first, tokens
            tokens, depth = [], 0
        elif not (token.isspace() or token.startswith("#")):
            first = first if tokens else line
            tokens.append(token)
            if "=" in tokens:
                depth += (token in ("[", "{")) - (token in ("]", "}"))
        line += token.count("\n")


def _parts(tokens: list[str]) -> list[str]:
    """The parts of a dotted key."""
    return [token if token[0] not in "\"'" else _unquoted(token) for token in tokens if token != "."]


def _unquoted(token: str) -> str:
    (value,) = tomllib.loads(f"x = {token}").values()
    return str(value)
