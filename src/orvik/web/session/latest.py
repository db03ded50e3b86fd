"""What takes a while to make from a project, as of its latest revision: made once for all who ask, anew after edits."""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

# A rest never grows longer than this, in seconds, however long the making takes.
LONGEST_REST = 10.0
LOG = logging.getLogger(__name__)
T = TypeVar("T")


@dataclass(frozen=True)
class Dated(Generic[T]):
    """A result, and a revision that it is not older than."""

    revision: int
    value: T


class Latest(Generic[T]):
    """A result of slow work as of a revision. All methods run on the event loop.

    Parameters
    ----------
    what
        What it is, for the log.
    make
        Does the work on the project as it is when it begins.
    current
        The revision of what the work looks at.
    rest
        Seconds to wait for another edit before the work begins.
    rest_share
        How much longer to wait, as a share of the time that the work took: large maps are not worked on again and
        again while a hand is drawing.
    """

    def __init__(
        self,
        what: str,
        make: Callable[[], Awaitable[Dated[T]]],
        current: Callable[[], int],
        rest: float = 0.0,
        rest_share: float = 0.0,
    ) -> None:
        self.done: Dated[T] | None = None
        self._what = what
        self._make = make
        self._current = current
        self._rest, self._rest_share = rest, rest_share
        self._took = 0.0
        self._making: asyncio.Task[Dated[T]] | None = None
        self._telling: asyncio.Task[None] | None = None

    @property
    def value(self) -> T | None:
        """The last result, of whatever revision; None before the first."""
        return self.done.value if self.done is not None else None

    @property
    def is_current(self) -> bool:
        """Whether the last result is of the present revision."""
        return self.done is not None and self.done.revision >= self._current()

    def begin(self) -> None:
        """Begin the work for those who will ask in a moment, unless it is done or under way."""
        if not self.is_current and (self._making is None or self._making.done()):
            self._making = asyncio.ensure_future(self._made())
            self._making.add_done_callback(_heard)

    async def get(self) -> T:
        """The result as of the moment of asking or later; those who ask at once wait for one and the same.

        Raises
        ------
        Exception
            What the work raises; who asks next has it done again.
        """
        asked = self._current()
        while self.done is None or self.done.revision < asked:
            self.begin()
            assert self._making is not None
            await asyncio.shield(self._making)
        return self.done.value

    def tell_soon(self, told: Callable[[T], None], failed: Callable[[], None], is_heard: Callable[[], bool]) -> None:
        """Have the result told, and told again for as long as edits come meanwhile.

        Parameters
        ----------
        told
            Takes the result.
        failed
            Is told that the work failed, whatever it was: those who see an older result must know.
        is_heard
            Whether anybody listens.
        """
        if is_heard() and (self._telling is None or self._telling.done()):
            self._telling = asyncio.ensure_future(self._tell(told, failed, is_heard))

    def cancel(self) -> None:
        """Tell nobody any more."""
        if self._telling is not None:
            self._telling.cancel()

    async def _made(self) -> Dated[T]:
        await asyncio.sleep(self._rest + min(self._rest_share * self._took, LONGEST_REST))
        begun = time.monotonic()
        self.done = await self._make()
        self._took = time.monotonic() - begun
        return self.done

    async def _tell(self, told: Callable[[T], None], failed: Callable[[], None], is_heard: Callable[[], bool]) -> None:
        while True:
            try:
                result = await self.get()
            except Exception:
                LOG.exception("%s could not be made", self._what)
                failed()
                return
            told(result)
            if self.is_current or not is_heard():
                return


def _heard(task: asyncio.Task[Dated[T]]) -> None:
    """Take note of an error that nobody may have waited for."""
    if not task.cancelled():
        task.exception()
