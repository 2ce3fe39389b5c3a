"""The files of a command are one set, whatever happens while it is put in place."""

from __future__ import annotations

import contextlib
import errno
import json
import os
import shutil
import signal
import subprocess
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from kivel.files.half_made_sets import settled
from kivel.files.locks import FileLock
from kivel.files.output_set import OutputSet
from kivel.files.safety import OutputError
from kivel.files.settling import strangers_in, unsettled_in
from kivel.files.staging import Stage
from kivel.files.threads import uninterrupted
from kivel.files.whole_sets import ReplacedError, require_unreplaced, watch_manifest, whole_sets
from program import files

CHANGES = ("replace", "link", "unlink", "rmdir", "fsync")
"""What changes the disk, once everything is written."""
PLACES = {"one folder": ("a", "b", "c"), "two folders": ("a", "maps/b", "maps/c", "d")}
WRITER = """
import os, signal, sys
from pathlib import Path
from kivel.files.output_set import OutputSet
count = 0
def watched(call):
    def change(*words, **more):
        global count
        count += 1
        if count == int(sys.argv[1]):
            os.kill(os.getpid(), signal.SIGKILL)
        return call(*words, **more)
    return change
with OutputSet(force=True, is_ours=lambda path: True) as out:
    for name in sys.argv[2:]:
        if name.startswith("-"):
            out.remove(Path(name[1:]))
        else:
            out.add(Path(name), [b"new " + name.encode()])
    for name in ("replace", "link", "unlink", "rmdir", "fsync"):
        setattr(os, name, watched(getattr(os, name)))
"""


def older(folder: Path, names: tuple[str, ...]) -> tuple[dict[str, bytes], dict[str, bytes]]:
    """A set that is there, all but its last file; and as it is before and after."""
    for name in names[:-1]:
        (folder / name).parent.mkdir(exist_ok=True)
        (folder / name).write_bytes(b"old")
    return files(folder), {name: b"new " + name.encode() for name in names}


@pytest.mark.parametrize("names", PLACES.values(), ids=PLACES)
def test_killed_at_any_step_the_next_to_come_finds_the_old_set_or_the_new_one(
    tmp_path: Path, names: tuple[str, ...]
) -> None:
    folders = sorted({(tmp_path / name).parent for name in names})
    outcomes, step = set(), 0
    while True:
        step += 1
        old, new = older(tmp_path, names)
        done = subprocess.run([sys.executable, "-c", WRITER, str(step), *names], cwd=tmp_path, check=False)
        # either folder is the first to be looked at
        said = [text for folder in folders[:: -1 if step % 2 else 1] for text in settled(folder)]
        found = files(tmp_path)
        assert found in (old, new), (step, found)
        assert len(said) <= 1, (step, said)
        outcomes.add((found == new, bool(said)))
        (tmp_path / names[-1]).unlink(missing_ok=True)
        if done.returncode == 0:
            break
    assert outcomes == {(False, False), (True, True), (True, False)}


@pytest.mark.parametrize("words", [("a", "-gone", "b"), ("-gone", "sub/a")])
def test_a_removal_is_part_of_its_set(tmp_path: Path, words: tuple[str, ...]) -> None:
    (tmp_path / "sub").mkdir()
    names = [word for word in words if not word.startswith("-")]
    outcomes, step = set(), 0
    while True:
        step += 1
        old = {"gone": b"old", names[0]: b"old"}
        for name, data in old.items():
            (tmp_path / name).write_bytes(data)
        done = subprocess.run([sys.executable, "-c", WRITER, str(step), *words], cwd=tmp_path, check=False)
        for folder in (tmp_path, tmp_path / "sub"):
            settled(folder)
        found = files(tmp_path)
        assert found in (old, {name: b"new " + name.encode() for name in names}), (step, found)
        outcomes.add("gone" in found)
        for name in found:
            (tmp_path / name).unlink()
        if done.returncode == 0:
            break
    assert outcomes == {True, False}


def test_what_is_not_kivels_is_not_removed(tmp_path: Path) -> None:
    (tmp_path / "mine").write_bytes(b"mine")
    said: list[str] = []
    with OutputSet(force=True, is_ours=lambda _path: False, tell=said.append) as out:
        out.remove(tmp_path / "mine")
        out.add(tmp_path / "a", [b"1"])
    assert files(tmp_path) == {"a": b"1", "mine": b"mine"}
    assert said == [f"{tmp_path}/mine: no longer made, but edited since; kept"]


@pytest.mark.parametrize("names", PLACES.values(), ids=PLACES)
@pytest.mark.parametrize("change", CHANGES)
def test_an_error_at_any_step_leaves_the_old_set_or_all_of_the_new_one(
    tmp_path: Path, names: tuple[str, ...], change: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    call = getattr(os, change)
    failed, step = True, 0
    while failed:
        step += 1
        failed, calls = False, 0
        old, new = older(tmp_path, names)

        def faulty(*words: object, limit: int = step, **more: object) -> object:
            nonlocal calls, failed
            calls += 1
            if calls == limit:
                failed = True
                raise OSError(errno.EIO, "broken")
            return call(*words, **more)

        raised = False
        try:
            with OutputSet(force=True, is_ours=lambda _path: True) as out:
                for name in names:
                    out.add(tmp_path / name, [b"new " + name.encode()])
                monkeypatch.setattr(os, change, faulty)
        except OutputError as error:
            raised = True
            assert "the disk reports an error" in str(error)  # noqa: PT017 - that it is raised is not always so
        monkeypatch.setattr(os, change, call)
        for folder in {(tmp_path / name).parent for name in names}:
            settled(folder)
        assert files(tmp_path) == (old if raised else new), (change, step)
        (tmp_path / names[-1]).unlink(missing_ok=True)


def test_where_even_taking_back_fails_it_is_said_and_the_next_to_come_does_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    old, _ = older(tmp_path, ("a", "b", "c"))
    call, target = os.replace, os.path.realpath(tmp_path / "b")

    def faulty(source: Path, place: Path) -> None:
        if os.fspath(place) == target or str(source).endswith(".old"):
            raise OSError(errno.EIO, "broken")
        call(source, place)

    def write() -> None:
        with OutputSet(force=True, is_ours=lambda _path: True) as out:
            for name in "abc":
                out.add(tmp_path / name, [b"new"])
            monkeypatch.setattr(os, "replace", faulty)

    with pytest.raises(OutputError, match=r"half-written: a, b, c; .* \(broken\)"):
        write()
    monkeypatch.setattr(os, "replace", call)
    assert settled(tmp_path, touch=False) == [
        f"{tmp_path}: an interrupted run left files half-written (a, b, c); the next run that writes there will undo it"
    ]
    assert settled(tmp_path) != []
    assert files(tmp_path) == old


def half_made(folder: Path) -> None:
    """A set whose maker dies between its first file and its second."""
    names = ("a", "b", "c")
    older(folder, names)
    subprocess.run([sys.executable, "-c", WRITER, "5", *names], cwd=folder, check=False)
    assert unsettled_in(folder)


@pytest.mark.parametrize(("name", "wrong"), [("c", True), ("d", False)])
def test_what_is_read_is_read_again_where_its_own_set_is_replaced(tmp_path: Path, name: str, wrong: bool) -> None:
    """What others write in the same folder is no concern of a reader's."""
    (tmp_path / "d").write_bytes(b"another set's")
    half_made(tmp_path)
    with pytest.raises(ReplacedError) if wrong else contextlib.nullcontext(), whole_sets():
        watch_manifest(tmp_path / name)
        require_unreplaced()


def test_what_changes_while_it_is_read_is_told_in_place_of_what_came_of_it(tmp_path: Path) -> None:
    (tmp_path / "m").write_bytes(b"old")

    def read() -> None:
        with whole_sets():
            watch_manifest(tmp_path / "m")
            (tmp_path / "m").write_bytes(b"new")
            raise OutputError("a page is of another size")

    with pytest.raises(ReplacedError, match="m: was replaced"):
        read()


def test_a_dry_run_says_what_is_half_made_and_touches_nothing(tmp_path: Path) -> None:
    half_made(tmp_path)
    before = files(tmp_path)
    assert settled(tmp_path, touch=False) == [
        f"{tmp_path}: an interrupted run left files half-written (a, b, c); the next run that writes there will "
        "complete it"
    ]
    with OutputSet(force=False, is_ours=lambda _path: False, dry_run=True) as out:
        out.add(tmp_path / "a", [b"other"])
    assert files(tmp_path) == before


def test_where_nothing_may_be_written_it_says_what_is_half_made_and_refuses(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    half_made(tmp_path)
    before = files(tmp_path)

    def refused(*_words: object, **_more: object) -> None:
        raise PermissionError(errno.EACCES, "Permission denied")

    with monkeypatch.context() as patched:
        patched.setattr(FileLock, "taken", refused)
        with pytest.raises(OutputError, match=r"left these half-written: .* cannot be repaired from here \(Permission"):
            settled(tmp_path)
    assert files(tmp_path) == before
    assert settled(tmp_path) != []


PLANTED = {
    "that would remove": {"state": "undo", "files": [["thesis.txt", None, None]]},
    "that would replace": {"state": "place", "files": [["thesis.txt", None, None]]},
    "of another form": {"state": "undo", "names": ["thesis.txt"]},
    "with a home elsewhere": {"state": "place", "files": [], "home": "../../other", "others": 3},
    "of no JSON": [],
}


@pytest.mark.parametrize("journal", PLANTED.values(), ids=PLANTED)
@pytest.mark.parametrize("mark", ["", "0" * 32 + "\n"], ids=["unmarked", "marked"])
def test_a_journal_from_elsewhere_is_not_believed(tmp_path: Path, journal: Any, mark: str) -> None:
    (tmp_path / "thesis.txt").write_bytes(b"mine")
    stage = tmp_path / ".kivel-0badf00d"
    stage.mkdir()
    (stage / "0").write_bytes(b"evil")
    (stage / "lock").touch()
    whole = {"home": None, "others": ["../.kivel-0"], **journal} if journal else journal
    (stage / "journal").write_text(mark + json.dumps(whole))
    before = files(tmp_path)
    assert settled(tmp_path) == []
    assert settled(tmp_path, strangers=True) == [
        f"{tmp_path}: .kivel-0badf00d: left by another user or machine and not used; remove it if nobody needs it"
    ]
    with OutputSet(force=False, is_ours=lambda _path: False) as out:
        out.add(tmp_path / "a", [b"1"])
        out.add(tmp_path / "b", [b"2"])
    assert files(tmp_path) == before | {"a": b"1", "b": b"2"}


def test_one_of_ones_own_is_believed_without_its_lock_and_not_under_another_name(tmp_path: Path) -> None:
    """Copied, or unpacked from an archive."""
    half_made(tmp_path)
    (stage,) = tmp_path.glob(".kivel-*")
    (stage / "lock").unlink()
    shutil.copytree(tmp_path, tmp_path / "copy", ignore=shutil.ignore_patterns("copy"))
    (tmp_path / "copy" / stage.name).rename(tmp_path / "copy/.kivel-0badf00d")
    assert settled(tmp_path / "copy") == []
    assert settled(tmp_path) != []
    assert files(tmp_path)["c"] == b"new c"


@pytest.mark.parametrize("name", ["a", "b", "c"])
@pytest.mark.parametrize("step", range(3, 14, 2))
def test_what_was_changed_since_a_death_is_left_alone(tmp_path: Path, name: str, step: int) -> None:
    """Wherever it died, and whichever file it is."""
    names = ("a", "b", "c")
    older(tmp_path, names)
    subprocess.run([sys.executable, "-c", WRITER, str(step), *names], cwd=tmp_path, check=False)
    begun = unsettled_in(tmp_path)
    was_waiting = any(path.read_bytes() == f"new {name}".encode() for path in tmp_path.glob(".kivel-*/[0-2]"))
    (tmp_path / name).write_bytes(b"mine")
    said = settled(tmp_path)
    assert files(tmp_path)[name] == b"mine"
    if begun and was_waiting:
        assert f"{name}: changed since then, left alone" in said[0]


def test_an_undoing_removes_only_what_was_put_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    older(tmp_path, ("a", "b"))
    call = os.replace

    def faulty(source: Path, place: Path) -> None:
        if os.fspath(place).endswith(os.sep + "b") or str(source).endswith(".old"):
            raise OSError(errno.EIO, "broken")
        call(source, place)

    def write() -> None:
        with OutputSet(force=True, is_ours=lambda _path: True) as out:
            for name in ("a", "new", "b"):
                out.add(tmp_path / name, [b"put"])
            monkeypatch.setattr(os, "replace", faulty)

    with pytest.raises(OutputError, match="half-written"):
        write()
    monkeypatch.setattr(os, "replace", call)
    (tmp_path / "new").write_bytes(b"mine")
    assert settled(tmp_path)[0].endswith("now undone; new: changed since then, left alone")
    assert files(tmp_path) == {"new": b"mine", "a": b"old"}


LOCKS: dict[str, Callable[[Path], object]] = {
    "a link": lambda path: path.symlink_to("../far"),
    "a pipe": os.mkfifo,
    "a folder": lambda path: path.mkdir(),
}


@pytest.mark.parametrize("kind", LOCKS)
def test_a_lock_is_a_file_and_nothing_else(tmp_path: Path, kind: str) -> None:
    (tmp_path / "in").mkdir()
    LOCKS[kind](tmp_path / "in/.kivel.lock")

    def write() -> None:
        with OutputSet(force=True, is_ours=lambda _path: True) as out:
            out.add(tmp_path / "in/a", [b"1"])

    with pytest.raises(OutputError, match=r"in/\.kivel\.lock: it is a (link|pipe|folder)"):
        write()
    assert files(tmp_path) == {}
    assert not (tmp_path / "far").exists()


def test_a_lock_with_something_in_it_is_not_removed(tmp_path: Path) -> None:
    (tmp_path / ".kivel.lock").write_bytes(b"mine")
    settled(tmp_path)
    with OutputSet(force=False, is_ours=lambda _path: False) as out:
        out.add(tmp_path / "a", [b"1"])
    assert files(tmp_path) == {".kivel.lock": b"mine", "a": b"1"}


def test_an_interrupt_while_a_stage_is_made_leaves_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    made = Stage.made_in

    def interrupted(folder: Path) -> Stage:
        os.kill(os.getpid(), signal.SIGINT)
        stage = made(folder)
        os.kill(os.getpid(), signal.SIGINT)
        return stage

    monkeypatch.setattr(Stage, "made_in", interrupted)

    def write() -> None:
        with OutputSet(force=True, is_ours=lambda _path: True) as out:
            out.add(tmp_path / "sub/a", [b"1"])

    with pytest.raises(KeyboardInterrupt):
        write()
    assert list(tmp_path.iterdir()) == []


def test_what_a_live_writer_is_about_is_left_alone(tmp_path: Path) -> None:
    with OutputSet(force=False, is_ours=lambda _path: False) as out:
        out.add(tmp_path / "a", [b"1"])
        assert settled(tmp_path) == []
        out.add(tmp_path / "b", [b"2"])
    assert files(tmp_path) == {"a": b"1", "b": b"2"}


def test_a_lock_is_had_by_one_at_a_time_and_not_kept_by_the_dead(tmp_path: Path) -> None:
    path = tmp_path / "lock"
    script = "import os,sys;from pathlib import Path;from kivel.files.locks import FileLock as F;F.taken(Path('lock'));"
    subprocess.run([sys.executable, "-c", script + "os.kill(os.getpid(), 9)"], cwd=tmp_path, check=False)
    first = FileLock.taken(path)
    assert first is not None
    assert FileLock.taken(path) is None
    first.release()
    assert not path.exists()


def test_a_file_that_another_changed_meanwhile_is_not_overwritten(tmp_path: Path) -> None:
    (tmp_path / "a").write_bytes(b"read")

    def write() -> None:
        with OutputSet(force=True, is_ours=lambda _path: True) as out:
            out.changes(tmp_path / "a")
            out.add(tmp_path / "a", [b"new"])
            (tmp_path / "a").write_bytes(b"another's")

    with pytest.raises(OutputError, match="changed by another program meanwhile"):
        write()
    assert files(tmp_path) == {"a": b"another's"}


@pytest.mark.parametrize("count", [1, 3])
def test_an_interrupt_waits_for_what_must_not_be_cut(count: int) -> None:
    begun, ended = threading.Event(), []

    def call() -> None:
        begun.set()
        threading.Event().wait(0.2)
        ended.append(True)

    def press() -> None:
        begun.wait()
        for _ in range(count):
            os.kill(os.getpid(), signal.SIGINT)

    thread = threading.Thread(target=press)
    thread.start()
    with pytest.raises(KeyboardInterrupt):
        uninterrupted(call)
    thread.join()
    assert ended == [True]


NAMES = {"long": "n" * 244, "dots": ".hidden", "blank": "a b"}


@pytest.mark.parametrize("name", NAMES.values(), ids=NAMES)
def test_any_name_that_the_disk_takes_can_be_written(tmp_path: Path, name: str) -> None:
    with OutputSet(force=False, is_ours=lambda _path: False) as out:
        out.add(tmp_path / name, [b"1"])
    assert files(tmp_path) == {name: b"1"}


LINKS: dict[str, Callable[[Path], object]] = {
    "to a file": lambda folder: (folder / "real").write_bytes(b"old"),
    "that dangles": lambda _folder: None,
}


@pytest.mark.parametrize("kind", LINKS)
def test_a_link_is_written_through_and_never_replaced(tmp_path: Path, kind: str) -> None:
    (tmp_path / "far").mkdir()
    LINKS[kind](tmp_path / "far")
    link = tmp_path / "link"
    link.symlink_to(tmp_path / "far/real")

    def write() -> None:
        with OutputSet(force=True, is_ours=lambda _path: True) as out:
            out.add(link, [b"new"])
            out.add(tmp_path / "other", [b"new"])

    if kind == "that dangles":
        with pytest.raises(OutputError, match=r"is a broken link to .*far/real"):
            write()
        assert files(tmp_path) == {}
    else:
        write()
        assert files(tmp_path) == {"far/real": b"new", "link": b"new", "other": b"new"}
    assert link.is_symlink()


def test_a_pipe_and_a_source_are_no_targets(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "source").write_bytes(b"mine")
    (tmp_path / "link").symlink_to("source")
    out = OutputSet(force=True, is_ours=lambda _path: True)
    out.reads([tmp_path / "source"])
    with pytest.raises(OutputError, match="is a pipe or a device"):
        out.check(tmp_path / "pipe")
    for name in ("source", "link"):
        with pytest.raises(OutputError, match="is an input of this command"):
            out.check(tmp_path / name)


def test_a_stage_that_goes_while_it_is_looked_at_is_no_stranger(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """That of another process, which is done with it."""
    stage = tmp_path / ".kivel-0123abcd"

    def gone(*_: Any, **__: Any) -> bytes:
        stage.rmdir()
        raise OutputError("no such file")

    stage.mkdir()
    monkeypatch.setattr("kivel.files.journals.file_bytes", gone)
    monkeypatch.setattr("kivel.files.journals.Journal.read", lambda _: None)
    assert strangers_in(tmp_path) == []
