"""A bar that turns heights in metres into feet: metres above it, feet below."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from orvik.core.ground.scale import round_step
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.sheet.page.entries import Figure, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.tint_bar import figure

# The international foot in metres (NIST Special Publication 811, 2008, appendix B).
FOOT = 0.3048
# About so many figures stand on either side, and so many ticks between two.
FIGURES, BETWEEN = 5, 5
TICK, SMALL_TICK = 1.4, 0.7


@dataclass(frozen=True, kw_only=True)
class ConversionBar(PanelPartSettings):
    """``low`` and ``high`` are in metres; left empty, they are those of the heights that the panel shows.

    Of a panel that shows none they are those of all that the project has.
    """

    kind: ClassVar[str] = "conversion_bar"
    is_slow: ClassVar[bool] = True
    label: ClassVar[str] = "Metres to feet"
    icon: ClassVar[str] = "M2 8h20M2 8V4M9 8V4M16 8V4M22 8V4M5 8v4M12 8v4M19 8v4"

    low: float | None = entry(Figure("From", -12_000, 9_000, "m", optional=True), None)
    high: float | None = entry(Figure("To", -12_000, 9_000, "m", optional=True), None)
    size: float = entry(Figure("Letter size", 1, 20, "mm"), 2.2)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 80.0, 12.0

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        ends = self._ends(page)
        if ends is None:
            return words_instead("The project has no heights; type from where to where in metres.", part)
        low, high = ends
        if high <= low:
            return words_instead("It runs from a lower height to a higher one; type other metres.", part)
        unit = max(run(word, ITALIC, self.size).width for word in ("metres", "feet")) + 1.5
        margin = max(run(figure(value), ROMAN, self.size).width for value in (low, high, high / FOOT)) / 2
        left, right = part.x + margin, part.x + part.width - unit - margin
        if right - left < 10:
            return words_instead("There is no room for the bar; make the part wider.", part)
        line = part.middle[1]
        k = (right - left) / (high - low)
        ticks: list[list[tuple[float, float]]] = [[(left, line), (right, line)]]
        items: list[Item] = []
        for metres, way, word in ((1.0, -1, "metres"), (FOOT, 1, "feet")):
            step = round_step((high - low) / metres / FIGURES)
            fine = step / BETWEEN
            first, last = int(np.ceil(low / metres / fine - 1e-9)), int(np.floor(high / metres / fine + 1e-9))
            edge = line + way * (TICK + 0.4) + (cap_height(self.size) if way > 0 else 0.0)
            for i in range(first, last + 1):
                x = left + (i * fine * metres - low) * k
                is_main = i % BETWEEN == 0
                ticks.append([(x, line), (x, line + way * (TICK if is_main else SMALL_TICK))])
                if is_main:
                    items.append(Text(run(figure(round(i * fine, 6)), ROMAN, self.size, "centre"), (x, edge), INK))
            items.append(Text(run(word, ITALIC, self.size), (right + margin + 1.5, edge), INK))
        return [Stroke(LineStyle(0.18, INK, cap="square"), Paths.of(*ticks)), *items]

    def _ends(self, page: PageContext) -> tuple[float, float] | None:
        """What is typed; else round heights around those that the panel shows."""
        low, high = self.low, self.high
        if low is None or high is None:
            panel = page.panels[self.panel or 0]
            known = [(u.span, panel.underlays.get(str(u.id), 0.0) > 0) for u in page.map.underlays if u.span]
            # Where the panel shows none, those of the project.
            shown = [span() for span, is_shown in known if is_shown] or [span() for span, _ in known]
            if not shown:
                return None
            lowest, highest = min(span[0] for span in shown), max(span[1] for span in shown)
            step = round_step(max(highest - lowest, 1.0) / FIGURES)
            low = float(np.floor(lowest / step) * step) if low is None else low
            high = float(np.ceil(highest / step) * step) if high is None else high
        return low, high
