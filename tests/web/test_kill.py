"""Nothing that was acknowledged is lost when the server dies in the middle of a stream of edits."""

from __future__ import annotations

import os
import signal
import sqlite3
import threading
import time
from pathlib import Path

from websockets.exceptions import ConnectionClosed

from orvik.store.project import Project
from tests.browser.chromium import application
from tests.web.wire import wire


def children(pid: int) -> list[int]:
    """Processes that a process has started."""
    return [int(c) for c in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


def test_sigkill_loses_no_acknowledged_edit(project: Project) -> None:
    project.close()
    path: Path = project.path
    acknowledged: list[tuple[int, float]] = []
    with application(path.parent) as (address, process):
        with wire(address, "small") as page:
            ask = page.ask
            ask(do="pen", name="contact-certain")
            workers = children(process.pid)
            assert workers
            killer = threading.Timer(1.2, lambda: os.kill(process.pid, signal.SIGKILL))
            killer.start()
            try:
                for i in range(100_000):
                    x = 512_500.0 + i * 0.01
                    ask(do="press", x=x, y=6_801_100.0, ring=None, scale=6250)
                    ask(do="press", x=x, y=6_801_900.0, ring=None, scale=6250)
                    answer = ask(do="finish")
                    assert "refused" not in answer
                    acknowledged.append((int(answer["feature"]["id"]), x))
            except (ConnectionClosed, OSError):
                pass
            killer.join()
        process.wait(60)
    assert len(acknowledged) > 20
    # The worker processes notice and end by themselves.
    for _ in range(600):
        if not any(Path(f"/proc/{pid}").exists() for pid in workers):
            break
        time.sleep(0.1)
    assert [pid for pid in workers if Path(f"/proc/{pid}").exists()] == []
    again = Project.open(path)
    for feature_id, x in acknowledged:
        assert again.feature("lines", feature_id).geometry.coords[0] == (x, 6_801_100.0)
    # What was under way but not acknowledged is there whole or not at all: rows and journal agree.
    assert again.count("lines") == 2 + again.revision - 2
    again.undo()
    again.close()
    connection = sqlite3.connect(path)
    assert connection.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
    connection.close()
