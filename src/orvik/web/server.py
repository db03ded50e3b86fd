"""Answering at an address of this machine."""

from __future__ import annotations

import logging
import socket
import sys

import uvicorn
from starlette.types import ASGIApp

from orvik.core.errors import ProjectRefused


def listening(host: str, port: int) -> socket.socket:
    """A socket that listens at a host and port.

    Raises
    ------
    ProjectRefused
        The port cannot be used.
    """
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    # Named as TCP, so that asyncio sends small messages at once instead of waiting for the last to be acknowledged.
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
        listener.listen(128)
    except OSError as error:
        listener.close()
        raise ProjectRefused(
            f"Port {port} of {host} cannot be used ({error.strerror}); give another one with --port."
        ) from error
    return listener


def answer(app: ASGIApp, host: str, port: int, words: str) -> None:
    """Answer at an address until the process is stopped, and say so once it is really there.

    Parameters
    ----------
    words
        What is printed, with ``{address}`` in it.

    Raises
    ------
    ProjectRefused
        The port cannot be used.
    """
    listener = listening(host, port)
    # Short turns: what answers a pointer waits for no other thread for long.
    sys.setswitchinterval(0.0005)
    shown = f"[{host}]" if ":" in host else host
    print(words.format(address=f"{shown}:{port}"), flush=True)
    with listener:
        server_of(app).run(sockets=[listener])


def server_of(app: ASGIApp) -> uvicorn.Server:
    """The server that answers for an application, as it is run from the command line."""
    config = uvicorn.Config(
        app,
        log_level="warning",
        ws="websockets-sansio",
        ws_per_message_deflate=False,
        ws_max_size=1 << 20,
        timeout_graceful_shutdown=2,
    )
    logging.getLogger("uvicorn.error").addFilter(lambda record: record.levelno >= logging.WARNING)
    return uvicorn.Server(config)
