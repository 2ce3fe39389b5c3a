"""Whether a file is still as Kivel wrote it, by the digests in the manifests beside it."""

from __future__ import annotations

from pathlib import Path

from kivel.core.errors import KivelError
from kivel.files.manifest.names import SUFFIX

__all__ = ["written_by_kivel"]


def written_by_kivel(path: Path, *, max_pixels: int) -> bool:
    """Whether `path` is a manifest that nobody has edited, or an image whose pixels a manifest beside it knows."""
    from kivel.files.manifest.parsing import edited_since_written, read_manifest

    if path.name.endswith(SUFFIX):
        return not edited_since_written(path)
    for candidate in sorted(path.parent.glob(f"*{SUFFIX}")):
        try:
            manifest = read_manifest(candidate)
        except KivelError:
            continue
        files = [file for page in manifest.pages for file in page.maps.values()]
        digests = {file.digest for file in files if candidate.parent / file.file == path}
        if digests:
            return _pixel_digest_of(path, max_pixels) in digests
    return False


def _pixel_digest_of(path: Path, max_pixels: int) -> str | None:
    from kivel.core.digest import pixel_digest
    from kivel.files.images import open_image

    try:
        return pixel_digest(open_image(path, max_pixels=max_pixels)[0].load())
    except KivelError:
        return None
