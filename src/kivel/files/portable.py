"""Names that other systems cannot have, or cannot tell apart: artists' folders travel."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from kivel.core.wording import counted, first_few
from kivel.files.safety import shown

__all__ = ["portable_notes"]

_DEVICES = frozenset(
    ("con", "prn", "aux", "nul", *(f"{port}{number}" for port in ("com", "lpt") for number in range(10)))
)
_FORBIDDEN = frozenset('<>:"|?*\\') | {chr(code) for code in range(32)}
_LONGEST = 259
"""Characters of a whole path, unless a setting says otherwise."""


def portable_notes(paths: Sequence[Path]) -> list[str]:
    """Return what a person should know who takes these files to Windows or macOS.

    >>> portable_notes([Path("walk.png"), Path("CON.png")])
    ['CON.png: Windows does not allow this name (reserved); choose another name to use it there']
    """
    names = {path.name: path for path in paths}
    found = []
    for what, is_so in _ODD.items():
        if odd := [path for name, path in names.items() if is_so(name)]:
            found.append(f"{_few(odd)}: Windows does not allow this name ({what}); choose another name to use it there")
    if alike := _alike(paths):
        found.append(f"{_few(alike)}: Windows and macOS treat these names as one; rename one of them")
    if long := [path for path in paths if len(str(path.absolute())) > _LONGEST]:
        found.append(
            f"{_few(long)}: {counted(len(long), 'path')} of more than {_LONGEST} characters, which many programs on "
            "Windows cannot open; use shorter names"
        )
    return found


def _few(paths: Sequence[Path]) -> str:
    return first_few([shown(path) for path in paths], most=3)


def _alike(paths: Sequence[Path]) -> list[Path]:
    """Paths that are others', but for case or for how accents are written."""
    known: dict[str, Path] = {}
    alike = []
    for path in dict.fromkeys(paths):
        key = _composed(str(path)).casefold()
        if key in known:
            alike += [known[key], path]
        known.setdefault(key, path)
    return list(dict.fromkeys(alike))


def _composed(text: str) -> str:
    if text.isascii():
        return text
    from unicodedata import normalize

    return normalize("NFC", text)


_ODD: dict[str, Callable[[str], bool]] = {
    "reserved": lambda name: name.partition(".")[0].lower() in _DEVICES,
    "it ends with a dot or a space": lambda name: name.endswith((".", " ")),
    'it contains one of <>:"|?*\\': lambda name: not _FORBIDDEN.isdisjoint(name),
}
