"""A bar of tints: what heights the colours of the relief stand for, and how far contour lines are apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from orvik.core.colour.hex import mixed
from orvik.core.errors import OrvikError
from orvik.core.ground.scale import round_step
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.pictures.relief import ReliefStyle, ramp_colours
from orvik.core.sheet.page.entries import Figure, Switch, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.map_context import Underlay
from orvik.core.sheet.panels.page_context import PageContext

# Colours side by side in the bar: more than the eye tells apart.
STEPS = 96
# Figures below the bar, at the most.
FIGURES = 7
TICK = 1.0


@dataclass(frozen=True, kw_only=True)
class TintBar(PanelPartSettings):
    """Of the tinted heights that a panel shows; ``interval`` is whether the contour interval is said in words."""

    kind: ClassVar[str] = "tint_bar"
    label: ClassVar[str] = "Bar of tints"
    icon: ClassVar[str] = "M2 3h20v6H2zM7 3v6M12 3v6M17 3v6M2 9v3M12 9v3M22 9v3"

    interval: bool = entry(Switch("Contour interval"), True)
    size: float = entry(Figure("Letter size", 1, 20, "mm"), 2.2)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 60.0, 12.0

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        panel = page.panels[self.panel or 0]
        shown = [u for u in page.map.underlays if u.relief is not None and panel.underlays.get(str(u.id), 0.0) > 0]
        tinted = next((u for u in shown if u.relief and u.relief.ramp and u.span is not None), None)
        contoured = next((u.relief for u in reversed(shown) if u.relief and u.relief.contours), None)
        if tinted is None and contoured is None:
            return words_instead("The panel shows no tints of heights and no contour lines.", part)
        items: list[Item] = []
        if tinted is not None:
            try:
                items = self._bar(tinted, panel.underlays[str(tinted.id)], part)
            except OrvikError as refusal:
                return words_instead(refusal.sentence, part)
        if self.interval and contoured is not None:
            words = run(f"Contour interval {interval_words(contoured)}", ITALIC, self.size)
            y = part.y + part.height - 0.3 * self.size if items else part.y + cap_height(self.size) + 0.2
            items.append(Text(words, (part.x, y), INK))
        return items

    def _bar(self, underlay: Underlay, opacity: float, part: Part) -> list[Item]:
        style = underlay.relief
        assert style is not None
        assert underlay.span is not None
        known = underlay.span()
        low = known[0] if style.low is None else style.low
        high = known[1] if style.high is None else style.high
        words = self.size * 1.4 if self.interval and style.contours else 0.0
        # The outermost figures stand half beyond the bar's ends.
        margin = max(run(figure(value), ROMAN, self.size).width for value in (low, high)) / 2
        left, right = part.x + margin, part.x + part.width - margin - run(" m", ROMAN, self.size).width
        bottom = part.y + max(1.5, part.height - words - self.size - TICK)
        table = ramp_colours(style.ramp)[:: -1 if style.flipped else 1]
        items: list[Item] = []
        for i in range(STEPS):
            r, g, b = (int(v) for v in table[round(i * 255 / (STEPS - 1))])
            colour = mixed(f"#{r:02X}{g:02X}{b:02X}", "#FFFFFF", opacity)
            # On to the end, so that no gap shows between one and the next.
            items.append(Fill(colour, _box(left + (right - left) * i / STEPS, part.y, right, bottom), np.array([0, 1])))
        items.append(Stroke(LineStyle(0.15, INK, join="miter"), _box(left, part.y, right, bottom)))
        for value in figures(low, high):
            x = left + (right - left) * (value - low) / (high - low)
            items.append(Stroke(LineStyle(0.15, INK), Paths.of([(x, bottom), (x, bottom + TICK)])))
            letters = run(figure(value), ROMAN, self.size, "centre")
            items.append(Text(letters, (x, bottom + TICK + cap_height(self.size) + 0.4), INK))
        last = figures(low, high)[-1]
        at = left + (right - left) * (last - low) / (high - low) + run(figure(last), ROMAN, self.size).width / 2
        items.append(Text(run(" m", ROMAN, self.size), (at, bottom + TICK + cap_height(self.size) + 0.4), INK))
        return items


def interval_words(style: ReliefStyle) -> str:
    """How far contour lines are apart.

    >>> interval_words(ReliefStyle(contours=20)), interval_words(ReliefStyle(contours=1))
    ('20 metres', '1 metre')
    """
    return f"{figure(style.contours)} metre{'' if style.contours == 1 else 's'}"


def figure(value: float) -> str:
    """A height as it is written: with a true minus and thin spaces between thousands.

    >>> figure(-12.5), figure(1250.0)
    ('−12.5', '1\u2009250')
    """
    text = f"{abs(value):,.10g}".replace(",", "\u2009")
    return f"\u2212{text}" if value < 0 else text


def figures(low: float, high: float) -> Sequence[float]:
    """Round heights between two, as many as a bar holds; the ends themselves where none lies between.

    >>> figures(3.0, 412.0)
    [100.0, 200.0, 300.0, 400.0]
    """
    step = round_step((high - low) / FIGURES)
    first, last = int(np.ceil(low / step - 1e-9)), int(np.floor(high / step + 1e-9))
    found = [round(i * step, 9) for i in range(first, last + 1)]
    return found if len(found) > 1 else [low, high]


def _box(left: float, top: float, right: float, bottom: float) -> Paths:
    return Paths.of([(left, top), (right, top), (right, bottom), (left, bottom), (left, top)])
