"""What can be read and changed as a map is: the map of a project, or what is drawn on one of its sections."""

from __future__ import annotations

from collections.abc import Sequence

from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.store.journal import Change, Entry
from orvik.store.read_project import ReadProject
from orvik.store.rows import LayerState


class Changeable(ReadProject):
    """Features that can be read, and changed one transaction at a time."""

    def stack(self) -> dict[str, LayerState]:
        """How each layer stands, by name."""
        raise NotImplementedError

    def draft(self, window_id: str) -> str | None:
        """What is being drawn in a window; None for nothing."""
        raise NotImplementedError

    def drafts_left(self, taken: frozenset[str]) -> list[tuple[str, str]]:
        """What was left half drawn in windows that are open no more: window and drawing, the latest first."""
        raise NotImplementedError

    def set_draft(self, window_id: str, drawing: str | None) -> None:
        """Keep what is being drawn in a window, or forget it."""
        raise NotImplementedError

    def apply(
        self, label: str, changes: Sequence[Change], seen: int | None = None, files: Sequence[KeptFile] = ()
    ) -> Entry:
        """Carry out changes as one transaction and one journal entry; see ``Project.apply``."""
        raise NotImplementedError

    def changed_after(self, table: str, row_id: int, revision: int) -> bool:
        """Whether a row was changed after a revision, or another program has written since."""
        raise NotImplementedError
