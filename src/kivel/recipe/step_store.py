"""Frames that steps have made, kept by what they were made of, so that they need not be made again."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
from collections.abc import Iterable, Mapping
from typing import Any

from kivel.files.own_folder import OwnFolder

__all__ = ["StepStore", "step_key"]

_LIST, _PURPOSE = "list", "step"
_MOST_BYTES = 64 << 20


def step_key(said: Mapping[str, Any], version: str, inputs: Mapping[str, str]) -> str:
    """Return the key of a step's result: a digest of its options, the version, and the digests of what it reads."""
    text = json.dumps([said, version, sorted(inputs.items())], ensure_ascii=True, sort_keys=True)
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


class StepStore:
    """Folders by their keys. Files are never changed in place, and so are shared with the steps' own folders.

    Beside the files lies a list of their digests, with the mark of this user's key. What is not as the list says is
    thrown out.
    """

    def __init__(self, folder: OwnFolder) -> None:
        self._folder = folder

    def restore(self, key: str, target: OwnFolder) -> list[str] | None:
        """Put the files of a key into a folder as its only ones; their names, or None where there is no such key."""
        kept = self._folder.within(key)
        digests = self._list(key)
        if digests is None:
            return None
        try:
            target.emptied()
            for name, digest in digests.items():
                kept.share(name, target)
                if target.digest_of(name) != digest:
                    raise OSError(f"{name} is damaged")
            kept.touch()
        except (OSError, ValueError):  # not there, just thrown out, or changed
            with contextlib.suppress(OSError):
                target.emptied()
                kept.removed()
            return None
        return list(digests)

    def _list(self, key: str) -> dict[str, str] | None:
        content = self._folder.within(key).kept(_LIST, _PURPOSE, most=_MOST_BYTES)
        with contextlib.suppress(ValueError, TypeError, KeyError):
            said = json.loads(content or b"{}")
            if said.get("key") == key:
                return dict(said["files"])
        return None

    def keep(self, key: str, source: OwnFolder, names: Iterable[str]) -> None:
        """Keep files of one folder under a key, all or none."""
        with contextlib.suppress(OSError):  # a full disk is no reason to fail: it is made again, then
            self._folder.made()
            beside = self._folder.within(f"{key}.{os.urandom(8).hex()}").emptied()
            try:
                for name in names:
                    source.share(name, beside)
                digests = {name: source.digest_of(name) for name in sorted(names)}
                beside.keep(_LIST, _PURPOSE, json.dumps({"key": key, "files": digests}).encode())
                beside.renamed(key)
            finally:
                beside.removed()

    def shrink(self, most_bytes: int) -> None:
        """Remove what was not used for the longest time, until the rest is within the limit."""
        entries = [entry for entry in self._folder.entries() if entry.is_folder]
        sizes = {one.name: sum(file.length for file in self._folder.within(one.name).entries()) for one in entries}
        total = sum(sizes.values())
        for entry in sorted(entries, key=lambda one: (one.used_ns, one.name)):
            if total <= most_bytes:
                break
            with contextlib.suppress(OSError):
                self._folder.within(entry.name).removed()
            total -= sizes[entry.name]
