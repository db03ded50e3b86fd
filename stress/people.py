"""Twenty people at one project for two minutes: drawing, pointing, undoing, reading sheets; one page stops reading."""

from __future__ import annotations

import random
import shutil
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np
import websockets.sync.client
from tests.browser.chromium import application
from tests.web.wire import wire
from websockets import Origin

from orvik.demo.build import build
from orvik.store.project import Project

PEOPLE, SECONDS = 20, 120.0
SLUG = "isle-of-quennet"
# What a page waits for its ring while so many others work without rest, these themselves on the same two cores;
# a tenth of a second is where a person begins to notice a wait (common practice).
RING_MS = 100.0


class Person(threading.Thread):
    """One person: what was done, what was refused, and how long each answer took."""

    def __init__(self, address: str, number: int, until: float) -> None:
        super().__init__(daemon=True)
        self.address, self.number, self.until = address, number, until
        self.rng = random.Random(number)
        self.kept = self.refused = 0
        self.rings: list[float] = []
        self.trouble = ""

    def run(self) -> None:
        try:
            with wire(self.address, SLUG) as page:
                page.ask(do="hello", window_id=f"person {self.number}")
                while time.monotonic() < self.until:
                    self._some(page)
                    time.sleep(self.rng.uniform(0.05, 0.4))
        except Exception as error:
            self.trouble = f"{type(error).__name__}: {error}"

    def _some(self, page: Any) -> None:
        x, y = self.rng.uniform(511_000, 515_500), self.rng.uniform(6_800_600, 6_804_000)
        start = time.perf_counter()
        page.ask(do="hover", x=x, y=y, scale=6250)
        self.rings.append((time.perf_counter() - start) * 1000)
        what = self.rng.random()
        if what < 0.5:
            page.ask(do="pen", name=self.rng.choice(["contact-certain", "fault-inferred", "dyke-certain"]))
            for _ in range(3):
                page.ask(do="press", x=x, y=y, ring=None, scale=6250)
                x, y = x + self.rng.uniform(-60, 60), y + self.rng.uniform(-60, 60)
            answer = page.ask(do="finish")
            if "refused" in answer:
                self.refused += 1
                page.ask(do="drop")
            else:
                self.kept += 1
        elif what < 0.6:
            self.refused += "refused" in page.ask(do=self.rng.choice(["undo", "redo"]))
        elif what < 0.7:
            for path in (f"/p/{SLUG}/slip/lines/{self.rng.randint(1, 60)}", f"/p/{SLUG}/ink", "/"):
                try:
                    urllib.request.urlopen(self.address + path, timeout=30).read()
                except urllib.error.HTTPError as error:
                    if error.code >= 500:
                        raise


def run() -> tuple[bool, list[str]]:
    """Let them work, and count."""
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        path = build(folder)
        with application(folder) as (address, process):
            # A page that never reads what it is sent.
            url = f"{address.replace('http', 'ws')}/p/{SLUG}/live"
            with websockets.sync.client.connect(
                url, origin=Origin(address), compression=None, max_queue=1, ping_interval=None
            ):
                until = time.monotonic() + SECONDS
                people = [Person(address, number, until) for number in range(PEOPLE)]
                for person in people:
                    person.start()
                for person in people:
                    person.join(SECONDS + 60)
            alive = process.poll() is None
        project = Project.open(path)
        sound = project.faults() == []
        project.close()
        shutil.rmtree(path.with_suffix(".files"), ignore_errors=True)
    rings = np.array([ring for person in people for ring in person.rings])
    trouble = [person.trouble for person in people if person.trouble]
    p95 = float(np.percentile(rings, 95)) if len(rings) else float("inf")
    lines = [
        f"{PEOPLE} people for {SECONDS:.0f} s: {sum(p.kept for p in people)} edits kept, "
        f"{sum(p.refused for p in people)} refused in words, "
        f"{len(rings)} rings, median {np.median(rings):.1f} ms, 95th percentile {p95:.1f} ms, "
        f"longest {rings.max():.0f} ms",
        *trouble[:5],
    ]
    return alive and sound and not trouble and p95 < RING_MS, lines
