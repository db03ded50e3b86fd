"""Slow work as of the latest revision: never older than the asking, never twice at once, failures told."""

from __future__ import annotations

import asyncio
import random

import pytest

from orvik.store.journal import JOURNALED
from orvik.web.session.latest import Dated, Latest
from orvik.web.session.staleness import MAKES_STALE
from tests.examples import drawn


class Work:
    """A project that is edited while work on it is done; every so many times the work fails."""

    def __init__(self, seconds: float = 0.002, fails_each: int = 0) -> None:
        self.revision = 1
        self.begun = self.at_once = self.most_at_once = 0
        self.seconds, self.fails_each = seconds, fails_each

    async def make(self) -> Dated[int]:
        self.begun += 1
        turn = self.begun
        self.at_once += 1
        self.most_at_once = max(self.most_at_once, self.at_once)
        revision = self.revision
        await asyncio.sleep(self.seconds)
        self.at_once -= 1
        if self.fails_each and turn % self.fails_each == 0:
            raise RuntimeError("no room")
        return Dated(revision, revision)

    def latest(self, **rest: float) -> Latest[int]:
        return Latest("the work", self.make, lambda: self.revision, **rest)


@pytest.mark.parametrize("seed", drawn(range(200), 10))
def test_nobody_gets_what_is_older_than_the_asking(seed: int) -> None:
    chance = random.Random(seed)
    work = Work(fails_each=chance.choice([0, 0, 3]))

    async def ask(latest: Latest[int]) -> None:
        await asyncio.sleep(chance.random() * 0.02)
        asked = work.revision
        try:
            assert await latest.get() >= asked
        except RuntimeError:
            assert work.fails_each

    async def edit() -> None:
        for _ in range(10):
            await asyncio.sleep(chance.random() * 0.003)
            work.revision += 1

    async def all_at_once() -> None:
        latest = work.latest()
        await asyncio.gather(edit(), *(ask(latest) for _ in range(20)))

    asyncio.run(all_at_once())
    assert work.most_at_once == 1
    assert work.begun <= 20


def test_who_asks_while_edits_never_end_is_answered() -> None:
    work = Work(seconds=0.01)

    async def edited_for_ever() -> None:
        while True:
            work.revision += 1
            await asyncio.sleep(0)

    async def asked() -> int:
        editing = asyncio.ensure_future(edited_for_ever())
        try:
            return await asyncio.wait_for(work.latest().get(), 20)
        finally:
            editing.cancel()

    assert asyncio.run(asked()) >= 1


def test_pages_are_told_until_what_they_have_is_of_now() -> None:
    work = Work()
    told: list[int] = []

    def hear(value: int) -> None:
        told.append(value)
        if len(told) < 4:
            work.revision += 1

    async def tell() -> None:
        latest = work.latest()
        latest.tell_soon(hear, pytest.fail, lambda: True)
        # One telling at a time, however often it is asked for.
        latest.tell_soon(hear, pytest.fail, lambda: True)
        while not (latest.is_current and len(told) == 4):
            await asyncio.sleep(0.001)

    asyncio.run(tell())
    assert told == [1, 2, 3, 4]
    assert work.begun == 4


def test_a_failure_is_told_and_the_next_telling_tries_again() -> None:
    work = Work(fails_each=1)
    heard: list[str] = []

    async def tell() -> None:
        latest = work.latest()
        latest.tell_soon(lambda value: heard.append(f"told {value}"), lambda: heard.append("failed"), lambda: True)
        while not heard:
            await asyncio.sleep(0.001)
        assert latest.value is None
        work.fails_each = 0
        await asyncio.sleep(0.001)
        latest.tell_soon(lambda value: heard.append(f"told {value}"), lambda: heard.append("failed"), lambda: True)
        while len(heard) < 2:
            await asyncio.sleep(0.001)

    asyncio.run(tell())
    assert heard == ["failed", "told 1"]


def test_nothing_is_made_where_nobody_listens_or_it_is_there() -> None:
    work = Work()

    async def asked() -> None:
        latest = work.latest()
        latest.tell_soon(pytest.fail, pytest.fail, lambda: False)
        await asyncio.sleep(0.005)
        assert work.begun == 0
        latest.begin()
        await latest.get()
        latest.begin()
        await latest.get()

    asyncio.run(asked())
    assert work.begun == 1


def test_every_table_that_edits_change_says_what_it_makes_stale() -> None:
    assert set(MAKES_STALE) == JOURNALED
