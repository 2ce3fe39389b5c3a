"""What is known of a sequence arrives, whatever makes a new one of it; what cannot, is named."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import kivel
from kivel.core.playback.clip import Step
from kivel.files.manifest.model import Manifest
from program import art, read, write

CLIP: dict[str, Any] = {
    "direction": "alternate", "repeat": 3, "end": "first", "interpolation": "linear", "phase": "1.5",
    "event": ["1:chirp"],
}  # fmt: skip


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """A sheet `owl.kivel.json` of six frames with a normal map, a clip that says all it can, and unknown keys."""
    for number in range(6):
        write(tmp_path / f"owl/owl_{number}.png", art(number))
        write(tmp_path / f"maps/owl_{number}.png", art(number + 50))
    with contextlib.chdir(tmp_path):
        kivel.sheet("owl", out="owl.png", map={"normal": "maps"}, columns=3, fps=12)
        kivel.retime("owl.kivel.json", **CLIP, rename="hoot", make_group={"all": "*"})
        content = json.loads(Path("owl.kivel.json").read_text())
        content["x-mood"] = "calm"
        content["frames"][2] |= {"x-note": [1, 2], "pivot": [0.25, 0.75]}
        content["clips"][0]["x-sound"] = "hoo"
        Path("owl.kivel.json").write_text(json.dumps(content))
        yield tmp_path


def premultiplied(folder: Path) -> None:
    content = json.loads((folder / "owl.kivel.json").read_text())
    for page in content["pages"]:
        page["alpha"] = "premultiplied"
    (folder / "owl.kivel.json").write_text(json.dumps(content))


MOVING: dict[str, dict[str, Any]] = {
    "sheet": {"out": "new.png"},
    "atlas": {"out": "new.png"},
    "slice": {"out": "new"},
}


@pytest.mark.parametrize(("name", "options"), MOVING.items(), ids=MOVING)
def test_what_moves_pixels_carries_everything(place: Path, name: str, options: dict[str, Any]) -> None:
    made = getattr(kivel, name)("owl.kivel.json", **options).manifest
    clip = made.clips[0]
    assert (clip.name, clip.direction, clip.repeat, clip.end) == ("hoot", "alternate", 3, "first")
    assert (clip.interpolation, clip.phase, clip.events[0].name) == ("linear", Fraction(3, 2), "chirp")
    assert (clip.extra, clip.set) == ({"x-sound": "hoo"}, None)
    assert (made.groups[0].name, made.groups[0].members) == ("all", ("hoot",))
    assert made.extra == {"x-mood": "calm"}
    assert (made.frames[2].extra, made.frames[2].pivot) == ({"x-note": [1, 2]}, (0.25, 0.75))
    assert {name: file.kind for name, file in made.pages[0].maps.items()} == {"color": "color", "normal": "normal"}
    back = kivel.slice("new/owl.kivel.json" if name == "slice" else "new.kivel.json", show="normal").images
    assert all(np.array_equal(one, read(place / f"maps/owl_{n}.png")) for n, one in enumerate(back.values()))


def test_sliced_frames_keep_the_grid_they_came_from(place: Path) -> None:
    made: Any = kivel.slice("owl.kivel.json", out="new").manifest
    assert (made.grid, made.sliced_from.grid.columns, made.sliced_from.grid.rows) == (None, 3, 2)
    folder: Any = kivel.inspect("new")  # the maps beside the frames are not used for frames
    assert (folder.inspection.document()["count"], len(list((place / "new").glob("*.normal.png")))) == (6, 6)
    assert not any("map" in note for note in folder.notes)


TIMED = {
    "a rate": ({"fps": 24}, {"timebase": 24, "steps": [1] * 6}),
    "a hold": ({"hold": "250ms"}, {"timebase": 12, "steps": [3] * 6}),
    "a count": ({"repeat": 7}, {"repeat": 7, "timebase": 12}),
    "ticks": ({"timebase": 48}, {"timebase": 48, "steps": [4] * 6}),
}


@pytest.mark.parametrize("name", ["sheet", "atlas", "preview"])
@pytest.mark.parametrize(("options", "expected"), TIMED.values(), ids=TIMED)
def test_timing_options_replace_just_what_they_say(
    name: str, options: dict[str, Any], expected: dict[str, Any]
) -> None:
    made = getattr(kivel, name)("owl.kivel.json", **options)
    clip = made.clip if name == "preview" else made.manifest.clips[0]
    assert (clip.name, clip.direction, clip.end, clip.phase, clip.events[0].step) == (
        "hoot", "alternate", "first", Fraction(3, 2), 1,
    )  # fmt: skip
    assert [step.hold for step in clip.steps] == expected.get("steps", [1] * 6)
    assert (clip.timebase, clip.repeat) == (expected["timebase"], expected.get("repeat", 3))


KEEPS_ALPHA: dict[str, tuple[str, dict[str, Any]]] = {
    "sheet": ("sheet", {}),
    "a folded sheet": ("sheet", {"fold": True}),
    "atlas": ("atlas", {}),
    "slice": ("slice", {}),
    "resample": ("resample", {"count": 3}),
    "prep": ("prep", {"step": ["crop 4x4", "flip x", "drop 0"]}),
    "loop": ("loop", {"find": "3-4", "pick": 1}),
}


@pytest.mark.parametrize(("name", "options"), KEEPS_ALPHA.values(), ids=KEEPS_ALPHA)
def test_premultiplied_stays_premultiplied(place: Path, name: str, options: dict[str, Any]) -> None:
    premultiplied(place)
    made = getattr(kivel, name)("owl.kivel.json", **options)
    assert {page.alpha for page in made.manifest.pages} == {"premultiplied"}
    assert any("its colours are premultiplied" in note for note in made.notes)
    straight = kivel.prep("owl.kivel.json", step=["unpremultiply"])
    assert {page.alpha for page in straight.manifest.pages} == {"straight"}


REFUSES: dict[str, tuple[str, tuple[str, ...], dict[str, Any], str]] = {
    "mixing": ("resample", ("owl.kivel.json",), {"count": 3, "mix": True}, "mix=True needs straight alpha"),
    "closing": ("loop", ("owl.kivel.json",), {"close": 2}, "close= needs straight alpha"),
    "stacking": ("layer", ("owl.kivel.json", "owl"), {}, "stacking needs straight alpha"),
    "stacking it over": ("layer", ("owl", "owl.kivel.json"), {}, "stacking needs straight alpha"),
    "opacity": ("prep", ("owl.kivel.json",), {"step": ["opacity 0.5"]}, "opacity needs straight alpha"),
    "threshold": ("prep", ("owl.kivel.json",), {"step": ["threshold"]}, "threshold needs straight alpha"),
    "again": ("prep", ("owl.kivel.json",), {"step": ["premultiply"]}, "premultiply needs straight alpha"),
    "between": ("sheet", ("owl.kivel.json",), {"inbetween": 1}, "inbetween= needs straight alpha"),
    "scaling": ("sheet", ("owl.kivel.json",), {"cell": "9x9", "scale_to_cell": "smooth"}, "scale_to_cell= needs"),
    "two kinds": ("sheet", ("owl.kivel.json", "owl"), {}, "premultiplied in owl, but straight in owl"),
    "two kinds packed": ("atlas", ("owl.kivel.json", "owl"), {}, "premultiplied in owl, but straight in owl"),
    "into straight": ("sheet", ("owl.kivel.json",), {"into": "other.kivel.json"}, "its colours are straight"),
}


@pytest.mark.parametrize(("name", "sources", "options", "message"), REFUSES.values(), ids=REFUSES)
def test_what_would_mix_or_judge_premultiplied_colour_refuses(
    place: Path, name: str, sources: tuple[str, ...], options: dict[str, Any], message: str
) -> None:
    kivel.sheet("owl", out="other.png", columns=8, rows=3)
    premultiplied(place)
    with pytest.raises(kivel.UsageError) as error:
        getattr(kivel, name)(*sources, **options)
    assert message in str(error.value)


def test_what_is_looked_at_is_straight(place: Path) -> None:
    """A premultiplied sheet looks as the straight one does, within a unit of rounding."""
    kivel.prep("owl", out="multiplied", step=["premultiply"])
    sources = ("owl", "multiplied")
    shown = [kivel.preview(source, scale=1, backdrop="checker").images[1] for source in sources]
    soft = read(place / "owl/owl_1.png")[..., 3] > 32
    assert np.abs(shown[0].astype(int) - shown[1])[soft].max() <= 4
    seams = [seam.seam for source in sources if (seam := kivel.loop(source).seam)]
    assert abs(seams[0] - seams[1]) < 0.01


LEFT: dict[str, tuple[str, dict[str, Any], list[str]]] = {
    "fewer frames": ("resample", {"count": 3}, ["1 event is dropped: it counts", "groups are dropped"]),
    "other frames": ("prep", {"step": ["reverse"]}, ["1 event is dropped: it counts", "groups are dropped"]),
    "a part": ("sheet", {"range": "2-4"}, ["1 event is dropped, its step is not taken"]),
}  # fmt: skip


@pytest.mark.parametrize(("name", "options", "notes"), LEFT.values(), ids=LEFT)
def test_what_cannot_be_carried_is_named(name: str, options: dict[str, Any], notes: list[str]) -> None:
    made = getattr(kivel, name)("owl.kivel.json", **options)
    for note in notes:
        assert any(note in said for said in made.notes), made.notes
    assert made.manifest.extra == {"x-mood": "calm"}


FOLLOWS: dict[str, tuple[str, dict[str, Any], list[int]]] = {
    "fewer frames": ("resample", {"count": 3}, [0, 2, 4]),
    "a window": ("loop", {"find": "4-4", "pick": 1}, []),
    "in another order": ("prep", {"step": ["reverse", "drop 0"]}, [4, 3, 2, 1, 0]),
    "another colour": ("prep", {"step": ["matte", "bleed"]}, [0, 1, 2, 3, 4, 5]),
}


@pytest.mark.parametrize(("name", "options", "taken"), FOLLOWS.values(), ids=FOLLOWS)
def test_maps_follow_their_frames(place: Path, name: str, options: dict[str, Any], taken: list[int]) -> None:
    made = getattr(kivel, name)("owl.kivel.json", out="new", **options)
    taken = taken or [int(frame.name[-1]) for frame in made.manifest.frames]
    assert [int(frame.name[-1]) for frame in made.manifest.frames] == taken
    assert not any("map" in note for note in made.notes)
    files = [page.maps["normal"] for page in made.manifest.pages]
    assert {file.kind for file in files} == {"normal"}
    for number, file in zip(taken, files, strict=True):
        assert np.array_equal(read(place / "new" / file.file), read(place / f"maps/owl_{number}.png"))


def test_maps_are_mixed_by_what_they_mean() -> None:
    """Normals between normals, as they come out of a resampling of themselves."""
    made = kivel.resample("owl.kivel.json", count=4, mix=True)
    alone = kivel.resample("maps", count=4, mix=True, as_="normal")
    mixed = [image for name, image in made.images.items() if "normal" in name]
    assert all(np.array_equal(a, b) for a, b in zip(mixed, alone.images.values(), strict=True))


def test_maps_of_several_sources_come_together_where_all_have_them(place: Path) -> None:
    kivel.sheet("owl", out="b.png", map={"normal": "maps", "glow": "maps"})
    made = kivel.resample("owl.kivel.json", "b.kivel.json", count=12)
    assert {tuple(page.maps) for page in made.manifest.pages} == {("color", "normal")}
    assert any("b.kivel.json: its map glow is skipped: not all sources have one" in note for note in made.notes)
    normals = [image for name, image in made.images.items() if "normal" in name]
    assert all(np.array_equal(image, read(place / f"maps/owl_{n % 6}.png")) for n, image in enumerate(normals))


def test_a_map_that_only_some_bring_along_is_named_or_filled() -> None:
    """Of two sequences one has normals: they are left out with a note, or neutral for the other."""
    said = kivel.sheet("owl.kivel.json", "maps").notes
    assert any("map normal skipped, maps has none" in note for note in said)
    made = kivel.sheet("owl.kivel.json", "maps", missing_map="neutral")
    assert list(made.manifest.pages[0].maps) == ["color", "normal"]
    assert any("map normal: neutral for" in note for note in made.notes)


def test_groups_and_clips_of_several_come_together() -> None:
    kivel.sheet("owl", out="b.png", make_group={"all": "*"})
    made: Manifest = kivel.sheet("owl.kivel.json", "b.kivel.json").manifest
    assert [(group.name, group.members) for group in made.groups] == [("all", ("hoot",)), ("all-2", ("b",))]
    assert made.clips[1].steps[0] == Step(6, 1)


def test_what_made_it_makes_it_again(place: Path) -> None:
    """The manifest's own words, from its own folder, give the same bytes."""
    (place / "deep").mkdir()
    kivel.sheet("owl", out="deep/made.png", map={"normal": "maps"}, gap=2, fps="24000/1001", make_clip={"a": "0-2"})
    before = [(place / f"deep/made.{name}").read_bytes() for name in ("png", "normal.png", "kivel.json")]
    made = json.loads(before[2])["made"]
    assert made["options"]["sources"] == ["../owl"]
    assert made["options"]["map"] == ["normal=../maps"]
    options = {name.replace("-", "_"): value for name, value in made["options"].items()}
    with contextlib.chdir(place / "deep"):
        again = getattr(kivel, made["command"])(*options.pop("sources"), **options)
    assert {file.outcome for file in again.files} == {"unchanged"}


def test_how_frames_were_faded_goes_with_them(place: Path) -> None:
    assert kivel.resample("maps", count=9, out="more", mix=True, fade="stored").manifest.faded == ("stored",)
    assert kivel.sheet("more", out="more.png").manifest.faded == ("stored",)
    assert kivel.slice("more.kivel.json", out="cut").manifest.faded == ("stored",)
    assert kivel.layer("maps", "cut", out="stack").manifest.faded == ("stored",)
    closed = kivel.loop("maps", close=1, out="closed").manifest
    assert closed
    assert closed.faded == ("linear",)
    assert kivel.atlas("closed", "stack", out="a.png").manifest.faded == ("linear", "stored")
    assert kivel.sheet("closed", "stack", inbetween=1, fade="stored").manifest.faded == ("linear", "stored")
    assert kivel.prep("closed", "stack", step=["reverse"]).manifest.faded == ("linear", "stored")
    assert kivel.sheet("maps").manifest.faded is None
    assert '"faded": ["stored"]' in (place / "more.kivel.json").read_text()
