"""Sheets of several sequences and pages, adding to a sheet, float pages, plans, and pictures of layouts."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kivel.cli.main import main
from kivel.core.pixels.pixels import Pixels
from program import Kivel, art, files, read, write


def manifest_of(path: Path) -> dict[str, Any]:
    content: dict[str, Any] = json.loads(path.read_text())
    return content


@pytest.fixture
def gaits(tmp_path: Path) -> Path:
    """`walk/` of 5 frames, `turn/` of 3 smaller ones; the files of both are called alike."""
    for name, count, side in (("walk", 5, 8), ("turn", 3, 6)):
        for number in range(count):
            write(tmp_path / f"{name}/f_{number}.png", art(10 * count + number, width=side, height=side))
    return tmp_path


def test_each_sequence_begins_a_row_and_has_a_clip(kivel: Kivel, gaits: Path) -> None:
    done = kivel("sheet", "walk", "turn", "-o", "s.png", "--fps", "8")
    assert "frames of 8x8, 6x6 px share cells of 8x8" in done.err
    manifest = manifest_of(gaits / "s.kivel.json")
    assert manifest["grid"] | {"columns": 5, "rows": 2} == manifest["grid"]
    assert [frame["rect"] for frame in manifest["frames"][4:6]] == [[32, 0, 8, 8], [1, 9, 6, 6]]
    assert [frame["name"] for frame in manifest["frames"][4:6]] == ["f_4", "turn/f_0"]
    assert [(clip["name"], clip["steps"][0][0]) for clip in manifest["clips"]] == [("walk", 0), ("turn", 5)]
    assert kivel("sheet", "walk", "turn", "-o", "j.png", "--sequences", "joined", "--columns", "4").code == 0
    assert manifest_of(gaits / "j.kivel.json")["frames"][5]["rect"] == [9, 9, 6, 6]


def test_frames_go_on_as_many_pages_as_it_takes(kivel: Kivel, gaits: Path) -> None:
    done = kivel("sheet", "walk", "-o", "s.png", "--page-limit", "20x20", "--pow2", "--json")
    document = json.loads(done.out)
    assert (document["pages"], document["size"], document["empty"]) == (2, [16, 16], 3)
    assert kivel("slice", "s.kivel.json", "-o", "out").code == 0
    for number in range(5):
        assert np.array_equal(read(gaits / f"out/s_{number:04d}.png"), art(50 + number, width=8, height=8))
    assert "2 older pages are left over" in kivel("sheet", "walk", "-o", "s.png").err
    assert "skipped, sheets by their manifests" in kivel("sheet", ".", "-o", "t.png").err


def test_tiles_wrap_round_into_their_skirt(kivel: Kivel, gaits: Path) -> None:
    assert kivel("sheet", "walk/f_0.png", "-o", "s.png", "--skirt", "2", "--skirt-wrap").code == 0
    tile = art(50, width=8, height=8)
    assert np.array_equal(read(gaits / "s.png"), np.pad(tile, ((2, 2), (2, 2), (0, 0)), mode="wrap"))


def test_frames_are_scaled_to_a_cell_when_asked(kivel: Kivel, gaits: Path) -> None:
    done = kivel("sheet", "turn", "-o", "s.png", "--cell", "12x20", "--scale-to-cell", "nearest", "--layout", "row")
    assert "frames scaled to the cell (nearest): 6x6 to 12x12 px" in done.err
    doubled = art(30, width=6, height=6).repeat(2, axis=0).repeat(2, axis=1)
    assert np.array_equal(read(gaits / "s.png")[4:16, :12], doubled)


@settings(max_examples=10)
@given(
    first=st.integers(1, 6), added=st.integers(1, 6), columns=st.integers(1, 4), rows=st.integers(1, 4),
    skirt=st.integers(0, 2), fill=st.sampled_from(("across", "down")), mapped=st.booleans(),
)  # fmt: skip
def test_adding_to_a_sheet_moves_nothing(
    first: int, added: int, columns: int, rows: int, skirt: int, fill: str, mapped: bool
) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for number in range(first + added):
            part = "old" if number < first else "new"
            write(folder / f"{part}/f{number}.png", art(number))
            write(folder / f"{part}-n/f{number}.png", art(100 + number))
        page = f"{columns * (6 + 2 * skirt)}x{rows * (5 + 2 * skirt)}"
        maps = [["--map", f"glow={name}/{part}-n"] if mapped else [] for part in ("old", "new")]
        words = ["--columns", str(columns), "--rows", str(rows), "--page-limit", page, "--skirt", str(skirt)]
        assert main(["sheet", f"{name}/old", "-o", f"{name}/s.png", "--fill", fill, *words, *maps[0], "-q"]) == 0
        before, manifest = files(folder), manifest_of(folder / "s.kivel.json")
        code = main(["sheet", f"{name}/new", "--into", f"{name}/s.kivel.json", *maps[1], "-q"])
        if len(manifest["pages"]) * columns * rows < first + added:
            assert code == 1
            assert files(folder) == before
            return
        assert code == 0
        after = manifest_of(folder / "s.kivel.json")
        assert after["frames"][:first] == manifest["frames"]
        assert after["clips"][0] == manifest["clips"][0]
        assert [clip["name"] for clip in after["clips"]] == ["s", "new"]
        for kind, offset in (("color", 0), ("glow", 100))[: 1 + mapped]:
            assert main(["slice", f"{name}/s.kivel.json", "-o", f"{name}/{kind}", "--show", kind, "-q"]) == 0
            for number in range(first + added):
                assert np.array_equal(read(folder / f"{kind}/s_{number:04d}.png"), art(offset + number))


def test_opaque_maps_added_to_a_sheet_leave_the_alpha_of_others(kivel: Kivel, gaits: Path) -> None:
    for number in range(3):
        write(gaits / f"glow/f_{number}.png", art(number, width=6, height=6) | np.array((0, 0, 0, 255), np.uint8))
    kivel("sheet", "walk", "-o", "s.png", "--columns", "4", "--map", "glow=walk")
    before = read(gaits / "s.glow.png")
    assert kivel("sheet", "turn", "--into", "s.kivel.json", "--map", "glow=glow").code == 0
    after = read(gaits / "s.glow.png")
    assert np.array_equal(after[:8], before[:8])
    assert np.array_equal(after[8:, :8], before[8:, :8])
    assert np.array_equal(after[9:15, 9:15], art(0, width=6, height=6) | np.array((0, 0, 0, 255), np.uint8))


INTO = {
    "no free cell": ("sheet turn --into full.kivel.json", "3 frames need 3 cells, none is free of 5: 3 are missing"),
    "a map too few": ("sheet turn --into mapped.kivel.json", "pass --map glow=SRC"),
    "a larger frame": ("sheet walk/f_0.png --into small.kivel.json", "f_0.png: 8x8 px does not fit a cell of 6x6"),
    "no sheet": ("sheet turn --into packed.kivel.json", "packed.kivel.json: has no grid of cells"),
    "another gap": ("sheet turn --into full.kivel.json --gap 1", "--gap: with --into the sheet keeps its place"),
    "deeper frames": ("sheet deep --into small.kivel.json", "it has 8 bits a channel, the frames have 16"),
}


@pytest.mark.parametrize(("line", "said"), INTO.values(), ids=INTO)
def test_what_cannot_be_added_is_told(kivel: Kivel, gaits: Path, line: str, said: str) -> None:
    write(gaits / "deep/d.png", art(1, dtype=np.uint16))
    kivel("sheet", "walk", "-o", "full.png", "--layout", "row")
    kivel("sheet", "walk", "-o", "mapped.png", "--columns", "4", "--map", "glow=walk")
    kivel("sheet", "turn", "-o", "small.png", "--columns", "2")
    kivel("atlas", "turn", "-o", "packed.png")
    before = files(gaits)
    done = kivel(*line.split())
    assert done.code in (1, 2)
    assert said in done.err
    assert files(gaits) == before


@pytest.mark.parametrize("command", ["sheet", "atlas"])
def test_float_frames_make_float_pages(kivel: Kivel, tmp_path: Path, command: str) -> None:
    from kivel.files.exr import encode_exr, exr_pixels

    images: list[Pixels] = []
    for number in range(3):
        image = art(number).astype(np.float32) / 64
        image[..., 3] = 1
        (tmp_path / f"f_{number}.exr").write_bytes(encode_exr(image))
        images.append(image)
    assert kivel(command, "f_#.exr", "-o", "s.exr").code == 0
    assert exr_pixels(tmp_path / "s.exr").dtype == np.float32
    assert kivel("slice", "s.kivel.json", "-o", "out").code == 0
    for number, image in enumerate(images):
        assert np.array_equal(exr_pixels(tmp_path / f"out/s_{number:04d}.exr"), image)
    assert "OpenEXR is converted to 8-bit sRGB" in kivel(command, "f_#.exr", "-o", "s.png").err
    write(tmp_path / "f_3.png", art(3))
    assert "float and other frames" in kivel(command, "f_0.exr", "f_3.png", "-o", "m.exr").err


def test_plans_are_told_as_a_table_and_for_scripts(kivel: Kivel, gaits: Path) -> None:
    assert gaits.exists()
    done = kivel("plan", "walk", "--fit-page", "16x16")
    assert done.code == 0
    assert "3 x 2" in done.out
    assert "5 frames fit 16x16 at 5x5 px: 2 columns x 3 rows, 6 px unused to the right, 1 below" in done.out
    assert "next page down, 16x8: holds 2 of 5 frames at 8x8 px (drop 3: kivel resample --count 2)" in done.out
    document = json.loads(kivel("plan", "walk", "--json", "--page-limit", "16x16").out)
    assert document["layouts"][0]["pages"] == 2
    assert document["layouts"][0]["bytes"]["BC1"] == 2 * 16 * 16 // 2


def test_layouts_are_drawn(kivel: Kivel, gaits: Path) -> None:
    """A picture that shows the frame where the manifest has it, and stripes where nothing is."""
    kivel("sheet", "walk", "-o", "s.png", "--columns", "3")
    done = kivel("preview", "s.kivel.json", "-o", "look.png", "--view", "layout")
    assert "layout of 1 page, 83.3% used" in done.out
    picture = read(gaits / "look.png")
    assert picture.shape[1] == 1280
    assert picture.shape[0] <= 800
    error = kivel("preview", "walk", "-o", "look.png", "--view", "layout").err
    assert "--view layout draws a manifest; give one NAME.kivel.json, found 'walk'" in error


def test_the_line_of_a_sheet_says_which_side_is_unused(kivel: Kivel, tmp_path: Path) -> None:
    """24 x 10 px of cells on a page of 32 x 16: 8 to the right, 6 below."""
    for number in range(7):
        write(tmp_path / f"in/a_{number}.png", art(number))
    done = kivel("sheet", "in", "-o", "s.png", "--columns", "4", "--pow2")
    assert "1 cell empty, 8 px unused to the right, 6 below; " in done.out.splitlines()[0]
