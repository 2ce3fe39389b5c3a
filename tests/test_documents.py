"""What the documents show is what happens."""

from __future__ import annotations

import contextlib
import doctest
import re
import shlex
from pathlib import Path

import pytest

from kivel.cli.again import given_behind
from kivel.cli.arguments import given
from kivel.cli.demo_options import DemoOptions
from kivel.cli.main import ALL_COMMANDS, _parser
from kivel.demo import drawn
from kivel.making.commands import command
from program import write

ROOT = Path(__file__).parents[1]


def test_the_examples_in_python_do_as_they_say(tmp_path: Path) -> None:
    for number in range(drawn.MOTH_FRAMES):
        write(tmp_path / f"moth/moth_{number + 1}.png", drawn.moth(number))
    with contextlib.chdir(tmp_path):
        result = doctest.testfile(str(ROOT / "docs/python.md"), module_relative=False)
    assert result.attempted > 10
    assert result.failed == 0


def lines() -> list[str]:
    """Every command line in the documents and in the help, without its comment."""
    found = []
    for path in (ROOT / "README.md", ROOT / "docs/guide.md", ROOT / "docs/python.md"):
        text = path.read_text(encoding="utf-8")
        found += re.findall(r"^(?:    )?kivel (\w+ [^#\n]*?)(?: {2,}#.*)?$", text, re.MULTILINE)
    for name in ALL_COMMANDS:
        module = __import__(f"kivel.cli.{name}", fromlist=["EXAMPLES"])
        found += re.findall(r"^  kivel (.+)$", getattr(module, "EXAMPLES", ""), re.MULTILINE)
    form = re.compile(r"\[|\.\.\.|\bSRC\b|\bMANIFEST\b")
    return [line for line in found if not form.search(line) and line.split()[0] in ALL_COMMANDS]


@pytest.mark.parametrize("line", lines())
def test_command_lines_in_the_documents_are_understood(line: str) -> None:
    words = shlex.split(line)
    options = DemoOptions if words[0] == "demo" else command(words[0]).options
    args, behind = _parser(words).parse_known_args(words)
    options.of(given(args), door="command")
    if behind:
        assert words[0] == "again"
        command("sheet").options.of(
            {"sources": ["moth"], "out": "moth.png", **given_behind(command("sheet"), behind)}, door="command"
        )
