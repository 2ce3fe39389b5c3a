"""Frames that steps have made, kept by what they were made of, so that they need not be made again."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import shutil
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

__all__ = ["StepStore", "step_key"]


def step_key(said: Mapping[str, Any], version: str, inputs: Mapping[str, str]) -> str:
    """By which the result of a step is known: all that is said, by which version, the digests of all that is read."""
    text = json.dumps([said, version, sorted(inputs.items())], ensure_ascii=False, sort_keys=True)
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


class StepStore:
    """Folders by their keys. Files are never changed in place, and so are shared with the steps' own folders."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def restore(self, key: str, target: Path) -> list[Path] | None:
        """The files of a key, put into a folder as its only ones; None where there is no such key."""
        kept = self._folder / key
        try:
            names = sorted(entry.name for entry in os.scandir(kept))
            shutil.rmtree(target, ignore_errors=True)
            for name in names:
                _shared(kept / name, target / name)
            os.utime(kept)
        except FileNotFoundError:
            return None  # not there, or just thrown out
        return [target / name for name in names]

    def keep(self, key: str, files: Iterable[Path]) -> None:
        """Files of one folder under a key, all or none."""
        kept = self._folder / key
        with contextlib.suppress(OSError):  # a full disk is no reason to fail: it is made again, then
            beside = self._folder / f"{key}.{os.urandom(8).hex()}"
            try:
                beside.mkdir(parents=True)
                for file in files:
                    _shared(file, beside / file.name)
                os.rename(beside, kept)
            finally:
                shutil.rmtree(beside, ignore_errors=True)

    def shrink(self, most_bytes: int) -> None:
        """Throw out what was not used for the longest time, until no more than that is left."""
        entries = []
        with contextlib.suppress(OSError):
            entries = [(entry.stat().st_mtime_ns, entry.path) for entry in os.scandir(self._folder)]
        sizes = {path: sum(file.stat().st_size for file in os.scandir(path)) for _, path in entries}
        total = sum(sizes.values())
        for _, path in sorted(entries):
            if total <= most_bytes:
                break
            shutil.rmtree(path, ignore_errors=True)
            total -= sizes[path]


def _shared(source: Path, target: Path) -> None:
    """The same file under another name where the file system can do that, else a copy."""
    target.parent.mkdir(parents=True, exist_ok=True)
    try:
        os.link(source, target)
    except FileNotFoundError:
        raise
    except OSError:
        shutil.copy2(source, target)
