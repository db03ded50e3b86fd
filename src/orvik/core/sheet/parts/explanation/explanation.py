"""The explanation: what the panel really shows, in stratigraphic order, as hands have arranged it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Self

from orvik.core.ink.primitives import Item
from orvik.core.sheet.page.entries import Choice, Figure, Switch, Words, entry
from orvik.core.sheet.page.part import FlowSettings, NewPartContext, Part
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.explanation.found_rows import ROWS_FOR, rows_of
from orvik.core.sheet.parts.explanation.layout import Frame, Layout, flowed_out, ink_of
from orvik.core.sheet.parts.explanation.row_edits import NO_EDITS, RowEdits, RowEditsEntry
from orvik.core.sheet.parts.explanation.row_ink import NAME, RowLook
from orvik.core.sheet.parts.explanation.rows import (
    HEADINGS,
    ExplanationRow,
    edited,
    symbol_row,
    unit_key,
    unit_row,
)


@dataclass(frozen=True, kw_only=True)
class Explanation(FlowSettings):
    """Units, symbols and layers of a panel.

    Attributes
    ----------
    title
        What stands above it; empty for nothing.
    headings
        A name of ``HEADINGS``.
    columns
        How many; None for as many as let it be largest.
    size
        Height in millimetres of the names of units; None for as large as the frame allows.
    units
        Whether units have rows; a description of them may stand elsewhere.
    by
        A name of ``ROWS_FOR``.
    descriptions
        Whether descriptions of units stand below their names.
    fixed
        Whether what comes new to the map has no row.
    edits
        What hands have done to rows.
    """

    kind: ClassVar[str] = "explanation"
    is_slow: ClassVar[bool] = True
    label: ClassVar[str] = "Explanation"
    icon: ClassVar[str] = "M2 1h6v4H2zM2 6h6v4H2zM2 11h6v4H2zM11 3h10M11 8h10M11 13h7"
    essential: ClassVar[tuple[str, ...]] = ("Explanation",)

    title: str = entry(Words("Title", longest=120), "Explanation")
    headings: str = entry(Choice("Headings", HEADINGS), "own")
    columns: int | None = entry(Figure("Columns", 1, 8, whole=True, optional=True), None)
    size: float | None = entry(Figure("Letter size", 1, 20, "mm", optional=True), None)
    units: bool = entry(Switch("Map units"), True)
    by: str = entry(Choice("One row for", ROWS_FOR), "symbol")
    descriptions: bool = entry(Switch("Descriptions"), False)
    fixed: bool = entry(Switch("No automatic rows"), False)
    edits: RowEdits = entry(RowEditsEntry("Rows"), NO_EDITS)

    @property
    def counts_on(self) -> tuple[str, ...]:
        # Its rows of units may be left out; rows of symbols that are not printed say so by themselves.
        return (*(("units", "labels") if self.units else ()), *(("linework", "attitudes") if self.edits.added else ()))

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel, by="kind"), 90.0, 120.0

    def recoded(self, old: str, new: str) -> Mapping[str, Any]:
        edits = self.edits.renamed(unit_key(old), unit_key(new))
        return {"edits": edits} if edits != self.edits else {}

    def found(self, page: PageContext) -> list[ExplanationRow]:
        """The rows that it takes of those that its panel gives rise to."""
        return [row for row in self.shown_by_panel(page) if self.units or not row.is_unit]

    def shown_by_panel(self, page: PageContext) -> list[ExplanationRow]:
        """The rows that its panel gives rise to."""
        number = self.panel or 0
        panel = page.panel(number)
        layers = [
            u.symbol for u in page.map.underlays if u.symbol is not None and panel.underlays.get(str(u.id), 0.0) > 0
        ]
        return rows_of(page.shown(number), layers, panel.layers, self.headings, self.by)

    def rows(self, page: PageContext) -> list[ExplanationRow]:
        """Its rows as they are printed."""
        context = page.shown(self.panel or 0)
        opacities = page.panel(self.panel).layers
        others = {}
        for key in self.edits.added:
            what, _, name = key.partition(" ")
            if what == "unit" and name in context.units:
                others[key] = unit_row(context.units[name], context.units, opacities, self.headings)
            symbol = next((s for s in context.book.listed if s.id == name), None) if what == "symbol" else None
            if symbol is not None:
                others[key] = symbol_row(symbol)
        return edited(self.found(page), self.edits, self.fixed, others)

    def layout(self, part: Part, page: PageContext) -> Layout:
        """Where the rows stand that it takes of those that flow through its chain; ``part`` is without the padding."""
        chain = page.chain(part)
        head = _settings(chain[0])
        k = head.size / NAME if head.size else None
        frames = []
        for other in chain:
            inside = other if other is part else other.inset(other.settings.padding)
            frames.append(Frame(inside, bool(_settings(other).title), _settings(other).columns))
        layouts = flowed_out(head.rows(page), frames, head._look(page), k)
        return layouts[next(i for i, other in enumerate(chain) if other is part)]

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        head = _settings(page.chain(part)[0])
        return ink_of(self.layout(part, page), part, self.title, head._look(page))

    def _look(self, page: PageContext) -> RowLook:
        number = self.panel or 0
        return RowLook(page.shown(number).book, self.descriptions, page.panel(number).symbol_scale)


def _settings(part: Part) -> Explanation:
    assert isinstance(part.settings, Explanation)
    return part.settings
