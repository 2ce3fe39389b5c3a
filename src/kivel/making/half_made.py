"""Before any work: what runs that were killed left half-made, in the folders that this one reads or writes."""

from __future__ import annotations

import glob
import os
from collections.abc import Iterable
from pathlib import Path

from kivel.making.options.option import Options
from kivel.making.work import Work

__all__ = ["settle_half_made"]


def settle_half_made(options: Options, work: Work) -> None:
    """Complete or undo it, with a note; a dry run only says it.

    Raises
    ------
    OutputError
        If that cannot be done from here.
    """
    from kivel.files.half_made_sets import settled

    for folder in _folders(options.paths()):
        work.note(*settled(folder, touch=not options.values.get("dry-run"), strangers=True))


def _folders(paths: Iterable[str]) -> list[Path]:
    """The folders that are meant, and those in which the files lie."""
    found: dict[Path, None] = {}
    for text in paths:
        path = Path(text)
        if os.path.isdir(path):  # unlike its own method, never raises
            found[path] = None
        parents = [parent for parent in path.parents if not glob.has_magic(str(parent)) and os.path.isdir(parent)]
        found |= dict.fromkeys(parents[:1])
    return list(found)
