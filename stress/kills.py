"""Two hundred kills: a page edits and draws as fast as it can, the application dies, what was acknowledged is there."""

from __future__ import annotations

import json
import os
import random
import shutil
import signal
import sqlite3
import tempfile
import threading
from pathlib import Path

import shapely
from tests.browser.chromium import application
from tests.web.wire import wire
from websockets.exceptions import ConnectionClosed

from orvik.core.features.feature import Feature
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.project import Project

KILLS = 200
WEST, SOUTH = 510_000.0, 6_800_000.0


def run() -> tuple[bool, list[str]]:
    """Kill the application again and again, each time in the middle of a stream of edits."""
    rng = random.Random(1)
    edits = vertices = lost_edits = lost_vertices = spoilt = 0
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "kills.gpkg"
        create(path, "Kills", project_crs("EPSG:32628"), Scales(25_000, 6_250))
        project = Project.open(path)
        border = shapely.LineString(shapely.box(WEST, SOUTH, WEST + 9000, SOUTH + 9000).exterior.coords)
        project.apply("border", [rows.feature_change(Feature("lines", border, "border"), project.srs_id)])
        project.close()
        newest = 1
        for number in range(KILLS):
            kept, drawn = _one(path.parent, rng.uniform(0.15, 0.9), number)
            edits += len(kept)
            vertices += len(drawn)
            connection = sqlite3.connect(path)
            spoilt += connection.execute("PRAGMA integrity_check").fetchone()[0] != "ok"
            there = {row[0] for row in connection.execute("SELECT id FROM lines")}
            lost_edits += len([i for i in kept if i not in there])
            draft = connection.execute(
                "SELECT drawing FROM drafts WHERE window_id = ?", (f"window_id {number}",)
            ).fetchone()
            held = json.loads(draft[0])["vertices"] if draft else []
            # A line whose end was asked for when the application died is either finished or still a draft.
            finished = len(drawn) == 3 and bool(there) and max(there) > max(kept, default=newest)
            lost_vertices += 0 if finished else max(0, len(drawn) - len(held))
            newest = max(there, default=newest)
            connection.execute("DELETE FROM drafts")
            connection.commit()
            connection.close()
        shutil.rmtree(path.with_suffix(".files"), ignore_errors=True)
    lines = [
        f"{KILLS} kills; {edits} acknowledged edits, {lost_edits} lost; "
        f"{vertices} acknowledged vertices of half-drawn lines, "
        f"{lost_vertices} lost; {spoilt} files spoilt"
    ]
    return not (lost_edits or lost_vertices or spoilt), lines


def _one(folder: Path, after: float, number: int) -> tuple[list[int], list[tuple[float, float]]]:
    """Edit until the kill; gives the ids that were acknowledged, and the vertices of the line that was being drawn."""
    kept: list[int] = []
    drawn: list[tuple[float, float]] = []
    with application(folder) as (address, process):
        try:
            with wire(address, "kills") as page:
                page.ask(do="hello", window_id=f"window_id {number}")
                page.ask(do="pen", name="contact-certain")
                threading.Timer(after, lambda: os.kill(process.pid, signal.SIGKILL)).start()
                for i in range(100_000):
                    y = SOUTH + 10 + (number * 41 + i) % 8900
                    for x in (WEST + 100.0, WEST + 900.0, WEST + 1700.0):
                        answer = page.ask(do="press", x=x, y=y, ring=None, scale=6250)
                        if "refused" not in answer:
                            drawn.append((x, y))
                    answer = page.ask(do="finish")
                    drawn = []
                    kept.append(int(answer["feature"]["id"]))
        except (ConnectionClosed, OSError):
            pass  # What was sent and not acknowledged may be there or not.
        process.wait(60)
    return kept, drawn
