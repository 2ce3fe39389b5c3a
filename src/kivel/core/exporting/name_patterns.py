"""Names of files made from a pattern: `art/{group}/{name:kebab}.png`."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from kivel.core.errors import UsageError
from kivel.core.naming import identifier

__all__ = ["NAME_STYLES", "filled_name", "pattern_fields", "require_inside"]

_FIELD = re.compile(r"\{([^{}]*)\}")
_FORBIDDEN = frozenset('<>:"/|?*\\') | {chr(code) for code in range(32)}
_DEVICES = frozenset(
    ("con", "prn", "aux", "nul", *(f"{port}{number}" for port in ("com", "lpt") for number in range(10)))
)
_LONGEST = 240

NAME_STYLES: dict[str, Callable[[str], str]] = {
    "": str,
    "lower": str.lower,
    "upper": str.upper,
    "snake": lambda text: identifier(text, "x"),
    "kebab": lambda text: identifier(text, "x").replace("_", "-"),
}
"""How a field may be written: `{name:kebab}`."""


def pattern_fields(pattern: str) -> list[str]:
    """The names of the fields in a pattern.

    >>> pattern_fields("art/{group}/{name:kebab}.png")
    ['group', 'name']
    """
    return [field.partition(":")[0] for field in _FIELD.findall(pattern)]


def filled_name(pattern: str, fields: Mapping[str, str | None]) -> str:
    """The pattern with its fields filled in; it stays inside the folder that it is for.

    >>> filled_name("art/{group}/{name:kebab}.png", {"group": "night", "name": "Grey Moth"})
    'art/night/grey-moth.png'

    Raises
    ------
    UsageError
        If there is no such field, it has no value here, or what comes out names no file inside a folder.
    """

    def value(found: re.Match[str]) -> str:
        name, _, style = found[1].partition(":")
        if name not in fields:
            raise UsageError(f"there is no field {{{name}}}; there are {', '.join(fields)}")
        if style not in NAME_STYLES:
            raise UsageError(f"{{{found[1]}}}: there is no style {style!r}; {', '.join(filter(None, NAME_STYLES))}")
        text = fields[name]
        if text is None:
            raise UsageError(f"{{{name}}} has no value here; remove it from the pattern, or give each one a value")
        if not _FORBIDDEN.isdisjoint(text):
            raise UsageError(f"{{{name}}} is {text!r}, which cannot be part of a file name; rename it")
        return NAME_STYLES[style](text)

    name = _FIELD.sub(value, pattern)
    require_inside(name)
    return name


def require_inside(name: str) -> None:
    """Require the name of a file below a folder, with forward slashes, that every system can have.

    Raises
    ------
    UsageError
        If it is none.
    """
    parts = name.split("/")
    if not name or name.startswith("/") or ".." in parts or "." in parts or "" in parts:
        raise UsageError(f"{name!r} is not a file inside the folder; write it as art/moth.png")
    for part in parts:
        if not _FORBIDDEN.isdisjoint(part) or part.endswith((".", " ")) or len(part.encode()) > _LONGEST:
            raise UsageError(f"{name!r}: {part!r} is not a valid file name on every system; choose another")
        if part.partition(".")[0].lower() in _DEVICES:
            raise UsageError(f"{name!r}: {part!r} is a reserved name on Windows; choose another")
