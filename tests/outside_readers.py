"""Programs of npm that read what was exported; a test is skipped where they are absent."""

from __future__ import annotations

import json
import shutil
import subprocess
from pathlib import Path
from typing import Any

import pytest

__all__ = ["chromium", "package_file", "said_by_node"]

_HERE = Path(__file__).parent / "outside"
_MODULES = _HERE / "node_modules"


def said_by_node(script: str, *words: str | Path) -> list[Any]:
    """The lines of JSON that a script of this folder prints."""
    if not shutil.which("node") or not _MODULES.is_dir():
        pytest.skip("no packages of npm here: tests/outside/install")
    command = ["node", str(_HERE / script), str(_MODULES), *map(str, words)]
    done = subprocess.run(command, capture_output=True, text=True, timeout=300, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    return [json.loads(line) for line in done.stdout.splitlines()]


def package_file(name: str) -> Path:
    """A file of a package of npm."""
    path = _MODULES / name
    if not path.is_file():
        pytest.skip("no packages of npm here: tests/outside/install")
    return path


def chromium() -> str:
    found = shutil.which("chromium") or shutil.which("chromium-browser")
    if found is None:
        pytest.skip("there is no Chromium: tests/outside/install")
    return found
