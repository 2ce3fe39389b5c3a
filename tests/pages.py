"""The commands in the documents, run on the demo's art, and what the documents say that they print.

    python tests/pages.py [PAGE...]     runs them, and writes what they print into the pages

A page names the art that it needs, `<!-- art: moth spore -->`, and shows commands in blocks of `console`. Where a block
ends a command's lines with `...`, the rest is left out. Numbers of bytes differ between processors and are not
compared.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from kivel.demo.art import ART, drawings
from kivel.demo.recipe_text import RECIPE_TEXT
from kivel.recipe.recipe_file import RECIPE
from program import PROGRAM, write

ROOT = Path(__file__).parents[1]
PAGES = sorted(
    path
    for path in (ROOT / "README.md", *(ROOT / "docs").glob("*.md"))
    if "```console" in path.read_text(encoding="utf-8")
)
_BLOCK = re.compile(r"^```console\n(.*?)^```$", re.MULTILINE | re.DOTALL)
_BYTES = re.compile(r"[\d,.]+ (bytes|kB|MB|GiB|MiB)|\"bytes\": \d+")
_ART = re.compile(r"<!-- art: ([a-z ]*) -->")
_REST = "..."


class Shown(NamedTuple):
    """A command line of a page, and the lines that it is said to print."""

    line: str
    lines: list[str]


def shown_in(block: str) -> Iterator[Shown]:
    """The commands of a block, in order."""
    for part in re.split(r"^\$ ", block, flags=re.MULTILINE)[1:]:
        line, *lines = part.rstrip("\n").split("\n")
        while lines and not lines[-1]:
            lines.pop()
        yield Shown(line, lines)


def commands_of(page: Path) -> list[str]:
    return [one.line for block in _BLOCK.findall(page.read_text(encoding="utf-8")) for one in shown_in(block)]


def draw_art(page: Path, folder: Path) -> None:
    """Put the art into a folder that a page asks for."""
    asked = _ART.search(page.read_text(encoding="utf-8"))
    names = (asked[1] if asked else "").split()
    if "recipe" in names:
        (folder / RECIPE).write_text(RECIPE_TEXT)
    for drawing in drawings(name for name in names if name in ART):
        for name, image in drawing().items():
            write(folder / name, image)


def printed(line: str, folder: Path) -> list[str]:
    """Run a command line of a page as a shell does, both streams together, and return what it prints."""
    kivel, _, words = line.partition(" ")
    assert kivel == "kivel", f"a block shows {line!r}; only kivel is run"
    path = f"{PROGRAM.parent}{os.pathsep}{os.environ['PATH']}"
    done = subprocess.run(
        ["sh", "-c", f"kivel {words} 2>&1"], cwd=folder, capture_output=True, text=True, check=False, timeout=120,
        env={**os.environ, "COLUMNS": "100", "PATH": path},
    )  # fmt: skip
    return done.stdout.rstrip("\n").split("\n") if done.stdout.strip() else []


def differences(page: Path, folder: Path) -> list[str]:
    """Run a page's commands; return those that do not print what the page shows, with what they print."""
    draw_art(page, folder)
    wrong = []
    for block in _BLOCK.findall(page.read_text(encoding="utf-8")):
        for one in shown_in(block):
            found, expected = printed(one.line, folder), one.lines
            if expected and expected[-1] == _REST:
                expected = expected[:-1]
                found = found[: len(expected)]
            if [_BYTES.sub("", text).rstrip() for text in found] != [
                _BYTES.sub("", text).rstrip() for text in expected
            ]:
                wrong.append("\n".join([f"$ {one.line}", *found]))
    return wrong


def _without_bytes(lines: list[str]) -> list[str]:
    return [_BYTES.sub("", text).rstrip() for text in lines]


def rewrite(page: Path) -> None:
    """Run a page's commands, and put what they print into it."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        draw_art(page, folder)

        def block(found: re.Match[str]) -> str:
            parts = []
            for one in shown_in(found[1]):
                lines = printed(one.line, folder)
                if one.lines and one.lines[-1] == _REST and len(lines) >= len(one.lines):
                    lines = [*lines[: max(1, len(one.lines) - 1)], _REST]
                parts.append("\n".join([f"$ {one.line}", *lines]))
            return "```console\n" + "\n\n".join(parts) + "\n```"

        page.write_text(_BLOCK.sub(block, page.read_text(encoding="utf-8")), encoding="utf-8")


if __name__ == "__main__":
    for path in [Path(name).resolve() for name in sys.argv[1:]] or PAGES:
        rewrite(path)
        print(path.relative_to(ROOT))
