"""The command line with wrong arguments: one sentence and exit status 1, or argparse's own usage; never a trace."""

from __future__ import annotations

import asyncio
import contextlib
import itertools
import shutil
import socket
import subprocess
import sys
from functools import lru_cache
from pathlib import Path

import pytest

from orvik.cli import main
from orvik.store.project import Project
from orvik.usecases.intake import import_features
from orvik.web.server import listening
from tests.examples import drawn

ODD = (
    "",
    "..",
    "/",
    "nan",
    "-1",
    "9" * 20,
    "9" * 5000,
    "x" * 300,
    "½",
    "\ud83d",
    "a\x00b",
    "1:0",
    "EPSG:",
    "EPSG:99999999",
    "300x",
    "0x0",
    "1e400x1",
)


def run(*arguments: str) -> tuple[int, str]:
    """Exit status and what was said on standard error, in this process."""
    import io

    said = io.StringIO()
    with contextlib.redirect_stderr(said), contextlib.redirect_stdout(io.StringIO()):
        try:
            status = main(list(arguments))
        except SystemExit as left:
            status = int(left.code or 0)
    return status, said.getvalue()


def commands(project: Path, folder: Path) -> list[list[str]]:
    new = [
        "new",
        str(folder / "n.gpkg"),
        "--name",
        "N",
        "--crs",
        "EPSG:32628",
        "--scale",
        "25000",
        "--border=510000,6800000,515000,6804000",
    ]
    return [
        new,
        ["import", str(project), str(project), "--kind", "contact", "--unit-field", "map_unit", "--crs", "EPSG:32628"],
        ["sheet", str(project), "--name", "S", "--paper", "A3"],
        ["export", str(project), "--sheet", "S", "--to", str(folder / "o.pdf"), "--dpi", "100"],
        ["check", str(project)],
        ["form-units", str(project)],
    ]


def test_every_argument_wrong_in_turn(project: Project, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    # An odd name of a file to make is a name all the same: what is made so lies with the test.
    monkeypatch.chdir(tmp_path)
    project.close()
    # The file that is imported is always the same; it need not be opened in a process of its own each time.
    opened = lru_cache(import_features.opened)
    monkeypatch.setattr(import_features, "opened", lambda path: opened(project.path if path.is_file() else path))
    for command in commands(project.path, tmp_path):
        places = [i for i, a in enumerate(command) if i and ("=" in a or not a.startswith("--"))]
        for place, odd in drawn(list(itertools.product(places, ODD)), 12):
            copy = tmp_path / "copy.gpkg"
            shutil.copyfile(project.path, copy)
            (tmp_path / "n.gpkg").unlink(missing_ok=True)
            wrong = [str(copy) if a == str(project.path) else a for a in command]
            wrong[place] = f"{command[place].split('=')[0]}={odd}" if "=" in command[place] else odd
            status, said = run(*wrong)
            assert status in (0, 1, 2), wrong
            assert "Traceback" not in said, wrong
            if status == 1 and wrong[0] != "check":
                assert said.strip(), wrong
                assert len(said.strip().splitlines()) == 1, (wrong, said)
                assert "/tmp/" not in said, (wrong, said)


@pytest.mark.parametrize("port", ["0", "99999", "-1", "x", "8460.5"])
def test_ports_that_are_none(port: str, tmp_path: Path) -> None:
    status, said = run("serve", "--port", port, "--data", str(tmp_path))
    assert status == 2
    assert "not a port" in said


@pytest.mark.parametrize("host", ["0.0.0.0", "::", "192.168.1.1", "example.org", "10.0.0.1", ""])
def test_hosts_beyond_this_machine_are_refused_before_anything_listens(host: str, tmp_path: Path) -> None:
    status, said = run("serve", "--host", host, "--data", str(tmp_path))
    assert status == 2
    assert "other machines" in said


@pytest.mark.parametrize("dpi", ["0", "-300", "nan", "inf", "1e9"])
def test_dots_that_make_no_picture(dpi: str, project: Project, tmp_path: Path) -> None:
    status, said = run("export", str(project.path), "--sheet", "S", "--to", str(tmp_path / "o.png"), "--dpi", dpi)
    assert status == 2
    assert "no useful picture" in said


def test_a_port_that_is_taken_is_said_and_nothing_else(tmp_path: Path) -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        done = subprocess.run(
            [sys.executable, "-m", "orvik.cli", "serve", "--port", str(port), "--data", str(tmp_path)],
            capture_output=True,
            text=True,
            timeout=60,
        )
    assert done.returncode == 1
    assert done.stdout == ""
    assert (
        done.stderr.strip()
        == f"Port {port} of 127.0.0.1 cannot be used (Address already in use); give another one with --port."
    )


def test_small_messages_are_sent_at_once() -> None:
    """A connection that is accepted does not wait for acknowledgements (Nagle's algorithm of RFC 896 is off)."""

    async def accepted() -> int:
        opened: asyncio.Queue[asyncio.StreamWriter] = asyncio.Queue()
        with listening("127.0.0.1", 0) as listener:
            server = await asyncio.start_server(lambda _, writer: opened.put_nowait(writer), sock=listener)
            async with server:
                _, near = await asyncio.open_connection(*listener.getsockname())
                far = await asyncio.wait_for(opened.get(), 10)
                switch: int = far.get_extra_info("socket").getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY)
                near.close()
                far.close()
                return switch

    assert asyncio.run(accepted()) == 1
