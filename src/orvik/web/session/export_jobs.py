"""Exports that are carried out in a process of their own, one at a time; what came of them waits in a folder.

Each export has a folder: what it is and how it stands in ``order.json``, and its files. An export that was under way
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
from orvik.core.sheet.output.export_settings import ExportResult, ExportRun
from orvik.whole_file import write_whole

FOLDER = ".exports"
# What it was called before; what lies there is found again.
FORMER = ".put-out"
STATE = "order.json"
# An estimate is worth nothing before so many seconds.
EARLY = 1.0
FAULT = "Orvik has met an error of its own; nothing was exported."
STOPPED = "Orvik was ended while this was under way."
JAMMED = "The paper has jammed; clear it, and this is drawn anew."


@dataclass
class ExportJob:
    """An export and how it stands.

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
    run: ExportRun
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
            "order": self.run.to_dict(),
            "state": self.state,
            "files": self.files,
            "said": self.said,
        }
        write_whole(self.folder / STATE, json.dumps(held).encode())


class ExportJobs:
    """All export jobs of an application. All methods run on the event loop."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder / FOLDER
        if (folder / FORMER).is_dir() and not self.folder.exists():
            (folder / FORMER).rename(self.folder)
        self._all: dict[str, ExportJob] = {job.id: job for job in self._found()}
        self._context = multiprocessing.get_context("forkserver")
        self._running: tuple[ExportJob, Any] | None = None
        self._loop: asyncio.AbstractEventLoop | None = None
        # Whether the paper of the plotter stand-in has jammed.
        self.jammed = False

    def _found(self) -> Iterator[ExportJob]:
        """Exports of earlier times; one that was under way then has stopped."""
        for state in sorted(self.folder.glob(f"*/*/{STATE}"), key=lambda file: file.stat().st_mtime):
            folder = state.parent
            try:
                held = json.loads(state.read_text(encoding="utf-8"))
                run = ExportRun.from_dict(held["order"])
                job = ExportJob(folder.name, folder.parent.name, held["title"], Path(held["path"]), run, folder)
                job.state, job.files, job.said = held["state"], list(held["files"]), list(held["said"])
            except (OSError, ValueError, KeyError, TypeError, OrvikError):
                continue
            if job.state in ("waiting", "running", "jammed"):
                job.state, job.said = "stopped", [STOPPED]
                _empty(folder)
            yield job

    def of(self, slug: str) -> list[ExportJob]:
        """The exports of a project, the latest first."""
        return [job for job in reversed(self._all.values()) if job.slug == slug]

    def one(self, slug: str, number: str) -> ExportJob:
        """An export; raises NotFound."""
        job = self._all.get(number)
        if job is None or job.slug != slug:
            raise NotFound("That is not being exported any more.")
        return job

    def begin(self, slug: str, path: Path, title: str, run: ExportRun) -> ExportJob:
        """Take an export; it is carried out when those before it are."""
        number = secrets.token_hex(6)
        job = ExportJob(number, slug, title, path, run, self.folder / slug / number)
        job.folder.mkdir(parents=True)
        job.keep()
        self._all[number] = job
        self._next()
        return job

    def again(self, slug: str, number: str) -> ExportJob:
        """Carry an export out anew that has stopped or failed."""
        job = self.one(slug, number)
        if job.state in ("stopped", "failed"):
            self._queue(job)
        return job

    def remove(self, slug: str, number: str) -> None:
        """Cancel an export that is under way, or let go of what came of it; nothing is left of it."""
        job = self.one(slug, number)
        del self._all[number]
        if self._running is not None and self._running[0] is job:
            self._end()
        shutil.rmtree(job.folder, ignore_errors=True)
        self._next()

    def file(self, slug: str, number: str, name: str) -> Path:
        """A file that came of an export; raises NotFound."""
        job = self.one(slug, number)
        if name not in job.files or not (job.folder / name).is_file():
            raise NotFound("That file is no longer there; export it again.")
        return job.folder / name

    def jam(self, jammed: bool) -> None:
        """Let the paper of the plotter stand-in jam, or clear it: what it was drawing is drawn anew."""
        self.jammed = jammed
        if jammed and self._running is not None and self._running[0].run.plotter is not None:
            job = self._running[0]
            self._end()
            job.state, job.said = "jammed", [JAMMED]
            job.keep()
        for job in self._all.values():
            if job.state == "jammed" and not jammed:
                self._queue(job)
        self._next()

    def close(self) -> None:
        """End what is under way; it is found as stopped the next time."""
        if self._running is not None:
            self._end()

    def _queue(self, job: ExportJob) -> None:
        _empty(job.folder)
        job.state, job.files, job.said, job.share, job.words = "waiting", [], [], 0.0, ""
        job.keep()
        self._next()

    def _next(self) -> None:
        """Begin the next export, if none is being carried out."""
        if self._running is not None:
            return
        for job in self._all.values():
            if job.state != "waiting":
                continue
            if job.run.plotter is not None and self.jammed:
                job.state, job.said = "jammed", [JAMMED]
                job.keep()
                continue
            self._start(job)
            return

    def _start(self, job: ExportJob) -> None:
        ours, theirs = self._context.Pipe(duplex=False)
        process = self._context.Process(
            target=_carried_out, args=(job.path, job.run.to_dict(), job.folder, theirs), daemon=True
        )
        process.start()
        theirs.close()
        self._running = (job, process)
        self._loop = asyncio.get_running_loop()
        job.state, job.began = "running", time.monotonic()
        job.keep()
        threading.Thread(target=self._listen, args=(job, process, ours), daemon=True).start()

    def _listen(self, job: ExportJob, process: Any, ours: Connection) -> None:
        """Runs in a thread: takes what the process tells, until it has ended."""
        outcome: ExportResult | str | None = None
        while outcome is None:
            try:
                told = ours.recv()
            except (EOFError, OSError):
                break
            if isinstance(told, tuple):
                job.share, job.words = told
            else:
                outcome = told
        process.join()
        loop = self._loop
        if loop is not None and not loop.is_closed():
            loop.call_soon_threadsafe(self._ended, job, process, outcome)

    def _ended(self, job: ExportJob, process: Any, outcome: ExportResult | str | None) -> None:
        if self._running is None or self._running[1] is not process:
            # It was cancelled, or the paper jammed.
            return
        self._running = None
        if isinstance(outcome, ExportResult):
            job.state, job.share, job.files, job.said = "done", 1.0, outcome.files, outcome.said
        else:
            _empty(job.folder)
            job.state, job.said = "failed", [outcome or FAULT]
        job.keep()
        self._next()

    def _end(self) -> None:
        """End the process that is running, and leave nothing of what it has begun."""
        assert self._running is not None
        job, process = self._running
        self._running = None
        process.terminate()
        process.join()
        _empty(job.folder)


def _carried_out(path: Path, run: dict[str, Any], folder: Path, out: Connection) -> None:
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
        done = carry_out(path, ExportRun.from_dict(run), folder, tell)
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
    """Remove all but the state from the folder of an export."""
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
