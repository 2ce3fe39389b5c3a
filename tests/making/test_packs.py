"""A pack is what its profile says, is written as one set, and every fault has its line."""

from __future__ import annotations

import contextlib
import json
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from moving_spots import circling

import kivel
from kivel.core.errors import KivelError
from kivel.files.templates import RenderJob, TemplateError, rendered
from kivel.making.options.profile_options import SHIPPED_PROFILES
from program import PROGRAM, art, files, read, write

HEAD = 'format = "kivel-profile"\nversion = 1\n'


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(5):
            write(tmp_path / f"owl/owl_{number}.png", art(number, width=6, height=6))
            write(tmp_path / f"owl-emission/owl_{number}.png", art(number + 9, width=6, height=6))
        kivel.sheet("owl", out="owl.png", columns=3, fps=10, map=["emission=owl-emission"])
        kivel.sheet("owl", out="bat.png", columns=2, hold="120ms")
        yield tmp_path


def profile(text: str, name: str = "p.toml") -> str:
    Path(name).write_text(HEAD + text)
    return name


def lit_tiles() -> None:
    kivel.profile("new", "tiles.toml", example="tiles")


def test_the_tiles_are_a_row_with_their_times_and_a_map_beside_it(place: Path) -> None:
    lit_tiles()
    kivel.retime("owl.kivel.json", direction="alternate", holds="1,2,1,1,3")
    kivel.export("owl.kivel.json", "bat.kivel.json", profile="tiles.toml", out="pack")
    assert sorted(files(place / "pack")) == [
        "tiles/bat.png", "tiles/owl.png", "tiles/owl_glow.png",
        "timing/bat.txt", "timing/owl.txt", "timing/owl_glow.txt",
    ]  # fmt: skip
    for name, frames in (("owl", "owl"), ("owl_glow", "owl-emission")):
        expected = np.hstack([read(place / f"{frames}/owl_{number}.png") for number in range(5)])
        assert np.array_equal(read(place / f"pack/tiles/{name}.png"), expected)
    lines = (place / "pack/timing/owl.txt").read_text().splitlines()
    assert lines[1:] == ["0 6", "1 12", "2 6", "3 6", "4 18", "3 6", "2 6", "1 12"]


def test_steps_are_written_out_as_cells_by_the_common_divisor_from_the_phase_on(place: Path) -> None:
    kivel.retime("owl.kivel.json", holds="2,4,2", order="0-2", direction="alternate", phase="1")
    name = profile("""
[image]
file = "{clip}.png"
each = "clip"
layout = "grid"
columns = 3
cells = "steps"
[lacks]
phase = "write-out"
unequal_holds = "write-out"
[[output]]
file = "{clip}.txt"
template = "{{ sheet.columns }}x{{ sheet.rows }} {{ clips[0].hold }} {{ clips[0].in_order }}"
""")
    kivel.export("owl.kivel.json", profile=name, out="pack")
    page = read(place / "pack/owl.png")
    order = (1, 1, 2, 1, 1, 0)
    for cell, frame in enumerate(order):
        row, column = divmod(cell, 3)
        found = page[6 * row :, 6 * column :][:6, :6]
        assert np.array_equal(found, read(place / f"owl/owl_{frame}.png"))
    assert (place / "pack/owl.txt").read_text() == "3x2 0.2 True"


@pytest.mark.parametrize("layout", ["keep", "row"])
def test_motion_is_stored_as_the_profile_wants_it(place: Path, layout: str) -> None:
    for number, frame in enumerate(circling(8)):
        write(place / f"around/around_{number}.png", frame)
    kivel.sheet("around", out="around.png", columns=4, motion=True, motion_size="half")
    name = profile(f"""
[image]
file = "{{name}}.png"
layout = "{layout}"
[maps.motion]
file = "{{name}}_v.png"
y = "up"
reach = 40
channels = "gb"
[[output]]
file = "{{name}}.txt"
template = "{{{{ sheet.motion.parts }}}} {{{{ sheet.motion.pairs[7].later }}}} {{{{ sheet.maps.motion }}}}"
""")
    kivel.export("around.kivel.json", profile=name, out="pack")
    assert (place / "pack/around.txt").read_text() == "2 0 around_v.png"
    said = json.loads((place / "around.kivel.json").read_text())["pages"][0]["maps"]["motion"]["motion"]
    old, new = read(place / "around.motion.png")[:24, :24], read(place / "pack/around_v.png")[:24, :24]
    vectors = (old[..., :2].astype(float) - 128) / 127 * said["reach"]
    expected = np.rint(vectors * (1, -1) / 40 * 127) + 128
    assert np.abs(new[..., 1:3] - expected).max() <= 1
    assert not new[..., 0].any()


@pytest.mark.parametrize(
    ("rule", "said"),
    [
        ("reach = 1", "is longer than a reach of 1 px; raise the reach"),
        ('channels = "rr"', "expected two of r, g, b and a, as in rg, found 'rr'"),
        ("reach = 0", "0, expected pixels above 0"),
        ('at = "later"', "expected"),
    ],
)
def test_what_motion_cannot_be_is_said(place: Path, rule: str, said: str) -> None:
    for number, frame in enumerate(circling(8)):
        write(place / f"around/around_{number}.png", frame)
    kivel.sheet("around", out="around.png", columns=4, motion=True)
    name = profile(f'[image]\nfile = "{{name}}.png"\n[maps.motion]\nfile = "{{name}}_v.png"\n{rule}\n')
    with pytest.raises(KivelError, match=said):
        kivel.export("around.kivel.json", profile=name, out="pack")
    assert not (place / "pack").exists()


@pytest.mark.parametrize("name", SHIPPED_PROFILES)
def test_what_ships_is_right_and_works(place: Path, name: Any) -> None:
    kivel.profile("new", f"{name}.toml", example=name)
    checked = kivel.profile("check", f"{name}.toml", on=["owl.kivel.json", "bat.kivel.json"])
    made = kivel.export("owl.kivel.json", "bat.kivel.json", profile=f"{name}.toml", out="pack")
    assert sorted(checked.outputs) == sorted(str(file.path.relative_to("pack")) for file in made.files[:-1])
    if name == "regions":
        assert json.loads((place / "pack/regions.json").read_text())[8] == {
            "picture": "owl_3",
            "sheet": "owl",
            "page": "pages/owl-1.png",
            "at": [0, 6],
            "size": [6, 6],
        }
    if name == "burst":
        row = (place / "pack/bursts.tsv").read_bytes().split(b"\r\n")[2].split(b"\t")
        assert row == [b"owl", b"../owl.png", b"3", b"2", b"4", b"10.0", b"0.5", b"0.5"]


def test_a_pack_is_written_again_where_it_changed_and_pruned_of_what_is_unedited(place: Path) -> None:
    lit_tiles()
    both, one = ("owl.kivel.json", "bat.kivel.json"), ("owl.kivel.json",)
    kivel.export(*both, profile="tiles.toml", out="pack")
    again = kivel.export(*both, profile="tiles.toml", out="pack")
    assert {file.outcome for file in again.files} == {"unchanged"}
    kivel.retime("owl.kivel.json", fps=5)
    (place / "pack/timing/bat.txt").write_text("mine")
    before = files(place)
    looked = kivel.export(*one, profile="tiles.toml", out="pack", diff=True, prune=True)
    assert files(place) == before
    assert [file.outcome for file in looked.files].count("replaced") == 2
    assert looked.removed == ("tiles/bat.png",)
    kivel.export(*one, profile="tiles.toml", out="pack", prune=True)
    assert sorted(files(place / "pack")) == [
        "tiles/owl.png", "tiles/owl_glow.png", "timing/bat.txt", "timing/owl.txt", "timing/owl_glow.txt",
    ]  # fmt: skip
    ledger = json.loads((place / "tiles.ledger.json").read_text())["packs"]["pack"]
    assert [sorted(owned["files"]) for owned in ledger] == [sorted(files(place / "pack"))]
    (place / "pack/timing/owl.txt").write_text("mine too")
    with pytest.raises(KivelError, match=r"pack/timing/owl.txt: .*force=True"):
        kivel.export(*one, profile="tiles.toml", out="pack")
    assert (place / "pack/timing/owl.txt").read_text() == "mine too"


OUTPUT = '[[output]]\nfile = "{name}.txt"\n'
FAULTS: dict[str, tuple[str, str]] = {
    "no TOML": ("x = ", r"p.toml:3: invalid value"),
    "a key": ("[units]\ntimes = 3\n", r"p.toml:4: units.times: unknown key"),
    "a word": ('[units]\ntime = "beats"\n', r"p.toml:4: units.time: expected seconds or ticks, found 'beats'"),
    "a kind": (
        "[require]\nlargest_side = \"big\"\n",
        r"p.toml:4: require.largest_side: expected a whole number, 1 or more, found",
    ),
    "no timebase": ('[units]\ntime = "ticks"\n', r"p.toml:3: units.timebase: is needed for times in ticks"),
    "a timebase": ('[units]\ntime = "ticks"\ntimebase = "0"\n', r"p.toml:5: units.timebase: .*'0'"),
    "a field": ('[image]\nfile = "{moth}.png"\n', r"p.toml:4: image.file: there is no field {moth} here"),
    "a style": ('[image]\nfile = "{name:big}.png"\n', r"p.toml:4: image.file: {name:big}: there is no style 'big'"),
    "a way out": ('[image]\nfile = "../{name}.png"\n', r"p.toml:4: image.file: '../x.png' is not a file inside"),
    "a root": (
        OUTPUT.replace("{name}", "/etc/{name}") + 'template = ""',
        r"p.toml:4: output\[0\].file: '/etc/x.txt' is no",
    ),
    "steps kept": ('[image]\ncells = "steps"\n', r'p.toml:4: image.cells: this needs each = "clip"'),
    "no template": (OUTPUT, r"p.toml:3: output\[0\].template: use either template or template_file"),
    "no file of it": (OUTPUT + 'template_file = "gone.txt"', r"gone.txt: no such file"),
    "a template's line": (
        OUTPUT + 'template = """\na\n{{ }}\n"""',
        r"p.toml:7: output\[0\].template: line 2 of it: Expected",
    ),
    "a template's value": (
        OUTPUT + 'template = "{{ frames[9].x }}"',
        r"p.toml:5: output\[0\].template: line 1 of it: .*has no element 9 \(for owl.kivel.json\)",
    ),
    "a range": (
        '[range]\n"clip.rate" = [20, 30]\n',
        r'owl.kivel.json: clip "owl": clip.rate is 10.0, p.toml allows 20 to 30',
    ),
    "a range of nothing": (
        '[range]\n"clip.speed" = [1, 2]\n',
        r"p.toml:4: range.clip.speed: unknown number; clip.first_frame",
    ),
    "a range upside down": (
        '[range]\n"step.hold" = [2, 1]\n',
        r"p.toml:4: range.step.hold: the minimum, 2, is above the maximum, 1",
    ),
    "one row": ("[require]\none_row = true\n", r"owl.kivel.json: 2 rows, and p.toml requires one_row = true"),
    "powers of two": ("[require]\npowers_of_two = true\n", r"a page is 18x12 px, and p.toml requires powers_of_two"),
    "frames": ("[require]\nframes = [6, 9]\n", r"5 frames, and p.toml requires frames = \[6, 9\]"),
    "a clock too coarse": (
        '[units]\ntime = "ticks"\ntimebase = 1\n',
        r'clip "owl": at 1 ticks a second steps .* raise units.timebase',
    ),
    "other maps": (
        '[lacks]\nother_maps = "refuse"\n',
        r'other maps: emission; p.toml says lacks.other_maps = "refuse"',
    ),
    "a map that must be": (
        '[maps.normal]\nfile = "n.png"\nrequired = true\n',
        r'there is no map "normal", and p.toml needs one',
    ),
    "names that clash": (
        OUTPUT.replace("{name}", "x") + 'each = "frame"\ntemplate = "a"\n',
        r"'x.txt': made for .*'owl_0' and",
    ),
    "names alike but for case": (
        '[[output]]\nfile = "{name}.txt"\ntemplate = "a"\n[[output]]\nfile = "{name:upper}.TXT"\ntemplate = "b"\n',
        r"'OWL.TXT', the same as 'owl.txt' on other systems",
    ),
    "a file and a folder": (
        '[[output]]\nfile = "a"\ntemplate = "a"\n[[output]]\nfile = "a/{name}"\ntemplate = "b"\n',
        r"'a/owl': 'a' is a file and would have to be a folder",
    ),
    "letters": (
        OUTPUT + 'encoding = "ascii"\ntemplate = "a\\n\\u00fc"\n',
        r"p.toml:5: output\[0\].encoding: ascii has no 'ü', line 2",
    ),
    "no JSON": (
        OUTPUT + 'schema = "s.json"\ntemplate = "{"\n',
        r"p.toml:5: output\[0\].schema: owl.txt, made for .* is not JSON",
    ),
    "not as the schema": (
        OUTPUT + 'schema = "s.json"\ntemplate = "[1]"\n',
        r"p.toml:5: output\[0\].schema: owl.txt, .*: \$: \[1\] is not of type 'object'",
    ),
    "a schema of itself": (OUTPUT + 'schema = "itself.json"\ntemplate = "{}"\n', r"itself.json refers to itself"),
    "a schema of a number": (OUTPUT + 'schema = "five.json"\ntemplate = "{}"\n', r"five.json is no JSON Schema|cannot"),
    "a schema without end": (
        OUTPUT + 'schema = "slow.json"\ntemplate = """{"a": "aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaab"}"""\n',
        r"slow.json: it takes longer than 2 seconds",
    ),
    "a schema that is deep": (OUTPUT + 'schema = "deep.json"\ntemplate = "{}"\n', r"deep.json: line 1: nested too"),
    "a schema from afar": (OUTPUT + 'schema = "far.json"\ntemplate = "{}"\n', r"refers to .*, and nothing is fetched"),
}  # fmt: skip


@pytest.mark.parametrize(("text", "words"), FAULTS.values(), ids=FAULTS)
def test_a_fault_has_its_place_and_nothing_is_written(place: Path, text: str, words: str) -> None:
    (place / "s.json").write_text('{"type": "object"}')
    (place / "far.json").write_text('{"$ref": "http://example.invalid/s.json"}')
    (place / "itself.json").write_text('{"$ref": "#"}')
    (place / "five.json").write_text("5")
    (place / "slow.json").write_text('{"properties": {"a": {"pattern": "^(a+)+$"}}}')
    (place / "deep.json").write_text('{"not": ' * 500 + "{}" + "}" * 500)
    name = profile(text)
    before = files(place)
    with pytest.raises(KivelError, match=words):
        kivel.export("owl.kivel.json", profile=name, out="pack")
    assert files(place) == before


def test_a_pack_is_bounded_as_a_whole(place: Path) -> None:
    """Each file is within its limit, and there are many."""
    text = OUTPUT.replace("{name}.txt", "{name}_{index}.txt") + 'each = "frame"\n'
    name = profile(text + "template = \"{{ 'x' * 9000000 }}\"\n")
    with pytest.raises(KivelError, match="all files together have more than 32 million characters"):
        kivel.export("owl.kivel.json", profile=name, out="pack")
    assert not (place / "pack").exists()


def test_limits_that_are_there_already_are_no_hindrance(place: Path) -> None:
    name = profile(OUTPUT + 'template = "x"\n')
    words = f"ulimit -t 60 -v 2000000 && {PROGRAM} export owl.kivel.json --profile {name} -o pack"
    done = subprocess.run(["bash", "-c", words], cwd=place, capture_output=True, text=True, check=False)
    assert (done.returncode, (place / "pack/owl.txt").read_text()) == (0, "x"), done.stderr


ATTACKS = {
    "attributes": ("{{ ''.__class__.__mro__ }}", "unsafe"),
    "attributes by a format": ("{{ '{0.__class__}'.format(1) }}", "unsafe"),
    "globals": ("{{ cycler.__init__.__globals__ }}", "unsafe"),
    "an import": ("{% import 'os' as os %}", "cannot include, import or extend"),
    "another file": ("{% include '/etc/passwd' %}", "cannot include, import or extend"),
    "a change": ("{{ a.append(1) }}", "unsafe"),
    "loops": (
        "{% for x in range(99999) %}{% for y in range(99999) %}{% endfor %}{% endfor %}",
        "longer than 2 seconds",
    ),
    "a long range": ("{{ range(10**9) | join }}", "Range too big"),
    "memory": ("{{ 'a' * 10**10 }}", "too much memory"),
    "memory by a format": ("{{ '%1000000000d' % 1 }}", "too much memory"),
    "memory by a filter": ("{{ 'a' | center(10**10) }}", "too much memory"),
    "gigabytes": ("{% for x in range(99999) %}{{ 'x' * 1000000 }}{% endfor %}", "more than 16 million characters"),
    "chatter": ("{{ lipsum(n=10**5) }}", "'lipsum' is undefined"),
    "a circle": ("{% macro m() %}{{ m() }}{% endmacro %}{{ m() }}", "recursion"),
    "a high power": ("{{ (10 ** 10) ** (10 ** 7) }}", "longer than 2 seconds|too much memory|digits"),
}  # fmt: skip


@pytest.mark.parametrize(("template", "words"), ATTACKS.values(), ids=ATTACKS)
def test_a_template_that_attacks_ends_in_one_error(template: str, words: str) -> None:
    begun = time.monotonic()
    with pytest.raises(TemplateError, match=words):
        rendered([template], [RenderJob(0, {"a": [1]})])
    assert time.monotonic() - begun < 30  # it ends by itself; how soon is a benchmark's to say


def test_all_that_is_wrong_with_a_profile_is_told_at_once_by_its_lines() -> None:
    """Each in a line, none for what was only put there to go on."""
    name = profile(
        '[units]\ntime = "beats"\nfirst_indx = 2\n[require]\nlargest_side = 0\n[[output]]\neach = "clp"\n'
        '[[output]]\nfile = 3\n[maps.normal]\nreach = "far"\n'
    )
    with pytest.raises(KivelError) as error:
        kivel.profile("check", name)
    assert [line.split(": ", 2)[:2] for line in str(error.value).splitlines()] == [
        ["p.toml:4", "units.time"], ["p.toml:5", "units.first_indx"], ["p.toml:7", "require.largest_side"],
        ["p.toml:8", "output[0]"], ["p.toml:9", "output[0].each"], ["p.toml:11", "output[1].file"],
        ["p.toml:12", "maps.normal"], ["p.toml:13", "maps.normal.reach"],
    ]  # fmt: skip
    assert "did you mean first_index?" in str(error.value)
    name = profile('[units]\ntime = "ticks"\n[image]\ncolumns = 2\n[[output]]\nfile = "{nam}.txt"\ntemplate = "x"\n')
    with pytest.raises(KivelError) as error:
        kivel.profile("check", name)
    assert len(str(error.value).splitlines()) == 3


def test_values_are_written_as_json_and_what_is_none_is_told(place: Path) -> None:
    json_output = '[[output]]\nfile = "{name}.json"\ntemplate = '
    template = '{"a": {{ true | json }}, "b": {{ none | json }}, "c": {{ "\\"é" | json }}, "d": {{ [1.5] | json }}}'
    made = kivel.export("owl.kivel.json", profile=profile(f"{json_output}'''{template}'''\n"), out="pack")
    assert json.loads((place / "pack/owl.json").read_text()) == {"a": True, "b": None, "c": '"é', "d": [1.5]}
    assert not [note for note in made.notes if "JSON" in note]
    plain = profile(f"{json_output}'''{{\"a\":\n {{{{ true }}}}}}'''\n", "q.toml")
    (note,) = [note for note in kivel.export("owl.kivel.json", profile=plain, out="other").notes if "JSON" in note]
    assert note.startswith("warning: owl.json: is not JSON: broken JSON in line 2")
    assert "{{ value | json }}" in note
    with pytest.raises(KivelError, match="'nothing' is undefined"):
        kivel.export("owl.kivel.json", profile=profile(OUTPUT + 'template = "{{ nothing | json }}"\n'), out="third")


TABLE = """[[output]]
file = "all.txt"
each = "pack"
template = "{% for one in sheets %}{{ one.sheet.name }} {{ one.clips[0].length }}\\n{% endfor %}"
"""


def rows(place: Path) -> list[str]:
    return (place / "pack/all.txt").read_text().splitlines()


def test_a_shared_table_keeps_the_rows_of_what_is_not_exported_now(place: Path) -> None:
    name = profile(TABLE)
    kivel.export("owl.kivel.json", profile=name, out="pack")
    kivel.export("bat.kivel.json", profile=name, out="pack")
    assert rows(place) == ["bat 0.6", "owl 0.5"]
    kivel.retime("owl.kivel.json", fps=5)
    kivel.export("owl.kivel.json", profile=name, out="pack")
    assert rows(place) == ["bat 0.6", "owl 1.0"]
    kivel.export("owl.kivel.json", "bat.kivel.json", profile=name, out="pack")
    kivel.export("bat.kivel.json", profile=name, out="pack")
    kivel.export("owl.kivel.json", profile=name, out="pack")
    assert rows(place) == ["bat 0.6", "owl 1.0"]
    assert kivel.check("pack", profile=name, on="bat.kivel.json").findings == ()
    Path("bat.kivel.json").unlink()
    with pytest.raises(KivelError, match=r"has rows of bat.kivel.json, which is gone; prune=True removes them"):
        kivel.export("owl.kivel.json", profile=name, out="pack")
    kivel.export("owl.kivel.json", profile=name, out="pack", prune=True)
    assert rows(place) == ["owl 1.0"]


def test_rows_are_believed_of_a_ledger_of_ones_own_alone(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    name = profile(TABLE)
    kivel.export("owl.kivel.json", profile=name, out="pack")
    monkeypatch.setenv("XDG_STATE_HOME", str(place / "another"))
    with pytest.raises(KivelError, match="already written by the export of owl"):
        kivel.export("bat.kivel.json", profile=name, out="pack")
    assert rows(place) == ["owl 0.5"]


def test_an_engine_that_counts_cells_is_not_told_of_another_order(place: Path) -> None:
    kivel.profile("new", "cells.toml", example="cells")
    kivel.retime("owl.kivel.json", direction="alternate")
    with pytest.raises(KivelError, match=r"clip.frames_in_order of 'owl' has no value"):
        kivel.export("owl.kivel.json", profile="cells.toml", out="pack")
    kivel.export("bat.kivel.json", profile="cells.toml", out="pack")
    assert "count = 5\nrate = 8.333333" in (place / "pack/cells/bat.txt").read_text()


def test_two_profiles_fill_one_pack(place: Path) -> None:
    text = '[[output]]\nfile = "{name}.%s"\ntemplate = "{{ sheet.name }}"\n'
    for name in ("p", "q"):
        kivel.export("owl.kivel.json", profile=profile(text % name, f"{name}.toml"), out="pack", prune=True)
    assert sorted(files(place / "pack")) == ["owl.p", "owl.q"]
    with pytest.raises(KivelError, match=r"pack/owl.p"):
        kivel.export("bat.kivel.json", profile=profile(text.replace("{name}", "owl") % "p", "q.toml"), out="pack")


CONDITIONS: dict[str, tuple[str, list[str]]] = {
    "interpolation": ("clips[0].interpolation == 'linear'", ["bat"]),
    "a map": ("sheet.maps.emission", ["owl"]),
    "no map": ("not sheet.maps.emission", ["bat"]),
    "a number": ("sheet.columns > 2", ["owl"]),
    "always": ("true", ["bat", "owl"]),
}


@pytest.mark.parametrize(("when", "made"), CONDITIONS.values(), ids=CONDITIONS)
def test_an_output_is_written_where_its_condition_holds(place: Path, when: str, made: list[str]) -> None:
    kivel.retime("bat.kivel.json", interpolation="linear")
    text = (
        f'[image]\nfile = "art/{{name}}.png"\n[maps.emission]\nfile = "art/{{name}}_e.png"\n{OUTPUT}when = "{when}"\n'
    )
    name = profile(text + 'template = "x"\n')
    kivel.export("owl.kivel.json", "bat.kivel.json", profile=name, out="pack")
    assert [path.stem for path in sorted((place / "pack").glob("*.txt"))] == made


@pytest.mark.parametrize("when", ["clips[0].speed > 1", "sheet.maps.glow", "1 +", "clips[0].then > 1"])
def test_a_condition_that_cannot_be_judged_is_an_error_with_its_line(place: Path, when: str) -> None:
    name = profile(f'{OUTPUT}when = "{when}"\ntemplate = "x"\n')
    with pytest.raises(KivelError, match=r"p.toml:5: output\[0\].when: .*\(for owl.kivel.json\)"):
        kivel.export("owl.kivel.json", profile=name, out="pack")
    assert not (place / "pack").exists()


def test_each_map_has_its_file_and_an_empty_result_has_none(place: Path) -> None:
    name = profile("""
[image]
file = "{name}.png"
[maps.emission]
file = "{name}_glow.png"
[[output]]
file = "{image}.txt"
each = "map"
template = "{{ map.name }} {{ map.stem }}"
[[output]]
file = "{name}.txt"
template = "  {% if sheet.name == 'bat' %}b{% endif %} "
""")
    kivel.export("owl.kivel.json", "bat.kivel.json", profile=name, out="pack")
    assert sorted(files(place / "pack")) == ["bat.png", "bat.txt", "owl.png", "owl_glow.png", "owl_glow.png.txt"]
    assert (place / "pack/owl_glow.png.txt").read_text() == "emission owl_glow"


NOTHING = {
    "{{ clips[0].repeat }}": "clip.repeat of 'owl' has no value",
    "{{ clips[0].then ~ 'x' }}": "clip.then of 'owl' has no value",
    "{{ clips[0].repeat + 1 }}": "clip.repeat of 'owl' has no value",
    "{{ '%s' | format(clips[0].repeat) }}": "clip.repeat of 'owl' has no value",
    "{{ [clips[0].repeat] | join }}": "clip.repeat of 'owl' has no value",
    "{{ clips[0].repeat | string }}": "clip.repeat of 'owl' has no value",
    "{{ clips[0].repeat | upper }}": "clip.repeat of 'owl' has no value",
    "{{ [clips[0].repeat] }}": "clip.repeat of 'owl' has no value",
    "{{ clips }}": "of 'owl' has no value",
    "{{ none }}": "None has no value",
    "{{ sheet.motion }}": "sheet.motion of 'owl' has no value",
}
SOMETHING = {
    "{{ clips[0].repeat | json }}": "null",
    "{{ [clips[0].repeat] | tojson }}": "[null]",
    "{{ clips[0].repeat | default(-1) }}": "-1",
    "{{ nothing | default(7) }}": "7",
    "{{ clips[0].hold | default(7) }}": "0.1",
    "{{ 1 if clips[0].repeat is none else 2 }}": "1",
    "{{ 1 if clips[0].repeat == none else 2 }}": "1",
    "{{ 1 if clips[0].repeat else 2 }}": "2",
}


@pytest.mark.parametrize("template", NOTHING)
def test_what_has_no_value_is_never_written(place: Path, template: str) -> None:
    name = profile(f"{OUTPUT}template = '''{template}'''\n")
    with pytest.raises(KivelError, match=NOTHING[template]):
        kivel.export("owl.kivel.json", profile=name, out="pack")
    assert not (place / "pack").exists()


def test_what_has_no_value_can_be_asked_for(place: Path) -> None:
    name = profile(f"{OUTPUT}template = '''{'|'.join(SOMETHING)}'''\n")
    kivel.export("owl.kivel.json", profile=name, out="pack")
    assert (place / "pack/owl.txt").read_text() == "|".join(SOMETHING.values())


@pytest.mark.parametrize(
    ("phase", "expected"),
    [
        ("2", "0.2 2: 2 0.0 0.1, 3 0.1 0.1, 4 0.2 0.1, 0 0.3 0.1, 1 0.4 0.1"),
        ("0", "0.0 0: 0 0.0 0.1, 1 0.1 0.1, 2 0.2 0.1, 3 0.3 0.1, 4 0.4 0.1"),
        ("1.25", "0.125 -: 1 0.0 0.075, 2 0.075 0.1, 3 0.175 0.1, 4 0.275 0.1, 0 0.375 0.1, 1 0.475 0.025"),
    ],
)
def test_steps_begin_at_the_phase(place: Path, phase: str, expected: str) -> None:
    kivel.retime("owl.kivel.json", phase=phase)
    name = profile(
        OUTPUT + "template = \"{{ clips[0].phase_time }} {{ clips[0].phase_steps | default('-') }}: {% for step in "
        "clips[0].steps_from_phase %}{{ step.frame }} {{ step.start }} {{ step.hold }}"
        "{{ '' if loop.last else ', ' }}{% endfor %}\"\n"
    )
    kivel.export("owl.kivel.json", profile=name, out="pack")
    assert (place / "pack/owl.txt").read_text() == expected


@pytest.mark.parametrize(("words", "size"), [("rows = 2", (18, 12)), ("columns = 2\nfill = 'down'", (12, 18))])
def test_a_grid_may_have_so_many_rows_or_be_filled_down(place: Path, words: str, size: tuple[int, int]) -> None:
    name = profile(f'[image]\nfile = "{{name}}.png"\nlayout = "grid"\n{words}\n')
    kivel.export("owl.kivel.json", profile=name, out="pack")
    page = read(place / "pack/owl.png")
    assert page.shape[1::-1] == size
    down = "down" in words
    assert np.array_equal(page[6:12, :6], read(place / f"owl/owl_{1 if down else 3}.png"))


def test_show_lists_what_templates_get() -> None:
    name = profile('[units]\nfirst_index = 1\norigin = "bottom"\n')
    shown = kivel.profile("show", name, on=["owl.kivel.json"]).variables
    assert (shown["sheet"]["first_index"], shown["sheet"]["last_index"]) == (1, 5)
    assert [shown["frames"][0][key] for key in ("index", "row", "y", "v", "pivot")] == [
        1,
        1,
        6,
        0.5,
        {"canvas": {"x": 0.5, "y": 0.5}, "cell": {"x": 0.5, "y": 0.5}},
    ]
    assert shown["clips"][0]["steps"][4] == {
        "index": 5, "frame": 5, "frame_name": "owl_4", "start": 0.4, "hold": 0.1,
    }  # fmt: skip
