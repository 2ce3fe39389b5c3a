"""A command reads one whole set, the old one or the new one, while another command replaces it.

Manifests are put in place after all that they are about, under a journal. So what was read with a manifest is of its
set if afterwards the manifest is still the same, and no journal is about it.
"""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from contextvars import ContextVar
from pathlib import Path

from kivel.core.errors import KivelError
from kivel.files.safety import shown

__all__ = ["ReplacedError", "require_unreplaced", "watch_manifest", "whole_sets"]

_State = tuple[int, int, int, int]

_WATCHED: ContextVar[dict[Path, _State] | None] = ContextVar("watched_manifests", default=None)


class ReplacedError(KivelError):
    """A set was replaced while it was read; it has to be read again."""


@contextlib.contextmanager
def whole_sets() -> Iterator[None]:
    """Remember the manifests that are read inside, by this thread and those that work for it.

    Raises
    ------
    ReplacedError
        In place of any other error that is raised inside, if a set was replaced meanwhile.
    """
    token = _WATCHED.set({})
    try:
        yield
    except ReplacedError:
        raise
    except KivelError:
        require_unreplaced()
        raise
    finally:
        _WATCHED.reset(token)


def watch_manifest(path: Path) -> None:
    """Note that a manifest is about to be read."""
    watched = _WATCHED.get()
    if watched is not None:
        watched.setdefault(path, _state(path))


def require_unreplaced() -> None:
    """Raise `ReplacedError` if a set of which something was read is another now, or is half-made."""
    watched = _WATCHED.get()
    if not watched:
        return
    from kivel.files.settling import is_half_made  # not for what reads no manifest

    changed = next((path for path, state in watched.items() if _state(path) != state or is_half_made(path)), None)
    if changed is not None:
        raise ReplacedError(
            "was replaced again and again while it was read; run the command again", where=shown(changed)
        )


def _state(path: Path) -> _State:
    try:
        found = os.stat(path)
    except OSError:
        return (-1, 0, 0, 0)
    return (found.st_ino, found.st_size, found.st_mtime_ns, found.st_ctime_ns)
