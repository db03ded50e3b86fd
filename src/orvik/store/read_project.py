"""A project file opened to be read: it reads no journal, so that a long history costs a worker nothing."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from orvik.core.errors import ProjectRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.store import reference_systems
from orvik.store.listing import ListingReader
from orvik.store.opening import crs_in, opened

# How long a reader may hold the project as it was, in seconds, unless it says otherwise.
SNAPSHOT_SECONDS = 60.0
# The same of what looks at a whole map, or prints it.
LONG_SNAPSHOT_SECONDS = 300.0


class ReadProject(ListingReader):
    """What is read of a project file, as of the revision that it states. Safe to call from any thread."""

    def __init__(self, path: Path, connection: sqlite3.Connection) -> None:
        super().__init__(connection)
        self.path = path
        self.crs: ProjectCrs = crs_in(connection)
        self.srs_id = reference_systems.number_of(connection, self.crs)
        self.revision = self._last_revision()

    @staticmethod
    def open(path: Path) -> ReadProject:
        """Open a project file to be read; raises ProjectRefused as ``opened`` does."""
        return ReadProject(path, opened(path, writable=False).connection)

    def _last_revision(self) -> int:
        return int(self._connection.execute("SELECT coalesce(max(id), 0) FROM journal").fetchone()[0])

    @contextmanager
    def snapshot(self, seconds: float = SNAPSHOT_SECONDS) -> Iterator[None]:
        """Everything read within belongs to one revision, whatever is written meanwhile.

        Parameters
        ----------
        seconds
            How long it is held at the most: so long the log cannot move into the file.

        Raises
        ------
        ProjectRefused
            Something was to be read after that; what was read before belongs together.
        """
        ended = threading.Event()

        def end() -> None:
            ended.set()
            self._connection.interrupt()
            self._connection.close()

        with self._lock:
            self._connection.execute("BEGIN")
            timer = threading.Timer(seconds, end)
            timer.daemon = True
            if self._may_be_ended:
                timer.start()
            try:
                self.revision = self._last_revision()
                yield
            except sqlite3.Error as error:
                if ended.is_set():
                    raise ProjectRefused(
                        f"This took more than {seconds:g} seconds while the project was held as it was, and was ended; "
                        "try again, or do it in parts."
                    ) from error
                raise
            finally:
                timer.cancel()
                # Ended in this very moment, there is nothing left to let go.
                with suppress(sqlite3.ProgrammingError):
                    if not ended.is_set():
                        self._connection.execute("COMMIT")

    @property
    def _may_be_ended(self) -> bool:
        """Whether a snapshot that is held too long is ended: where somebody else writes."""
        return True

    def number_of(self, crs: ProjectCrs) -> int:
        """The number of a system in this file, or the one it would have."""
        with self._lock:
            return reference_systems.number_of(self._connection, crs)

    def close(self) -> None:
        """Let the file go."""
        self._connection.close()


@contextmanager
def opened_for_reading(path: Path) -> Iterator[ReadProject]:
    """A project opened to be read, and closed again; raises ProjectRefused."""
    project = ReadProject.open(path)
    try:
        yield project
    finally:
        project.close()
