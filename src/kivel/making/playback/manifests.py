"""Describes what manifests of new things have in common."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path, PurePath
from typing import Any

from kivel.core.wording import first_few
from kivel.files.manifest.model import Made, Manifest
from kivel.files.page_store import page_files
from kivel.files.safety import OutputError, shown
from kivel.making.options.option import Options
from kivel.sequences.sequence import FrameSequence

__all__ = ["kept_keys", "made_by", "relative_to", "require_pages_inside"]


def relative_to(folder: Path) -> Callable[[str], str]:
    """Paths as they are seen from a folder, with forward slashes; of one on another drive only the name."""
    base = os.path.abspath(folder)

    def moved(path: str) -> str:
        try:
            # by names alone, links unresolved: as written, the same on every machine
            return PurePath(os.path.relpath(path, base)).as_posix()
        except ValueError:
            return PurePath(path).name

    return moved


def made_by(command: str, options: Options, manifest: Path) -> Made | None:
    """Return what is to be done to make it again; None where it was made of arrays, which nobody can name."""
    if any(one.direct and options.given(name) for name, one in options.declared().items()):
        return None
    return Made(command, options.made(relative_to(manifest.parent)))


def kept_keys(sequences: Sequence[FrameSequence]) -> tuple[Mapping[str, Any], list[str]]:
    """The keys of manifests that this version does not know: those of a single one are kept, others named in a note."""
    known = [sequence for sequence in sequences if sequence.extra]
    if len(sequences) == 1 and known:
        return dict(known[0].extra or {}), []
    notes = [f"{each.stem}: its keys {first_few(sorted(each.extra or {}))} are left out" for each in known]
    return {}, notes


def require_pages_inside(manifest: Manifest, path: Path) -> None:
    """Refuse to write pages again that a link in a manifest's folder leads out of: it may have come from a stranger.

    Raises
    ------
    OutputError
        With the first of them.
    """
    place = path.parent.resolve()
    for file in page_files(manifest):
        page = path.parent / file.file
        if not page.resolve().is_relative_to(place):
            raise OutputError(
                f"a link to it leads out of the folder of {path.name}; choose another output", where=shown(page)
            )
