"""Whole jobs of practitioners, from source to engine: a few commands each, and the outcome as somebody else reads it.

A job takes at most six commands and twelve options, and no template of one's own.
"""

from __future__ import annotations

import ast
import json
import re
import shlex
from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from kivel.core.pixels.pixels import Pixels
from kivel.demo.art import drawings
from program import Kivel, write

Job = Callable[[str], str]
MOST_COMMANDS, MOST_OPTIONS = 6, 12


@cache
def drawn(name: str) -> dict[str, Pixels]:
    return {path: image for drawing in drawings([name]) for path, image in drawing().items()}


@pytest.fixture
def draw(tmp_path: Path) -> Callable[..., None]:
    """Some art of the demo, all of it or its first frames."""

    def put(*names: str, first: int | None = None) -> None:
        for name in names:
            for path, image in list(drawn(name).items())[:first]:
                write(tmp_path / path, image)

    return put


@pytest.fixture
def job(kivel: Kivel, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Job]:
    """Runs the lines of a job; gives what the last one printed."""
    ran: list[list[str]] = []
    monkeypatch.chdir(tmp_path)

    def run(lines: str) -> str:
        for line in lines.strip().splitlines():
            words = shlex.split(line)
            done = kivel(*words)
            assert done.code == 0, f"{line}: {done.err}"
            ran.append(words)
        return done.out

    yield run
    options = [word for words in ran for word in words if word.startswith("-")]
    assert len(ran) <= MOST_COMMANDS
    assert len(options) <= MOST_OPTIONS


def picture(name: str) -> Pixels:
    """As another program reads it."""
    return np.asarray(Image.open(name).convert("RGBA"))


def cell(page: Pixels, columns: int, rows: int, number: int) -> Pixels:
    """The cell that an engine finds that divides the page."""
    height, width = page.shape[0] // rows, page.shape[1] // columns
    row, column = divmod(number, columns)
    return page[row * height : (row + 1) * height, column * width : (column + 1) * width]


def document(name: str) -> Any:
    return json.loads(Path(name).read_text())


def test_a_packs_strip_of_fireflies_with_ticks_and_order(job: Job, draw: Callable[..., None]) -> None:
    draw("firefly")
    job("""
profile new tiles.toml --example tiles
sheet firefly -o firefly.png --fps 10 --order 0-3*2,2-1
export firefly.kivel.json --profile tiles.toml -o pack
""")
    strip = picture("pack/tiles/firefly.png")
    for number in range(4):
        assert np.array_equal(cell(strip, 4, 1, number), picture(f"firefly/firefly_{number + 1}.png"))
    lines = Path("pack/timing/firefly.txt").read_text().split("\n")[1:-1]
    assert lines == ["0 12", "1 12", "2 12", "3 12", "2 6", "1 6"]


def test_b_a_lamps_glowing_twin_has_its_own_text_only_where_there_is_one(job: Job, draw: Callable[..., None]) -> None:
    draw("lantern", "firefly")
    job("""
profile new tiles.toml --example tiles
prep "lantern/lantern_#.png" -o lamp --map-suffix emission=_emission --step square
sheet lamp -o lamp.png --fps 8
sheet firefly -o firefly.png --fps 8
export lamp.kivel.json firefly.kivel.json --profile tiles.toml -o pack
""")
    made = sorted(path.relative_to("pack").as_posix() for path in Path("pack").rglob("*.*"))
    assert made == [
        "tiles/firefly.png", "tiles/lamp.png", "tiles/lamp_glow.png", "timing/firefly.txt", "timing/lamp.txt",
        "timing/lamp_glow.txt",
    ]  # fmt: skip
    glow, light = picture("pack/tiles/lamp_glow.png"), picture("lantern/lantern_2_emission.png")
    twin = cell(glow, 4, 1, 1)
    left = (twin.shape[1] - light.shape[1]) // 2
    assert np.array_equal(twin[:, left : left + light.shape[1]], light)


def test_c_a_leaf_in_five_hues_started_apart_and_fading(job: Job, draw: Callable[..., None]) -> None:
    draw("props")
    job("""
prep props/leaf-moss.png -o leaf --step "repeat 25" --step "hue 0..288" --step "opacity 1..0"
sheet leaf -o leaf.png --columns 5 --divided
retime leaf.kivel.json --stagger 5
""")
    page, leaf = picture("leaf.png"), picture("props/leaf-moss.png")
    assert np.array_equal(cell(page, 5, 5, 0), leaf)
    assert not cell(page, 5, 5, 24)[..., 3].any()
    assert np.abs(cell(page, 5, 5, 12)[..., 3] - leaf[..., 3] / 2.0).max() <= 0.5
    clips = document("leaf.kivel.json")["clips"]
    assert [clip["phase"] for clip in clips[1:]] == [[0, 1], [5, 1], [10, 1], [15, 1], [20, 1]]


def test_d_the_vane_in_seven_by_seven_on_one_page_whole_and_a_part(job: Job, draw: Callable[..., None]) -> None:
    draw("vane")
    job("""
resample "vane/vane_#.png" -o v --count 49
sheet v -o v.png --columns 7 --rows 7 --divided --make-clip part=10-30 --make-clip all=0-48
export v.kivel.json -o v.json
""")
    page, table = picture("v.png"), document("v.json")
    assert page.shape == (7 * 128, 7 * 128, 4)
    assert table["grid"] == {
        "columns": 7, "rows": 7, "cell": [128, 128], "gap": [0, 0], "margin": [0, 0], "fill": "across", "divided": True,
    }  # fmt: skip
    for number in (0, 24, 48):
        source = document("v.kivel.json")["frames"][number]["source"]
        assert np.array_equal(cell(page, 7, 7, number), picture(f"vane/{source}"))


def test_e_grey_spores_coloured_multiplied_with_noise_on_half_of_a_page_the_rest_later(
    job: Job, draw: Callable[..., None]
) -> None:
    draw("spore", "moss")
    job("""
prep spore -o hot --step matte --step "ramp #2a1b3d #a6452e #ffc861" --step "fit 64x64"
layer hot "swell.png blend=multiply clip" -o burst
sheet burst -o burst.png --columns 8 --rows 10
sheet hot --into burst.kivel.json
""")
    page, noise = picture("burst.png"), picture("swell.png")
    assert page.shape == (640, 512, 4)
    for number in (10, 16, 22):
        burst, hot = (cell(page, 8, 10, at).astype(float) for at in (number, number + 40))
        assert np.array_equal(hot, picture(f"hot/hot_{number:04d}.png"))
        assert np.array_equal(burst[..., 3], hot[..., 3])
        grey, alpha = noise[: hot.shape[0], : hot.shape[1], :3] / 255, hot[..., 3:] / 255
        wanted = (1 - alpha) * grey + alpha * grey * hot[..., :3] / 255
        assert np.abs(burst[..., :3] - wanted * 255)[hot[..., 3] > 8].max() <= 0.53


def test_f_a_five_by_five_effect_cut_to_be_rotated(job: Job, draw: Callable[..., None]) -> None:
    draw("smoke")
    job("""
resample smoke -o few --count 25
prep few -o round --step trim --step square
sheet round -o smoke.png --columns 5 --rows 5 --divided
""")
    page = picture("smoke.png")
    side = page.shape[0] // 5
    assert page.shape == (5 * side, 5 * side, 4)
    assert np.array_equal(cell(page, 5, 5, 7), picture("round/round_0007.png"))


def test_g_a_foreign_sheet_rows_as_variants_a_random_row_and_a_curve(job: Job, draw: Callable[..., None]) -> None:
    draw("beetle")
    job("""
adopt beetle.png --columns 7 --rows 3 --row-clips walk,run,turn --make-clip all=0-18 --fps 12
retime beetle.kivel.json --make-group gaits=[wrt]* --choose random
export beetle.kivel.json -o beetle.json
""")
    table = document("beetle.json")
    (group,) = table["groups"]
    assert group == {"name": "gaits", "choose": "random", "members": ["walk", "run", "turn"], "weights": [1, 1, 1]}
    walk, run, turn, whole = table["clips"]
    assert [step["frame"] for step in whole["steps"]] == list(range(19))
    assert [len(clip["steps"]) for clip in (walk, run)] == [7, 7]
    assert len(turn["steps"]) < 7
    page = picture("beetle.png")
    for number, (seconds, u, _) in enumerate(walk["keys"]):
        assert seconds == pytest.approx(number / 12, abs=1e-6)
        assert u * page.shape[1] == pytest.approx(number * page.shape[1] / 7, abs=1)


def test_h_three_looks_of_an_owl_with_exact_offsets_and_a_blink(job: Job, tmp_path: Path) -> None:
    page = np.zeros((256, 256, 4), np.uint8)
    for look in range(3):
        page[:84, look * 84 : look * 84 + 84] = (40 * look + 60, 90, 120, 255)
    write(tmp_path / "owl.png", page)
    job("""
adopt owl.png --columns 3 --rows 1 --cell 84x84 --timebase 60 --hold 1 --order 0*90,1*3,2*3,1*3
export owl.kivel.json -o owl.json
""")
    table = document("owl.json")
    frames, (clip,) = table["frames"], table["clips"]
    assert [frame["u"] for frame in frames] == [np.float32(n * 84 / 256) for n in range(3)]
    assert [step["hold"] for step in clip["steps"]] == [90, 3, 3, 3]


def test_i_a_flame_shows_only_behind_its_lanterns_glass(job: Job, draw: Callable[..., None]) -> None:
    draw("firefly", "lantern")
    job("""
prep "lantern/lantern_#.png" -o glass --step "keep-color #ffc861 tolerance=120"
layer "lantern/lantern_#_emission.png" "glass mask=alpha" -o flame
""")
    for number in range(4):
        flame, glass = picture(f"flame/flame_{number:04d}.png"), picture(f"glass/glass_{number:04d}.png")
        light = picture(f"lantern/lantern_{number + 1}_emission.png")
        assert glass[..., 3].any()
        assert not flame[glass[..., 3] == 0].any()
        full = (glass[..., 3] == 255) & (light[..., 3] > 0)
        assert np.array_equal(flame[full], light[full])


def test_j_three_moss_tiles_of_six_frames_among_other_art_with_exact_times_in_a_shader(
    job: Job, draw: Callable[..., None]
) -> None:
    draw("moss", "props")
    job("""
scroll "moss.png scroll=0,1" -o down --count 6 --fps 24000/1001
scroll "moss.png scroll=1,0" -o across --count 6 --fps 8
scroll "moss.png by=waves strength=4 by-scroll=1,0" -o sway --count 6 --hold 70ms
atlas down across sway props -o orchard.png --gap 2
export orchard.kivel.json -o orchard.glsl
""")
    text, page = Path("orchard.glsl").read_text(), picture("orchard.png")
    number = r"(-?[0-9.e-]+)"

    def vectors(name: str) -> list[list[float]]:
        found = re.findall(rf"const vec4 {name}_\d+ = vec4\({number}, {number}, {number}, {number}\)", text)
        return [[float(word) for word in words] for words in found]

    rects = {
        int(index): [int(float(word)) for word in words.split(",")]
        for index, words in re.findall(r"ORCHARD_RECT_(\d+) = vec4\(([^)]*)\)", text)
    }
    for clip, hold in (("down", Fraction(1001, 24000)), ("across", Fraction(1, 8)), ("sway", Fraction(7, 100))):
        steps = vectors(f"ORCHARD_{clip.upper()}_STEP")
        for count, step in enumerate(steps):
            assert abs(step[0] - float(count * hold)) < np.spacing(np.float32(count * hold))
        for count, (_, _, frame, _) in enumerate(steps):
            x, y, width, height = rects[int(frame)]
            assert np.array_equal(page[y : y + height, x : x + width], picture(f"{clip}/{clip}_{count:04d}.png"))


def test_k_two_stills_sway_over_forty_frames_closed_and_merged_as_a_strip(job: Job, draw: Callable[..., None]) -> None:
    draw("props", "moss")
    said = job("""
prep props/tree-moss.png -o tree --step "repeat 40" --step "pad 4" --step "distort by=swell.png strength=3 scroll=1,0"
prep props/fence-moss.png -o fence --step "repeat 40" --step "distort by=swell.png strength=2 scroll=1,1"
layer tree "fence offset=2,30" -o sway
sheet sway -o sway.png --layout row
loop sway
""")
    assert "verdict  closes" in said
    strip = picture("sway.png")
    assert np.array_equal(cell(strip, 40, 1, 11), picture("sway/sway_0011.png"))


def test_l_a_list_of_frames_at_three_a_second_stepped_by_hand_stays_at_its_end(
    job: Job, draw: Callable[..., None]
) -> None:
    draw("moth")
    said = job("""
sheet moth/moth_3.png moth/moth_1.png moth/moth_2.png -o moth.png --fps 3 --repeat 1 --sequences joined
timeline moth.kivel.json --at 0.4s --at 0.9s --at 99s --json
""")
    assert [(row["frame"], row["ended"]) for row in json.loads(said)["rows"]] == [(1, False), (2, False), (2, True)]
    assert np.array_equal(cell(picture("moth.png"), 2, 2, 0), picture("moth/moth_3.png"))


def test_m_a_row_of_twenty_by_offsets_that_do_not_drift(job: Job, draw: Callable[..., None]) -> None:
    draw("spore", first=20)
    job("""
sheet spore -o row.png --layout row --divided
export row.kivel.json -o row.json
""")
    table = document("row.json")
    (clip,) = table["clips"]
    assert [key[1] for key in clip["keys"]] == [float(str(np.float32(n / 20))) for n in range(20)]


def test_n_a_packed_page_for_the_web_with_turned_frames_at_two_speeds_and_its_end(
    job: Job, draw: Callable[..., None]
) -> None:
    draw("vane", first=60)
    job("""
resample "vane/vane_#.png" -o v --count 8
atlas v -o v.png --turn --gap 1 --fps 12 --repeat 1 --speed 1/3
export v.kivel.json -o third.css
retime v.kivel.json --speed 1/4
export v.kivel.json -o twelfth.css
""")
    page = picture("v.png")
    turned = 0
    for file, times in (("third.css", 3), ("twelfth.css", 12)):
        text = Path(file).read_text()
        assert float(re.findall(r"animation: v-v ([0-9.]+)ms step-end 1 both", text)[0]) == pytest.approx(
            8000 / 12 * times
        )
        keys = re.findall(
            r"([0-9.]+)% { width: (\d+)px; height: (\d+)px; background-position: (-?\d+)px (-?\d+)px; "
            r"transform: matrix\((.*)\)",
            text,
        )
        assert len(keys) == 9
        for number, (percent, *words, matrix) in enumerate(keys[:8]):
            assert float(percent) == pytest.approx(100 * number / 8, abs=2e-6)
            width, height, x, y = (abs(int(word)) for word in words)
            a, b, c, d, e, f = (int(word) for word in matrix.split(", "))
            turned += not a
            shown = np.zeros((128, 128, 4), np.uint8)
            v, u = np.mgrid[:height, :width] + 0.5
            shown[(b * u + d * v + f).astype(int), (a * u + c * v + e).astype(int)] = page[
                y : y + height, x : x + width
            ]
            frame = picture(f"v/v_{number:04d}.png")
            assert np.array_equal(shown, frame * (frame[..., 3:] > 0))
    assert turned


def test_o_a_materials_grid_at_one_and_seven_times_the_speed(job: Job, draw: Callable[..., None]) -> None:
    draw("spore")
    job("""
resample spore -o some --count 36
sheet some -o grid.png --columns 6 --rows 6 --divided --fit-page 768x768 --fps 12
retime grid.kivel.json --new fast --speed 7
export grid.kivel.json -o grid.json
""")
    page, table = picture("grid.png"), document("grid.json")
    assert page.shape == (768, 768, 4)
    slow, fast = table["clips"]
    assert np.divide(*slow["timebase"]) / slow["cycle"] * 7 == pytest.approx(
        np.divide(*fast["timebase"]) / fast["cycle"]
    )


def test_p_a_row_of_four_on_a_plane_with_nearest_sampling_and_stepped_keys(job: Job, draw: Callable[..., None]) -> None:
    draw("firefly")
    job("""
sheet firefly -o firefly.png --layout row --fps 6
export firefly.kivel.json -o firefly.glb --filter nearest
""")
    data = Path("firefly.glb").read_bytes()
    length = int.from_bytes(data[12:16], "little")
    content = json.loads(data[20 : 20 + length])
    assert content["samplers"][0]["magFilter"] == 9728
    assert {one["interpolation"] for one in content["animations"][0]["samplers"]} == {"STEP"}


def test_q_a_folder_with_a_leftover_strip_among_its_frames(job: Job, draw: Callable[..., None], kivel: Kivel) -> None:
    draw("firefly")
    strip = np.hstack([picture(f"firefly/firefly_{number}.png") for number in range(1, 5)])
    write(Path("firefly/firefly-strip.png"), strip)
    refused = kivel("sheet", "firefly", "-o", "f.png")
    assert refused.code == 1
    assert "--series firefly" in refused.err
    job("sheet firefly --series firefly -o f.png")
    assert len(document("f.kivel.json")["frames"]) == 4


def test_r_six_by_three_seeds_alpha_clipped_within_a_ten_point_outline(job: Job, draw: Callable[..., None]) -> None:
    draw("spore", first=18)
    job("""
prep spore -o seeds --step "matte bright" --step "trim" --step "fit 48x48"
sheet seeds -o seeds.png --columns 6 --divided --fps 12
export seeds.kivel.json -o seeds.glb --alpha mask --outline 10 --filter nearest
""")
    data = Path("seeds.glb").read_bytes()
    length = int.from_bytes(data[12:16], "little")
    scene, binary = json.loads(data[20 : 20 + length]), data[28 + length :]
    assert scene["materials"][0]["alphaMode"] == "MASK"
    primitive = scene["meshes"][0]["primitives"][0]
    accessor = scene["accessors"][primitive["attributes"]["TEXCOORD_0"]]
    start = scene["bufferViews"][accessor["bufferView"]]["byteOffset"]
    corners = np.frombuffer(binary, "<f4", accessor["count"] * 2, start).reshape(-1, 2)
    assert 3 <= len(corners) <= 10
    page = picture("seeds.png")
    side = page.shape[1] // 6
    shown = np.any([cell(page, 6, 3, number)[..., 3] >= 128 for number in range(18)], axis=0)
    rows, columns = np.nonzero(shown)
    before, after = corners, np.roll(corners, -1, axis=0)
    for x, y in ((0, 0), (1, 0), (0, 1), (1, 1)):
        points = np.column_stack(((columns + x) / side, (rows + y) / side))[:, None]
        way, there = after - before, points - before
        turn = way[:, 0] * there[..., 1] - way[:, 1] * there[..., 0]
        assert (turn <= 1e-6).all()


def test_s_the_sheds_regions_named_corrected_found_again_and_a_clip_over_two_pictures(
    job: Job, draw: Callable[..., None]
) -> None:
    draw("shed")
    image = picture("shed.png").copy()
    job("slice shed.png --islands --save-regions shed.regions.toml")
    regions = Path("shed.regions.toml")
    # a person names two of them, corrects one, and deletes the others
    first, second = (part for part in regions.read_text().split("[[region]]")[1:3])
    x, y, width, height = (int(word) for word in re.findall(r"\d+", first.split("rect")[1].split("\n")[0]))
    first = first.replace(f"{width}, {height}]", f"{width}, {height - 2}]").replace("shed_0000", "rake")
    regions.write_text(f'image = "shed.png"\n\n[[region]]{first}[[region]]{second.replace("shed_0001", "spade")}')
    # the second picture has everything one pixel lower
    Image.fromarray(np.roll(image, 1, axis=0)).save("barn.png")
    barn = Path("barn.regions.toml")
    barn.write_text(regions.read_text().replace("shed.png", "barn.png"))
    job("""
slice shed.png --regions shed.regions.toml -o shed
slice barn.png --regions barn.regions.toml --find-again -o barn
atlas shed barn -o tools.png --no-trim --make-clip dig=shed:0,barn:1,shed:1
export tools.kivel.json -o tools.json
""")
    table, page = document("tools.json"), picture("tools.png")
    frames = [step["frame"] for step in next(clip for clip in table["clips"] if clip["name"] == "dig")["steps"]]
    assert [table["frames"][number]["name"] for number in frames] == ["shed/rake", "barn/spade", "shed/spade"]
    left, top, wide, high = (table["frames"][frames[0]][key] for key in ("x", "y", "width", "height"))
    assert (wide, high) == (width, height - 2)
    assert np.array_equal(page[top : top + high, left : left + wide], image[y : y + high, x : x + wide])
    assert "lost" not in barn.read_text()


def test_t_twelve_moons_a_still_each_two_as_a_clip_played_once_and_fair_picks(
    job: Job, draw: Callable[..., None]
) -> None:
    draw("spore", first=12)
    job("""
sheet spore -o moon.png --columns 4 --clip-per-frame moon --make-clip wane=3,5 --make-group moons=moon-* --choose random
retime moon.kivel.json --clip wane --repeat 1
export moon.kivel.json -o moon.json
""")
    table = document("moon.json")
    clips = {clip["name"]: clip for clip in table["clips"]}
    assert [step["frame"] for step in clips["moon-7"]["steps"]] == [7]
    assert ([step["frame"] for step in clips["wane"]["steps"]], clips["wane"]["repeat"]) == ([3, 5], 1)
    names = [f"moon-{number}" for number in range(12)]
    assert table["groups"] == [{"name": "moons", "choose": "random", "members": names, "weights": [1] * 12}]
    assert set(clips) == {*names, "wane"}


def test_u_orchard_tiles_as_one_list_and_a_picture_each(job: Job, tmp_path: Path) -> None:
    """A folder of frames goes to a pack as it is."""
    frames = [np.ascontiguousarray(image[:24, :24]) for image in list(drawn("vane").values())[:4]]
    for number, image in enumerate(frames):
        write(tmp_path / f"tiles/tile_{number}.png", image)
    job("""
adopt tiles --fps 4 --order 0-3,2
profile new list.toml --example figures
export tiles --profile list.toml -o pack
""")
    table = document("pack/figures/tiles.json")
    assert list(table["pictures"]) == [f"tile_{number}" for number in range(4)]
    assert table["clips"]["tiles"]["seconds"] == [0.25] * 5
    assert table["clips"]["tiles"]["pictures"] == [f"tile_{number}" for number in (0, 1, 2, 3, 2)]
    for number, place in enumerate(table["pictures"].values()):
        assert (place["at"], place["size"]) == ([0, 0], [24, 24])
        assert np.array_equal(picture(f"pack/{table['pages'][place['page']]}"), frames[number])


def test_the_page_of_jobs_shows_these_commands() -> None:
    here = Path(__file__)
    calls = [node for node in ast.walk(ast.parse(here.read_text())) if isinstance(node, ast.Call)]
    jobs = sorted((call for call in calls if getattr(call.func, "id", "") == "job"), key=lambda call: call.lineno)
    lines = [line for call in jobs for line in ast.literal_eval(call.args[0]).strip().splitlines()]
    page = (here.parents[2] / "docs/jobs.md").read_text()
    assert len(lines) > 60
    assert [line.removeprefix("kivel ") for line in page.splitlines() if line.startswith("kivel ")] == lines
    assert page.count("## ") == 21
