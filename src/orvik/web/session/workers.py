"""Heavy work in processes of their own, so that the live connection never waits for it."""

from __future__ import annotations

import asyncio
import multiprocessing
import multiprocessing.connection
import os
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import ParamSpec, TypeVar

P = ParamSpec("P")
T = TypeVar("T")


class Workers:
    """A few processes that step back when the live connection wants the processor."""

    def __init__(self, count: int = 2) -> None:
        # From a process that has the imports and nothing else: a new one is there in a moment.
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(
            [
                "orvik.web.session.survey_process",
                "orvik.web.session.jobs",
                "orvik.web.session.put_outs",
                "orvik.usecases.orders",
                "coloraide",
                "scipy.ndimage",
            ]
        )
        self._context = context
        self._count = count
        self._pool = self._process(count)
        # One process alone, so that what it remembers of a project is there the next time.
        self._survey_pool = self._process()

    def _process(self, count: int = 1) -> ProcessPoolExecutor:
        return ProcessPoolExecutor(count, mp_context=self._context, initializer=_step_back)

    async def run(self, function: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """A function of ``jobs``, or another that a new process can import, carried out in a worker."""
        loop = asyncio.get_running_loop()
        if kwargs:
            raise TypeError("give positional arguments")
        pool = self._pool
        try:
            return await loop.run_in_executor(pool, function, *args)
        except BrokenProcessPool:
            # A worker was ended from outside, for want of memory perhaps; others begin anew, once for all who wait.
            if self._pool is pool:
                self._pool = self._process(self._count)
            return await loop.run_in_executor(self._pool, function, *args)

    async def survey(self, function: Callable[[Path], T], path: Path) -> T:
        """A function of ``survey_process`` on a project, carried out where its survey is kept."""
        loop = asyncio.get_running_loop()
        pool = self._survey_pool
        try:
            return await loop.run_in_executor(pool, function, path)
        except BrokenProcessPool:
            # It was ended from outside, for want of memory perhaps; another one begins anew.
            if self._survey_pool is pool:
                self._survey_pool = self._process()
            return await loop.run_in_executor(self._survey_pool, function, path)

    async def warm(self) -> None:
        """Start the processes and their imports before they are needed."""
        await asyncio.gather(*(self.run(_ready) for _ in range(4)))

    def close(self) -> None:
        # A look at a large project, or its labels, may take long, and nobody waits for them any more.
        for pool in (self._pool, self._survey_pool):
            for process in list((pool._processes or {}).values()):
                process.terminate()
            pool.shutdown(cancel_futures=True)


def _step_back() -> None:
    os.nice(10)
    threading.Thread(target=_leave_with_parent, daemon=True).start()


def _leave_with_parent() -> None:
    """End this process when the application is gone, however it went."""
    parent = multiprocessing.parent_process()
    if parent is not None:
        multiprocessing.connection.wait([parent.sentinel])
        os._exit(1)


def _ready() -> bool:
    return True
