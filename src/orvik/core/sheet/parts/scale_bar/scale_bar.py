"""The scale bar: round lengths that hold on its panel."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.errors import OrvikError
from orvik.core.ground.scale import spaced
from orvik.core.ink.primitives import INK, Item, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.sheet.page.entries import Choice, Colour, Figure, GroundPlace, Switch, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.panels.scale_distortion import factor_along
from orvik.core.sheet.parts.scale_bar.designs import DESIGNS, bar_ink
from orvik.core.sheet.parts.scale_bar.lengths import BarLength, found_for, of_length

TRUE_FOR = {"nominal": "the nominal scale", "middle": "the panel's middle", "place": "a place"}
TWO = {"": "one bar", **{name: f"and one in {word}" for name, word in (("metric", "metres"), ("miles", "miles"))}}
# Between a figure and its bar, and between two bars.
GAP = 0.9
BETWEEN = 1.2


@dataclass(frozen=True, kw_only=True)
class ScaleBar(PanelPartSettings):
    """A bar of round lengths.

    Attributes
    ----------
    design
        A name of ``bar_designs.DESIGNS``.
    units, second
        Names of ``UNITS``; ``second`` is empty where there is one bar alone.
    length
        What the last figure says, in kilometres, miles, feet or nautical miles; None for as much as the room allows.
    divisions
        To the right of nought; None for as many as are round.
    divided
        Whether a finer division stands to the left of nought.
    true_for
        Where the bar holds: a name of ``TRUE_FOR``.
    place
        The place that it holds for, in the panel's system.
    """

    kind: ClassVar[str] = "scale_bar"
    label: ClassVar[str] = "Scale bar"
    stands_by: ClassVar[bool] = True
    icon: ClassVar[str] = "M2 6h20v4H2zM2 8h5M12 8h5"
    measures: ClassVar[bool] = True
    essential_in_figures: ClassVar[tuple[str, ...]] = ("Scale bar",)
    essential: ClassVar[tuple[str, ...]] = ("Scale bar",)

    design: str = entry(Choice("Design", {name: title for name, (title, *_) in DESIGNS.items()}), "chequered")
    units: str = entry(
        Choice("In", {"metric": "metres", "miles": "miles", "feet": "feet", "nautical": "nautical miles"}), "metric"
    )
    second: str = entry(Choice("Second bar", TWO), "")
    length: float | None = entry(Figure("Length", 1e-3, 1e5, optional=True), None)
    divisions: float | None = entry(Figure("Divisions", 1, 10, whole=True, optional=True), None)
    divided: bool = entry(Switch("Divided left of 0"), True)
    true_for: str = entry(Choice("True for", TRUE_FOR), "nominal")
    place: tuple[float, float] | None = entry(GroundPlace("Place", optional=True), None)
    size: float = entry(Figure("Figure size", 1, 20, "mm"), 2.4)
    colour: str | None = entry(Colour("Colour"), INK)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 85.0, 8.0

    def scale_on(self, panel: Panel) -> float:
        """The true denominator where the bar holds; raises SheetRefused where that is nowhere."""
        if self.true_for == "nominal":
            return panel.scale
        at = self.place if self.true_for == "place" and self.place is not None else panel.centre
        # A bar lies across the page, whichever way the ground is turned there.
        return panel.scale / factor_along(panel.crs, at, (panel.to_ground[0], panel.to_ground[3]))

    def where(self, panel: Panel) -> str:
        """Where it holds, in words."""
        if self.true_for != "place" or self.place is None:
            return "at the middle of the map"
        east, north = self.place
        return f"at {spaced(east)} E {spaced(north)} N in {panel.crs.label}"

    def bar(self, room: float, scale: float, units: str) -> BarLength:
        """The divisions of one of its bars; raises SheetRefused where none fit."""
        if self.length is not None and units == self.units:
            return of_length(self.length, units, int(self.divisions) if self.divisions else None, self.divided)
        return found_for(room, scale, units, self.divided)

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        try:
            scale = self.scale_on(page.panels[self.panel or 0])
            bars = self._fitting(part.width, scale)
        except OrvikError as refusal:
            return words_instead(refusal.sentence, part)
        before = max(self._mm(bar.left, bar, scale) + self._before(bar) for bar in bars)
        top = part.y + cap_height(self.size) + GAP + 0.3
        items = self._bar_ink(bars[0], part.x + before, top, scale, above=True)
        if len(bars) > 1:
            height = DESIGNS[self.design][1]
            items += self._bar_ink(bars[1], part.x + before, top + height + BETWEEN, scale, above=False)
        return items

    def _fitting(self, width: float, scale: float) -> list[BarLength]:
        """The bars that find room with their figures and the word after them; one whose length is typed may not."""
        room = width
        for _ in range(12):
            bars = [self.bar(room, scale, units) for units in (self.units, self.second) if units]
            left = max(self._mm(bar.left, bar, scale) + self._before(bar) for bar in bars)
            right = max(self._mm(bar.end, bar, scale) + self._after(bar) for bar in bars)
            if left + right <= width or self.length is not None:
                return bars
            # Less than the longest has now, so that it becomes a shorter one.
            room = max(self._mm(bar.left + bar.end, bar, scale) for bar in bars) - (left + right - width)
        return bars

    def _before(self, bar: BarLength) -> float:
        """Room to the left of a bar for half its first figure."""
        return run(_figure(bar.left), ROMAN, self.size).width / 2

    def _after(self, bar: BarLength) -> float:
        """Room to the right of a bar for half its last figure and the unit."""
        figure, word = run(_figure(bar.end), ROMAN, self.size), run(bar.unit.word, ROMAN, self.size)
        return figure.width / 2 + self.size * 0.5 + word.width

    @staticmethod
    def _mm(value: float, bar: BarLength, scale: float) -> float:
        return value * bar.unit.metres * 1000 / scale

    def _bar_ink(self, bar: BarLength, zero: float, top: float, scale: float, above: bool) -> list[Item]:
        colour = self.colour or INK
        step = self._mm(bar.step, bar, scale)
        edges = [zero - step + step * i / bar.splits for i in range(bar.splits)] if bar.splits else []
        edges += [zero + step * i for i in range(bar.count + 1)]
        items = bar_ink(self.design, edges, bar.splits, top, colour)
        height = DESIGNS[self.design][1]
        y = top - GAP if above else top + height + GAP + cap_height(self.size)
        values = [-bar.left] if bar.splits else []
        values += [bar.step * i for i in range(bar.count + 1)]
        for value in self._apart(values, bar, scale):
            letters = run(_figure(value), ROMAN, self.size, "centre")
            items.append(Text(letters, (zero + self._mm(value, bar, scale), y), colour))
        last = run(_figure(bar.end), ROMAN, self.size)
        at = zero + self._mm(bar.end, bar, scale) + last.width / 2 + self.size * 0.5
        word = bar.unit.word if bar.end != 1 else bar.unit.word.removesuffix("s")
        items.append(Text(run(word, ROMAN, self.size), (at, y), colour))
        return items

    def _apart(self, values: list[float], bar: BarLength, scale: float) -> list[float]:
        """The values whose figures do not run into each other: nought and the last one first."""
        order = [0.0, bar.end, *(v for v in reversed(values) if v not in (0.0, bar.end))]
        kept: list[tuple[float, float, float]] = []
        for value in order:
            half = run(_figure(value), ROMAN, self.size).width / 2 + self.size * 0.2
            at = self._mm(value, bar, scale)
            if all(abs(at - other) >= half + room for _, other, room in kept):
                kept.append((value, at, half))
        return [value for value, _, _ in kept]


def _figure(value: float) -> str:
    return f"{abs(value):.10g}"
