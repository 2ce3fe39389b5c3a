"""Builds: what a recipe says, made as far as it changed."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator, Mapping, Sequence
from fnmatch import fnmatchcase
from pathlib import Path
from typing import TYPE_CHECKING, Any, Self

from kivel.core.errors import KivelError, UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.suggestions import did_you_mean
from kivel.core.wording import counted
from kivel.files.locks import locked
from kivel.files.own_folder import OwnFolder
from kivel.files.own_state import state_key
from kivel.recipe.build_options import BuildOptions
from kivel.recipe.build_state import BuildState
from kivel.recipe.kept_plan import planned
from kivel.recipe.runner import Outcome, Runner
from kivel.recipe.stamps import Stamps, stamp_of
from kivel.recipe.state_folder import made_state, own_state, removed_state
from kivel.recipe.task import STORE

if TYPE_CHECKING:
    from kivel.files.output_set import Written
    from kivel.files.own_folder import OwnFolder
    from kivel.making.work import Work
    from kivel.recipe.kept_plan import Plan
    from kivel.recipe.runner import Outcome
    from kivel.recipe.task import Task
    from kivel.recipe.workers import Workers

__all__ = ["BuildError", "BuildMade", "make_build"]

_PATIENCE_S = 86_400.0


class BuildMade(NamedTuple):
    """Holds what became of each task, in order; files that are no longer made; what a person should know."""

    outcomes: tuple[Outcome, ...]
    leftover: tuple[str, ...]
    removed: tuple[str, ...]
    notes: tuple[str, ...]
    files: tuple[Written, ...] = ()
    schema: dict[str, Any] | None = None

    @property
    def failed(self) -> bool:
        return any(one.state in ("failed", "skipped") for one in self.outcomes)


class BuildError(KivelError):
    """Some of it could not be built. `made` says what became of each task, `failed` are those that failed.

    Each of them has its `task`, with the `line` of the recipe where it is, and its `error`.
    """

    def __init__(self, made: BuildMade, *, where: str | None = None) -> None:
        self.made = made
        self.failed = tuple(one for one in made.outcomes if one.error is not None)
        told = [f"{one.task.line}: {one.error}" for one in self.failed]
        more = f"; and {counted(len(told) - 5, 'other task')} failed" if len(told) > 5 else ""
        super().__init__("; ".join(told[:5]) + more, where=where)

    def at(self, where: str) -> Self:  # noqa: ARG002 - each task knows its line
        return self


def make_build(options: BuildOptions, work: Work) -> BuildMade:
    """Build a recipe.

    Raises
    ------
    KivelError
        What the recipe does not allow, before anything is made.
    BuildError
        From Python, if a task fails while it is made; the command tells it as an outcome.
    """
    path = Path(options.file)
    if options.schema:
        from kivel.recipe.recipe_schema import recipe_schema

        return BuildMade((), (), (), (), schema=recipe_schema())
    if options.init:
        from kivel.recipe.first_recipe import first_recipe

        return BuildMade((), (), (), (), _texts(options, work, {path: first_recipe(path.parent)}))
    if not path.is_file():
        raise UsageError(f"{options.file} not found; choose the recipe with {option('file')}")
    folder = path.parent
    if options.clean:
        return _cleaned(folder, work)
    looks_only = options.dry_run or options.why is not None or options.list or options.ninja is not None
    state = own_state(folder, work.note) if looks_only else made_state(folder, work.note)
    plan = planned(path, state)
    chosen = _chosen(plan.tasks, (options.why,) if options.why else options.things)
    if options.list:
        return BuildMade(tuple(Outcome(task, "listed", files=task.writes) for task in chosen), (), (), ())
    texts = [os.path.relpath(text, folder) for text in plan.texts]
    if options.ninja:
        text = _for_ninja(options.ninja, path, plan, chosen, texts)
        return BuildMade((), (), (), (), _texts(options, work, {Path(options.ninja): text}))
    # what they are relative to is where the build was asked for
    depfile = _Depfile.asked(options, folder, texts)
    with contextlib.chdir(folder), _alone(looks_only=looks_only):
        made, digests, inputs = _built(options, work, plan, chosen, state and OwnFolder(Path(STORE)))
        if made.failed and options.door == "python":
            raise BuildError(made)
        if made.failed or options.dry_run or options.why:
            return made
        made = made._replace(files=_told_to_others(options, work, path.name, depfile, digests, inputs))
    if options.depfile:
        os.utime(options.depfile)  # it says when this was built, whether or not anything came out otherwise
    return made


def _for_ninja(ninja: str, path: Path, plan: Plan, chosen: Sequence[Task], texts: Sequence[str]) -> str:
    from kivel.recipe.other_builders import ninja_text  # few builds are handed to others

    globs = [os.path.relpath(pattern, path.parent) for pattern in plan.globs]
    ninja = os.path.relpath(ninja, path.parent)
    with contextlib.chdir(path.parent):
        return ninja_text(chosen, path.name, ninja, texts=texts, globs=globs)


class _Depfile(NamedTuple):
    """The file that is asked for, as named there, and what it says, as seen from where the build was asked for.

    `texts` are the files of the recipe, as seen from its folder, which is `base`.
    """

    path: Path
    name: str
    base: str
    texts: tuple[str, ...]

    @classmethod
    def asked(cls, options: BuildOptions, folder: Path, texts: Sequence[str]) -> Self | None:
        if not options.depfile:
            return None
        return cls(Path(options.depfile).absolute(), options.depfile, os.path.relpath(folder), tuple(texts))

    def seen(self, path: str) -> str:
        return path if self.base == "." or os.path.isabs(path) else os.path.normpath(os.path.join(self.base, path))


def _built(
    options: BuildOptions, work: Work, plan: Plan, chosen: Sequence[Task], folder: OwnFolder | None
) -> tuple[BuildMade, dict[str, str], list[str]]:
    """Return what came of it; the digests of all that is for the user, and all that was read."""
    from kivel.recipe.step_store import StepStore

    dry_run = options.dry_run or options.why is not None
    state = BuildState(folder, Path(options.file).name)
    store = StepStore(OwnFolder(Path(STORE), ("store",)))
    known = {
        path: stamp for one in state.records.values() for path, stamp in (*one.inputs.items(), *one.outputs.items())
    }
    stamps = Stamps(known, state.looked_ns, verify=options.verify)
    outcomes: list[Outcome] = []
    with _workers(options, len(chosen), work) as workers, work.progress("making", len(chosen)) as advance:

        def told(outcome: Outcome) -> None:
            outcomes.append(outcome)
            if outcome.state == "built" and not outcome.task.step:
                work.placed(_placed(outcome))
            work.note(*(f"{outcome.task.name}: {note}" for note in outcome.notes))
            advance()

        more: dict[str, Any] = {"force": True} if options.force else {}
        if options.max_pixels:
            more["max-pixels"] = str(options.max_pixels)
        if workers is not None or options.jobs == 1:
            more["jobs"] = "1"
        exporters = frozenset(task.name for task in plan.tasks if task.fills_a_pack)
        runner = Runner(
            str(Path.cwd()), state, stamps, workers, store=store, recipe=Path(options.file).name, exporters=exporters,
            more=more, remake=options.remake, dry_run=dry_run, keep_going=options.keep_going, told=told,
        )  # fmt: skip
        runner.run(chosen)
    leftover, removed = _leftover(options, state, plan.tasks, dry_run=dry_run)
    if not dry_run:
        state.tidy()
        if any(one.state == "built" and one.task.step for one in outcomes):
            store.shrink(plan.store_bytes)
    order = {task.name: number for number, task in enumerate(chosen)}
    outcomes.sort(key=lambda one: order[one.task.name])
    made = BuildMade(tuple(outcomes), tuple(leftover), tuple(removed), tuple(work.notes))
    return made, *_digests_and_inputs(options, state, chosen)


def _digests_and_inputs(
    options: BuildOptions, state: BuildState, chosen: Sequence[Task]
) -> tuple[dict[str, str], list[str]]:
    """The digests of what is for the user, of the things that were asked for, and what these were made of."""
    # asking for one thing makes its sources as well, which were not asked for
    own = [task for task in chosen if not options.things or any(fnmatchcase(task.thing, one) for one in options.things)]
    records = [state.records[task.name] for task in own if task.name in state.records]
    made = {path for one in records for path in one.outputs}
    inputs = [path for one in records for path in one.inputs if path not in made]
    if options.depfile:
        from kivel.recipe.other_builders import folders_of

        inputs += folders_of([read for task in own for read in task.reads], made)
    digests = {path: stamp.digest for one in records for path, stamp in one.outputs.items()}
    digests = {path: digest for path, digest in digests.items() if not path.startswith(f"{STORE}/")}
    return digests, inputs


def _placed(outcome: Outcome) -> list[Written]:
    """Return what an interrupt finds in place."""
    from kivel.files.output_set import Written

    return [Written(Path(path), "replaced", 0) for path in outcome.changed]


def _told_to_others(
    options: BuildOptions,
    work: Work,
    recipe: str,
    depfile: _Depfile | None,
    digests: Mapping[str, str],
    inputs: Sequence[str],
) -> tuple[Written, ...]:
    """The files that say what a build was: for other builders, and for later."""
    if not (depfile or options.lock or options.frozen):
        return ()
    from kivel.recipe.lock_file import lock_path, lock_text, require_as_locked
    from kivel.recipe.other_builders import depfile_text

    if options.lock or options.frozen:  # of what is there, whatever was there when it was made
        digests = {path: stamp_of(path).digest for path in digests}
    found = {}
    if depfile:
        found[depfile.path] = depfile_text(depfile.name, map(depfile.seen, [*inputs, *depfile.texts]))
    if options.lock:
        found[lock_path(Path(recipe))] = lock_text(digests)
    if options.frozen:
        require_as_locked(lock_path(Path(recipe)), digests)
    return _texts(options, work, found)


def _texts(options: BuildOptions, work: Work, texts: Mapping[Path, str]) -> tuple[Written, ...]:
    """Files that are made of the recipe alone are replaced; a recipe is somebody's own."""
    if not texts:
        return ()  # what writes files takes longer to load than to see that nothing changed
    with options.output_set(work, with_manifest=False) as out:
        for path, text in texts.items():
            if not options.init:
                out.may_replace(path)
            out.add(path, [os.fsencode(text)])  # a name that is not UTF-8 is written as the bytes that it is
    return tuple(out.written)


def _chosen(tasks: Sequence[Task], patterns: Sequence[str]) -> list[Task]:
    """The tasks of things that are named, and all that these need."""
    if not patterns:
        return list(tasks)
    things = dict.fromkeys(task.thing for task in tasks)
    for pattern in patterns:
        if not any(fnmatchcase(thing, pattern) for thing in things):
            meant = did_you_mean(pattern, things, otherwise=f"there are {', '.join(things) or 'none'}")
            raise UsageError(f"nothing in the recipe is called {pattern}{meant}")
    wanted = {task.name for task in tasks if any(fnmatchcase(task.thing, pattern) for pattern in patterns)}
    for task in reversed(tasks):
        if task.name in wanted:
            wanted.update(task.needs)
    return [task for task in tasks if task.name in wanted]


def _leftover(
    options: BuildOptions, state: Any, tasks: Sequence[Task], *, dry_run: bool
) -> tuple[list[str], list[str]]:
    """Files of tasks that the recipe no longer has; removed if that is asked for, and nobody has changed them."""
    names = {task.name for task in tasks}
    made = {path for name, record in state.records.items() if name in names for path in record.outputs}
    leftover, removed = [], []
    fresh = Stamps({}, 0)
    for name in [name for name in state.records if name not in names]:
        record = state.records[name]
        kept = [path for path in record.outputs if path not in made and os.path.lexists(path)]
        if options.prune and not dry_run:
            as_made = [path for path in kept if fresh.of(path).digest == record.outputs[path].digest]
            # what a state that came from elsewhere says is not enough to remove what lies outside
            here = os.path.realpath(os.curdir) + os.sep
            for path in [path for path in as_made if os.path.realpath(path).startswith(here)]:
                os.unlink(path)
                removed.append(path)
                kept.remove(path)
        if not kept and not dry_run:
            state.drop(name)
        leftover += kept
    return leftover, removed


@contextlib.contextmanager
def _workers(options: BuildOptions, tasks: int, work: Work) -> Iterator[Workers | None]:
    """Who does what can be done at the same time; nobody, where nothing can."""
    if options.dry_run or options.why or not tasks or (not options.cluster and min(options.threads, tasks) < 2):
        yield None
        return
    from kivel.recipe.workers import Cluster, Processes

    if options.cluster:
        cluster = Cluster(options.cluster)
        idle = sum(cluster.threads.values()) - len(cluster.threads)
        if idle:
            work.note(f"{counted(idle, 'thread')} of its workers will be idle: start workers with --nthreads 1")
    workers = cluster if options.cluster else Processes(min(options.threads, tasks))
    try:
        yield workers
    finally:
        workers.close()


@contextlib.contextmanager
def _alone(*, looks_only: bool) -> Iterator[None]:
    """Two builds of one folder wait for each other; one that only looks need not."""
    if looks_only:
        yield
        return
    busy = KivelError("is locked by another build that has been running for a day; stop that one", where=STORE)
    try:
        with locked([Path(STORE, "lock")], patience_s=_PATIENCE_S, busy=lambda _path: busy):
            yield
    finally:
        if state_key().lacks:
            removed_state(Path())


def _cleaned(folder: Path, work: Work) -> BuildMade:
    if removed_state(folder):
        work.note(f"{(folder / STORE).as_posix()} was removed; the next build will build everything")
    return BuildMade((), (), (), tuple(work.notes))
