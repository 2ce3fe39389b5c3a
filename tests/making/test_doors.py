"""The command line and Python do the same work."""

from __future__ import annotations

import contextlib
import re
import shlex
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.cli.arguments import command_line
from kivel.core.errors import python_name
from kivel.making.commands import COMMANDS, command
from program import art, files, in_process, read, write

SHEET = {"sources": ["moth"], "out": "s.png"}
CASES: dict[str, tuple[str, dict[str, Any]]] = {
    "inspect": ("inspect", {"sources": ["moth"], "chart": "c.png"}),
    "prep": ("prep", {"sources": ["moth"], "out": "p", "step": ["trim", "distort by=moth/moth_1.png strength=1"]}),
    "loop": ("loop", {"sources": ["moth"], "out": "l", "close": 2, "find": "4-5", "pick": 2}),
    "layer": ("layer", {"base": "moth", "over": ["moth opacity=0.5", "moth/moth_2.png blend=screen"], "out": "y"}),
    "scroll": ("scroll", {"tiles": ["moth/moth_1.png scroll=1,0 by=moth/moth_2.png"], "out": "d", "count": 4}),
    "channels": ("channels", {"red": "moth:alpha", "green": "moth", "blue": "0.5", "out": "c"}),
    "resample": ("resample", {"sources": ["moth"], "out": "r", "count": 5, "mix": True, "pace": "ease-in"}),
    "plan": ("plan", {"sources": ["moth"], "fit-page": "32x32"}),
    "sheet": ("sheet", SHEET | {"layout": "row", "fps": "24000/1001", "make-clip": ["a=0-2", "b=3*2"]}),
    "a sheet by the grid": ("sheet", SHEET | {"columns": 3, "gap": 2, "map": ["mask=moth"], "map-scale": ["mask=1/1"]}),
    "a folded sheet": ("sheet", SHEET | {"fold": True, "hold": 2, "repeat": 3}),
    "into": ("sheet", {"sources": ["moth/moth_1.png"], "into": "old.kivel.json"}),
    "again": ("again", {"target": "old.kivel.json"}),
    "atlas": ("atlas", {"sources": ["moth"], "out": "a.png", "turn": True, "outline": 6, "effort": "quick"}),
    "slice": ("slice", {"sources": ["old.kivel.json"], "out": "cut", "row-clips": ["x", "y", "z"]}),
    "slice by a grid": ("slice", {"sources": ["old.png"], "out": "cut", "columns": 5, "rows": 3, "empty": "drop"}),
    "adopt": ("adopt", {"sources": ["plain.png"], "columns": 5, "rows": 3, "names": "a_{number}", "repeat": 2}),
    "retime": ("retime", {"manifest": "old.kivel.json", "order": "0-3,2-1", "event": ["1:chirp"], "phase": "25%"}),
    "timeline": ("timeline", {"manifest": "old.kivel.json", "for": "1s"}),
    "export": ("export", {"manifests": ["old.kivel.json"], "out": "t.json", "half-texel": True}),
    "profile": ("profile", {"action": "new", "file": "t.toml", "example": "tiles"}),
    "a pack": ("export", {"manifests": ["old.kivel.json"], "profile": "tiles.toml", "out": "pack"}),
    "check": ("check", {"sources": ["old.kivel.json"], "plays": "moth", "ignore": ["fringe"]}),
    "preview": ("preview", {"sources": ["old.kivel.json"], "out": "v.apng", "scale": 2}),
    "build": ("build", {"things": ["it"], "keep-going": True}),
    "a preview of layout": ("preview", {"sources": ["old.kivel.json"], "out": "v.png", "view": "layout"}),
}  # fmt: skip
CASES["slice"][1]["row-clips"] = "x,y,z"
FRAMES = [art(number) for number in range(1, 12)]


@pytest.fixture(scope="module")
def place(tmp_path_factory: pytest.TempPathFactory) -> Callable[[str], Path]:
    """A folder with frames and a sheet that was made of them, laid out anew under each name."""
    root = tmp_path_factory.mktemp("doors")

    def laid(name: str) -> Path:
        folder = root / name
        for number, frame in enumerate(FRAMES, 1):
            write(folder / f"moth/moth_{number}.png", frame)
        with contextlib.chdir(folder):
            kivel.sheet("moth", out="old.png", columns=5)
            write(folder / "plain.png", read(folder / "old.png"))
            kivel.profile("new", "tiles.toml", example="regions")
        (folder / "kivel.toml").write_text('[make.it]\nfrom = "moth"\nsheet = { out = "b.png" }\n')
        return folder

    return laid


def in_python(name: str, options: dict[str, Any], **more: Any) -> Any:
    """The same options as keywords, sources as arguments."""
    declared = command(name).options.declared()
    sources: list[Any] = []
    for key, value in options.items():
        if declared[key].positional:
            sources += value if isinstance(value, list) else [value]
    words = {python_name(key): value for key, value in options.items() if not declared[key].positional}
    return getattr(kivel, name)(*sources, **words, **more)


@pytest.mark.parametrize(("name", "options"), CASES.values(), ids=CASES)
def test_both_doors_write_the_same_bytes(place: Callable[[str], Path], name: str, options: dict[str, Any]) -> None:
    case = next(key for key, value in CASES.items() if value[1] is options)
    by_words, by_call = place(f"{case}/words"), place(f"{case}/call")
    done = in_process(shlex.split(command_line(name, command(name).options, options))[1:], by_words)
    assert done.code == 0, done.err
    with contextlib.chdir(by_call):
        made = in_python(name, options)
    # what is known of a build has the times of files in it
    first, second = (
        {name: data for name, data in files(folder).items() if ".kivel/" not in name} for folder in (by_words, by_call)
    )
    assert first == second
    written = {file.path for file in getattr(made, "files", ())}
    assert bool(written) == (name not in ("plan", "timeline", "check", "build"))


def test_every_command_but_the_terminal_has_both_doors() -> None:
    assert {name for name, _ in CASES.values()} == set(COMMANDS) - {"play"}
    assert all(callable(getattr(kivel, name)) for name in COMMANDS if name != "play")


NUMBERS = {
    "a whole number from 0": {"page", "seed", "stagger-seed"},
    "a whole number from 0 to 1,000,000": {"gap", "margin", "skirt"},
    "a whole number from 0 to 1,000": {"join"},
    "a whole number from 0 to 12": {"mips"},
    "a whole number from 0 to 65,535": {"port"},
    "a whole number from 0 to 255": {"tolerance"},
    "a whole number from 1": {"budget", "max-pixels", "close", "levels", "pick"},
    "a whole number from 1 to 1,000": {"inbetween"},
    "a whole number from 1 to 1,024": {"jobs"},
    "a whole number from 1 to 100,000": {"stagger"},
    "a whole number from 2 to 256": {"colors"},
    "a whole number from 1 to 10,000": {"count", "instances"},
    "a whole number from 1 to 1,000,000": {"columns", "rows", "multiple-of", "least"},
    "a whole number from 1 to 12": {"mip-safe"},
    "a whole number from 3 to 64": {"outline"},
    "a whole number from 0 to 254": {"visible-above"},
    "a number from 0 to 1": {"opacity"},
    "a number from 0.01 to 255": {"error"},
    "a number from -32 to 32": {"exposure"},
}


def test_numbers_stay_within_what_means_something() -> None:
    found: dict[str, set[str]] = {}
    for name, declared in (item for each in COMMANDS for item in command(each).options.declared().items()):
        try:
            declared.kind.read("-99999")
        except kivel.KivelError as error:
            said = re.fullmatch(r"expected (a(?: whole)? number from .*), found .*", str(error))
            if said:
                found.setdefault(said[1], set()).add(name)
    assert found == NUMBERS


IN_MEMORY = [name for name, (command, options) in CASES.items() if "out" in options and command != "export"]


@pytest.mark.parametrize("case", IN_MEMORY)
def test_what_stays_in_memory_is_what_would_be_written(place: Callable[[str], Path], case: str) -> None:
    name, options = CASES[case]
    folder = place(f"{case}/memory")
    before = files(folder)
    with contextlib.chdir(folder):
        made = in_python(name, {key: value for key, value in options.items() if key != "out"})
        assert files(folder) == before
        in_python(name, options)
    if name == "preview":
        assert made.images[0].shape[2] == 4
        return
    written = sorted(path for path in folder.rglob("*.png") if path.relative_to(folder).as_posix() not in before)
    assert len(made.images) == len(written)
    for image, path in zip(made.images.values(), written, strict=True):
        assert np.array_equal(image, read(path))


def test_arrays_go_in_and_come_out(tmp_path: Path) -> None:
    made = kivel.sheet(frames=FRAMES, columns=4, fps=10)
    sheet = made.images["frames.png"]
    assert sheet.shape == (15, 24, 4)
    assert np.array_equal(sheet[:5, 6:12], FRAMES[1])
    assert made.manifest.made is None  # nobody can make it again by a command
    kivel.sheet(frames=FRAMES, out=tmp_path / "moth.png", columns=4)
    back = kivel.slice(tmp_path / "moth.kivel.json")
    assert all(np.array_equal(a, b) for a, b in zip(back.images.values(), FRAMES, strict=True))
    assert next(iter(back.images)) == "moth_0000.png"


WRONG = {
    "a keyword": (("moth",), {"layuot": "row"}, "unknown option 'layuot'; did you mean 'layout'?"),
    "a value": (("moth",), {"page_limit": "big"}, "page_limit=: expected WIDTHxHEIGHT in pixels"),
    "a type": (("moth",), {"columns": True}, "columns=: expected N, found True"),
    "a source that is none": ((3.5,), {}, "SRC: expected SRC, found 3.5"),
    "bytes": ((b"moth",), {}, "SRC: expected SRC, found b'moth'"),
    "no arrays": ((), {"frames": "moth"}, "frames=: expected arrays of images, (height, width, 4)"),
    "a shape": ((), {"frames": [np.zeros((2, 2))]}, "expected an array of shape (height, width, 4), found (2, 2)"),
    "an object": (("moth",), {"layout": object()}, "layout=: expected grid|row|column, found <object"),
    "too many": (("moth",), {"range": "1-2-3"}, "range=: expected FIRST-LAST, like 20-83"),
    "excluding each other": (("moth",), {"fps": 12, "hold": 2}, "hold= cannot be combined with fps="),
    "one without another": (("moth",), {"skirt_wrap": True}, 'skirt_wrap=True needs skirt="N"'),
    "nothing": ((), {}, "give SRC or frames=: a folder, files"),
    "what is missing": (("owl",), {}, "owl: no such file or folder"),
    "a limit": (("moth",), {"max_pixels": 4}, "more than the limit of 4 pixels; if that is intended, pass max_pixels="),
}  # fmt: skip


@pytest.mark.parametrize(("sources", "options", "message"), WRONG.values(), ids=WRONG)
def test_errors_speak_python(
    place: Callable[[str], Path], sources: tuple[str, ...], options: dict[str, Any], message: str
) -> None:
    with contextlib.chdir(place("wrong")), pytest.raises(kivel.KivelError) as error:
        kivel.sheet(*sources, **options)
    assert message in str(error.value)
    assert "--" not in str(error.value)


def test_whoever_watches_is_told_and_may_stop_the_work(tmp_path: Path) -> None:
    seen: list[Any] = []
    write(tmp_path / "in/a_1.png", art(1))
    write(tmp_path / "in/a_3.png", art(3))
    made = kivel.sheet(tmp_path / "in", out=tmp_path / "s.png", watch=seen.append)
    assert [event.text for event in seen if isinstance(event, kivel.Note)] == list(made.notes)
    assert any("numbers missing: 2" in note for note in made.notes)
    read_frames = [event for event in seen if isinstance(event, kivel.Progress) and event.what == "reading frames"]
    assert [event.done for event in read_frames] == [0, 1, 2]
    before = files(tmp_path)

    def stop(event: Any) -> None:
        if isinstance(event, kivel.Progress) and event.done:
            raise kivel.Cancelled

    with pytest.raises(kivel.Cancelled, match="nothing was written"):
        kivel.sheet(tmp_path / "in", out=tmp_path / "s.png", gap=1, watch=stop)
    assert files(tmp_path) == before


def test_two_threads_at_a_time_make_what_one_does() -> None:
    alone = kivel.atlas(frames=FRAMES, effort="quick").images["frames.png"]
    found: list[Any] = []
    threads = [
        threading.Thread(target=lambda: found.append(kivel.atlas(frames=FRAMES, effort="quick").images["frames.png"]))
        for _ in range(4)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(found) == 4
    assert all(np.array_equal(one, alone) for one in found)
