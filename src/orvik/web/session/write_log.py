"""When what was written moves from SQLite's write-ahead log into the project's file, so that a copy of it is whole."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable, Coroutine
from typing import Any, Protocol, TypeVar

from orvik.store.project import Project

# After so long without a change, all is moved.
REST_SECONDS = 3.0
# While people work, the log moves into the file as often as this, or when it has grown so long.
WORKING_SECONDS = 20.0
WORKING_BYTES = 16_000_000
# How long the log may be held up before that is told, in seconds.
HELD_SECONDS = 60.0
HELD = (
    "Another program has been reading this project for more than a minute: all is saved, but a copy of its file alone "
    "would lack what was saved since. Close that program, or export the project as an archive."
)
T = TypeVar("T")


class Write(Protocol):
    """Carries something out in the thread that writes."""

    async def __call__(self, work: Callable[[], T]) -> T: ...


class WriteLog:
    """The write-ahead log of one project, moved when nobody waits for it. All methods run on the event loop.

    Parameters
    ----------
    project
        The project whose log it is.
    write
        Carries something out in the thread that writes.
    beside
        Carries something out beside all else, and holds it until it is done.
    tell
        Called when `held` has changed.
    """

    def __init__(
        self,
        project: Project,
        write: Write,
        beside: Callable[[Coroutine[Any, Any, None]], None],
        tell: Callable[[], None],
    ) -> None:
        self._project = project
        self._write = write
        self._beside = beside
        self._tell = tell
        self._rest: asyncio.TimerHandle | None = None
        # When it last moved into the file, and whether it is being moved now.
        self._moved = time.monotonic()
        self._moving = False
        # Since when it could not move wholly, and what is told of that.
        self._held_since: float | None = None
        self.held = ""

    def cancel(self) -> None:
        """Move nothing more; the project is about to be closed, which moves all."""
        if self._rest:
            self._rest.cancel()

    def written(self) -> None:
        """Move it when nothing has been written for a while, and now and then while people go on working."""
        since = time.monotonic() - self._moved
        if not self._moving and (since > WORKING_SECONDS or self._project.log_bytes() > WORKING_BYTES):
            self._moving = True
            self._beside(self._move_while_working())
        if self._rest:
            self._rest.cancel()
        loop = asyncio.get_running_loop()
        self._rest = loop.call_later(REST_SECONDS, lambda: self._beside(self._settle()))

    async def _settle(self) -> None:
        moved = await self._write(self._project.checkpoint)
        if not moved:
            self.written()
        self._note(moved)

    async def _move_while_working(self) -> None:
        """Move the log as far as nobody looks at it, so that a copy of the file alone is never old."""
        try:
            self._note(await self._write(lambda: self._project.checkpoint(working=True)))
        finally:
            self._moved = time.monotonic()
            self._moving = False

    def _note(self, wholly: bool) -> None:
        """Take note of whether it could move, and tell when it could not for long."""
        now = self._moved = time.monotonic()
        before = self.held
        if wholly:
            self._held_since, self.held = None, ""
        elif self._held_since is None:
            self._held_since = now
        elif now - self._held_since > HELD_SECONDS:
            self.held = HELD
        if self.held != before:
            self._tell()
