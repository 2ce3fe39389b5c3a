"""`play` in a terminal: what it shows, the keys it obeys, and that it gives the terminal back."""

from __future__ import annotations

import codecs
import fcntl
import os
import pty
import re
import select
import signal
import struct
import subprocess
import termios
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from program import PROGRAM, Kivel, write

COLOURS = [(250, 10, 20), (20, 240, 30), (30, 40, 230), (220, 210, 50)]


class Terminal:
    """A pseudo-terminal of 60 columns and 20 lines with `kivel play` in it."""

    def __init__(self, folder: Path, *words: str) -> None:
        self.ours, self.theirs = pty.openpty()
        self.resize(60, 20)
        self.before = termios.tcgetattr(self.theirs)
        self.shown = ""
        self.decoder = codecs.getincrementaldecoder("utf-8")("replace")
        self.process = subprocess.Popen(
            [PROGRAM, "play", *words],
            cwd=folder,
            stdin=self.theirs,
            stdout=self.theirs,
            stderr=self.theirs,
            env={**os.environ, "TERM": "xterm-256color"},
            start_new_session=True,
            preexec_fn=lambda: fcntl.ioctl(self.theirs, termios.TIOCSCTTY, 0),
        )

    def resize(self, columns: int, lines: int) -> None:
        fcntl.ioctl(self.ours, termios.TIOCSWINSZ, struct.pack("HHHH", lines, columns, 0, 0))

    def until(self, pattern: str) -> str:
        """All that was shown until the pattern was; from there on the next search goes on."""
        end = time.monotonic() + 20
        while not (match := re.search(pattern, self.shown, re.DOTALL)):
            assert time.monotonic() < end, f"{pattern!r} never came: {self.shown[-400:]!r}"
            if select.select([self.ours], [], [], 0.1)[0]:
                self.shown += self.decoder.decode(os.read(self.ours, 65536))
        found, self.shown = self.shown[: match.end()], self.shown[match.end() :]
        return found

    def press(self, keys: str) -> None:
        os.write(self.ours, keys.encode())

    def ended(self) -> int:
        """The exit code, once it is checked that the terminal is as it was."""
        self.until(r"\x1b\[0m\x1b\[\?25h\x1b\[\?1049l")
        code = self.process.wait(timeout=20)
        assert termios.tcgetattr(self.theirs) == self.before
        return code

    def close(self) -> None:
        self.process.kill()
        self.process.wait()
        os.close(self.ours)
        os.close(self.theirs)


@pytest.fixture
def flat(kivel: Kivel, tmp_path: Path) -> Path:
    """A sheet of four frames of one colour each, and a clip of the last two that plays once."""
    for number, colour in enumerate(COLOURS):
        write(tmp_path / "flat" / f"flat_{number}.png", np.full((6, 6, 4), (*colour, 255), np.uint8))
    assert kivel("sheet", "flat", "-o", "flat.png", "--hold", "50ms", "--make-clip", "last=2-3").code == 0
    assert kivel("retime", "flat.kivel.json", "--clip", "last", "--repeat", "1").code == 0
    assert kivel("retime", "flat.kivel.json", "--clip", "flat", "--then", "last").code == 0
    return tmp_path


@pytest.fixture
def terminal(flat: Path) -> Iterator[Terminal]:
    shown = Terminal(flat, "flat.kivel.json")
    yield shown
    shown.close()


def sgr(frame: int) -> str:
    """Both halves of a character in a frame's colour."""
    colour = ";".join(map(str, COLOURS[frame]))
    return rf"38;2;{colour};48;2;{colour}m\u2580"


def test_it_shows_every_frame_and_obeys_its_keys(terminal: Terminal) -> None:
    for frame in (0, 1, 2, 3, 0):
        terminal.until(sgr(frame))
    terminal.press(" ")
    terminal.until("paused")
    terminal.press("\x1b[H")
    terminal.until(r"flat  frame 0  step 0 of 0-3  cycle 0  0.00 s  paused")
    terminal.press("\x1b[C\x1b[C")
    terminal.until(r"frame 2  step 2 of 0-3  cycle 0  0.10 s  paused")
    terminal.press("\x1b")
    terminal.press("[D")
    terminal.until(sgr(1) + ".*frame 1  step 1 of 0-3  cycle 0  0.05 s  paused")
    terminal.press("\x1b[B ")
    terminal.until("x 1/2")
    terminal.press("\x1b[15~\x1b[A\x1b[A\x1b[A")
    terminal.until("x 4")
    terminal.press("n")
    terminal.until("last  frame 3  step 1 of 0-1  cycle 0 .* ended")
    terminal.press("q")
    assert terminal.ended() == 0


def test_a_loop_is_left_for_the_clip_that_follows(terminal: Terminal) -> None:
    terminal.until(sgr(1))
    terminal.press("e")
    terminal.until(r"last  frame 3  step 1 of 0-1  cycle 0  .* ended")
    terminal.press("\x1b[H")
    terminal.until(r"flat  frame 1")
    terminal.press("q")
    assert terminal.ended() == 0


def test_it_fits_the_window(terminal: Terminal) -> None:
    terminal.until(sgr(0) + r"\u2580{35}[^\u2580]")
    terminal.resize(20, 9)
    terminal.until(r"[^\u2580]\u2580{12}[^\u2580]")
    terminal.press("q")
    assert terminal.ended() == 0


@pytest.mark.parametrize("way", ["ctrl-c", "terminated", "hung up"])
def test_it_gives_the_terminal_back_however_it_ends(terminal: Terminal, way: str) -> None:
    terminal.until(sgr(0))
    if way == "ctrl-c":
        terminal.press("\x03")
    else:
        os.kill(terminal.process.pid, signal.SIGTERM if way == "terminated" else signal.SIGHUP)
    assert terminal.ended() == 130


def test_it_gives_the_terminal_back_after_an_error(flat: Path) -> None:
    page = flat / "flat.png"
    data = bytearray(page.read_bytes())
    data[data.index(b"IDAT") + 12] ^= 255
    page.write_bytes(data)
    terminal = Terminal(flat, "flat.kivel.json")
    try:
        assert terminal.ended() == 1
        assert "error: flat.png" in terminal.until("error: [^\n]*\n")
    finally:
        terminal.close()


@pytest.mark.usefixtures("flat")
def test_without_a_terminal_it_says_so(kivel: Kivel) -> None:
    done = kivel("play", "flat.kivel.json")
    assert (done.code, done.out) == (2, "")
    assert "there is no terminal to play in; kivel preview SRC -o OUT.apng" in done.err
