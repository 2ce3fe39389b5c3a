"""What Kivel keeps for itself is proved by a key of the user's, and reached through no link."""

from __future__ import annotations

import os
import stat
import subprocess
import sys
import threading
from collections.abc import Callable
from pathlib import Path

import pytest

from kivel.core.errors import KivelError
from kivel.files.own_folder import OwnFolder
from kivel.files.own_state import VARIABLE, is_own, own_mark, state_key


@pytest.fixture(autouse=True)
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.delenv(VARIABLE, raising=False)
    return tmp_path / "state/kivel/state-key"


def test_a_key_is_made_once_and_is_nobody_elses_to_read(home: Path) -> None:
    mark = own_mark("test", b"content")
    assert stat.S_IMODE(home.stat().st_mode) == 0o600
    assert list(home.parent.iterdir()) == [home], "no temporary file is left"
    script = "from kivel.files.own_state import own_mark; print(own_mark('test', b'content'))"
    again = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
    assert again.stdout.strip() == mark
    assert is_own("test", b"content", mark)
    assert not any(
        (is_own("other", b"content", mark), is_own("test", b"contents", mark), is_own("test", b"content", ""))
    )


def test_many_that_begin_at_once_agree_on_one_key() -> None:
    script = "from kivel.files.own_state import own_mark; print(own_mark('test', b'content'))"
    running = [subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True) for _ in range(8)]
    assert len({process.communicate()[0] for process in running}) == 1


def test_a_shared_key_proves_on_another_machine_and_another_does_not(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv(VARIABLE, "a long secret of a team")
    mark = own_mark("test", b"content")
    monkeypatch.setenv("XDG_STATE_HOME", "/elsewhere")
    assert is_own("test", b"content", mark)
    monkeypatch.setenv(VARIABLE, "another secret of a team")
    assert not is_own("test", b"content", mark)
    monkeypatch.setenv(VARIABLE, "short")
    with pytest.raises(KivelError, match="KIVEL_STATE_KEY: must have at least 16 characters"):
        own_mark("test", b"")


def _text(path: Path, text: str, mode: int) -> None:
    path.write_text(text)
    path.chmod(mode)


UNFIT: dict[str, Callable[[Path], object]] = {
    "readable by others": lambda path: _text(path, "ab" * 32, 0o644),
    "a link": lambda path: path.symlink_to("/etc/hostname"),
    "a pipe": os.mkfifo,
    "damaged": lambda path: _text(path, "oops", 0o600),
    "a folder": lambda path: path.mkdir(),
}


@pytest.mark.parametrize("name", UNFIT)
def test_a_key_that_others_may_know_is_none(home: Path, name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    home.parent.mkdir(parents=True)
    UNFIT[name](home)
    monkeypatch.setattr("kivel.files.own_state._keys", {})
    key = state_key()
    assert key.lacks is not None
    assert "state-key: " in key.lacks
    monkeypatch.setattr("kivel.files.own_state._keys", {})
    assert state_key().secret != key.secret, "it lasts as long as the process"


@pytest.fixture
def folder(tmp_path: Path) -> OwnFolder:
    (tmp_path / "own").mkdir()
    (tmp_path / "far").mkdir()
    (tmp_path / "far/file").write_bytes(b"mine")
    return OwnFolder(tmp_path / "own")


def test_what_was_kept_comes_back_and_nothing_else_does(folder: OwnFolder) -> None:
    folder.keep("a", "test", b"one")
    assert folder.kept("a", "test", most=100) == b"one"
    assert folder.kept("a", "other", most=100) is None
    folder.write("a", folder.bytes_of("a", most=100)[:-1] + b"X")  # type: ignore[index]
    assert folder.kept("a", "test", most=100) is None
    folder.keep("a", "test", b"x" * 200)
    assert folder.kept("a", "test", most=100) is None, "longer than it may be"
    assert [entry.name for entry in folder.entries()] == ["a"]


def test_no_step_of_the_way_is_through_a_link(folder: OwnFolder, tmp_path: Path) -> None:
    (tmp_path / "own/link").symlink_to("../far")
    (tmp_path / "own/file").symlink_to("../far/file")
    (tmp_path / "linked").symlink_to("own")
    below = folder.within("link")
    assert (below.is_there(), below.entries(), below.bytes_of("file", most=9)) == (False, [], None)
    assert (folder.bytes_of("file", most=9), folder.digest_of("file"), folder.entries()) == (None, None, [])
    assert not OwnFolder(tmp_path / "linked").is_there()
    with pytest.raises(OSError, match=r".*"):
        folder.append("file", b"evil")
    with pytest.raises(OSError, match=r".*"):
        below.write("new", b"evil")
    below.removed()
    assert not (tmp_path / "own/link").is_symlink()
    folder.within("file", "deep").made()
    folder.within("file").removed()
    assert {path.name: path.read_bytes() for path in (tmp_path / "far").iterdir()} == {"file": b"mine"}


def test_removing_follows_no_link_within(folder: OwnFolder, tmp_path: Path) -> None:
    folder.within("a", "b").made()
    (tmp_path / "own/a/b/link").symlink_to("../../../far")
    folder.within("a").removed()
    assert list((tmp_path / "own").iterdir()) == []
    assert (tmp_path / "far/file").read_bytes() == b"mine"


def test_a_second_name_of_somebodys_file_is_not_written_to(folder: OwnFolder, tmp_path: Path) -> None:
    os.link(tmp_path / "far/file", tmp_path / "own/state")
    with pytest.raises(OSError, match="is not one of Kivel's own files"):
        folder.append("state", b"evil")
    assert (tmp_path / "far/file").read_bytes() == b"mine"


def test_many_make_the_same_folders_at_a_time(folder: OwnFolder) -> None:
    for number in range(150):
        barrier = threading.Barrier(4)
        made: list[OwnFolder] = []

        def make(name: str, barrier: threading.Barrier, made: list[OwnFolder], number: int) -> None:
            barrier.wait()
            made.append(folder.within(f"steps{number}", "same", name).emptied())

        threads = [threading.Thread(target=make, args=(name, barrier, made, number)) for name in "abcd"]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert len(made) == 4, number
        assert all(one.is_there() for one in made)
