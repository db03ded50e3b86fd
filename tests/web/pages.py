"""A page's side of the live connection, without a browser."""

from __future__ import annotations

import json
from typing import Any


class Page:
    """A page's side of the connection."""

    def __init__(self, socket: Any) -> None:
        self.socket = socket
        self.number = 0
        self.notices: list[dict[str, Any]] = []
        self.inks: list[bytes] = []
        assert self.take()["do"] == "state"

    def take(self) -> dict[str, Any]:
        message = self.socket.receive()
        if message.get("bytes"):
            self.inks.append(message["bytes"])
            return self.take()
        return json.loads(message["text"])  # type: ignore[no-any-return]

    def ask(self, do: str, **values: Any) -> dict[str, Any]:
        self.number += 1
        self.socket.send_text(json.dumps({"do": do, "n": self.number, **values}))
        while True:
            answer = self.take()
            if answer.get("n") == self.number:
                return answer
            self.notices.append(answer)

    def press(self, x: float, y: float, scale: float = 6250, **values: Any) -> dict[str, Any]:
        ring = self.ask("hover", x=x, y=y)
        return self.ask("press", x=x, y=y, ring=ring["ring"], scale=scale, **values)

    def draw(self, pen: str, *places: tuple[float, float], **values: Any) -> dict[str, Any]:
        """Draw a feature through some places and finish it."""
        assert "refused" not in self.ask("pen", name=pen)
        for x, y in places:
            answer = self.press(x, y)
            assert "refused" not in answer, answer
        return self.ask("finish", **values)

    def told(self, what: str) -> dict[str, Any]:
        """The next notice of a sort."""
        while True:
            message = self.take()
            if message.get("do") == what:
                return message
