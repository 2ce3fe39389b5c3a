"""Projects that came from a stranger, with files among Kivel's own that mean harm: `python tests/faults/planted.py`.

Each way to plant something meets each command. What lies outside the project, and what is the user's own inside, must
be as before; nothing may wait for ever, and a refusal is one line.
"""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from multiprocessing.pool import ThreadPool
from pathlib import Path
from typing import Any

import numpy as np

from program import art, write

__all__ = ["COMMANDS", "PLANTED", "wrong_with"]

COMMANDS: dict[str, Sequence[str]] = {
    "build": ("build", "--prune"),
    "build in two": ("build", "--jobs", "2", "--lock", "--depfile", "kivel.d"),
    "inspect": ("inspect", "moth"),
    "sheet": ("sheet", "moth", "--map", "mask=moth", "-o", "out/more.png"),
    "slice": ("slice", "sheet/s.png", "-o", "cut", "--islands", "--save-regions", "cut.regions.toml"),
    "export": ("export", "sheet/s.kivel.json", "--profile", "pack.toml", "-o", "pack", "--prune"),
}
LIMIT_S = 30
RECIPE = """
store = "0 MB"
[make.Documents]
from = "moth"
steps = [{ prep = "trim" }, { prep = "opacity 0.5" }]
sheet = { out = "out/moth.png" }
[make.owl]
from = "moth"
sheet = { out = "out/owl.png" }
"""
PROFILE = """
format = "kivel-profile"
version = 1
[image]
file = "{name}.png"
"""
HOME = {
    ".bashrc": b"export HONEST=1\n",
    "Documents/thesis.txt": b"years of work\n",
    "store/key/frame.png": b"a picture",
}
MINE = {"thesis.txt": b"years of work\n", "pack/mine.txt": b"mine\n", "cut/mine.txt": b"mine\n", "out/notes.txt": b"n"}
"""What is the user's own in the project."""

Plant = Callable[[Path], object]
"""Is given the project's folder; `../home` is the user's."""


def _text(path: Path, content: Any) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(content if isinstance(content, str) else json.dumps(content), encoding="utf-8")


def _link(name: str, target: str) -> Plant:
    def plant(project: Path) -> None:
        path = project / name
        path.parent.mkdir(parents=True, exist_ok=True)
        if path.is_dir() and not path.is_symlink():
            shutil.rmtree(path)
        path.unlink(missing_ok=True)
        path.symlink_to(target)

    return plant


def _pipe(name: str) -> Plant:
    def plant(project: Path) -> None:
        path = project / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.unlink(missing_ok=True)
        os.mkfifo(path)

    return plant


def _journal(folder: str, stage: str = ".kivel-0badf00d", **said: Any) -> Plant:
    """As versions without a mark wrote them, and as those with one do, with a made-up mark."""

    def plant(project: Path) -> None:
        for number, mark in enumerate(("", "0" * 32 + "\n")):
            path = project / folder / f"{stage}{number}"
            path.mkdir(parents=True)
            (path / "lock").touch()
            (path / "0").write_bytes(b"evil")
            names = said.get("names", ["thesis.txt"])
            files = [[name, None, None] for name in names]
            whole = {"state": "undo", "names": names, "files": files, "home": None, "others": [], **said}
            (path / "journal").write_text(mark + json.dumps(whole))

    return plant


def _state(project: Path) -> None:
    """Says of the user's files that a build made them, and that nothing makes them now."""
    import xxhash

    def stamp(path: Path) -> list[Any]:
        return [path.stat().st_size, 0, 0, 0, xxhash.xxh3_128_hexdigest(path.read_bytes())]

    paths = ("thesis.txt", "../home/Documents/thesis.txt")
    record = {
        "format": 2, "name": "gone.sheet", "said": {}, "version": "0", "inputs": {},
        "outputs": {path: stamp(project / path) for path in paths},
    }  # fmt: skip
    line = json.dumps(record)
    _text(project / ".kivel/state-kivel.toml.jsonl", f"{line}\n{'0' * 32} {line}\n")


def _plan(project: Path) -> None:
    task = [
        "it", "it", "sheet", {"sources": ["moth"], "out": ["../home/.bashrc"], "force": ["True"]}, [], ["moth"],
        ["../home/.bashrc"], [], False, "kivel.toml:1",
    ]  # fmt: skip
    plan = json.dumps({"by": [1, "0"], "texts": {}, "globs": [], "tasks": [task], "store_bytes": 0})
    _text(project / ".kivel/plan-kivel.toml.json", f"{'0' * 32}\n{plan}")


def _ledger(pack: str, name: str) -> Plant:
    def plant(project: Path) -> None:
        import xxhash

        with contextlib.suppress(OSError):
            data = (project / pack / name).read_bytes()
            digest = f"xxh3-128:{xxhash.xxh3_128_hexdigest(data)}"
            owned = {"task": "", "manifests": ["sheet/s.kivel.json"], "files": {name: digest}, "mark": "0" * 32}
            content = {"format": "kivel-ledger", "version": 1, "packs": {pack: [owned]}}
            _text(project / "pack.ledger.json", content)

    return plant


def _own_first(plant: Plant) -> Plant:
    """An archive unpacked over a project that this user has built."""

    def both(project: Path) -> None:
        _run(("build",), project)
        for name in ("out/moth.png", "out/owl.png"):
            (project / name).unlink()
        plant(project)

    return both


def _many(*plants: Plant) -> Plant:
    def plant(project: Path) -> None:
        for one in plants:
            one(project)

    return plant


def _false_store(project: Path) -> None:
    """Other pixels under a right key."""
    for path in (project / ".kivel/store").glob("*/*.png"):
        path.unlink()
        write(path, np.full((5, 6, 4), 77, np.uint8))
    shutil.rmtree(project / ".kivel/steps")


def _more_frames(project: Path) -> None:
    for folder in (project / ".kivel/steps").glob("*/*/*/"):
        write(folder / "Documents_9999.png", np.full((5, 6, 4), 77, np.uint8))


PLANTED: dict[str, Plant] = {
    "nothing": lambda _project: None,
    "state folder is a link": _link(".kivel", "../home"),
    "state folder is a dangling link": _link(".kivel", "../home/new"),
    "state folder is a file": lambda project: _text(project / ".kivel", "x"),
    "state folder is a pipe": _pipe(".kivel"),
    "steps is a link": _link(".kivel/steps", "../../home"),
    "a step is a link": _link(".kivel/steps/Documents/0", "../../../../home"),
    "a step's thing is a link": _link(".kivel/steps/Documents", "../../../home"),
    "a step's frames are a link": _link(".kivel/steps/Documents/0/Documents", "../../../../../home/Documents"),
    "store is a link": _link(".kivel/store", "../../home"),
    "state is a link": _link(".kivel/state-kivel.toml.jsonl", "../../home/.bashrc"),
    "state is a pipe": _pipe(".kivel/state-kivel.toml.jsonl"),
    "state is endless": _link(".kivel/state-kivel.toml.jsonl", "/dev/zero"),
    "plan is a link": _link(".kivel/plan-kivel.toml.json", "../../home/.bashrc"),
    "plan is a pipe": _pipe(".kivel/plan-kivel.toml.json"),
    "names of temporary files are links": _many(
        *(_link(f".kivel/plan-kivel.toml.json.{number}", "../../home/.bashrc") for number in range(1, 3000, 7))
    ),
    "build lock is a link": _link(".kivel/lock", "../../home/.bashrc"),
    "build lock is a pipe": _pipe(".kivel/lock"),
    "mark is a link": _link(".kivel/mark", "../../home/.bashrc"),
    "ignored is a link": _link(".kivel/.gitignore", "../../home/.bashrc"),
    "a state that claims files": _state,
    "a plan that writes outside": _plan,
    "a journal that removes": _journal("."),
    "a journal that replaces": _journal(".", state="place"),
    "a journal in the pack": _journal("pack", names=["mine.txt"]),
    "a journal among frames": _journal("moth", names=["moth_0.png"]),
    "a journal with a home elsewhere": _journal("out", home="../../.kivel-0badf00d0", names=["notes.txt"]),
    "a journal with others that are none": _journal("moth", others=["../.kivel-q", 3, None]),
    "a journal of a link": _many(_link("moth/.kivel-1", "../../home/store/key"), _link("out/.kivel-2", "../../home")),
    "a journal that is a pipe": _pipe("moth/.kivel-0badf00d/journal"),
    "a stage's lock is a link": _many(
        _journal("moth", names=["moth_0.png"]), _link("moth/.kivel-0badf00d0/lock", "../../../home/.bashrc")
    ),
    "a stage's lock is a pipe": _many(_journal("out"), _pipe("out/.kivel-0badf00d0/lock")),
    "folder lock is a link": _many(*(_link(f"{name}/.kivel.lock", "../../home/.bashrc") for name in ("out", "pack"))),
    "folder lock is a dangling link": _link("out/.kivel.lock", "../../home/new"),
    "folder lock is a pipe": _many(_pipe("out/.kivel.lock"), _pipe("moth/.kivel.lock")),
    "folder lock has a text": lambda project: _text(project / "moth/.kivel.lock", "mine"),
    "a ledger that claims a file": _ledger("pack", "mine.txt"),
    "a ledger that claims one outside": _ledger("../home/Documents", "thesis.txt"),
    "a ledger of links": _many(_link("pack/sub", "../../home/Documents"), _ledger("pack", "sub/thesis.txt")),
    "a ledger that is a pipe": _pipe("pack.ledger.json"),
    "a ledger that is a link": _link("pack.ledger.json", "../home/.bashrc"),
    "kivel.lock is a link": _link("kivel.lock", "../home/.bashrc"),
    "depfile is a link": _link("kivel.d", "../home/.bashrc"),
    "regions are a link": _link("cut.regions.toml", "../home/.bashrc"),
    "an output is a link": _many(_link("out/moth.png", "../../home/.bashrc"), _link("out/more.png", "../../home/new")),
    "a manifest is a link": _link("out/moth.kivel.json", "../../home/.bashrc"),
    "a pipe among the frames": _pipe("moth/moth_9.png"),
    "an endless frame": _link("moth/moth_9.png", "/dev/zero"),
    "an own state with a step that is a link": _own_first(
        _link(".kivel/steps/Documents/0/Documents", "../../../../../home/Documents")
    ),
    "an own state with a store that is a link": _own_first(_link(".kivel/store", "../../home")),
    "an own state with another state": _own_first(_state),
    "an own state with another store": _own_first(_false_store),
    "an own state with more frames": _own_first(_more_frames),
    "an own state with links for names": _own_first(_link(".kivel/state-kivel.toml.jsonl", "../../home/.bashrc")),
}
"""What is planted, by what it is; the project has been given to the user with it."""


def _project(folder: Path) -> Path:
    project = folder / "project"
    for number in range(4):
        frame = art(number)
        frame[:, 0] = frame[0] = 0
        write(project / f"moth/moth_{number}.png", frame)
    _text(project / "kivel.toml", RECIPE)
    _text(project / "pack.toml", PROFILE)
    _run(("sheet", "moth", "-o", "sheet/s.png"), project)
    for name, data in MINE.items():
        (project / name).parent.mkdir(exist_ok=True)
        (project / name).write_bytes(data)
    for name, data in HOME.items():
        (folder / "home" / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / "home" / name).write_bytes(data)
    return project


def _run(words: Sequence[str], project: Path) -> subprocess.CompletedProcess[str]:
    program = [sys.executable, "-m", "kivel", *words]
    return subprocess.run(program, cwd=project, capture_output=True, text=True, check=False, timeout=LIMIT_S)


def _all_of(folder: Path) -> dict[str, bytes]:
    return {path.relative_to(folder).as_posix(): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


def wrong_with(plant: Plant, words: Sequence[str], folder: Path) -> Iterator[str]:
    """What a command did to files that are none of its business, or said as it should not."""
    project = _project(folder)
    plant(project)
    start = time.monotonic()
    try:
        done = _run(words, project)
    except subprocess.TimeoutExpired:
        yield f"not done after {LIMIT_S} s"
        return
    if time.monotonic() - start > LIMIT_S / 2:
        yield f"took {time.monotonic() - start:.0f} s"
    if _all_of(folder / "home") != HOME:
        yield f"home is changed: {sorted(_all_of(folder / 'home'))}"
    for name, data in MINE.items():
        path = project / name
        if not path.is_file() or path.read_bytes() != data:
            yield f"{name} is changed or gone"
    if done.returncode not in (0, 1) or "Traceback" in done.stderr or "a bug" in done.stderr:
        yield f"exit code {done.returncode}: {done.stderr}"
    errors = [line for line in done.stderr.splitlines() if not line.startswith("note: ")]
    most = 2 if words[0] == "build" else 1  # each of its two things may fail
    if bool(done.returncode) != bool(errors) or len(errors) > most or not all(map(_is_an_error, errors)):
        yield f"exit code {done.returncode} with {len(errors)} lines: {errors}"
    if done.returncode == 0 and words[0] == "build":
        yield from _false_outputs(project, folder)


def _is_an_error(line: str) -> bool:
    return line.startswith("error: ")


def _false_outputs(project: Path, folder: Path) -> Iterator[str]:
    """What a build says that it made is what it makes of the same frames elsewhere."""
    clean = folder / "clean"
    clean.mkdir()
    shutil.copy(project / "kivel.toml", clean)
    (clean / "moth").mkdir()
    for number in range(4):
        shutil.copy(project / f"moth/moth_{number}.png", clean / "moth")
    _run(("build",), clean)
    for name in ("out/moth.png", "out/owl.png"):
        if (project / name).read_bytes() != (clean / name).read_bytes():
            yield f"{name} is not what the recipe makes"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--only", default="", metavar="TEXT", help="what is planted, by a part of its name")
    options = parser.parse_args()
    cases = [(name, command) for name in PLANTED if options.only in name for command in COMMANDS]
    bad = 0
    with tempfile.TemporaryDirectory() as state, ThreadPool(2) as pool:
        os.environ["XDG_STATE_HOME"] = state
        for (name, command), found in zip(cases, pool.imap(_found, cases), strict=True):
            bad += bool(found)
            if found:
                print(f"{name}, {command}", *found, sep="\n    ", flush=True)
    print(f"{len(cases)} runs, {bad} with something wrong")


def _found(case: tuple[str, str]) -> list[str]:
    with tempfile.TemporaryDirectory() as folder:
        return list(wrong_with(PLANTED[case[0]], COMMANDS[case[1]], Path(folder)))


if __name__ == "__main__":
    main()
