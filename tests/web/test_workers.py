"""Work in processes of their own: what takes too long or too much is ended, and nobody else waits for it."""

from __future__ import annotations

import asyncio
import os
import time
from collections.abc import Awaitable, Callable

import pytest

from orvik.core.errors import TookTooLong
from orvik.web.session import workers as module
from orvik.web.session.workers import Workers


def with_workers(work: Callable[[Workers], Awaitable[None]]) -> None:
    async def carried_out() -> None:
        workers = Workers()
        try:
            await work(workers)
        finally:
            workers.close()

    asyncio.run(carried_out())


@pytest.mark.parametrize("strange", [False, True])
def test_work_that_takes_too_long_is_ended_and_others_go_on(strange: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    async def work(workers: Workers) -> None:
        # Begun before there is a limit: importing takes its time on a slow machine.
        await asyncio.gather(workers.run(os.getpid), workers.open_strange(os.getpid))
        monkeypatch.setattr(module, "STRANGE_SECONDS" if strange else "WORK_SECONDS", 1.0)
        begun = time.monotonic()
        long = workers.open_strange if strange else workers.run
        with pytest.raises(TookTooLong, match="not done after 1 s"):
            await long(time.sleep, 60)
        assert time.monotonic() - begun < 30
        monkeypatch.undo()
        assert await long(os.getpid) > 0

    with_workers(work)


def test_no_page_waits_for_files_of_strangers() -> None:
    async def work(workers: Workers) -> None:
        await asyncio.gather(workers.run(os.getpid), workers.open_strange(os.getpid))
        slow = [asyncio.ensure_future(workers.open_strange(time.sleep, 20)) for _ in range(6)]
        await asyncio.sleep(0.2)
        assert await asyncio.wait_for(workers.run(os.getpid), 15) > 0
        assert not any(task.done() for task in slow)
        for task in slow:
            task.cancel()

    with_workers(work)


def test_other_files_of_strangers_are_opened_though_one_was_ended(monkeypatch: pytest.MonkeyPatch) -> None:
    async def work(workers: Workers) -> None:
        await asyncio.gather(workers.open_strange(os.getpid), workers.open_strange(os.getpid))
        monkeypatch.setattr(module, "STRANGE_SECONDS", 1.0)
        long = asyncio.ensure_future(workers.open_strange(time.sleep, 60))
        await asyncio.sleep(0.1)
        monkeypatch.undo()
        # More than there are processes: some are being opened when the long one is ended, and some wait.
        others = [asyncio.ensure_future(workers.open_strange(time.sleep, 2)) for _ in range(4)]
        with pytest.raises(TookTooLong, match="not done after 1 s"):
            await long
        assert await asyncio.gather(*others) == [None] * 4

    with_workers(work)


def test_a_file_that_wants_all_the_memory_is_refused_in_words() -> None:
    async def work(workers: Workers) -> None:
        with pytest.raises(TookTooLong, match="more memory"):
            await workers.open_strange(bytearray, module.STRANGE_BYTES + 1)
        assert await workers.open_strange(os.getpid) > 0

    with_workers(work)


def test_a_worker_that_is_killed_is_replaced_and_its_work_done_again() -> None:
    async def work(workers: Workers) -> None:
        first = await workers.run(os.getpid)
        os.kill(first, 9)
        for _ in range(3):
            assert await workers.run(os.getpid) > 0

    with_workers(work)
