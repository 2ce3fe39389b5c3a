"""What was set on clips, groups and pivots stays when a thing is made again, or is refused by name."""

from __future__ import annotations

import contextlib
import json
import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

import kivel
from program import art, write

Manifests = dict[str, Any]


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for name, count in (("lamp", 4), ("moth", 3)):
            for number in range(count):
                paint(name, number)
        yield tmp_path


def paint(name: str, number: int, seed: int = 0) -> None:
    write(Path(f"{name}/{name}_{number}.png"), art(number + 10 * len(name) + 100 * seed))


def content(path: str = "l.kivel.json") -> dict[str, Any]:
    found: dict[str, Any] = json.loads(Path(path).read_text())
    return found


def clips(path: str = "l.kivel.json") -> dict[str, Any]:
    return {clip["name"]: clip for clip in content(path)["clips"]}


def shown(clip: dict[str, Any]) -> list[int]:
    return [frame for frame, _ in clip["steps"]]


def sheet(**options: Any) -> Any:
    return kivel.sheet("lamp", "moth", out="l.png", **options)


def retime(**options: Any) -> Any:
    return kivel.retime("l.kivel.json", **options)


SET: dict[str, tuple[list[dict[str, Any]], str]] = {
    "order": ([{"clip": "lamp", "order": "0-3,2-1"}], 'clip "lamp": kept as set: order'),
    "order and holds": ([{"clip": "lamp", "order": "0,2", "hold": "70ms"}], 'clip "lamp": kept as set: order, holds'),
    "holds": ([{"clip": "lamp", "holds": "3,1,4,1"}], 'clip "lamp": kept as set: holds'),
    "a pace that skips": ([{"clip": "lamp", "pace": "steps(2, jump-none)"}], 'clip "lamp": kept as set: order, holds'),
    "events": ([{"clip": "lamp", "event": ["3:bright"]}], 'clip "lamp": kept as set: events'),
    "interpolation, phase": ([{"interpolation": "linear", "phase": "25%"}], 'clip "moth": kept as set: interpolation'),
    "a name": ([{"clip": "lamp", "rename": "glow"}], 'clip "lamp", now "glow": kept as set: name'),
    "all at once": (
        [{"clip": "lamp", "order": "0-3,2-1", "event": ["3:bright"], "direction": "alternate", "hold_ends": True},
         {"clip": "lamp", "rename": "glow"}, {"clip": "glow", "then": "moth", "repeat": 2}],
        'clip "lamp", now "glow": kept as set: name, order, direction, held ends, repeat, follower',
    ),
    "staggered copies": ([{"clip": "moth", "stagger": 3}], 'clip "moth-2" kept: it was added later'),
    "a new clip": ([{"clip": "lamp", "new": "rise", "order": "1-2"}], 'clip "rise" kept'),
    "a removed clip": ([{"clip": "moth", "remove": True}], 'clip "moth" stays removed'),
    "a group": ([{"make_group": {"any": "*"}, "choose": "random", "weight": {"moth": 3}}], 'group "any" is kept'),
}  # fmt: skip


@pytest.mark.parametrize(("changes", "note"), SET.values(), ids=SET)
def test_what_was_set_stays_when_frames_are_repainted(changes: list[dict[str, Any]], note: str) -> None:
    sheet()
    for change in changes:
        retime(**change)
    before = content()
    paint("lamp", 1, seed=1)
    again = sheet()
    after = content()
    assert [note in said for said in again.notes].count(True) == 1, again.notes
    assert {key: after.get(key) for key in ("clips", "groups", "removed")} == {
        key: before.get(key) for key in ("clips", "groups", "removed")
    }
    assert after["pages"] != before["pages"]
    assert {file.outcome for file in sheet().files} == {"unchanged"}


MORE: dict[str, tuple[dict[str, Any], Callable[[], Any], Callable[[Manifests], bool], str]] = {
    "a frame more": (
        {"clip": "lamp", "order": "0-3,2-1"}, lambda: paint("lamp", 4),
        lambda found: shown(found["lamp"]) == [0, 1, 2, 3, 4, 2, 1],
        'clip "lamp": added lamp_4, hold 83.33 ms',
    ),
    "a frame more, with holds": (
        {"clip": "lamp", "holds": "3,1,4,1"}, lambda: paint("lamp", 4),
        lambda found: [s[1] for s in found["lamp"]["steps"]] == [3, 1, 4, 1, 1],
        'clip "lamp": added lamp_4, hold 83.33 ms',
    ),
    "one before it": (
        {"clip": "moth", "event": ["1:flap"]}, lambda: paint("lamp", 4),
        lambda found: found["moth"]["events"] == [{"step": 1, "name": "flap"}], 'clip "moth": kept as set: events',
    ),
    "one less, held": (
        {"clip": "lamp", "holds": "3,1,4,1"}, lambda: Path("lamp/lamp_1.png").unlink(),
        lambda found: [s[1] for s in found["lamp"]["steps"]] == [3, 4, 1], "kept as set: holds",
    ),
    "one less, an event": (
        {"clip": "lamp", "event": ["3:bright"]}, lambda: Path("lamp/lamp_1.png").unlink(),
        lambda found: found["lamp"]["events"] == [{"step": 2, "name": "bright"}], "kept as set: events",
    ),
}  # fmt: skip


@pytest.mark.parametrize(("change", "repaint", "holds", "note"), MORE.values(), ids=MORE)
def test_what_was_set_follows_its_frames(
    change: dict[str, Any], repaint: Callable[[], Any], holds: Callable[[Manifests], bool], note: str
) -> None:
    sheet()
    retime(**change)
    repaint()
    made = sheet()
    assert holds(clips()), clips()
    assert any(note in said for said in made.notes), made.notes


GONE: dict[str, tuple[dict[str, Any], Callable[[Manifests], bool], str]] = {
    "an order": (
        {"clip": "lamp", "order": "0-3,2-1"}, lambda found: shown(found["lamp"]) == [0, 1, 2, 1],
        'clip "lamp": removed lamp_1',
    ),
    "an event": (
        {"clip": "lamp", "event": ["1:dim"]}, lambda found: found["lamp"]["events"] == [{"step": 1, "name": "dim"}],
        'warning: clip "lamp": event "dim": its frame was removed; moved to the step that shows at its time',
    ),
    "an added clip": (
        {"clip": "lamp", "new": "rise", "order": "1-2"}, lambda found: shown(found["rise"]) == [1],
        'clip "rise" kept',
    ),
}  # fmt: skip


@pytest.mark.parametrize(("change", "holds", "note"), GONE.values(), ids=GONE)
def test_a_removed_frame_takes_its_steps_and_nothing_else(
    change: dict[str, Any], holds: Callable[[Manifests], bool], note: str
) -> None:
    sheet()
    retime(**change)
    Path("lamp/lamp_1.png").unlink()
    made = sheet()
    assert holds(clips()), clips()
    assert any(note in said for said in made.notes), made.notes


def test_what_was_set_on_a_clip_that_is_not_asked_for_any_more_is_refused_unless_clips_are_to_be_fresh() -> None:
    sheet(make_clip={"rise": "lamp:1-2"})
    retime(clip="rise", repeat=2)
    before = Path("l.kivel.json").read_bytes(), Path("l.png").read_bytes()
    message = 'clip "rise": this clip is no longer made, and its repeat was set'
    with pytest.raises(kivel.KivelError, match=re.escape(message)) as error:
        sheet()
    assert "fresh_clips=True" in str(error.value)
    assert (Path("l.kivel.json").read_bytes(), Path("l.png").read_bytes()) == before
    made = sheet(fresh_clips=True)
    assert [clip.name for clip in made.manifest.clips] == ["lamp", "moth"]
    assert any("reset, without earlier settings" in note for note in made.notes)


def test_a_clip_of_which_no_frame_is_left_goes_with_a_warning() -> None:
    sheet()
    retime(clip="lamp", then="moth")
    retime(clip="moth", repeat=2)
    made = kivel.sheet("lamp", out="l.png")
    assert [(clip.name, clip.then) for clip in made.manifest.clips] == [("l", None)]
    assert 'warning: clip "moth" removed: all its frames were removed' in made.notes
    assert any("nothing follows it now" in note for note in made.notes)


def test_a_clip_follows_its_frames_under_another_name_and_number() -> None:
    sheet()
    retime(clip="lamp", holds="3,1,4,1")
    Path("glow").mkdir()
    for number in range(4):
        Path(f"lamp/lamp_{number}.png").rename(f"glow/glow_{number + 3}.png")
    kivel.sheet("glow", "moth", out="l.png")
    assert [hold for _, hold in clips()["glow"]["steps"]] == [3, 1, 4, 1]
    assert list(clips()) == ["glow", "moth"]


def test_what_is_stated_now_wins_and_what_was_stated_before_does_not() -> None:
    sheet(fps=12)
    retime(clip="lamp", fps=8, order="0-1")
    assert (
        clips()["lamp"]["timebase"] == [24, 1]
        or clips()["lamp"]["steps"][0][1] / clips()["lamp"]["timebase"][0] == 1 / 8
    )
    kept = clips()["lamp"]
    sheet(fps=12)
    assert clips()["lamp"] == kept
    made = sheet(fps=24)
    lamp = clips()["lamp"]
    assert [(frame, hold / lamp["timebase"][0]) for frame, hold in lamp["steps"]] == [(0, 1 / 24), (1, 1 / 24)]
    assert any('clip "lamp": holds taken from this command, not as set before' in note for note in made.notes)
    sheet(fps=24, order={"lamp": "2"})
    assert [frame for frame, _ in clips()["lamp"]["steps"]] == [2]


def test_the_same_holds_for_an_atlas_frames_and_steps() -> None:
    kivel.atlas("lamp", out="a.png")
    kivel.retime("a.kivel.json", order="0,3", event=["1:x"])
    paint("lamp", 2, seed=2)
    kivel.atlas("lamp", out="a.png")
    assert [frame for frame, _ in clips("a.kivel.json")["a"]["steps"]] == [0, 3]
    for name, options in (("slice", {}), ("prep", {"step": ["premultiply"]}), ("resample", {"count": 2})):
        source = "a.kivel.json" if name == "slice" else "lamp"
        getattr(kivel, name)(source, out=name, **options)
        path = f"{name}/{'a' if name == 'slice' else name}.kivel.json"
        kivel.retime(path, repeat=7, interpolation="linear")
        getattr(kivel, name)(source, out=name, **options)
        assert next(iter(clips(path).values()))["set"] == ["repeat", "interpolation"]


def test_what_was_edited_by_hand_counts_as_set() -> None:
    sheet()
    found = content()
    found["clips"][0]["steps"] = [[3, 1], [0, 2]]
    del found["clips"][1]
    found["frames"][0]["pivot"] = [0.25, 0.75]
    found["x-mood"] = "calm"
    Path("l.kivel.json").write_text(json.dumps(found))
    with pytest.raises(kivel.KivelError, match="was edited by hand; pass force=True to replace it: settings"):
        sheet()
    sheet(force=True)
    assert clips()["lamp"]["steps"] == [[3, 1], [0, 2]]
    assert list(clips()) == ["lamp"]
    assert (content()["frames"][0]["pivot"], content()["x-mood"], content()["removed"]) == (
        [0.25, 0.75],
        "calm",
        ["moth"],
    )
