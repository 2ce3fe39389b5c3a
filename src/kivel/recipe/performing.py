"""One task done, in whatever process: options from texts, the command's work, and what came of it."""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import sys
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, NamedTuple

from kivel.core.errors import KivelError
from kivel.core.wording import counted
from kivel.files.flushing import unflushed
from kivel.making.commands import command
from kivel.making.work import Work
from kivel.recipe.step_store import StepStore
from kivel.recipe.task import Task, as_given

__all__ = ["Done", "Job", "ends_with", "perform"]

_END_WITH_PARENT = 1  # PR_SET_PDEATHSIG


class Job(NamedTuple):
    """A task to be done in a folder; `more` are options of the build. Under a `key` its frames are kept, or taken.

    `ours` are files that an earlier build wrote, and that are as it left them.
    """

    folder: str
    task: Task
    more: Mapping[str, Any]
    store: str
    key: str | None
    ours: tuple[str, ...] = ()


class Done(NamedTuple):
    """The files that a task has given, whether they came from the store, what it noted, and why it failed, if so."""

    files: tuple[str, ...]
    changed: tuple[str, ...] = ()
    restored: bool = False
    notes: tuple[str, ...] = ()
    error: str | None = None


def perform(job: Job) -> Done:
    """Do a task. What a person can put right is told as `error`; a bug raises."""
    with contextlib.chdir(job.folder):
        store = StepStore(Path(job.store))
        target = Path(job.task.said["out"][0]) if job.task.step else None
        if job.key and target:
            files = store.restore(job.key, target)
            if files is not None:
                return Done(tuple(file.as_posix() for file in files), restored=True)
        if target:
            shutil.rmtree(target, ignore_errors=True)  # what a step makes depends on nothing that it made before
        work = Work(door="recipe", ours=frozenset(map(Path, job.ours)))
        try:
            with unflushed() if job.task.step else contextlib.nullcontext():
                files, changed = _worked(job, work)
        except KivelError as error:
            error.door = "recipe"
            return Done((), notes=tuple(work.notes), error=str(error))
        if job.key and target:
            store.keep(job.key, files)
        names = tuple(file.as_posix() for file in files)
        return Done(names, tuple(file.as_posix() for file in changed), notes=tuple(work.notes))


def ends_with(parent: int) -> None:
    """Have this process end when the one that began it does, however that ends; interrupts are for that one alone."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if sys.platform == "linux":
        import ctypes

        ctypes.CDLL(None).prctl(_END_WITH_PARENT, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(1)


def _worked(job: Job, work: Work) -> tuple[list[Path], list[Path]]:
    one = command(job.task.command)
    declared = one.options.declared()
    more = {name: value for name, value in job.more.items() if name in declared}
    options = one.options.of({**as_given(job.task.said, declared), **more}, door="command")
    options.door = "recipe"
    if job.task.retimes:
        options.retimes = tuple(_retimes(job.task))  # type: ignore[attr-defined]
    made = one.run(options, work)
    if job.task.command == "check":
        _judge(made, strict=bool(options.values.get("strict")))
    return [file.path for file in work.files], [file.path for file in work.files if file.outcome != "unchanged"]


def _retimes(task: Task) -> Iterator[Any]:
    options = command("retime").options
    for said in task.retimes:
        found = options.of({**as_given(said, options.declared()), "manifest": "it"}, door="command")
        found.door = "recipe"
        yield found


def _judge(made: Any, *, strict: bool) -> None:
    if made.fails(strict=strict):
        told = "; ".join(f"{one.severity} {one.code}: {one.where}: {one.text}" for one in made.findings[:5])
        more = f"; and {counted(len(made.findings) - 5, 'finding')} more" if len(made.findings) > 5 else ""
        raise KivelError(f"{told}{more}")
