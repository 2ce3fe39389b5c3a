"""Again, as it was made: what made a manifest once more, some options replaced."""

from __future__ import annotations

import contextlib
import json
import random
import shlex
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.making.options.again_options import AGAIN_COMMANDS
from program import art, files, in_process, write


@pytest.fixture
def place(tmp_path: Path) -> Iterator[Path]:
    """`owl/`, its `mask`, a sheet of both to be sliced or adopted."""
    project = tmp_path / "project"
    for number in range(6):
        write(project / f"owl/owl_{number}.png", art(number, width=12, height=10))
        write(project / f"mask/owl_{number}.png", np.full((10, 12, 4), 255, np.uint8))
    with contextlib.chdir(project):
        kivel.sheet("owl", out="old.png", columns=3)
        yield project


def run(line: str, folder: Path) -> None:
    done = in_process(shlex.split(line), folder)
    assert done.code == 0, (line, done.err)


MADE: dict[str, tuple[str, str]] = {
    "sheet": (
        "sheet owl -o s.png --layout row --fps 9 --make-clip blink=1-3 --repeat 3 --repeat blink:2",
        "s.kivel.json",
    ),
    "a sheet in a folder": ("sheet owl -o out/s.png --map mask=mask --hold 80ms --fold", "out/s.png"),
    "atlas": ("atlas owl -o a.png --turn --outline 6 --effort quick --make-group all=*", "a.kivel.json"),
    "adopt": ("adopt old.png --columns 3 --rows 2 --row-clips up,down --fps 8", "old.kivel.json"),
    "slice": ("slice old.png -o cut --columns 3 --rows 2 --row-clips a,b", "cut"),
    "prep": ("prep owl -o p --step trim --step 'distort by=mask/owl_0.png strength=1'", "p"),
    "resample": ("resample owl -o r --count 9 --mix --pace ease-in", "r/r.kivel.json"),
    "layer": ("layer owl 'mask opacity=0.5' -o y", "y"),
    "loop": ("loop owl -o l --close 2", "l"),
    "channels": ("channels --red owl:alpha --green mask/owl_0.png:brightness --blue 0.25 -o c", "c"),
    "scroll": ("scroll 'owl/owl_0.png scroll=1,0 by=mask/owl_0.png' -o d --count 4", "d"),
}
"""Command lines, and what is named to have them done again."""
REPLACED: dict[str, tuple[str, str, str]] = {
    "one": ("sheet owl -o s.png --gap 2 --fps 12", "--gap 5", "sheet owl -o s.png --gap 5 --fps 12"),
    "what contradicts it": ("sheet owl -o s.png --fps 12", "--hold 50ms", "sheet owl -o s.png --hold 50ms"),
    "a flag more": ("atlas owl -o a.png", "--turn --effort quick", "atlas owl -o a.png --turn --effort quick"),
    "another place": ("sheet owl -o s.png --gap 2", "-o t.png", "sheet owl -o t.png --gap 2"),
    "all of many": (
        "sheet owl -o s.png --make-clip a=0-1 --make-clip b=2-3", "--make-clip c=4",
        "sheet owl -o s.png --make-clip c=4",
    ),
    "steps": ("prep owl -o p --step trim", "--step 'pad 3'", "prep owl -o p --step 'pad 3'"),
}  # fmt: skip


@pytest.mark.parametrize(("line", "target"), MADE.values(), ids=MADE)
def test_it_is_made_byte_for_byte_from_wherever_it_is_asked_for(place: Path, line: str, target: str) -> None:
    if line.startswith("adopt"):
        Path("old.kivel.json").unlink()
    run(line, place)
    before = files(place)
    for folder, name in ((place, target), (place.parent, f"project/{target}")):
        run(f"again {name}", folder)
        assert files(place) == before
    assert [name for name in files(place.parent) if not name.startswith("project/")] == []


@pytest.mark.parametrize(("first", "more", "whole"), REPLACED.values(), ids=REPLACED)
def test_an_option_that_is_stated_replaces_itself_alone(place: Path, first: str, more: str, whole: str) -> None:
    shutil.copytree(place, place.parent / "anew")
    run(first, place)
    made = set(files(place))
    run(f"again {shlex.split(first)[3]} {more}", place)
    run(whole, place.parent / "anew")
    anew = files(place.parent / "anew")
    assert {name: data for name, data in files(place).items() if name in anew} == anew
    assert set(files(place)) - made <= set(anew)


def test_a_repainted_frame_comes_in_and_what_was_set_stays(place: Path) -> None:
    kivel.sheet("owl", out="s.png", layout="row", fps=12)
    kivel.retime("s.kivel.json", direction="alternate", event=["1:hoot"])
    write(place / "owl/owl_2.png", art(77, width=12, height=10))
    write(place / "owl/owl_6.png", art(78, width=12, height=10))
    made = kivel.again("s.png", gap=1)
    (clip,) = made.manifest.clips
    assert (clip.direction, [event.name for event in clip.events]) == ("alternate", ["hoot"])
    assert (made.manifest.grid.rows, made.manifest.grid.columns, made.manifest.grid.gap) == (1, 7, (1, 1))


def test_random_sheets_are_made_again(place: Path) -> None:
    """Of options drawn together; those that contradict each other are left out."""
    chance = random.Random(5)
    options: list[Callable[[], str]] = [
        lambda: f"--gap {chance.randint(0, 4)}", lambda: f"--margin {chance.randint(0, 3)}",
        lambda: f"--columns {chance.randint(1, 6)}", lambda: f"--fps {chance.randint(1, 60)}",
        lambda: f"--order {chance.choice(('5-0', '0-3,2-1', '2*3'))}", lambda: "--skirt 1", lambda: "--pow2",
        lambda: f"--direction {chance.choice(('reverse', 'alternate'))}", lambda: f"--phase {chance.randint(0, 1)}",
        lambda: f"--compress {chance.choice(('small', 'fast'))}", lambda: "--event 0:hoot", lambda: "--fold",
    ]  # fmt: skip
    tried = 0
    for number in range(25):
        line = f"sheet owl -o {number}.png {' '.join(one() for one in chance.sample(options, chance.randint(0, 5)))}"
        if in_process(shlex.split(line), place).code:
            continue
        before, tried = files(place), tried + 1
        run(f"again {number}.kivel.json", place)
        assert files(place) == before, line
    assert tried > 12


OTHERWISE: dict[str, tuple[str, str, str | None]] = {
    "left out": ("--layout row --hold 120ms", "", "s.kivel.json: last time it was made with --layout row --hold 120ms"),
    "another value": ("--gap 2", "--gap 3", "s.kivel.json: last time it was made with --gap 2"),
    "stated now": ("", "--gap 3 --pow2", "s.kivel.json: last time it was made without --gap 3 --pow2"),
    "both": ("--fps 12", "--hold 2", "s.kivel.json: last time it was made with --fps 12, without --hold 2"),
    "some of many": (
        "--make-clip a=0 --make-clip b=1", "--make-clip a=0",
        "s.kivel.json: last time it was made with --make-clip a=0 --make-clip b=1",
    ),
    "the same": ("--gap 2 --fps 12", "--fps 12 --gap 2", None),
    "a default": ("", "--gap 0", None),
}  # fmt: skip


@pytest.mark.parametrize(("first", "then", "note"), OTHERWISE.values(), ids=OTHERWISE)
def test_what_is_asked_for_otherwise_than_last_time_is_told(
    place: Path, first: str, then: str, note: str | None
) -> None:
    """Once: then it is as it was last time."""
    run(f"sheet owl -o s.png {first}", place)
    for told in ([note] if note else [], []):
        done = in_process(shlex.split(f"sheet owl -o s.png {then}"), place)
        assert [line for line in done.err.splitlines() if "last time" in line] == [f"note: {line}" for line in told]
    assert "last time" not in in_process(["atlas", "owl", "-o", "s.png"], place).err
    kivel.sheet("owl", out="t.png", gap=1)
    assert "last time" not in in_process(["again", "t.png", "--gap", "2"], place).err


def edited(change: Callable[[dict[str, Any]], Any]) -> str:
    """A manifest that says something else of how it was made."""
    content = json.loads(Path("old.kivel.json").read_text())
    change(content)
    Path("odd.kivel.json").write_text(json.dumps(content))
    return "odd.kivel.json"


ODD: dict[str, tuple[Callable[[dict[str, Any]], Any], str]] = {
    "nothing": (lambda c: c.pop("made"), "does not say how it was made"),
    "another command": (lambda c: c["made"].update(command="export"), "was made by 'export', not by sheet"),
    "an option": (lambda c: c["made"]["options"].update(colums=3), "sheet has no option 'colums' here; did you mean"),
    "a value": (lambda c: c["made"]["options"].update(columns="x"), "columns"),
    "a value of a kind": (lambda c: c["made"]["options"].update(columns={"a": 1}), "columns"),
    "out above": (lambda c: c["made"]["options"].update(out="../far.png"), "leads out of its folder; run the command"),
    "out from the root": (lambda c: c["made"]["options"].update(out="/far/away.png"), "leads out of its folder"),
    "out by a detour": (lambda c: c["made"]["options"].update(out="a/../../far.png"), "leads out of its folder"),
    "what is never kept": (
        lambda c: c["made"]["options"].update(force=True),
        "sheet has no option 'force' here(?!.*did you mean 'force)",
    ),
    "another sheet": (lambda c: c["made"]["options"].update(into="../s.kivel.json"), "sheet has no option 'into' here"),
    "regions that are found again": (
        lambda c: c.update(made={"command": "slice", "options": {"sources": ["old.png"], "find-again": True}}),
        "slice has no option 'find-again' here",
    ),
    "a picture elsewhere": (
        lambda c: c.update(made={"command": "adopt", "options": {"sources": ["../far.png"], "columns": 3}}),
        r"made.options.sources: '../far.png' leads out of its folder",
    ),
    "out on a drive": (lambda c: c["made"]["options"].update(out="c:far.png"), "leads out of its folder"),
}


@pytest.mark.parametrize(("change", "words"), ODD.values(), ids=ODD)
def test_what_a_manifest_cannot_say_is_refused(place: Path, change: Callable[..., Any], words: str) -> None:
    target = edited(change)
    before = files(place.parent)
    with pytest.raises(kivel.KivelError, match=words):
        kivel.again(target)
    assert files(place.parent) == before


@pytest.mark.parametrize("command", ["sheet", "prep"])
def test_a_link_that_came_along_leads_nowhere(place: Path, command: str) -> None:
    """A folder of the manifest's that is a link to another's, forced or not."""
    (place.parent / "home").mkdir()
    (place / "out").symlink_to("../home")
    out = "out/s.png" if command == "sheet" else "out"
    options: dict[str, Any] = {"sources": ["owl"], "out": out, **({"step": ["trim"]} if command == "prep" else {})}
    target = edited(lambda content: content.update(made={"command": command, "options": options}))
    for more in ([], ["--force"]):
        done = in_process(["again", target, *more], place)
        assert (done.code, "leads out of its folder" in done.err) == (1, True)
    assert files(place.parent / "home") == {}


@pytest.mark.parametrize("command", AGAIN_COMMANDS)
def test_without_a_place_nothing_is_written_elsewhere(place: Path, command: str) -> None:
    write(place.parent / "far.png", art(3, width=36, height=20))
    first = {"layer": "base", "scroll": "tiles", "channels": "red"}.get(command, "sources")
    alone = command in ("layer", "channels")
    source: Any = ["../far.png scroll=1,0"] if command == "scroll" else "../far.png" if alone else ["../far.png"]
    target = edited(lambda content: content.update(made={"command": command, "options": {first: source}}))
    before = {name: data for name, data in files(place.parent).items() if not name.startswith("project/")}
    in_process(["again", target], place)
    in_process(["again", "project/" + target], place.parent)
    assert {name: data for name, data in files(place.parent).items() if not name.startswith("project/")} == before


WRONG = {
    "an option": (
        "again old.png --colums 3",
        "unknown option --colums; did you mean --columns?\nkivel sheet --help",
    ),
    "a word": ("again old.png --gap 1 more", "error: 'more' is unexpected"),
    "the target behind": ("again --gap 1 old.png", "error: TARGET comes first, then --gap"),
    "a folder of nothing": ("again owl", "error: owl: no manifest in it says how it was made"),
    "several": ("again .", "it holds several manifests: old.kivel.json, other.kivel.json; name one"),
    "nothing there": ("again no.png", "error: no.png: "),
    "an image of nobody": ("again owl/owl_0.png", "no manifest beside it describes it"),
}


@pytest.mark.parametrize(("line", "words"), WRONG.values(), ids=WRONG)
def test_what_cannot_be_done_again_is_told(place: Path, line: str, words: str) -> None:
    kivel.sheet("owl", out="other.png")
    done = in_process(shlex.split(line), place)
    assert done.code in (1, 2)
    assert words in done.err


@pytest.mark.usefixtures("place")
def test_python_names_an_option_as_python_does() -> None:
    with pytest.raises(kivel.KivelError, match="unknown option 'make_clips'; did you mean 'make_clip'"):
        kivel.again("old.png", make_clips="a=0-1")
    assert [clip.name for clip in kivel.again("old.png", make_clip={"a": "0-1"}).manifest.clips] == ["old", "a"]
