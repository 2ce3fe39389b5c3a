"""Sentences that claim something, each on what would make it false."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable, Iterator
from contextlib import chdir
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from moving_spots import circling

import kivel
from kivel.core.errors import KivelError
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.light import linear_to_srgb
from kivel.files.exr import encode_exr
from program import art, in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with chdir(tmp_path):
        yield tmp_path


def float_sheet() -> None:
    """Four frames of light, some of it brighter than white."""
    Path("glow").mkdir()
    for number in range(4):
        frame = np.zeros((16, 16, 4), np.float32)
        frame[4:12, 4:12] = (0.3 + 0.2 * number, 0.2, 2.0, 1)
        Path(f"glow/glow_{number}.exr").write_bytes(encode_exr(frame))
    kivel.sheet("glow", out="glow.exr", fps=12)


@pytest.mark.parametrize(("target", "name"), [("ktx2", "KTX 2.0"), ("svg", "SVG"), ("gltf", "glTF")])
def test_float_pages_are_refused_by_what_takes_bytes_with_what_to_do(place: Path, target: Any, name: str) -> None:
    float_sheet()
    with pytest.raises(KivelError, match=rf"its pages are float \(OpenEXR\), and {name} does not take these.*exposure"):
        kivel.export("glow.kivel.json", to=target, out="out")
    assert not list(place.glob("out*"))
    kivel.sheet("glow", out="plain.png", exposure=0, fps=12)
    assert kivel.export("plain.kivel.json", to=target, out="out").files


def test_float_pages_are_judged_and_shown_by_their_light() -> None:
    float_sheet()
    assert "hardly visible" not in in_process(["check", "glow.kivel.json"], Path()).out
    pixel = np.full((1, 1, 4), 0.25, np.float32)
    expected = np.rint(255 * linear_to_srgb(np.array(0.25)))
    assert to_8_bits(pixel)[0, 0].tolist() == [expected] * 3 + [64]
    assert to_8_bits(pixel, is_color=False)[0, 0].tolist() == [64] * 4
    kivel.preview("glow.kivel.json", out="glow.html")
    assert Path("glow.html").read_text().count("iVBORw0KGgo") == 6


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_exact_is_said_of_what_keeps_every_value(dtype: type) -> None:
    for number in range(3):
        write(Path(f"owl/owl_{number}.png"), art(number, dtype=dtype))
    kivel.sheet("owl", out="owl.png", fps=12)
    notes = " ".join(kivel.export("owl.kivel.json", to="ktx2", out="owl.ktx2").notes)
    assert ("exact" in notes, "rounded to" in notes) == (dtype == np.uint8, dtype == np.uint16)


def test_a_map_of_half_the_size_has_levels_of_its_own() -> None:
    for number, frame in enumerate(circling(8)):
        write(Path(f"around/around_{number}.png"), frame)
    kivel.sheet("around", out="a.png", motion=True, motion_size="half")
    made = kivel.export("a.kivel.json", to="ktx2", page=0, show="motion", out="a.ktx2")
    assert "96x48" in " ".join(made.notes)


WARPED: dict[str, tuple[Callable[[], object], str]] = {
    "a loop": (lambda: kivel.retime("a.kivel.json", repeat="forever", interpolation="motion"), 'repeat="forever"'),
    "an order": (lambda: kivel.retime("a.kivel.json", order="0,3", interpolation="motion"), "another order"),
}


@pytest.mark.parametrize("name", WARPED)
def test_why_a_clip_cannot_be_warped_names_the_cause(name: str) -> None:
    for number, frame in enumerate(circling(6)):
        write(Path(f"around/around_{number}.png"), frame)
    kivel.sheet("around", out="a.png", motion=True, repeat=1)
    call, said = WARPED[name]
    with pytest.raises(KivelError, match=said):
        call()


def lava() -> np.ndarray:
    """An opaque tile, dark rock with veins, of which the dark is the commonest at its border."""
    tile = np.full((16, 16, 4), (24, 20, 20, 255), np.uint8)
    rng = np.random.default_rng(3)
    tile[rng.random((16, 16)) < 0.55] = (230, 90, 20, 255)
    return tile


def tiles() -> np.ndarray:
    return np.concatenate([np.roll(lava(), shift, axis=1) for shift in range(0, 16, 4)], axis=1)


def swatches() -> np.ndarray:
    colours = [
        (0, 0, 0),
        (200, 40, 40),
        (40, 200, 40),
        (40, 40, 200),
        (0, 0, 0),
        (90, 90, 90),
        (250, 250, 250),
        (9, 9, 60),
    ]
    sheet = np.full((16, 32, 4), 255, np.uint8)
    for number, colour in enumerate(colours):
        row, column = divmod(number, 4)
        sheet[8 * row : 8 * row + 8, 8 * column : 8 * column + 8, :3] = colour
    return sheet


def red_tiles() -> np.ndarray:
    """Of a colour that is drawn for nothing, as a rule."""
    sheet = np.full((16, 64, 4), (255, 0, 0, 255), np.uint8)
    sheet[:, 16:32] = sheet[:, 48:] = (40, 40, 90, 255)
    return sheet


FULL_BLEED: dict[str, tuple[Callable[[], np.ndarray], dict[str, Any], int]] = {
    "one tile": (lava, {"columns": 1}, 1),
    "tiles": (tiles, {"columns": 4, "rows": 1}, 4),
    "tiles, unasked": (tiles, {"pick": 1}, 0),
    "swatches": (swatches, {"columns": 4, "rows": 2}, 8),
    "pure red": (red_tiles, {"columns": 4, "rows": 1}, 4),
}


@pytest.mark.parametrize("name", FULL_BLEED)
def test_no_pixel_of_a_full_bleed_picture_becomes_transparent(place: Path, name: str) -> None:
    draw, options, count = FULL_BLEED[name]
    write(place / "p.png", draw())
    made = kivel.slice("p.png", out="cut", **options)
    cut = [read(path) for path in sorted(place.glob("cut/p_*.png"))]
    assert len(cut) == (count or len(cut)) > 0
    assert all((frame[..., 3] == 255).all() for frame in cut), made.sheets[0].manifest
    adopted = kivel.adopt("p.png", **options).manifest
    assert all(page.maps["color"].key is None for page in adopted.pages)


@pytest.mark.parametrize("ground", [(255, 0, 255), (0, 0, 0), (70, 80, 90)])
def test_a_background_around_the_art_is_taken_and_told_with_its_share(place: Path, ground: tuple[int, ...]) -> None:
    sheet = np.full((32, 96, 4), (*ground, 255), np.uint8)
    for number in range(3):
        sheet[6:30, 32 * number + 8 : 32 * number + 20 + number] = (200, 180, 40 * number, 255)
    write(place / "p.png", sheet)
    done = in_process(["slice", "p.png", "--pick", "1", "-o", "cut"], place)
    colour = "#" + "".join(f"{value:02x}" for value in ground)
    assert f"warning: the background colour {colour} becomes transparent, 70% of the pixels; --key none" in done.err
    assert (read(sorted(place.glob("cut/*.png"))[0])[..., 3] == 0).any()


def test_a_shorter_run_removes_what_its_longer_one_wrote_and_nothing_else(place: Path) -> None:
    """Else the next sheet shows frames of both."""
    for number in range(12):
        write(place / f"owl/owl_{number:02}.png", art(number))
    kivel.prep("owl", step="flip x", out="cut", map="mask=owl")
    write(place / "cut/cut_0090.png", art(90))
    write(place / "cut/cut_0011.png", art(91))
    made = kivel.prep("owl", step="flip x", range="0-4", out="cut", map="mask=owl")
    frames = [path.name for path in sorted(place.glob("cut/*.png")) if "mask" not in path.name]
    assert frames == [*(f"cut_{number:04}.png" for number in range(5)), "cut_0011.png", "cut_0090.png"]
    assert len(list(place.glob("cut/*.mask.png"))) == 5
    notes = " ".join(made.notes)
    assert "cut/cut_0011.png: no longer made, but edited since; kept" in notes
    assert "1 older frames are left over, from cut_0090.png on" in notes
    assert sum(file.outcome == "removed" for file in made.files) == 13
    again = kivel.prep("owl", step="flip x", range="0-4", out="cut", map="mask=owl")
    assert {file.outcome for file in again.files} == {"unchanged"}


@pytest.mark.parametrize("align", ["left", "bottom", "top-right", "center"])
@pytest.mark.parametrize("command", ["sheet", "atlas"])
def test_frames_that_are_aligned_register_by_their_pivots(place: Path, command: str, align: Any) -> None:
    """Drawn with their pivots at one place, what was aligned lies at one place."""
    sizes = [(20, 10), (404, 12), (60, 30)]
    for number, (width, height) in enumerate(sizes):
        write(place / f"a/a_{number}.png", art(number, width=width, height=height))
    odd = {"odd_size": "pad"} if command == "sheet" else {}
    made = getattr(kivel, command)("a", out="s.png", align=align, **odd)
    frames = made.manifest.frames
    assert {(frame.canvas, frame.pivot) for frame in frames} == {((404, 30), (0.5, 0.5))}
    kivel.sheet("a", out="own.png", odd_size="pad", align=align, pivot="bottom")
    kivel.slice("own.kivel.json", out="cut")
    assert {frame.pivot for frame in kivel.sheet("cut", out="t.png").manifest.frames} == {(0.5, 1)}


def test_groups_are_in_tables_with_their_weights_and_told_where_there_is_no_place(place: Path) -> None:
    for number in range(3):
        write(place / f"owl/owl_{number}.png", art(number))
    kivel.sheet(
        "owl", out="s.png", make_clip=["a=0", "b=1", "c=2"], make_group="pair=?", choose="random", weight=["b=3", "c=0"]
    )
    made = kivel.export("s.kivel.json", out="s.json", strict=True)
    assert made.notes == ()
    pair = {"name": "pair", "choose": "random", "members": ["a", "b", "c"], "weights": [1, 3, 0]}
    assert json.loads((place / "s.json").read_text())["groups"] == [pair]
    kivel.export("s.kivel.json", out="s.csv", clip=["b", "c"])
    rows = list(csv.DictReader((place / "s.csv").read_text().splitlines()))
    assert [(row["clip"], row["weight"]) for row in rows if row["row"] == "member"] == [("b", "3"), ("c", "0")]
    kivel.export("s.kivel.json", out="s.h")
    assert "    {0, 1},\n    {1, 3},\n    {2, 0},\n" in (place / "s.h").read_text()
    assert "glTF has no place for groups (pair)" in " ".join(kivel.export("s.kivel.json", out="s.glb").notes)
    with pytest.raises(KivelError, match="no place for groups"):
        kivel.export("s.kivel.json", out="t.glb", strict=True)
    kivel.sheet("owl", out="t.png")
    assert "groups" not in json.loads(next(iter(kivel.export("t.kivel.json").contents.values())))
