"""Bad input: one line, what and where and what to do, exit code 1 or 2, nothing written."""

from __future__ import annotations

import json
import os
import resource
import shlex
import shutil
import signal
import struct
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from kivel.core.pixels.pixels import Pixels
from kivel.files.png.chunks import SIGNATURE, chunk
from program import PROGRAM, Kivel, art, files, in_process, read, write


@pytest.fixture(scope="session")
def broken_once(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with every kind of broken input."""
    tmp_path = tmp_path_factory.mktemp("broken")
    for number in range(1, 13):
        write(tmp_path / f"moth/moth_{number}.png", art(number))
    good = (tmp_path / "moth/moth_1.png").read_bytes()
    (tmp_path / "empty").mkdir()
    (tmp_path / "words").mkdir()
    (tmp_path / "words/notes.txt").write_text("x")
    (tmp_path / "file").write_text("x")
    (tmp_path / "cut.png").write_bytes(good[:-20])
    (tmp_path / "text.png").write_text("no picture")
    huge = struct.pack(">IIBBBBB", 60_000, 60_000, 8, 6, 0, 0, 0)
    (tmp_path / "huge.png").write_bytes(SIGNATURE + chunk(b"IHDR", huge) + chunk(b"IDAT", b"x") + chunk(b"IEND"))
    subprocess.run([PROGRAM, "sheet", "moth", "-o", "s.png", "-q"], cwd=tmp_path, check=True)
    text = (tmp_path / "s.kivel.json").read_text()
    variants = {
        "climbs": text.replace('"s.png"', '"../s.png"'),
        "frame": text.replace("[11, 1]", "[12, 1]"),
        "version": text.replace('"version": 1', '"version": 9'),
        "json": text.replace('"version": 1,', '"version": 1'),
        "lost": text.replace('"s.png"', '"gone.png"'),
    }
    for name, content in variants.items():
        (tmp_path / f"{name}.kivel.json").write_text(content)
    return tmp_path


@pytest.fixture
def broken(tmp_path: Path, broken_once: Path) -> Path:
    """A copy of it, to run in."""
    shutil.copytree(broken_once, tmp_path, dirs_exist_ok=True)
    return tmp_path


REFUSED = {
    "an empty folder": ("sheet empty -o o.png", "empty: the folder is empty; expected"),
    "a folder without images": ("sheet words -o o.png", "words: no images in it; expected"),
    "a truncated PNG": ("sheet cut.png -o o.png", "cut.png: cut off after"),
    "a text file named .png": ("sheet text.png -o o.png", "text.png: not an image that Kivel can read"),
    "a huge header": ("sheet huge.png -o o.png", "huge.png: its header states 60000x60000 px, more than the limit"),
    "a huge page": ("sheet moth -o o.png --margin 60000", "the page would have 120018x120020 px, more than the limit"),
    "an output folder that is a file": ("slice s.png -o file", "file: is a file, but a folder is needed"),
    "an output path through a file": ("sheet moth -o file/o.png", "file: is a file, but a folder is needed"),
    "an output file that is a folder": ("sheet moth -o d.png", "d.png: is a folder"),
    "someone's file": (
        "sheet moth -o cut.png",
        "cut.png: already exists and was not written by Kivel, or was edited since; pass --force",
    ),
    "a path that climbs out": (
        "slice climbs.kivel.json -o o",
        "climbs.kivel.json: pages[0].maps.color.file: '../s.png'",
    ),
    "a frame out of range": (
        "preview frame.kivel.json -o o.gif",
        "clips[0].steps[11]: frame 12, there are 12 frames, 0-11",
    ),
    "a wrong version": ("inspect version.kivel.json", 'version.kivel.json: "version" is 9, this Kivel reads version 1'),
    "broken JSON": ("sheet json.kivel.json -o o.png", "json.kivel.json: broken JSON in line 4, column 3"),
    "a page that is gone": ("slice lost.kivel.json -o o", "gone.png: no such file or folder"),
    "no such file": ("sheet moht -o o.png", "moht: no such file or folder; did you mean moth?"),
    "no match": ("sheet moth/fly_#.png -o o.png", "moth/fly_#.png: no file matches"),
    "nothing in range": ("sheet moth --range 50-60 -o o.png", "no file has a number from 50 to 60; there are 1-12"),
    "what does not divide": (
        "slice s.png -o o --columns 5 --rows 3",
        "s.png: 18 px wide do not divide into 5 columns: 3 px left over",
    ),
    "too few cells": ("sheet moth -o o.png --columns 2 --rows 2", "12 frames do not fit into 2 columns x 2 rows"),
    "a small cell": ("sheet moth -o o.png --cell 4x4", "moth_1.png: 6x5 px does not fit a cell of 4x4"),
}


@pytest.mark.parametrize(("line", "words"), REFUSED.values(), ids=REFUSED)
def test_bad_input_is_refused_in_one_line_and_nothing_is_written(
    kivel: Kivel, broken: Path, line: str, words: str
) -> None:
    if "d.png" in line:
        (broken / "d.png").mkdir()
    before = files(broken)
    done = kivel(*line.split())
    assert done.code == 1
    errors = [text for text in done.err.splitlines() if text.startswith("error: ")]
    assert len(errors) == 1
    assert words in errors[0]
    assert files(broken) == before


def test_an_unreadable_file_is_named(kivel: Kivel, tmp_path: Path) -> None:
    write(tmp_path / "a.png", art(1))
    (tmp_path / "a.png").chmod(0)
    words = "a.png: no permission; check who owns it, or choose another place"
    if os.access(tmp_path / "a.png", os.R_OK):  # the superuser reads any file but this
        (tmp_path / "a.png").unlink()
        (tmp_path / "a.png").symlink_to("/proc/self/mem")
        words = "a.png: the disk reports an error; check the disk, or copy the file again"
    assert kivel("sheet", "a.png", "-o", "o.png") == (1, "", f"error: {words}\n")
    assert [path.name for path in tmp_path.iterdir()] == ["a.png"]


USAGE = {
    "no such command": ("shete", "unknown command 'shete'; did you mean sheet?"),
    "no output": ("sheet moth", "-o NAME.png is needed"),
    "a bad rate": ("sheet moth -o a.png --fps 0", "expected a rate above 0, like 12 or 24000/1001, found '0'"),
    "a bad hold": ("sheet moth -o a.png --hold soon", "like 80ms or 1/12s, found 'soon'"),
    "two clocks": ("sheet moth -o a.png --fps 2 --hold 2", "--hold cannot be combined with --fps"),
    "to stdout": ("export s.kivel.json --to table -o -", "results are files, and nothing is written to stdout"),
    "another suffix": ("sheet moth -o a.jpg", "ends in .png, found 'a.jpg'"),
    "another preview": ("preview moth -o a.avi", ".png, .apng, .gif, .webp, .mp4, .webm, .html, found 'a.avi'"),
    "a bad cell": ("sheet moth -o a.png --cell 4y", "like 64x64, found '4y'"),
    "a bad number": ("sheet moth -o a.png --gap -1", "whole number from 0 to 1,000,000, found '-1'"),
    "a grid for a manifest": ("slice s.kivel.json -o o --columns 2", "a manifest knows its cells"),
    "no such clip": ("preview s.kivel.json -o a.gif --clip fly", "there is no clip 'fly'; clips: s"),
    "give SRC: a folder": ("inspect", "give SRC: a folder"),
}


@pytest.mark.parametrize(("line", "words"), USAGE.values(), ids=USAGE)
def test_wrong_usage_is_exit_code_2(kivel: Kivel, moth: list[Pixels], line: str, words: str) -> None:
    if "s.kivel.json" in line:
        assert len(moth) == 12
        kivel("sheet", "moth", "-o", "s.png", "-q")
    done = kivel(*line.split())
    assert done.code == 2
    assert words in done.err


@pytest.mark.usefixtures("moth")
def test_files_that_kivel_wrote_are_replaced_until_someone_edits_them(kivel: Kivel, tmp_path: Path) -> None:
    assert kivel("sheet", "moth", "-o", "s.png").code == 0
    assert kivel("sheet", "moth", "-o", "s.png", "--gap", "1").out.count("(replaced)") == 2
    before = files(tmp_path)
    dry = kivel("sheet", "moth", "-o", "s.png", "--dry-run")
    assert dry.out.count("(replaced) (not written: --dry-run)") == 2
    assert files(tmp_path) == before
    write(tmp_path / "s.png", art(5, width=24, height=15))
    edited = kivel("sheet", "moth", "-o", "s.png")
    assert edited.code == 1
    assert (
        "\nerror: s.png: already exists and was not written by Kivel, or was edited since; pass --force to overwrite it"
        in edited.err
    )
    assert kivel("sheet", "moth", "-o", "s.png", "--force").code == 0
    manifest = tmp_path / "s.kivel.json"
    manifest.write_text(manifest.read_text().replace('"repeat": null', '"repeat": 3'))
    by_hand = kivel("sheet", "moth", "-o", "s.png", "--gap", "2")
    assert "s.kivel.json: was edited by hand; pass --force" in by_hand.err
    assert kivel("sheet", "s.kivel.json", "-o", "t.png").out.endswith("plays 3 times\n")
    (tmp_path / "a.kivel.json").write_text("someone else's, first in the folder, and not to be read")
    assert kivel("sheet", "moth", "-o", "t.png", "--gap", "3").out.count("(replaced)") == 2


@pytest.mark.usefixtures("moth")
def test_a_sheet_among_its_frames_can_be_made_again_and_no_preview_replaces_it(kivel: Kivel, tmp_path: Path) -> None:
    assert kivel("sheet", "moth", "-o", "moth/all.png", "--rows", "1").out == kivel(
        "sheet", "moth", "-o", "moth/all.png", "--rows", "1").out.replace(" (unchanged)", "")  # fmt: skip
    other = kivel("sheet", "moth", "-o", "other.png")
    assert (other.code, "skipped, sheets by their manifests: all.png" in other.err) == (0, True)
    before = files(tmp_path)
    for words in ([], ["--force"]):
        refused = kivel("preview", "moth/moth_#.png", "-o", "moth/all.png", *words)
        assert (refused.code, "moth/all.png: is a page of moth/all.kivel.json" in refused.err) == (1, True)
        assert "--force" not in refused.err
    assert files(tmp_path) == before


def test_a_name_that_is_not_utf_8_is_refused(kivel: Kivel, tmp_path: Path) -> None:
    write(tmp_path / "in/a.png", art(1))
    os.rename(tmp_path / "in/a.png", os.fsencode(tmp_path / "in") + b"/\xff.png")
    done = kivel("sheet", "in", "-o", "s.png")
    assert (done.code, done.err) == (1, "error: 'in/\\udcff.png': its name is not UTF-8; rename it\n")


@pytest.mark.usefixtures("moth")
def test_a_full_disk_leaves_the_old_files(tmp_path: Path) -> None:
    def little_room() -> None:
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (600, 600))

    subprocess.run(
        [PROGRAM, "slice", "moth/moth_1.png", "-o", "o", "--columns", "1", "--rows", "1", "-q"],
        cwd=tmp_path,
        check=True,
    )
    before = files(tmp_path)
    done = subprocess.run(
        [PROGRAM, "sheet", "moth", "-o", "o/s.png"],
        cwd=tmp_path,
        preexec_fn=little_room,
        capture_output=True,
        text=True,
        check=False,
    )
    assert (done.returncode, "o/s.png: larger than the largest file" in done.stderr) == (1, True)
    assert files(tmp_path) == before


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM], ids=lambda n: n.name)
def test_interrupted_it_cleans_up_and_says_so(tmp_path: Path, number: signal.Signals) -> None:
    for index in range(120):
        write(tmp_path / f"in/f{index}.png", art(index, width=256, height=256))
    before = files(tmp_path)
    running = subprocess.Popen(
        [PROGRAM, "sheet", "in", "-o", "s.png", "--compress", "small"], cwd=tmp_path, stderr=subprocess.PIPE, text=True
    )
    deadline = time.monotonic() + 30
    while not list(tmp_path.glob(".kivel-*/0")) and time.monotonic() < deadline:
        time.sleep(0.005)
    running.send_signal(number)
    _, err = running.communicate(timeout=60)
    assert (running.returncode, err) == (130, "interrupted; nothing was written\n")
    assert files(tmp_path) == before


INTERRUPTED_IN_A_DESTRUCTOR = """
import os, signal, sys
from kivel.cli.main import program

class Dying:
    def __del__(self):
        os.kill(os.getpid(), signal.SIGTERM)

once = [Dying()]

def opened(event, what):
    if event == "open" and str(what[0]).endswith(".png"):
        once.clear()

if "alone" in sys.argv:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
sys.addaudithook(opened)
sys.argv[1:] = ["sheet", "in", "-o", "s.png", "--compress", "small"]
program()
"""


@pytest.mark.parametrize("started", ["in a terminal", "alone"])
def test_an_interrupt_that_a_destructor_swallows_comes_again(tmp_path: Path, started: str) -> None:
    for index in range(120):
        write(tmp_path / f"in/f{index}.png", art(index, width=256, height=256))
    before = files(tmp_path)
    words = [sys.executable, "-c", INTERRUPTED_IN_A_DESTRUCTOR, started]
    done = subprocess.run(words, cwd=tmp_path, capture_output=True, text=True, check=False, timeout=60)
    assert (done.returncode, done.stderr) == (130, "interrupted; nothing was written\n")
    assert files(tmp_path) == before


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGINT])
def test_an_interrupt_that_a_library_makes_an_error_of_its_own_is_one(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, number: signal.Signals
) -> None:
    """As NumPy does while it is loaded."""

    def loaded(*_: object) -> int:
        try:
            os.kill(os.getpid(), number)
            time.sleep(5)
        except KeyboardInterrupt:
            raise ImportError("importing the C-extensions failed") from None
        return 0

    monkeypatch.setattr("kivel.cli.running.run_command", loaded)
    done = in_process(["inspect", "."], tmp_path)
    assert (done.code, done.err) == (130, "interrupted; nothing was written\n")
    monkeypatch.undo()
    assert in_process(["inspect", "nowhere"], tmp_path).code == 1, "the next one was not"


def test_whoever_calls_has_their_handlers_back_and_may_call_from_a_thread(tmp_path: Path) -> None:
    mine = [signal.getsignal(number) for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)]
    write(tmp_path / "owl.png", art(1))
    codes = [in_process(["sheet", "owl.png", "-o", "s.png"], tmp_path).code]
    thread = threading.Thread(target=lambda: codes.append(in_process(["inspect", "s.kivel.json"], tmp_path).code))
    thread.start()
    thread.join()
    assert codes == [0, 0]
    assert [signal.getsignal(number) for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)] == mine


def test_nothing_a_manifest_says_allocates_without_bound(kivel: Kivel, tmp_path: Path) -> None:
    write(tmp_path / "p.png", art(1))
    frame = {
        "name": "a",
        "source": "",
        "page": 0,
        "turn": 0,
        "rect": [0, 0, 6, 5],
        "canvas": [9**6, 9**6],
        "offset": [0, 0],
    }
    pages = [{"size": [6, 5], "maps": {"color": {"file": "p.png", "digest": ""}}}]
    content = {"format": "kivel-manifest", "version": 1, "pages": pages, "frames": [frame]}
    (tmp_path / "p.kivel.json").write_text(json.dumps(content))
    done = kivel("slice", "p.kivel.json", "-o", "o")
    assert (done.code, "frames[0].canvas: 531441x531441 px, more than the limit" in done.err) == (1, True)
    assert not (tmp_path / "o").exists()


def test_a_reader_that_leaves_early_is_no_error(tmp_path: Path) -> None:
    write(tmp_path / "a.png", art(1))
    done = subprocess.run(
        f"{PROGRAM} inspect a.png | true; echo ${{PIPESTATUS[0]}}",
        shell=True, executable=shutil.which("bash"), cwd=tmp_path, capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert (done.stdout, done.stderr) == ("0\n", "")


LED: dict[str, tuple[tuple[str, ...], str, str]] = {
    "a command": (("shete",), "unknown command 'shete'; did you mean sheet?", "kivel"),
    "nothing like it": (("zzz",), "unknown command 'zzz'", "kivel"),
    "an option": (
        ("sheet", "moth", "--colums", "3"),
        "unknown option --colums; did you mean --columns?",
        "kivel sheet",
    ),
    "with its value": (
        ("sheet", "--colums=3"),
        "unknown option --colums; did you mean --columns?",
        "kivel sheet",
    ),
    "no value": (("sheet", "moth", "--fps"), "--fps needs a value", "kivel sheet"),
    "no source": (("retime",), "MANIFEST is needed", "kivel retime"),
    "too many": (
        ("retime", "a.kivel.json", "b.png"),
        "'b.png' is unexpected; quote names with spaces",
        "kivel retime",
    ),
    "an empty source": (("sheet", "", "-o", "a.png"), "SRC: expected SRC, found nothing", "kivel sheet"),
    "an empty name": (("sheet", "moth", "-o", " "), "-o: expected NAME.png, found nothing", "kivel sheet"),
    "a value": (
        ("sheet", "moth", "-o", "a.png", "--compress", "zip"),
        "--compress: expected fast, small or least, found 'zip'",
        "kivel sheet",
    ),
}


@pytest.mark.parametrize(("words", "message", "command"), LED.values(), ids=LED)
def test_what_is_wrong_comes_first_and_then_how_to_get_help(
    kivel: Kivel, words: tuple[str, ...], message: str, command: str
) -> None:
    done = kivel(*words)
    assert (done.code, done.out) == (2, "")
    assert done.err == f"error: {message}\n{command} --help shows what there is\n"


def test_alone_it_greets(kivel: Kivel) -> None:
    done = kivel()
    assert (done.code, done.err) == (0, "")
    assert "Start with: kivel demo" in done.out
    assert kivel("-V").out == kivel("--version").out


@pytest.mark.usefixtures("moth")
def test_a_sheet_stands_for_the_manifest_that_knows_it(kivel: Kivel, tmp_path: Path) -> None:
    kivel("sheet", "moth", "-o", "s.png", "--page-limit", "18x10")
    assert kivel("retime", "s-1.png", "--fps", "4").code == 0
    assert '"set": ["holds"]' in (tmp_path / "s.kivel.json").read_text()
    assert kivel("timeline", "s-0.png", "--at", "0").out == kivel("timeline", "s.kivel.json", "--at", "0s").out
    looked_at = kivel("inspect", "s-0.png")
    assert looked_at.out == kivel("inspect", "s.kivel.json").out
    assert looked_at.err == "note: s-0.png: a page of s.kivel.json, which is inspected\n"
    write(tmp_path / "alone.png", art(1))
    assert "alone.png: no manifest beside it describes it" in kivel("retime", "alone.png", "--fps", "4").err


KEPT = {
    "frames into their own folder": ("prep moth --step 'pad 1' -o moth", "these frames come from there"),
    "by a pattern": ("resample moth/moth_#.png --count 3 -o ./moth", "these frames come from there"),
    "a layer's folder": ("layer moth moth -o moth", "these frames come from there"),
    "a sheet's manifest": ("slice s.kivel.json -o .", "s.kivel.json: is an input of this command"),
    "the same by a grid": ("slice s.png --cell 6x5 -o . --force", "s.kivel.json: is an input of this command"),
    "a sheet of itself": ("sheet s.kivel.json -o s.png --gap 1", "s.png: is an input of this command"),
    "a frame": ("sheet moth/moth_1.png -o moth/moth_1.png --force", "moth/moth_1.png: is an input of this command"),
    "a picture of a frame": ("preview moth -o moth/moth_1.png --force", "moth/moth_1.png: is an input of this command"),
    "a page": ("preview moth -o s.png --force", "s.png: is a page of s.kivel.json"),
    "a chart on a page": ("inspect moth --chart s.png --force", "s.png: is a page of s.kivel.json"),
    "a pipe": ("sheet moth -o pipe.png", "pipe.png: is a pipe or a device"),
    "a pipe, dry": ("sheet moth -o pipe.png --dry-run", "pipe.png: is a pipe or a device"),
    "from a pipe": ("sheet pipe.png -o o.png", "pipe.png: is a pipe or a device"),
    "a link to nothing": ("sheet moth -o link.png", "link.png: is a broken link to"),
}


@pytest.mark.usefixtures("moth")
@pytest.mark.parametrize(("line", "message"), KEPT.values(), ids=KEPT)
def test_nothing_that_is_read_or_belongs_to_a_set_is_overwritten(
    kivel: Kivel, tmp_path: Path, line: str, message: str
) -> None:
    assert kivel("sheet", "moth", "-o", "s.png").code == 0
    os.mkfifo(tmp_path / "pipe.png")
    (tmp_path / "link.png").symlink_to("nowhere.png")
    before = {path: path.read_bytes() for path in tmp_path.rglob("*") if path.is_file()}
    done = kivel(*shlex.split(line))
    assert (done.code, message in done.err) == (1, True), done.err
    assert "--force" not in done.err
    assert {path: path.read_bytes() for path in tmp_path.rglob("*") if path.is_file()} == before


SHEETS_AMONG = ("moth", "moth/*.png", "moth/*#.png", "**/*.png")


@pytest.mark.usefixtures("moth")
@pytest.mark.parametrize("source", SHEETS_AMONG)
def test_a_sheet_among_frames_is_never_taken_for_one(kivel: Kivel, tmp_path: Path, source: str) -> None:
    first = kivel("sheet", "moth", "-o", "moth/moth_99.png", "--page-limit", "20x15")
    assert (first.code, (tmp_path / "moth/moth_99-1.png").exists()) == (0, True)
    kivel("atlas", "moth/moth_1.png", "-o", "moth/one.png", "--no-trim")
    os.mkfifo(tmp_path / "moth/pipe.png")
    done = kivel("inspect", source, "--json")
    assert json.loads(done.out)["count"] == 12
    assert any("sheets by their manifests: moth_99-0.png" in note for note in json.loads(done.out)["notes"])
    assert kivel("inspect", "moth/moth_99-0.png", "moth/moth_99-1.png").code == 0, "named alone they are wanted"
    listed = kivel("inspect", *sorted(str(path) for path in (tmp_path / "moth").glob("*_*.png")), "--json")
    assert json.loads(listed.out)["count"] == 12


@pytest.mark.usefixtures("moth")
def test_a_repainted_page_is_taken_and_said_and_another_size_refused(kivel: Kivel, tmp_path: Path) -> None:
    kivel("sheet", "moth", "-o", "s.png", "--columns", "4")
    page = read(tmp_path / "s.png").copy()
    page[0, 0] = (1, 2, 3, 255)
    write(tmp_path / "s.png", page)
    for line in ("slice s.kivel.json -o o", "preview s.kivel.json -o p.apng", "resample s.kivel.json --count 3 -o r"):
        done = kivel(*line.split())
        assert (done.code, done.err.count("s.png: edited since Kivel wrote it")) == (0, 1), line
    assert np.array_equal(read(tmp_path / "o/s_0000.png")[0, 0], (1, 2, 3, 255))
    write(tmp_path / "s.png", page[:-1])
    done = kivel("slice", "s.kivel.json", "-o", "again")
    assert (done.code, "s.png: 24x14 px, its manifest says 24x15" in done.err) == (1, True)


@pytest.mark.usefixtures("moth")
def test_what_was_edited_by_hand_stays_marked_when_it_is_retimed(kivel: Kivel, tmp_path: Path) -> None:
    kivel("sheet", "moth", "-o", "s.png")
    path = tmp_path / "s.kivel.json"
    path.write_text(path.read_text().replace('"repeat": null', '"repeat": 3'))
    assert kivel("retime", "s.kivel.json", "--hold", "80ms").code == 0
    assert '"repeat": 3' in path.read_text()
    refused = kivel("sheet", "moth", "-o", "s.png", "--fps", "10")
    assert (refused.code, "s.kivel.json: was edited by hand; pass --force to replace it" in refused.err) == (1, True)


TEXTS = {
    "kivel.toml": '[make.it]\nfrom = "moth"\nsheet = { out = "it.png" }\n',
    "p.toml": 'format = "kivel-profile"\nversion = 1\n[[output]]\nfile = "a.txt"\ntemplate_file = "a.tmpl"\n',
    "a.tmpl": "{{ sheet.name }}",
    "s.kivel.json": "",
}


@pytest.mark.usefixtures("moth")
@pytest.mark.parametrize("name", TEXTS)
def test_a_text_may_begin_with_a_byte_order_mark_and_be_of_utf_8_alone(kivel: Kivel, tmp_path: Path, name: str) -> None:
    lines = {"kivel.toml": ("build",), "s.kivel.json": ("inspect", "s.kivel.json")}
    line = lines.get(name, ("export", "s.kivel.json", "--profile", "p.toml", "-o", "pack"))
    kivel("sheet", "moth", "-o", "s.png")
    for other, text in TEXTS.items():
        if text:
            (tmp_path / other).write_text(text)
    plain = (tmp_path / name).read_bytes()
    (tmp_path / name).write_bytes(b"\xef\xbb\xbf" + plain)
    assert kivel(*line).code == 0
    if (tmp_path / "pack").exists():
        assert (tmp_path / "pack/a.txt").read_text() == "s"
    (tmp_path / name).write_bytes(b"\xff" + plain)
    done = kivel(*line)
    assert (done.code, "UTF-8" in done.err, name in done.err) == (1, True, True)
