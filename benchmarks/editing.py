"""One edit in a project of 100 000 features: drawn, moved and deleted, kept and with its ink at the page."""

from __future__ import annotations

import json
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from tests.browser.chromium import application
from tests.web.wire import Wire, wire

from benchmarks import data
from benchmarks.yardstick import Row, limit_row

LINES, AREAS, POINTS, SIDE = 80_000, 10_000, 10_000, 20_000.0
EDITS = 60


def run() -> Iterator[Row]:
    """95th percentile from the last click until the answer and the ink are both there."""
    with tempfile.TemporaryDirectory() as temporary:
        path = Path(temporary) / "hundred.gpkg"
        data.project(path, LINES, 20, AREAS, 40, POINTS, SIDE)
        with application(path.parent) as (address, _), wire(address, "hundred") as page:
            page.ask(do="snap", radius=15, unit="m", vertex=True, edge=True, end=True)
            page.ask(do="hello", window_id="bench")
            rng = np.random.default_rng(4)
            for _ in range(5):
                _draw(page, rng)
            drawn = [_draw(page, rng) for _ in range(EDITS)]
            taken = [seconds for seconds, _ in drawn]
            yield limit_row("A line drawn among 100 000 features, kept and visible, 95th percentile", _ms(taken), 50)
            moved = [_move(page, number, rng) for _, number in drawn]
            yield limit_row("a vertex moved, the same", _ms(moved), 50)
            start = time.perf_counter()
            while "under_way" in page.ask(do="findings"):
                time.sleep(0.2)
            yield Row(
                "the first survey of 100 000 features, beside all that",
                f"{time.perf_counter() - start:.1f} s",
                "",
                None,
            )
            drawn = [_draw(page, rng) for _ in range(EDITS)]
            yield limit_row("A line drawn while findings are kept up, 95th percentile", _ms([s for s, _ in drawn]), 50)


def _ms(taken: list[float]) -> float:
    return float(np.percentile(taken, 95)) * 1000


def _kept(page: Wire, **message: Any) -> tuple[float, dict[str, Any]]:
    """Seconds until an edit is answered and its ink has come."""
    page.number += 1
    start = time.perf_counter()
    page.socket.send(json.dumps({"n": page.number, **message}))
    answer: dict[str, Any] | None = None
    ink = False
    while answer is None or not ink:
        told = page.socket.recv()
        if isinstance(told, bytes):
            ink = True
        else:
            words = json.loads(told)
            if words.get("n") == page.number:
                answer = words
                if "refused" in words:
                    raise RuntimeError(words["refused"])
    return time.perf_counter() - start, answer


def _draw(page: Wire, rng: np.random.Generator) -> tuple[float, int]:
    x, y = rng.uniform(500, SIDE - 500, 2) + data.CORNER
    page.ask(do="pen", name="contact-certain")
    for dx, dy in ((0, 0), (60, 20), (110, -10)):
        page.ask(do="press", x=x + dx, y=y + dy, ring=None, scale=6250)
    seconds, answer = _kept(page, do="finish")
    return seconds, int(answer["feature"]["id"])


def _move(page: Wire, number: int, rng: np.random.Generator) -> float:
    page.ask(do="pen", name=None)
    named = {"features": [{"table": "lines", "id": number}], "revision": 10**9}
    (shown,) = page.ask(do="show", **named)["hand"]
    x, y = shown["paths"][0][1]
    seconds, _ = _kept(page, do="move_vertex", **named, path=0, vertex=1, x=x + 9, y=y + 9, ring=None, scale=6250)
    return seconds
