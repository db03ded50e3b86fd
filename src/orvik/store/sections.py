"""What is drawn on one section, read and changed as if it were a map.

A connection of its own shows the rows of one section under the names of the map's tables, by views that are no part of
the file; so all that reads maps reads sections. Changes go through the project, in its one journal.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import shapely

from orvik.core.errors import NotFound
from orvik.core.features.feature import Features, no_features
from orvik.core.features.kind import SECTION_LINE
from orvik.core.features.table import SECTION_TABLES, TABLES, Table
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.structure.section.meeting import NO_ENDS, Ends, MeetingPlace, ends_met
from orvik.core.structure.section.section_plane import SectionPlane
from orvik.store.changeable import Changeable
from orvik.store.connections import reading_beside
from orvik.store.feature_tables import SECTION_SRS_ID
from orvik.store.geometry import decoded
from orvik.store.journal import Change, Entry, RowChange
from orvik.store.project import Project
from orvik.store.rows import LayerState

# Which lines of the map the ends of a line were put to.
ENDS = ("first_meets", "last_meets")
_MAP_TABLES: Mapping[str, Table] = {name: table for table, name in SECTION_TABLES.items()}


def show_section(connection: sqlite3.Connection, line_id: int) -> None:
    """Let a connection show what is drawn on a section under the names of the map's tables.

    A view of the connection's own goes before a table of the file.
    """
    for table, name in SECTION_TABLES.items():
        columns = [row[1] for row in connection.execute(f"PRAGMA main.table_info({table})")]
        where = f"section_id = {int(line_id)}"
        connection.execute(f"CREATE TEMP VIEW {table} AS SELECT {', '.join(columns)} FROM main.{name} WHERE {where}")
        connection.execute(
            f"CREATE TEMP VIEW rtree_{table}_geom AS SELECT * FROM main.rtree_{name}_geom "
            f"WHERE id IN (SELECT id FROM main.{name} WHERE {where})"
        )


class SectionProject(Changeable):
    """What is drawn on a section of a project that is open, to be changed.

    Parameters
    ----------
    places
        Gives where lines of the map cross it: ends that are put there are remembered.
    """

    def __init__(self, project: Project, line_id: int, places: Callable[[], Sequence[MeetingPlace]]) -> None:
        connection = reading_beside(project.path)
        # Its own views are all that is written by it.
        connection.execute("PRAGMA query_only = OFF")
        show_section(connection, line_id)
        connection.execute("PRAGMA query_only = ON")
        super().__init__(project.path, connection)
        self.project, self.line_id, self._places = project, line_id, places
        self.crs, self.srs_id = SectionPlane(), SECTION_SRS_ID

    @property
    def revision(self) -> int:
        """That of the project."""
        return self.project.revision

    @revision.setter
    def revision(self, value: int) -> None:
        """It has none of its own."""

    def drawn_ids(self, table: Table, line_id: int) -> list[int]:
        """Lines of a section have no sections of their own."""
        return []

    def drawn_features(self, line_id: int) -> dict[Table, Features]:
        """Lines of a section have no sections of their own."""
        return no_features()

    def stack(self) -> dict[str, LayerState]:
        """A section has no layers that could be hidden or locked."""
        return {}

    def draft(self, window_id: str) -> str | None:
        """What is being drawn on it in a window; None for nothing."""
        return self.project.draft(self._seat(window_id))

    def drafts_left(self, taken: frozenset[str]) -> list[tuple[str, str]]:
        """What was left half drawn on it in windows that are open no more."""
        listed = self._select(
            "SELECT window_id, drawing FROM drafts WHERE window_id LIKE ? ORDER BY id DESC", (self._seat("%"),)
        )
        seats = [(str(row["window_id"]).partition("/")[0], str(row["drawing"])) for row in listed]
        return [(window, drawing) for window, drawing in seats if window not in taken]

    def set_draft(self, window_id: str, drawing: str | None) -> None:
        """Keep what is being drawn on it in a window, or forget it."""
        self.project.set_draft(self._seat(window_id), drawing)

    def _seat(self, window_id: str) -> str:
        return f"{window_id}/{self.line_id}"

    def changed_after(self, table: str, row_id: int, revision: int) -> bool:
        """Whether a row was changed after a revision, or another program has written since."""
        return self.project.changed_after(_stored(table), row_id, revision)

    def apply(
        self, label: str, changes: Sequence[Change], seen: int | None = None, files: Sequence[KeptFile] = ()
    ) -> Entry:
        """As ``Project.apply``, for what is drawn on this section; raises NotFound where its line is gone."""
        line = self.project.whole("lines", [self.line_id]).get(self.line_id)
        if line is None or line.kind != SECTION_LINE:
            raise NotFound("This section is no longer on the map; undo brings it back.")
        entry = self.project.apply(label, [self._change(change) for change in changes], seen, files)
        return self.shown(entry)

    def shown(self, entry: Entry) -> Entry:
        """An entry of the project with what it changed on this section alone, as if that were the map."""
        mine = (self._shown(change) for change in entry.changes)
        return replace(entry, changes=tuple(change for change in mine if change is not None))

    def _shown(self, change: RowChange) -> RowChange | None:
        table = _MAP_TABLES.get(change.table)
        row = change.after or change.before or {}
        return replace(change, table=table) if table and row.get("section_id") == self.line_id else None

    def _change(self, change: Change) -> Change:
        name = _stored(change.table)
        if name == change.table or change.values is None:
            return replace(change, table=name)
        values: dict[str, Any] = dict(change.values)
        if change.id is None:
            values["section_id"] = self.line_id
        if change.table == "lines" and "geom" in values:
            values |= dict(zip(ENDS, self._ends(change), strict=True))
        return Change(name, change.id, values)

    def _ends(self, change: Change) -> Ends:
        assert change.values is not None
        line = decoded(change.values["geom"])
        before = None
        if isinstance(change.id, int):
            before = self.drawn_ends(self.line_id).get(change.id)
        return ends_met(line, self._places(), before) if isinstance(line, shapely.LineString) else NO_ENDS


def _stored(table: str) -> str:
    """The table of the file in which a table of a section's features stands; any other is what it is."""
    return next((SECTION_TABLES[one] for one in TABLES if one == table), table)
