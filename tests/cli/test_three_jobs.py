"""Three jobs walked from frames to the finished sheet, and again after a repaint: nothing that was set is lost."""

from __future__ import annotations

import json
from collections.abc import Sequence
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from kivel.core.pixels.pixels import Pixels
from program import Kivel, art, read, write


def walk(kivel: Kivel, lines: str) -> str:
    """Run commands, one a line; what they say."""
    said = ""
    for line in lines.strip().splitlines():
        words = [word.replace("~", " ") for word in line.split()]
        done = kivel(*words)
        assert done.code == 0, (line, done.err)
        said += done.out + done.err
    return said


def manifest(path: Path) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(path.read_text())
    return found


def clips(path: Path) -> dict[str, Any]:
    return {clip["name"]: clip for clip in manifest(path)["clips"]}


def test_a_strip_of_tiles_with_its_light_and_three_lamps_out_of_step(kivel: Kivel, tmp_path: Path) -> None:
    def paint(number: int, seed: int = 0) -> None:
        write(tmp_path / f"lamp/lamp_{number}.png", art(number + seed, width=16, height=16))
        write(tmp_path / f"lamp/lamp_{number}_emission.png", art(number + seed + 40, width=16, height=16))

    for number in range(4):
        paint(number)
    build = "sheet lamp -o lamp.png --layout column --map-suffix emission=_emission"
    walk(
        kivel,
        f"""
        {build}
        retime lamp.kivel.json --order 0-3,2-1 --hold 3
        retime lamp.png --holds 4,2,2,6,2,2 --event 3:bright --interpolation linear
        retime lamp.png --stagger 3
        retime lamp.png --make-group lamps=lamp-* --choose random
        """,
    )
    before = manifest(tmp_path / "lamp.kivel.json")
    page = read(tmp_path / "lamp.png")
    paint(2, seed=500)
    said = walk(kivel, build)
    after = manifest(tmp_path / "lamp.kivel.json")
    assert (after["clips"], after["groups"]) == (before["clips"], before["groups"])
    assert 'clip "lamp": kept as set: order, holds, interpolation, events' in said
    assert not np.array_equal(read(tmp_path / "lamp.png"), page)
    assert list(after["pages"][0]["maps"]) == ["color", "emission"]
    lamp = clips(tmp_path / "lamp.kivel.json")
    assert [frame for frame, _ in lamp["lamp"]["steps"]] == [0, 1, 2, 3, 2, 1]
    assert len({tuple(lamp[f"lamp-{n}"]["phase"]) for n in (1, 2, 3)}) == 3
    assert [lamp[f"lamp-{n}"].get("phase_share") for n in (1, 2, 3)] == [None, [1, 3], [2, 3]]
    assert manifest(tmp_path / "lamp.kivel.json") == before | {"pages": after["pages"], "digest": after["digest"]}


SIDE, FRAMES = 64, 150


def burst(number: int) -> tuple[Pixels, Pixels, Pixels]:
    """A disc that grows, wanders by parts of a pixel and dims, on black; its normals, tilted to the right there."""
    rows, columns = np.mgrid[:SIDE, :SIDE] + 0.5
    age = number / FRAMES
    x, y, radius = 30 + 5 * age, 33 - 4 * age, 5 + 12 * age
    cover = np.clip(radius + 0.5 - np.hypot(columns - x, rows - y), 0, 1)
    grey = np.rint(cover * (230 - 140 * age)).astype(np.uint8)
    color = np.dstack((grey, grey, grey, np.full_like(grey, 255)))
    tilt = 0.6 * cover
    vectors = np.dstack((tilt, np.zeros_like(tilt), np.sqrt(1 - tilt**2)))
    normal = np.dstack((np.rint(vectors * 127.5 + 127.5), np.full_like(cover, 255))).astype(np.uint8)
    return color, normal, cover


def centre(weight: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
    rows, columns = np.mgrid[: weight.shape[0], : weight.shape[1]] + 0.5
    found: np.ndarray[Any, Any] = np.array([(rows * weight).sum(), (columns * weight).sum()]) / weight.sum()
    return found


@pytest.mark.slow
def test_a_long_burst_with_its_normals_on_one_page(kivel: Kivel, tmp_path: Path) -> None:
    for number in range(FRAMES):
        color, normal, _ = burst(number)
        write(tmp_path / f"long/long_{number:03d}.png", color)
        write(tmp_path / f"bumps/bumps_{number:03d}.png", normal)
    lines = """
        prep long -o cut --map normal=bumps --step matte --step trim~threshold=4 --step anchor~mass~each
        resample cut -o few --count 60 --one-shot
        prep few -o faded --step opacity~0..1~over=0-7~pace=ease-in
        sheet faded -o burst.png --fit-page 2048x1024
        """
    walk(kivel, lines)
    walk(kivel, "retime burst.png --length 2s --repeat 1 --end none --event 8:boom")
    for repaint in (False, True):
        if repaint:
            white = burst(75)[0]
            white[..., :3] = np.minimum(white[..., :3].astype(int) * 2, 255)
            write(tmp_path / "long/long_075.png", white)
            said = walk(kivel, lines)
            assert 'clip "cut": kept as set: holds, repeat, end, events' in said
        found = manifest(tmp_path / "burst.kivel.json")
        assert (found["pages"][0]["size"], len(found["frames"])) == ([2048, 1024], 60)
        (clip,) = found["clips"]
        length = sum(hold for _, hold in clip["steps"]) * clip["timebase"][1] / clip["timebase"][0]
        assert (length, clip["repeat"], clip["end"], clip["events"][0]["name"]) == (2, 1, "none", "boom")
        color, normal = read(tmp_path / "burst.png"), read(tmp_path / "burst.normal.png")
        strongest = []
        for frame in found["frames"]:
            x, y, w, h = frame["rect"]
            alpha = color[y : y + h, x : x + w, 3] / 255
            tilted = np.maximum(normal[y : y + h, x : x + w, 0] / 127.5 - 1.01, 0)
            strongest.append(alpha.max())
            if alpha.max():
                # the fade and the dimming are even: they move no centroid
                assert np.abs(centre(alpha) - centre(tilted)).max() <= 0.05, frame["name"]
        assert strongest[0] == 0
        assert all(a <= b + 0.01 for a, b in pairwise(strongest[:9]))
        assert strongest[8] > 0.8


SERIES = ("walk", "run", "idle", "jump", "sit", "wave", "dig", "sleep", "carry")


@pytest.mark.slow
def test_nine_series_to_a_trimmed_atlas_with_feet_footsteps_and_variants(kivel: Kivel, tmp_path: Path) -> None:
    def paint(name: str, number: int, seed: int = 0) -> None:
        image = np.zeros((40, 32, 4), np.uint8)
        image[10 - number : 40 - 2 * number, 8 : 20 + number] = art(
            SERIES.index(name) * 10 + number + seed, width=12 + number, height=30 - number
        )
        write(tmp_path / f"keeper/{name}_{number}.png", image)

    for name in SERIES:
        for number in range(3 if name == "sit" else 5):
            paint(name, number)
    assert "9 series" in walk(kivel, "inspect keeper")
    build = "atlas keeper -o keeper.png --pivot bottom --fps 10 --fps idle:4 --repeat jump:1"
    walk(
        kivel,
        f"""
        {build}
        retime keeper.png --event walk:0:step --event walk:2:step --event run:1:step
        retime keeper.png --clip jump --then idle
        retime keeper.png --new calm --order idle:0,2
        retime keeper.png --make-group idles=*i*l* --choose random --weight idle=3
        retime keeper.png --pivot sit*=16,34
        """,
    )
    before = manifest(tmp_path / "keeper.kivel.json")
    assert {tuple(frame["pivot"]) for frame in before["frames"]} == {(0.5, 1.0), (0.5, 0.85)}
    paint("walk", 1, seed=900)
    paint("dig", 5)
    said = walk(kivel, build)
    after = manifest(tmp_path / "keeper.kivel.json")
    kept: dict[str, Any] = clips(tmp_path / "keeper.kivel.json")
    for one in before["clips"]:
        if one["name"] != "dig":
            names = [(before["frames"][frame]["name"], hold) for frame, hold in one["steps"]]
            own = kept[one["name"]]
            assert [(after["frames"][frame]["name"], hold) for frame, hold in own["steps"]] == names
            skip = ("steps", "frames")
            assert {k: v for k, v in own.items() if k not in skip} == {k: v for k, v in one.items() if k not in skip}
    assert len(kept["dig"]["steps"]) == 6
    assert after["groups"] == before["groups"]
    pivots = {frame["name"]: frame["pivot"] for frame in after["frames"]}
    assert (pivots["sit_1"], pivots["dig_5"], pivots["walk_1"]) == ([0.5, 0.85], [0.5, 1.0], [0.5, 1.0])
    for line in ('clip "walk": kept as set: events', 'clip "calm" kept', 'group "idles" is kept', "3 pivots kept"):
        assert line in said, said
    assert all(frame["rect"][2] <= 32 for frame in after["frames"])


@pytest.mark.parametrize("words", [["timeline", "--clip", "jump"], ["inspect"], ["preview", "-o", "x.apng"]])
def test_what_was_made_is_used_by_its_image_as_by_its_manifest(
    kivel: Kivel, tmp_path: Path, words: Sequence[str]
) -> None:
    for name in ("jump", "idle"):
        for number in range(3):
            write(tmp_path / f"{name}/{name}_{number}.png", art(number))
    walk(kivel, "sheet jump idle -o s.png --repeat jump:1 --then jump:idle")
    command, *rest = words
    source = "s.png" if command != "preview" else "s.kivel.json"
    assert kivel(command, source, *rest).code == 0
