"""A page's side of the live connection over a real socket."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import websockets.sync.client
from websockets import Origin


class Wire:
    """Asks, and waits for the answer with the same number; notices are passed over."""

    def __init__(self, socket: websockets.sync.client.ClientConnection) -> None:
        self.socket = socket
        self.number = 0

    def ask(self, **message: Any) -> dict[str, Any]:
        self.number += 1
        self.socket.send(json.dumps({"n": self.number, **message}))
        while True:
            told = self.socket.recv()
            if isinstance(told, str):
                answer: dict[str, Any] = json.loads(told)
                if answer.get("n") == self.number:
                    return answer


@contextmanager
def wire(address: str, slug: str) -> Iterator[Wire]:
    """A live connection to a project of a running application."""
    url = f"{address.replace('http', 'ws')}/p/{slug}/live"
    with websockets.sync.client.connect(url, origin=Origin(address), compression=None, max_size=None) as socket:
        yield Wire(socket)
