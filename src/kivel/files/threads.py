"""Work spread over threads, its results in order. The libraries that decode and deflate let other threads run.

Not `concurrent.futures`: importing that takes longer than reading a small sequence.
"""

from __future__ import annotations

import _thread
import os
import threading
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from contextvars import copy_context
from functools import partial
from queue import SimpleQueue
from typing import TypeVar

__all__ = ["default_jobs", "in_order", "uninterrupted"]

Item = TypeVar("Item")
Result = TypeVar("Result")

_Answer = SimpleQueue[tuple[Result | None, BaseException | None]]
"""Where the one answer of a call is put."""
_Task = tuple[Item, _Answer[Result]]

_AHEAD = 2


def default_jobs() -> int:
    """As many as this process may use processors."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def in_order(function: Callable[[Item], Result], items: Iterable[Item], *, jobs: int) -> Iterator[Result]:
    """`map` on `jobs` threads. At most twice as many results as jobs wait to be taken, so memory stays bounded.

    The first error is raised in its place; when the iterator is closed, work not yet begun is dropped.
    """
    if jobs == 1:
        yield from map(function, items)
        return
    tasks: SimpleQueue[_Task[Item, Result] | None] = SimpleQueue()
    given_up = threading.Event()
    # what holds for this thread holds for those that work for it; each call has a copy, for they run side by side
    here = copy_context()
    # daemons: an interrupt in the main thread does not wait for them
    work = partial(_work, lambda item: here.copy().run(function, item), tasks, given_up)
    threads = [threading.Thread(target=work, daemon=True) for _ in range(jobs)]
    for thread in threads:
        thread.start()
    waiting: deque[_Answer[Result]] = deque()
    try:
        for item in items:
            waiting.append(SimpleQueue())
            tasks.put((item, waiting[-1]))
            # results are whole frames; without this a slow writer would let all of them pile up
            if len(waiting) >= _AHEAD * jobs:
                yield _result(waiting.popleft())
        while waiting:
            yield _result(waiting.popleft())
    finally:
        given_up.set()
        for _ in threads:
            tasks.put(None)
        for thread in threads:
            thread.join()


def _work(
    call: Callable[[Item], Result], tasks: SimpleQueue[_Task[Item, Result] | None], given_up: threading.Event
) -> None:
    while (task := tasks.get()) is not None:
        item, answer = task
        if given_up.is_set():
            continue
        try:
            answer.put((call(item), None))
        except BaseException as error:  # raised again where the result is asked for
            answer.put((None, error))


def _result(answer: _Answer[Result]) -> Result:
    """Wait for a call to end; return what came of it, or raise what it raised."""
    result, error = answer.get()
    if error is not None:
        raise error
    return result  # type: ignore[return-value]  # None may be a result as well


def uninterrupted(call: Callable[[], object]) -> None:
    """Make a call that an interrupt must not cut in two; the interrupt is raised when the call is over.

    It runs in a thread of its own, since interrupts are raised in the main one; no handler is set, so whoever uses
    Kivel from Python keeps theirs.
    """
    once, done = threading.Lock(), threading.Event()
    here = copy_context()
    errors: list[BaseException] = []
    interrupt: BaseException | None = None

    def run() -> None:
        if not once.acquire(blocking=False):
            return
        try:
            here.run(call)
        except BaseException as error:  # raised again below
            errors.append(error)
        finally:
            done.set()

    while not done.is_set():
        try:
            # an interrupt may come before the thread has begun: a second one finds the first, or takes its place
            _thread.start_new_thread(run, ())
            done.wait()
        except BaseException as error:
            interrupt = error
    if errors:
        raise errors[0]
    if interrupt:
        raise interrupt
