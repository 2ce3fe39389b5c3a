"""Make and Ninja themselves build by what Kivel tells them: what changed, and nothing else."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

import kivel
from program import PROGRAM, art, write

pytestmark = pytest.mark.slow
RECIPE = """
[make.moth]
from = "m oth/"
sheet = { out = "out/m #1.png" }
export = { out = "out/moth.json" }
[make.both]
from = ["@moth", "owl"]
atlas = { out = "out/both.png" }
"""


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    for number in range(3):
        write(tmp_path / f"m oth/moth_{number}.png", art(number))
        write(tmp_path / f"owl/owl_{number}.png", art(10 + number))
    (tmp_path / "kivel.toml").write_text(RECIPE)
    with contextlib.chdir(tmp_path):
        yield tmp_path


def said(*words: str) -> str:
    path = os.pathsep.join([str(Path(PROGRAM).parent), os.environ["PATH"]])
    if shutil.which(words[0], path=path) is None:
        pytest.skip(f"there is no {words[0]}")
    done = subprocess.run(words, capture_output=True, text=True, env={**os.environ, "PATH": path}, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def test_ninja_builds_what_changed_and_nothing_else(place: Path) -> None:
    kivel.build(ninja="build.ninja")
    assert "[2/2]" in said("ninja")
    assert Path("out/both.png").exists()
    assert "no work to do" in said("ninja")
    write(place / "owl/owl_1.png", art(44))
    assert said("ninja").count("kivel build both") == 1
    assert "no work to do" in said("ninja")
    write(place / "m oth/moth_1.png", art(45))
    assert "kivel build moth" in said("ninja")
    assert "no work to do" in said("ninja")


def test_make_builds_when_a_file_changed(place: Path) -> None:
    rules = "out/both.png:\n\tkivel build --quiet --depfile build.d\n-include build.d\n"
    Path("Makefile").write_text(rules)
    said("make")
    assert "up to date" in said("make", "out/both.png")
    write(place / "m oth/moth_1.png", art(45))
    os.utime("m oth/moth_1.png", ns=(2**62, 2**62))
    assert "kivel build" in said("make", "out/both.png")
