"""Reading what a file says in JSON or TOML: the one way in, whoever wrote the file.

Whatever is there, it is a value of bounded size and nesting, of numbers that can be computed with and of texts that
can be written and used as names; or an error that says in which line it is not.
"""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

from kivel.core.errors import KivelError, located
from kivel.core.numbers import LONGEST
from kivel.files.safety import file_bytes, shown

__all__ = ["DocumentError", "TomlError", "json_bytes", "json_of", "json_table", "read_json", "read_toml"]

_DEEPEST = 64
"""Levels of lists and tables. None of Kivel's documents has ten."""
_DIGITS = bytes(ord("0") if 48 <= code <= 57 else ord(" ") for code in range(256))
"""Every digit as a 0, all else as a space."""
_NO_BRACKETS = bytes(code for code in range(256) if code not in b"[]{}")
_TOKEN = re.compile(
    r'"""(?:[^\\]|\\.)*?"""|\'\'\'.*?\'\'\'|"(?:[^"\\\n]|\\.)*"|\'[^\'\n]*\'|#[^\n]*|[\[\]{}\n]', re.DOTALL
)
"""Texts and remarks, whole, for what is in them nests nothing; brackets; ends of lines."""


class DocumentError(KivelError):
    """A file that is no document of its kind, or says what none may say."""


class TomlError(DocumentError):
    """A TOML file that cannot be read, or says what it may not."""


def read_json(path: Path, *, most: int, halves: bool = False) -> dict[str, Any]:
    """Return the object in a JSON file of at most this many bytes.

    Raises
    ------
    OutputError
        If the file cannot be read.
    DocumentError
        If it holds none: where, and what was found there.
    """
    with located(shown(path)):
        return json_table(file_bytes(path, most=most), halves=halves)


def json_table(data: bytes, *, halves: bool = False) -> dict[str, Any]:
    """Return the object that JSON in UTF-8 says; raises `DocumentError`."""
    content = json_of(data, halves=halves)
    if not isinstance(content, dict):
        raise DocumentError("expected a JSON object")
    return content


def json_of(data: bytes, *, halves: bool = False) -> Any:
    """Return what JSON in UTF-8 says.

    Parameters
    ----------
    halves : bool
        Allow escapes of half characters, by which names of files that are not UTF-8 are written.

    Raises
    ------
    DocumentError
        If it is none, or nested too deeply, or has numbers of too many digits or texts that cannot be written.
    """
    # looking at each number by itself takes half of the reading
    whole = _whole if b"0" * (LONGEST + 1) in data.translate(_DIGITS) else None
    try:
        text = data.decode("utf-8-sig")
        _require_flat(data, text)
        content = json.loads(text, parse_int=whole, parse_float=_float, parse_constant=_float)
    except UnicodeDecodeError as error:
        raise DocumentError(f"not UTF-8 text (byte {error.start}); it should be JSON") from error
    except json.JSONDecodeError as error:
        raise DocumentError(f"broken JSON in line {error.lineno}, column {error.colno}: {error.msg}") from error
    if b"\\u" in data and not halves:
        _require_whole(content)
    return content


def json_bytes(content: Any, **how: Any) -> bytes:
    """Return a document as JSON in UTF-8; names that are not UTF-8 are written as escapes."""
    try:
        return json.dumps(content, ensure_ascii=False, **how).encode()
    except UnicodeEncodeError:
        return json.dumps(content, **how).encode()


def read_toml(text: str, where: str) -> dict[str, Any]:
    """Return what a TOML text says, of a file that is called `where`.

    Raises
    ------
    TomlError
        If it is none, or nested too deeply, or has a number of too many digits or a text that cannot be used.
    """
    import tomllib  # manifests are read without it

    try:
        _require_flat(text.encode(), text)
        content = tomllib.loads(text)
        _require_levels(content)
        if "\\" in text and _has_nul(content):
            raise DocumentError("holds a NUL character, which no text or name may have")
    except DocumentError as error:
        raise TomlError(error.message, where=where) from error
    except tomllib.TOMLDecodeError as error:
        message, _, place = str(error).partition(" (at ")
        line = re.match(r"line (\d+)", place)
        number = int(line[1]) if line else text.rstrip("\n").count("\n") + 1
        raise TomlError(f"{message[:1].lower()}{message[1:]}", where=f"{where}:{number}") from error
    except (ValueError, RecursionError) as error:  # what the parser does not say in its own way
        raise TomlError("holds a number of thousands of digits, or a date that is none", where=where) from error
    return content


def _require_levels(content: Any) -> None:
    """Nesting without brackets: a dotted key of many parts."""
    level = [content]
    for _ in range(_DEEPEST):
        level = [
            one
            for holder in level
            for one in (holder.values() if isinstance(holder, dict) else holder)
            if isinstance(one, (dict, list))
        ]
    if level:
        raise DocumentError(f"nested too deeply; the limit is {_DEEPEST} levels")


def _require_flat(data: bytes, text: str) -> None:
    """Nesting is bounded. First by brackets alone, which takes no time; those within texts may deceive."""
    brackets = data.translate(None, _NO_BRACKETS)
    for _ in range(_DEEPEST):
        if not brackets:
            return
        brackets = brackets.replace(b"[]", b"").replace(b"{}", b"")
    depth, line = 0, 1
    for token in _TOKEN.findall(text):
        depth += (token in ("[", "{")) - (token in ("]", "}"))
        line += token.count("\n")
        if depth > _DEEPEST:
            raise DocumentError(f"line {line}: nested too deeply; the limit is {_DEEPEST} levels")


def _whole(text: str) -> int:
    if len(text.lstrip("-")) > LONGEST:
        raise DocumentError(f"{text[:LONGEST]}... is a number of more than {LONGEST} digits; write a shorter one")
    return int(text)


def _float(text: str) -> float:
    value = float(text)
    if not abs(value) < 10**LONGEST:
        raise DocumentError(f"{text} is a number of more than {LONGEST} digits; write a shorter one")
    return value


def _require_whole(content: Any) -> None:
    try:
        json.dumps(content, ensure_ascii=False).encode()
    except UnicodeEncodeError as error:
        what = "an escape like \\ud800 is half a character; write the whole character"
        raise DocumentError(f"not UTF-8 text: {what}") from error


def _has_nul(content: Any) -> bool:
    waiting = [content]
    while waiting:
        one = waiting.pop()
        if isinstance(one, str) and "\0" in one:
            return True
        if isinstance(one, dict):
            waiting += [*one, *one.values()]
        elif isinstance(one, list):
            waiting += one
    return False
