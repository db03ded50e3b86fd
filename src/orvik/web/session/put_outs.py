"""Orders that are carried out in a process of their own, one at a time; what came of them waits in a folder.

Each order has a folder: what it is and how it stands in ``order.json``, and its files. An order that was under way
when Orvik was ended is found there, and can be begun anew.
"""

from __future__ import annotations

import asyncio
import json
import multiprocessing
import os
import secrets
import shutil
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from orvik.core.errors import NotFound, OrvikError
from orvik.core.sheet.output.export_settings import ExportResult, Order
from orvik.whole_file import write_whole

FOLDER = ".put-out"
STATE = "order.json"
# An estimate is worth nothing before so many seconds.
EARLY = 1.0
FAULT = "Orvik has met an error of its own; nothing was put out."
STOPPED = "Orvik was ended while this was under way."
JAMMED = "The paper has jammed; clear it, and this is drawn anew."


@dataclass
class PutOut:
    """An order and how it stands.

    Attributes
    ----------
    slug
        Of its project.
    title
        What it is called in lists.
    state
        ``waiting``, ``running``, ``jammed``, ``done``, ``failed`` or ``stopped``.
    share, words
        How far it is, 0 to 1, and what is being done.
    files, said
        What came of it, and what is to be said of that, or why it failed.
    """

    id: str
    slug: str
    title: str
    path: Path
    order: Order
    folder: Path
    state: str = "waiting"
    share: float = 0.0
    words: str = ""
    files: list[str] = field(default_factory=list)
    said: list[str] = field(default_factory=list)
    began: float = 0.0

    @property
    def under_way(self) -> bool:
        return self.state in ("waiting", "running")

    @property
    def left(self) -> str:
        """How long it will take, in words; empty while nobody can know."""
        taken = time.monotonic() - self.began
        if self.state != "running" or taken < EARLY or self.share < 0.03:
            return ""
        seconds = taken / self.share * (1 - self.share)
        return f"about {seconds:.0f} s left" if seconds < 100 else f"about {seconds / 60:.0f} min left"

    @property
    def sizes(self) -> list[tuple[str, str]]:
        """Its files, each with its size in words."""
        return [(name, _size_words(self.folder / name)) for name in self.files]

    def keep(self) -> None:
        """Write down how it stands; the file is whole at any moment."""
        held = {
            "title": self.title,
            "path": str(self.path),
            "order": self.order.kept,
            "state": self.state,
            "files": self.files,
            "said": self.said,
        }
        write_whole(self.folder / STATE, json.dumps(held).encode())


class PutOuts:
    """All orders of an application. All methods run on the event loop."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder / FOLDER
        self._all: dict[str, PutOut] = {put.id: put for put in self._found()}
        self._context = multiprocessing.get_context("forkserver")
        self._running: tuple[PutOut, Any] | None = None
        self._loop: asyncio.AbstractEventLoop | None = None
        # Whether the paper of the plotter stand-in has jammed.
        self.jammed = False

    def _found(self) -> Iterator[PutOut]:
        """Orders of earlier times; one that was under way then has stopped."""
        for state in sorted(self.folder.glob(f"*/*/{STATE}"), key=lambda file: file.stat().st_mtime):
            folder = state.parent
            try:
                held = json.loads(state.read_text(encoding="utf-8"))
                order = Order.of_kept(held["order"])
                put = PutOut(folder.name, folder.parent.name, held["title"], Path(held["path"]), order, folder)
                put.state, put.files, put.said = held["state"], list(held["files"]), list(held["said"])
            except (OSError, ValueError, KeyError, TypeError, OrvikError):
                continue
            if put.state in ("waiting", "running", "jammed"):
                put.state, put.said = "stopped", [STOPPED]
                _empty(folder)
            yield put

    def of(self, slug: str) -> list[PutOut]:
        """The orders of a project, the latest first."""
        return [put for put in reversed(self._all.values()) if put.slug == slug]

    def one(self, slug: str, number: str) -> PutOut:
        """An order; raises NotFound."""
        put = self._all.get(number)
        if put is None or put.slug != slug:
            raise NotFound("That is not being put out any more.")
        return put

    def begin(self, slug: str, path: Path, title: str, order: Order) -> PutOut:
        """Take an order; it is carried out when those before it are."""
        number = secrets.token_hex(6)
        put = PutOut(number, slug, title, path, order, self.folder / slug / number)
        put.folder.mkdir(parents=True)
        put.keep()
        self._all[number] = put
        self._next()
        return put

    def again(self, slug: str, number: str) -> PutOut:
        """Carry an order out anew that has stopped or failed."""
        put = self.one(slug, number)
        if put.state in ("stopped", "failed"):
            self._queue(put)
        return put

    def remove(self, slug: str, number: str) -> None:
        """Cancel an order that is under way, or let go of what came of it; nothing is left of it."""
        put = self.one(slug, number)
        del self._all[number]
        if self._running is not None and self._running[0] is put:
            self._end()
        shutil.rmtree(put.folder, ignore_errors=True)
        self._next()

    def file(self, slug: str, number: str, name: str) -> Path:
        """A file that came of an order; raises NotFound."""
        put = self.one(slug, number)
        if name not in put.files or not (put.folder / name).is_file():
            raise NotFound("That file is no longer there; put it out again.")
        return put.folder / name

    def jam(self, jammed: bool) -> None:
        """Let the paper of the plotter stand-in jam, or clear it: what it was drawing is drawn anew."""
        self.jammed = jammed
        if jammed and self._running is not None and self._running[0].order.plotter is not None:
            put = self._running[0]
            self._end()
            put.state, put.said = "jammed", [JAMMED]
            put.keep()
        for put in self._all.values():
            if put.state == "jammed" and not jammed:
                self._queue(put)
        self._next()

    def close(self) -> None:
        """End what is under way; it is found as stopped the next time."""
        if self._running is not None:
            self._end()

    def _queue(self, put: PutOut) -> None:
        _empty(put.folder)
        put.state, put.files, put.said, put.share, put.words = "waiting", [], [], 0.0, ""
        put.keep()
        self._next()

    def _next(self) -> None:
        """Begin the next order, if none is being carried out."""
        if self._running is not None:
            return
        for put in self._all.values():
            if put.state != "waiting":
                continue
            if put.order.plotter is not None and self.jammed:
                put.state, put.said = "jammed", [JAMMED]
                put.keep()
                continue
            self._start(put)
            return

    def _start(self, put: PutOut) -> None:
        ours, theirs = self._context.Pipe(duplex=False)
        process = self._context.Process(
            target=_carried_out, args=(put.path, put.order.kept, put.folder, theirs), daemon=True
        )
        process.start()
        theirs.close()
        self._running = (put, process)
        self._loop = asyncio.get_running_loop()
        put.state, put.began = "running", time.monotonic()
        put.keep()
        threading.Thread(target=self._listen, args=(put, process, ours), daemon=True).start()

    def _listen(self, put: PutOut, process: Any, ours: Connection) -> None:
        """Runs in a thread: takes what the process tells, until it has ended."""
        outcome: ExportResult | str | None = None
        while outcome is None:
            try:
                told = ours.recv()
            except (EOFError, OSError):
                break
            if isinstance(told, tuple):
                put.share, put.words = told
            else:
                outcome = told
        process.join()
        loop = self._loop
        if loop is not None and not loop.is_closed():
            loop.call_soon_threadsafe(self._ended, put, process, outcome)

    def _ended(self, put: PutOut, process: Any, outcome: ExportResult | str | None) -> None:
        if self._running is None or self._running[1] is not process:
            # It was cancelled, or the paper jammed.
            return
        self._running = None
        if isinstance(outcome, ExportResult):
            put.state, put.share, put.files, put.said = "done", 1.0, outcome.files, outcome.said
        else:
            _empty(put.folder)
            put.state, put.said = "failed", [outcome or FAULT]
        put.keep()
        self._next()

    def _end(self) -> None:
        """End the process that is running, and leave nothing of what it has begun."""
        assert self._running is not None
        put, process = self._running
        self._running = None
        process.terminate()
        process.join()
        _empty(put.folder)


def _carried_out(path: Path, order: dict[str, Any], folder: Path, out: Connection) -> None:
    """Runs in a process of its own."""
    from orvik.usecases.export.export_run import carry_out

    os.nice(10)
    last = 0.0

    def tell(share: float, words: str) -> None:
        nonlocal last
        if time.monotonic() - last > 0.05:
            last = time.monotonic()
            out.send((share, words))

    try:
        done = carry_out(path, Order.of_kept(order), folder, tell)
    except OrvikError as refusal:
        out.send(refusal.sentence)
    except BaseException:
        out.send(FAULT)
        raise
    else:
        out.send(done)
    finally:
        out.close()


def _empty(folder: Path) -> None:
    """Remove all but the state from the folder of an order."""
    for found in folder.iterdir() if folder.is_dir() else ():
        if found.is_dir():
            shutil.rmtree(found, ignore_errors=True)
        elif found.name != STATE:
            found.unlink(missing_ok=True)


def _size_words(file: Path) -> str:
    try:
        size = file.stat().st_size
    except OSError:
        return "gone"
    return f"{size / 1e6:.1f} MB" if size >= 1e5 else f"{size / 1e3:.0f} kB"
