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
from queue import SimpleQueue
from typing import Generic, TypeVar

__all__ = ["default_jobs", "in_order", "uninterrupted"]

Item = TypeVar("Item")
Result = TypeVar("Result")

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
    tasks: SimpleQueue[_Task[Result] | None] = SimpleQueue()
    # daemons: an interrupt in the main thread does not wait for them
    # what holds for this thread holds for those that work for it; each call has a copy, for they run side by side
    here = copy_context()
    threads = [threading.Thread(target=_work, args=(tasks,), daemon=True) for _ in range(jobs)]
    for thread in threads:
        thread.start()
    waiting: deque[_Task[Result]] = deque()
    try:
        for item in items:
            waiting.append(_Task(lambda item=item: here.copy().run(function, item)))  # type: ignore[misc]
            tasks.put(waiting[-1])
            # results are whole frames; without this a slow writer would let all of them pile up
            if len(waiting) >= _AHEAD * jobs:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()
    finally:
        for task in waiting:
            task.dropped = True
        for _ in threads:
            tasks.put(None)
        for thread in threads:
            thread.join()


class _Task(Generic[Result]):
    """A call that some thread makes, and what came of it."""

    def __init__(self, call: Callable[[], Result]) -> None:
        self.dropped = False
        self._call = call
        self._done = threading.Lock()
        self._done.acquire()
        self._results: list[Result] = []
        self._error: BaseException | None = None

    def run(self) -> None:
        try:
            if not self.dropped:
                self._results.append(self._call())
        except BaseException as error:  # raised again where the result is asked for
            self._error = error
        finally:
            self._done.release()

    def result(self) -> Result:
        self._done.acquire()
        if self._error is not None:
            raise self._error
        return self._results.pop()


def _work(tasks: SimpleQueue[_Task[Result] | None]) -> None:
    while (task := tasks.get()) is not None:
        task.run()


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
