"""Who does tasks side by side: processes of this machine, or the workers of a Dask cluster."""

from __future__ import annotations

import os
import sys
import threading
from concurrent.futures import Executor
from typing import Any, Protocol

from kivel.core.errors import KivelError, UsageError, option
from kivel.core.wording import counted
from kivel.files.processes import ends_with

__all__ = ["Cluster", "Processes", "Workers"]

_ANSWER_S = 10


class Workers(Protocol):
    """An executor of `concurrent.futures`' form, begun when it is first needed.

    `elsewhere` says whether every task is for them, also one that could as well be done here.
    """

    elsewhere: bool

    def executor(self) -> Executor: ...

    def renew(self) -> None:
        """Begin others, where an executor is of no use any more once one of them has died."""

    def close(self) -> None:
        """Stop what has not started; return when what was begun has ended, or belongs to nobody."""


class Processes:
    """Processes of this machine, which end when this one does."""

    elsewhere = False

    def __init__(self, count: int) -> None:
        self._count = count
        self._pool: Executor | None = None

    def executor(self) -> Executor:
        if self._pool is None:
            self._pool = self._copies() if _may_be_copied() else self._fresh()
        return self._pool

    def _copies(self) -> Executor:
        """Copies of this process have loaded everything already."""
        from concurrent.futures import ProcessPoolExecutor
        from multiprocessing import get_context

        return ProcessPoolExecutor(
            self._count, mp_context=get_context("fork"), initializer=ends_with, initargs=(os.getpid(),)
        )

    def _fresh(self) -> Executor:
        from kivel.recipe.subprocesses import Subprocesses

        return Subprocesses(self._count)

    def renew(self) -> None:
        self.close()
        self._pool = None

    def close(self) -> None:
        if self._pool is not None:
            self._pool.shutdown(cancel_futures=True)


def _may_be_copied() -> bool:
    """Not where it has threads, is a worker itself, or on other systems."""
    from multiprocessing import current_process

    return sys.platform == "linux" and threading.active_count() == 1 and not current_process().daemon


class Cluster:
    """The workers of a Dask cluster, through its own client.

    Raises
    ------
    UsageError
        If the extra is not installed, or the address is none.
    KivelError
        If nobody answers there, or there is no worker.
    """

    elsewhere = True

    def __init__(self, address: str) -> None:
        try:
            import dask

            # its log is for those who run the cluster; what matters is noted as an outcome
            dask.config.set({"logging": {"distributed": "critical", "distributed.client": "critical"}})
            from distributed import Client
        except ImportError as error:
            raise UsageError(f"{option('cluster')} needs one more package; pip install 'kivel[dask]'") from error
        try:
            self._client: Any = Client(address, timeout=_ANSWER_S, set_as_default=False)
        except (OSError, TimeoutError) as error:
            raise KivelError(
                f"no Dask scheduler answers within {counted(_ANSWER_S, 'second')}; "
                "start one with 'dask scheduler', and workers with 'dask worker ADDRESS'",
                where=address,
            ) from error
        except (ValueError, TypeError, KeyError) as error:
            raise UsageError(
                f"{option('cluster')}: {address!r} is not an address; write it like tcp://host:8786"
            ) from error
        try:
            self.threads = self._threads(address)
        except BaseException:
            self._client.close()
            raise
        self._executor: Executor = self._client.get_executor(pure=False, retries=0)

    def _threads(self, address: str) -> dict[str, int]:
        """Return a value for each worker."""
        try:
            self._client.wait_for_workers(1, timeout=_ANSWER_S)
        except TimeoutError as error:
            raise KivelError(
                f"its scheduler has no workers; start some with 'dask worker {address} --nthreads 1'", where=address
            ) from error
        return dict(self._client.nthreads())

    def executor(self) -> Executor:
        return self._executor

    def renew(self) -> None:
        pass

    def close(self) -> None:
        self._executor.shutdown(wait=False)
        self._client.close()
