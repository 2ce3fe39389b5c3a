"""The table of the guide: what is kept when frames change, and what is told; a row each."""

from __future__ import annotations

import contextlib
import json
import re
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

import kivel
from program import art, in_process, read, write

GUIDE = Path(__file__).parents[2] / "docs/promises.md"


def picture(number: int, side: int = 6) -> np.ndarray:
    image = art(number, width=side, height=side)
    image[..., 3] |= 64
    return image


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """`knight/`: walk_0 to walk_2 and die_0 to die_2, a clip each, with holds, an event and pivots of their own."""
    with contextlib.chdir(tmp_path):
        for row, name in enumerate(("walk", "die")):
            for number in range(3):
                write(Path(f"raw/{name}_{number}.png"), picture(10 * row + number))
        names = [f"{name}_{number}" for name in ("walk", "die") for number in range(3)]
        kivel.sheet(*(f"raw/{name}.png" for name in names), out="k.png", columns=3, row_clips=["walk", "die"])
        regions = ['image = "k.png"']
        for number, name in enumerate(names):
            x, y = 6 * (number % 3), 6 * (number // 3)
            regions.append(f'[[region]]\nname = "{name}"\nrect = [{x}, {y}, 6, 6]\nclip = "{name.partition("_")[0]}"')
        Path("k.regions.toml").write_text("\n".join(regions))
        Path("k.kivel.json").unlink()
        kivel.slice("k.png", out="knight", regions="k.regions.toml", pivot=["bottom"])
        kivel.retime("knight/k.kivel.json", clip="walk", holds="10ms,20ms,30ms", event=["1:step"])
        kivel.retime("knight/k.kivel.json", clip="die", holds="40ms,50ms,60ms", repeat=1, then="walk")
        yield tmp_path


def rename(_before: object = None, /, **names: str) -> None:
    """All to names of their own first, so that numbers may count on."""
    for old in names:
        Path(f"knight/{old}.png").rename(f"knight/{old}.tmp")
    for old, new in names.items():
        Path(f"knight/{old}.tmp").rename(f"knight/{new}.png")


def paint(name: str, number: int = 50, side: int = 6) -> None:
    write(Path(f"knight/{name}.png"), picture(number, side))


def touch(name: str) -> object:
    image = read(Path(f"knight/{name}.png")).copy()
    image[0, 0] ^= 5
    write(Path(f"knight/{name}.png"), image)
    return name


def remove(*names: str) -> object:
    for name in names:
        Path(f"knight/{name}.png").unlink()
    return names


WALK, DIE = [("walk_0", 10), ("walk_1", 20), ("walk_2", 30)], [("die_0", 40), ("die_1", 50), ("die_2", 60)]
Steps = list[tuple[str, int]]
ROWS: dict[str, tuple[Callable[[], object], Steps, Steps, list[str]]] = {
    "repaint a frame": (lambda: paint("walk_1"), WALK, DIE, ["knight: repainted walk_1"]),
    "enlarge a frame": (
        lambda: paint("walk_1", side=7), WALK, DIE, ["knight: resized walk_1", "in a new place: walk_1"],
    ),
    "rename a frame": (
        lambda: rename(walk_1="stride"), [WALK[0], ("stride", 20), WALK[2]], DIE, ["knight: renamed walk_1 to stride"],
    ),
    "rename and repaint it": (
        lambda: rename(touch("walk_1"), walk_1="stride"), [WALK[0], ("stride", 20), WALK[2]], DIE,
        ["knight: renamed walk_1 to stride", "knight: repainted stride"],
    ),
    "rename all frames of a clip": (
        lambda: rename(walk_0="run_0", walk_1="run_1", walk_2="run_2"), [("run_0", 10), ("run_1", 20), ("run_2", 30)],
        DIE, ["knight: renamed walk_1 to run_1"],
    ),
    "renumber frames": (
        lambda: rename(remove("walk_0"), walk_1="walk_0", walk_2="walk_1"), [("walk_0", 20), ("walk_1", 30)], DIE,
        ["knight: renamed walk_2 to walk_1"],
    ),
    "swap two files": (
        lambda: rename(walk_0="walk_1", walk_1="walk_0"), WALK, DIE, ["knight: repainted walk_0"],
    ),
    "add a frame": (
        lambda: paint("walk_1b"), [*WALK[:2], ("walk_1b", 20), WALK[2]], DIE,
        ['knight: added walk_1b to clip "walk", after walk_1, hold 20 ms'],
    ),
    "add a frame by another name": (
        lambda: paint("blink"), WALK, DIE, ["knight: added blink: in no clip"],
    ),
    "remove a frame": (
        lambda: remove("die_0"), WALK, DIE[1:], ['knight: removed die_0 from clip "die"'],
    ),
    "remove a frame with an event": (
        lambda: remove("walk_1"), [WALK[0], WALK[2]], DIE,
        ['warning: clip "walk": event "step": its frame was removed; moved to the step that shows at its time'],
    ),
    "remove all frames of a clip": (
        lambda: remove("walk_0", "walk_1", "walk_2"), [], DIE,
        ['warning: clip "walk" removed: all its frames were removed', '"die": nothing follows it now'],
    ),
}  # fmt: skip


@pytest.mark.parametrize(("edit", "walk", "die", "notes"), ROWS.values(), ids=ROWS)
def test_what_is_kept_and_what_is_told(edit: Callable[[], object], walk: Steps, die: Steps, notes: list[str]) -> None:
    before = {frame.name: frame for frame in kivel.sheet("knight").manifest.frames}
    edit()
    made = kivel.sheet("knight")
    manifest = made.manifest
    clips = {clip.name.replace("run", "walk"): clip for clip in manifest.clips}
    steps = {
        name: [(manifest.frames[step.frame].name, int(1000 * clip.seconds(step.hold))) for step in clip.steps]
        for name, clip in clips.items()
    }
    assert steps == {name: found for name, found in (("walk", walk), ("die", die)) if found}
    for note in notes:
        assert any(note in said for said in made.notes), made.notes
    assert clips["die"].repeat == 1
    if walk:
        assert [event.name for event in clips["walk"].events] == ["step"]
        assert clips["die"].then == next(clip.name for clip in manifest.clips if clip is clips["walk"])
    assert all(frame.pivot == (0.5, 1.0) for frame in manifest.frames)
    stays = [frame for frame in manifest.frames if frame.name in before and frame.canvas == (6, 6)]
    if not any(edit.kind == "renamed" and edit.frame in before for edit in made.edits):
        assert all(frame.rect == before[frame.name].rect for frame in stays)
    assert {edit.kind for edit in made.edits} <= {"added", "removed", "renamed", "repainted", "resized"}
    assert made.edits


def test_each_row_of_the_guide_is_here() -> None:
    section = GUIDE.read_text().partition("## When frames change")[2].partition("\n## ")[0]
    rows = re.findall(r"^\| ([a-z][^|(]*?) (?:\([^|]*\) )?\|", section, flags=re.M)
    # test_sheet_again, test_sheet_edited
    elsewhere = {"you", "add a column to an adopted sheet", "remove a frame, with `--keep-holes`"}
    assert set(rows) - elsewhere == set(ROWS)


def test_each_change_is_in_what_python_returns_and_in_json() -> None:
    remove("walk_1")
    made = (
        kivel.sheet("knight"), kivel.atlas("knight"), kivel.prep("knight", step=["premultiply"]), kivel.loop("knight"),
        kivel.resample("knight", count=2), kivel.layer("knight", "knight"),
    )  # fmt: skip
    for one in made:
        assert [(edit.kind, edit.frame, edit.clips) for edit in one.edits][:1] == [("removed", "walk_1", ("walk",))]
    for words in ("sheet knight -o s.png", "inspect knight", "preview knight -o p.png", "plan knight", "check knight"):
        document = json.loads(in_process([*words.split(), "--json"], Path.cwd()).out)
        assert document["edits"] == [{"kind": "removed", "frame": "walk_1", "clips": ["walk"]}], words
