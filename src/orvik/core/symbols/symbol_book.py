"""The symbol book: all symbols and patterns, and which of them a feature takes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from orvik.core.errors import SymbolMissing
from orvik.core.features.custom_kind import CustomKind
from orvik.core.features.feature import CERTAINTIES, Feature, Features
from orvik.core.features.kind import kind_words
from orvik.core.features.table import TABLES, Table
from orvik.core.ink.primitives import LineStyle
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.symbol import PatternSymbol, Symbol, shared_title, stamp_of
from orvik.core.symbols.symbol_rule import ATTRIBUTES, SymbolRule

# What another program has left and the book has no symbol for is seen at once, and is a finding.
UNKNOWN = "#A61B1B"
_CROSS = (
    Piece("line", ((-1.0, -1.0), (1.0, 1.0)), width=0.3, outline=UNKNOWN),
    Piece("line", ((-1.0, 1.0), (1.0, -1.0)), width=0.3, outline=UNKNOWN),
)


@dataclass(frozen=True)
class ConditionalSymbol:
    """A rule, and the symbols that it gives: by the id of the symbol that a feature takes where it does not hold.

    There may be several for one, for ranges of inclination.
    """

    rule: SymbolRule
    by_usual: Mapping[str, tuple[Symbol, ...]]

    @property
    def symbols(self) -> tuple[Symbol, ...]:
        """All that it gives."""
        return tuple(symbol for symbols in self.by_usual.values() for symbol in symbols)


@dataclass(frozen=True)
class SymbolBook:
    """A set of symbols, patterns and pens.

    ``custom_kinds`` holds the kinds that a project has made for itself; their symbols stand among the others, with the
    value of their list in the place of a certainty. ``families`` are in the order of the plate.

    ``conditional`` are the project's conditional symbols, the first that holds counts; which of them are in force
    depends on the denominator of the ``scale`` that is drawn at. Those that leave features out are in force only where
    the map is ``printed``: what is compiled stays in sight.
    """

    name: str
    symbols: tuple[Symbol, ...]
    patterns: Mapping[str, PatternSymbol]
    pens: tuple[Pen, ...]
    families: tuple[str, ...] = ()
    custom_kinds: Mapping[str, CustomKind] = field(default_factory=dict)
    conditional: tuple[ConditionalSymbol, ...] = ()
    scale: int | None = None
    printed: bool = False

    def at(self, scale: int, printed: bool = True) -> SymbolBook:
        """The book as it is in force on a panel of a scale, or, if not ``printed``, where the map is compiled."""
        return replace(self, scale=scale, printed=printed)

    @cached_property
    def in_force(self) -> Mapping[tuple[Table, str], tuple[ConditionalSymbol, ...]]:
        """The conditional symbols that are in force at the book's scale, by the kind that they are for."""
        out: dict[tuple[Table, str], list[ConditionalSymbol]] = {}
        for one in self.conditional:
            if one.rule.in_force(self.scale) and (self.printed or one.rule.look != "none"):
                out.setdefault((one.rule.table, one.rule.kind), []).append(one)
        return {key: tuple(found) for key, found in out.items()}

    @cached_property
    def listed(self) -> tuple[Symbol, ...]:
        """All symbols in the order of an explanation: those on condition follow the others of their kind."""
        out: list[Symbol] = []
        waiting = {key: [symbol for one in found for symbol in one.symbols] for key, found in self.in_force.items()}
        last = {(symbol.table, symbol.kind): i for i, symbol in enumerate(self.symbols)}
        for i, symbol in enumerate(self.symbols):
            out.append(symbol)
            if last[symbol.table, symbol.kind] == i:
                out += waiting.get((symbol.table, symbol.kind), [])
        return tuple(out)

    @cached_property
    def by_kind(self) -> Mapping[tuple[Table, str], tuple[Symbol, ...]]:
        """The symbols of each kind, in the order of the book."""
        out: dict[tuple[Table, str], list[Symbol]] = {}
        for symbol in self.symbols:
            out.setdefault((symbol.table, symbol.kind), []).append(symbol)
        return {key: tuple(symbols) for key, symbols in out.items()}

    def kind_title(self, table: Table, kind: str) -> str:
        """What a kind is called: what the titles of its symbols have in common."""
        symbols = self.by_kind.get((table, kind))
        return shared_title(symbols) if symbols else kind_words(kind).capitalize()

    def kinds(self, table: Table) -> frozenset[str]:
        """The kinds of feature that the book has symbols for."""
        return self._kinds[table]

    @cached_property
    def _kinds(self) -> Mapping[Table, frozenset[str]]:
        return {table: frozenset(kind for of, kind in self.by_kind if of == table) for table in TABLES}

    def symbol(
        self,
        table: Table,
        kind: str,
        certainty: str = "certain",
        inclination: float | None = None,
        fields: Mapping[str, Any] | None = None,
    ) -> Symbol:
        """Which symbol features of a kind take where no condition holds of them.

        The first that is made for its certainty, or for its value of an own list, and for its inclination; else the
        first that serves all; else, of lines and areas, the first of the kind. A kind that the book does not know
        takes a symbol that is seen at once.
        """
        symbols = self.by_kind.get((table, kind))
        if symbols is None:
            return unknown(table, kind)
        own = self.custom_kinds.get(kind)
        value = own.variant(fields or {}) if own is not None else certainty
        fitting = [symbol for symbol in symbols if _holds(symbol, inclination)]
        for wanted in (value, ""):
            for symbol in fitting:
                if symbol.certainty == wanted:
                    return symbol
        if table == "points" and not fitting:
            return unknown(table, kind, f"{kind_words(kind).capitalize()} without a reading")
        return fitting[0] if fitting else symbols[0]

    def symbol_of(self, feature: Feature) -> Symbol:
        """The symbol of a feature as a whole; a line's stretches may have others."""
        values = {name: getattr(feature, name) for name in ATTRIBUTES}
        return self._decided(feature.table, feature.kind, feature.certainty, values, feature.fields)

    def row_symbol(self, features: Features, row: int, certainty: str) -> Symbol:
        """The symbol that a part of one of many features takes, which has a certainty of its own."""
        columns = features.columns
        values = {name: columns[name][row] for name in ATTRIBUTES}
        return self._decided(features.table, columns["kind"][row], certainty, values, columns["fields"][row])

    def _decided(
        self, table: Table, kind: str, certainty: str, values: Mapping[str, Any], fields: Mapping[str, Any]
    ) -> Symbol:
        """Which symbol a feature takes: the one place where that is decided.

        That of the first condition that holds of it; else what its kind takes.
        """
        usual = self.symbol(table, kind, certainty, values["inclination"], fields)
        for one in self.in_force.get((table, kind), ()):
            if one.rule.holds(certainty, {**values, **fields}):
                for symbol in one.by_usual.get(usual.id, ()):
                    if _holds(symbol, values["inclination"]):
                        return symbol
        return usual

    def without_left_out(self, features: Features) -> Features:
        """Those of many features that are drawn here at all; a line of which a part is drawn is among them."""
        rules = [one.rule for found in self.in_force.values() for one in found]
        if not any(rule.look == "none" and rule.table == features.table for rule in rules):
            return features
        drawn = [
            not symbol.left_out or self._partly_drawn(features, row)
            for row, symbol in enumerate(self.symbols_of(features))
        ]
        return features.select(np.array(drawn, dtype=bool))

    def _partly_drawn(self, features: Features, row: int) -> bool:
        """Whether a stretch of a line is drawn though the line as a whole is left out; a band is one thing."""
        if features.table != "lines" or features.columns["band"][row] is not None:
            return False
        stretches = [stretch for stretch in features.columns["stretches"][row] if stretch.side == "line"]
        return any(not self.row_symbol(features, row, stretch.certainty).left_out for stretch in stretches)

    def certainties(self, feature: Feature) -> tuple[str, ...]:
        """The certainties that a feature may be given: those that its kind has symbols for, and the one it has.

        Of a kind that the book does not know any; one for kinds that are not graded.
        """
        if feature.kind in self.custom_kinds:
            return (feature.certainty,)
        symbols = self.by_kind.get((feature.table, feature.kind))
        made = {symbol.certainty or "certain" for symbol in symbols} if symbols is not None else set(CERTAINTIES)
        if feature.table == "areas":
            return (feature.certainty,)
        return tuple(certainty for certainty in CERTAINTIES if certainty in made | {feature.certainty})

    def symbols_of(self, features: Features) -> list[Symbol]:
        """The symbol of each of many features."""
        known: dict[Any, Symbol] = {}
        graded = {kind for (table, kind), symbols in self.by_kind.items() if any(s.inclination for s in symbols)}
        columns = features.columns
        out = []
        rows = zip(columns["kind"], columns["certainty"], columns["inclination"], columns["fields"], strict=True)
        for row, (kind, certainty, inclination, fields) in enumerate(rows):
            if (features.table, kind) in self.in_force:
                out.append(self.row_symbol(features, row, certainty))
                continue
            own = self.custom_kinds.get(kind)
            reading = inclination if kind in graded else None
            key = (kind, own.variant(fields) if own is not None else certainty, reading)
            symbol = known.get(key)
            if symbol is None:
                symbol = known[key] = self.symbol(features.table, kind, certainty, reading, fields)
            out.append(symbol)
        return out

    def table_of(self, kind: str) -> Table | None:
        """The table that features of a kind lie in; None for a kind that the book does not know."""
        return next((table for table in TABLES if (table, kind) in self.by_kind), None)

    def pattern(self, name: str) -> PatternSymbol | None:
        """A pattern by its id; None for one that the book does not hold."""
        return self.patterns.get(name)

    def pen(self, name: str) -> Pen:
        """A pen by its name."""
        for pen in self.pens:
            if pen.name == name:
                return pen
        raise SymbolMissing(f"There is no pen “{name}” in the tray.")


def _holds(symbol: Symbol, inclination: float | None) -> bool:
    if symbol.inclination is None:
        return True
    return inclination is not None and symbol.inclination[0] <= inclination <= symbol.inclination[1]


def unknown(table: Table, kind: str, title: str = "") -> Symbol:
    """The symbol of what the book has none for."""
    title = title or f"Unknown kind “{kind[:40]}”"
    name = f"unknown-{kind}"
    if table == "lines":
        return Symbol(name, table, kind, title, strokes=(LineStyle(0.3, UNKNOWN, (0.3, 0.7)),))
    if table == "points":
        return Symbol(name, table, kind, title, stamp=stamp_of(title, _CROSS))
    return Symbol(name, table, kind, title, tint=UNKNOWN)
