"""In which line of a TOML file a value stands, so that what is wrong with it can be shown there."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterator

__all__ = ["TomlPlace", "key_text", "toml_lines"]

TomlPlace = tuple[str | int, ...]
"""Keys, and the numbers of items in arrays of tables, from 0: ("region", 2, "rect")."""

_TOKEN = re.compile(
    r'"""(?:[^\\]|\\.)*?"{3,5}|\'\'\'.*?\'{3,5}|"(?:[^"\\\n]|\\.)*"|\'[^\'\n]*\'|#[^\n]*|\n|[\[\]{}=.,]|[^\S\n]+'
    r'|[^\s"\'#\[\]{}=.,]+|.',
    re.DOTALL,
)


def key_text(place: TomlPlace) -> str:
    """
    >>> key_text(("region", 2, "rect"))
    'region[2].rect'
    """
    return "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in place).removeprefix(".")


def toml_lines(text: str) -> dict[TomlPlace, int]:
    """The line, from 1, of every table and every key of a valid TOML text, that on which it begins."""
    lines: dict[TomlPlace, int] = {}
    counts: dict[TomlPlace, int] = {}
    table: TomlPlace = ()
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


def _of_last_items(keys: list[str], counts: dict[TomlPlace, int], *, many: bool) -> TomlPlace:
    """Where a header leads: into the last item of every array of tables on its way."""
    place: TomlPlace = ()
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
