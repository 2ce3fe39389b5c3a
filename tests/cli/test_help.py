"""Help fits a screen, and the shell completes what may stand in a line."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
from pathlib import Path

import pytest

from kivel.cli.completion import SHELLS
from kivel.cli.main import ALL_COMMANDS
from kivel.core.prepare.table import STEP_GROUPS, STEPS
from kivel.making.commands import COMMANDS, command
from program import PROGRAM, Kivel, art, write


@pytest.mark.parametrize("name", [None, *ALL_COMMANDS])
def test_help_fits_a_screen(kivel: Kivel, name: str | None) -> None:
    text = kivel(*([name] if name else []), "--help", COLUMNS="80").out
    assert len(text.splitlines()) <= 45
    # examples and the last line stay in one piece, to be copied
    assert max(map(len, re.sub(r"^(  |)kivel .*$", "", text, flags=re.MULTILINE).splitlines())) < 80
    if name:
        assert text.count("\n  kivel ") == 2


@pytest.mark.parametrize("name", COMMANDS)
def test_all_options_are_there_on_request_with_the_words_of_the_trade(kivel: Kivel, name: str) -> None:
    whole = kivel(name, "--help-all", COLUMNS="80").out
    declared = command(name).options.declared()
    assert all(f"--{each}" in whole for each, one in declared.items() if not (one.positional or one.direct))
    assert set(command(name).options.everyday) <= {*declared, "steps"}
    for word, option in (("extrude", "skirt"), ("ping-pong", "direction"), ("rotate", "turn"), ("palette", "colors")):
        assert option not in declared or word in whole


def test_the_steps_of_prep_are_listed_by_group_each_once(kivel: Kivel) -> None:
    assert sorted(name for group in STEP_GROUPS.values() for name in group) == sorted(STEPS)
    assert all(f"  {name} " in kivel("prep", "--steps").out for name in STEPS)


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
