"""Many workers make what one makes, and one that dies costs its task alone."""

from __future__ import annotations

import contextlib
import os
import random
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures import BrokenExecutor, Executor, Future
from pathlib import Path
from typing import Any

import pytest
from recipes import chain, draw_moth_and_owl, made_files, recipe

import kivel
from kivel.recipe import build
from kivel.recipe.performing import Done, Job, perform
from program import PROGRAM, art, in_process, write

pytest.importorskip("distributed")
psutil = pytest.importorskip("psutil")
_DASK = str(Path(sys.executable).with_name("dask"))


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    draw_moth_and_owl(tmp_path)
    with contextlib.chdir(tmp_path):
        yield tmp_path


class Cluster:
    """A scheduler and its workers, each with its nurse, as a studio would begin them."""

    def __init__(self, folder: Path, workers: int, *, more: tuple[str, ...] = ()) -> None:
        self.log = log = (folder / "cluster.log").open("w")
        file = folder / "scheduler.json"

        def begun(*words: str) -> subprocess.Popen[bytes]:
            return subprocess.Popen([_DASK, *words, "--scheduler-file", str(file)], stdout=log, stderr=log, cwd=folder)

        self.scheduler = begun("scheduler", "--port", "0", "--no-dashboard", "--host", "127.0.0.1")
        self.nurses = [
            begun("worker", "--nthreads", "1", "--no-dashboard", "--local-directory", str(folder / f"w{n}"), *more)
            for n in range(workers)
        ]
        deadline = time.monotonic() + 60
        while not file.exists() or sum(map(len, map(self.workers_of, self.nurses))) < workers:
            assert time.monotonic() < deadline, (folder / "cluster.log").read_text()
            time.sleep(0.05)
        import json

        self.address = json.loads(file.read_text())["address"]

    @staticmethod
    def workers_of(nurse: subprocess.Popen[bytes]) -> list[Any]:
        with contextlib.suppress(psutil.Error):
            return [one for one in psutil.Process(nurse.pid).children() if "spawn_main" in " ".join(one.cmdline())]
        return []

    def close(self) -> None:
        for one in (*self.nurses, self.scheduler):
            one.terminate()
        for one in (*self.nurses, self.scheduler):
            try:
                one.wait(10)
            except subprocess.TimeoutExpired:
                one.kill()
                one.wait()
        self.log.close()


@pytest.fixture
def cluster(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Cluster]:
    begun = Cluster(tmp_path_factory.mktemp("cluster"), 3)
    try:
        yield begun
    finally:
        begun.close()


def many(count: int) -> dict[str, dict[str, Any]]:
    steps = [[{"prep": f"opacity 0.{number}"}] for number in range(1, 1 + count)]
    return {f"t{n}": {"from": "moth", "steps": one, "sheet": {"out": f"out/{n}.png"}} for n, one in enumerate(steps)}


def cleared() -> dict[str, Any]:
    made = made_files()
    for path in (".kivel", "out"):
        shutil.rmtree(path)
    return made


def build_on(cluster: Cluster, *words: str) -> subprocess.CompletedProcess[str]:
    command = [str(PROGRAM), "build", "--cluster", cluster.address, *words]
    return subprocess.run(command, capture_output=True, text=True, check=False, timeout=100)


@pytest.mark.slow
def test_three_workers_of_a_cluster_make_the_same_bytes_and_the_next_build_nothing(
    place: Path, cluster: Cluster
) -> None:
    recipe({**chain(), **many(5)})
    kivel.build(jobs=1)
    alone = cleared()
    found = build_on(cluster)
    assert (found.returncode, found.stdout.splitlines()[-1]) == (0, "15 built"), found.stderr
    assert made_files() == alone
    write(place / "owl/owl_2.png", art(99))
    assert build_on(cluster).stdout.splitlines()[-1] == "1 built, 14 up to date"
    recipe({"bad": {"from": "nowhere", "sheet": {"out": "bad.png"}}})
    found = build_on(cluster)
    assert (found.returncode, "kivel.toml:3: make.bad.sheet: nowhere: no such file" in found.stderr) == (
        1,
        True,
    )


@pytest.mark.slow
def test_a_worker_of_a_cluster_that_is_killed_costs_nothing_but_time(place: Path, cluster: Cluster) -> None:
    recipe(many(9))
    kivel.build(jobs=1)
    right = cleared()
    rng = random.Random(5)
    for _ in range(5):
        running = subprocess.Popen([PROGRAM, "build", "--cluster", cluster.address, "--quiet"], cwd=place)
        time.sleep(rng.uniform(0.5, 1.2))
        killed = cluster.workers_of(rng.choice(cluster.nurses))
        for one in killed:
            one.kill()
        assert running.wait(60) == 0
        assert cleared() == right


@pytest.mark.slow
def test_a_task_that_takes_down_every_worker_of_a_cluster_is_named(place: Path, tmp_path_factory: Any) -> None:
    """Memory is what such tasks lack: more of it than a worker may have, and its nurse ends it."""
    write(place / "big/a.png", art(1, width=6000, height=6000))
    write(place / "big/b.png", art(2, width=6000, height=6000))
    recipe({"big": {"from": "big", "steps": [{"prep": "fit 4000x4000"}], "sheet": {"out": "out/big.png"}}, **many(2)})
    small = Cluster(tmp_path_factory.mktemp("small"), 2, more=("--memory-limit", "300MB"))
    try:
        found = build_on(small, "--keep-going")
    finally:
        small.close()
    assert (found.returncode, Path("out/1.png").exists()) == (1, True)
    assert "make.big.steps[0].prep: its process was killed twice" in found.stderr


@pytest.mark.slow
def test_a_process_that_is_killed_costs_nothing_but_time(place: Path) -> None:
    recipe(many(9))
    kivel.build(jobs=1)
    right = cleared()
    rng, killed = random.Random(6), 0
    for _ in range(2):
        running = subprocess.Popen([PROGRAM, "build", "--jobs", "2", "--quiet"], cwd=place)
        children: list[Any] = []
        while not children and running.poll() is None:
            with contextlib.suppress(psutil.Error):
                children = psutil.Process(running.pid).children()
        time.sleep(rng.uniform(0, 0.2))
        for one in children[:1]:
            with contextlib.suppress(psutil.Error):
                one.kill()
                killed += 1
        assert running.wait(60) == 0
        assert cleared() == right
    assert killed > 0


class Dying(Executor):
    """Workers that do as they are told, but for the tasks that are named: there they die so many times."""

    elsewhere = True

    def __init__(self, deaths: dict[str, int]) -> None:
        self.deaths = deaths

    def executor(self) -> Executor:
        return self

    def renew(self) -> None:
        pass

    def close(self) -> None:
        pass

    def submit(self, _function: Any, job: Job) -> Future[Any]:  # type: ignore[override]
        future: Future[Done] = Future()
        if self.deaths.get(job.task.name, 0):
            self.deaths[job.task.name] -= 1
            os.truncate("moth/moth_0.png", os.stat("moth/moth_0.png").st_size)  # it has begun
            future.set_exception(BrokenExecutor())
        else:
            future.set_result(perform(job))
        return future


@pytest.mark.parametrize(("deaths", "failed"), [(1, []), (2, ["t1.steps.0.prep"])])
def test_a_task_is_done_once_more_and_named_when_it_fails_twice(
    monkeypatch: pytest.MonkeyPatch, deaths: int, failed: list[str]
) -> None:
    workers = Dying({"t1.steps.0.prep": deaths})
    monkeypatch.setattr(build, "_workers", lambda *_: contextlib.nullcontext(workers))
    recipe(many(3))
    with pytest.raises(kivel.BuildError) if failed else contextlib.nullcontext() as caught:
        made = kivel.build(keep_going=True)
    made = caught.value.made if caught else made
    assert [one.task.name for one in made.outcomes if one.state == "failed"] == failed
    assert all("its process was killed twice" in (one.error or "") for one in made.outcomes if one.state == "failed")
    assert sum(one.state == "built" for one in made.outcomes) == 6 - 2 * len(failed)


def test_an_interrupted_build_says_what_it_had_finished(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    class Interrupting(Dying):
        def submit(self, function: Any, job: Job) -> Future[Any]:  # type: ignore[override]
            if job.task.name == "second.sheet":
                raise KeyboardInterrupt
            return super().submit(function, job)

    monkeypatch.setattr(build, "_workers", lambda *_: contextlib.nullcontext(Interrupting({})))
    sheets = [("first", "moth", "a.png"), ("second", "@first", "b.png")]
    recipe({name: {"from": source, "sheet": {"out": out}} for name, source, out in sheets})
    found = in_process(["build"], place)
    assert (found.code, "2 files were finished before that: a.png, a.kivel.json" in found.err) == (130, True), found.err


def test_a_step_of_what_is_saved_while_it_is_made_is_not_kept_for_the_time_before(
    place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Else the next build would take the frames of another source for those of this one."""
    before = (place / "moth/moth_0.png").read_bytes()

    class Saving(Dying):
        def submit(self, function: Any, job: Job) -> Future[Any]:  # type: ignore[override]
            write(place / "moth/moth_0.png", art(50))
            return super().submit(function, job)

    recipe({"it": {"from": "moth", "steps": [{"prep": "trim"}], "sheet": {"out": "out/it.png"}}})
    with monkeypatch.context() as patch:
        patch.setattr(build, "_workers", lambda *_: contextlib.nullcontext(Saving({})))
        kivel.build()
    other = made_files()["out/it.png"]
    (place / "moth/moth_0.png").write_bytes(before)
    kivel.build()
    assert made_files()["out/it.png"] != other
