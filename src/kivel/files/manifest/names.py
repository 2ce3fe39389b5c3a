"""Describes what manifests are called, how one is found beside its image, and what is raised where one is wrong."""

from __future__ import annotations

from pathlib import Path

from kivel.core.errors import KivelError

__all__ = [
    "COLOR",
    "FORMAT",
    "SUFFIX",
    "VERSION",
    "ManifestError",
    "is_manifest_name",
    "manifest_beside",
    "manifest_in",
]

FORMAT = "kivel-manifest"
VERSION = 1
SUFFIX = ".kivel.json"
COLOR = "color"
"""The base map, which every page has."""


class ManifestError(KivelError):
    """A file is no manifest that this version can use, or none can be written."""


def is_manifest_name(path: Path | str) -> bool:
    """Whether a file with this name is meant as a manifest: any `.json`, for some rename theirs."""
    return str(path).endswith(".json")


def manifest_in(folder: Path) -> Path:
    """Return the manifest of a folder's frames, which is in it and called after it."""
    return folder / f"{folder.resolve().name}{SUFFIX}"


def manifest_beside(path: Path) -> Path:
    """Where the manifest of a page belongs: `moth.png` has `moth.kivel.json`."""
    return path.with_name(path.stem + SUFFIX)
