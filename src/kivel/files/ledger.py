"""`NAME.ledger.json` beside a profile: which files of which pack Kivel wrote, and what was in them.

It lies beside the profile and not in the pack: a pack is for others.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path

import xxhash

from kivel.core.errors import KivelError
from kivel.core.exporting.name_patterns import require_inside
from kivel.core.named_tuples import NamedTuple
from kivel.files.documents import read_json
from kivel.files.safety import OutputError, file_bytes, shown

__all__ = ["Ledger", "content_digest", "ledger_path", "ledger_text", "read_ledger"]

_MOST_BYTES = 64 << 20


class Ledger(NamedTuple):
    """The digests of files by their names, for each pack by its folder as seen from the ledger."""

    path: Path
    packs: Mapping[str, Mapping[str, str]]

    def is_ours(self, pack: str, folder: Path, name: str) -> bool:
        """Whether a file of a pack is there, and is still what Kivel wrote."""
        digest = self.packs.get(pack, {}).get(name)
        file = folder / name
        if digest is None or not file.is_file() or file.is_symlink():
            return False
        return content_digest(file_bytes(file, most=1 << 40)) == digest


def ledger_path(profile: Path) -> Path:
    """
    >>> ledger_path(Path("pack/tiles.toml")).as_posix()
    'pack/tiles.ledger.json'
    """
    return profile.with_name(f"{profile.stem}.ledger.json")


def content_digest(data: bytes) -> str:
    """Of all bytes of a file."""
    return f"xxh3-128:{xxhash.xxh3_128_hexdigest(data)}"


def read_ledger(path: Path) -> Ledger:
    """The ledger at a path; where there is none, an empty one.

    Raises
    ------
    OutputError
        If it is damaged: it is not guessed what is Kivel's.
    """
    if not path.exists():
        return Ledger(path, {})
    try:
        content = read_json(path, most=_MOST_BYTES)
        packs = {str(pack): {str(name): str(digest) for name, digest in files.items()}
                 for pack, files in content["packs"].items()}  # fmt: skip
        for files in packs.values():
            for name in files:
                require_inside(name)
    except (ValueError, KeyError, TypeError, AttributeError, KivelError) as error:
        if isinstance(error, OutputError):
            raise
        raise OutputError(
            "is damaged, so that nobody can tell which files are Kivel's; mend it, or move it away", where=shown(path)
        ) from error
    return Ledger(path, packs)


def ledger_text(packs: Mapping[str, Mapping[str, str]]) -> str:
    """The same packs and files give the same text."""
    ordered = {pack: dict(sorted(files.items())) for pack, files in sorted(packs.items()) if files}
    return json.dumps({"format": "kivel-ledger", "version": 1, "packs": ordered}, indent=2, ensure_ascii=False) + "\n"
