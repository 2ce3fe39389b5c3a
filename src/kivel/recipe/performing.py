"""One task done, in whatever process: options from texts, the command's work, and what came of it."""

from __future__ import annotations

import contextlib
import os
import socket
import threading
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path, PurePosixPath
from typing import Any

from kivel import __version__
from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import counted
from kivel.files.flushing import unflushed
from kivel.files.own_folder import OwnFolder
from kivel.making.commands import command
from kivel.making.work import RecipeTask, Work
from kivel.recipe.stamps import Stamp, stamp_of
from kivel.recipe.task import Task, as_given

__all__ = ["Done", "Job", "perform", "step_folder"]

_in_one_folder = threading.Lock()


class Job(NamedTuple):
    """A task to be done in a folder; `more` are options of the build.

    `ours` are files that an earlier build wrote, and that are as it left them. `version` is that of the Kivel that
    wants it done. Whoever does it believes nothing that is kept in the folder.
    """

    folder: str
    task: Task
    more: Mapping[str, Any]
    of: RecipeTask
    ours: tuple[str, ...] = ()
    version: str = __version__


class Done(NamedTuple):
    """The files that a task has given, whether they came from the store, what it noted, and why it failed, if so."""

    files: Mapping[str, Stamp]
    changed: tuple[str, ...] = ()
    restored: bool = False
    notes: tuple[str, ...] = ()
    error: str | None = None


def perform(job: Job) -> Done:
    """Do a task. What a person can put right is noted as `error`; a bug raises."""
    host = socket.gethostname()
    if job.version != __version__:
        return Done({}, error=f"the worker on {host} has Kivel {__version__}, this build has {job.version}")
    if not os.path.isdir(job.folder):
        return Done({}, error=f"the worker on {host} does not see {job.folder}; all workers need it at the same path")
    # a process has one current folder: where a cluster's workers have several threads, one of them is used at a time
    with _in_one_folder, contextlib.chdir(job.folder):
        if job.task.step:
            try:
                step_folder(job.task).emptied()  # what a step makes depends on nothing that it made before
            except OSError as error:
                return Done({}, error=f"{job.task.said['out'][0]} cannot be written: {error.strerror or error}")
        work = Work(door="recipe", ours=frozenset(map(Path, job.ours)), task=job.of)
        try:
            with unflushed() if job.task.step else contextlib.nullcontext():
                files, changed = _worked(job, work)
        except KivelError as error:
            error.door = "recipe"
            return Done({}, notes=tuple(work.notes), error=str(error))
        return Done(_stamps(files), tuple(file.as_posix() for file in changed), notes=tuple(work.notes))


def step_folder(task: Task) -> OwnFolder:
    """Where a step leaves its frames, as seen from the recipe's folder."""
    root, *parts = PurePosixPath(task.said["out"][0]).parts
    return OwnFolder(Path(root), tuple(parts))


def _stamps(files: Iterable[Path]) -> dict[str, Stamp]:
    return {file.as_posix(): stamp_of(file.as_posix()) for file in files}


def _worked(job: Job, work: Work) -> tuple[list[Path], list[Path]]:
    one = command(job.task.command)
    declared = one.options.declared()
    more = {name: value for name, value in job.more.items() if name in declared}
    options = one.options.of({**as_given(job.task.said, declared), **more}, door="recipe")
    if job.task.retimes:
        options.retimes = tuple(_retimes(job.task))  # type: ignore[attr-defined]
    made = one.run(options, work)
    if job.task.command == "check":
        _judge(made, strict=bool(options.values.get("strict")))
    there = [file for file in work.files if file.outcome != "removed"]
    return [file.path for file in there], [file.path for file in there if file.outcome != "unchanged"]


def _retimes(task: Task) -> Iterator[Any]:
    options = command("retime").options
    for said in task.retimes:
        yield options.of({**as_given(said, options.declared()), "manifest": "it"}, door="recipe")


def _judge(made: Any, *, strict: bool) -> None:
    if made.fails(strict=strict):
        told = "; ".join(f"{one.severity} {one.code}: {one.where}: {one.text}" for one in made.findings[:5])
        more = f"; and {counted(len(made.findings) - 5, 'finding')} more" if len(made.findings) > 5 else ""
        raise KivelError(f"{told}{more}")
