"""What is printed is text, and what becomes of it when nobody takes it."""

from __future__ import annotations

import json
import os
import re
import subprocess
from pathlib import Path

import pytest

from kivel.cli.interrupts import was_interrupted
from kivel.cli.streams import library_prints
from kivel.core.wording import printable
from program import PROGRAM, Kivel, art, write

EVIL = "ev\x1b[2Jil\u202e\nx\x9b"
ACTING = re.compile("[\x00-\x09\x0b-\x1f\x7f-\x9f\u200e\u200f\u202a-\u202e\u2066-\u2069\ud800-\udfff]")
LINES = {
    "sheet": ("sheet", EVIL, "-o", "s.png", "--name", EVIL),
    "as JSON": ("sheet", EVIL, "-o", "s.png", "--name", EVIL, "--json"),
    "inspect": ("inspect", "s.kivel.json"),
    "inspect, JSON": ("inspect", "s.kivel.json", "--json"),
    "retime": ("retime", "s.kivel.json", "--fps", "3"),
    "timeline": ("timeline", "s.kivel.json", "--for", "1s"),
    "timeline, CSV": ("timeline", "s.kivel.json", "--for", "1s", "--format", "csv"),
    "timeline, JSON": ("timeline", "s.kivel.json", "--for", "1s", "--json"),
    "timing": ("preview", "s.kivel.json", "-o", "t.png", "--view", "timing"),
    "contact": ("preview", "s.kivel.json", "-o", "c.png"),
    "layout": ("preview", "s.kivel.json", "-o", "l.png", "--view", "layout"),
    "no such file": ("sheet", f"no{EVIL}", "-o", "x.png"),
    "a step": ("prep", "s.kivel.json", "--step", f"fit {EVIL}", "-o", "o"),
    "an option": ("sheet", f"--{EVIL}"),
    "a clip": ("preview", "s.kivel.json", "--clip", EVIL * 2, "-o", "a.apng"),
}


@pytest.mark.parametrize("words", LINES.values(), ids=LINES)
def test_names_never_act_on_a_terminal(kivel: Kivel, tmp_path: Path, words: tuple[str, ...]) -> None:
    for number in range(3):
        write(tmp_path / EVIL / f"f{number}.png", art(number))
    assert words[0] == "sheet" or kivel("sheet", EVIL, "-o", "s.png", "--name", EVIL).code == 0
    done = kivel(*words)
    assert not ACTING.search(done.out + done.err)
    assert "a bug" not in done.err
    assert "il" in done.out + done.err or words[0] == "preview"
    if "--json" in words:
        assert json.dumps(EVIL)[1:-1] in json.dumps(json.loads(done.out)), "scripts get the name as it is"


def test_every_kind_of_character_that_acts_is_escaped() -> None:
    assert not any(ACTING.search(printable(chr(code))) for code in range(0x11000))
    assert printable("déjà vu 夜 🦋 [b]") == "déjà vu 夜 🦋 [b]"


HALVES = ("\\ud800", "\\uDFFF x", "a\\udc80")


@pytest.mark.parametrize("half", HALVES)
def test_half_a_character_in_a_manifest_is_an_error(kivel: Kivel, tmp_path: Path, half: str) -> None:
    write(tmp_path / "in/f0.png", art(0))
    kivel("sheet", "in", "-o", "s.png")
    path = tmp_path / "s.kivel.json"
    path.write_text(path.read_text().replace('"name": "s"', f'"name": "{half}"'))
    for words in (["inspect", "s.kivel.json"], ["retime", "s.kivel.json", "--fps", "2"], ["slice", "s.png", "-o", "o"]):
        done = kivel(*words)
        assert (done.code, "half a character" in done.err) == (1, True)


ENDS = (
    "--help",
    "prep --steps",
    "prep --steps fit",
    "inspect --schema",
    "inspect in",
    "inspect in --json",
    "timeline s.kivel.json --for 100s",
)


@pytest.mark.parametrize("line", ENDS)
def test_output_that_nobody_takes_is_no_bug(kivel: Kivel, tmp_path: Path, line: str) -> None:
    write(tmp_path / "in/f0.png", art(0))
    kivel("sheet", "in", "-o", "s.png")
    environment = {name: value for name, value in os.environ.items() if name != "PYTHONUNBUFFERED"}

    def run(out: int) -> tuple[int, str]:
        words = [str(PROGRAM), *line.split()]
        done = subprocess.run(
            words, cwd=tmp_path, stdout=out, stderr=subprocess.PIPE, text=True, check=False, env=environment
        )
        return done.returncode, done.stderr

    reader, writer = os.pipe()
    os.close(reader)
    assert run(writer) == (0, "")
    os.close(writer)
    full = os.open("/dev/full", os.O_WRONLY)
    assert run(full) == (1, "error: standard output cannot be written: No space left on device\n")
    os.close(full)


def test_what_a_library_prints_becomes_a_note(capfd: pytest.CaptureFixture[str]) -> None:
    told: list[str] = []
    with library_prints(told.append):
        for text in (b"libpng warning: \x1b[2J\n", b"again\n", b"again\n"):
            os.write(2, text)
    os.write(2, b"ours\n")
    assert told == ["an image library says: libpng warning: \\x1b[2J, again"]
    assert capfd.readouterr().err == "ours\n"


@pytest.mark.parametrize(("raised", "told"), [(KeyboardInterrupt, True), (ValueError, False)])
def test_an_interrupt_while_a_class_is_made_is_one(raised: type[BaseException], told: bool) -> None:
    """Modules load when a command needs them, so that Ctrl-C may meet a class half-made."""

    class Rude:
        def __set_name__(self, owner: type, name: str) -> None:
            raise raised

    with pytest.raises((raised, RuntimeError)) as caught:
        type("Made", (), {"rude": Rude()})
    assert was_interrupted(caught.value) is told
