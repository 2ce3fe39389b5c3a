"""Atlases: every frame comes back bit for bit, maps stay in step, and what cannot be is told."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from kivel.cli.main import main
from kivel.core.pixels.pixels import Pixels
from program import Kivel, art, files, read, write

OPTIONS = st.fixed_dictionaries(
    {
        "gap": st.integers(0, 3),
        "margin": st.integers(0, 3),
        "skirt": st.integers(0, 2),
        "flags": st.sets(st.sampled_from(("--turn", "--pow2", "--square", "--share-flips", "--no-trim"))),
        "pages": st.sampled_from(("fill", "balance", "together")),
        "limit": st.sampled_from((None, "32x32", "64x32")),
        "mips": st.sampled_from((None, None, 2)),
    }
)


@st.composite
def sprites(draw: st.DrawFn) -> list[Pixels]:
    """Frames of several sizes, with bare borders of one hidden colour, copies, mirror images and empty ones."""
    made: list[Pixels] = []
    for number in range(draw(st.integers(1, 7))):
        width, height = draw(st.integers(1, 14)), draw(st.integers(1, 14))
        image = art(number, width=width, height=height)
        kind = draw(st.sampled_from(("bare", "bare", "full", "copy", "mirror", "empty")))
        if kind in ("copy", "mirror") and made:
            last = made[-1]
            image = last.copy() if kind == "copy" else last[:, ::-1].copy()
        elif kind == "empty":
            image[...] = (9, 8, 7, 0)
        elif kind == "bare":
            left, top = draw(st.integers(0, width)), draw(st.integers(0, height))
            image[:top] = image[:, :left] = draw(st.sampled_from(((0, 0, 0, 0), (255, 255, 255, 0))))
        made.append(image)
    return made


def words(options: dict[str, Any]) -> list[str]:
    found = [word for name in ("gap", "margin", "skirt") for word in (f"--{name}", str(options[name]))]
    found += [*sorted(options["flags"]), "--pages", options["pages"], "--effort", "quick"]
    found += ["--page-limit", options["limit"]] if options["limit"] else []
    return found + (["--mip-safe", str(options["mips"])] if options["mips"] else [])


def check_pages(folder: Path, manifest: dict[str, Any], options: dict[str, Any]) -> None:
    """Nothing overlaps, all is inside, gaps, margins and skirts are kept, and no texel of a safe mip is shared."""
    around = options["skirt"]
    for number, page in enumerate(manifest["pages"]):
        width, height = page["size"]
        assert read(folder / page["maps"]["color"]["file"]).shape[:2] == (height, width)
        owner = np.zeros((height, width), bool)
        block = 1 << (options["mips"] or 0)
        texels = np.zeros((height, width), bool)
        rects = {tuple(frame["rect"]) for frame in manifest["frames"] if frame["page"] == number and frame["rect"][2]}
        for x, y, w, h in rects:
            left, top = x - around, y - around
            assert min(left, top) >= options["margin"]
            assert max(x + w + around - width, y + h + around - height) <= -options["margin"]
            part = owner[top : y + h + around + options["gap"], left : x + w + around + options["gap"]]
            assert not part[: h + 2 * around, : w + 2 * around].any()
            part[...] = True
            whole = slice(top // block * block, -(-(y + h + around) // block) * block)
            texel = texels[whole, left // block * block : -(-(x + w + around) // block) * block]
            assert not texel.any()  # of any mip level up to the last
            texel[...] = True


@settings(max_examples=20)
@given(frames=sprites(), options=OPTIONS)
def test_slice_undoes_atlas(frames: list[Pixels], options: dict[str, Any]) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for index, frame in enumerate(frames):
            write(folder / f"in/f{index}.png", frame)
        code = main(["atlas", f"{name}/in", "-o", f"{name}/a.png", *words(options), "-q"])
        if not any(frame[..., 3].any() for frame in frames):
            assert code == 1
            return
        assert code == 0
        check_pages(folder, json.loads((folder / "a.kivel.json").read_text()), options)
        assert main(["slice", f"{name}/a.kivel.json", "-o", f"{name}/out", "-q"]) == 0
        for path, frame in zip(sorted((folder / "out").glob("*.png")), frames, strict=True):
            assert np.array_equal(read(path), frame)


def scene(number: int, *, width: int = 12, height: int = 10) -> Pixels:
    """A frame with a bare border, on even pixels."""
    image = np.zeros((height, width, 4), np.uint8)
    image[2:8, 4:10] = art(number, width=6, height=6)
    image[2:8, 4:10, 3] |= 1
    return image


def normals(number: int, *, width: int = 12, height: int = 10) -> Pixels:
    """An opaque normal map with a neutral border, that reaches further than the colour."""
    image = np.full((height, width, 4), (128, 128, 255, 255), np.uint8)
    image[2:10, 4:10] = art(100 + number, width=6, height=8) | np.array((0, 0, 0, 255), np.uint8)
    return image


@pytest.fixture
def mapped(tmp_path: Path) -> list[Pixels]:
    """`scene/s_0.png` to `s_4.png` with `s_0_n.png` beside them, and masks of half the size in `mask/`."""
    for number in range(5):
        write(tmp_path / f"scene/s_{number}.png", scene(number))
        write(tmp_path / f"scene/s_{number}_n.png", normals(number))
        write(tmp_path / f"mask/m_{number}.png", np.repeat(scene(number)[::2, ::2, 3:], 4, axis=2))
    return [scene(number) for number in range(5)]


MAPS = ["--map-suffix", "normal=_n", "--map", "mask=mask", "--map-scale", "mask=1/2"]


@pytest.mark.parametrize("command", ["atlas", "sheet"])
@pytest.mark.parametrize("more", [[], ["--page-limit", "32x32"], ["--skirt", "2", "--mip-safe", "1"]], ids=str)
def test_maps_stay_in_step(kivel: Kivel, tmp_path: Path, mapped: list[Pixels], command: str, more: list[str]) -> None:
    more = [*more, "--turn"] if command == "atlas" else more
    assert kivel(command, "scene", "-o", "out/a.png", *MAPS, *more).code == 0
    manifest = json.loads((tmp_path / "out/a.kivel.json").read_text())
    for page in manifest["pages"]:
        width, height = page["size"]
        sizes = [read(tmp_path / "out" / page["maps"][name]["file"]).shape[:2] for name in ("color", "normal", "mask")]
        assert sizes == [(height, width), (height, width), (height // 2, width // 2)]
        assert page["maps"]["normal"]["ground"] == [128, 128, 255, 255]
    assert kivel("inspect", "out/a.kivel.json").code == 0
    expected = {
        "color": mapped,
        "normal": [normals(number) for number in range(5)],
        "mask": [np.repeat(frame[::2, ::2, 3:], 4, axis=2) for frame in mapped],
    }
    for name, frames in expected.items():
        assert kivel("slice", "out/a.kivel.json", "-o", name, "--show", name).code == 0
        for path, frame in zip(sorted((tmp_path / name).glob("a_*.png")), frames, strict=True):
            assert np.array_equal(read(path), frame)


def test_missing_frames_of_a_map_are_neutral_when_asked(kivel: Kivel, tmp_path: Path, mapped: list[Pixels]) -> None:
    (tmp_path / "scene/s_3_n.png").unlink()
    words = ("--map-suffix", "normal=_n", "--missing-map", "neutral")
    assert "map normal: neutral for s_3" in kivel("atlas", "scene", "-o", "a.png", *words).err
    assert kivel("slice", "a.kivel.json", "-o", "out", "--show", "normal").code == 0
    assert (read(tmp_path / "out/a_0003.png") == (128, 128, 255, 255)).all()
    assert np.array_equal(read(tmp_path / "out/a_0004.png"), normals(4))
    assert kivel("sheet", "a.kivel.json", "-o", "b.png").code == 0  # its map comes along unasked
    kivel("slice", "b.kivel.json", "-o", "back")
    assert np.array_equal(read(tmp_path / "back/b_0004.normal.png"), normals(4))
    assert len(mapped) == 5


def test_boxes_hold_what_any_map_shows(kivel: Kivel, tmp_path: Path, mapped: list[Pixels]) -> None:
    assert len(mapped) == 5
    assert kivel("atlas", "scene", "-o", "all.png", "--map-suffix", "normal=_n").code == 0
    assert kivel("atlas", "scene", "-o", "color.png", "--map-suffix", "normal=_n", "--trim-by", "color").code == 0
    rects = [json.loads((tmp_path / f"{n}.kivel.json").read_text())["frames"][0]["rect"][2:] for n in ("all", "color")]
    assert rects == [[6, 8], [6, 6]]


REFUSED = {
    "a frame larger than the page": ("atlas big -o o.png --page-limit 8x8", "big/b.png: 9x7 px with gap and skirt"),
    "no page": ("atlas big -o o.png --page-limit 0x0", "--page-limit: expected WIDTHxHEIGHT"),
    "an outline of 2": ("atlas big -o o.png --outline 2", "expected a whole number from 3 to 64, found '2'"),
    "nothing to see": ("atlas bare -o o.png", "all 1 frames are empty, nothing to pack"),
    "a map with a frame too few": (
        "atlas scene -o o.png --map-suffix mask=_m --map-suffix normal=_n",
        "scene/s_0.png: map mask has no frame for it (s_0_m.png); 5 of 5 are missing; render it, or pass --missing-map",
    ),
    "a map with frames too many": (
        "sheet scene/s_0.png scene/s_1.png -o o.png --map mask=mask",
        "mask: map mask has 5 frames, s_0 has 2; remove some",
    ),
    "a map of another size": (
        "atlas scene -o o.png --map-suffix normal=_n --map mask=mask",
        "mask/m_0.png: 6x5 px, its colour frame has 12x10 (s_0.png); render it again",
    ),
    "an unknown kind": ("atlas scene -o o.png --map-suffix n=_n --map-kind n=depth", "expected color, mask, normal"),
    "a kind for no map": ("atlas big -o o.png --map-kind n=mask", "there is no map 'n'; give its frames with --map"),
    "a scale that does not divide": (
        "atlas big -o o.png --map mask=big --map-scale mask=1/2",
        "big/b.png: 9x7 px do not divide by 2, which --map-scale mask=1/2 needs; pad it first",
    ),
    "mirrored vectors": (
        "atlas scene -o o.png --map-suffix normal=_n --share-flips",
        "mirroring would change vectors",
    ),
    "contradictions": ("atlas big -o o.png --keep-hidden --visible-above 9", "--keep-hidden cannot be combined"),
    "a power of three": ("atlas big -o o.png --pow2 --multiple-of 3", "no power of two is a multiple of 3"),
}


@pytest.mark.parametrize(("line", "said"), REFUSED.values(), ids=REFUSED)
def test_what_cannot_be_is_told_and_nothing_is_written(
    kivel: Kivel, tmp_path: Path, mapped: list[Pixels], line: str, said: str
) -> None:
    assert len(mapped) == 5
    write(tmp_path / "big/b.png", art(1, width=9, height=7))
    write(tmp_path / "bare/b.png", np.zeros((4, 4, 4), np.uint8))
    before = files(tmp_path)
    done = kivel(*line.split())
    assert done.code in (1, 2)
    assert said in done.err
    assert files(tmp_path) == before


def test_the_same_atlas_whatever_the_jobs_and_the_order_of_files(kivel: Kivel, tmp_path: Path) -> None:
    for number in (7, 2, 11, 5):
        write(tmp_path / f"in/f{number}.png", art(number, width=3 + number, height=20 - number))
    for number, jobs in enumerate(("1", "2", "5")):
        again = tmp_path / "in/f2.png"
        data = again.read_bytes()
        again.unlink()
        again.write_bytes(data)
        assert kivel("atlas", "in", "-o", f"{number}/a.png", "--turn", "--jobs", jobs, PYTHONHASHSEED=jobs).code == 0
    made = [files(tmp_path / str(number)) for number in range(3)]
    assert made[0] == made[1] == made[2]


def test_equal_frames_are_stored_once_and_hidden_colour_tells_them_apart(kivel: Kivel, tmp_path: Path) -> None:
    frame = art(1)
    other = frame.copy()
    other[0, 0, :3] ^= 255  # alpha is 0 there
    for name, image in {"a": frame, "b": frame, "c": other, "d": frame[::-1, ::-1].copy()}.items():
        write(tmp_path / f"in/{name}.png", image)

    def packed(*words: str) -> tuple[int, list[str | None]]:
        done = kivel("atlas", "in", "-o", "o.png", "--json", *words)
        manifest = json.loads((tmp_path / "o.kivel.json").read_text())
        return json.loads(done.out)["packed"], [f.get("flip") for f in manifest["frames"]]

    assert packed() == (3, [None] * 4)
    assert packed("--ignore-hidden") == (2, [None] * 4)
    assert packed("--share-flips") == (2, [None, None, None, "xy"])


def test_faint_edges_are_measured_and_cut_off_when_asked(kivel: Kivel, tmp_path: Path) -> None:
    image = np.full((10, 10, 4), 200, np.uint8)
    image[..., 3] = 5
    image[3:7, 3:7, 3] = 255
    write(tmp_path / "in/glow.png", image)
    done = kivel("atlas", "in", "-o", "o.png")
    assert "boxes would be 84% smaller with --visible-above 8" in done.err
    assert kivel("atlas", "in", "-o", "o.png", "--visible-above", "8").code == 0
    assert json.loads((tmp_path / "o.kivel.json").read_text())["frames"][0]["rect"][2:] == [4, 4]


def test_hidden_colour_of_several_values_is_left_unless_it_is_kept(kivel: Kivel, tmp_path: Path) -> None:
    image = art(3, width=8, height=8)
    image[:4, :, 3] = 0
    write(tmp_path / "in/f.png", image)
    assert (
        "colour under alpha 0 outside the boxes is dropped (f); --keep-hidden"
        in kivel("atlas", "in", "-o", "o.png").err
    )
    seen = image.copy()
    seen[0, 0, 3] = 255  # a visible corner, bare sides
    seen[1:, 4:, 3] = 0
    write(tmp_path / "in/g.png", seen)
    assert kivel("atlas", "in", "-o", "k.png", "--keep-hidden").err == ""
    assert kivel("slice", "k.kivel.json", "-o", "k").code == 0
    assert np.array_equal(read(tmp_path / "k/k_0000.png"), image)
    assert np.array_equal(read(tmp_path / "k/k_0001.png"), seen)


def test_outlines_enclose_what_is_visible_and_say_how_much_else(kivel: Kivel, tmp_path: Path) -> None:
    disc = np.zeros((40, 40, 4), np.uint8)
    y, x = np.mgrid[:40, :40]
    disc[(x - 20) ** 2 + (y - 18) ** 2 < 200] = 255
    write(tmp_path / "in/disc.png", disc)
    done = kivel("atlas", "in", "-o", "o.png", "--outline", "10")
    outline = json.loads((tmp_path / "o.kivel.json").read_text())["frames"][0]["outline"]
    assert len(outline["points"]) == 10
    drawn = np.count_nonzero(disc[..., 3])
    assert f"transparent pixels inside: outlines {outline['unseen']:.0f}, boxes {29 * 29 - drawn}" in done.out
    assert 0 < outline["unseen"] < 0.1 * drawn


def test_frames_of_a_clip_have_one_outline_around_all_of_them(kivel: Kivel, tmp_path: Path) -> None:
    """Clips that have a frame in common count as one."""
    drawn = []
    for number in range(5):
        image = np.zeros((30, 30, 4), np.uint8)
        image[3 + 4 * number : 9 + 4 * number, 2 + 3 * number : 10 + 2 * number] = 255
        write(tmp_path / f"in/bit_{number}.png", image)
        drawn.append(image[..., 3] > 0)
    clips = "--make-clip a=0-1 --make-clip b=1-2 --make-clip c=3 --make-clip d=4"
    assert kivel(*f"atlas in -o o.png --outline 8 --outline-of clip {clips}".split()).code == 0
    frames = json.loads((tmp_path / "o.kivel.json").read_text())["frames"]
    points = [frame["outline"]["points"] for frame in frames]
    assert points[0] == points[1] == points[2] != points[3]
    together = drawn[0] | drawn[1] | drawn[2]
    for shown, corners in ((together, points[0]), (drawn[3], points[3]), (drawn[4], points[4])):
        assert len(corners) <= 8
        assert encloses(corners, shown)
    for mask, frame in zip(drawn, frames, strict=True):
        corners = np.array(frame["outline"]["points"])
        x, y = corners.T
        area = abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2
        assert frame["outline"]["unseen"] == pytest.approx(area - mask.sum(), abs=0.01)
    assert "needs --outline" in kivel("atlas", "in", "-o", "p.png", "--outline-of", "clip").err


def encloses(corners: list[list[float]], mask: NDArray[np.bool_]) -> bool:
    """Whether all four corners of each pixel are on the right of every side, clockwise as seen."""
    rows, columns = np.nonzero(mask)
    points = np.concatenate([np.column_stack((columns + x, rows + y)) for x in (0, 1) for y in (0, 1)]).astype(float)
    sides = zip(corners, [*corners[1:], corners[0]], strict=True)
    return all(
        ((b[0] - a[0]) * (points[:, 1] - a[1]) - (b[1] - a[1]) * (points[:, 0] - a[0]) >= -1e-6).all() for a, b in sides
    )
