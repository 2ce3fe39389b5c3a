"""One pack filled by many exporters: each owns what it wrote, and a build is done when it says so."""

from __future__ import annotations

import contextlib
import os
import random
import shutil
import tarfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from recipes import recipe

import kivel
from kivel.core.errors import KivelError
from program import art, files, in_process, write

PROFILE = """format = "kivel-profile"
version = 1
[image]
file = "{name}.png"
[[output]]
file = "{name}.txt"
template = "{{ sheet.name }} {{ clips[0].hold }}"
"""


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        Path("pack.toml").write_text(PROFILE)
        yield tmp_path


def draw(name: str, count: int = 3, seed: int = 0) -> None:
    shutil.rmtree(f"art/{name}", ignore_errors=True)
    for number in range(count):
        write(Path(f"art/{name}/{name}_{number}.png"), art(seed + number))


def things(names: list[str], **more: Any) -> dict[str, dict[str, Any]]:
    return {
        name: {
            "from": f"art/{name}", "sheet": {"out": f"out/{name}.png", "fps": 12},
            "export": {"profile": "pack.toml", "out": "pack", "prune": True, **more},
        }
        for name in names
    }  # fmt: skip


def packed(*names: str) -> list[str]:
    return sorted(f"{name}.{suffix}" for name in names for suffix in ("png", "txt"))


def states(**options: Any) -> list[str]:
    made = kivel.build(**options)
    assert not made.failed, [one.error for one in made.outcomes]
    return [one.state for one in made.outcomes]


@pytest.mark.parametrize("jobs", [2, pytest.param(1, marks=pytest.mark.slow)])
def test_twenty_four_sheets_fill_one_pack_and_the_next_build_makes_nothing(place: Path, jobs: int) -> None:
    names = [f"n{number}" for number in range(24)]
    for number, name in enumerate(names):
        draw(name, seed=10 * number)
    recipe(things(names))
    assert states(jobs=jobs) == ["built"] * 48
    assert sorted(files(place / "pack")) == packed(*names)
    assert states(jobs=jobs) == ["up to date"] * 48


def test_what_one_no_longer_makes_is_removed_and_nothing_of_the_others(place: Path) -> None:
    for name in ("moth", "owl", "bat"):
        draw(name)
    for name in ("moth", "owl"):
        kivel.sheet(f"art/{name}", out=f"{name}.png")
    both = ("moth.kivel.json", "owl.kivel.json")
    kivel.export(*both, profile="pack.toml", out="pack")
    recipe(things(["bat"]))
    states()
    made = kivel.export(both[0], profile="pack.toml", out="pack", prune=True)
    assert made.removed == ("owl.png", "owl.txt")
    assert sorted(files(place / "pack")) == packed("bat", "moth")


def test_two_that_write_one_name_are_an_error_and_hold_up_no_other(place: Path) -> None:
    for name in ("moth", "owl"):
        draw(name)
    same = things(["moth", "owl"])
    same["owl"]["sheet"]["out"] = "other/moth.png"
    recipe({**same, "bat": things(["moth"])["moth"] | {"sheet": {"out": "out/bat.png"}}})
    found = in_process(["build", "--keep-going", "--jobs", "1"], place)
    assert found.code == 1
    assert "make.owl.export: pack: moth.png, moth.txt: already written by kivel.toml: moth.export" in found.err
    assert sorted(files(place / "pack")) == packed("bat", "moth")
    Path("hand").mkdir()
    kivel.sheet("art/owl", out="hand/bat.png")
    with pytest.raises(KivelError, match=r"bat\.png, bat\.txt: already written by kivel\.toml: bat\.export"):
        kivel.export("hand/bat.kivel.json", profile="pack.toml", out="pack")


def test_a_task_that_is_called_otherwise_takes_over_what_it_wrote(place: Path) -> None:
    draw("moth")
    recipe(things(["moth"]))
    states()
    recipe({"butterfly": things(["moth"])["moth"]})
    assert states() == ["built", "built"]
    assert states() == ["up to date"] * 2
    assert sorted(files(place / "pack")) == packed("moth")


def test_what_another_user_wrote_is_not_removed(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("moth", "owl"):
        draw(name)
        kivel.sheet(f"art/{name}", out=f"{name}.png")
    kivel.export("moth.kivel.json", "owl.kivel.json", profile="pack.toml", out="pack")
    monkeypatch.setenv("KIVEL_STATE_KEY", "another user's long secret")
    for _ in range(2):
        made = kivel.export("moth.kivel.json", profile="pack.toml", out="pack", prune=True)
        assert (made.removed, sorted(files(place / "pack"))) == ((), packed("moth", "owl"))
        assert "pack/owl.png, pack/owl.txt: no longer made, but written by another user" in "".join(made.notes)


EXPORTERS = [f"n{number}" for number in range(10)]


def edit(chance: random.Random) -> str:
    """Something that happens to a project between two builds."""
    name = chance.choice(EXPORTERS)
    folder = Path("art", name)
    frames = sorted(folder.iterdir())
    match chance.randrange(7):
        case 0:
            write(chance.choice(frames), art(chance.randrange(10_000)))
            return f"{name}: a frame repainted"
        case 1:
            write(folder / f"{name}_{len(frames) + 3}.png", art(chance.randrange(10_000)))
            return f"{name}: a frame added"
        case 2 if len(frames) > 1:
            chance.choice(frames).unlink()
            return f"{name}: a frame dropped"
        case 3:
            frame = chance.choice(frames)
            was = frame.stat()
            data = bytearray(frame.read_bytes())
            write(frame, art(chance.randrange(10_000)))
            again = frame.read_bytes()
            frame.write_bytes(data)  # in place
            if len(again) == len(data):
                frame.write_bytes(again)
            os.utime(frame, ns=(was.st_atime_ns, was.st_mtime_ns))
            return f"{name}: a frame repainted, its time rewound"
        case 4:
            _unpacked_over(folder, chance)
            return f"{name}: an archive with fixed times unpacked over it"
        case 5:
            for made in (Path(f"pack/{name}.png"), Path(f"out/{name}.png")):
                made.unlink(missing_ok=True)
            return f"{name}: outputs removed"
        case _:
            present = [one for one in EXPORTERS if chance.random() < 0.8]
            recipe(things(present))
            return f"the recipe has {present}"


def _unpacked_over(folder: Path, chance: random.Random) -> None:
    """`tar xf` of other pixels in as many bytes, all times fixed."""
    frames = sorted(folder.iterdir())
    with tarfile.open("v2.tar", "w") as archive:
        for frame in frames:
            kept = frame.read_bytes()
            write(frame, art(chance.randrange(10_000)))
            if frame.stat().st_size == len(kept):
                archive.add(frame, filter=_at_a_fixed_time)
            frame.write_bytes(kept)
            os.utime(frame, (1_000_000, 1_000_000))
    with tarfile.open("v2.tar") as archive:
        archive.extractall(filter="tar")
    Path("v2.tar").unlink()


def _at_a_fixed_time(member: tarfile.TarInfo) -> tarfile.TarInfo:
    member.mtime = 1_000_000
    return member


def outputs(folder: Path) -> dict[str, bytes]:
    return {name: data for name, data in files(folder).items() if name.startswith(("out/", "pack/"))}


def random_edits(place: Path, count: int, seed: int) -> Iterator[str]:
    """What is wrong after an edit and a build, of so many: outputs are those of a build from nothing, elsewhere."""
    chance = random.Random(seed)
    for number, name in enumerate(EXPORTERS):
        draw(name, seed=10 * number)
    recipe(things(EXPORTERS))
    states(jobs=1)
    for number in range(count):
        what = edit(chance)
        states(jobs=1, prune=True)
        with contextlib.suppress(FileNotFoundError):
            shutil.rmtree(place.parent / "elsewhere")
        left = shutil.ignore_patterns(".kivel", "out", "pack", "*.ledger.json")
        shutil.copytree(place, place.parent / "elsewhere", ignore=left)
        with contextlib.chdir(place.parent / "elsewhere"):
            states(jobs=1)
        if outputs(place) != outputs(place.parent / "elsewhere"):
            yield f"{number}: {what}: other outputs"
        if set(states(jobs=1)) - {"up to date"}:
            yield f"{number}: {what}: the second build makes something"


@pytest.mark.slow
@pytest.mark.parametrize("count", [8])
def test_after_random_edits_a_build_equals_one_from_nothing(place: Path, count: int) -> None:
    project = place / "project"
    project.mkdir()
    shutil.move("pack.toml", project)
    with contextlib.chdir(project):
        assert list(random_edits(project, count, seed=count)) == []


def test_a_table_about_the_whole_pack_has_a_row_of_each_and_is_made_again_when_it_is_gone(place: Path) -> None:
    rows = "{% for one in sheets %}{{ one.sheet.name }} {{ one.clips[0].hold }};{% endfor %}"
    (place / "pack.toml").write_text(f'{PROFILE}[[output]]\nfile = "all.txt"\neach = "pack"\ntemplate = "{rows}"\n')
    for name in ("owl", "bat", "elk"):
        draw(name)
    recipe(things(["owl", "bat", "elk"]))
    table = place / "pack/all.txt"

    def settled() -> None:
        """A build or two after a change there is nothing to do."""
        for _ in range(3):
            found = states(jobs=1)
        assert set(found) == {"up to date"}

    settled()
    assert table.read_text() == "bat 0.083333336;elk 0.083333336;owl 0.083333336;"
    table.unlink()
    settled()
    assert table.exists()
    changed = things(["owl", "bat", "elk"])
    changed["bat"]["sheet"]["fps"] = 4
    recipe(changed)
    settled()
    assert table.read_text() == "bat 0.25;elk 0.083333336;owl 0.083333336;"
