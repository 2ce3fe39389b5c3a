"""What sources mean, and what is said of them."""

from __future__ import annotations

import contextlib
import struct
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
import png_reference as reference
from kivel.files.exr import encode_exr
from program import art, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        yield tmp_path


def test_several_animated_files_state_no_common_repeat() -> None:
    """One states how often it plays; of several joined nobody knows."""
    for name, repeat in (("a", 2), ("b", 3)):
        kivel.preview(frames=[art(1), art(2)], out=f"{name}.apng", repeat=repeat, scale=1)
    assert kivel.prep("a.apng", step=["flip x"]).manifest.clips[0].repeat == 2
    assert kivel.prep("a.apng", "b.apng", step=["flip x"]).manifest.clips[0].repeat == "forever"


GAMMA, CHROMATICITIES = (b"gAMA", struct.pack(">I", 45455)), (b"cHRM", bytes(32))
NOTED = {
    "gamma": ([GAMMA], "not applied: a gamma value;"),
    "both": ([GAMMA, CHROMATICITIES], "not applied: a gamma value and chromaticities;"),
    "plain sRGB": ([(b"sRGB", b"\0"), GAMMA, CHROMATICITIES], ""),
}


@pytest.mark.parametrize(("extra", "note"), NOTED.values(), ids=NOTED)
def test_what_a_file_says_of_its_colour_is_said_unless_it_is_plain_srgb(
    place: Path, extra: list[tuple[bytes, bytes]], note: str
) -> None:
    header = reference.chunk(b"IHDR", struct.pack(">IIBBBBB", 1, 1, 8, 6, 0, 0, 0))
    data = reference.chunk(b"IDAT", zlib.compress(bytes(5)))
    chunks = b"".join(reference.chunk(*one) for one in extra)
    (place / "a.png").write_bytes(b"\x89PNG\r\n\x1a\n" + header + chunks + data + reference.chunk(b"IEND"))
    notes = kivel.inspect("a.png").notes
    assert (note in notes[0]) if note else notes == ()


def test_older_float_frames_go_as_older_png_do(place: Path) -> None:
    light = np.ones((2, 2, 4), np.float32)
    for number in range(5):
        (place / f"glow_{number}.exr").write_bytes(encode_exr(light * number))
        write(place / f"plain_{number}.png", art(number))
    for pattern in ("glow_#.exr", "plain_#.png"):
        out = f"of-{pattern[:4]}"
        assert kivel.prep(pattern, out=out, step=["crop 1x2"]).notes == ()
        made = kivel.prep(pattern, out=out, step=["crop 1x2", "drop 3-4"])
        removed = [file.path.stem[-5:] for file in made.files if file.outcome == "removed"]
        assert (removed, len(list((place / out).iterdir()))) == (["_0003", "_0004"], 4)


def test_a_manifest_leaves_no_grid_to_ask_for() -> None:
    kivel.sheet(frames=[art(1), art(2)], out="s.png")
    for options in ({"empty": "keep"}, {"columns": 2}, {"gap": 0}):
        with pytest.raises(kivel.UsageError, match="a manifest knows its cells"):
            kivel.slice("s.kivel.json", **options)
    assert len(kivel.slice("s.png", columns=2, rows=1, empty="keep").images) == 2


EMPTY = {"drop-last": [0, 1, 2], "drop": [0, 2], "keep": [0, 1, 2, 3, 4, 5]}


@pytest.mark.parametrize(("empty", "cells"), EMPTY.items(), ids=EMPTY)
def test_empty_cells_go_or_stay(place: Path, empty: Any, cells: list[int]) -> None:
    sheet = np.zeros((10, 18, 4), np.uint8)
    sheet[:5, :6], sheet[:5, 12:] = art(1), art(2)
    write(place / "s.png", sheet)
    made = kivel.slice("s.png", columns=3, rows=2, empty=empty)
    expected = [sheet[5 * (cell // 3) :, 6 * (cell % 3) :][:5, :6] for cell in cells]
    assert all(np.array_equal(a, b) for a, b in zip(made.images.values(), expected, strict=True))


def test_some_frames_of_16_bits_are_told_but_not_beside_floats(place: Path) -> None:
    write(place / "a_1.png", art(1, dtype=np.uint16))
    write(place / "a_2.png", art(2))
    said = "1 of 2 frames have 16 bits a channel (a_1.png); all become 16 bits"
    assert kivel.inspect("a_1.png", "a_2.png").notes == (said,)
    (place / "a_3.exr").write_bytes(encode_exr(np.ones((5, 6, 4), np.float32)))
    assert kivel.inspect("a_1.png", "a_3.exr").notes == ()
