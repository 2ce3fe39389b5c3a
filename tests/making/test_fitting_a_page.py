"""Frames are made to fit a page: as large as all of them can be, or as many as there is room for."""

from __future__ import annotations

import contextlib
import json
import shlex
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.core.layout.page import LayoutError
from kivel.core.pixels.pixels import Size
from kivel.files.manifest.model import Manifest
from kivel.files.manifest.text import manifest_text
from program import Kivel, art, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    for name, count in (("long", 15), ("short", 5)):
        for number in range(count):
            write(tmp_path / f"{name}/{name}_{number:02d}.png", art(number, width=32, height=16))
    with contextlib.chdir(tmp_path):
        yield tmp_path


FITS: dict[str, tuple[tuple[str, ...], dict[str, Any], tuple[int, int], int]] = {
    "scaled": (("long",), {"fit_page": "64x32"}, (16, 8), 15),
    "scaled, with gaps": (("long",), {"fit_page": "64x32", "gap": 1, "margin": 1}, (12, 6), 15),
    "scaled, a row for each": (("long", "short"), {"fit_page": "128x64"}, (24, 12), 20),
    "scaled, with a smaller map": (
        ("long",), {"fit_page": "64x32", "map": {"mask": "long"}, "map_scale": {"mask": "1/2"}}, (16, 8), 15,
    ),
    "thinned": (("long",), {"fit_page": "96x64", "fit_by": "thin"}, (32, 16), 12),
    "thinned, with gaps": (("long",), {"fit_page": "96x64", "fit_by": "thin", "gap": 1}, (32, 16), 6),
    "thinned alike": (("long", "short"), {"fit_page": "128x64", "fit_by": "thin"}, (32, 16), 16),
    "as they are": (("short",), {"fit_page": "256x256"}, (32, 16), 5),
}  # fmt: skip


@pytest.mark.parametrize(("sources", "options", "canvas", "frames"), FITS.values(), ids=FITS)
def test_all_frames_fit_the_very_page(
    sources: tuple[str, ...], options: dict[str, Any], canvas: tuple[int, int], frames: int
) -> None:
    made = kivel.sheet(*sources, **options).manifest
    assert [f"{page.size[0]}x{page.size[1]}" for page in made.pages] == [options["fit_page"]]
    assert {tuple(frame.canvas) for frame in made.frames} == {canvas}
    assert len(made.frames) == frames
    assert all(frame.rect.fits(made.pages[0].size) for frame in made.frames)


def test_no_larger_cell_of_their_shape_would_hold_them_all() -> None:
    for width in range(40, 140, 9):
        made = kivel.sheet("long", fit_page=(width, 60)).manifest
        w, h = made.frames[0].canvas
        assert (w, h) == (32, 16) or not _holds(15, w + 2, h + 1, width, 60)


def _holds(count: int, w: int, h: int, width: int, height: int) -> bool:
    return (width // w) * (height // h) >= count


def test_what_is_thinned_lasts_as_long_and_keeps_both_ends_of_what_plays_once() -> None:
    once = kivel.sheet("long", fit_page="96x64", fit_by="thin", repeat=1, fps=10).manifest
    assert (once.frames[0].name, once.frames[-1].name) == ("long_00", "long_14")
    assert once.clips[0].length == Fraction(len(once.frames), 10)
    loop = kivel.sheet("long", fit_page="96x64", fit_by="thin").manifest
    assert (loop.frames[-1].name, loop.clips[0].length) == ("long_14", Fraction(15, 12))


SAID: dict[str, tuple[str, int, str]] = {
    "two ways": ("sheet long -o a.png --fit-page 64x32 --columns 3", 2, "--fit-page decides --columns; remove it"),
    "how without which": ("sheet long -o a.png --fit-by thin", 2, "--fit-by needs --fit-page WxH"),
    "too small": ("sheet long -o a.png --fit-page 3x3", 1, "15 frames do not fit a page of 3x3 px at any size"),
    "not one": ("sheet long -o a.png --fit-page 16x16 --fit-by thin", 1, "not even one frame of 32x16 px fits a page"),
    "one a page": ("sheet short -o a.png --page-limit 40x20", 0, "each page holds one frame; --page-limit 64x16 would"),
    "too many columns": (
        "sheet long -o a.png --page-limit 100x100 --columns 4", 1, "--columns 3 is the most that fits",
    ),
}  # fmt: skip


@pytest.mark.parametrize(("words", "code", "message"), SAID.values(), ids=SAID)
def test_what_does_not_fit_says_what_would(kivel: Kivel, words: str, code: int, message: str) -> None:
    done = kivel(*words.split())
    assert (done.code, message in done.err) == (code, True), done.err


@pytest.mark.parametrize("columns", ["60", "80", "110"])
def test_a_plan_prints_the_commands_that_make_it_and_cuts_no_number(kivel: Kivel, columns: str) -> None:
    done = kivel("plan", "long", "--fit-page", "64x32", "--gap", "1", COLUMNS=columns)
    assert "…" not in done.out
    lines = [line.partition("kivel ")[2] for line in done.out.splitlines() if "kivel sheet long" in line]
    fitting = "sheet long --gap 1 -o long.png --fit-page 64x32"
    assert lines[-2:] == [fitting, f"{fitting} --fit-by thin"]
    for line in lines[:-2]:
        assert kivel(*shlex.split(line), "--force").code == 0


def _divided_request(seed: int) -> tuple[tuple[str, ...], dict[str, Any]]:
    """What somebody may ask for whose engine divides the page."""
    rng = np.random.default_rng(seed)
    options: dict[str, Any] = {"divided": True}
    if rng.random() < 0.3:
        options["fit_page"] = Size(*(int(side) for side in rng.integers(20, 260, 2)))
        options |= {"fit_by": "thin"} if rng.random() < 0.3 else {}
        options |= {"columns": int(rng.choice([1, 2, 4]))} if rng.random() < 0.2 else {}
    else:
        options |= {name: True for name in ("pow2", "square") if rng.random() < 0.5}
        options |= {"columns": int(rng.choice([2, 4, 8]))} if rng.random() < 0.4 else {}
        options |= {"layout": str(rng.choice(["row", "column"]))} if rng.random() < 0.2 else {}
    options |= {"align": str(rng.choice(["center", "bottom", "top-left"])), "pivot": "bottom-left"}
    options |= {"fill": "down"} if rng.random() < 0.3 and "fit_page" not in options else {}
    return (("long",), ("short",), ("long", "short"))[rng.integers(3)], options


@pytest.mark.parametrize("seeds", [range(25), pytest.param(range(25, 200), marks=pytest.mark.slow)])
def test_an_engine_that_divides_the_page_finds_each_frame_to_the_pixel(seeds: range) -> None:
    tried = 0
    for seed in seeds:
        sources, options = _divided_request(seed)
        try:
            made = kivel.sheet(*sources, **options)
        except LayoutError:
            continue  # no such page, or not even one frame fits it
        tried += 1
        manifest, table = made.manifest, json.loads(_table(made.manifest))
        columns, rows = table["grid"]["columns"], table["grid"]["rows"]
        assert table["grid"]["divided"]
        (page,) = made.images.values()
        cells = [
            part for band in np.split(page, rows) for part in np.split(band, columns, axis=1)
        ]  # fmt: skip
        seen = set()
        for frame, said in zip(manifest.frames, table["frames"], strict=True):
            width, height = cells[0].shape[1], cells[0].shape[0]
            (row, y), (column, x) = divmod(frame.rect.y, height), divmod(frame.rect.x, width)
            cell = cells[row * columns + column]
            assert np.array_equal(cell[y : y + frame.rect.h, x : x + frame.rect.w], frame.rect.of(page)), seed
            outside = cell.copy()
            outside[y : y + frame.rect.h, x : x + frame.rect.w] = 0
            assert not outside.any()
            place = (x, y + frame.rect.h)
            assert np.allclose(np.multiply(said["pivot"]["cell"], (width, height)), place, atol=1e-4)
            seen.add((row, column))
        assert len(seen) == len(manifest.frames)
    assert tried > len(seeds) / 2


def _table(manifest: Manifest) -> str:
    Path("t.kivel.json").write_text(manifest_text(manifest))
    (content,) = kivel.export("t.kivel.json", to="table").contents.values()
    return content.decode()
