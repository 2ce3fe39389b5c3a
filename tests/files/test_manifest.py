"""The manifest: what it looks like, what is kept, what is refused."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from typing import Any

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.pixels.pixels import Pair, Rect, Size
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.groups import Group
from kivel.files.manifest.model import CutFrom, FramePlace, GridInfo, Made, Manifest, MapFile, Page, SlicedFrom
from kivel.files.manifest.names import ManifestError
from kivel.files.manifest.parsing import parse_manifest
from kivel.files.manifest.schema import schema_text
from kivel.files.manifest.text import is_as_made, manifest_text

SCHEMA = jsonschema.Draft202012Validator(json.loads(schema_text()))
MOTH = Manifest(
    pages=(Page(Size(68, 38), {"color": MapFile("moth.png", "xxh3-128:00")}),),
    grid=GridInfo(2, 1, Size(32, 32), margin=Pair(2, 3)),
    frames=tuple(
        FramePlace(f"moth_{n}", f"moth_{n}.png", 0, Rect(32 * n, 0, 32, 32), 0, Size(32, 32), (0, 0)) for n in (0, 1)
    ),
    clips=(Clip("moth", Fraction(24000, 1001), (Step(0, 1), Step(1, 2)), direction="alternate", set=("direction",)),),
    made=Made("sheet", {"sources": ["moth"]}),
)
SLICED = SlicedFrom("../pack/moth.png", (Size(68, 38),), MOTH.grid, (255, 0, 255))
CUT = replace(
    MOTH,
    grid=None,
    sliced_from=SLICED,
    frames=tuple(replace(frame, cut=CutFrom(Rect(2, 3, 30, 32), offset=(2, 0))) for frame in MOTH.frames),
)
GOLDEN = """\
{
  "format": "kivel-manifest",
  "version": 1,
  "made": {"command": "sheet", "options": {"sources": ["moth"]}},
  "pages": [
    {"size": [68, 38], "maps": {"color": {"file": "moth.png", "digest": "xxh3-128:00", "kind": "color"}}, \
"alpha": "straight"}
  ],
  "grid": {"columns": 2, "rows": 1, "cell": [32, 32], "gap": [0, 0], "margin": [2, 3], "fill": "across", "skirt": 0},
  "frames": [
    {"name": "moth_0", "source": "moth_0.png", "page": 0, "rect": [0, 0, 32, 32], "turn": 0, "canvas": [32, 32], \
"offset": [0, 0], "pivot": [0.5, 0.5]},
    {"name": "moth_1", "source": "moth_1.png", "page": 0, "rect": [32, 0, 32, 32], "turn": 0, "canvas": [32, 32], \
"offset": [0, 0], "pivot": [0.5, 0.5]}
  ],
  "clips": [
    {
      "name": "moth",
      "timebase": [24000, 1001],
      "steps": [[0, 1], [1, 2]],
      "direction": "alternate",
      "repeat": null,
      "end": "last",
      "interpolation": "step",
      "phase": [0, 1],
      "events": [],
      "set": ["direction"]
    }
  ],
  "groups": [],
  "digest": "xxh3-128:"""


def test_it_reads_well() -> None:
    text = manifest_text(MOTH)
    assert text.startswith(GOLDEN)
    assert text.endswith('"\n}\n')


def test_long_lists_fill_lines_in_their_order() -> None:
    steps = tuple(Step(number % 2, number + 1) for number in range(90))
    text = manifest_text(replace(MOTH, clips=(replace(MOTH.clips[0], steps=steps),)))
    lines = text.split('"steps": [')[1].split("]\n")[0].splitlines()
    assert max(map(len, text.splitlines())) <= 160
    assert len(lines) < 12
    assert parse_manifest(text.encode()).clips[0].steps == steps


names = st.text(min_size=1, max_size=5)
extras = st.dictionaries(
    st.sampled_from(("note", "x-vol")), st.integers(-(10**17), 10**17) | st.text() | st.lists(st.booleans())
)
clips = st.builds(
    Clip,
    name=names,
    timebase=st.fractions(Fraction(1, 9), 99, max_denominator=10**6),
    steps=st.lists(st.builds(Step, st.integers(0, 1), st.integers(1, 9)), min_size=1, max_size=60).map(tuple),
    direction=st.sampled_from(("normal", "reverse", "alternate", "alternate-reverse")),
    repeat=st.integers(0, 9) | st.just("forever"),
    end=st.sampled_from(("last", "first", "none")),
    interpolation=st.sampled_from(("step", "linear")),
    phase=st.fractions(0, Fraction(9, 10), max_denominator=10**6),
    phase_share=st.none() | st.fractions(0, 1, max_denominator=10**6),
    events=st.builds(Event, st.just(0), names, extras).map(lambda event: (event,)),
    hold_ends=st.sampled_from((None, True, False)),
    frames=st.sampled_from((None, (0, 1))),
    staggered=st.none() | names,
    set=st.sampled_from((None, ("holds", "order"))),
    was=st.none() | names,
    extra=extras,
)
manifests = st.builds(
    lambda clip, extra: Manifest(
        MOTH.pages, CUT.frames, (clip,), MOTH.grid, (Group("g", (clip.name,)),), SLICED, extra=extra
    ),
    clips,
    extras,
)


@given(manifests)
def test_what_is_written_reads_back_unknown_keys_included(manifest: Manifest) -> None:
    text = manifest_text(manifest)
    assert parse_manifest(text.encode()) == manifest
    assert manifest_text(parse_manifest(text.encode())) == text
    SCHEMA.validate(json.loads(text))


def _changed(part: str, value: Any) -> dict[str, Any]:
    """A manifest as JSON with one value changed: `frames.0.rect`."""
    content: dict[str, Any] = json.loads(manifest_text(MOTH))
    *way, last = part.split(".")
    place: Any = content
    for key in way:
        place = place[int(key) if key.isdigit() else key]
    place[last] = value
    return content


REFUSED: list[tuple[str, list[Any]]] = [
    ("clips.0.timebase", [[0, 1], [-1, 2], [10**18, 1], [1, 0], [1, 10**18], "12", 12]),
    ("clips.0.phase", [[-1, 2], [0, 0]]),
    ("clips.0.repeat", [-1, 10**18, "forever", 1.5]),
    ("clips.0.steps", [[], [[0, 0]], [[-1, 1]], [[0, 10**18]], [[0]]]),
    ("pages.0.maps.color.scale", [[0, 1], [2, 1], [1, 0], [-1, 2]]),
    ("pages.0.maps.color.file", ["", "../a.png", "/a.png", "a/../b.png", "a\\b.png", "c:a.png", "a\0b", ".."]),
    ("pages.0.size", [[0, 1], [1, -1], [10**18, 1]]),
    ("grid.columns", [0, -1]),
    ("grid.cell", [[0, 3], [3, 0]]),
    ("grid.gap", [[-1, 0]]),
    ("grid.skirt", [-1]),
    ("frames.0.page", [-1]),
    ("frames.0.rect", [[-1, 0, 1, 1], [0, 0, -1, 1]]),
    ("frames.0.canvas", [[0, 1]]),
]


@pytest.mark.parametrize(("part", "value"), [(part, value) for part, values in REFUSED for value in values])
def test_the_schema_refuses_what_the_reader_refuses(part: str, value: Any) -> None:
    content = _changed(part, value)
    with pytest.raises(ManifestError):
        parse_manifest(json.dumps(content).encode())
    with pytest.raises(jsonschema.ValidationError):
        SCHEMA.validate(content)


@pytest.mark.parametrize("file", ["a.png", "a/b.png", "..a.png", "a..png", "a/..b/c.png"])
def test_the_schema_takes_the_files_that_the_reader_takes(file: str) -> None:
    content = _changed("pages.0.maps.color.file", file)
    parse_manifest(json.dumps(content).encode())
    SCHEMA.validate(content)


def test_times_without_a_common_clock_are_not_written() -> None:
    clip = replace(MOTH.clips[0], timebase=Fraction(10**18, 7))
    with pytest.raises(ManifestError, match="no number of more than 18 digits"):
        manifest_text(replace(MOTH, clips=(clip,)))


LEFT_OUT: dict[str, dict[str, Any]] = {
    "frames": {"pivot": [0.5, 0.5]},
    "clips": {
        "direction": "normal",
        "repeat": None,
        "end": "last",
        "interpolation": "step",
        "phase": [0, 1],
        "events": [],
    },
    "grid": {"gap": [0, 0], "margin": [0, 0], "fill": "across", "skirt": 0},
}


@pytest.mark.parametrize("part", LEFT_OUT)
def test_what_may_be_left_out_means_its_default(part: str) -> None:
    """Everything that the schema does not require."""
    schema = SCHEMA.schema["$defs"][part.removesuffix("s")]
    short, full = (json.loads(manifest_text(MOTH)) for _ in range(2))
    for content in (short, full):
        for one in content[part] if isinstance(content[part], list) else [content[part]]:
            for key in set(schema["properties"]) - set(schema["required"]):
                one.pop(key, None)
            one |= LEFT_OUT[part] if content is full else {}
    assert parse_manifest(json.dumps(short).encode()) == parse_manifest(json.dumps(full).encode())


def frame(**changes: Any) -> Callable[[dict[str, Any]], None]:
    return lambda content: content["frames"][1].update(changes)


def clip(**changes: Any) -> Callable[[dict[str, Any]], None]:
    return lambda content: content["clips"][0].update(changes)


def page_file(path: str) -> Callable[[dict[str, Any]], None]:
    return lambda content: content["pages"][0]["maps"]["color"].update(file=path)


def other_map(**said: Any) -> Callable[[dict[str, Any]], None]:
    return lambda content: content["pages"][0]["maps"].update(normal=said)


WRONG: dict[str, tuple[Callable[[dict[str, Any]], Any], str]] = {
    "another format": (lambda c: c.update(format="x"), '"format" is \'x\', expected "kivel-manifest"'),
    "a later version": (lambda c: c.update(version=2), '"version" is 2, this Kivel reads version 1'),
    "no frames": (lambda c: c.pop("frames"), "frames is needed"),
    "text for a number": (
        frame(rect=[0, "x", 1, 1]),
        "frames[1].rect[1]: expected a whole number, 0 or more, found 'x'",
    ),
    "a turn of 45": (frame(turn=45), "frames[1].turn: expected 0 or 90, found 45"),
    "no such page": (frame(page=1), "frames[1].page: 1, there are 1 pages, 0-0"),
    "beyond the page": (
        frame(rect=[40, 0, 32, 32]),
        "frames[1].rect: [40, 0, 32, 32] reaches beyond its page of 68x38",
    ),
    "negative": (frame(rect=[-1, 0, 3, 3]), "frames[1].rect[0]: expected a whole number, 0 or more, found -1"),
    "beyond the canvas": (frame(offset=[1, 0]), "32x32 px at offset [1, 0] reach beyond a canvas of 32x32"),
    "turned beyond": (frame(rect=[0, 0, 16, 32], turn=90, canvas=[16, 32]), "32x16 px at offset"),
    "cut from nothing": (frame(cut={"rect": [0, 0, 1, 1]}), "frames[1].cut: the manifest has no sliced_from"),
    "no such frame": (clip(steps=[[0, 1], [2, 1]]), "clips[0].steps[1]: frame 2, there are 2 frames, 0-1"),
    "no hold": (clip(steps=[[0, 0]]), "clips[0].steps[0][1]: expected a whole number, 1 or more, found 0"),
    "no steps": (clip(steps=[]), "clips[0].steps: expected at least 1, found none"),
    "no time": (clip(timebase=[0, 1]), "clips[0].timebase[0]: expected a whole number, 1 or more, found 0"),
    "a float": (
        clip(timebase=23.976),
        "clips[0].timebase: expected a fraction as two whole numbers, like [24000, 1001]",
    ),
    "a text": (clip(timebase="24000/1001"), "clips[0].timebase: expected a fraction as two whole numbers"),
    "halves of a number": (clip(phase=[1.5, 1]), "clips[0].phase: expected a fraction as two whole numbers"),
    "over nothing": (clip(timebase=[1, 0]), "clips[0].timebase: expected a fraction as two whole numbers"),
    "a word for ever": (clip(repeat="forever"), 'a repeat of "forever", expected a count, or null for forever'),
    "a phase beyond": (clip(phase=[3, 1]), "clips[0].phase: 3, expected from 0 up to below 2"),
    "a phase at the end": (clip(phase=[2, 1]), "clips[0].phase: 2, expected from 0 up to below 2"),
    "a phase before": (clip(phase=[-1, 2]), "clips[0].phase[0]: expected a whole number, 0 or more, found -1"),
    "no such step": (clip(events=[{"step": 9, "name": "a"}]), "events[0]: step 9, there are 2 steps, 0-1"),
    "negative repeat": (clip(repeat=-1), "clips[0].repeat: expected a whole number, 0 or more, found -1"),
    "twice": (lambda c: c["clips"].append(c["clips"][0]), "clips[1].name: 'moth' is used twice"),
    "no member": (lambda c: c.update(groups=[{"name": "g", "members": ["x"]}]), "there is no clip 'x'; clips: moth"),
    "no digest of the second map": (other_map(file="n.png"), "pages[0].maps.normal: digest is needed"),
    "a kind of the second map": (
        other_map(file="n.png", digest="xxh3-128:0", kind="colour"),
        "pages[0].maps.normal.kind: expected color, mask, normal, normal-down or motion, found 'colour'",
    ),
    "a key of the second map": (
        other_map(file="n.png", digest="xxh3-128:0", key=[1, 2]),
        "pages[0].maps.normal.key: expected a list of 3, found [1, 2]",
    ),
    "a colour in the second ground": (
        frame(ground={"color": [0, 0, 0, 0], "normal": [0, 0, "x", 0]}),
        "frames[1].ground.normal[2]: expected a number, found 'x'",
    ),
    "a text for made": (lambda c: c.update(made="sheet"), "made: expected a table, found 'sheet'"),
    "options that are a list": (
        lambda c: c.update(made={"command": "sheet", "options": [1]}),
        "made.options: expected a table, found [1]",
    ),
    "no base map": (lambda c: c["pages"][0].update(maps={}), 'there is no map "color"'),
    "climbing out": (page_file("../moth.png"), "pages[0].maps.color.file: '../moth.png' leaves the manifest's folder"),
    "another drive": (page_file("c:moth.png"), "leaves the manifest's folder"),
    "climbing further in": (page_file("a/../../b.png"), "leaves the manifest's folder"),
    "absolute": (page_file("/etc/moth.png"), "leaves the manifest's folder"),
    "another system's absolute": (page_file("C:\\moth.png"), "leaves the manifest's folder"),
}


@pytest.mark.parametrize(("change", "words"), WRONG.values(), ids=WRONG)
def test_what_is_wrong_is_named_with_its_place(change: Callable[[dict[str, Any]], Any], words: str) -> None:
    content = json.loads(manifest_text(MOTH))
    change(content)
    with pytest.raises(ManifestError) as error:
        parse_manifest(json.dumps(content).encode())
    assert words in str(error.value)
    assert "\n" not in str(error.value)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b'{\n  "a": 1,\n  oops', "line 3, column 3"),
        (b"\xff\xfe", "not UTF-8"),
        (b"[1]", "expected a JSON object"),
        (b"[" * 100_000, "line 1: nested too deeply"),
        (b'{"a": ' + b"9" * 5000 + b"}", "a number of more than 18 digits"),
        (b'{"a": 1e400}', "a number of more than 18 digits"),
        (b'{"a": -Infinity}', "a number of more than 18 digits"),
        (b'{"a": NaN}', "a number of more than 18 digits"),
    ],
    ids=["syntax", "encoding", "array", "deep", "digits", "exponent", "infinite", "no number"],
)
def test_broken_json_is_refused(data: bytes, words: str) -> None:
    with pytest.raises(ManifestError, match=words):
        parse_manifest(data)


def test_what_is_only_made_is_told_from_what_was_set_edited_or_is_unknown() -> None:
    clip = replace(MOTH.clips[0], set=None)
    made = replace(MOTH, clips=(clip,))
    assert is_as_made(manifest_text(made).encode())
    frame = replace(made.frames[0], extra={"x": 1})
    others = [
        MOTH, replace(made, removed=("walk",)), replace(made, extra={"x": 1}),
        replace(made, clips=(replace(clip, extra={"x": 1}),)), replace(made, frames=(frame, *made.frames[1:])),
    ]  # fmt: skip
    assert not any(is_as_made(manifest_text(other).encode()) for other in others)
    assert not is_as_made(b"[" * 100_000)
    assert not is_as_made(manifest_text(made, edited=True).encode())
    assert not is_as_made(manifest_text(made).replace('"color"', '"colour"').encode())
    assert not any(is_as_made(data) for data in (b"", b"[]", b"{}", b'{"digest": 1}', b"\xff"))
