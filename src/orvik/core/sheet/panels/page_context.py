"""What a part can see when it is drawn: its page, the other parts, the panels, and the map in each of them."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

from orvik.core.ink.primitives import Item, moved
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import FlowSettings, PanelPartSettings, Part
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.panel import Panel


@dataclass(frozen=True)
class PageContext:
    """A page with its parts.

    Attributes
    ----------
    panels
        Those of its panels that can be drawn, by number.
    far
        Panels of other sheets that parts of this one speak of.
    """

    sheet: Sheet
    parts: Sequence[Part]
    map: MapContext
    panels: Mapping[int, Panel]
    far: Mapping[int, Panel] = field(default_factory=dict)
    _shown: dict[int, MapContext] = field(default_factory=dict, compare=False, repr=False)

    def panel(self, number: int | None) -> Panel:
        """A panel of this sheet, or of another one; raises KeyError for one that is none."""
        return self.panels[number or 0] if number in self.panels else self.far[number or 0]

    def knows(self, settings: PanelPartSettings) -> bool:
        """Whether a part of this page can say what it says of its panel."""
        return settings.panel in self.panels or (settings.reads_far and settings.panel in self.far)

    def _flowing(self, kind: type[FlowSettings], panel: int | None) -> list[Part]:
        """The parts of all sheets that a text of a panel may flow through, in the order that they were placed in."""
        others = [part for part in self.map.parts if part.sheet_id != self.sheet.id]
        of_panel = [
            part for part in [*others, *self.parts] if isinstance(part.settings, kind) and part.settings.panel == panel
        ]
        return sorted(of_panel, key=self._placed)

    def _placed(self, part: Part) -> tuple[float, bool, int]:
        """Sheet by sheet, as parts were placed; those that are stored nowhere yet come last."""
        number = part.id or 0
        sheet = part.sheet_id or self.sheet.id
        return sheet if sheet is not None else math.inf, number < 0, abs(number)

    def chain(self, part: Part) -> list[Part]:
        """The parts that the text of one flows through, the one that begins it first, on whatever sheets."""
        settings = part.settings
        assert isinstance(settings, FlowSettings)
        chains: list[list[Part]] = []
        for other in self._flowing(type(settings), settings.panel):
            if isinstance(other.settings, FlowSettings) and other.settings.goes_on and chains:
                chains[-1].append(other)
            else:
                chains.append([other])
        found = next((chain for chain in chains if any(other.id == part.id for other in chain)), [part])
        # The part itself as it is asked for, which may lie elsewhere than it is stored.
        return [part if other.id == part.id else other for other in found]

    def shown(self, number: int) -> MapContext:
        """The map as a panel shows it: its features, in its system, at its scale and in its emphasis."""
        if number not in self._shown:
            shown = self.map.for_panel(self.panel(number).natural)
            self._shown[number] = replace(shown, over=partial(self._over, number))
        return self._shown[number]

    def _over(self, number: int) -> list[Item]:
        """What parts lay over a panel, as it lies in the frame of ``natural``."""
        k = 1 / self.panel(number).symbol_scale
        items = [
            item
            for part in self.parts
            if isinstance(part.settings, PanelPartSettings) and part.settings.panel == number
            if part.settings.lies_on_panel
            for item in part.settings.ink(part, self)
        ]
        return list(moved(items, (k, 0.0, 0.0, 0.0, k, 0.0)))
