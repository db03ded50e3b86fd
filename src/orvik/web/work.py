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

from ..core.signs.portray import portray
from ..exchange import prints, raster, raster_files, tiling, underlays
from ..store import books
from ..store.project import Project
from .inkwire import packed

P = ParamSpec("P")
T = TypeVar("T")


class Workers:
    """A few processes that step back when the live connection wants the processor."""

    def __init__(self, count: int = 2) -> None:
        # From a process that has the imports and nothing else: a new one is there in a moment.
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(["orvik.web.surveyor", "orvik.web.work"])
        self._context = context
        self._count = count
        self._pool = self._process(count)
        # One process alone, so that what it remembers of a project is there the next time.
        self._surveyor = self._process()

    def _process(self, count: int = 1) -> ProcessPoolExecutor:
        return ProcessPoolExecutor(count, mp_context=self._context, initializer=_step_back)

    async def run(self, function: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """A function of this module, or another that a new process can import, carried out there."""
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

    async def ask_surveyor(self, function: Callable[[Path], T], path: Path) -> T:
        """A function of ``surveyor`` on a project, carried out where its survey is kept."""
        loop = asyncio.get_running_loop()
        surveyor = self._surveyor
        try:
            return await loop.run_in_executor(surveyor, function, path)
        except BrokenProcessPool:
            # It was ended from outside, for want of memory perhaps; another one begins anew.
            if self._surveyor is surveyor:
                self._surveyor = self._process()
            return await loop.run_in_executor(self._surveyor, function, path)

    async def warm(self) -> None:
        """Start the processes and their imports before they are needed."""
        await asyncio.gather(*(self.run(_ready) for _ in range(4)))

    def close(self) -> None:
        self._pool.shutdown(cancel_futures=True)
        # A look at a large project may take long, and nobody waits for it any more.
        for process in list((self._surveyor._processes or {}).values()):
            process.terminate()
        self._surveyor.shutdown(cancel_futures=True)


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
    return bool(prints) and bool(raster)


def map_ink(path: Path) -> bytes:
    """All of a project's ground ink, as of the revision it states."""
    project = Project.open(path, read_only=True)
    try:
        with project.snapshot():
            layers = portray(
                project.all_features(),
                books.book_of(project),
                project.units_by_code(),
                project.crs,
                project.scales.publication,
            )
            extent = project.extent() or (0.0, 0.0, 0.0, 0.0)
            origin = (round((extent[0] + extent[2]) / 2), round((extent[1] + extent[3]) / 2))
            return packed(layers, origin, project.revision)
    finally:
        project.close_reader()


def underlay_view(
    path: Path, source_id: int, window: tuple[float, float, float, float], width: int, height: int
) -> bytes | None:
    """A window of an underlay as PNG."""
    project = Project.open(path, read_only=True)
    try:
        return underlays.view(project, project.source(source_id), window, width, height)
    finally:
        project.close_reader()


def scan_picture(path: Path, source_id: int, box: tuple[float, float, float, float], width: int, height: int) -> bytes:
    """A part of a scan as it lies on the scanner, as PNG."""
    project = Project.open(path, read_only=True)
    try:
        file = tiling.best(raster_files.beside(path, project.source(source_id)["file"]))
        return raster.scan_view(file, box, width, height)
    finally:
        project.close_reader()


def height_of(path: Path, x: float, y: float) -> float | None:
    """The height at a place of a project in metres."""
    project = Project.open(path, read_only=True)
    try:
        return underlays.height_at(project, x, y)
    finally:
        project.close_reader()


def tile(file: Path) -> bool:
    """Make the tiled copy of a large picture."""
    return tiling.make(file)
