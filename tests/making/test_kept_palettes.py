"""Palettes go through every command that only moves pixels, with their order and what no pixel uses."""

from __future__ import annotations

import random
import shlex
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

import kivel
from kivel.core.pixels.indexed import StoredPalette, agreed_palette
from kivel.files.png.chunks import SIGNATURE, chunk
from program import in_process, read

Indices = NDArray[np.uint8]


def write_indexed(path: Path, indices: Indices, palette: bytes, alpha: bytes) -> None:
    """Written without a line of the program's own encoder."""
    path.parent.mkdir(parents=True, exist_ok=True)
    rows = b"".join(b"\0" + row.tobytes() for row in indices)
    header = struct.pack(">IIBBBBB", indices.shape[1], indices.shape[0], 8, 3, 0, 0, 0)
    parts = [(b"IHDR", header), (b"PLTE", palette), (b"tRNS", alpha), (b"IDAT", zlib.compress(rows)), (b"IEND", b"")]
    path.write_bytes(SIGNATURE + b"".join(chunk(kind, data) for kind, data in parts if data or kind == b"IEND"))


def read_indexed(path: Path) -> tuple[Indices, bytes, bytes] | None:
    """Indices by Pillow, PLTE and tRNS as they are in the file; None of a file without a palette."""
    from PIL import Image

    data, place, found = path.read_bytes(), 8, {b"PLTE": b"", b"tRNS": b""}
    while place < len(data):
        length, kind = struct.unpack(">I4s", data[place : place + 8])
        found[kind] = data[place + 8 : place + 8 + length]
        place += 12 + length
    if data[25] != 3:
        return None
    with Image.open(path) as image:
        return np.array(image), found[b"PLTE"], found[b"tRNS"].rstrip(b"\xff")


def random_sprites(folder: Path, seed: int) -> tuple[list[Indices], bytes, bytes]:
    """A few frames of one palette, with doubles, unused entries and several alphas."""
    rng = random.Random(seed)
    count = rng.randint(2, 40)
    colours = [rng.randbytes(3) for _ in range(count)]
    for _ in range(rng.randint(0, 3)):
        colours[rng.randrange(count)] = rng.choice(colours)
    used = rng.sample(range(count), rng.randint(1, count))
    alpha = [255] * count
    for index in rng.sample(range(count), rng.randint(1, min(3, count))):
        alpha[index] = rng.choice([0, 0, 128])
    alpha[used[0]] = 255
    stored = b"".join(colours), bytes(alpha).rstrip(b"\xff")
    shape = 10, 12
    frames = [np.array(rng.choices(used, k=120), np.uint8).reshape(shape) for _ in range(rng.choice([4, 5, 9]))]
    for number, indices in enumerate(frames):
        write_indexed(folder / f"sprite_{number:02d}.png", indices, *stored)
    return frames, *stored


ROUND = {
    "sheet and slice": ["sheet src -o s.png", "slice s.kivel.json -o back"],
    "a slice by hand": ["sheet src -o s.png --layout row", "slice s.png --cell 12x10 --key none --empty keep -o back"],
    "atlas": ["atlas src -o a.png --no-trim", "slice a.kivel.json -o back"],
    "trimmed, with padding": ["atlas src -o a.png --skirt 2", "slice a.kivel.json -o back"],
    "prep": ["prep src -o back --step 'reverse'"],
    "resample": ["resample src -o back --range 1-3 --count 3"],
}


@pytest.mark.parametrize("words", ROUND.values(), ids=ROUND)
def test_palette_and_indices_come_back(words: list[str], tmp_path: Path) -> None:
    for seed in range(4):
        folder = tmp_path / str(seed)
        frames, palette, alpha = random_sprites(folder / "src", seed)
        for line in words:
            assert in_process(shlex.split(line), folder).code == 0
        expected = frames[::-1] if "reverse" in words[-1] else frames[1:4] if "resample" in words[-1] else frames
        files = sorted((folder / "back").glob("*.png"))
        for path, indices in zip(files, expected, strict=True):
            found = read_indexed(path)
            assert found, path
            # a palette in which nothing is transparent gets black for the space between frames
            assert found[1] in (palette, palette + bytes(3)), path
            assert found[2].startswith(alpha), path
            assert (found[0] == indices).all(), path


def test_frames_that_only_look_alike_are_not_shared(tmp_path: Path) -> None:
    """Two entries have one colour, which a palette swap tells apart."""
    frames = [np.full((4, 4), index, np.uint8) for index in (0, 1, 0)]
    for number, indices in enumerate(frames):
        write_indexed(
            tmp_path / f"src/a_{number}.png", indices, bytes([5, 5, 5, 5, 5, 5, 0, 0, 0]), bytes([255, 255, 0])
        )
    for line in ("atlas src -o a.png", "slice a.kivel.json -o back"):
        assert in_process(shlex.split(line), tmp_path).code == 0
    found = [read_indexed(path) for path in sorted((tmp_path / "back").glob("*.png"))]
    assert [each and int(each[0][0, 0]) for each in found] == [0, 1, 0]


def test_trimming_keeps_which_of_two_equal_transparent_entries_a_pixel_has(tmp_path: Path) -> None:
    indices = np.zeros((6, 7), np.uint8)
    indices[2:4, 2:4], indices[1, 0] = 2, 1
    write_indexed(tmp_path / "src/a_0.png", indices, bytes([4, 4, 4, 4, 4, 4, 9, 9, 9]), bytes([0, 0]))
    for line in ("atlas src -o a.png", "slice a.kivel.json -o back"):
        assert in_process(shlex.split(line), tmp_path).code == 0
    found = read_indexed(tmp_path / "back/a_0000.png")
    assert found
    assert np.array_equal(found[0], indices)
    assert read(tmp_path / "a.png").shape[:2] == (3, 4)


def test_a_sheet_that_loses_its_palette_by_a_new_frame_says_so(tmp_path: Path) -> None:
    write_indexed(tmp_path / "src/a_0.png", np.array([[0, 1]], np.uint8), bytes([1, 1, 1, 2, 2, 2, 9, 9, 9]), bytes(1))
    assert in_process(["sheet", "src", "-o", "s.png", "--columns", "3", "--pow2"], tmp_path).code == 0
    for colour, kept in ((9, True), (8, False)):
        write_indexed(tmp_path / "new.png", np.array([[0, 0]], np.uint8), bytes([colour] * 3), b"")
        done = in_process(["sheet", "new.png", "--into", "s.kivel.json"], tmp_path)
        assert done.code == 0, done
        assert (read_indexed(tmp_path / "s.png") is not None) == kept
        assert ("its palette is not kept" not in done.err) == kept


def test_inspect_says_which_palette_frames_have(tmp_path: Path) -> None:
    write_indexed(tmp_path / "src/a_0.png", np.array([[0, 1]], np.uint8), bytes([1, 1, 1, 2, 2, 2]), bytes([9]))
    inspection = kivel.inspect(str(tmp_path / "src")).inspection
    assert inspection
    light = inspection.light
    done = in_process(["prep", "src", "-o", "dim", "--step", "opacity 0.5"], tmp_path)
    assert "the palette is not kept: other colours in 1 frame of 1" in done.err
    assert light.text() == "8 bits, sRGB, one palette of 2 colours"
    assert light.document()["palette"] == ["#01010109", "#020202ff"]
    write_indexed(tmp_path / "src/a_1.png", np.array([[0, 1]], np.uint8), bytes([3, 1, 1, 2, 2, 2]), b"")
    assert "palettes that differ" in in_process(["inspect", "src"], tmp_path).out
    write_indexed(tmp_path / "src/a_1.png", np.array([[1, 1]], np.uint8), bytes([3, 1, 1, 2, 2, 2]), b"")
    assert "one palette of 2 colours" in in_process(["inspect", "src"], tmp_path).out


def test_what_has_no_palette_gets_none_unless_asked(tmp_path: Path) -> None:
    frames = [np.full((8, 8, 4), (10 * number, 9, 200, 255), np.uint8) for number in range(3)]
    kivel.prep(frames=frames, out=str(tmp_path / "src"), step=("flip x",))
    for option, kind in {"": 2, "--indexed smallest": 3, "--colors 4": 3, "--colors 4 --indexed never": 2}.items():
        in_process(["sheet", "src", "-o", "s.png", "--layout", "row", *option.split()], tmp_path)
        assert (tmp_path / "s.png").read_bytes()[25] == kind, option


def test_palettes_that_agree_where_they_are_used_become_one_and_others_are_told_of(tmp_path: Path) -> None:
    first, second = bytes([1, 1, 1, 2, 2, 2, 9, 9, 9]), bytes([1, 1, 1, 8, 8, 8, 3, 3, 3, 4, 4, 4])
    write_indexed(tmp_path / "src/a_0.png", np.array([[0, 1]], np.uint8), first, b"")
    write_indexed(tmp_path / "src/a_1.png", np.array([[0, 2]], np.uint8), second, b"")
    in_process(["sheet", "src", "-o", "s.png", "--layout", "row"], tmp_path)
    found = read_indexed(tmp_path / "s.png")
    assert found
    assert found[1] == bytes([1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4])
    assert found[0].tolist() == [[0, 1, 0, 2]]
    write_indexed(tmp_path / "src/a_1.png", np.array([[0, 1]], np.uint8), second, b"")
    done = in_process(["sheet", "src", "-o", "s.png", "--layout", "row", "--force"], tmp_path)
    assert "the palettes of the frames differ" in done.err
    assert read_indexed(tmp_path / "s.png") is None


def test_frames_of_one_sequence_are_stored_in_one_form(tmp_path: Path) -> None:
    """One is grey and opaque, one has colour, one has alpha: all get colour and alpha."""
    frames = [np.full((8, 8, 4), value, np.uint8) for value in ((7, 7, 7, 255), (9, 7, 7, 255), (7, 7, 7, 3))]
    kivel.prep(frames=frames, out=str(tmp_path / "out"), step=("flip x",))
    files = sorted((tmp_path / "out").glob("*.png"))
    assert [path.read_bytes()[25] for path in files] == [6] * 3
    again = kivel.prep(frames=frames, out=str(tmp_path / "out"), step=("flip x",))
    assert {file.outcome for file in again.files} == {"unchanged"}


def test_a_palette_of_one_frame_alone_is_its_own() -> None:
    assert agreed_palette([]) is None
    assert agreed_palette([StoredPalette(bytes(8)), None]) is None
    assert agreed_palette([StoredPalette(bytes(4)), StoredPalette(bytes(8))]) is None


def test_a_palette_file_gives_its_colours_in_its_order(tmp_path: Path) -> None:
    """Each pixel gets the nearest; what is transparent stays so."""
    rng = np.random.default_rng(3)
    frames = [rng.integers(0, 256, (9, 9, 4), np.uint8) | np.array([0, 0, 0, 255], np.uint8) for _ in range(2)]
    frames[0][0, :4] = 0
    table = rng.integers(0, 256, (7, 3), np.uint8)
    (tmp_path / "few.txt").write_text("; ours\n\n" + "".join(f"#{colour.tobytes().hex()}\n" for colour in table))
    kivel.prep(frames=frames, out=str(tmp_path / "out"), palette=str(tmp_path / "few.txt"))
    for frame, path in zip(frames, sorted((tmp_path / "out").glob("*.png")), strict=True):
        found = read_indexed(path)
        assert found
        assert found[1] == table.tobytes() + bytes(3)
        far = ((frame[..., None, :3].astype(int) - table) ** 2).sum(axis=-1)
        wanted = np.where(frame[..., 3] == 0, len(table), far.argmin(axis=-1))
        assert np.array_equal(found[0], wanted)
    # and a picture with a palette gives that
    kivel.sheet(frames=frames, out=str(tmp_path / "s.png"), palette=str(tmp_path / "out/out_0000.png"), layout="row")
    sheet = read_indexed(tmp_path / "s.png")
    assert sheet
    assert sheet[1] == table.tobytes() + bytes(3)


def test_own_colours_are_none_but_those_of_the_frames() -> None:
    rng = np.random.default_rng(4)
    frames = [rng.integers(0, 256, (16, 16, 4), np.uint8) for _ in range(3)]
    known = {tuple(colour) for frame in frames for colour in frame.reshape(-1, 4).tolist()}
    made = kivel.prep(frames=frames, colors=9, own_colors=True)
    new = {tuple(colour) for image in made.images.values() for colour in image.reshape(-1, 4).tolist()}
    assert 2 <= len(new) <= 9
    assert new <= known


WRONG = {
    "#12345": "'#12345' is no colour",
    "": "no colours",
    "\n".join(f"#{value:06x}" for value in range(257)): "more than 256 colours",
}


@pytest.mark.parametrize(("text", "said"), WRONG.items(), ids=WRONG.values())
def test_a_file_that_is_no_palette_is_refused(text: str, said: str, tmp_path: Path) -> None:
    (tmp_path / "few.txt").write_text(text)
    with pytest.raises(kivel.KivelError, match=said):
        kivel.prep(frames=[np.zeros((2, 2, 4), np.uint8)], palette=str(tmp_path / "few.txt"))
