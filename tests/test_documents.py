"""What the documents show is what happens."""

from __future__ import annotations

import contextlib
import doctest
import re
import shlex
import subprocess
import sys
from itertools import takewhile
from pathlib import Path

import pytest

import reference
from kivel.cli.again import given_behind
from kivel.cli.arguments import given
from kivel.cli.demo_options import DemoOptions
from kivel.cli.examples import EXAMPLES
from kivel.cli.main import ALL_COMMANDS, _parser
from kivel.demo import drawn
from kivel.demo.stories import TOURS
from kivel.making.commands import command
from pages import PAGES, commands_of, differences
from program import write

ROOT = Path(__file__).parents[1]
QUICK = {"README.md", "start.md"}
"""Pages that are run in the short lane."""


def test_the_examples_in_python_do_as_they_say(tmp_path: Path) -> None:
    for number in range(drawn.MOTH_FRAMES):
        write(tmp_path / f"moth/moth_{number + 1}.png", drawn.moth(number))
    with contextlib.chdir(tmp_path):
        result = doctest.testfile(str(ROOT / "docs/python.md"), module_relative=False)
    assert result.attempted > 10
    assert result.failed == 0


@pytest.mark.parametrize(
    "page", [pytest.param(page, id=page.name, marks=() if page.name in QUICK else pytest.mark.slow) for page in PAGES]
)
def test_the_commands_of_a_page_print_what_it_shows(page: Path, tmp_path: Path) -> None:
    assert differences(page, tmp_path) == []


@pytest.mark.parametrize("task", TOURS)
def test_a_tour_runs_the_commands_of_its_page_in_order(task: str) -> None:
    shown = iter(commands_of(ROOT / f"docs/{task}.md"))
    steps = takewhile(lambda step: not step.edits, TOURS[task].steps)
    assert all(f"kivel {step.line}" in shown for step in steps)


def test_the_reference_is_made_from_the_declarations() -> None:
    """Make it anew with tests/reference.py."""
    assert {path.name: path.read_text(encoding="utf-8") for path in reference.FOLDER.glob("*.md")} == reference.pages()


def test_the_site_builds_without_warnings(tmp_path: Path) -> None:
    pytest.importorskip("mkdocs")
    done = subprocess.run(
        [sys.executable, "-m", "mkdocs", "build", "--strict", "--quiet", "-d", tmp_path], cwd=ROOT, capture_output=True,
        text=True, check=False, timeout=120,
    )  # fmt: skip
    assert (done.returncode, done.stderr) == (0, "")
    assert not re.search(r"""(src|href)=["']https?://(?!www\.mkdocs\.org)""", (tmp_path / "index.html").read_text())


def test_the_first_page_fits_two_screens() -> None:
    assert len((ROOT / "README.md").read_text(encoding="utf-8").splitlines()) <= 90


def lines() -> list[str]:
    """Every command line in the documents and in the help that is not run."""
    found = [example.line.removeprefix("kivel ") for examples in EXAMPLES.values() for example in examples]
    for path in (ROOT / "README.md", *(ROOT / "docs").glob("*.md")):
        text = path.read_text(encoding="utf-8")
        found += re.findall(r"`kivel (\w+ [^`]*)`", text) + re.findall(r"^kivel (\w+ .*)$", text, re.MULTILINE)
    form = re.compile(
        r"\[|\.\.\.|\bSRC\b|\bMANIFEST\b|\b[A-Z]{3,}\b|--help|--json-schema|--steps|--serve$|in a terminal"
    )
    return sorted({line for line in found if not form.search(line) and line.split()[0] in ALL_COMMANDS})


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
