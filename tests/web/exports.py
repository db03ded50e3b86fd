"""Exporting as a page does it: an order is sent, followed, and its files are fetched."""

from __future__ import annotations

import re
import time
from dataclasses import dataclass

from fastapi.testclient import TestClient

OUT = "/p/isle-of-quennet/exports"


@dataclass(frozen=True)
class Outcome:
    """How an order ended: its state, what the page says of it, and its files by name."""

    number: str
    state: str
    text: str
    files: dict[str, bytes]


def export_routes(client: TestClient, way: str = "", wait: float = 150.0, **form: str) -> Outcome:
    """Put the demo's first sheet out, or as a form says, and wait for the end of it."""
    answer = client.post(f"{OUT}{way}", data={"sheet": "1", **form})
    assert answer.status_code == 200, answer.text
    return ended(client, answer.headers["Orvik-Export"], wait)


def ended(client: TestClient, number: str, wait: float = 150.0) -> Outcome:
    """Wait for the end of an export."""
    for _ in range(int(wait / 0.1)):
        text = client.get(OUT).text
        found = re.search(rf'id="export-{number}"[^>]*data-state="(\w+)"(.*?)</article>', text, re.S)
        assert found is not None, "the export is listed"
        if found[1] not in ("waiting", "running"):
            names = re.findall(rf"{number}/([^\"]+)\"", found[2])
            files = {name: client.get(f"{OUT}/{number}/{name}").content for name in names if "." in name}
            return Outcome(number, found[1], found[2], files)
        time.sleep(0.1)
    raise AssertionError("the order came to no end")
