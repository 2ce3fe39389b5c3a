"""Whether a file is still as Kivel wrote it, by the digests in the manifests beside it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import KivelError
from kivel.core.wording import first_few
from kivel.files.images import IMAGE_SUFFIXES
from kivel.files.manifest.names import SUFFIX, ManifestError, is_manifest_name, manifest_in
from kivel.files.manifest.parsing import edited_since_written, read_manifest
from kivel.files.page_store import page_files, stored_state
from kivel.files.safety import shown

if TYPE_CHECKING:  # the models are slow to load
    from kivel.files.manifest.model import MapFile

__all__ = ["knows", "manifest_for", "meant_manifest", "page_of", "written_by_kivel"]


def written_by_kivel(path: Path, *, max_pixels: int) -> bool:
    """Whether `path` is a manifest that nobody has edited, or an image whose pixels a manifest beside it knows.

    One that was adopted is somebody's, whatever knows it.
    """
    if path.name.endswith(SUFFIX):
        return not edited_since_written(path)
    for candidate in sorted(path.parent.glob(f"*{SUFFIX}")):
        known = _files_at(candidate, path)
        if known:
            return not _adopts(candidate) and any(_is_as_stated(candidate.parent, file, max_pixels) for file in known)
    return False


def _adopts(manifest: Path) -> bool:
    made = read_manifest(manifest, watched=False).made
    return made is not None and made.command == "adopt"


def page_of(path: Path) -> Path | None:
    """The manifest beside `path` that knows it as a page; None if there is none."""
    return next((found for found in sorted(path.parent.glob(f"*{SUFFIX}")) if _files_at(found, path)), None)


def meant_manifest(path: Path) -> Path:
    """The manifest that a person means who names it, an image of which it knows, or its folder; else what was named."""
    if path.is_dir():
        within = sorted(path.glob(f"*{SUFFIX}"))
        own = manifest_in(path)
        return own if own in within else within[0] if len(within) == 1 else path
    if is_manifest_name(path) or not path.is_file():
        return path
    return page_of(path) or path


def manifest_for(path: Path) -> Path:
    """The same where only a manifest will do.

    Raises
    ------
    ManifestError
        If it is an image of which no manifest knows.
    """
    meant = meant_manifest(path)
    if meant.is_dir():
        several = sorted(found.name for found in meant.glob(f"*{SUFFIX}"))
        todo = f"choose one: {first_few(several)}" if several else f"kivel adopt {shown(meant)} writes one"
        raise ManifestError(f"is a folder without a manifest of its own; {todo}", where=shown(path))
    if meant.suffix.lower() in IMAGE_SUFFIXES and meant.is_file():
        raise ManifestError("no manifest beside it describes it; give a NAME.kivel.json", where=shown(path))
    return meant


def knows(manifest: Path, path: Path) -> bool:
    """Whether there is a manifest, and it knows `path` as a page."""
    return bool(_files_at(manifest, path))


def _files_at(manifest: Path, path: Path) -> list[MapFile]:
    try:
        return [
            file for file in page_files(read_manifest(manifest, watched=False)) if manifest.parent / file.file == path
        ]
    except KivelError:
        return []


def _is_as_stated(folder: Path, file: MapFile, max_pixels: int) -> bool:
    try:
        return stored_state(folder, file, max_pixels=max_pixels)[1] == file.digest
    except KivelError:
        return False
