"""Work spread over processes, its results in order: for what computes on small arrays, where threads only wait for each
other."""

from __future__ import annotations

import os
import signal
import sys
import threading
from collections.abc import Callable, Iterator, Sequence
from typing import Any, TypeVar

from kivel.files.threads import in_order

__all__ = ["ends_with", "in_processes"]

Item = TypeVar("Item")
Result = TypeVar("Result")

_END_WITH_PARENT = 1
"""PR_SET_PDEATHSIG of Linux."""
_calls: list[tuple[Callable[[Any], Any], Sequence[Any]]] = []
"""Says what is being worked on: copies of this process have it, so that nothing but results is sent around."""


def in_processes(function: Callable[[Item], Result], items: Sequence[Item], *, jobs: int) -> Iterator[Result]:
    """`map` on `jobs` copies of this process, where such are safe, else on as many threads.

    A copy sees all as it is now; what the function changes there is lost but for what it gives back. One that dies, as
    where memory runs out, is done without: the rest is worked on here.
    """
    jobs = min(jobs, len(items))
    if jobs < 2 or sys.platform != "linux" or threading.active_count() > 1:
        yield from in_order(function, items, jobs=max(jobs, 1))
        return
    from concurrent.futures import ProcessPoolExecutor
    from concurrent.futures.process import BrokenProcessPool
    from multiprocessing import get_context

    _calls.append((function, items))
    pool = ProcessPoolExecutor(jobs, mp_context=get_context("fork"), initializer=ends_with, initargs=(os.getpid(),))
    done = 0
    try:
        for result in pool.map(_called, range(len(items))):
            yield result
            done += 1
    except BrokenProcessPool:
        yield from map(function, items[done:])
    finally:
        _calls.pop()
        pool.shutdown(cancel_futures=True)


def _called(place: int) -> Any:
    function, items = _calls[-1]
    return function(items[place])


def ends_with(parent: int) -> None:
    """Have this process end when the one that began it does, however that ends; interrupts are for that one alone.

    Told to end it ends: a handler that raises, as that one's does, would leave it to wait for more work for ever.
    """
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    for name in ("SIGINT", "SIGHUP"):
        if hasattr(signal, name):
            signal.signal(getattr(signal, name), signal.SIG_IGN)
    if sys.platform == "linux":
        import ctypes

        ctypes.CDLL(None).prctl(_END_WITH_PARENT, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(1)
