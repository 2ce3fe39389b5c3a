"""The rules that hold the house together."""

from __future__ import annotations

import ast
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

import kivel

ROOT = Path(kivel.__file__).parent
ROOMS = ("core", "files", "sequences", "views", "making", "recipe", "demo", "cli")
"""Each may import from itself and from those before it."""
BARRED_FROM_CORE = {"argparse", "rich", "pathlib", "os", "sys", "time", "random", "PIL", "imagecodecs", "msgspec"}
MODULES = sorted(ROOT.rglob("*.py"))


def imported(path: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module or ""


@pytest.mark.parametrize("path", MODULES, ids=lambda path: path.relative_to(ROOT).as_posix())
def test_imports_run_one_way(path: Path) -> None:
    room = path.relative_to(ROOT).parts[0]
    if room not in ROOMS:
        return
    allowed = ROOMS[: ROOMS.index(room) + 1]
    for name in imported(path):
        parts = name.split(".")
        if parts[0] == "kivel" and len(parts) > 1:
            assert parts[1] in allowed, f"{room} imports {name}"
        assert room != "core" or parts[0] not in BARRED_FROM_CORE, f"core imports {name}"


IMPORTED_BY = """
import sys
from kivel.cli.main import main
sys.argv = {words}
try:
    main()
except SystemExit:
    print(sorted(sys.modules), file=sys.stderr)
"""


@pytest.mark.parametrize("words", [["--help"], ["--version"], ["sheet", "--help"]], ids=" ".join)
def test_help_loads_nothing_heavy(words: list[str]) -> None:
    code = IMPORTED_BY.format(words=["kivel", *words])
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    loaded = set(ast.literal_eval(done.stderr))
    assert not loaded & {"numpy", "PIL", "rich", "msgspec", "imagecodecs", "dataclasses"}
