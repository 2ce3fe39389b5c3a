"""Every text that somebody may read, with where it stands: messages, help, docstrings, comments, the viewer, the docs.

python tests/texts.py [WORD]     prints them, or those that have a word
"""

from __future__ import annotations

import ast
import io
import re
import sys
import tokenize
from collections.abc import Iterator
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


def texts() -> Iterator[Text]:
    """All texts of the program and its documents, in the order of the files."""
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


def _of_module(path: Path) -> Iterator[Text]:
    source = path.read_text(encoding="utf-8")
    tree = ast.parse(source)
    docs = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            parts = [part.value if isinstance(part, ast.Constant) else "{}" for part in node.values]
            yield from _text("".join(map(str, parts)), "message", path, node.lineno)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str):
            yield from _text(node.value, "docstring" if id(node) in docs else "message", path, node.lineno)
    for token in tokenize.generate_tokens(io.StringIO(source).readline):
        if token.type == tokenize.COMMENT:
            yield from _text(token.string.lstrip("# "), "comment", path, token.start[0])


def _text(text: str, kind: Kind, path: Path, line: int) -> Iterator[Text]:
    if _WORDS.search(text):
        yield Text(text, kind, f"{path.relative_to(ROOT)}:{line}")


if __name__ == "__main__":
    wanted = re.compile(sys.argv[1]) if len(sys.argv) > 1 else re.compile("")
    for one in texts():
        if wanted.search(one.text):
            print(f"{one.where}: {one.kind}: {one.text}")
