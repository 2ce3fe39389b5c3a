"""Help fits two screens, and the shell completes what may stand in a line."""

from __future__ import annotations

import os
import shutil
import subprocess
from pathlib import Path

import pytest

from kivel.cli.completion import SHELLS
from kivel.cli.main import ALL_COMMANDS
from kivel.making.commands import COMMANDS, command
from program import PROGRAM, Kivel, art, write


@pytest.mark.parametrize("name", ALL_COMMANDS)
def test_help_fits_two_screens_and_all_of_it_is_there_on_wish(kivel: Kivel, name: str) -> None:
    short, whole = (kivel(name, word, COLUMNS="80").out for word in ("--help", "--help-all"))
    # an example may be longer than a line, and takes two then
    assert sum(max(1, -(-len(line) // 80)) for line in short.splitlines()) <= 80
    assert max(map(len, short.partition("examples:")[0].splitlines())) <= 80 or name == "demo"
    assert "examples:" in short or name == "demo"
    if name in COMMANDS:
        declared = command(name).options.declared()
        assert all(f"--{each}" in whole for each, one in declared.items() if not (one.positional or one.direct))
        assert set(command(name).options.everyday) <= {*declared, "steps"}


LINES: dict[str, tuple[str, list[str]]] = {
    "a command": ("kivel she", ["sheet "]),
    "an option": ("kivel sheet lamp --fit-p", ["--fit-page "]),
    "a word": ("kivel sheet lamp --layout ", ["column", "grid", "row"]),
    "a file": ("kivel retime s.kiv", ["s.kivel.json "]),
    "a clip": ("kivel retime s.kivel.json --clip ", ["glow", "lamp"]),
    "a clip of a sheet's image": ("kivel preview s.png --clip l", ["lamp "]),
    "a follower": ("kivel retime s.kivel.json --then g", ["glow "]),
    "a group": ("kivel timeline s.kivel.json --group ", ["both "]),
}


@pytest.mark.parametrize(("line", "expected"), LINES.values(), ids=LINES)
def test_the_shell_is_offered_what_may_follow(kivel: Kivel, tmp_path: Path, line: str, expected: list[str]) -> None:
    for name in ("lamp", "glow"):
        write(tmp_path / f"{name}/{name}_0.png", art(1))
    kivel("sheet", "lamp", "glow", "-o", "s.png", "--make-group", "both=*")
    out = tmp_path / "offered"
    asked = {
        "_ARGCOMPLETE": "1", "_ARGCOMPLETE_IFS": "\n", "_ARGCOMPLETE_STDOUT_FILENAME": str(out), "COMP_LINE": line,
        "COMP_POINT": str(len(line)), "COMP_TYPE": "", "_ARGCOMPLETE_COMP_WORDBREAKS": " \t\n\"'><=;|&(:",
    }  # fmt: skip
    subprocess.run([PROGRAM], cwd=tmp_path, env={**os.environ, **asked}, check=False, capture_output=True, timeout=60)
    assert sorted(out.read_text().split("\n")) == expected


@pytest.mark.parametrize("shell", SHELLS)
def test_a_script_for_each_shell_can_be_read_by_it(kivel: Kivel, shell: str) -> None:
    text = kivel("--completion", shell).out
    assert "kivel" in text
    if shutil.which(shell):
        assert subprocess.run([shell, "-n"], input=text, text=True, check=False, timeout=60).returncode == 0
