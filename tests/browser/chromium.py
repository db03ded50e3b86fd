"""Debian's Chromium, headless, and an application of our own to look at with it."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

from orvik.web.app import create_app
from orvik.web.server import listening, server_of

# A browser keeps what pages of an address have stored, so no address is given twice.
PORTS_USED: set[int] = set()

FLAGS = (
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    "--hide-scrollbars",
    "--force-device-scale-factor=1",
    "--font-render-hinting=none",
)


@contextmanager
def browser(width: int = 1280, height: int = 800, downloads: Path | None = None) -> Iterator[webdriver.Chrome]:
    """A browser whose page is exactly so large."""
    with tempfile.TemporaryDirectory() as profile:
        options = Options()
        options.binary_location = "/usr/bin/chromium"
        for flag in (*FLAGS, f"--user-data-dir={profile}", f"--window-size={width},{height}"):
            options.add_argument(flag)
        # Pictures may take their time; what a test waits for, it waits for by name.
        options.page_load_strategy = "eager"
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        if downloads:
            options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
        driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        try:
            # Two processors may have four browsers and their applications to serve.
            driver.set_script_timeout(150)
            resize(driver, width, height)
            yield driver
        finally:
            driver.quit()


def resize(driver: webdriver.Chrome, width: int = 1280, height: int = 800, dots: float = 1.0) -> None:
    """Make the page exactly so large, in CSS pixels of so many dots each."""
    metrics = {"width": width, "height": height, "deviceScaleFactor": dots, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)


@contextmanager
def served(data: Path) -> Iterator[str]:
    """Orvik in a thread of this process, which is there at once; gives its address."""
    with fresh_listener() as listener:
        server = server_of(create_app(data))
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
        thread.start()
        try:
            while not server.started and thread.is_alive():
                time.sleep(0.02)
            yield f"http://127.0.0.1:{listener.getsockname()[1]}"
        finally:
            server.should_exit = True
            thread.join(20)


def fresh_listener() -> socket.socket:
    """A socket that listens where no test of this process has listened."""
    with ExitStack() as passed_over:
        while True:
            listener = listening("127.0.0.1", 0)
            port = int(listener.getsockname()[1])
            if port not in PORTS_USED:
                PORTS_USED.add(port)
                return listener
            passed_over.enter_context(listener)


def free_port() -> int:
    """A port that nobody listens on and that no test of this process has had."""
    while True:
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            port = int(s.getsockname()[1])
        if port not in PORTS_USED:
            PORTS_USED.add(port)
            return port


@contextmanager
def application(data: Path, command: str = "serve") -> Iterator[tuple[str, subprocess.Popen[bytes]]]:
    """Orvik in a process of its own; gives its address and the process."""
    port = free_port()
    process = subprocess.Popen(
        [sys.executable, "-m", "orvik.cli", command, "--port", str(port), "--data", str(data)],
        stdout=subprocess.DEVNULL,
        env=os.environ | {"PYTHONUNBUFFERED": "1"},
    )
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(1500):
            try:
                urllib.request.urlopen(address, timeout=2).read()
                break
            except OSError:
                if process.poll() is not None:
                    raise RuntimeError("orvik did not start") from None
                time.sleep(0.1)
        else:
            raise RuntimeError("orvik did not answer")
        yield address, process
    finally:
        process.terminate()
        try:
            process.wait(8)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
