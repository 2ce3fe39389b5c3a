"""Processes that do calls, begun afresh: they load nothing of the program that asks for them.

For where a copy of this process is not safe, since it has threads, may have no children by `multiprocessing`, or cannot
be copied at all. `multiprocessing`'s own fresh processes load the main program again, which without a guard would do
its work in each of them.
"""

from __future__ import annotations

import os
import pickle
import queue
import struct
import subprocess
import sys
import threading
from collections.abc import Callable
from concurrent.futures import BrokenExecutor, Executor, Future
from typing import IO, Any

from kivel.files.processes import ends_with

__all__ = ["Subprocesses", "serve"]

_LENGTH = struct.Struct("<Q")
_SERVE = "import sys; sys.path[:] = {path!r}; from kivel.recipe.subprocesses import serve; serve()"


class Subprocesses(Executor):
    """An executor of this many processes, each begun when it is first needed. One that dies costs its call alone."""

    def __init__(self, count: int) -> None:
        self._calls: queue.SimpleQueue[_Call | None] = queue.SimpleQueue()
        self._threads = [threading.Thread(target=self._work, daemon=True) for _ in range(count)]
        for thread in self._threads:
            thread.start()

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        call = _Call(fn, args, kwargs)
        self._calls.put(call)
        return call.future

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        if cancel_futures:
            self._cancel()
        for _ in self._threads:
            self._calls.put(None)
        for thread in self._threads if wait else ():
            thread.join()

    def _cancel(self) -> None:
        while True:
            try:
                call = self._calls.get_nowait()
            except queue.Empty:
                return
            if call is not None:
                call.future.cancel()

    def _work(self) -> None:
        child: subprocess.Popen[bytes] | None = None
        try:
            while (call := self._calls.get()) is not None:
                if not call.future.set_running_or_notify_cancel():
                    continue
                child = child or _begun()
                try:
                    call.end(_answer(child, call))
                except (OSError, EOFError) as error:
                    child.kill()
                    child.wait()
                    child = None
                    call.future.set_exception(BrokenExecutor(f"its process ended: {error}"))
                except Exception as error:  # what cannot be sent there
                    call.future.set_exception(error)
        finally:
            if child is not None:
                _end(child)


class _Call:
    def __init__(self, function: Callable[..., Any], args: tuple[Any, ...], more: dict[str, Any]) -> None:
        self.what = (function, args, more)
        self.future: Future[Any] = Future()

    def end(self, answer: tuple[bool, Any]) -> None:
        is_result, value = answer
        if is_result:
            self.future.set_result(value)
        else:
            self.future.set_exception(value)


def _begun() -> subprocess.Popen[bytes]:
    words = [sys.executable, "-c", _SERVE.format(path=sys.path)]
    return subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE)


def _end(child: subprocess.Popen[bytes]) -> None:
    assert child.stdin
    assert child.stdout
    try:
        child.stdin.close()
    except OSError:
        child.kill()
    child.stdout.close()
    child.wait()


def _answer(child: subprocess.Popen[bytes], call: _Call) -> tuple[bool, Any]:
    assert child.stdin
    assert child.stdout
    _send(child.stdin, pickle.dumps(call.what))
    answer: tuple[bool, Any] = pickle.loads(_received(child.stdout))
    return answer


def _send(stream: IO[bytes], data: bytes) -> None:
    stream.write(_LENGTH.pack(len(data)) + data)
    stream.flush()


def _received(stream: IO[bytes]) -> bytes:
    head = stream.read(_LENGTH.size)
    if len(head) < _LENGTH.size:
        raise EOFError("no more messages")
    (length,) = _LENGTH.unpack(head)
    data = stream.read(length)
    if len(data) < length:
        raise EOFError("it ended in the middle of an answer")
    return data


def serve() -> None:
    """Do calls from standard input, one after the other, until it ends."""
    ends_with(os.getppid())
    calls, answers = open(os.dup(0), "rb"), open(os.dup(1), "wb")  # noqa: SIM115 - until the process ends
    os.dup2(2, 1)  # what a library prints is no answer
    while True:
        try:
            function, args, more = pickle.loads(_received(calls))
        except EOFError:
            return
        try:
            answer = (True, function(*args, **more))
        except Exception as error:
            answer = (False, error)
        try:
            data = pickle.dumps(answer)
        except Exception as error:
            data = pickle.dumps((False, RuntimeError(f"{type(error).__name__}: {error}")))
        _send(answers, data)
