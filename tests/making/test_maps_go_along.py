"""Whatever moves, chooses or mixes frames does it to their maps too, each by what its values mean."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.core.pixels.pixels import Pixels
from program import art, read, write

UP = (128, 128, 255, 255)


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """`owl/`: six frames with a soft spot that wanders; opaque normals and a glow with alpha, in step."""
    for number in range(6):
        image = np.zeros((12, 16, 4), np.uint8)
        image[3 + number % 3 : 7 + number % 3, 2 + number : 7 + number] = art(number, width=5, height=4) | [0, 0, 0, 64]
        write(tmp_path / f"owl/owl_{number}.png", image)
        write(tmp_path / f"owl/owl_{number}_n.png", normals(number))
        write(tmp_path / f"glow/glow_{number}.png", art(number + 30, width=16, height=12))
    with contextlib.chdir(tmp_path):
        yield tmp_path


def normals(number: int) -> Pixels:
    vectors = np.random.default_rng(number).normal(0, 0.4, (12, 16, 3)) + np.array([0, 0, 1])
    vectors /= np.linalg.norm(vectors, axis=-1, keepdims=True)
    return np.dstack((np.rint(vectors * 127.5 + 127.5), np.full((12, 16), 255))).astype(np.uint8)


def with_maps(name: str, *sources: str, **options: Any) -> Any:
    return getattr(kivel, name)(*sources, map={"glow": "glow"}, map_suffix={"normal": "_n"}, **options)


def images(made: Any, map: str = "color") -> list[Pixels]:
    return [made.images[page.maps[map].file] for page in made.manifest.pages]


CHAINS: dict[str, list[str]] = {
    "crop": ["crop 8x8 at=3,2"],
    "fit": ["fit 8x6"],
    "enlarged": ["fit 32x24 upscale filter=nearest"],
    "turn": ["turn 90"],
    "flip": ["flip x", "turn 270"],
    "distort": ["distort by=glow/glow_1.png strength=2 wrap"],
    "wrapped": ["shift 0.5 2 each wrap"],
    "order": ["reorder 0-3,2*2", "drop 1", "reverse"],
    "colour": ["matte", "ramp #123 #fff", "bleed 2", "threshold 90", "premultiply"],
    "growing": ["fit 4x3..16x12 pace=ease-in over=1-4"],
}


@pytest.mark.parametrize("steps", CHAINS.values(), ids=CHAINS)
def test_a_map_is_prepared_as_it_would_be_by_itself(steps: list[str]) -> None:
    made = with_maps("prep", "owl", step=steps)
    moving = [step for step in steps if step.split()[0] not in ("matte", "ramp", "bleed", "threshold", "premultiply")]
    kinds: list[tuple[str, str, Any]] = [("normal", "owl/owl_#_n.png", "normal"), ("glow", "glow", "color")]
    for name, pattern, kind in kinds:
        alone = images(kivel.prep(pattern, step=moving or ["crop 16x12"], as_=kind))
        assert all(np.array_equal(one, other) for one, other in zip(images(made, name), alone, strict=True)), name
    assert list(made.manifest.pages[0].maps) == ["color", "glow", "normal"]


MEASURED: dict[str, str] = {
    "trim": "trim",
    "trim each": "trim each",
    "anchor": "anchor mass each",
    "bottom": "anchor bottom",
}


@pytest.mark.parametrize("step", MEASURED.values(), ids=MEASURED)
def test_what_is_measured_on_the_colour_moves_the_maps_by_as_much(step: str) -> None:
    """A map whose pixels are those of the colour stays the same picture, wherever it goes."""
    made = kivel.prep("owl/owl_#.png", step=[step], map={"glow": "owl/owl_#.png"})
    for color, glow in zip(images(made), images(made, "glow"), strict=True):
        assert np.array_equal(color, glow)


def test_a_box_holds_what_any_map_shows(place: Path) -> None:
    for number in range(6):
        image = np.zeros((12, 16, 4), np.uint8)
        image[11, 15] = 255
        write(place / f"far/far_{number}.png", image)
    made = kivel.prep("owl/owl_#.png", step=["trim"], map={"glow": "far"})
    assert made.manifest.pages[0].size == (14, 9)
    assert images(made, "glow")[0][-1, -1].tolist() == [255] * 4
    alone = kivel.prep("owl/owl_#.png", step=["trim by=color"], map={"glow": "far"}).manifest
    assert alone.pages[0].size == kivel.prep("owl/owl_#.png", step=["trim"]).manifest.pages[0].size
    grown, kept = (
        kivel.prep("owl/owl_#.png", step=[f"anchor 2,2 to=0.9,0.9 by={by}"], map={"glow": "far"}).manifest.pages[0].size
        for by in ("any", "color")
    )
    assert grown != kept == kivel.prep("owl/owl_#.png", step=["anchor 2,2 to=0.9,0.9"]).manifest.pages[0].size


def test_what_comes_in_is_neutral_and_opaque_where_the_map_was() -> None:
    made = with_maps("prep", "owl", step=["pad 2", "shift 0.5 0"])
    normal = images(made, "normal")[1]
    assert (normal[0, 0].tolist(), normal[-1, -1].tolist()) == (list(UP), list(UP))
    assert (normal[..., 3] == 255).all()
    lengths = np.linalg.norm(normal[..., :3] / 127.5 - 1, axis=-1)
    assert np.abs(lengths - 1).max() < 0.02
    assert images(made, "glow")[1][0, 0].tolist() == [0, 0, 0, 0]


def test_a_map_stays_within_a_twentieth_of_a_pixel_of_its_colour() -> None:
    """Centroids of what is not neutral, through a chain that moves by parts of a pixel and scales."""
    rows, columns = np.mgrid[:48, :48] + 0.5
    for number in range(5):
        x, y = 20 + 1.7 * number, 25 - 0.9 * number
        weight = np.clip(9 - np.hypot(columns - x, rows - y), 0, 1)
        color = np.dstack((*[np.full_like(weight, 200)] * 3, np.rint(weight * 255))).astype(np.uint8)
        tilted = np.dstack((weight * 0.6, np.zeros_like(weight), np.sqrt(1 - (weight * 0.6) ** 2)))
        normal = np.dstack((np.rint(tilted * 127.5 + 127.5), np.full_like(weight, 255))).astype(np.uint8)
        write(Path(f"disc/d_{number}.png"), color)
        write(Path(f"tilt/t_{number}.png"), normal)
    made = kivel.prep(
        "disc", map={"normal": "tilt"}, step=["shift 0.4 0.3 each", "anchor mass each", "fit 40x40", "trim margin=3"]
    )
    for color, normal in zip(images(made), images(made, "normal"), strict=True):
        assert np.abs(centre(color[..., 3] / 255) - centre(np.maximum(normal[..., 0] / 127.5 - 1.01, 0))).max() <= 0.05


def centre(weight: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
    rows, columns = np.mgrid[: weight.shape[0], : weight.shape[1]]
    found: np.ndarray[Any, Any] = np.array([(rows * weight).sum(), (columns * weight).sum()]) / weight.sum()
    return found


OTHERS: dict[str, tuple[str, tuple[str, ...], dict[str, Any]]] = {
    "resample": ("resample", ("owl",), {"count": 3, "mix": True}),
    "loop": ("loop", ("owl",), {"close": 2, "no_warp": True}),
}


@pytest.mark.parametrize(("name", "sources", "options"), OTHERS.values(), ids=OTHERS)
def test_maps_are_mixed_as_they_would_be_by_themselves(
    name: str, sources: tuple[str, ...], options: dict[str, Any]
) -> None:
    made = with_maps(name, *sources, **options)
    for one_map, pattern, kind in (("normal", "owl/owl_#_n.png", "normal"), ("glow", "glow", "color")):
        alone = images(getattr(kivel, name)(pattern, **options, as_=kind))
        assert all(np.array_equal(one, other) for one, other in zip(images(made, one_map), alone, strict=True))


def test_a_stack_keeps_the_maps_of_its_base() -> None:
    made = kivel.layer("owl/owl_#.png", "glow opacity=0.5", map={"normal": "owl/owl_#_n.png"})
    assert all(np.array_equal(one, normals(number)) for number, one in enumerate(images(made, "normal")))


def test_the_maps_of_every_layer_go_where_it_shows(place: Path) -> None:
    """A lid that covers the right half, with normals and a glow beside its files, shifted by two pixels."""
    lid = np.zeros((12, 16, 4), np.uint8)
    lid[:, 8:] = 255
    write(place / "lid/lid_0.png", lid)
    write(place / "lid/lid_0_n.png", normals(77))
    write(place / "lid/lid_0_g.png", np.full((12, 16, 4), 99, np.uint8))
    made = kivel.layer("owl/owl_#.png", "lid/lid_0.png offset=-2,0", map_suffix={"normal": "_n", "glow": "_g"})
    for number, one in enumerate(images(made, "normal")):
        assert np.array_equal(one[:, :6], normals(number)[:, :6])
        lies = made.images[f"owl_{number:04}.png"][..., 3] == 255  # what the owl does not cover from below
        shown = lies & (np.arange(16) >= 6) & (np.arange(16) < 14)
        assert np.array_equal(one[shown], np.roll(normals(77), -2, 1)[shown])
    assert all((one[:, :14] == 99).all() and not one[:, 14:].any() for one in images(made, "glow"))


def test_a_map_that_a_layer_lacks_stays_or_is_covered_by_its_neutral_value(place: Path) -> None:
    write(place / "lid/lid_0.png", np.full((12, 16, 4), 255, np.uint8))
    both = {"normal": "owl/owl_#_n.png", "glow": "glow"}
    made = kivel.layer("owl/owl_#.png", "lid", map=both)
    assert all(np.array_equal(one, normals(number)) for number, one in enumerate(images(made, "normal")))
    assert not any(one[..., 3].any() for one in images(made, "glow")), "what is under the lid gives no light"
    flat = kivel.layer("owl/owl_#.png", "lid", map=both, missing_map="neutral")
    assert all((one == (128, 128, 255, 255)).all() for one in images(flat, "normal"))
    light = kivel.layer("owl/owl_#.png", "lid blend=multiply", map=both)
    assert all(np.array_equal(one, art(n + 30, width=16, height=12)) for n, one in enumerate(images(light, "glow")))


def test_a_map_that_only_layers_over_the_base_have_is_added_or_named(place: Path) -> None:
    write(place / "ground/ground_0.png", np.full((12, 16, 4), 255, np.uint8))
    words: dict[str, Any] = {"map_suffix": {"normal": "_n"}}
    made = kivel.layer("ground", "owl/owl_#.png", **words)
    assert [list(page.maps) for page in made.manifest.pages] == [["color"]] * 6
    assert any("map normal skipped, ground has none; pass" in note for note in made.notes)
    made = kivel.layer("ground", "owl/owl_#.png", **words, missing_map="neutral")
    owl = read(place / "owl/owl_2.png")[..., 3]
    assert (images(made, "normal")[2][owl == 0] == (128, 128, 255, 255)).all()
    assert np.array_equal(images(made, "normal")[2][owl == 255], normals(2)[owl == 255])
    kivel.prep("owl/owl_#.png", out="lamp", step=["keep 0-2"], map={"emission": "glow"})
    made = kivel.layer("ground", "lamp")
    assert all(np.array_equal(one, art(n + 30, width=16, height=12)) for n, one in enumerate(images(made, "emission")))


def test_smaller_maps_stay_and_maps_that_differ_are_refused() -> None:
    kivel.sheet("owl/owl_#.png", out="s.png", map={"glow": "glow"}, map_scale={"glow": "1/2"})
    made = kivel.layer("s.kivel.json", "owl/owl_0.png")
    assert any("map glow is stored smaller: it stays as the base has it" in note for note in made.notes)
    kivel.prep("owl/owl_#.png", out="other", step=["keep 0-5"], map={"glow": "glow"})
    with pytest.raises(kivel.KivelError, match="map glow differs in kind or scale among the layers"):
        kivel.layer("s.kivel.json", "other")
    with pytest.raises(kivel.KivelError, match="stored smaller, and a mask cannot cut it"):
        kivel.layer("s.kivel.json", "owl/owl_0.png mask=alpha")


def test_a_scrolling_tile_takes_its_maps_along() -> None:
    made = kivel.scroll("owl/owl_0.png scroll=1,0", count=4, filter="nearest", map_suffix={"normal": "_n"})
    assert all(np.array_equal(one, np.roll(normals(0), 4 * n, 1)) for n, one in enumerate(images(made, "normal")))
    smooth = kivel.scroll("owl/owl_0.png scroll=1,2 by=glow/glow_1.png", count=5, map={"normal": "owl/owl_0_n.png"})
    lengths = [np.linalg.norm(one[..., :3] / 127.5 - 1, axis=-1) for one in images(smooth, "normal")]
    assert max(np.abs(each - 1).max() for each in lengths) < 0.02


def test_a_sheet_of_a_map_is_sliced_as_the_colours_is(place: Path) -> None:
    kivel.sheet("owl/owl_#.png", out="s.png", columns=3)
    kivel.sheet("owl/owl_#_n.png", out="s_n.png", columns=3)
    ways: list[dict[str, Any]] = [{"map_suffix": {"normal": "_n"}}, {"map": {"normal": "s_n.png"}}]
    sources: list[tuple[str, dict[str, Any]]] = [
        ("s.kivel.json", {}),
        ("s.png", {}),
        ("s.png", {"columns": 3, "rows": 2}),
    ]
    for number, (source, grid) in enumerate(sources):
        for way in ways:
            out = f"cut-{number}-{'map' in way}"
            made = kivel.slice(source, out=out, **grid, **way).manifest
            assert [page.maps["normal"].kind for page in made.pages] == ["normal"] * 6
            found = [read(place / out / page.maps["normal"].file) for page in made.pages]
            assert all(np.array_equal(one, normals(n)) for n, one in enumerate(found))
            assert list(kivel.sheet(out).manifest.pages[0].maps) == ["color", "normal"]


GRID = {"columns": 2, "rows": 1}
COLOR = ("owl/owl_#.png",)
WRONG: dict[str, tuple[str, tuple[str, ...], dict[str, Any], str]] = {
    "frames too many": ("prep", COLOR, {"step": ["trim"], "map": {"n": "owl"}}, "2 series"),
    "no such map": ("resample", COLOR, {"count": 2, "map_kind": {"n": "mask"}}, "there is no map 'n'"),
    "another size": ("slice", ("glow/glow_0.png",), {**GRID, "map": {"n": "small.png"}}, "8x8 px, the sheet has"),
    "no sheet": ("slice", ("glow/glow_0.png",), {**GRID, "map_suffix": {"n": "_n"}}, "no such file for map n"),
    "a range too far": ("prep", ("glow",), {"step": ["opacity 0..1 over=0-9"]}, "over=0-9: there are 6 frames, 0-5"),
    "a range of nothing": (
        "prep",
        ("glow",),
        {"step": ["opacity 0.5 over=0-3"]},
        "a value that changes, like opacity 0",
    ),
    "what is measured": ("prep", ("glow",), {"step": ["trim threshold=0..9"]}, "from 0 to 254, found '0..9'"),
}


@pytest.mark.parametrize(("name", "sources", "options", "message"), WRONG.values(), ids=WRONG)
def test_what_is_wrong_with_maps_and_values_is_said(
    name: str, sources: tuple[str, ...], options: dict[str, Any], message: str
) -> None:
    write(Path("small.png"), art(1, width=8, height=8))
    with pytest.raises(kivel.KivelError, match=message):
        getattr(kivel, name)(*sources, **options)


def test_a_value_changes_over_its_frames_and_is_held_outside() -> None:
    for number in range(10):
        write(Path(f"full/f_{number}.png"), np.full((4, 4, 4), 255, np.uint8))
    made = kivel.prep("full", step=["opacity 0..1 over=2-6 pace=linear", "shift 0..9 0"])
    faded = [int(image[..., 3].max()) for image in images(kivel.prep("full", step=["opacity 0..1 over=2-6"]))]
    assert faded == [0, 0, 0, 64, 128, 191, 255, 255, 255, 255]
    assert [int((image[..., 3] > 0).any(axis=0).sum()) for image in images(made)][:5] == [0, 0, 0, 1, 0]
    eased = [int(one[..., 3].max()) for one in images(kivel.prep("full", step=["opacity 0..100% pace=steps(3,start)"]))]
    assert eased == [85, 85, 85, 170, 170, 170, 255, 255, 255, 255]


def test_a_step_that_does_nothing_says_so_and_what_is_measured_is_told() -> None:
    made = kivel.prep("owl/owl_#_n.png", step=["anchor mass", "crop 8x8", "fit 64x64"])
    assert made.measured == (
        "anchor: every pixel is opaque, so the centre of mass is the middle (matte it first): "
        "mass at 8.0, 6.0, moved by +0, +0 px, in 16x12 px",
    )
    assert [note.partition(":")[2] for note in made.notes] == [
        ' "anchor mass" changed no frame',
        ' "fit 64x64" changed no frame',
    ]
    assert kivel.prep("owl/owl_#.png", step=["trim"]).measured == ("trim: to 10x6 px at 2,3",)
