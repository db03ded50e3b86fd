"""The labels of an open project: placed anew by a worker after each change, and told to all pages."""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Callable
from pathlib import Path

from orvik.web.session.jobs import WrittenMap, written_map
from orvik.web.session.workers import Workers

# How long to wait for another change before labels are placed; and of the time that they took.
REST_SECONDS, REST_SHARE = 0.05, 1.0
LOG = logging.getLogger(__name__)


class LabelKeeper:
    """Labels at the latest revision that they were placed for. All methods run on the event loop."""

    def __init__(self, path: Path, workers: Workers, revision: Callable[[], int]) -> None:
        self.latest: WrittenMap | None = None
        self._path = path
        self._workers = workers
        self._revision = revision
        self._placing: asyncio.Task[WrittenMap] | None = None
        self._took = 0.0

    async def placed(self) -> WrittenMap:
        """Labels as of the present revision or a later one; those who ask at once wait for one and the same."""
        while True:
            if self.latest is not None and self.latest.revision >= self._revision():
                return self.latest
            if self._placing is None or self._placing.done():
                self._placing = asyncio.ensure_future(self._place())
            await asyncio.shield(self._placing)

    async def _place(self) -> WrittenMap:
        # A large map is not labelled again and again while a hand is drawing.
        await asyncio.sleep(REST_SECONDS + min(REST_SHARE * self._took, 10.0))
        begun = time.monotonic()
        self.latest = await self._workers.run(written_map, self._path)
        self._took = time.monotonic() - begun
        return self.latest
