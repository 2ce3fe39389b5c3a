"""Regions files: obeyed, written, brought up to date, and told where they are wrong."""

from __future__ import annotations

import contextlib
import json
import re
import tomllib
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from drawn_sheets import irregular_sheet
from hypothesis import given
from hypothesis import strategies as st

import kivel
from kivel.core.pixels.pixels import Rect
from kivel.core.slicing.islands import found_islands
from kivel.core.slicing.regions import Region, found_again, look_of
from kivel.files.documents import read_toml
from kivel.files.models import KeyPath
from kivel.files.regions_file import new_regions_text
from kivel.files.toml_file import toml_lines
from program import files, in_process, read, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    sheet = np.zeros((60, 80, 4), np.uint8)
    sheet[4:24, 4:14], sheet[6:16, 30:50], sheet[30:50, 10:30] = (200, 0, 0, 255), (0, 200, 0, 255), (0, 0, 200, 255)
    with contextlib.chdir(tmp_path):
        write(tmp_path / "shed.png", sheet)
        yield tmp_path


REGIONS = """\
# tools of the shed
image = "shed.png"

[[region]]
name = "rake"
rect = [4, 4, 10, 20]  # with its handle
pivot = "bottom"
clip = "tools"
note = "mine"

[[region]]
name = "leaf"
rect = [30, 6, 20, 10]
pivot = [5, 0]
"""


def test_a_regions_file_is_obeyed(place: Path) -> None:
    (place / "shed.regions.toml").write_text(REGIONS)
    made = kivel.slice("shed.png", regions="shed.regions.toml", out="cut").manifest
    assert sorted(path.name for path in (place / "cut").iterdir()) == ["leaf.png", "rake.png", "shed.kivel.json"]
    assert [frame.name for frame in made.frames] == ["rake", "leaf"]
    assert [frame.pivot for frame in made.frames] == [(0.5, 1.0), (0.25, 0.0)]
    assert [(clip.name, [step.frame for step in clip.steps]) for clip in made.clips] == [("tools", [0])]
    assert np.array_equal(read(place / "cut/rake.png"), read(place / "shed.png")[4:24, 4:14])


def test_what_was_found_is_saved_and_gives_the_same_frames() -> None:
    first = kivel.slice("shed.png", islands=True, save_regions="new.regions.toml")
    again = kivel.slice("shed.png", regions="new.regions.toml")
    assert all(map(np.array_equal, first.images.values(), again.images.values()))
    with pytest.raises(kivel.KivelError, match="already exists"):
        kivel.slice("shed.png", islands=True, least=300, save_regions="new.regions.toml")


def test_frames_and_the_regions_file_are_one_set(place: Path) -> None:
    (place / "new.regions.toml").write_text("mine")
    with pytest.raises(kivel.KivelError, match=r"new\.regions\.toml: already exists"):
        kivel.slice("shed.png", islands=True, save_regions="new.regions.toml", out="cut")
    assert not (place / "cut").exists()


def test_regions_are_found_again_and_what_a_person_wrote_stays(place: Path) -> None:
    (place / "shed.regions.toml").write_text(REGIONS)
    kivel.slice("shed.png", regions="shed.regions.toml", out="cut")
    moved = np.zeros((70, 90, 4), np.uint8)
    moved[7:29, 6:16] = (200, 0, 0, 255)  # the rake: moved, and two pixels longer
    moved[40:60, 60:80] = (0, 0, 200, 255)
    write(place / "shed.png", moved)
    named = kivel.slice("shed.png", regions="shed.regions.toml", find_again=True, dry_run=True, out="cut")
    assert "1 shape without a region skipped; find_new=True takes them, too" in named.notes
    made = kivel.slice("shed.png", regions="shed.regions.toml", find_again=True, find_new=True, out="cut")
    assert {"moved: rake", "grown: rake", "new: shed_0000", "lost, and marked as lost in the file: leaf"} <= set(
        made.notes
    )
    text = (place / "shed.regions.toml").read_text()
    assert text.startswith(REGIONS.partition("rect")[0] + "rect = [6, 7, 10, 22]  # with its handle\n")
    assert 'note = "mine"' in text
    by_name = {one["name"]: one for one in tomllib.loads(text)["region"]}
    assert by_name["leaf"]["lost"] is True
    assert by_name["shed_0000"]["rect"] == [60, 40, 20, 20]
    before = files(place)
    kivel.slice("shed.png", regions="shed.regions.toml", find_again=True, out="cut")
    assert files(place) == before


def test_regions_of_several_pictures_stand_in_one_file(place: Path) -> None:
    write(place / "barn.png", np.full((9, 9, 4), 255, np.uint8))
    (place / "all.regions.toml").write_text(
        '[[image]]\nfile = "shed.png"\n[[image.region]]\nname = "rake"\nrect = [4, 4, 10, 20]\n'
        '[[image]]\nfile = "barn.png"\n[[image.region]]\nname = "door"\nrect = [1, 1, 3, 3]\n'
    )
    made = kivel.slice("shed.png", "barn.png", regions="all.regions.toml", out="cut")
    assert [list(sheet.manifest.pages[0].size) for sheet in made.sheets if sheet.manifest] == [[10, 20], [3, 3]]
    assert {"rake.png", "door.png"} <= {path.name for path in (place / "cut").iterdir()}


REGION = '[[region]]\nname = "a"\nrect = [1, 1, 2, 2]\n'
WRONG = {
    "no toml": ("x = = 1\n", "r.toml:2: invalid value"),
    "a number for a name": ("\n[[region]]\nname = 3\n", "r.toml:4: region[0].name: expected a name"),
    "a path for a name": (REGION.replace("\"a\"", "\"a/b\""), "r.toml:3: region[0].name: expected a name"),
    "no rect": ('[[region]]\nname = "a"\n', "r.toml:2: region[0].rect: expected [x, y, width, height]"),
    "an empty rect": ('[[region]]\nname = "a"\nrect = [1, 1, 0, 3]\n', "r.toml:4: region[0].rect"),
    "off the picture": (
        REGION.replace("[1, 1, 2, 2]", "[70, 1, 20, 3]"),
        "r.toml:4: region[0].rect: [70, 1, 20, 3] reaches beyond shed.png, 80x60 px",
    ),
    "a name twice": (REGION + REGION.replace('"a"', '"A"'), "r.toml:6: region[1].name: 'A' is already used by region"),
    "no such place": (REGION + 'pivot = "foot"\n', "r.toml:5: region[0].pivot: expected top-left"),
    "one bracket": ('[region]\nname = "a"\n', "r.toml:2: region: expected [[region]]"),
    "lost is a word": (REGION + 'lost = "yes"\n', "r.toml:5: region[0].lost: expected true or false, found 'yes'"),
}  # fmt: skip


@pytest.mark.parametrize(("text", "words"), WRONG.values(), ids=WRONG)
def test_what_is_wrong_is_told_by_line_and_key(place: Path, text: str, words: str) -> None:
    (place / "r.toml").write_text('image = "shed.png"\n' + text)
    before = files(place)
    with pytest.raises(kivel.KivelError) as error:
        kivel.slice("shed.png", regions="r.toml", out="cut")
    assert words in str(error.value)
    assert files(place) == before


@pytest.mark.parametrize("number", range(6))
def test_things_that_were_rearranged_keep_their_names(number: int) -> None:
    sheet = irregular_sheet(number)
    islands = found_islands(sheet.image[..., 3] >= 8)
    old = [Region(f"r{index}", box, look=look_of(sheet.image, box)) for index, box in enumerate(islands.boxes)]
    order = np.random.default_rng(number).permutation(len(old))
    height, width = sum(box.h + 2 for box in islands.boxes), max(box.w for box in islands.boxes)
    picture = np.zeros((height, width, 4), np.uint8)
    places: dict[int, Rect] = {}
    y = 0
    for index in order.tolist():
        box = islands.boxes[index]
        places[index] = Rect(0, y, box.w, box.h)
        places[index].of(picture)[...] = box.of(sheet.image)
        y += box.h + 2
    found = found_again(picture, old, [places[index] for index in order.tolist()], stem="n")
    assert [region.rect for region in found.kept] == [places[index] for index in range(len(old))]


KEY = st.sampled_from(["a", "b-1", '"c.d"', "'e f'"])
PICTURES = {
    "none": (REGION, "r.toml: image: expected the name of a picture"),
    "another": ('image = "barn.png"\n', "r.toml: it describes barn.png, not shed.png"),
}


@pytest.mark.parametrize(("text", "words"), PICTURES.values(), ids=PICTURES)
def test_a_file_that_is_not_about_the_picture_is_told(place: Path, text: str, words: str) -> None:
    (place / "r.toml").write_text(text)
    with pytest.raises(kivel.KivelError, match=words):
        kivel.slice("shed.png", regions="r.toml")


VALUE = st.sampled_from(
    [
        "1",
        '"x # [y]"',
        "[1, 2]",
        "[\n 1, # ]\n [2, 3],\n]",
        "{a = 1, b = [1]}",
        '"""\n[no]\nx = 1\n"""',
        "1979-05-27",
        "0.5",
    ]
)
TABLES = st.lists(
    st.tuples(st.sampled_from(["[[t]]", "[[t.u]]", "[v]", "[v.w]"]), st.dictionaries(KEY, VALUE, max_size=3)),
    max_size=5,
)


@given(st.dictionaries(KEY, VALUE, max_size=3), TABLES)
def test_every_key_of_a_toml_text_has_the_line_that_it_is_on(
    top: dict[str, str], tables: list[tuple[str, dict[str, str]]]
) -> None:
    blocks = [("", top), *tables]
    text = "\n".join(
        f"{header} # of {header}\n" + "".join(f"  {key} = {value} # = x\n" for key, value in pairs.items())
        for header, pairs in blocks
    )
    try:
        content = read_toml(text, "x.toml")
    except kivel.KivelError:
        return  # tables that TOML does not allow behind each other
    lines = text.split("\n")
    found = toml_lines(text)

    def check(value: object, where: KeyPath) -> None:
        if isinstance(value, dict):
            for key, inner in value.items():
                if where and where[-1] in ("a", "b-1", "c.d", "e f"):
                    continue  # an inline table stands where its key does
                check(inner, (*where, key))
        elif isinstance(value, list) and value and isinstance(value[0], dict):
            for number, inner in enumerate(value):
                assert lines[found[(*where, number)] - 1].startswith("[[")
                check(inner, (*where, number))
        else:
            assert str(where[-1]) in lines[found[where] - 1].partition("=")[0]

    check(content, ())


def moved_shed(place: Path, by: int) -> None:
    """The picture with everything moved to the right; its two rakes look alike."""
    write(place / "shed.png", np.roll(read(place / "shed.png"), by, axis=1))


def test_regions_are_not_cut_where_their_things_lie_no_longer(place: Path) -> None:
    kivel.slice("shed.png", out="cut", islands=True, save_regions="s.regions.toml")
    known, before = (place / "s.regions.toml").read_bytes(), files(place / "cut")
    moved_shed(place, 2)
    with pytest.raises(
        kivel.KivelError, match=r"shed.png: has changed since s.regions.toml was written: .* from \d+,\d+"
    ):
        kivel.slice("shed.png", out="cut", regions="s.regions.toml")
    assert files(place / "cut") == before
    assert kivel.slice("shed.png", regions="s.regions.toml", as_written=True).sheets
    assert (place / "s.regions.toml").read_bytes() == known
    kivel.slice("shed.png", out="cut", regions="s.regions.toml", find_again=True)
    kivel.slice("shed.png", out="cut", regions="s.regions.toml")
    assert {name: data for name, data in files(place / "cut").items() if name.endswith(".png")} == {
        name: data for name, data in before.items() if name.endswith(".png")
    }


def test_what_was_repainted_in_its_place_is_cut(place: Path) -> None:
    first = kivel.slice("shed.png", out="cut", islands=True, save_regions="s.regions.toml").manifest.frames[0]
    sheet = read(place / "shed.png").copy()
    assert first.cut is not None
    part = first.cut.rect.of(sheet)
    part[part[..., 3] > 0] = (9, 200, 9, 255)
    write(place / "shed.png", sheet)
    made = kivel.slice("shed.png", out="cut", regions="s.regions.toml")
    assert not [note for note in made.notes if "moved" in note]


def test_where_nothing_changed_finding_again_changes_nothing(place: Path) -> None:
    """Regions that touch and overlap, drawn by hand: not those that would be found."""
    sheet = np.zeros((24, 24, 4), np.uint8)
    sheet[2:20, 2:20] = np.random.default_rng(2).integers(0, 255, (18, 18, 4)) | [0, 0, 0, 255]
    write(place / "block.png", sheet)
    rects = {"a": Rect(2, 2, 9, 18), "b": Rect(11, 2, 9, 9), "c": Rect(11, 11, 9, 9), "d": Rect(8, 8, 6, 6)}
    regions = [Region(name, rect, look=look_of(sheet, rect)) for name, rect in rects.items()]
    (place / "b.regions.toml").write_text(new_regions_text("block.png", regions))
    before = (place / "b.regions.toml").read_bytes()
    made = kivel.slice("block.png", out="cut", regions="b.regions.toml", find_again=True)
    assert (place / "b.regions.toml").read_bytes() == before
    assert not [note for note in made.notes if re.match("moved|grown|lost|new", note)]
    for name, rect in rects.items():
        assert np.array_equal(read(place / f"cut/{name}.png"), rect.of(sheet))


def test_regions_alone_are_written_where_nothing_else_is_asked_for(place: Path) -> None:
    before = set(files(place))
    done = in_process(["slice", "shed.png", "--islands", "--save-regions", "s.regions.toml"], place)
    assert (done.code, set(files(place)) - before) == (0, {"s.regions.toml"})
    assert "regions; no frames written" in done.out
    alone = (place / "s.regions.toml").read_bytes()
    kivel.slice("shed.png", out="cut", islands=True, save_regions="other.regions.toml")
    assert (place / "other.regions.toml").read_bytes() == alone
    done = in_process(["slice", "shed.png", "--islands", "--save-regions", "s.regions.toml", "--json"], place)
    assert [Path(file["path"]).name for file in json.loads(done.out)["files"]] == ["s.regions.toml"]


def test_what_moved_onto_a_region_that_stayed_is_found_elsewhere(place: Path) -> None:
    """One drawn by hand around two things stays; a thing that was beside it is found where it went."""
    sheet = np.zeros((30, 60, 4), np.uint8)
    sheet[4:10, 4:10], sheet[4:10, 14:20], sheet[4:12, 30:42] = (200, 9, 9, 255), (9, 200, 9, 255), (9, 9, 200, 255)
    regions = [Region("pair", Rect(2, 2, 20, 10), look=look_of(sheet, Rect(2, 2, 20, 10)))]
    regions.append(Region("box", Rect(30, 4, 12, 8), look=look_of(sheet, Rect(30, 4, 12, 8))))
    moved = sheet.copy()
    moved[4:12, 30:42], moved[18:26, 40:52] = 0, (9, 9, 200, 255)
    write(place / "two.png", moved)
    (place / "t.regions.toml").write_text(new_regions_text("two.png", regions))
    made = kivel.slice("two.png", out="cut", regions="t.regions.toml", find_again=True)
    assert [tuple(frame.cut.rect) for frame in made.manifest.frames if frame.cut] == [(2, 2, 20, 10), (40, 18, 12, 8)]
    assert [note for note in made.notes if note.startswith(("moved", "lost", "new"))] == ["moved: box"]


def test_a_clip_of_regions_runs_over_several_pictures(place: Path) -> None:
    write(place / "barn.png", read(place / "shed.png")[::-1])
    write(place / "yard.png", read(place / "shed.png")[:, ::-1])
    (place / "all.regions.toml").write_text(
        '[[image]]\nfile = "shed.png"\n'
        '[[image.region]]\nname = "rake"\nrect = [4, 4, 10, 20]\nclip = "tools"\n'
        '[[image.region]]\nname = "leaf"\nrect = [30, 6, 20, 10]\n'
        '[[image]]\nfile = "barn.png"\n'
        '[[image.region]]\nname = "saw"\nrect = [4, 36, 10, 20]\nclip = "tools"\n'
        '[[image]]\nfile = "yard.png"\n'
        '[[image.region]]\nname = "gate"\nrect = [66, 4, 10, 20]\n'
    )
    made = kivel.adopt("shed.png", "barn.png", "yard.png", regions="all.regions.toml", out="all.kivel.json", fps=5)
    clips = {clip.name: [step.frame for step in clip.steps] for clip in made.manifest.clips}
    assert [(frame.name, frame.page) for frame in made.manifest.frames] == [
        ("rake", 0), ("leaf", 0), ("saw", 1), ("gate", 2),
    ]  # fmt: skip
    assert clips == {"tools": [0, 2], "yard": [3]}
    assert float(made.manifest.clips[0].length) == 0.4
