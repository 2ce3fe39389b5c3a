"""Every text that somebody may read, with where it stands: messages, help, docstrings, comments, the viewer, the docs.

python tests/texts.py [WORD]     prints them, or those that have a word
"""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Literal, NamedTuple

ROOT = Path(__file__).parents[1]
Kind = Literal["message", "docstring", "comment", "page", "document"]
_WORDS = re.compile(r"[A-Za-z]{2,}[^A-Za-z]+[A-Za-z]{2,}")


class Text(NamedTuple):
    """A text, what it is, and where: `file:line`."""

    text: str
    kind: Kind
    where: str


@cache
def texts() -> tuple[Text, ...]:
    """All texts of the program and its documents, in the order of the files."""
    return tuple(_texts())


def _texts() -> Iterator[Text]:
    for path in sorted((ROOT / "src").rglob("*.py")):
        yield from _of_module(path)
    for path in sorted((ROOT / "src/kivel").rglob("*")):
        if path.suffix in (".js", ".html", ".css", ".toml"):
            yield from _of_lines(path, "page")
    for path in (ROOT / "README.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").rglob("*.md"))):
        yield from _of_lines(path, "document")


def _of_lines(path: Path, kind: Kind) -> Iterator[Text]:
    fenced = False
    for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
        fenced ^= line.startswith("```")
        if not (fenced and kind == "document"):
            yield from _text(line.strip(), kind, path, number)


@cache
def nodes_of(path: Path) -> list[ast.AST]:
    """All of a module."""
    return list(ast.walk(ast.parse(path.read_text(encoding="utf-8"))))


def _of_module(path: Path) -> Iterator[Text]:
    source = path.read_text(encoding="utf-8")
    nodes = nodes_of(path)
    docs = {id(node.value) for node in nodes if isinstance(node, ast.Expr)}
    quoted = []
    for node in nodes:
        if isinstance(node, ast.JoinedStr):
            parts = [part.value if isinstance(part, ast.Constant) else "{}" for part in node.values]
            yield from _text("".join(map(str, parts)), "message", path, node.lineno)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str):
            yield from _text(node.value, "docstring" if id(node) in docs else "message", path, node.lineno)
        else:
            continue
        quoted.append(((node.lineno, node.col_offset), (node.end_lineno or 0, node.end_col_offset or 0)))
    for number, line in enumerate(source.splitlines(), 1):
        for found in re.finditer("#", line):
            place = (number, len(line[: found.start()].encode()))
            if not any(start <= place < end for start, end in quoted):
                yield from _text(line[found.end() :].lstrip("# "), "comment", path, number)
                break


def _text(text: str, kind: Kind, path: Path, line: int) -> Iterator[Text]:
    if _WORDS.search(text):
        yield Text(text, kind, f"{path.relative_to(ROOT)}:{line}")


if __name__ == "__main__":
    wanted = re.compile(sys.argv[1]) if len(sys.argv) > 1 else re.compile("")
    for one in texts():
        if wanted.search(one.text):
            print(f"{one.where}: {one.kind}: {one.text}")
