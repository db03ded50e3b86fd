"""The live connection of a page: messages in, answers and notices out, in order and without waiting for the page."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import re
from collections.abc import Awaitable, Callable, Mapping
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from fastapi import WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from orvik.core.errors import OWN_FAULT, NotFound, OrvikError
from orvik.web.live.messages import Message, read_message
from orvik.web.live.page_state import Answer, PageState
from orvik.web.session.workspace import EVERYTHING, Notice, Workspace

M = TypeVar("M", bound=Message)
# A page that has so many messages still to take, or so many bytes, has stopped taking them.
MOST_WAITING = 500
MOST_WAITING_BYTES = 64_000_000
LOG = logging.getLogger(__name__)


@dataclass(frozen=True)
class Handler(Generic[M]):
    """What answers a message, and the form that the message must have."""

    form: type[M]
    answer: Callable[[PageState, M], Awaitable[Answer]]


Handlers = Mapping[str, Handler[Any]]


class Connection:
    """One page's connection."""

    def __init__(self, socket: WebSocket, workspace: Workspace, handlers: Handlers) -> None:
        self.socket = socket
        self.workspace = workspace
        self.page = PageState(workspace, workspace)
        # The sections that the page draws on, by the numbers of their lines.
        self.sections: dict[int, PageState] = {}
        self._handlers = handlers
        self._outbox: asyncio.Queue[str | bytes] = asyncio.Queue()
        self._waiting = 0
        self._behind = asyncio.Event()

    async def run(self) -> None:
        """Answer until the page goes away, or falls so far behind that it must begin anew."""
        self.workspace.listen(self._notify)
        work = (self._send_all(), self._answer_all(), self._behind.wait())
        tasks = [asyncio.ensure_future(part) for part in work]
        try:
            await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
            if self._behind.is_set():
                with contextlib.suppress(RuntimeError, OSError, TimeoutError):
                    await asyncio.wait_for(self.socket.close(1013), 1.0)
        finally:
            self.workspace.listeners.discard(self._notify)
            for page in (self.page, *self.sections.values()):
                page.space.window_ids.discard(page.window_id)
            self.workspace.planes.pop(self.page.window_id, None)
            for task in tasks:
                task.cancel()
                with contextlib.suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError, OSError):
                    await task

    async def _answer_all(self) -> None:
        # All tables, for a page that comes back and has missed something.
        self.send(self.workspace.state() | {"tables": EVERYTHING})
        with contextlib.suppress(WebSocketDisconnect):
            while True:
                received = await self.socket.receive()
                if received["type"] == "websocket.disconnect":
                    return
                await self._answer(received.get("text"))

    async def _send_all(self) -> None:
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):
            while True:
                message = await self._outbox.get()
                self._waiting -= len(message)
                if isinstance(message, bytes):
                    await self.socket.send_bytes(message)
                else:
                    await self.socket.send_text(message)

    def _post(self, message: str | bytes) -> None:
        """Put a message where it is sent from; a page that does not take its messages is let go, and loads again."""
        if self._outbox.qsize() >= MOST_WAITING or self._waiting > MOST_WAITING_BYTES:
            self._behind.set()
            return
        self._waiting += len(message)
        self._outbox.put_nowait(message)

    async def _answer(self, text: str | None) -> None:
        sent = read_message(text)
        if sent is None:
            # The page waits for an answer with its number, whatever else is wrong with the message.
            named = re.search(r'"n"\s*:\s*(\d{1,15})\b', (text or "")[:1000])
            words = "This message cannot be read; load the page again."
            self.send({"n": int(named[1]) if named else None, "refused": words})
            return
        number = sent.get("n")
        try:
            handler = self._handlers.get(str(sent.get("do")))
            if handler is None:
                raise NotFound("The page asked for something that is not known; load it again.")
            message = handler.form.model_validate(sent)
            answer = await handler.answer(self._page(message.section), message)
        except OrvikError as refusal:
            answer = {"refused": refusal.sentence, "where": type(refusal).__name__}
        except ValidationError as error:
            fields = ", ".join(dict.fromkeys(".".join(map(str, e["loc"])) or "form" for e in error.errors()))
            answer = {"refused": f"The page sent something that cannot be read ({fields[:120]}); load it again."}
            LOG.warning("a message that cannot be read: %s", str(text)[:1000])
        except Exception:
            # An edit is one transaction, so nothing is half-kept; the page and what it draws stay as they are.
            answer = {"refused": OWN_FAULT}
            LOG.exception("answering %s", str(text)[:1000])
        self.send({"n": number if isinstance(number, int | None) else None, **answer})

    def _page(self, section: int | None) -> PageState:
        """What the page draws and selects on the map or on a section; raises NotFound for one that is not open."""
        if section is None:
            return self.page
        space = self.workspace.sections.get(section)
        if space is None:
            raise NotFound("This section is not open any more; open it again.")
        held = self.sections.get(section)
        if held is None or held.space is not space:
            held = self.sections[section] = PageState(self.workspace, space, self.page.holds)
            held.window_id = self.page.window_id
        return held

    def send(self, words: Answer) -> None:
        """Send words to the page."""
        self._post(json.dumps(words, separators=(",", ":"), ensure_ascii=True))

    def _notify(self, notice: Notice) -> None:
        if notice.words.get("do") == "closed":
            self._behind.set()
            return
        if notice.words.get("moved"):
            self.page.follow_move()
            # Its metres are those of another grid.
            self.workspace.planes.pop(self.page.window_id, None)
        if notice.ink is not None:
            self._post(notice.ink)
        # What names no tables is told to the strip alone: the project is as the page has it.
        self.send({**notice.words, "do": "changed"} if "tables" in notice.words else notice.words)


async def serve(socket: WebSocket, workspace: Workspace, handlers: Handlers) -> None:
    """Serve one page's live connection."""
    await socket.accept()
    await Connection(socket, workspace, handlers).run()
