"""The digest of a file's bytes, whatever they mean."""

from __future__ import annotations

from pathlib import Path

from kivel.core.errors import KivelError
from kivel.files.safety import opened_file

__all__ = ["bytes_digest", "file_digest"]

_PIECE = 1 << 20


def file_digest(path: Path, *, follow_links: bool = False) -> str | None:
    """Return the digest of what a regular file holds; None for anything else, and for what cannot be read."""
    import xxhash  # a build that has nothing to do digests nothing

    digest = xxhash.xxh3_128()
    try:
        with opened_file(path, follow_links=follow_links) as file:
            while piece := file.read(_PIECE):
                digest.update(piece)
    except (KivelError, OSError, ValueError):
        return None
    return f"xxh3-128:{digest.hexdigest()}"


def bytes_digest(data: bytes) -> str:
    """
    >>> bytes_digest(b"")
    'xxh3-128:99aa06d3014798d86001c324468d497f'
    """
    import xxhash

    return f"xxh3-128:{xxhash.xxh3_128_hexdigest(data)}"
