"""A build asked for from Python: what fails is raised, and other processes begin wherever it is asked for."""

from __future__ import annotations

import contextlib
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from recipes import chain, draw_moth_and_owl, made_files, recipe

import kivel

LIMIT_S = 60


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    draw_moth_and_owl(tmp_path)
    with contextlib.chdir(tmp_path):
        yield tmp_path


def test_what_fails_is_raised_with_its_tasks_lines_and_keys() -> None:
    bad = {"from": "nowhere", "sheet": {"out": "bad.png"}}
    good = {"from": "owl", "sheet": {"out": "good.png"}}
    recipe({"bad": bad, "good": good, "worse": bad | {"sheet": {"out": "worse.png"}}})
    with pytest.raises(kivel.BuildError, match=r"kivel\.toml:3: make\.bad\.sheet: nowhere") as caught:
        kivel.build(keep_going=True, jobs=1)
    assert [(one.task.name, one.task.line) for one in caught.value.failed] == [
        ("bad.sheet", "kivel.toml:3: make.bad.sheet"),
        ("worse.sheet", "kivel.toml:9: make.worse.sheet"),
    ]
    assert {one.task.name: one.state for one in caught.value.made.outcomes}["good.sheet"] == "built"
    assert Path("good.png").exists()


BUILD = """
import multiprocessing, threading, kivel
def run(_=None):
    print("built", len(kivel.build(jobs=2).outcomes))
"""
POOL = "with multiprocessing.get_context({way!r}).Pool(1) as pool: pool.map(run, [0])\n"
WAYS = {
    "a script without a guard": "run()\n",
    "one that has a thread": "threading.Thread(target=threading.Event().wait, daemon=True).start()\nrun()\n",
    "a thread": "one = threading.Thread(target=run)\none.start()\none.join()\n",
    "a worker by fork": POOL.format(way="fork"),
    "a worker by spawn": "if __name__ == '__main__':\n    " + POOL.format(way="spawn"),
}


@pytest.mark.parametrize("stdin", [False, pytest.param(True, marks=pytest.mark.slow)], ids=["a file", "stdin"])
@pytest.mark.parametrize("way", WAYS)
def test_two_processes_are_had_from_wherever_they_are_asked_for(place: Path, way: str, stdin: bool) -> None:
    if stdin and "spawn" in way:
        pytest.skip("Python itself cannot do that")
    recipe(chain())
    Path("script.py").write_text(BUILD + WAYS[way])
    words = [sys.executable, "-" if stdin else "script.py"]
    given = BUILD + WAYS[way] if stdin else ""
    done = subprocess.run(words, input=given, capture_output=True, text=True, timeout=LIMIT_S, check=False)
    assert (done.returncode, done.stdout.strip()) == (0, "built 5"), done.stderr
    assert "out/both.png" in made_files(place)
