"""What is written to a project file but is no edit: lines begun and not finished, and how the stack stands."""

from __future__ import annotations

from typing import Any

from orvik.store import rows
from orvik.store.changeable import Changeable


class Unjournalled(Changeable):
    """A project with what stands beside its journal."""

    def _put(self, sql: str, values: tuple[Any, ...]) -> None:
        """Write what is kept but not journalled; raises ProjectRefused where the file cannot be written."""
        raise NotImplementedError

    # Drafts: lines begun and not finished, kept but not journalled

    def draft(self, window_id: str) -> str | None:
        """What is being drawn in a window; None for nothing."""
        found = self._select("SELECT drawing FROM drafts WHERE window_id = ?", (window_id,))
        return str(found[0]["drawing"]) if found else None

    def drafts_left(self, taken: frozenset[str]) -> list[tuple[str, str]]:
        """What was left half drawn in windows that are open no more: window and drawing, the latest first."""
        listed = self._select("SELECT window_id, drawing FROM drafts WHERE window_id NOT LIKE '%/%' ORDER BY id DESC")
        return [(r["window_id"], str(r["drawing"])) for r in listed if r["window_id"] not in taken]

    def set_draft(self, window_id: str, drawing: str | None) -> None:
        """Keep what is being drawn in a window, or forget it."""
        if drawing is None:
            self._put("DELETE FROM drafts WHERE window_id = ?", (window_id,))
            return
        self._put(
            "INSERT INTO drafts (window_id, drawing) VALUES (?, ?) "
            "ON CONFLICT (window_id) DO UPDATE SET drawing = excluded.drawing",
            (window_id, drawing),
        )

    def forget_drafts(self) -> None:
        """Forget all that is being drawn; it stands in a coordinate system that is no more."""
        self._put("DELETE FROM drafts", ())

    # The stack: a way of looking, kept but not journalled

    def stack(self) -> dict[str, rows.LayerState]:
        """How each layer stands, by name."""
        return {r["layer"]: rows.layer_state(r) for r in self._select("SELECT * FROM stack")}

    def set_layer(self, layer: str, state: rows.LayerState) -> None:
        """Keep how a layer stands."""
        self._put(
            "INSERT INTO stack (layer, shown, locked, opacity) VALUES (?, ?, ?, ?) "
            "ON CONFLICT (layer) DO UPDATE SET shown = excluded.shown, locked = excluded.locked, "
            "opacity = excluded.opacity",
            (layer, int(state.shown), int(state.locked), state.opacity),
        )
