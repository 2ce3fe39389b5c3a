"""Make and Ninja themselves build by what Kivel tells them: what changed, and nothing else."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

import kivel
from program import PROGRAM, art, files, write

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
    for happens, built in HAPPENS.values():
        happens(place)
        told = said("ninja")
        assert [name for name in ("moth", "both") if f"kivel build {name}" in told] == built, (happens, told)
        assert "no work to do" in said("ninja"), happens
        kept = files(place / "out")
        shutil.rmtree(place / "out")
        kivel.build()
        assert files(place / "out") == kept, happens
        said("ninja")


def test_ninja_makes_its_rules_again_when_the_recipe_changes(place: Path) -> None:
    Path("kivel.toml").write_text('[make."*"]\nfrom = "art/{name}/"\nsheet = { out = "out/{name}.png" }\n')
    write(place / "art/bat/bat_0.png", art(1))
    kivel.build(ninja="build.ninja")
    said("ninja")
    assert "no work to do" in said("ninja")
    write(place / "art/elk/elk_0.png", art(2))
    said("ninja")
    assert Path("out/elk.png").exists()
    assert "no work to do" in said("ninja")
    Path("kivel.toml").write_text(
        Path("kivel.toml").read_text().replace('out/{name}.png"', 'made/{name}.png", gap = 1')
    )
    said("ninja")
    assert Path("made/bat.png").exists()
    assert "no work to do" in said("ninja")


def test_make_builds_when_something_changed_and_once(place: Path) -> None:
    rules = "all: build.d\nbuild.d:\n\tkivel build --quiet --depfile $@\n-include build.d\n"
    Path("Makefile").write_text(rules)
    said("make")
    assert "kivel" not in said("make")
    for happens, _ in HAPPENS.values():
        later(place)
        happens(place)
        assert "kivel build" in said("make"), happens
        assert "kivel" not in said("make"), happens


def test_a_depfile_says_paths_as_they_are_seen_from_where_it_was_asked_for(place: Path) -> None:
    (place / "sub").mkdir()
    shutil.move("kivel.toml", "sub")
    shutil.move("m oth", "sub")
    shutil.move("owl", "sub")
    kivel.build(file="sub/kivel.toml", depfile="b.d")
    text = Path("b.d").read_text()
    assert text.startswith("b.d: \\\n  sub/m\\ oth/moth_0.png")
    assert "\nsub/kivel.toml:\n" in text


def later(place: Path) -> None:
    """As if what is there were built a while ago: Make knows whole times alone."""
    for path in place.rglob("*"):
        if path.is_file() or path.is_dir():
            found = path.stat()
            os.utime(path, ns=(found.st_atime_ns - 2 * 10**9, found.st_mtime_ns - 2 * 10**9))


HAPPENS: dict[str, tuple[Callable[[Path], object], list[str]]] = {
    "a frame is repainted": (lambda place: write(place / "owl/owl_1.png", art(44)), ["both"]),
    "a frame of what others need is": (lambda place: write(place / "m oth/moth_1.png", art(45)), ["moth", "both"]),
    "a frame is added": (lambda place: write(place / "owl/owl_7.png", art(46)), ["both"]),
    "a frame is removed": (lambda place: (place / "owl/owl_0.png").unlink(), ["both"]),
    "a frame is renamed": (lambda place: (place / "owl/owl_7.png").rename(place / "owl/owl_8.png"), ["both"]),
    "a frame is touched": (lambda place: os.utime(place / "owl/owl_8.png"), ["both"]),
}
"""What happens to the sources, and which things are built then."""
