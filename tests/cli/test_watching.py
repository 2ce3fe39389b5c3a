"""A build that watches builds again when a frame is saved, once for a burst, and not for what it writes itself."""

from __future__ import annotations

import os
import signal
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path
from threading import Timer

import pytest

from program import PROGRAM, art, read, write

RECIPE = '[make.it]\nfrom = "owl"\nsheet = { out = "owl.png", columns = 3 }\n'


@pytest.fixture
def watching(tmp_path: Path) -> Iterator[subprocess.Popen[str]]:
    pytest.importorskip("watchfiles")
    for number in range(3):
        write(tmp_path / f"owl/owl_{number}.png", art(number))
    (tmp_path / "kivel.toml").write_text(RECIPE)
    # lines come as they are said, and an interrupt is not what the tests themselves ignore
    words = [str(PROGRAM), "build", "--watch"]
    running = subprocess.Popen(words, cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    timer = Timer(60, running.kill)  # what is waited for and never comes is a failure
    timer.start()
    yield running
    timer.cancel()
    running.kill()
    running.communicate()


def lines_until(running: subprocess.Popen[str], end: str) -> list[str]:
    assert running.stdout is not None
    found = []
    for line in running.stdout:
        found.append(line.rstrip())
        if end in line:
            return found
    raise AssertionError(found, running.stderr.read() if running.stderr else "")


def test_what_is_saved_is_built_and_a_burst_is_built_once(tmp_path: Path, watching: subprocess.Popen[str]) -> None:
    assert "built       it.sheet: owl.png, owl.kivel.json" in lines_until(watching, "watching")
    write(tmp_path / "owl/new", art(50))
    os.replace(tmp_path / "owl/new", tmp_path / "owl/owl_1.png")  # as editors save
    told = lines_until(watching, "built")
    assert told[0].startswith("changed: owl/")
    lines_until(watching, "1 built")
    height, width = art(0).shape[:2]
    assert (read(tmp_path / "owl.png")[:height, width : 2 * width] == art(50)).all()
    for number in range(3):
        write(tmp_path / f"owl/owl_{number}.png", art(60 + number))
    lines_until(watching, "1 built")
    (tmp_path / "kivel.toml").write_text(RECIPE.replace("3 }", "x }"))
    assert watching.stderr is not None
    assert "kivel.toml:3" in watching.stderr.readline()
    (tmp_path / "kivel.toml").write_text(RECIPE.replace("3 }", "1 }"))
    lines_until(watching, "1 built")
    assert read(tmp_path / "owl.png").shape[0] == 3 * height
    watching.send_signal(signal.SIGINT)
    assert watching.wait(20) == 0


def test_what_the_recipe_does_not_read_is_no_change(tmp_path: Path, watching: subprocess.Popen[str]) -> None:
    """Its own log, other files of the folder, its outputs."""
    lines_until(watching, "watching")
    for number in range(4):
        (tmp_path / "build.log").write_text(f"{number}")
        write(tmp_path / f"other_{number}.png", art(number))
        os.utime(tmp_path / "owl.png")
        time.sleep(0.4)
    write(tmp_path / "owl/owl_1.png", art(70))
    told = lines_until(watching, "1 built")
    assert told[0] == "changed: owl/owl_1.png", told
