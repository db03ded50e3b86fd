"""The map panels of a project, on whichever sheets they stand."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.reader import Reader


@dataclass(frozen=True)
class PlacedPanel:
    """A map panel on a sheet; ``settings`` are those of the part."""

    sheet: Sheet
    part: Part
    settings: MapPanel

    def changed(self, **values: Any) -> Change:
        """The change that keeps it with other settings."""
        return rows.part_change(self.part.changed(settings=replace(self.settings, **values)))


def panels_of(project: Reader) -> list[PlacedPanel]:
    """The map panels of all sheets."""
    return [
        PlacedPanel(sheet, part, part.settings)
        for sheet in project.sheets()
        for part in project.parts(sheet.number)
        if isinstance(part.settings, MapPanel)
    ]
