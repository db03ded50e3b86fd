"""The door: local hosts and origins only, a strict content security policy, uploads capped."""

from __future__ import annotations

import asyncio
import errno
import logging
from ipaddress import ip_address
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from orvik.core.errors import OWN_FAULT

LOG = logging.getLogger(__name__)

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data: blob:; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
UPLOAD_BYTES = 512 * 1024 * 1024
LOCAL_NAMES = frozenset({"127.0.0.1", "localhost", "::1", "[::1]"})


class Guard:
    """ASGI middleware for HTTP and WebSocket alike.

    Parameters
    ----------
    app
        What is guarded.
    names
        Host names that the application answers to.
    upload_bytes
        The largest body that is taken.
    """

    def __init__(self, app: ASGIApp, names: frozenset[str] = LOCAL_NAMES, upload_bytes: int = UPLOAD_BYTES) -> None:
        self.app = app
        self.names = names
        self.upload_bytes = upload_bytes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if not self._near(scope) or not self._welcome(headers):
            await self._refuse(scope, receive, send, 403, "This address is not served here.")
            return
        if scope["type"] == "websocket":
            await self.app(scope, receive, send)
            return
        length = headers.get("content-length", "0")
        if not length.isdigit() or int(length) > self.upload_bytes:
            await self._refuse(scope, receive, send, 413, self._too_large)
            return
        over = asyncio.Event()
        await self._answered(scope, self._counted(receive, over), self._sealed(send), over)

    async def _answered(self, scope: Scope, receive: Receive, send: Send, over: asyncio.Event) -> None:
        """The answer, or our own words for what nobody foresaw: sealed like every other answer."""
        begun = False

        async def noticed(message: Message) -> None:
            nonlocal begun
            if over.is_set() and not begun:
                # Whoever read the body has an answer of his own to its end.
                raise _TooLarge
            begun = True
            await send(message)

        try:
            await self.app(scope, receive, noticed)
        except OSError as error:
            LOG.exception("%s %s", scope.get("method"), scope.get("path"))
            if begun:
                raise
            await PlainTextResponse(_disk_words(error, str(scope.get("method"))), 507)(scope, receive, send)
        except _TooLarge:
            if begun:
                raise
            await PlainTextResponse(self._too_large, 413)(scope, receive, send)
        except Exception:
            LOG.exception("%s %s", scope.get("method"), scope.get("path"))
            if begun:
                raise
            await PlainTextResponse(OWN_FAULT, 500)(scope, receive, send)

    @property
    def _too_large(self) -> str:
        return f"This file is larger than {self.upload_bytes // (1024 * 1024)} MB; make it smaller."

    @staticmethod
    def _near(scope: Scope) -> bool:
        """Whether the other side is this machine: what it says of itself is not a proof."""
        client = scope.get("client")
        if client is None or client[0] == "testclient":
            return True
        try:
            return ip_address(str(client[0]).split("%")[0]).is_loopback
        except ValueError:
            return False

    def _welcome(self, headers: Headers) -> bool:
        host = headers.get("host", "")
        if _name(f"//{host}") not in self.names:
            return False
        origin = headers.get("origin")
        return origin is None or (_name(origin) in self.names and urlsplit(origin).netloc == host)

    def _counted(self, receive: Receive, over: asyncio.Event) -> Receive:
        """Bodies without a stated length are cut off at the cap."""
        taken = 0

        async def counted() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > self.upload_bytes:
                over.set()
                raise _TooLarge
            return message

        return counted

    def _sealed(self, send: Send) -> Send:
        async def sealed(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers["Content-Security-Policy"] = POLICY
                headers["X-Content-Type-Options"] = "nosniff"
                headers["Referrer-Policy"] = "no-referrer"
                headers["Cross-Origin-Resource-Policy"] = "same-origin"
                headers["Cross-Origin-Opener-Policy"] = "same-origin"
                headers.setdefault("Cache-Control", "no-cache")
            await send(message)

        return sealed

    async def _refuse(self, scope: Scope, receive: Receive, send: Send, status: int, why: str) -> None:
        if scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": why})
            return
        await PlainTextResponse(why, status)(scope, receive, self._sealed(send))


class _TooLarge(Exception):
    """A body that states no length has passed the cap."""


def _disk_words(error: OSError, method: str) -> str:
    """What a file system refuses, in a sentence without paths."""
    if method in ("GET", "HEAD"):
        # Looking at something keeps nothing.
        why = error.strerror or type(error).__name__
        return f"This cannot be shown: a file of it cannot be read ({why.lower()}). Look whether the disk is there."
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return "Not saved: the disk is full. Make room on it, then do it again."
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        return "Not saved: the folder of the projects cannot be written."
    return f"Not saved: the disk cannot be written ({error.strerror or type(error).__name__})."


def _name(address: str) -> str:
    try:
        return urlsplit(address).hostname or ""
    except ValueError:
        return ""
