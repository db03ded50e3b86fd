"""A page's side of the live connection, without a browser."""

from __future__ import annotations

import json
from html.parser import HTMLParser
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


class Sent(HTMLParser):
    """What a browser would send of the page's form."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.values: dict[str, str] = {}
        self._select = ""
        self._option: str | None = None
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        held = {name: value or "" for name, value in attrs}
        name = held.get("name", "")
        if tag == "input" and name and held.get("type", "text") in ("text", "hidden"):
            self.values[name] = held.get("value", "")
        elif tag == "input" and "checked" in held:
            self.values[name] = held["value"]
        elif tag == "select":
            self._select = name
        elif tag == "option" and self._select:
            self._option = held.get("value")
            chosen = "selected" in held
            if chosen or self._select not in self.values:
                self.values[self._select] = self._option if self._option is not None else ""
            self._chosen = chosen and self._option is None

    def handle_data(self, data: str) -> None:
        if self._select and getattr(self, "_chosen", False):
            self.values[self._select] = data.strip()
            self._chosen = False

    def handle_endtag(self, tag: str) -> None:
        if tag == "select":
            self._select = ""
