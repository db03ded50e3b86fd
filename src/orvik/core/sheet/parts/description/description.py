"""The description of map units as a part: one frame, or the first of several that it flows through."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ink.primitives import INK, Item, Text
from orvik.core.lettering import CAPITALS, ROMAN, cap_height, run
from orvik.core.sheet.page.entries import Choice, Figure, Words, entry
from orvik.core.sheet.page.part import FlowSettings, NewPartContext, Part
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.printed_units import printed_unit, shown_units
from orvik.core.sheet.parts.description.unit_texts import ELSEWHERE, UnitText, unit_texts
from orvik.core.symbols.specimen import unit_specimen
from orvik.core.typesetting.frames import Block, Flow, balanced, flowed
from orvik.core.typesetting.paragraph import Line, lines_of
from orvik.core.typesetting.spans import Span

# In heights of the letters of the text.
LEADING = 1.26
BOX = (4.6, 2.6)
BESIDE = 1.1
INDENT = 1.4
BETWEEN, ABOVE_HEADING = 0.75, 1.3
HEADING = 1.12
TITLE, TITLE_ROOM = 1.75, 3.6
COLUMN_GAP = 6.0
# No part is told to be made higher by more than this, in millimetres.
MOST_MISSING = 4002


@dataclass(frozen=True)
class DescriptionLayout:
    """A description that is laid out.

    Attributes
    ----------
    texts, lines
        What it says, and the lines of each.
    flow
        Which lines stand where.
    frames
        The left upper corner of each frame and its width, in millimetres on the page, with the number of its part.
    missing
        How much higher the last of its parts would have to be for all of it, in millimetres.
    """

    texts: tuple[UnitText, ...]
    lines: tuple[tuple[Line, ...], ...]
    flow: Flow
    frames: tuple[tuple[int, float, float, float], ...]
    missing: float = 0.0

    @property
    def left_out(self) -> int:
        """How many units have no room, or only for a part."""
        cut = self.flow.cut
        return 0 if cut is None else sum(1 for text in self.texts[cut:] if text.unit is not None)

    @property
    def overfull(self) -> list[str]:
        """Words that are wider than their column."""
        return [line.text.strip() for lines in self.lines for line in lines if line.is_overfull]


@dataclass(frozen=True, kw_only=True)
class Description(FlowSettings):
    """What the column says of the units of a panel, in a text that can be read.

    Attributes
    ----------
    title
        What stands above it; empty for nothing.
    columns
        How many stand beside one another in this frame.
    size
        Height in millimetres of the body of its letters.
    elsewhere
        A name of ``ELSEWHERE``: what becomes of units that the panel does not show.
    """

    kind: ClassVar[str] = "description"
    label: ClassVar[str] = "Description of map units"
    icon: ClassVar[str] = "M2 2h5v4H2zM9 3h13M9 5h9M2 9h5v4H2zM9 10h13M9 12h11"

    title: str = entry(Words("Title", longest=120), "Description of map units")
    columns: int = entry(Figure("Columns", 1, 8, whole=True), 1)
    size: float = entry(Figure("Letter size", 1, 20, "mm"), 2.75)
    elsewhere: str = entry(Choice("Units that the map lacks", ELSEWHERE), "left")

    @property
    def counts_on(self) -> tuple[str, ...]:
        return ("units", "labels")

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        started = context.panel in context.described
        title = "" if started else "Description of map units"
        return cls(panel=context.panel, title=title, goes_on=started), 80.0, 160.0

    def explains(self, page: PageContext) -> frozenset[str]:
        """The keys that the rows of the units have in an explanation which it describes."""
        context, opacities = page.shown(self.panel or 0), page.panel(self.panel).layers
        codes = context.units if self.elsewhere == "said" else shown_units(context, opacities)
        return frozenset(f"unit {code}" for code in codes)

    def layout(self, part: Part, page: PageContext) -> DescriptionLayout:
        """What stands where in all the parts that its text flows through; ``part`` is its place without the padding."""
        parts = page.chain(part)
        number = self.panel or 0
        head = parts[0].settings
        assert isinstance(head, Description)
        context = page.shown(number)
        texts = tuple(unit_texts(context.units, shown_units(context, page.panel(number).layers), head.elsewhere))
        frames: list[tuple[int, float, float, float]] = []
        heights: list[float] = []
        count = 1
        for other in parts:
            settings = other.settings
            assert isinstance(settings, Description)
            inside = other if other is part else other.inset(settings.padding)
            count = settings.columns
            width = (inside.width - COLUMN_GAP * (count - 1)) / count
            room = TITLE_ROOM * head.size if settings.title else 0.0
            for column in range(count):
                x = inside.x + column * (width + COLUMN_GAP)
                frames.append((other.id or 0, x, inside.y + room, max(width, 1.0)))
                heights.append(max(inside.height - room, 0.0))
        # Lines are broken for the narrowest frame: one text has one measure.
        measure = min(width for *_, width in frames)
        lines = tuple(tuple(_lines(text, head.size, measure)) for text in texts)
        blocks = [_block(text, held, head.size) for text, held in zip(texts, lines, strict=True)]
        flow = balanced(blocks, heights, count)
        missing = 0.0
        if flow.cut is not None:
            before = heights[: len(heights) - count]
            more = range(2, MOST_MISSING, 2)

            def holds(by: int) -> bool:
                return flowed(blocks, [*before, *[heights[-1] + by] * count]).cut is None

            missing = float(more[min(bisect_left(more, True, key=holds), len(more) - 1)])
        return DescriptionLayout(texts, lines, flow, tuple(frames), missing)

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        layout = self.layout(part, page)
        head = page.chain(part)[0].settings
        assert isinstance(head, Description)
        size = head.size
        book = page.shown(self.panel or 0).book
        items: list[Item] = []
        if self.title:
            items.append(Text(run(self.title, ROMAN, TITLE * size), (part.x, part.y + 0.66 * TITLE * size), INK))
        for placed in layout.flow.placed:
            number, x, y, _ = layout.frames[placed.frame]
            if number != (part.id or 0):
                continue
            text, lines = layout.texts[placed.block], layout.lines[placed.block]
            foot = y + placed.y + cap_height(size)
            for line in lines[placed.first : placed.last]:
                items += line.ink(x, foot, INK)
                foot += _leading(text, size)
            if text.unit is not None and text.boxed and placed.first == 0:
                at = (x + text.depth * INDENT * size, y + placed.y)
                unit = printed_unit(text.unit, page.panel(self.panel).layers)
                items += unit_specimen(unit, book, (*at, BOX[0] * size, BOX[1] * size), 1.09 * size)
        return items


def _lines(text: UnitText, size: float, width: float) -> Sequence[Line]:
    """The lines of a text beside its box, which all of them stand clear of."""
    if text.unit is None:
        heading = Span("".join(span.text for span in text.spans))
        return lines_of([heading], HEADING * size, width, roman=CAPITALS)
    hang = (text.depth * INDENT + BOX[0] + BESIDE) * size
    return lines_of(text.spans, size, width, hang, hang)


def _block(text: UnitText, lines: Sequence[Line], size: float) -> Block:
    if text.unit is None:
        return Block(len(lines), _leading(text, size), 0.0, ABOVE_HEADING * size, tight=True)
    # As much as lines of text leave below their last one.
    least = (BOX[1] + 0.5) * size if text.boxed else 0.0
    return Block(len(lines), _leading(text, size), least, BETWEEN * size)


def _leading(text: UnitText, size: float) -> float:
    """From one baseline to the next, in millimetres."""
    return LEADING * size * (HEADING if text.unit is None else 1.0)
