"""Tasks done in order, side by side where they can be: what is up to date is left, and a failure skips what depends on
it.
"""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import BrokenExecutor, CancelledError, Future
from queue import SimpleQueue
from typing import Any

from kivel import __version__
from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.making.work import RecipeTask
from kivel.recipe.build_state import BuildState, Record
from kivel.recipe.performing import Done, Job, perform, step_folder
from kivel.recipe.stamps import UNKNOWN, Stamp, Stamps, are_untouched, files_of, seen_again, stamp_of
from kivel.recipe.step_store import StepStore, step_key
from kivel.recipe.task import Task
from kivel.recipe.workers import Workers

__all__ = ["Outcome", "Runner", "reasons", "said_in_full"]


class Outcome(NamedTuple):
    """Holds what became of a task: `built`, `up to date`, `failed`, `skipped` after a failure; in a dry run `out of
    date`.

    One that is `restored` was taken from the store.
    """

    task: Task
    state: str
    reasons: tuple[str, ...] = ()
    files: tuple[str, ...] = ()
    changed: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    error: str | None = None
    restored: bool = False


def said_in_full(task: Task) -> dict[str, Any]:
    """All that decides what a task makes, but for its files."""
    return {"command": task.command, "said": task.said, "retimes": list(task.retimes)}


def reasons(task: Task, record: Record | None, stamps: Stamps, inputs: Sequence[str]) -> Iterator[str]:
    """Why a task has to be done, in words; nothing where all is as before."""
    if record is None:
        yield "never built"
        return
    full = said_in_full(task)
    if record.version != __version__:
        yield f"built with version {record.version}"
    if record.said != full:
        yield from _said_otherwise(full, record.said)
    known = record.inputs
    for path in inputs:
        stamp = stamps.of(path)
        if path not in known:
            yield f"{path} is new"
        elif stamp.digest != known[path].digest:
            yield f"{path} {'changed' if stamp.digest else 'is gone'}"
    present = set(inputs)
    yield from (f"{path} is gone" for path in known if path not in present)
    for path, stamp in record.outputs.items():
        found = stamps.of(path)
        if found.digest != stamp.digest:
            yield f"{path}, an output, {'was changed' if found.digest else 'is gone'}"


def _extra(task: Task, outputs: Mapping[str, Stamp]) -> Iterator[str]:
    """Files among a step's frames that it did not make: others would take them for frames."""
    if task.step:
        folder = task.said["out"][0]
        known = {os.path.basename(path) for path in outputs}
        try:
            names = os.listdir(folder)
        except OSError:
            return  # it is made again, for what it made is gone
        yield from (f"{folder}/{name} is not one of its files" for name in names if name not in known)


def _said_otherwise(now: Mapping[str, Any], before: Mapping[str, Any]) -> Iterator[str]:
    if now["command"] != before.get("command"):
        yield f"it was made by {before.get('command')}"
        return
    old, new = before.get("said", {}), now["said"]
    for name in sorted({*old, *new}):
        if old.get(name) != new.get(name):
            yield f"{name} was {_told(old.get(name))}, is {_told(new.get(name))}"
    if now["retimes"] != before.get("retimes"):
        yield "its retime options changed"


def _told(texts: Sequence[str] | None) -> str:
    return "not given" if texts is None else ", ".join(texts)


def _told_lost(error: Exception) -> str:
    if isinstance(error, BrokenExecutor) or type(error).__name__ == "KilledWorker":
        return "its process was killed twice; it may need more memory"
    if isinstance(error, MemoryError):
        return "not enough memory, twice; try fewer jobs or smaller frames"
    return f"failed twice because of a bug in Kivel, please report it: {type(error).__name__}: {error}"


class _Begun(NamedTuple):
    task: Task
    why: tuple[str, ...]
    stamps: dict[str, Stamp]


def _key(begun: _Begun) -> str:
    digests = {path: stamp.digest for path, stamp in begun.stamps.items()}
    return step_key(said_in_full(begun.task), __version__, digests)


class Runner:
    """Does tasks with workers, or without them in this process.

    A task whose worker ends before it is done costs itself alone: it is done once more, with nothing beside it, so that
    one that fails twice is known by name.

    Parameters
    ----------
    recipe : str
        The recipe's name, as seen from its folder.
    exporters : frozenset
        The names of all its tasks that write into packs, done now or not.
    workers : Workers or None
        Who does what can be done at the same time.
    told : callable
        Is given each outcome as it comes.
    """

    def __init__(
        self,
        folder: str,
        state: BuildState,
        stamps: Stamps,
        workers: Workers | None,
        *,
        store: StepStore,
        recipe: str,
        exporters: frozenset[str],
        more: Mapping[str, Any],
        remake: bool = False,
        dry_run: bool = False,
        keep_going: bool = False,
        told: Callable[[Outcome], object] = lambda _outcome: None,
    ) -> None:
        self._folder = folder
        self._state = state
        self._stamps = stamps
        self._workers = workers
        self._store = store
        self._recipe = recipe
        self._exporters = exporters
        self._more = more
        self._remake = remake
        self._dry_run = dry_run
        self._keep_going = keep_going
        self._told = told
        self._outcomes: dict[str, Outcome] = {}
        self._running: dict[Future[Done], _Begun] = {}
        self._finished: SimpleQueue[Future[Done]] = SimpleQueue()
        self._ready: deque[Task] = deque()
        self._waits_for: dict[str, int] = {}
        self._followers: dict[str, list[Task]] = {}
        self._again: list[_Begun] = []
        self._tried: set[str] = set()
        self._stopped = False

    def run(self, tasks: Sequence[Task]) -> dict[str, Outcome]:
        """Do them; each follows those that it needs."""
        for task in tasks:
            self._waits_for[task.name] = len(task.needs)
            for name in task.needs:
                self._followers.setdefault(name, []).append(task)
        self._ready.extend(task for task in tasks if not task.needs)
        while self._ready or self._running or self._again:
            if self._again:
                self._once_more()
                continue
            self._start_what_is_ready()
            if self._running:
                self._finish_one()
        assert len(self._outcomes) == len(tasks), "some depend on each other"
        return self._outcomes

    def _start_what_is_ready(self) -> None:
        last = None
        while self._ready:
            begun = self._begun(self._ready.popleft())
            if begun is not None:
                if last is not None:
                    self._start(last)
                last = begun
        if last is not None:
            # other processes are for what can be done at the same time
            self._start(last, here=not self._running and not (self._workers and self._workers.elsewhere))

    def _once_more(self) -> None:
        """Return what was lost, one after the other, when nothing else is going on."""
        while self._running:
            self._finish_one()
        self._start(self._again.pop(0))
        while self._running:
            self._finish_one()

    def _begun(self, task: Task) -> _Begun | None:
        """Why a task is to be done, with the stamps of what it reads; None where it has come to an end already."""
        needed = [self._outcomes[name] for name in task.needs]
        failed = [one.task.name for one in needed if one.state in ("failed", "skipped")]
        if failed:
            self._end(Outcome(task, "skipped", (f"{failed[0]} failed before it",)))
            return None
        record = self._state.records.get(task.name)
        outputs = record.outputs if record else {}
        inputs = [
            path for path in dict.fromkeys(f for read in task.reads for f in files_of(read)) if path not in outputs
        ]
        why = (
            ("--remake builds everything",) if self._remake else tuple(reasons(task, record, self._stamps, inputs))
        ) or tuple(_extra(task, outputs))
        if self._dry_run:
            follows = any(one.state == "out of date" for one in needed)
            why = why or (("its sources will be rebuilt",) if follows else ())
            self._end(Outcome(task, "out of date" if why else "up to date", why))
            return None
        if not why:
            self._remember(task, inputs)
            self._end(Outcome(task, "up to date", files=tuple(outputs)))
            return None
        if self._stopped:
            self._end(Outcome(task, "skipped", ("another failed",)))
            return None
        return _Begun(task, why, {path: self._stamps.of(path) for path in inputs})

    def _remember(self, task: Task, inputs: Sequence[str]) -> None:
        """Where files have other times and the same bytes: the next build need not read them again."""
        if not self._stamps.has_news:
            return
        record = self._state.records[task.name]
        now, then = ({path: self._stamps.of(path) for path in paths} for paths in (inputs, record.outputs))
        if now != record.inputs or then != record.outputs:
            self._state.done(task.name, record.said, now, then)

    def _start(self, begun: _Begun, *, here: bool = False) -> None:
        task = begun.task
        if task.step and not self._remake and self._restored(begun):
            return
        record = self._state.records.get(task.name)
        made = record.outputs if record else {}
        ours = tuple(path for path, stamp in made.items() if self._stamps.of(path).digest == stamp.digest)
        of = RecipeTask(self._recipe, task.name, self._exporters)
        job = Job(self._folder, task, self._more, of, ours)
        if here or self._workers is None:
            self._take(begun, perform(job))
            return
        try:
            future = self._workers.executor().submit(perform, job)
        except BrokenExecutor:
            self._workers.renew()
            future = self._workers.executor().submit(perform, job)
        self._running[future] = begun
        future.add_done_callback(self._finished.put)

    def _restored(self, begun: _Begun) -> bool:
        """Whether a step's frames were kept, and are there again."""
        folder = step_folder(begun.task)
        names = self._store.restore(_key(begun), folder)
        if names is None:
            return False
        paths = [(folder.path / name).as_posix() for name in names]
        self._take(begun, Done({path: stamp_of(path) for path in paths}, restored=True))
        return True

    def _finish_one(self) -> None:
        future = self._finished.get()
        begun = self._running.pop(future)
        try:
            done = future.result()
        except CancelledError as error:
            raise KivelError("the cluster is gone; finished steps are kept, so run it again") from error
        except Exception as error:
            self._lost(begun, error)
        else:
            self._take(begun, done)

    def _lost(self, begun: _Begun, error: Exception) -> None:
        """Its worker ended, or ran into what nobody foresaw; perhaps by another task that it had at the same time."""
        name = begun.task.name
        if name in self._tried:
            self._take(begun, Done({}, error=_told_lost(error)))
        else:
            self._tried.add(name)
            self._again.append(begun)

    def _take(self, begun: _Begun, done: Done) -> None:
        task, why, stamps = begun
        unseen = [path for path in done.files if not os.path.lexists(path)]
        if unseen:
            done = Done(
                {},
                error=f"{unseen[0]} was written, but not in a folder that this machine sees; all need a shared folder",
            )
        if done.error is not None:
            self._stopped = not self._keep_going
            self._end(Outcome(task, "failed", why, notes=done.notes, error=done.error))
            return
        record = self._state.records.get(task.name)
        self._stamps.forget(record.outputs if record else ())
        saved = {path for path, stamp in stamps.items() if path not in done.files and not are_untouched({path: stamp})}
        # of what was saved meanwhile nobody knows which it was made of; the next build makes it of what is there then
        stamps = {path: UNKNOWN if path in saved else stamp for path, stamp in stamps.items()}
        if task.step and not done.restored and not saved and not self._remake:
            folder = step_folder(task)
            self._store.keep(_key(begun), folder, [os.path.basename(path) for path in done.files])
            # a second name changes when a file was changed, not what is in it
            done = done._replace(files={path: seen_again(path, stamp) for path, stamp in done.files.items()})
        self._stamps.learn(done.files)
        self._state.done(task.name, said_in_full(task), stamps, done.files)
        self._end(Outcome(task, "built", why, tuple(done.files), done.changed, done.notes, restored=done.restored))

    def _end(self, outcome: Outcome) -> None:
        self._outcomes[outcome.task.name] = outcome
        for task in self._followers.get(outcome.task.name, ()):
            self._waits_for[task.name] -= 1
            if not self._waits_for[task.name]:
                self._ready.append(task)
        self._told(outcome)
