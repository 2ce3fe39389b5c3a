"""What manifests are called, and how one is found beside its image."""

from __future__ import annotations

from pathlib import Path

__all__ = ["COLOR", "FORMAT", "SUFFIX", "VERSION", "manifest_beside"]

FORMAT = "kivel-manifest"
VERSION = 1
SUFFIX = ".kivel.json"
COLOR = "color"
"""The base map, which every page has."""


def manifest_beside(path: Path) -> Path:
    """Where the manifest of a page belongs: `moth.png` has `moth.kivel.json`."""
    return path.with_name(path.stem + SUFFIX)
