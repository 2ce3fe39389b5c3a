"""Files appear whole or not at all, and nothing of anyone's is overwritten."""

from __future__ import annotations

import os
import resource
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from kivel.core.errors import KivelError
from kivel.files.output_set import OutputSet
from kivel.files.safety import OutputError


def outputs(*, force: bool = False, ours: bool = False, dry_run: bool = False) -> OutputSet:
    return OutputSet(force=force, is_ours=lambda _: ours, dry_run=dry_run)


def contents(folder: Path) -> dict[str, bytes]:
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in sorted(folder.rglob("*")) if p.is_file()}


def test_a_set_appears_whole(tmp_path: Path) -> None:
    with outputs() as out:
        out.add(tmp_path / "a/b/one", [b"1", b"2"])
        out.add(tmp_path / "two", [b"3"])
        assert not (tmp_path / "two").exists()
    assert contents(tmp_path) == {"a/b/one": b"12", "two": b"3"}
    assert [(w.outcome, w.length) for w in out.written] == [("new", 2), ("new", 1)]


def test_a_dry_run_tells_a_longer_old_file_apart(tmp_path: Path) -> None:
    """What is there begins with what would be written, and goes on."""
    (tmp_path / "one").write_bytes(b"123")
    with outputs(ours=True, dry_run=True) as out:
        out.add(tmp_path / "one", [b"12"])
    assert [(written.outcome, written.length) for written in out.written] == [("replaced", 2)]


def test_adding_looks_at_the_place_by_itself(tmp_path: Path) -> None:
    """A folder in a file's place is refused before a piece is made, checked for beforehand or not."""
    (tmp_path / "one").mkdir()
    for dry_run in (False, True):
        with (
            pytest.raises(OutputError, match="is a folder, but a file is needed"),
            outputs(dry_run=dry_run) as out,
        ):
            out.add(tmp_path / "one", failing())


def failing() -> Iterator[bytes]:
    yield b"half"
    raise KivelError("no more")


def test_an_error_leaves_the_folder_as_it_was(tmp_path: Path) -> None:
    (tmp_path / "one").write_bytes(b"old")

    def write_both() -> None:
        with outputs(force=True) as out:
            out.add(tmp_path / "one", [b"new"])
            out.add(tmp_path / "new/folder/two", failing())

    with pytest.raises(KivelError, match="no more"):
        write_both()
    assert contents(tmp_path) == {"one": b"old"}
    assert [p.name for p in tmp_path.iterdir()] == ["one"]


REPLACING = {
    "someone's file": ({}, b"new", None),
    "our own": ({"ours": True}, b"new", "replaced"),
    "forced": ({"force": True}, b"new", "replaced"),
    "the same": ({}, b"old", "unchanged"),
}


@pytest.mark.parametrize(("settings", "data", "outcome"), REPLACING.values(), ids=REPLACING)
@pytest.mark.parametrize("dry_run", [False, True], ids=["", "dry run"])
def test_only_our_own_files_are_replaced(
    tmp_path: Path, settings: dict[str, bool], data: bytes, outcome: str | None, dry_run: bool
) -> None:
    target = tmp_path / "one"
    target.write_bytes(b"old")
    before = target.stat().st_mtime_ns
    if outcome is None:
        with pytest.raises(OutputError, match="--force"), outputs(dry_run=dry_run) as out:
            out.add(target, [data])
    else:
        with outputs(dry_run=dry_run, **settings) as out:
            out.add(target, [data])
        assert [w.outcome for w in out.written] == [outcome]
    wrote = outcome == "replaced" and not dry_run
    assert target.read_bytes() == (data if wrote else b"old")
    assert wrote or target.stat().st_mtime_ns == before
    assert [p.name for p in tmp_path.iterdir()] == ["one"]


def test_a_folder_and_a_file_in_the_way_are_refused(tmp_path: Path) -> None:
    (tmp_path / "file").write_bytes(b"")
    with pytest.raises(OutputError, match="is a folder, but a file is needed"), outputs() as out:
        out.check(tmp_path)
    with pytest.raises(OutputError, match="is a file, but a folder is needed"), outputs() as out:
        out.check(tmp_path / "file/inside")


KILLED = """
import os, signal, sys
from pathlib import Path
from kivel.files.output_set import OutputSet
def pieces():
    yield b"half of it"
    os.kill(os.getpid(), signal.SIGKILL)
with OutputSet(force=True, is_ours=lambda p: True) as out:
    out.add(Path(sys.argv[1]), [b"whole"])
    out.add(Path(sys.argv[2]), pieces())
"""


def test_killed_while_writing_the_old_files_are_whole(tmp_path: Path) -> None:
    for name in ("one", "two"):
        (tmp_path / name).write_bytes(b"old")
    done = subprocess.run([sys.executable, "-c", KILLED, tmp_path / "one", tmp_path / "two"], check=False)
    assert done.returncode == -signal.SIGKILL
    assert [(tmp_path / name).read_bytes() for name in ("one", "two")] == [b"old", b"old"]


def test_a_full_disk_is_said_and_leaves_nothing(tmp_path: Path) -> None:
    limit = resource.getrlimit(resource.RLIMIT_FSIZE)
    handler = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (1000, limit[1]))
    try:
        with pytest.raises(OutputError, match="larger than the largest file allowed"), outputs() as out:
            out.add(tmp_path / "one", [bytes(600)] * 3)
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, limit)
        signal.signal(signal.SIGXFSZ, handler)
    assert not os.listdir(tmp_path)
