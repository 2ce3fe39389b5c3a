"""Each code appears where the fault is, and is gone where it is not; what is let pass is said."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.core.checks.codes import CODES
from kivel.core.checks.findings import Finding, Spot
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.groups import Group
from kivel.files.formats.sarif_files import sarif_text
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.files.png.read import Png, pixels_of
from kivel.making.checking import check
from kivel.making.checking.allowances import parse_allowance
from program import art, in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        yield tmp_path


def disc(number: int = 0, *, side: int = 32, color: tuple[int, int, int] = (200, 180, 90), radius: float = 9) -> Any:
    """A round picture that moves to and fro a little, bled all over, nothing near the border."""
    rows, columns = np.mgrid[0:side, 0:side] + 0.5
    x = side / 2 + 3 * np.sin(number * np.pi / 4)
    distance = np.hypot(columns - x, rows - side / 2)
    image = np.zeros((side, side, 4), np.uint8)
    image[...] = (*color, 0)
    image[..., 0] = np.clip(color[0] + columns - x, 0, 255)
    image[..., 3] = np.clip((radius - distance) * 255, 0, 255)
    return image


def frames(count: int = 8, change: Callable[[int, Any], Any] | None = None, folder: str = "f") -> str:
    for number in range(count):
        image = disc(number)
        write(Path(f"{folder}/f_{number}.png"), image if change is None else change(number, image))
    return folder


def sheet(count: int = 8, *, folder: str = "f", change: Callable[[int, Any], Any] | None = None, **options: Any) -> str:
    frames(count, change, folder)
    kivel.sheet(folder, out="s.png", **{"fps": 30, "columns": 4, "gap": 16, "margin": 16, "force": True, **options})
    return "s.kivel.json"


def edited(path: str, **changes: Any) -> str:
    Path(path).write_text(manifest_text(replace(read_manifest(Path(path)), **changes)))
    return path


def clips(*found: Clip, groups: tuple[Group, ...] = ()) -> str:
    return edited(sheet(), clips=found, groups=groups)


def one_frame(at: int, change: Callable[[Any], Any]) -> Callable[[int, Any], Any]:
    return lambda number, image: change(image) if number == at else image


def painted(image: Any, box: tuple[int, int, int, int], value: Any) -> Any:
    x, y, w, h = box
    image[y : y + h, x : x + w] = value
    return image


def with_map(name: str, change: Callable[[int, Any], Any]) -> str:
    frames(8, change, f"f-{name}")
    return sheet(map=[f"{name}=f-{name}"])


def dome(number: int, *, flip: bool = False, scale: float = 1.0) -> Any:
    """Normals of a round thing under the disc of a frame."""
    image = disc(number)
    rows, columns = np.mgrid[0:32, 0:32] + 0.5
    x, y = (columns - 16 - 3 * np.sin(number * np.pi / 4)) / 11, (rows - 16) / 11
    z = np.sqrt(np.clip(1 - x * x - y * y, 0.05, 1))
    length = np.sqrt(x * x + y * y + z * z)
    normal = np.stack([x, (y if flip else -y), z], -1) / length[..., None] * scale
    image[..., :3] = np.clip(np.rint((normal + 1) * 127.5), 0, 255)
    image[..., :3] = np.where(image[..., 3:] > 0, image[..., :3], (128, 128, 255))
    return image


def pack(change: Callable[[Path], object] | None = None, text: str = "", **options: Any) -> tuple[str, dict[str, Any]]:
    sheet(change=None)
    kivel.profile("new", "tiles.toml", example="tiles", force=True)
    twin, light = '"tiles/{name:snake}_glow.png"', '"light/{name:snake}.png"'
    tiles = Path("tiles.toml").read_text().replace("largest_side", f"{text}\nlargest_side", 1)
    Path("tiles.toml").write_text(tiles.replace(twin, light))
    kivel.export("s.kivel.json", profile="tiles.toml", out="pack")
    if change:
        change(Path("pack"))
    return "pack", {"profile": "tiles.toml", **options}


def without_the_third(folder: str) -> str:
    Path(folder, "f_3.png").unlink()
    return folder


def _on_a_post(change: Callable[[Any], Any]) -> str:
    """A thing that stands still, and a spot that runs along it."""
    return frames(8, lambda number, _image: one_frame(4, change)(number, painted(disc(), (3 * number, 15, 3, 3), 255)))


def _tile(waves: float) -> Any:
    """Opaque; it meets where it has whole waves."""
    level = np.sin(np.arange(32) / 32 * 2 * np.pi * waves)
    return np.dstack([*[np.rint(120 + 80 * level[:, None] * np.ones(32))] * 3, np.full((32, 32), 255)]).astype(np.uint8)


Case = Callable[[], Any]
STEPS = tuple(Step(number, 2) for number in range(8))
CLIP = Clip("c", Fraction(60), STEPS)
FRO = Clip("c", Fraction(60), (*STEPS, Step(7, 2)), "alternate")


def _twins() -> str:
    return frames(change=lambda number, image: disc(0) if number == 4 else image + np.uint8(number == 2))


def _twins_on_an_atlas() -> str:
    """They are stored once."""
    kivel.atlas(_twins(), out="a.png")
    return "a.kivel.json"


def _page_of_another_size() -> str:
    name = sheet()
    write(Path("s.png"), read(Path("s.png"))[:-4])
    return name


def _edited_page() -> str:
    name = sheet()
    write(Path("s.png"), painted(read(Path("s.png")), (20, 20, 2, 2), 9))
    return name


def _unlinked() -> str:
    name = sheet()
    Path("s.png").unlink()
    return name


def _unreadable() -> str:
    name = sheet()
    Path("s.png").write_bytes(Path("s.png").read_bytes()[:200])
    return name


def _large_manifest() -> str:
    """A page too large to be drawn here: its numbers alone."""
    name = sheet()
    content = json.loads(Path(name).read_text())
    content["pages"][0]["size"] = [131072, 131072]
    del content["grid"]
    Path(name).write_text(json.dumps(content))
    return name


def _profile_with_schema(text: str) -> tuple[str, dict[str, Any]]:
    Path("s.json").write_text('{"type": "array"}')
    sheet()
    Path("q.toml").write_text(
        'format = "kivel-profile"\nversion = 1\n[[output]]\nfile = "{name}.json"\nschema = "s.json"\ntemplate = "[]"\n'
    )
    kivel.export("s.kivel.json", profile="q.toml", out="pack")
    Path("pack/s.json").write_text(text)
    return "pack", {"profile": "q.toml"}


def _counted(**options: Any) -> tuple[str, dict[str, Any]]:
    """A pack in which the number of columns stands."""
    sheet(**options)
    template = "{{ sheet.columns }}"
    Path("q.toml").write_text(
        f'format = "kivel-profile"\nversion = 1\n[[output]]\nfile = "{{name}}.txt"\ntemplate = "{template}"\n'
    )
    kivel.export("s.kivel.json", profile="q.toml", out="pack")
    return "pack", {"profile": "q.toml", "on": "s.kivel.json"}


def _faded(fade: str) -> tuple[str, dict[str, Any]]:
    """A pack for a target that fades by stored values, with frames in between."""
    sheet(inbetween=1, fade=fade)
    Path("q.toml").write_text('format = "kivel-profile"\nversion = 1\nfade = "stored"\n[image]\nfile = "{name}.png"\n')
    kivel.export("s.kivel.json", profile="q.toml", out="pack")
    return "pack", {"profile": "q.toml", "on": "s.kivel.json"}


def _renamed(name: str, to: str) -> Callable[[Path], object]:
    return lambda folder: (folder / name).rename(folder / to)


CASES: dict[str, tuple[Case, Case]] = {
    "manifest": (lambda: clips(replace(CLIP, steps=(Step(99, 1),))), sheet),
    "page-missing": (_unlinked, sheet),
    "page-unreadable": (_unreadable, sheet),
    "page-size": (_page_of_another_size, sheet),
    "page-edited": (_edited_page, sheet),
    "page-not-divided": (lambda: _counted(gap=3), lambda: _counted(gap=0, margin=0, divided=True)),
    "fade-differs": (lambda: _faded("linear"), lambda: _faded("stored")),
    "cell-bleed": (lambda: sheet(gap=0, change=lambda _n, image: image | np.array([0, 0, 0, 255], np.uint8)), sheet),
    "fringe": (
        lambda: sheet(change=lambda _n, image: np.where(image[..., 3:] > 0, image, (255, 0, 255, 0)).astype(np.uint8)),
        sheet,
    ),
    "hidden-color": (
        lambda: sheet(
            change=lambda _n, image: painted(image, (0, 0, 5, 32), art(3, width=5, height=32) * (1, 1, 1, 0))
        ),
        sheet,
    ),
    "sides-of-four": (lambda: sheet(gap=3, margin=0), sheet),
    "memory": (
        lambda: (sheet(page_limit=None, columns=8, gap=256, margin=256), {"budget": 1}),
        lambda: (sheet(), {"budget": 1}),
    ),
    "waste": (lambda: sheet(gap=64), lambda: sheet(gap=4, margin=0)),
    "texture-precision": (_large_manifest, sheet),
    "number-gap": (lambda: without_the_third(frames()), frames),
    "odd-size": (lambda: frames(change=one_frame(2, lambda image: image[:-2])), frames),
    "mixed-depth": (lambda: frames(change=one_frame(2, lambda image: image[..., :3])), frames),
    "twins": (_twins, _twins_on_an_atlas),
    "near-repeat": (
        lambda: frames(change=one_frame(1, lambda _image: disc(0) ^ np.array([1, 0, 0, 0], np.uint8))),
        frames,
    ),
    "first-is-last": (
        lambda: frames(9, one_frame(4, lambda image: image ^ np.array([64, 0, 0, 0], np.uint8))),
        lambda: frames(7),
    ),
    "mirrored-half": (
        lambda: frames(8, lambda number, _image: disc(side=32, radius=4 + min(number, 8 - number))),
        lambda: frames(7),
    ),
    "loop-pops": (
        lambda: sheet(change=lambda number, _image: np.roll(disc(0, radius=5), number * 2 - 8, axis=1)),
        lambda: sheet(change=lambda number, _image: disc(number)),
    ),
    "cut": (lambda: frames(change=lambda _n, image: painted(image, (10, 0, 9, 12), 255)), frames),
    "hardly-visible": (
        lambda: frames(change=one_frame(3, lambda image: np.minimum(image, (255, 255, 255, 9)).astype(np.uint8))),
        frames,
    ),
    "faint-edges": (lambda: frames(change=lambda _n, image: np.maximum(image, (0, 0, 0, 3)).astype(np.uint8)), frames),
    "premultiplied": (
        lambda: frames(
            change=lambda _n, image: np.concatenate(
                [image[..., :3] * (image[..., 3:] / 255), image[..., 3:]], -1
            ).astype(np.uint8)
        ),
        frames,
    ),
    "flicker": (
        lambda: frames(
            change=one_frame(
                4, lambda image: np.concatenate([image[..., :3] * 0.8, image[..., 3:]], -1).astype(np.uint8)
            )
        ),
        frames,
    ),
    "map-coverage": (
        lambda: with_map("emission", lambda _n, image: painted(image, (0, 0, 32, 6), 255)),
        lambda: with_map("emission", lambda _n, image: image),
    ),
    "frame-shifted": (
        lambda: (_on_a_post(lambda image: np.roll(image, 1, 1)), {"only": ["frame-shifted"]}),
        lambda: (_on_a_post(lambda image: image), {"only": ["frame-shifted"]}),
    ),
    "tile-seam": (
        lambda: sheet(skirt=4, skirt_wrap=True, change=lambda _n, _image: _tile(0.25)),
        lambda: sheet(skirt=4, skirt_wrap=True, change=lambda _n, _image: _tile(1.0)),
    ),
    "map-shifted": (
        lambda: with_map("normal", lambda number, _image: np.roll(dome(number), (-1, 2), (0, 1))),
        lambda: with_map("normal", lambda number, _image: dome(number)),
    ),
    "map-late": (
        lambda: with_map("emission", lambda number, _image: disc(number - 2)),
        lambda: with_map("emission", lambda _n, image: image),
    ),
    "normal-length": (
        lambda: with_map("normal", lambda number, _image: dome(number, scale=0.7)),
        lambda: with_map("normal", lambda number, _image: dome(number)),
    ),
    "normal-inward": (
        lambda: with_map("normal", lambda number, _image: dome(number) ^ np.array([0, 0, 255, 0], np.uint8)),
        lambda: with_map("normal", lambda number, _image: dome(number)),
    ),
    "normal-axis": (
        lambda: with_map("normal", lambda number, _image: dome(number, flip=True)),
        lambda: with_map("normal", lambda number, _image: dome(number)),
    ),
    "emission-unseen": (
        lambda: with_map("emission", lambda _n, image: painted(image, (0, 0, 32, 9), 255)),
        lambda: with_map("emission", lambda _n, image: image),
    ),
    "step-unseen": (
        lambda: clips(replace(CLIP, timebase=Fraction(200), steps=(Step(0, 1), Step(1, 30)))),
        lambda: clips(CLIP),
    ),
    "steps-uneven": (
        lambda: clips(replace(CLIP, timebase=Fraction(25), steps=tuple(Step(n, 1) for n in range(8)))),
        lambda: clips(CLIP),
    ),
    "turn-doubled": (lambda: clips(FRO), lambda: clips(replace(FRO, steps=STEPS))),
    "off-clock": (lambda: (clips(CLIP), {"clock": 25}), lambda: (clips(CLIP), {"clock": 60})),
    "event-unseen": (
        lambda: clips(replace(CLIP, repeat=1, phase=Fraction(3), events=(Event(1, "hoo"),))),
        lambda: clips(replace(CLIP, events=(Event(1, "hoo"),))),
    ),
    "phase-repeated": (
        lambda: clips(CLIP, replace(CLIP, name="d"), groups=(Group("g", ("c", "d")),)),
        lambda: clips(CLIP, replace(CLIP, name="d", phase=Fraction(1)), groups=(Group("g", ("c", "d")),)),
    ),
    "motion-unserved": (lambda: _warped_order([[0, 1], [4, 1]]), lambda: _warped_order([[0, 1], [1, 1]], repeat=1)),
    "motion-unused": (lambda: sheet(motion=True, interpolation="linear"), lambda: sheet(motion=True)),
    "motion-cut-off": (lambda: _with_codes(255), lambda: sheet(motion=True)),
    "motion-worse": (lambda: _with_codes(40), lambda: sheet(motion=True)),
    "file-missing": (lambda: pack(lambda folder: (folder / "timing/s.txt").unlink()), pack),
    "file-misnamed": (lambda: pack(_renamed("timing/s.txt", "timing/S.txt.txt")), pack),
    "file-stale": (
        lambda: pack(lambda folder: (folder / "timing/s.txt").write_text("0 9"), on=["s.kivel.json"]),
        lambda: pack(on=["s.kivel.json"]),
    ),
    "file-edited": (lambda: pack(lambda folder: (folder / "timing/s.txt").write_text("0 9")), pack),
    "text-encoding": (lambda: pack(lambda folder: (folder / "timing/s.txt").write_bytes(b"\xef\xbb\xbf0 1")), pack),
    "schema": (lambda: _profile_with_schema("{}"), lambda: _profile_with_schema("[1]")),
    "lone-map": (lambda: pack(lambda folder: write(folder / "light/moth.png", disc())), pack),
    "case-clash": (lambda: pack(lambda folder: (folder / "timing/S.TXT").write_text("")), pack),
    "orphan": (lambda: pack(lambda folder: (folder / "notes.md").write_text("")), pack),
    "plays-otherwise": (lambda: (_edited_page(), {"plays": "f"}), lambda: (sheet(), {"plays": "f"})),
}


def _warped_order(steps: list[list[int]], **more: Any) -> str:
    """A sheet whose clip is warped, its steps written by hand."""
    path = Path(sheet(motion=True))
    content = json.loads(path.read_text())
    content["clips"][0] |= {"steps": steps, **more}
    path.write_text(json.dumps(content))
    return str(path)


def _with_codes(code: int) -> str:
    """A sheet all of whose motion is the same."""
    path = sheet(motion=True)
    codes = read(Path("s.motion.png")).copy()
    codes[..., :2] = code
    write(Path("s.motion.png"), codes)
    return path


def test_every_code_has_a_case() -> None:
    assert set(CASES) == set(CODES)


@pytest.mark.parametrize("code", CASES)
def test_a_code_appears_with_its_fault_and_goes_with_it(place: Path, code: str) -> None:
    for number, build in enumerate(CASES[code]):
        (place / str(number)).mkdir()
        with contextlib.chdir(place / str(number)):
            built = build()
            source, options = built if isinstance(built, tuple) else (built, {})
            found = {one.code for one in kivel.check(source, **options).findings}
        assert (code in found) == (number == 0), (number, found)


def test_what_is_allowed_is_let_pass_until_its_day_and_what_is_known_is_too(
    place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    name = sheet(gap=3, margin=0)
    monkeypatch.setattr(check, "_DAY", date(2027, 1, 31))
    found = kivel.check(name)
    assert "sides-of-four" in {one.code for one in found.findings}
    allowed = kivel.check(name, ignore=["sides-of-four=*.png until 2027-01-31 because it is never compressed"])
    assert (allowed.passed, {one.code for one in allowed.findings} & {"sides-of-four"}) == (1, set())
    ended = kivel.check(name, ignore=["sides-of-four until 2027-01-30"], only=["sides*"])
    assert [one.text for one in ended.findings if "ended" in one.text] == [
        "the allowance for sides-of-four=* ended on 2027-01-30"
    ]
    assert kivel.check(name, ignore=["sides-of-four=moth*"], only=["sides-of-four"]).passed == 0
    report = in_process(["check", name, "--json"], place)
    (place / "known.json").write_text(report.out)
    again = kivel.check(name, baseline="known.json")
    assert (again.findings, again.passed) == ((), len(found.findings))


WRONG = {
    "a code": (["check", "f", "--ignore", "bleeding"], "unknown code 'bleeding'"),
    "a day": (["check", "f", "--ignore", "cut until 2027-02-31"], "2027-02-31 is not a date"),
    "an allowance": (["check", "f", "--ignore", "cut = x y"], "expected CODE, CODE=PATTERN"),
    "what alone": (["check", "f", "--only", "x"], "--only x: unknown code"),
    "what to explain": (["check", "--codes", "x"], "unknown code 'x'"),
    "nothing": (["check"], "SRC is needed"),
    "no report": (["check", "f", "--baseline", "f/f_0.png"], "f/f_0.png: is not a JSON report"),
    "a picture of nothing": (["check", "f", "--difference", "x.png"], "--difference needs --plays"),
    "no pack": (["check", "f/f_0.png", "--profile", "p.toml"], "SRC must be the folder of a pack"),
}


@pytest.mark.parametrize(("words", "told"), WRONG.values(), ids=WRONG)
def test_what_cannot_be_checked_says_why(place: Path, words: list[str], told: str) -> None:
    frames(2)
    done = in_process(words, place)
    assert done.code in (1, 2)
    assert told in done.err


def test_a_collection_of_many_sizes_is_no_sequence_with_odd_ones() -> None:
    frames(4, lambda number, image: image[: 20 + number], "props")
    assert "odd-size" not in {one.code for one in kivel.check("props").findings}


def test_errors_fail_and_under_strict_warnings_do(place: Path) -> None:
    name = sheet(gap=0)
    assert in_process(["check", name, "--only", "cell-bleed"], place).code == 0
    assert in_process(["check", name, "--only", "cell-bleed", "--mips", "5", "--strict"], place).code == 1
    Path("s.png").unlink()
    done = in_process(["check", name], place)
    assert (done.code, done.out.splitlines()[0]) == (1, "error    page-missing     s.png, map color")


def test_the_promise_of_a_sheet_is_held_against_it(place: Path) -> None:
    name = sheet(gap=0, margin=0, mip_safe=2)
    assert "cell-bleed" not in {one.code for one in kivel.check(name, mips=2).findings if one.severity == "error"}
    name = sheet(gap=0, margin=0, change=lambda _n, image: image[:30, :30] | np.array([0, 0, 0, 255], np.uint8))
    made = read_manifest(place / name).made
    assert made is not None
    edited(name, made=replace(made, options={**made.options, "mip-safe": 2}))
    errors = [one for one in kivel.check(name, mips=2).findings if one.code == "cell-bleed"]
    assert [one.severity for one in errors] == ["error"]


@pytest.mark.parametrize("look", [kivel.check, kivel.inspect])
def test_a_page_is_decoded_once_however_much_is_looked_at(look: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    name = sheet(map=["glow=f"])
    decoded = []

    def watched(png: Png) -> Any:
        decoded.append(png.header)
        return pixels_of(png)

    monkeypatch.setattr("kivel.files.images.pixels_of", watched)
    look(name)
    assert len(decoded) == 2
    write(Path("s.png"), art(9, width=240, height=160))
    pages = kivel.inspect(name).pages
    assert [page.state for page in pages] == ["other size", "as stated"]


def test_sarif_is_as_its_standard_says_and_points_at_its_rules(place: Path) -> None:
    text = in_process(["check", sheet(gap=3, margin=0), "--format", "sarif"], place).out
    content = json.loads(text)
    (run,) = content["runs"]
    rules = [rule["id"] for rule in run["tool"]["driver"]["rules"]]
    assert run["results"]
    for result in run["results"]:
        assert rules[result["ruleIndex"]] == result["ruleId"]
        assert result["level"] in ("error", "warning", "note")
    odd = Finding("cut", "note", Spot("a b/\u00fc.png", clip='"<x>"'), None, "t")
    uri = json.loads(sarif_text([odd], "1"))["runs"][0]["results"][0]["locations"][0]["physicalLocation"]
    assert uri["artifactLocation"]["uri"] == "a%20b/%C3%BC.png"


def test_allowances_are_read_as_they_are_written() -> None:
    one = parse_allowance("cut=moth * until 2027-01-31 because the canvas is full")
    assert one == ("cut", "moth *", date(2027, 1, 31), "the canvas is full")


def test_a_proof_tells_the_first_pixel_that_differs_and_draws_it(place: Path) -> None:
    frames(5)
    kivel.atlas("f", out="a.png", turn=True, gap=1)
    kivel.sheet("f", out="s.png", fps=10, force=True)
    assert kivel.check("a.kivel.json", plays="f").findings == ()
    kivel.retime("s.kivel.json", fps=11)
    assert kivel.check("s.kivel.json", plays="f").findings == ()  # a folder states no times
    kivel.retime("s.kivel.json", fps=10)
    kivel.sheet("f", out="fast.png", fps=11)
    kivel.sheet("f", out="t.png", fps=10)
    late = edited("t.kivel.json", clips=(replace(read_manifest(Path("t.kivel.json")).clips[0], name="f"),))
    (one,) = kivel.check("fast.kivel.json", plays=late).findings
    assert (one.code, "5 steps in 454.5 ms (11 a second)" in one.text) == ("plays-otherwise", True)
    assert "in the source it is 5 steps in 500 ms (10 a second)" in one.text
    page = read(place / "s.png")
    page[16, 32 + 16] ^= 8
    write(place / "s.png", page)
    found = kivel.check("s.kivel.json", plays="f", difference="d.png")
    assert [(one.code, one.where.frame, one.where.pixel) for one in found.findings] == [
        ("plays-otherwise", "f_1", (16, 16))
    ]
    assert kivel.check("s.kivel.json", plays="f", tolerance=8).findings == ()
    drawn = read(place / "d.png")
    assert drawn.shape[:2] == (256, 3 * 256 + 32)


SOURCES: dict[str, tuple[dict[str, Any], str]] = {
    "another length": (
        {"fps": 30}, "one cycle is 14 steps in 466.7 ms (30 a second); in the source it is 14 steps in 3.5 s",
    ),
    "another repeat": ({"fps": 4, "repeat": 2}, "plays 2 times, its source plays forever"),
    "some frames": ({"fps": 4, "order": "0-3"}, "one cycle is 4 steps in 1 s"),
    "backwards": ({"fps": 4, "direction": "reverse"}, "it does not show "),
    "other holds": ({"holds": "2,1,3,2*11", "timebase": 8}, "it does not show "),
    "the same": ({"fps": 4}, ""),
}  # fmt: skip


@pytest.mark.usefixtures("place")
@pytest.mark.parametrize("suffix", ["apng", "gif", "webp", "folder"])
@pytest.mark.parametrize("name", SOURCES)
def test_a_proof_takes_the_times_that_its_source_states(name: str, suffix: str) -> None:
    given, said = SOURCES[name]
    frames(14)
    source = f"src.{suffix}"
    if suffix == "folder":
        kivel.sheet("f", out="whole.png", fps=4)
        kivel.slice("whole.kivel.json", out=source)
    else:
        kivel.preview("f", out=source, fps=4)
    kivel.sheet(source, out="s.png", **given)
    found = kivel.check("s.kivel.json", plays=source)
    assert [said in one.text for one in found.findings] == ([True] if said else []), found.findings
    assert not any("states no times" in note for note in found.notes)


ORDERS = {"0-3": "frames 0-3, its source 0-7", "7-0": "frames 7-0, its source 0-7", "0-7": "", "0*2,1-7": ""}


@pytest.mark.usefixtures("place")
@pytest.mark.parametrize("order", ORDERS)
def test_a_proof_compares_which_frames_show_in_which_order(order: str) -> None:
    frames(8)
    kivel.sheet("f", out="s.png", order=order)
    found = kivel.check("s.kivel.json", plays="f")
    assert [ORDERS[order] in one.text for one in found.findings] == ([True] if ORDERS[order] else [])
    assert kivel.check("s.kivel.json", plays="f", frames_only=True).findings == ()


@pytest.mark.parametrize(("hold", "rate"), [("5ms", 120), ("9ms", 60), ("20ms", 30), ("40ms", None)])
def test_the_highest_rate_at_which_a_step_may_go_unseen_is_told(place: Path, hold: str, rate: int | None) -> None:
    for number in range(3):
        write(place / f"owl/owl_{number}.png", art(number))
    kivel.sheet("owl", out="owl.png", hold=hold)
    found = [one for one in kivel.check("owl.kivel.json", only=["step-unseen"]).findings if one.code == "step-unseen"]
    assert [one.figure for one in found] == ([rate] if rate else [])
    assert all(f"at {rate} a second" in one.text for one in found)
