"""What a part can see when it is drawn: its page, the other parts, the panels, and the map in each of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from orvik.core.ink.primitives import Item, moved
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import PanelPartSettings, Part
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.panel import Panel


@dataclass(frozen=True)
class PageContext:
    """A page with its parts; ``panels`` are those of its panels that can be drawn, by number."""

    sheet: Sheet
    parts: Sequence[Part]
    map: MapContext
    panels: Mapping[int, Panel]
    _shown: dict[int, MapContext] = field(default_factory=dict, compare=False, repr=False)

    def shown(self, number: int) -> MapContext:
        """The map as a panel shows it: its features, in its system, at its scale and in its emphasis."""
        if number not in self._shown:
            shown = self.map.for_panel(self.panels[number].natural)
            self._shown[number] = replace(shown, over=self._over(number))
        return self._shown[number]

    def _over(self, number: int) -> list[Item]:
        """What parts lay over a panel, as it lies in the frame of ``natural``."""
        k = 1 / self.panels[number].symbol_scale
        items = [
            item
            for part in self.parts
            if isinstance(part.settings, PanelPartSettings) and part.settings.panel == number
            if part.settings.lies_on_panel
            for item in part.settings.ink(part, self)
        ]
        return list(moved(items, (k, 0.0, 0.0, 0.0, k, 0.0)))
