"""Onto the disk before it counts as written: what a person would miss after a power loss."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from contextvars import ContextVar

__all__ = ["flush_to_disk", "unflushed"]

_FLUSHES: ContextVar[bool] = ContextVar("flushes", default=True)


def flush_to_disk(descriptor: int) -> None:
    """Wait until the disk has it."""
    if _FLUSHES.get():
        os.fsync(descriptor)


@contextlib.contextmanager
def unflushed() -> Iterator[None]:
    """Return what is written inside is known by its digest and can be made again: nobody need wait for the disk."""
    token = _FLUSHES.set(False)
    try:
        yield
    finally:
        _FLUSHES.reset(token)
