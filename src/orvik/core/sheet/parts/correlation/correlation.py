"""The correlation of map units as a part: boxes as high as their time, the ages of the chart beside them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any, ClassVar, Self

import numpy as np

from orvik.core.features.age import Age, spoken
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke, Text
from orvik.core.lettering import CAPITALS, ITALIC, ROMAN, cap_height, run
from orvik.core.sheet.page.entries import Choice, Figure, Switch, Words, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.printed_units import printed_unit, shown_units
from orvik.core.sheet.parts.correlation.box_moves import NO_MOVES, BoxMoves, BoxMovesEntry
from orvik.core.sheet.parts.correlation.boxes import Boxes, UnitBox, boxes_of
from orvik.core.sheet.parts.correlation.time_scale import PHANEROZOIC, SCALES, TimeScale, holder, time_scale
from orvik.core.symbols.specimen import unit_specimen
from orvik.core.typesetting.paragraph import Line, lines_of
from orvik.core.typesetting.spans import Span

HAIR, LINE = LineStyle(0.1, INK), LineStyle(0.25, INK)
# In heights of letters.
TITLE, TITLE_ROOM, LEADING = 1.75, 3.6, 1.2
WIDEST = 9.0
# Which ranks have braces, how close lanes come and how narrow they become where there are many: the first that fits.
RANKS = (("period", "era", "eon", "super-eon"), ("period", "era", "eon"), ("period", "era"), ("period",))
NARROWEST = ((1.0, 3.2), (0.6, 2.6), (0.35, 2.2))
LANE_GAP, COLUMN_GAP = 0.9, 2.2
HIGHEST, LOWEST = 3.4, 1.4
# Between a box and the ends of its time.
INSET = 0.12
WAVE, WAVE_ROOM = 0.28, 0.8


@dataclass(frozen=True)
class CorrelationLayout:
    """A correlation that is laid out; lengths are in millimetres on the page.

    Attributes
    ----------
    boxes
        What stands where, with the left edge of each lane.
    lanes, wide
        The left edges of the lanes, and how wide a box is.
    head, step
        Where the youngest age stands, and how high a step of the scale is.
    side
        Where the ages begin, to the right of the boxes.
    ranks
        Of the intervals whose names stand beside braces.
    words
        Why it cannot be laid out, and what would help; empty where it can.
    """

    boxes: Boxes
    scale: TimeScale | None = None
    lanes: tuple[float, ...] = ()
    wide: float = 0.0
    head: float = 0.0
    step: float = 0.0
    side: float = 0.0
    ranks: tuple[str, ...] = ()
    words: str = ""

    def y(self, age: float) -> float:
        """Where an age stands."""
        assert self.scale is not None
        return self.head + self.scale.at(age) * self.step

    def age(self, y: float) -> float:
        """Which age stands somewhere; the nearest end beyond the scale."""
        assert self.scale is not None
        return self.scale.age((y - self.head) / self.step)


@dataclass(frozen=True, kw_only=True)
class Correlation(PanelPartSettings):
    """The units of a panel against the chart of ages.

    Attributes
    ----------
    title
        What stands above it; empty for nothing.
    scale
        A name of ``SCALES``.
    size
        Height in millimetres of the body of its letters.
    headings
        Whether the headings of the column stand above the boxes.
    gaps
        Whether a wavy line tells where time is missing below a unit.
    moves
        Where hands have put boxes, by the codes of their units.
    """

    kind: ClassVar[str] = "correlation"
    reads_far: ClassVar[bool] = True
    is_slow: ClassVar[bool] = True
    label: ClassVar[str] = "Correlation of map units"
    icon: ClassVar[str] = "M2 2h5v3H2zM8 6h5v4H8zM8 11h5v4H8zM16 1V15M16 5.5h6M16 10.5h6"

    title: str = entry(Words("Title", longest=120), "Correlation of map units")
    scale: str = entry(Choice("Ages", SCALES), "ordinal")
    size: float = entry(Figure("Letter size", 1, 20, "mm"), 2.75)
    headings: bool = entry(Switch("Headings"), True)
    gaps: bool = entry(Switch("Missing time as a wavy line"), True)
    moves: BoxMoves = entry(BoxMovesEntry("Moved boxes"), NO_MOVES)

    @property
    def counts_on(self) -> tuple[str, ...]:
        return ("units", "labels")

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 140.0, 80.0

    def recoded(self, old: str, new: str) -> Mapping[str, Any]:
        if old not in self.moves:
            return {}
        return {"moves": {new if code == old else code: move for code, move in self.moves.items()}}

    def layout(self, part: Part, page: PageContext) -> CorrelationLayout:
        """Where all of it stands; ``part`` is its place without the padding."""
        context = page.shown(self.panel or 0)
        codes = shown_units(context, page.panel(self.panel).layers)
        boxes = boxes_of([context.units[code] for code in codes], self.moves)
        if not boxes.boxes:
            return CorrelationLayout(boxes, words="No unit of this map has an age of the chart; type ages in Symbols.")
        size = self.size
        scale = time_scale([box.span for box in boxes.boxes], self.scale)
        needed = 0.0
        for ranks, (close, narrowest) in product(RANKS, NARROWEST):
            side = self._side(scale, ranks)
            lane_gap, column_gap = LANE_GAP * size * close, COLUMN_GAP * size * close
            fixed = lane_gap * (boxes.lanes - len(boxes.columns)) + column_gap * len(boxes.columns)
            wide = min(WIDEST * size, (part.width - side - fixed) / boxes.lanes)
            needed = narrowest * size * boxes.lanes + fixed + side
            if wide >= narrowest * size:
                break
        else:
            return CorrelationLayout(
                boxes, words=f"{boxes.lanes} boxes beside one another take {needed:.0f} mm; make it wider."
            )
        lanes: list[float] = []
        x = part.x
        for _, _, count in boxes.columns:
            lanes += [x + i * (wide + lane_gap) for i in range(count)]
            x = lanes[-1] + wide + column_gap
        head = part.y + (TITLE_ROOM * size if self.title else 0.0)
        rises = [rise + len(lines) for lines, _, rise in self._heading_lines(boxes, lanes, wide)]
        head += (max(rises) * LEADING + 1.2) * size if rises else 0.0
        room = part.y + part.height - head
        high = [(scale.at(box.shown.older) - scale.at(box.shown.younger), self.below(box)) for box in boxes.boxes]
        lowest = min(scale.at(box.span.older) - scale.at(box.span.younger) for box in boxes.boxes)
        # So high that letters can be read in every box, also above a wavy line.
        least = max((LOWEST * size + below) / steps for steps, below in high)
        usual = max(HIGHEST * size / lowest, least)
        step = min(room / scale.height, usual) if self.scale == "ordinal" else room / scale.height
        if step < least:
            needed = scale.height * least + head - part.y
            other = ", or let each time have a step" if self.scale == "true" else ""
            return CorrelationLayout(
                boxes, words=f"Its lowest box needs {needed:.0f} mm of height; make it higher{other}."
            )
        return CorrelationLayout(boxes, scale, tuple(lanes), wide, head, step, x, ranks)

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        layout = self.layout(part, page)
        if layout.words or layout.scale is None:
            return words_instead(layout.words, part)
        size, book = self.size, page.shown(self.panel or 0).book
        items: list[Item] = []
        if self.title:
            items.append(Text(run(self.title, ROMAN, TITLE * size), (part.x, part.y + 0.66 * TITLE * size), INK))
        items += self._ages(layout)
        items += self._headings(layout)
        for box in layout.boxes.boxes:
            x = layout.lanes[box.lane]
            top, foot = self.edges(box, layout)
            unit = printed_unit(box.unit, page.panel(self.panel).layers)
            letters = min(1.09 * size, 0.8 * (foot - top))
            items += unit_specimen(unit, book, (x, top, layout.wide, foot - top), letters)
            if box.bounded:
                items += _bracket(x - 0.35 * size, top, foot, 0.3 * size)
            if self.gaps and box.rests_on_gap:
                items.append(Stroke(LINE, _wave(x, x + layout.wide, foot + 0.5 * size, WAVE * size)))
        return items

    def edges(self, box: UnitBox, layout: CorrelationLayout) -> tuple[float, float]:
        """Where a box begins and ends."""
        top, foot = layout.y(box.shown.younger), layout.y(box.shown.older)
        inset = min(INSET * self.size, (foot - top) / 6)
        return top + inset, foot - inset - self.below(box)

    def below(self, box: UnitBox) -> float:
        """How much shorter a box is for the wavy line below it."""
        return WAVE_ROOM * self.size if self.gaps and box.rests_on_gap else 0.0

    def _headings(self, layout: CorrelationLayout) -> Iterator[Item]:
        """Above their columns, their last lines on one height where they do not meet."""
        for lines, left, rise in self._heading_lines(layout.boxes, layout.lanes, layout.wide):
            foot = layout.head - 0.9 * self.size - (rise + len(lines) - 1) * LEADING * self.size
            for number, line in enumerate(lines):
                yield from line.ink(left, foot + number * LEADING * self.size, INK, "centre")

    def _heading_lines(self, boxes: Boxes, lanes: Sequence[float], wide: float) -> list[tuple[list[Line], float, int]]:
        """The lines of each heading, no wider than its column, where that begins, and how many lines it is raised by.

        A word may be wider than its column: a heading that would meet another one is raised above it.
        """
        shown: list[tuple[list[Line], float]] = []
        for heading, first, count in boxes.columns:
            if heading and self.headings:
                room = lanes[first + count - 1] + wide - lanes[first]
                shown.append((lines_of([Span(heading)], self.size, room, roman=CAPITALS), lanes[first]))
        most = max((len(lines) for lines, _ in shown), default=0)
        taken: list[float] = []
        out = []
        for lines, left in shown:
            begins, ends = _reach(lines, left)
            row = next((i for i, end in enumerate(taken) if end + 0.5 * self.size < begins), len(taken))
            taken[row : row + 1] = [ends]
            out.append((lines, left, row * most))
        return out

    def _ages(self, layout: CorrelationLayout) -> Iterator[Item]:
        """A line at each end of a division, its name, and braces for periods and eras."""
        assert layout.scale is not None
        size, divisions = self.size, layout.scale.divisions
        left = layout.lanes[0]
        names = layout.side + max(run(spoken(age.name), ITALIC, size).width for age in divisions) + size
        for end in sorted({end for age in divisions for end in (age.younger, age.older)}):
            y = layout.y(end)
            yield Stroke(HAIR, Paths.of([(left, y), (names, y)]))
        for age in divisions:
            top, foot = layout.y(age.younger), layout.y(age.older)
            if foot - top >= 0.9 * size:
                letters = run(spoken(age.name), ITALIC, size)
                yield Text(letters, (layout.side, (top + foot + cap_height(size)) / 2), INK)
        x = names
        for groups in _braces(divisions, layout.ranks):
            for group, held in groups:
                top, foot = layout.y(held[0].younger), layout.y(held[-1].older)
                yield from _brace(x + 0.4 * size, top + 0.15 * size, foot - 0.15 * size, 0.6 * size)
                letters = run(spoken(group.name), CAPITALS, size)
                yield Text(letters, (x + 1.5 * size, (top + foot + cap_height(size)) / 2), INK)
            x += 1.5 * size + max(run(spoken(group.name), CAPITALS, size).width for group, _ in groups) + size

    def _side(self, scale: TimeScale, ranks: Sequence[str]) -> float:
        """How much the ages take beside the boxes."""
        size = self.size
        wide = max(run(spoken(age.name), ITALIC, size).width for age in scale.divisions) + size
        for groups in _braces(scale.divisions, ranks):
            wide += 2.5 * size + max(run(spoken(group.name), CAPITALS, size).width for group, _ in groups)
        return wide


def _reach(lines: Sequence[Line], left: float) -> tuple[float, float]:
    """From where to where lines reach that are centred in their room."""
    middle = left + lines[0].room / 2
    half = max(line.width for line in lines) / 2
    return middle - half, middle + half


def _braces(divisions: Sequence[Age], ranks: Sequence[str]) -> Iterator[list[tuple[Age, list[Age]]]]:
    """The braces beside divisions, rank by rank: the longer interval and those of its divisions that are shown.

    One that is itself of the rank needs none, nor what all of the Phanerozoic is part of.
    """
    for rank in ranks:
        held: dict[str, tuple[Age, list[Age]]] = {}
        for age in divisions:
            group = holder(age, rank)
            if group is not None and group != age and group.name != PHANEROZOIC.name:
                held.setdefault(group.name, (group, []))[1].append(age)
        if held:
            yield list(held.values())


def _wave(left: float, right: float, y: float, high: float) -> Paths:
    """A wavy line of whole waves."""
    count = max(2, round((right - left) / (5 * high)))
    t = np.linspace(0.0, 1.0, count * 12 + 1)
    return Paths.of(np.column_stack([left + t * (right - left), y + high * np.sin(t * count * 2 * np.pi)]))


def _bracket(x: float, top: float, foot: float, wide: float) -> list[Item]:
    return [Stroke(LINE, Paths.of([(x, top), (x - wide, top), (x - wide, foot), (x, foot)]))]


def _brace(x: float, top: float, foot: float, wide: float) -> Iterator[Item]:
    """A brace that points to the right."""
    middle, half = (top + foot) / 2, wide / 2
    bend = min(half, (foot - top) / 4)
    spine = [(x, top), (x + half, top + bend), (x + half, middle - bend), (x + wide, middle)]
    back = [(x + half, middle + bend), (x + half, foot - bend), (x, foot)]
    yield Stroke(LINE, Paths.of([*spine, *back]))
