"""Rows of the tables that have a module of their own in ``tables``, which knows what they hold."""

from __future__ import annotations

import sqlite3
from abc import ABC, abstractmethod
from typing import Any


class TableRows(ABC):
    """Reads rows as they are stored, in their order."""

    @abstractmethod
    def _select(self, sql: str, values: tuple[Any, ...] = ()) -> list[sqlite3.Row]:
        """The rows that a statement gives."""

    def neighbours(self) -> list[sqlite3.Row]:
        """The rows of the neighbouring sheets; see ``tables.neighbours``."""
        return self._select("SELECT * FROM neighbours ORDER BY id")

    def section_settings(self) -> list[sqlite3.Row]:
        """Rows of what is asked of section lines; see ``tables.sections``."""
        return self._select("SELECT * FROM section_settings ORDER BY line_id")

    def pens(self) -> list[sqlite3.Row]:
        """The rows of the pens that the project has put into its tray."""
        return self._select("SELECT * FROM pens ORDER BY position, id")

    def symbols(self) -> list[sqlite3.Row]:
        """The rows of the symbols that the project has drawn for itself, in order."""
        return self._select("SELECT * FROM symbols ORDER BY position, id")

    def symbol_rules(self) -> list[sqlite3.Row]:
        """The rows of the conditional symbols, in order."""
        return self._select("SELECT * FROM symbol_rules ORDER BY position, id")

    def mappings(self) -> list[sqlite3.Row]:
        """The rows of the saved mappings, by name."""
        return self._select("SELECT * FROM mappings ORDER BY name")

    def emphases(self) -> list[sqlite3.Row]:
        """The rows of the emphases, in order."""
        return self._select("SELECT * FROM emphases ORDER BY position, id")

    def file_row(self, checksum: str) -> sqlite3.Row | None:
        """A file of the sheets by its checksum."""
        found = self._select("SELECT name, kind, data FROM files WHERE checksum = ?", (checksum,))
        return found[0] if found else None

    def files_listed(self) -> list[sqlite3.Row]:
        """What the files of the sheets are called, without what they hold."""
        return self._select("SELECT checksum, name, kind FROM files ORDER BY id")

    def templates(self) -> list[sqlite3.Row]:
        """The rows of sheets that others are laid out by."""
        return self._select("SELECT * FROM templates ORDER BY name, id")

    def followed_template_row(self, sheet_id: int) -> sqlite3.Row | None:
        """What a sheet follows."""
        found = self._select("SELECT * FROM followed_templates WHERE sheet_id = ?", (sheet_id,))
        return found[0] if found else None

    def acceptances(self) -> list[sqlite3.Row]:
        """The rows of findings that are let stand."""
        return self._select("SELECT * FROM acceptances ORDER BY dated, id")

    def margin_notes(self) -> list[sqlite3.Row]:
        """The rows of the margin notes that somebody has pinned, answered or given to somebody, in order."""
        return self._select("SELECT * FROM margin_notes ORDER BY id")

    def answers(self) -> list[sqlite3.Row]:
        """The rows of the answers to margin notes, in order."""
        return self._select("SELECT * FROM answers ORDER BY id")

    def proof_rows(self, sheet_id: int) -> list[sqlite3.Row]:
        """The rows of the proofs of a sheet, the latest last."""
        return self._select("SELECT * FROM proofs WHERE sheet_id = ? ORDER BY id", (sheet_id,))

    def begun(self) -> str:
        """When the first entry of the journal was made, ISO 8601: the same in all copies of a project."""
        found = self._select("SELECT at FROM journal ORDER BY id LIMIT 1")
        return str(found[0]["at"]) if found else ""

    def turned_off_rules(self) -> list[sqlite3.Row]:
        """The rows of rules that are set to rest."""
        return self._select("SELECT * FROM turned_off_rules ORDER BY rule")

    def label_moves(self) -> list[sqlite3.Row]:
        """The rows of what hands have done to labels."""
        return self._select("SELECT * FROM label_moves ORDER BY id")

    def label_rules(self) -> list[sqlite3.Row]:
        """The rows of what the labels of kinds say."""
        return self._select("SELECT * FROM label_rules ORDER BY id")

    def kinds(self) -> list[sqlite3.Row]:
        """Kinds of the project's own in order: id, name, label, family, symbol, fields, position."""
        return self._select("SELECT * FROM kinds ORDER BY position, id")
