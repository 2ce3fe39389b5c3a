"""What can be tried here of other systems: modules that they lack, names that they cannot have, keys that they give."""

from __future__ import annotations

import shlex
import subprocess
import sys
import types
from pathlib import Path

import pytest

from kivel.cli import keyboard
from kivel.core.errors import UsageError
from kivel.files.portable import portable_notes
from program import Kivel, art, files, write

POSIX_ONLY = ("fcntl", "termios", "tty", "pty", "resource", "pwd", "grp", "posix_ipc", "readline", "curses")
WITHOUT = f"""
import os, signal, sys
for name in {POSIX_ONLY!r}:
    sys.modules[name] = None
for name in ("SIGHUP", "SIGTSTP", "SIGWINCH", "SIGALRM", "setitimer", "pthread_kill"):
    if hasattr(signal, name):
        delattr(signal, name)
for name in ("sched_getaffinity", "memfd_create", "O_NONBLOCK", "O_CLOEXEC", "fork", "mkfifo", "getuid", "fchmod"):
    if hasattr(os, name):
        delattr(os, name)
open_file = os.open
def no_folders(path, *words, **more):
    if os.path.isdir(path):
        raise PermissionError(13, "Permission denied", path)
    return open_file(path, *words, **more)
os.open = no_folders
"""
EVERY_MODULE = """
import importlib, pkgutil, kivel
for module in pkgutil.walk_packages(kivel.__path__, "kivel."):
    if module.name != "kivel.__main__":
        importlib.import_module(module.name)
"""
COMMANDS = (
    "sheet in -o out/s.png --jobs 2",
    "sheet in -o out/s.png --gap 1",
    "inspect out/s.kivel.json",
    "slice out/s.kivel.json -o cut",
    "prep in --step 'pad 1' -o prepared",
    "atlas in -o a.png",
    "preview out/s.kivel.json -o p.gif",
    "preview out/s.kivel.json -o t.png --view timing",
    "retime out/s.kivel.json --fps 3",
    "timeline out/s.kivel.json --for 1s",
    "build --jobs 1",
    "build --remake --jobs 1",
)


def test_every_module_loads_without_what_only_posix_has() -> None:
    subprocess.run([sys.executable, "-c", WITHOUT + EVERY_MODULE], check=True)


def test_the_commands_work_without_what_only_posix_has(tmp_path: Path, kivel: Kivel) -> None:
    for number in range(3):
        write(tmp_path / f"in/f{number}.png", art(number))
        write(tmp_path / f"there/in/f{number}.png", art(number))
    for folder in (tmp_path, tmp_path / "there"):
        text = 'store = "9 MB"\n[make.b]\nfrom = "in"\nsteps = [{ prep = "flip x" }]\nsheet = { out = "out/b.png" }\n'
        (folder / "kivel.toml").write_text(text)
    lines = "\n".join(
        f"code = main(__import__('shlex').split({line!r}))\nassert code == 0, {line!r}" for line in COMMANDS
    )
    script = f"{WITHOUT}\nfrom kivel.cli.main import main\n{lines}"
    done = subprocess.run(
        [sys.executable, "-c", script], cwd=tmp_path / "there", capture_output=True, text=True, check=False
    )
    assert (done.returncode, "rror" in done.stderr) == (0, False), done.stderr
    for line in COMMANDS:
        assert kivel(*shlex.split(line)).code == 0
    there = {name: data for name, data in files(tmp_path / "there").items() if not name.startswith(".kivel/")}
    assert there == {name: data for name, data in files(tmp_path).items() if not name.startswith(("there/", ".kivel/"))}
    assert (tmp_path / "there/.kivel/store").is_dir()


PRESSED = {
    "\xe0H": "up", "\xe0P": "down", "\xe0K": "left", "\xe0M": "right", "\0H": "up", "\xe0G": "home", "\xe0S": "",
    "q": "q", " ": " ", "\t": "\t", "\x1b": "escape",
}  # fmt: skip


def windows_keyboard(pressed: str, monkeypatch: pytest.MonkeyPatch) -> keyboard.Keyboard:
    waiting = list(pressed)
    console = types.ModuleType("msvcrt")
    console.kbhit = lambda: bool(waiting)  # type: ignore[attr-defined]
    console.getwch = lambda: waiting.pop(0)  # type: ignore[attr-defined]
    monkeypatch.setitem(sys.modules, "termios", None)
    monkeypatch.setitem(sys.modules, "msvcrt", console)
    return keyboard.keyboard()


@pytest.mark.parametrize(("pressed", "key"), PRESSED.items())
def test_the_keys_of_windows(pressed: str, key: str, monkeypatch: pytest.MonkeyPatch) -> None:
    keys = windows_keyboard(pressed, monkeypatch)
    assert (keys.key(0), keys.key(0.02)) == (key, None)


def test_the_interrupt_of_windows_and_no_keys_at_all(monkeypatch: pytest.MonkeyPatch) -> None:
    keys = windows_keyboard("\x03", monkeypatch)
    with pytest.raises(KeyboardInterrupt):
        keys.key(0)
    monkeypatch.setitem(sys.modules, "msvcrt", None)
    with pytest.raises(UsageError, match="this system's terminal"):
        keyboard.keyboard()


NAMES = {
    "con.png": "reserved", "Lpt1.kivel.json": "reserved", "NUL": "reserved",
    "moth.": "ends with a dot", "moth ": "ends with a dot", "a:b.png": "contains one of", 'a"b': "contains one of",
    "contact.png": "", "com.png": "", ".hidden": "", "a b.png": "", "é.png": "",
}  # fmt: skip


@pytest.mark.parametrize(("name", "what"), NAMES.items())
def test_names_that_windows_has_not_are_told(name: str, what: str) -> None:
    found = portable_notes([Path("out") / name])
    assert bool(found) == bool(what)
    assert what in "".join(found)


def test_names_that_others_take_for_the_same_and_long_paths_are_told(kivel: Kivel, tmp_path: Path) -> None:
    for name in ("Moth_0.png", "moth_0.png", "other_0.png"):
        write(tmp_path / "in" / name, art(len(name)))
    done = kivel("sheet", "in/Moth_0.png", "-o", "con.png")
    assert "note: con.png, con.kivel.json: Windows does not allow this name (reserved)" in done.err
    assert portable_notes([Path("a.png"), Path("A.png"), Path("b.png")]) == [
        "a.png, A.png: Windows and macOS treat these names as one; rename one of them"
    ]
    assert portable_notes([Path("e\u0301.png"), Path("\u00e9.png")]) != []
    assert "more than 259 characters" in portable_notes([Path("x" * 260)])[0]
