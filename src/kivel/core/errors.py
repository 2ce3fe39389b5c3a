"""Describes what a person can put right: every such error says what is wrong, where, and what to do."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator
from keyword import iskeyword
from typing import Literal, Self

from kivel.core.wording import printable

__all__ = ["NEW_LINE", "AllErrors", "Door", "KivelError", "UsageError", "located", "option", "python_name", "spelled"]

Door = Literal["command", "python", "recipe"]
"""From where the work was asked for: the command line, Python, or a file."""

NEW_LINE = "\x1e"
"""Ends a line of a message. What ends a line within a name is shown as an escape."""
_OPEN, _BETWEEN, _CLOSE = "\x0e", "\x1f", "\x0f"
_NAMED = re.compile(f"{_OPEN}([^{_BETWEEN}{_CLOSE}]+)(?:{_BETWEEN}([^{_CLOSE}]*))?{_CLOSE}")


_PLACE = re.compile(r"(?P<file>.*?)(?::(?P<line>[0-9]+))?(?:: (?P<key>.*))?", re.DOTALL)
"""`kivel.toml:5: make.moth.sheet`, or a part of it."""


def option(name: str, value: object = None) -> str:
    """An option as a part of a message. How it is written there is decided by `spelled`, for whoever reads it.

    Parameters
    ----------
    name : str
        As it is declared: `page-limit`.
    value : object
        What to give it; True for a flag.
    """
    return f"{_OPEN}{name}{'' if value is None else f'{_BETWEEN}{value}'}{_CLOSE}"


def spelled(text: str, door: Door = "command") -> str:
    """A message with its options written as one door writes them, and all in it that is not text as escapes.

    >>> [spelled(option("page-limit", "64x64"), door) for door in ("command", "python", "recipe")]
    ['--page-limit 64x64', 'page_limit="64x64"', 'page-limit = "64x64"']
    >>> [spelled(option("for"), door) for door in ("command", "python", "recipe")]
    ['--for', 'for_=', 'for']
    """
    if _OPEN in text:
        text = _NAMED.sub(lambda match: _SPELLINGS[door](match[1], match[2]), text)
    return "\n".join(map(printable, text.split(NEW_LINE)))


def python_name(name: str) -> str:
    """
    >>> [python_name(name) for name in ("page-limit", "for")]
    ['page_limit', 'for_']
    """
    return f"{name}_" if iskeyword(name) else name.replace("-", "_")


def _for_command(name: str, value: str | None) -> str:
    written = "-o" if name == "out" else f"--{name}"
    if value in (None, "True"):
        return written
    # as it can be typed: what has a space in it is one word
    return f'{written} "{value}"' if " " in value and '"' not in value else f"{written} {value}"


def _for_python(name: str, value: str | None) -> str:
    return f"{python_name(name)}={'' if value is None else _literal(value)}"


def _for_recipe(name: str, value: str | None) -> str:
    return name if value is None else f"{name} = {_literal(value).lower() if value == 'True' else _literal(value)}"


def _literal(value: str) -> str:
    return value if value == "True" or value.isdigit() else f'"{value}"'


_SPELLINGS = {"command": _for_command, "python": _for_python, "recipe": _for_recipe}


class KivelError(Exception):
    """The input is at fault. The text is one line; `where` is put in front by whoever knows the file.

    `message` says what is wrong and what to do, `where` the file, frame or field, None where there is none; both name
    options as `door` spells them.

    >>> str(KivelError("160x159 px, expected 160x160").at("spore/burst_0017.png"))
    'spore/burst_0017.png: 160x159 px, expected 160x160'
    """

    exit_code = 1

    def __init__(self, message: str, *, where: str | None = None) -> None:
        super().__init__(message)
        self._message = message
        self._where = where
        self.door: Door = "command"

    @property
    def message(self) -> str:
        return spelled(self._message, self.door)

    @property
    def where(self) -> str | None:
        return self._where and spelled(self._where, self.door)

    def __str__(self) -> str:
        return f"{self.where}: {self.message}" if self.where else self.message

    @property
    def code(self) -> str:
        """Return what kind of error it is, for programs: `usage`, `manifest`, `toml`, ...; `input` for any other."""
        name = type(self).__name__.removesuffix("Error").lower()
        return "input" if name == "kivel" else name

    def document(self) -> dict[str, str | int | None]:
        """The error for programs: what is wrong, where as far as that is known, and what to do."""
        found = _PLACE.fullmatch(self.where or "")
        file, line, key = (found["file"], found["line"], found["key"]) if found else (None, None, None)
        if file and file.startswith("-"):  # an option, not a file
            file, key = None, file
        hint = self.message.rpartition("; ")[2] if "; " in self.message else None
        return {
            "code": self.code, "message": self.message, "file": file or None, "line": int(line) if line else None,
            "key": key, "hint": hint,
        }  # fmt: skip

    def at(self, where: str) -> Self:
        """The same error, saying where it arose; what it already says stays behind that."""
        inner = f"{where}: {self._where}" if self._where else where
        return type(self)(self._message, where=inner)


class UsageError(KivelError):
    """Holds what is asked for has no meaning, whatever the input."""

    exit_code = 2


class AllErrors:
    """Gathers the errors of many files, so that a person hears of all of them at once."""

    def __init__(self) -> None:
        self._found: list[KivelError] = []

    @contextlib.contextmanager
    def kept(self) -> Iterator[None]:
        """An error raised within is kept for later."""
        try:
            yield
        except UsageError:
            raise
        except KivelError as error:
            self._found.append(error)

    def raise_any(self) -> None:
        """Raise the first, with the texts of the others in lines behind it."""
        if not self._found:
            return
        # threads find them in any order, and frames of one file find the same
        each = {(error._where or "", error._message): error for error in self._found}
        first, *others = (each[key] for key in sorted(each))
        texts = [f"{error._where}: {error._message}" if error._where else error._message for error in others]
        raise type(first)(NEW_LINE.join((first._message, *texts)), where=first._where) from first.__cause__


@contextlib.contextmanager
def located(where: str) -> Iterator[None]:
    """Errors raised within say that they arose at `where`."""
    try:
        yield
    except KivelError as error:
        raise error.at(where) from error.__cause__
