"""The application goes on when a worker is ended, a project is broken, a page is stalled, or another one runs."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import websockets.sync.client
from websockets import Origin
from websockets.exceptions import ConnectionClosed

from orvik.store.project import Project
from tests.browser.chromium import application
from tests.web.test_kill import children
from tests.web.wire import wire


def fetched(address: str) -> tuple[int, str]:
    try:
        with urllib.request.urlopen(address, timeout=60) as answer:
            return int(answer.status), answer.read().decode("utf-8", "replace")
    except urllib.error.HTTPError as error:
        return error.code, error.read().decode()


def test_work_goes_on_when_all_workers_are_ended(project: Project) -> None:
    project.close()
    with application(project.path.parent) as (address, process), wire(address, "small") as page:
        for _ in range(2):
            assert fetched(f"{address}/p/small/ink")[0] == 200
            # The children are the process that makes new ones and the one that counts shared memory; theirs work.
            workers = [pid for child in children(process.pid) for pid in children(child)]
            assert workers
            for pid in workers:
                os.kill(pid, signal.SIGKILL)
            time.sleep(0.3)
            page.ask(do="pen", name="contact-certain")
            for x in (512_500.0, 512_900.0):
                assert "refused" not in page.ask(do="press", x=x, y=6_801_100.0, ring=None, scale=6250)
            assert "refused" not in page.ask(do="finish")
            status, _ = fetched(f"{address}/p/small/ink")
            assert status == 200
        assert process.poll() is None


def test_one_broken_project_does_not_hide_the_others(project: Project) -> None:
    project.close()
    folder = project.path.parent
    (folder / "noise.gpkg").write_bytes(os.urandom(8192))
    (folder / "empty.gpkg").write_bytes(b"")
    (folder / "cut.gpkg").write_bytes(project.path.read_bytes()[:5000])
    (folder / "folder.gpkg").mkdir()
    torn = bytearray(project.path.read_bytes())
    torn[8192:] = os.urandom(len(torn) - 8192)
    (folder / "torn.gpkg").write_bytes(torn)
    with application(folder) as (address, _):
        status, home = fetched(address)
        assert status == 200
        assert "/p/small/compile" in home
        for name in ("noise", "empty", "cut", "torn", "folder"):
            assert name in home
            assert fetched(f"{address}/p/{name}/compile")[0] in (404, 409, 422), name
        assert fetched(f"{address}/p/small/compile")[0] == 200


@contextmanager
def stalled(address: str) -> Iterator[websockets.sync.client.ClientConnection]:
    """A page that takes hardly anything: its own buffers are small, and nobody empties them."""
    narrow = socket.socket()
    narrow.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
    narrow.connect(("127.0.0.1", int(address.rsplit(":", 1)[1])))
    url = f"{address.replace('http', 'ws')}/p/small/live"
    with websockets.sync.client.connect(
        url, sock=narrow, origin=Origin(address), compression=None, max_queue=1, close_timeout=1
    ) as page:
        yield page


def test_a_stalled_page_holds_nobody_up(project: Project) -> None:
    project.close()
    with application(project.path.parent) as (address, _), stalled(address), wire(address, "small") as page:
        page.ask(do="pen", name="contact-certain")
        for i in range(700):
            x = 512_500.0 + i
            page.ask(do="press", x=x, y=6_801_100.0, ring=None, scale=6250)
            page.ask(do="press", x=x, y=6_801_900.0, ring=None, scale=6250)
            assert "refused" not in page.ask(do="finish"), i
    opened = Project.open(project.path)
    assert opened.count("lines") == 702
    opened.close()


def test_a_page_that_falls_behind_is_let_go(project: Project) -> None:
    """A page that asks and never takes the answers is closed, so that what waits for it does not grow without end."""
    project.close()
    with application(project.path.parent) as (address, process):
        let_go = False
        with stalled(address) as behind:
            try:
                for i in range(1_000_000):
                    behind.send(json.dumps({"do": "hover", "n": i, "x": 512_000.0, "y": 6_802_500.0}))
            except (ConnectionClosed, OSError):
                let_go = True
        assert let_go
        with wire(address, "small") as page:
            assert "refused" not in page.ask(do="pen", name="contact-certain")
        assert process.poll() is None


def test_a_second_application_on_the_same_project_is_told_so(project: Project, tmp_path: Path) -> None:
    project.close()
    folder = project.path.parent
    with application(folder) as (address, _):
        assert fetched(f"{address}/p/small/compile")[0] == 200
        with application(folder) as (second, _):
            assert fetched(second)[0] == 200
            status, words = fetched(f"{second}/p/small/compile")
            assert status in (409, 422)
            assert "open in another Orvik" in words
        # On the same port there is no second one at all.
        port = address.rsplit(":", 1)[1]
        done = subprocess.run(
            [sys.executable, "-m", "orvik.cli", "serve", "--port", port, "--data", str(tmp_path / "b")],
            capture_output=True,
            text=True,
            timeout=60,
        )
        assert done.returncode == 1
        assert "Traceback" not in done.stderr
    with application(folder) as (address, _):
        assert fetched(f"{address}/p/small/compile")[0] == 200


def test_a_crash_of_the_first_frees_the_project(project: Project) -> None:
    project.close()
    with application(project.path.parent) as (address, process):
        assert fetched(f"{address}/p/small/compile")[0] == 200
        process.kill()
        process.wait(5)
    with application(project.path.parent) as (address, _):
        assert fetched(f"{address}/p/small/compile")[0] == 200
