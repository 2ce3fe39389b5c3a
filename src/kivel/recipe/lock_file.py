"""`kivel.lock`: the digests of all that a recipe makes, to tell whether a build elsewhere comes out the same."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from kivel.core.errors import KivelError, option
from kivel.files.documents import DocumentError, json_bytes, read_json
from kivel.files.safety import shown

__all__ = ["lock_path", "lock_text", "require_as_locked"]

_MOST_BYTES = 256 << 20


def lock_path(recipe: Path) -> Path:
    """
    >>> lock_path(Path("art/kivel.toml")).as_posix()
    'art/kivel.lock'
    """
    return recipe.with_suffix(".lock")


def lock_text(digests: Mapping[str, str]) -> str:
    """The same files give the same text."""
    content = {"format": "kivel-lock", "version": 1, "files": dict(sorted(digests.items()))}
    return json_bytes(content, indent=2).decode() + "\n"


def require_as_locked(path: Path, digests: Mapping[str, str]) -> None:
    """Raise `KivelError` where files are not as a lock says: which, and what to do."""
    try:
        known = read_json(path, most=_MOST_BYTES, halves=True)["files"]
        known = {str(name): str(digest) for name, digest in known.items()}
    except (DocumentError, KeyError, TypeError, AttributeError) as error:
        todo = f"update it with {option('lock', True)}"
        raise KivelError(f"is not a lock file of kivel build; {todo}", where=shown(path)) from error
    wrong = [f"{name} is no longer built" for name in known if name not in digests]
    wrong += [f"{name} is new" for name in digests if name not in known]
    wrong += [f"{name} differs" for name in digests if name in known and known[name] != digests[name]]
    if wrong:
        told = "; ".join(sorted(wrong)[:10]) + (f"; and {len(wrong) - 10} more" if len(wrong) > 10 else "")
        todo = f"if that is intended, update it with {option('lock', True)}"
        raise KivelError(f"the build differs: {told}; {todo}", where=shown(path))
