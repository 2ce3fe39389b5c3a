"""What a person can put right: every such error says what is wrong, where, and what to do."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from typing import Self

__all__ = ["KivelError", "UsageError", "located"]


class KivelError(Exception):
    """The input is at fault. The text is one line; `where` is put in front by whoever knows the file.

    >>> str(KivelError("160x159 px, expected 160x160").at("spore/burst_0017.png"))
    'spore/burst_0017.png: 160x159 px, expected 160x160'
    """

    exit_code = 1

    def __init__(self, message: str, *, where: str | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.where = where

    def __str__(self) -> str:
        return f"{self.where}: {self.message}" if self.where else self.message

    def at(self, where: str) -> Self:
        """The same error, saying where it arose; what it already says stays behind that."""
        inner = f"{where}: {self.where}" if self.where else where
        return type(self)(self.message, where=inner)


class UsageError(KivelError):
    """The command line asks for something that has no meaning, whatever the input."""

    exit_code = 2


@contextlib.contextmanager
def located(where: str) -> Iterator[None]:
    """Errors raised within say that they arose at `where`."""
    try:
        yield
    except KivelError as error:
        raise error.at(where) from error.__cause__
