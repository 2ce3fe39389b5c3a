"""Frames to a sheet and back."""

from __future__ import annotations

import json
import tempfile
from fractions import Fraction
from pathlib import Path

import numpy as np
import PIL.Image
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kivel.cli.main import main
from kivel.core.pixels.pixels import Pixels
from kivel.files.png.read import parse_png, pixels_of
from program import Kivel, art, files, read, write
from strategies import sequences


@settings(max_examples=20)
@given(
    frames=sequences(),
    layout=st.sampled_from(("grid", "row", "column")),
    columns=st.none() | st.integers(1, 9),
    gap=st.integers(0, 3),
    margin=st.integers(0, 3),
    larger=st.tuples(st.integers(0, 4), st.integers(0, 4)),
    compress=st.sampled_from(("fast", "small")),
)
def test_slice_undoes_sheet(
    frames: list[Pixels],
    layout: str,
    columns: int | None,
    gap: int,
    margin: int,
    larger: tuple[int, int],
    compress: str,
) -> None:
    """Bit for bit, from the manifest; and the cells alone, from the plain image."""
    height, width = frames[0].shape[:2]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for index, frame in enumerate(frames):
            write(folder / f"in/f{index}.png", frame)
        spacing = ["--gap", str(gap), "--margin", str(margin)]
        cell = f"{width + larger[0]}x{height + larger[1]}"
        shape = ["--layout", layout, *(["--columns", str(columns)] if columns and layout == "grid" else [])]
        assert main(["sheet", f"{name}/in", "-o", f"{name}/s.png", *shape, *spacing, "--cell", cell,
                     "--compress", compress, "-q"]) == 0  # fmt: skip
        assert main(["slice", f"{name}/s.kivel.json", "-o", f"{name}/out", "-q"]) == 0
        sliced = sorted((folder / "out").glob("*.png"))
        assert [path.name for path in sliced] == [f"s_{index:04d}.png" for index in range(len(frames))]
        for path, frame in zip(sliced, frames, strict=True):
            pixels = pixels_of(parse_png(path.read_bytes()))
            assert pixels.dtype == frame.dtype
            assert np.array_equal(pixels, frame)
        if larger == (0, 0):
            assert (
                main(
                    ["slice", f"{name}/s.png", "-o", f"{name}/cells", "--cell", cell, *spacing, "--empty", "keep", "-q"]
                )
                == 0
            )
            for index, frame in enumerate(frames):
                pixels = pixels_of(parse_png((folder / f"cells/s_{index:04d}.png").read_bytes()))
                assert np.array_equal(pixels, frame)


def test_a_folder_becomes_a_sheet_with_its_manifest(kivel: Kivel, tmp_path: Path, moth: list[Pixels]) -> None:
    done = kivel("sheet", "moth", "-o", "out/moth.png", "--columns", "5", "--gap", "1", "--fps", "24000/1001")
    assert done == (0, done.out, "")
    assert "34x17 px: 12 frames, 0-11, 5 columns x 3 rows of 6x5, 3 cells empty" in done.out
    sheet = read(tmp_path / "out/moth.png")
    assert sheet.shape == (17, 34, 4)
    assert np.array_equal(sheet[6:11, 7:13], moth[6])
    manifest = json.loads((tmp_path / "out/moth.kivel.json").read_text())
    assert manifest["frames"][6]["name"] == "moth_7"
    assert manifest["frames"][6]["rect"] == [7, 6, 6, 5]
    assert manifest["clips"][0]["timebase"] == [24000, 1001]
    assert manifest["clips"][0]["steps"] == [[n, 1] for n in range(12)]


@pytest.mark.usefixtures("moth")
def test_the_same_input_gives_the_same_bytes(kivel: Kivel, tmp_path: Path) -> None:
    for number in (11, 3, 7):  # another order in the folder
        path = tmp_path / f"moth/moth_{number}.png"
        data = path.read_bytes()
        path.unlink()
        path.with_name("later.tmp").write_bytes(data)
        path.with_name("later.tmp").rename(path)
    runs = (("1", "C"), ("2", "C.UTF-8"), ("5", "tr_TR.UTF-8"))
    for jobs, locale in runs:
        assert (
            kivel("sheet", "moth", "-o", f"{jobs}/m.png", "--jobs", jobs, LC_ALL=locale, PYTHONHASHSEED=jobs).code == 0
        )
        assert kivel("slice", f"{jobs}/m.kivel.json", "-o", f"{jobs}/f", "--jobs", jobs, LC_ALL=locale).code == 0
    made = [files(tmp_path / jobs) for jobs, _ in runs]
    assert made[0] == made[1] == made[2]
    assert len(made[0]) == 2 + 13


def test_animated_images_carry_their_durations(kivel: Kivel, tmp_path: Path) -> None:
    frames = [PIL.Image.fromarray(np.ascontiguousarray(art(n)[..., :3])) for n in range(3)]
    frames[0].save(tmp_path / "walk.gif", save_all=True, append_images=frames[1:], duration=[70, 100, 30], loop=0)
    assert kivel("sheet", "walk.gif", "-o", "walk.png").code == 0
    clip = json.loads((tmp_path / "walk.kivel.json").read_text())["clips"][0]
    assert [hold / Fraction(*clip["timebase"]) for _, hold in clip["steps"]] == [Fraction(n, 100) for n in (7, 10, 3)]
    assert kivel("sheet", "walk.kivel.json", "-o", "again.png", "--layout", "column").code == 0
    again = json.loads((tmp_path / "again.kivel.json").read_text())
    assert again["clips"] == [clip]
    frames[0].save(tmp_path / "walk.gif", save_all=True, append_images=frames[1:], duration=[70, 0, 30], loop=0)
    assert "a duration of 0 is stated for walk.gif#1; held for 100 ms" in kivel("sheet", "walk.gif", "-o", "w.png").err


def test_deep_and_shallow_frames_make_a_deep_sheet(kivel: Kivel, tmp_path: Path) -> None:
    write(tmp_path / "mixed/a1.png", art(1))
    write(tmp_path / "mixed/a2.png", art(2, dtype=np.uint16))
    done = kivel("sheet", "mixed", "-o", "m.png", "--layout", "row")
    assert "1 of 2 frames have 16 bits a channel (a2.png)" in done.err
    sheet = read(tmp_path / "m.png")
    assert np.array_equal(sheet[:, :6], art(1).astype(np.uint16) * 257)
    assert np.array_equal(sheet[:, 6:], art(2, dtype=np.uint16))


def odd_folder(folder: Path) -> None:
    for number in range(1, 5):
        write(folder / f"odd/f{number}.png", art(number, width=8 if number == 3 else 6))


def test_odd_sizes_are_refused_left_out_or_padded(kivel: Kivel, tmp_path: Path) -> None:
    odd_folder(tmp_path)
    refused = kivel("sheet", "odd", "-o", "s.png")
    assert refused.code == 1
    assert refused.err.startswith(
        "error: odd/f3.png: 8x5 px, the other 3 frames are 6x5; render it again, or pass --odd"
    )
    skipped = kivel("sheet", "odd", "-o", "skip.png", "--odd-size", "skip")
    assert "skipped, not 6x5 px: f3.png 8x5" in skipped.err
    assert "3 frames" in skipped.out
    kivel("sheet", "odd", "-o", "pad.png", "--odd-size", "pad", "--align", "bottom-right", "--layout", "row")
    assert np.array_equal(read(tmp_path / "pad.png")[:, 2:8], art(1))


def test_a_short_last_row_is_no_frames_unless_asked(kivel: Kivel, tmp_path: Path) -> None:
    sheet = np.zeros((10, 18, 4), np.uint8)
    sheet[:5, :6], sheet[:5, 12:] = art(1), art(3)
    sheet[5:, :6] = art(4)
    write(tmp_path / "s.png", sheet)
    done = kivel("slice", "s.png", "-o", "f", "--columns", "3", "--rows", "2")
    assert "2 empty cells at the end skipped; --empty keep keeps them" in done.err
    assert len(list((tmp_path / "f").glob("*.png"))) == 4
    assert not read(tmp_path / "f/s_0001.png").any()
    kivel("slice", "s.png", "-o", "g", "--columns", "3", "--rows", "2", "--empty", "keep")
    assert len(list((tmp_path / "g").glob("*.png"))) == 6


def test_a_sheet_is_sliced_as_the_manifest_beside_it_says(kivel: Kivel, tmp_path: Path, moth: list[Pixels]) -> None:
    kivel("sheet", "moth", "-o", "m.png", "--hold", "80ms", "--repeat", "2")
    done = kivel("slice", "m.png", "-o", "frames")
    assert "sliced by m.kivel.json beside it" in done.err
    assert np.array_equal(read(tmp_path / "frames/m_0011.png"), moth[11])
    kept = json.loads((tmp_path / "frames/m.kivel.json").read_text())["clips"]
    assert kept == json.loads((tmp_path / "m.kivel.json").read_text())["clips"]
    assert (
        kivel("sheet", "frames/m.kivel.json", "-o", "m.png").out.count("unchanged") == 1
    )  # what it was made of stands in the manifest


def test_a_turned_and_trimmed_frame_comes_back_whole(kivel: Kivel, tmp_path: Path) -> None:
    kivel_art = art(9)
    page = np.zeros((8, 8, 4), np.uint8)
    page[1:7, 2:7] = np.rot90(kivel_art, -1)
    write(tmp_path / "page.png", page)
    frame = {
        "name": "a",
        "source": "a.png",
        "page": 0,
        "turn": 90,
        "rect": [2, 1, 5, 6],
        "canvas": [10, 9],
        "offset": [3, 2],
    }
    empty = frame | {"rect": [0, 0, 0, 0], "turn": 0, "offset": [0, 0]}
    manifest = {
        "format": "kivel-manifest", "version": 1, "frames": [frame, empty],
        "pages": [{"size": [8, 8], "maps": {"color": {"file": "page.png", "digest": "?"}}}],
    }  # fmt: skip
    (tmp_path / "p.kivel.json").write_text(json.dumps(manifest))
    assert kivel("slice", "p.kivel.json", "-o", "out").code == 0
    whole = read(tmp_path / "out/p_0000.png")
    assert whole.shape == (9, 10, 4)
    assert np.array_equal(whole[2:7, 3:9], kivel_art)
    assert whole.sum() == kivel_art.sum()
    assert not read(tmp_path / "out/p_0001.png").any()


SOURCES = {
    "range": (["moth", "--range", "3-5"], ["3", "4", "5"], ""),
    "numbered pattern": (["moth/moth_#.png", "--range", "9-30"], ["9", "10", "11", "12"], "missing: 13-30"),
    "shell pattern": (["moth/moth_?.png"], [str(n) for n in range(1, 10)], ""),
    "files as named": (["moth/moth_9.png", "moth/moth_2.png"], ["9", "2"], ""),
    "files as a shell lists them": (
        [f"moth/moth_{n}.png" for n in (1, 10, 2)], ["1", "2", "10"], "3 files in shell order (10 before 2)"),
    "a file twice": (["moth/moth_2.png"] * 2, ["2", "2-2"], "moth/moth_2.png: given 2 times"),
    "a frame of two sources": (
        ["moth/moth_#.png", "moth/moth_2.png", "--range", "1-3"], ["1", "moth/moth_2", "3", "2/moth_2"],
        "1 frame in more than one source, and used each time: moth_2.png"),
    "several sources": (["moth/moth_#.png", "moth/moth_3.png", "--range", "1-2"], ["1", "2", "3"], ""),
}  # fmt: skip


@pytest.mark.parametrize(("words", "names", "note"), SOURCES.values(), ids=SOURCES)
@pytest.mark.usefixtures("moth")
def test_sources_are_what_they_say(kivel: Kivel, tmp_path: Path, words: list[str], names: list[str], note: str) -> None:
    done = kivel("sheet", *words, "-o", "s.png")
    assert done.code == 0
    assert note in done.err
    assert bool(note) == bool(done.err)
    manifest = json.loads((tmp_path / "s.kivel.json").read_text())
    assert [frame["name"].removeprefix("moth_") for frame in manifest["frames"]] == names


@pytest.mark.usefixtures("moth")
def test_what_is_odd_is_said(kivel: Kivel, tmp_path: Path) -> None:
    (tmp_path / "moth/moth_4.png").unlink()
    (tmp_path / "moth/notes.txt").write_text("x")
    done = kivel("sheet", "moth", "-o", "s.png")
    assert done.code == 0
    assert "moth: numbers missing: 4 (11 files, 1-12)" in done.err
    assert "moth: skipped, not images: notes.txt" in done.err
    listed = json.loads(kivel("sheet", "moth", "-o", "s.png", "--json").out)
    assert len(listed["notes"]) == 2
    assert [file["outcome"] for file in listed["files"]] == ["unchanged", "unchanged"]
    assert kivel("sheet", "moth", "-o", "s.png", "-q") == (0, "", "")


def test_several_series_are_listed_with_the_patterns_that_pick_them(kivel: Kivel, tmp_path: Path) -> None:
    for name in ("fly-1", "fly-2", "rest-1", "rest-2", "rest-3"):
        write(tmp_path / f"moths/{name}.png", art(1))
    done = kivel("sheet", "moths", "-o", "s.png")
    assert done.code == 1
    assert '"moths/fly-#.png"   2 frames, 1-2, 6x5 px' in done.err
    assert '"moths/rest-#.png"  3 frames, 1-3, 6x5 px' in done.err
    assert kivel("sheet", "moths/rest-#.png", "-o", "s.png").code == 0
