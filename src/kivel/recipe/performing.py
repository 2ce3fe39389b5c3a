"""One task done, in whatever process: options from texts, the command's work, and what came of it."""

from __future__ import annotations

import contextlib
import os
import shutil
import socket
import threading
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Any

from kivel import __version__
from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import counted
from kivel.files.flushing import unflushed
from kivel.making.commands import command
from kivel.making.work import Work
from kivel.recipe.stamps import Stamp, are_untouched, stamp_of
from kivel.recipe.step_store import StepStore
from kivel.recipe.task import Task, as_given

__all__ = ["Done", "Job", "perform"]

_in_one_folder = threading.Lock()


class Job(NamedTuple):
    """A task to be done in a folder; `more` are options of the build. Under a `key` its frames are kept, or taken.

    `inputs` are what it reads, as it was when the key was made of it; `ours` are files that an earlier build wrote, and
    that are as it left them. `version` is that of the Kivel that wants it done.
    """

    folder: str
    task: Task
    more: Mapping[str, Any]
    store: str
    key: str | None
    inputs: Mapping[str, Stamp]
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
    """Do a task. What a person can put right is told as `error`; a bug raises."""
    host = socket.gethostname()
    if job.version != __version__:
        return Done({}, error=f"the worker on {host} has Kivel {__version__}, this build is of {job.version}")
    if not os.path.isdir(job.folder):
        return Done({}, error=f"the worker on {host} does not see {job.folder}; all need it under the same path")
    # a process has one current folder: where a cluster's workers have several threads, one of them is used at a time
    with _in_one_folder, contextlib.chdir(job.folder):
        store = StepStore(Path(job.store))
        target = Path(job.task.said["out"][0]) if job.task.step else None
        if job.key and target:
            files = store.restore(job.key, target)
            if files is not None:
                return Done(_stamps(files), restored=True)
        if target:
            shutil.rmtree(target, ignore_errors=True)  # what a step makes depends on nothing that it made before
        work = Work(door="recipe", ours=frozenset(map(Path, job.ours)))
        try:
            with unflushed() if job.task.step else contextlib.nullcontext():
                files, changed = _worked(job, work)
        except KivelError as error:
            error.door = "recipe"
            return Done({}, notes=tuple(work.notes), error=str(error))
        if job.key and target and are_untouched(job.inputs):  # else it may be of what somebody has just saved
            store.keep(job.key, files)
        return Done(_stamps(files), tuple(file.as_posix() for file in changed), notes=tuple(work.notes))


def _stamps(files: Iterable[Path]) -> dict[str, Stamp]:
    return {file.as_posix(): stamp_of(file.as_posix()) for file in files}


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
