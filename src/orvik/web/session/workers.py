"""Heavy work in processes of their own, so that the live connection never waits for it."""

from __future__ import annotations

import asyncio
import contextlib
import multiprocessing
import multiprocessing.connection
import os
import resource
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any, ParamSpec, TypeVar

from orvik.core.errors import TookTooLong

P = ParamSpec("P")
T = TypeVar("T")
# So long a page waits for work, and for a file that somebody else has made; and so much memory that may take.
WORK_SECONDS, STRANGE_SECONDS = 300.0, 60.0
# A first look at a large project goes on beside the work; one that is ended would begin again at the next edit.
SURVEY_SECONDS = 1_800.0
STRANGE_BYTES = 6 * 1024**3


class Workers:
    """A few processes that step back when the live connection wants the processor."""

    def __init__(self, count: int = 2) -> None:
        # From a process that has the imports and nothing else: a new one is there in a moment. Neither of the two
        # GDALs is among them (rasterio has one, pyogrio the other): no process may load both.
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(
            [
                "orvik.web.session.survey_process",
                "orvik.web.session.jobs",
                "orvik.web.session.export_jobs",
                "orvik.usecases.export.export_run",
                "orvik.usecases.proof.marked_proof",
                "orvik.usecases.proof.returned",
                "orvik.usecases.proof.sheet_findings",
                "orvik.usecases.symbols.meeting_picture",
                "orvik.usecases.symbols.plate",
                "coloraide",
                "scipy.ndimage",
            ]
        )
        self._context = context
        self._pools = {
            "work": self._pool_of("work", count),
            # One process alone, so that what it remembers of a project is there the next time.
            "survey": self._pool_of("survey", 1),
            # What somebody else has made is opened where no page waits for it, with limits of memory and of time.
            "strangers": self._pool_of("strangers", 2),
        }
        self._counts = {"work": count, "survey": 1, "strangers": 2}

    def _pool_of(self, name: str, count: int) -> ProcessPoolExecutor:
        begin = _among_strangers if name == "strangers" else _step_back
        return ProcessPoolExecutor(count, mp_context=self._context, initializer=begin)

    async def run(self, function: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """A function of ``jobs``, or another that a new process can import, carried out in a worker.

        Raises
        ------
        TookTooLong
            It was not done within ``WORK_SECONDS``, and has been ended.
        """
        if kwargs:
            raise TypeError("give positional arguments")
        return await self._carried_out("work", function, args, WORK_SECONDS)

    async def open_strange(self, function: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """A function that reads a file which somebody else has made.

        Raises
        ------
        TookTooLong
            It was not done within ``STRANGE_SECONDS``, and has been ended; or it needed more than the memory it may
            have.
        """
        if kwargs:
            raise TypeError("give positional arguments")
        try:
            return await self._carried_out("strangers", function, args, STRANGE_SECONDS)
        except (BrokenProcessPool, MemoryError):
            raise TookTooLong("This file needs more memory than a file of its kind does; make it simpler.") from None

    async def survey(self, function: Callable[[Path], T], path: Path) -> T:
        """A function of ``survey_process`` on a project, carried out where its survey is kept."""
        return await self._carried_out("survey", function, (path,), SURVEY_SECONDS)

    async def _carried_out(self, name: str, function: Callable[..., T], args: tuple[Any, ...], seconds: float) -> T:
        loop = asyncio.get_running_loop()
        for again in (True, False):
            pool = self._pools[name]
            try:
                return await asyncio.wait_for(loop.run_in_executor(pool, function, *args), seconds)
            except TimeoutError:
                self._begin_anew(name, pool)
                raise TookTooLong(
                    f"This is not done after {seconds:g} s and was ended; make it smaller, or do it in parts."
                ) from None
            except BrokenProcessPool:
                # A worker was ended: from outside, for want of memory perhaps, or because another's work took too
                # long. Others begin anew, once for all who wait.
                self._begin_anew(name, pool)
                if not again:
                    raise
        raise AssertionError("the second time something is given or raised")

    def _begin_anew(self, name: str, pool: ProcessPoolExecutor) -> None:
        if self._pools[name] is pool:
            self._pools[name] = self._pool_of(name, self._counts[name])
        # What waits is not cancelled: it finds its pool broken, and is done in the new one.
        _ended(pool, waiting_too=False)

    async def warm(self) -> None:
        """Start the processes and their imports before they are needed."""
        await asyncio.gather(*(self.run(_ready) for _ in range(4)))

    def close(self) -> None:
        # A look at a large project, or its labels, may take long, and nobody waits for them any more.
        for pool in self._pools.values():
            _ended(pool, waiting_too=True)


def _ended(pool: ProcessPoolExecutor, *, waiting_too: bool) -> None:
    """End the processes of a pool, whatever they are at, and cancel what waits for them, too, if asked."""
    for process in list((pool._processes or {}).values()):
        process.kill()
    pool.shutdown(wait=False, cancel_futures=waiting_too)


def _among_strangers() -> None:
    """Step back, and have no more memory than a file that is what it says needs."""
    _step_back()
    with contextlib.suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_AS, (STRANGE_BYTES, STRANGE_BYTES))


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
