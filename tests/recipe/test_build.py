"""A recipe makes what the commands make, what changed and no more; what it may not say it tells by line."""

from __future__ import annotations

import contextlib
import json
import os
import random
import re
import shutil
import subprocess
import sys
import time
import tomllib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from recipes import chain, draw_moth_and_owl, made_files, recipe

import kivel
from kivel.core.errors import KivelError
from kivel.demo.recipe_text import RECIPE_TEXT
from kivel.recipe import stamps
from kivel.recipe.planning import tasks_of
from kivel.recipe.recipe_file import read_recipe
from kivel.recipe.things import RECIPE_COMMANDS
from program import PROGRAM, art, in_process, read, write


def built(*names: str, **options: Any) -> dict[str, str]:
    """What became of each task."""
    made = kivel.build(*names, **options)
    assert not made.failed, [one.error for one in made.outcomes]
    return {one.task.name: one.state for one in made.outcomes}


def done(*names: str, **options: Any) -> set[str]:
    return {name for name, state in built(*names, **options).items() if state == "built"}


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    draw_moth_and_owl(tmp_path)
    with contextlib.chdir(tmp_path):
        yield tmp_path


SHEET: dict[str, Any] = {"out": "s.png", "fps": 12}
BY_HAND: dict[str, tuple[dict[str, Any], Callable[[], Any]]] = {
    "prep": ({"prep": {"step": ["trim", "opacity 0.5"], "out": "p"}},
             lambda: kivel.prep("moth", step=["trim", "opacity 0.5"], out="p")),
    "resample": ({"resample": {"count": 9, "mix": True, "out": "r"}},
                 lambda: kivel.resample("moth", count=9, mix=True, out="r")),
    "loop": ({"loop": {"close": 2, "out": "l"}}, lambda: kivel.loop("moth", close=2, out="l")),
    "layer": ({"layer": {"over": ["owl opacity=0.5"], "out": "y"}},
              lambda: kivel.layer("moth", "owl opacity=0.5", out="y")),
    "scroll": ({"from": "moth/moth_1.png", "scroll": {"tiles": "moth/moth_1.png scroll=1,0", "count": 4, "out": "d"}},
              lambda: kivel.scroll("moth/moth_1.png scroll=1,0", count=4, out="d")),
    "channels": ({"channels": {"green": "owl:brightness", "out": "c"}},
                 lambda: kivel.channels(red="moth", green="owl:brightness", out="c")),
    "sheet": ({"sheet": {**SHEET, "make-clip": ["a=0-2"], "map": ["mask=owl"]}},
              lambda: kivel.sheet("moth", **SHEET, make_clip=["a=0-2"], map=["mask=owl"])),
    "atlas": ({"atlas": {"out": "a.png", "turn": True, "effort": "quick"}},
              lambda: kivel.atlas("moth", out="a.png", turn=True, effort="quick")),
    "slice": ({"sheet": SHEET, "slice": {"sources": "s.kivel.json", "out": "cut"}},
              lambda: (kivel.sheet("moth", **SHEET), kivel.slice("s.kivel.json", out="cut"))),
    "adopt": ({"from": "moth/moth_1.png", "adopt": {"columns": 2, "rows": 1, "fps": 6}},
              lambda: kivel.adopt("moth/moth_1.png", columns=2, rows=1, fps=6)),
    "retime": ({"sheet": SHEET, "retime": [{"direction": "alternate", "event": "2:hoo"}, {"speed": 2, "new": "quick"}]},
               lambda: (kivel.sheet("moth", **SHEET),
                        kivel.retime("s.kivel.json", direction="alternate", event="2:hoo"),
                        kivel.retime("s.kivel.json", speed=2, new="quick"))),
    "export": ({"sheet": SHEET, "export": [{"out": "t.json"}, {"out": "t.css", "to": "css"}]},
               lambda: (kivel.sheet("moth", **SHEET), kivel.export("s.kivel.json", out="t.json"),
                        kivel.export("s.kivel.json", out="t.css", to="css"))),
    "preview": ({"sheet": SHEET, "preview": {"out": "v.apng", "scale": 2}},
                lambda: (kivel.sheet("moth", **SHEET), kivel.preview("s.kivel.json", out="v.apng", scale=2))),
    "check": ({"sheet": SHEET, "check": {"ignore": [{"code": "cell-bleed", "reason": "so", "until": "2999-01-01"}]}},
              lambda: kivel.sheet("moth", **SHEET)),
}  # fmt: skip


@pytest.mark.parametrize("name", BY_HAND)
def test_a_recipe_makes_the_bytes_that_the_commands_make(place: Path, name: str) -> None:
    thing, by_hand = BY_HAND[name]
    shutil.copytree(place, place / "hand", ignore=shutil.ignore_patterns("hand"))
    recipe({"it": {"from": "moth", **thing}})
    assert set(built().values()) == {"built"}
    assert set(built().values()) == {"up to date"}
    assert set(built(remake=True).values()) == {"built"}
    with contextlib.chdir(place / "hand"):
        by_hand()
    expected = made_files(place / "hand")
    assert {key: one for key, one in made_files(place).items() if not key.startswith("hand")} == expected


def test_layers_stand_in_from_as_the_command_takes_them(place: Path) -> None:
    shutil.copytree(place, place / "hand", ignore=shutil.ignore_patterns("hand"))
    recipe({
        "dark": {"from": "moth", "steps": [{"prep": ["brightness 0.5"]}]},
        "both": {"from": ["@dark", "owl opacity=0.5"], "steps": [{"layer": {}}], "sheet": {"out": "both.png"}},
        "over": {"from": ["owl", "@dark opacity=0.25"], "layer": {"out": "over"}},
    })  # fmt: skip
    assert set(built().values()) == {"built"}
    with contextlib.chdir(place / "hand"):
        kivel.prep("moth", step=["brightness 0.5"], out="dark")
        kivel.layer("dark", "owl opacity=0.5", out="both")
        kivel.layer("owl", "dark opacity=0.25", out="over")
        kivel.sheet("both", out="both.png")
    assert (place / "both.png").read_bytes() == (place / "hand" / "both.png").read_bytes()
    for path in (place / "hand" / "over").glob("*.png"):
        assert path.read_bytes() == (place / "over" / path.name).read_bytes()


def test_a_folder_is_adopted_and_exported(place: Path) -> None:
    recipe({"tiles": {"from": "moth/", "adopt": {"fps": 4}, "export": {"out": "tiles.json"}}})
    assert set(built().values()) == {"built"}
    assert (place / "moth" / "moth.kivel.json").is_file()
    assert set(built().values()) == {"up to date"}


def test_every_command_of_a_recipe_has_a_case() -> None:
    assert set(BY_HAND) == set(RECIPE_COMMANDS)


def test_only_what_a_change_reaches_is_made_again(place: Path) -> None:
    recipe(chain())
    assert len(done()) == 5
    assert done() == set()
    os.utime("moth/moth_2.png")
    assert done() == set(), "times alone are no change"
    write(place / "owl/owl_2.png", art(99))
    assert done() == {"both.atlas"}
    things = chain()
    things["moth"]["sheet"]["hold"] = 3
    recipe(things)
    assert done() == {"moth.sheet", "moth.export", "both.atlas"}
    Path("moth/moth_5.png").unlink()
    assert done() == {"moth.steps.0.prep", "moth.steps.1.resample", "moth.sheet", "moth.export", "both.atlas"}
    Path("out/moth.json").unlink()
    assert done() == {"moth.export"}


def test_a_step_that_was_made_before_is_taken_from_the_store(place: Path) -> None:
    recipe(chain())
    built()
    kept = made_files()
    original = read(place / "moth/moth_2.png")
    write(place / "moth/moth_2.png", art(55))
    built()
    write(place / "moth/moth_2.png", original)
    made = kivel.build()
    assert [one.restored for one in made.outcomes if one.task.step] == [True, True]
    assert made_files() == kept


def test_what_a_person_set_stays_and_what_the_recipe_states_wins() -> None:
    things = {"it": {"from": "moth", "sheet": SHEET, "retime": {"direction": "alternate", "speed": 2}}}
    recipe(things)
    built()
    kivel.retime("s.kivel.json", interpolation="linear", direction="reverse")
    built()
    (clip,) = json.loads(Path("s.kivel.json").read_text())["clips"]
    assert (clip["direction"], clip["interpolation"]) == ("alternate", "linear")
    first = Path("s.kivel.json").read_bytes()
    built(remake=True)
    assert Path("s.kivel.json").read_bytes() == first, "twice as fast once, however often it is built"


def test_what_a_person_edited_is_not_overwritten_and_the_rest_is_made(place: Path) -> None:
    recipe({"a": {"from": "moth", "sheet": {"out": "a.png"}}, "b": {"from": "owl", "sheet": {"out": "b.png"}}})
    built()
    write(place / "a.png", art(7))
    write(place / "moth/moth_0.png", art(70))
    write(place / "owl/owl_0.png", art(71))
    with pytest.raises(kivel.BuildError) as caught:
        kivel.build(keep_going=True)
    states = {one.task.name: (one.state, "a.png" in (one.error or "")) for one in caught.value.made.outcomes}
    assert states == {"a.sheet": ("failed", True), "b.sheet": ("built", False)}
    assert (read(place / "a.png") == art(7)).all()
    assert set(built(force=True).values()) == {"built", "up to date"}


def test_reasons_are_told_and_nothing_is_made(place: Path) -> None:
    recipe(chain())
    first = in_process(["build", "--dry-run"], place)
    assert ("5 out of date" in first.out, Path("out").exists()) == (True, False)
    built()
    write(place / "moth/moth_2.png", art(55))
    write(place / "moth/moth_9.png", art(56))
    told = in_process(["build", "--why", "moth"], place).out
    assert "moth/moth_2.png changed" in told
    assert "moth/moth_9.png is new" in told
    assert "moth.sheet: its sources will be rebuilt" in told
    listed = in_process(["build", "--list"], place).out
    assert "both.atlas: out/both.png, out/both.kivel.json" in listed


def test_names_stand_for_what_is_there_and_recipes_include_others() -> None:
    for name in ("ant", "bee", "cat"):
        shutil.copytree("moth", f"sub/art/{name}")
    Path("sub/more.toml").write_text(
        '[defaults]\nfps = 6\n[make."*"]\nfrom = "art/{name}/"\nsheet = { out = "{name}.png" }\n'
        '[make.cat]\nfrom = "art/cat/"\natlas = { out = "own.png", fps = 12 }\n'
    )
    recipe({"all": {"from": ["@ant", "@bee"], "sheet": {"out": "all.png"}}}, include=["sub/more.toml"])
    assert done() == {"ant.sheet", "bee.sheet", "cat.atlas", "all.sheet"}
    assert {"sub/ant.png", "sub/bee.png", "sub/own.png", "all.png"} <= set(made_files())
    shutil.copytree("owl", "sub/art/dog")
    assert done() == {"dog.sheet"}
    assert json.loads(Path("sub/dog.kivel.json").read_text())["clips"][0]["timebase"] == [6, 1]


def test_what_is_no_longer_made_is_named_and_removed_when_asked(place: Path) -> None:
    recipe(chain())
    built()
    recipe({"moth": chain()["moth"]})
    assert kivel.build().leftover == ("out/both.png", "out/both.kivel.json")
    write(place / "out/both.png", art(3))
    made = kivel.build(prune=True)
    assert (made.removed, made.leftover) == (("out/both.kivel.json",), ("out/both.png",))


def test_a_plan_and_a_state_from_elsewhere_are_not_believed(place: Path) -> None:
    """An archive may bring a `.kivel` of its own, which must not reach out of the folder."""
    (place / "art").mkdir()
    shutil.move("moth", "art/moth")
    write(place / "mine.png", art(1))
    with contextlib.chdir("art"):
        recipe({"it": {"from": "moth", "sheet": {"out": "a.png"}}})
        built()
        plan, state = Path(".kivel/plan-kivel.toml.json"), Path(".kivel/state-kivel.toml.jsonl")
        state.write_text(state.read_text().replace('"it.sheet"', '"gone.sheet"').replace('"a.png":', '"../a.png":'))
        plan.write_text(plan.read_text().replace('"a.png"', '"../mine.png"'))
        shutil.move("a.png", "../a.png")
        text = Path("kivel.toml").read_text()
        Path("kivel.toml").unlink()  # as it comes out of an archive: the same bytes, another file
        Path("kivel.toml").write_text(text)
        Path("a.kivel.json").unlink()
        made = kivel.build(prune=True)
    assert not made.failed
    assert (Path("a.png").exists(), made.leftover) == (True, ())
    assert (read(place / "mine.png") == art(1)).all()


def test_a_pattern_does_not_find_what_the_recipe_makes(place: Path) -> None:
    recipe({
        "*": {"from": "{name}/", "sheet": {"out": "out/{name}.png"}, "preview": {"out": "look/{name}.png"}},
        "flat": {"from": "owl", "prep": {"step": "flip x", "out": "flat"}, "sheet": {"out": "made/flat.png"}},
    })  # fmt: skip
    assert done() == {"moth.sheet", "moth.preview", "owl.sheet", "owl.preview", "flat.prep", "flat.sheet"}
    assert done() == set()
    write(place / "bat/bat_0.png", art(5))
    assert done() == {"bat.sheet", "bat.preview"}


def test_names_that_are_not_utf_8_are_told_to_others_as_they_are(place: Path) -> None:
    Path(os.fsdecode(b"moth/notes \xfe.txt")).write_text("x")
    recipe({"it": {"from": "moth", "sheet": {"out": "a.png"}}})
    built(depfile="b.d", lock=True)
    built(ninja="b.ninja")
    assert b"moth/notes\\ \xfe.txt:" in Path("b.d").read_bytes()
    assert (place / "kivel.lock").exists()


def test_a_thing_of_two_patterns_is_an_error(place: Path) -> None:
    one = {"from": "{name}/", "sheet": {"out": "{name}.png"}}
    recipe({"m*": one, "*h": one})
    found = in_process(["build"], place)
    assert "kivel.toml:4: make.*h: moth is also made by 'm*'" in found.err
    recipe({"m*": one, "*h": one, "moth": {"from": "moth", "sheet": {"out": "a.png"}}})
    assert done() == {"moth.sheet"}


def test_a_state_of_another_user_is_set_aside_unread(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    recipe(chain())
    assert len(done()) == 5
    monkeypatch.setenv("KIVEL_STATE_KEY", "another user's long secret")
    looked = in_process(["build", "--dry-run"], place)
    assert ("5 out of date" in looked.out, ".kivel was not made by you" in looked.err) == (True, True)
    found = in_process(["build"], place)
    assert "renamed to .kivel.aside, remove it if nobody needs it" in found.err
    assert ("5 built" in found.out, done()) == (True, set())
    assert Path(".kivel.aside/mark").exists()
    monkeypatch.delenv("KIVEL_STATE_KEY")
    with pytest.raises(KivelError, match=r"\.kivel: was not made by you"):
        kivel.build(clean=True)


@pytest.mark.parametrize("link", [os.link, os.symlink])
def test_a_state_that_has_a_second_name_is_written_anew_and_that_one_is_left(
    place: Path, link: Callable[..., None]
) -> None:
    """In a backup that shares what did not change."""
    recipe(chain())
    built()
    state = place / ".kivel/state-kivel.toml.jsonl"
    shutil.move(state, place / "backup")
    link(place / "backup", state)
    before = (place / "backup").read_bytes()
    write(place / "owl/owl_2.png", art(99))
    assert "both.atlas" in done()
    assert ((place / "backup").read_bytes(), done()) == (before, set())


def test_without_a_key_nothing_is_kept(monkeypatch: pytest.MonkeyPatch) -> None:
    recipe(chain())
    monkeypatch.setenv("XDG_STATE_HOME", "/proc/none")
    for _ in range(2):
        made = kivel.build()
        assert {one.state for one in made.outcomes} == {"built"}
        assert "builds keep nothing for the next one (/proc/none/kivel/state-key: " in made.notes[0]
        assert not list(Path().glob(".kivel*"))


ERRORS = {
    "no TOML": ("[make", "kivel.toml:1: "),
    "a key": ('x = 1\n[make.a]\nfrom="moth"\nsheet={out="a.png"}', "kivel.toml:1: x: unknown key"),
    "a close key": ('[make.a]\nform="moth"', "kivel.toml:2: make.a.form: unknown key; did you mean from?"),
    "an option": (
        '[make.a]\nfrom="moth"\nsheet={out="a.png", colums=2}',
        "kivel.toml:3: make.a.sheet.colums: unknown key; did you mean columns?",
    ),
    "an option beside its command": (
        '[make.a]\nfrom="moth"\ncolumns=2\nsheet={out="a.png"}',
        "kivel.toml:3: make.a.columns: unknown key; it is an option of sheet: sheet = { columns = ... }",
    ),
    "a value": (
        '[make.a]\nfrom="moth"\n[make.a.sheet]\nout="a.png"\ncolumns="two"',
        "kivel.toml:5: make.a.sheet.columns: expected a whole number from 1 to 1,000,000, found 'two'",
    ),
    "two that exclude": (
        '[make.a]\nfrom="moth"\nsheet={out="a.png", fps=2, hold=3}',
        "hold cannot be combined with fps; use one of them",
    ),
    "a type": ("[make.a]\nfrom=3", "kivel.toml:2: make.a.from: expected text or a list of texts, found 3"),
    "a step": (
        '[make.a]\nfrom="moth"\nsteps=[{sheet={}}]',
        "make.a.steps[0].sheet: unknown key; there are prep",
    ),
    "nothing": ('[make.a]\nfrom="moth"', "kivel.toml:1: make.a: has no command"),
    "no source": ('[make.a]\nsheet={out="a.png"}', "make.a.sheet: it has no source; set from"),
    "an unknown thing": (
        '[make.a]\nfrom="@moht"\nsheet={out="a.png"}\n[make.moth]\nfrom="moth"\nsheet={out="b.png"}',
        "kivel.toml:2: make.a.from: nothing in the recipe is called moht; did you mean moth?",
    ),
    "a circle": (
        '[make.a]\nfrom="@b"\nsheet={out="a.png"}\n[make.b]\nfrom="@a"\nsheet={out="b.png"}',
        "kivel.toml:1: make.a: depends on itself: a -> b -> a",
    ),
    "one file twice": (
        '[make.a]\nfrom="moth"\nsheet={out="a.png"}\n[make.b]\nfrom="owl"\nsheet={out="A.png"}',
        "kivel.toml:6: make.b.sheet: A.png is already written by a.sheet",
    ),
    "outside": (
        '[make.a]\nfrom="moth"\nsheet={out="../a.png"}',
        "../a.png is outside the recipe's folder; allow its",
    ),
    "a default": (
        '[defaults]\npage-limt="2x2"',
        "kivel.toml:2: defaults.page-limt: unknown key; did you mean page-li",
    ),
    "an include": ('include="no.toml"', "no.toml"),
    "itself": ('include="kivel.toml"', "includes itself"),
    "a pattern": ('[make."*"]\nfrom="moth"\nsheet={out="a.png"}', "is a pattern; set from to a path"),
    "a retime": (
        '[make.a]\nfrom="moth"\nretime={speed=2}',
        "changes the clips of an earlier command, and there is none",
    ),
    "a retime's value": (
        '[make.a]\nfrom="moth"\nsheet={out="a.png"}\nretime={direction="back"}',
        "kivel.toml:4: make.a.retime.direction: expected normal, reverse, alternate or alternate-reverse, found 'back'",
    ),
    "a value for no clip": (
        '[make.a]\nfrom="moth"\nsheet={out="a.png", fps=[1, 2]}',
        'kivel.toml:3: make.a.sheet.fps: expected R, or one for each clip, as {"walk": ...}, found [1, 2]',
    ),
    "a step among outputs": (
        '[make.a]\nfrom="moth"\nresample={count=2}\nsheet={out="a.png"}',
        'make.a.resample: out = "DIR" is needed for its frames; if they are only for the next command',
    ),
    "a store": ('store="lots"', "kivel.toml:1: store: expected a size as \"2 GB\", found 'lots'"),
}


@pytest.mark.parametrize("name", ERRORS)
def test_what_a_recipe_may_not_say_is_told_with_its_line(place: Path, name: str) -> None:
    text, told = ERRORS[name]
    Path("kivel.toml").write_text(text)
    found = in_process(["build"], place)
    assert (found.code in (1, 2), told in found.err) == (True, True), found.err
    assert not (place / ".kivel/state-kivel.toml.jsonl").exists()


def test_a_thing_that_fails_is_named_with_its_line_and_leaves_the_others(place: Path) -> None:
    things = {"bad": {"from": "nowhere", "sheet": {"out": "bad.png"}, "export": {"out": "bad.json"}}}
    recipe({**things, "good": {"from": "owl", "sheet": {"out": "good.png"}}})
    found = in_process(["build", "--keep-going"], place)
    assert (found.code, Path("good.png").exists(), Path("bad.png").exists()) == (1, True, False)
    assert "kivel.toml:3: make.bad.sheet: nowhere: no such file" in found.err
    assert "skipped     bad.export: bad.sheet failed before it" in found.out


def swapped(one: str, other: str) -> None:
    for old, new in ((one, "x"), (other, one), ("x", other)):
        os.rename(old, new)


EDITS: dict[str, Callable[[random.Random, dict[str, Any]], object]] = {
    "bytes": lambda rng, _things: write(Path(f"moth/moth_{rng.randrange(4)}.png"), art(rng.randrange(100))),
    "a frame more": lambda rng, _things: write(Path(f"owl/owl_{rng.randrange(6, 12)}.png"), art(rng.randrange(100))),
    "a frame less": lambda rng, _things: Path(f"owl/owl_{rng.randrange(3, 12)}.png").unlink(missing_ok=True),
    "two swapped": lambda _rng, _things: swapped("moth/moth_1.png", "moth/moth_2.png"),
    "a hold": lambda rng, things: things["moth"]["sheet"].update(hold=rng.randrange(1, 4)),
    "a count": lambda rng, things: things["moth"]["steps"][1]["resample"].update(count=rng.randrange(3, 6)),
    "an option": lambda rng, things: things["both"]["atlas"].update(gap=rng.randrange(3)),
    "nothing": lambda _rng, _things: os.utime("moth/moth_0.png"),
}  # fmt: skip


@pytest.mark.parametrize("seed", [pytest.param(seed, marks=[pytest.mark.slow] * (seed > 0)) for seed in range(4)])
def test_after_random_edits_everything_is_as_a_first_build_makes_it(place: Path, seed: int) -> None:
    """Never less is made than changes; what was made differs, or its sources do."""
    rng, things = random.Random(seed), chain()
    recipe(things)
    built(jobs=1)
    for _ in range(20 if seed else 6):
        before = made_files()
        edit = rng.choice(list(EDITS))
        EDITS[edit](rng, things)
        recipe(things)
        states = built(jobs=1)
        after = made_files()
        with contextlib.chdir(place):
            shutil.rmtree(".kivel")
            shutil.rmtree("out")
            built(jobs=1)
            assert made_files() == after
        changed = {name for name in after if name.startswith("out/") and after[name] != before.get(name)}
        owners = {"out/moth.png": "moth.sheet", "out/moth.kivel.json": "moth.sheet", "out/moth.json": "moth.export",
                  "out/both.png": "both.atlas", "out/both.kivel.json": "both.atlas"}  # fmt: skip
        assert {owners[name] for name in changed} <= {name for name, state in states.items() if state == "built"}
        if edit == "nothing":
            assert "built" not in states.values()


def test_one_process_and_two_make_the_same_bytes(place: Path) -> None:
    steps = [[{"prep": f"opacity 0.{number}"}] for number in range(1, 5)]
    recipe({f"t{n}": {"from": "moth", "steps": one, "sheet": {"out": f"{n}.png"}} for n, one in enumerate(steps)})
    built(jobs=1)
    alone = made_files()
    shutil.rmtree(".kivel")
    for path in place.glob("*.png"):
        path.unlink()
    built(jobs=2)
    assert made_files() == alone


def test_a_first_recipe_makes_what_is_there_as_it_is(place: Path) -> None:
    kivel.prep("moth", step="trim", out="cut/moth")
    kivel.sheet("cut/moth", out="moth.png", columns=2, fps=6)
    kivel.retime("moth.kivel.json", direction="alternate", holds="1,2,3,1,2,3")
    kivel.atlas("moth", "owl", out="sub/all.png")
    write(place / "odd/a.png", art(0))
    write(place / "odd/b.png", art(1)[:9])
    before = made_files()
    kivel.build(init=True)
    made = kivel.build()
    # what was set since stays; the option against which it was set is not stated any more
    assert {one.task.name: one.changed for one in made.outcomes if one.task.thing != "odd"} == {
        "moth.prep": (), "moth-2.sheet": ("moth.kivel.json",), "all.atlas": (),
    }  # fmt: skip
    after = {name: data for name, data in made_files().items() if not name.startswith("built/")}
    old, new = (json.loads(each.pop("moth.kivel.json")) for each in (before, after))
    assert (after, new["clips"], new["frames"]) == (before, old["clips"], old["frames"])
    assert Path("built/odd.kivel.json").exists()
    with pytest.raises(kivel.KivelError, match="already exists"):
        kivel.build(init=True)


def test_a_lock_tells_whether_a_build_comes_out_the_same(place: Path) -> None:
    recipe(chain())
    built(lock=True)
    built(frozen=True)
    shutil.rmtree(".kivel")
    shutil.rmtree("out")
    built(frozen=True)
    write(place / "owl/owl_1.png", art(77))
    with pytest.raises(kivel.KivelError, match=r"out/both\.png differs"):
        kivel.build(frozen=True)


def test_the_schema_takes_what_a_recipe_may_say_and_nothing_else() -> None:
    jsonschema = pytest.importorskip("jsonschema")
    validator = jsonschema.Draft202012Validator(kivel.build(schema=True).schema)
    text = (Path(__file__).parents[2] / "docs/recipes.md").read_text(encoding="utf-8")
    recipes = [tomllib.loads(part) for part in re.findall(r"```toml\n(.*?)```", text, re.DOTALL)]
    assert len(recipes) == 2
    for one in (*recipes, tomllib.loads(RECIPE_TEXT), {"make": chain()}):
        found = json.loads(json.dumps(one, default=str))
        assert [error.message for error in validator.iter_errors(found)] == []
    wrong: list[dict[str, Any]] = [
        {"makes": {}},
        {"make": {"a": {"sheet": {"colums": 2}}}},
        {"make": {"a": {"steps": [{"sheet": {}}]}}},
    ]
    assert [validator.is_valid(one) for one in wrong] == [False] * 3


def test_depfiles_name_what_is_read_and_written_with_every_sign_as_make_reads_it(place: Path) -> None:
    write(place / "a b/#1 $.png", art(1))
    recipe({"it": {"from": "a b/#1 $.png", "sheet": {"out": "out put.png"}}})
    built(depfile="it.d")
    assert Path("it.d").read_text().startswith("it.d: \\\n  a\\ b/\\#1\\ $$.png \\\n")


_DIES_MAKING_ITS_STATE = """
import os, sys
from pathlib import Path
from kivel.recipe.state_folder import made_state

left = int(sys.argv[1])

def die_there(event, args):
    global left
    left -= event in ("os.mkdir", "os.rename", "open", "os.remove", "os.rmdir") and ".kivel" in str(args[0])
    if not left:
        os._exit(9)

sys.addaudithook(die_there)
made_state(Path(), print)
"""


def test_a_state_folder_whose_maker_died_halfway_leaves_nothing(place: Path) -> None:
    died = [_run(_DIES_MAKING_ITS_STATE, count, place) == 9 for count in (1, 3, 5, 8, 11, 100)]
    assert died == [True] * 5 + [False]
    assert [path.name for path in place.rglob(".kivel*")] == [".kivel"]


def _run(script: str, count: int, place: Path) -> int:
    shutil.rmtree(place / ".kivel", ignore_errors=True)
    return subprocess.run([sys.executable, "-c", script, str(count)], cwd=place, check=False).returncode


@pytest.mark.slow
@pytest.mark.parametrize("seed", [1])
def test_a_build_that_is_killed_at_any_moment_is_made_right_by_the_next(place: Path, seed: int) -> None:
    steps = [[{"prep": f"opacity 0.{number}"}] for number in range(1, 7)]
    recipe({f"t{n}": {"from": "moth", "steps": one, "sheet": {"out": f"out/{n}.png"}} for n, one in enumerate(steps)})
    built(jobs=2)
    right = made_files()
    rng = random.Random(seed)
    for _ in range(25):
        for path in (".kivel", "out"):
            shutil.rmtree(path)
        running = subprocess.Popen([PROGRAM, "build", "--jobs", "2", "--quiet"], cwd=place)
        time.sleep(rng.uniform(0.1, 1.2))
        running.kill()
        running.wait()
        built(jobs=1)
        assert made_files() == right
        litter = [path.name for path in place.rglob(".*") if path.name not in (".kivel", ".gitignore")]
        assert litter == []


_FUZZ = [(200, 0), *(pytest.param(2_000, seed, marks=pytest.mark.slow) for seed in range(1, 2))]


@pytest.mark.parametrize(("tries", "seed"), _FUZZ)
def test_a_damaged_recipe_is_told_and_nothing_else_happens(tries: int, seed: int) -> None:
    """Bytes changed, words moved about: an error of ours with a place, or a plan."""
    rng = random.Random(seed)
    recipe(chain(), allow=["x"], include=[])
    good = RECIPE_TEXT + Path("kivel.toml").read_text()
    words = re.findall(r"\S+|\s+", good)
    lines = 0
    for _ in range(tries):
        text = list(good) if rng.random() < 0.5 else list(words)
        for _ in range(rng.randint(1, 3)):
            at = rng.randrange(len(text))
            other = text[rng.randrange(len(text))]
            text[at : at + rng.randint(0, 2)] = rng.choice([[], [other], ["\x00"], ["[", "]"], ["9"], ["="]])
        Path("fuzz.toml").write_text("".join(text), encoding="utf-8")
        try:
            tasks_of(read_recipe(Path("fuzz.toml")))
        except KivelError as error:
            lines += "fuzz.toml:" in str(error)
    assert lines > tries * 0.5


def test_a_recipe_that_is_saved_while_it_is_read_is_read_again(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """As editors save it: emptied first. What was planned of that must not be kept as the plan of the new text."""
    text = '[make.it]\nfrom = "moth"\nsheet = { out = "it.png" }\n'

    def saved_meanwhile(read: Any) -> Any:
        (place / "kivel.toml").write_text(text)
        return tasks_of(read)

    (place / "kivel.toml").write_text("")
    with monkeypatch.context() as patch:
        patch.setattr("kivel.recipe.planning.tasks_of", saved_meanwhile)
        assert kivel.build().outcomes == ()
    assert done() == {"it.sheet"}


def test_verify_reads_what_no_time_tells_of(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A disk that lost a byte: size, times and number are up to date, and only reading the file shows it."""
    path = "moth/moth_2.png"
    recipe({"it": {"from": "moth", "sheet": {"out": "it.png"}}})
    seen, real = stamps._seen(path), stamps._seen
    # what was written a moment ago is read in any case
    os.utime(place / path, ns=(seen[1] - 10**9, seen[1] - 10**9))
    time.sleep(0.2)
    built(jobs=1)
    before, seen = read(place / "it.png"), stamps._seen(path)
    height, width = read(place / path).shape[:2]
    write(place / path, art(77, width=width, height=height))
    monkeypatch.setattr(stamps, "_seen", lambda name: seen if os.path.normpath(name) == path else real(name))
    assert done(jobs=1) == set()
    assert done(jobs=1, verify=True) == {"it.sheet"}
    assert not np.array_equal(read(place / "it.png"), before)
