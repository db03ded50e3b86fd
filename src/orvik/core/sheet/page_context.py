"""What a part can see when it is drawn: its page, the other parts, the panels, and the map in each of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from orvik.core.sheet.map_context import MapContext
from orvik.core.sheet.page import Sheet
from orvik.core.sheet.panel import Panel
from orvik.core.sheet.part import Part


@dataclass(frozen=True)
class PageContext:
    """A page with its parts; ``panels`` are those of its panels that can be drawn, by number."""

    sheet: Sheet
    parts: Sequence[Part]
    map: MapContext
    panels: Mapping[int, Panel]
    _shown: dict[int, MapContext] = field(default_factory=dict, compare=False, repr=False)

    def shown(self, number: int) -> MapContext:
        """The map as a panel shows it: its features, in its system, at its scale and in its theme."""
        if number not in self._shown:
            self._shown[number] = self.map.for_panel(self.panels[number].natural)
        return self._shown[number]
