"""The sign book: all signs and patterns, and which of them a feature takes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from orvik.core.errors import SignMissing
from orvik.core.features.feature import CERTAINTIES, TABLES, Feature, Features, Table
from orvik.core.features.own_kind import OwnKind
from orvik.core.ink.primitives import LineStyle
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.symbol import PatternSign, Sign, shared_title, stamp_of
from orvik.core.symbols.symbol_rule import ATTRIBUTES, SignRule

# What another program has left and the book has no sign for is seen at once, and is a finding.
UNKNOWN = "#A61B1B"
_CROSS = (
    Piece("line", ((-1.0, -1.0), (1.0, 1.0)), width=0.3, outline=UNKNOWN),
    Piece("line", ((-1.0, 1.0), (1.0, -1.0)), width=0.3, outline=UNKNOWN),
)


@dataclass(frozen=True)
class ConditionalSign:
    """A rule, and the signs that it gives: by the id of the sign that a feature takes where it does not hold.

    There may be several for one, for ranges of inclination.
    """

    rule: SignRule
    by_usual: Mapping[str, tuple[Sign, ...]]

    @property
    def signs(self) -> tuple[Sign, ...]:
        """All that it gives."""
        return tuple(sign for signs in self.by_usual.values() for sign in signs)


@dataclass(frozen=True)
class SignBook:
    """A set of signs, patterns and pens.

    ``own_kinds`` holds the kinds that a project has made for itself; their signs stand among the others, with the
    value of their list in the place of a certainty. ``families`` are in the order of the plate.

    ``conditional`` are the project's signs on condition, the first that holds counts; which of them are in force
    depends on the denominator of the ``scale`` that is drawn at. Those that leave features out are in force only where
    the map is ``printed``: what is compiled stays in sight.
    """

    name: str
    signs: tuple[Sign, ...]
    patterns: Mapping[str, PatternSign]
    pens: tuple[Pen, ...]
    families: tuple[str, ...] = ()
    own_kinds: Mapping[str, OwnKind] = field(default_factory=dict)
    conditional: tuple[ConditionalSign, ...] = ()
    scale: int | None = None
    printed: bool = False

    def at(self, scale: int, printed: bool = True) -> SignBook:
        """The book as it is in force on a panel of a scale, or, if not ``printed``, where the map is compiled."""
        return replace(self, scale=scale, printed=printed)

    @cached_property
    def in_force(self) -> Mapping[tuple[Table, str], tuple[ConditionalSign, ...]]:
        """The signs on condition that are in force at the book's scale, by the kind that they are for."""
        out: dict[tuple[Table, str], list[ConditionalSign]] = {}
        for one in self.conditional:
            if one.rule.in_force(self.scale) and (self.printed or one.rule.look != "none"):
                out.setdefault((one.rule.table, one.rule.kind), []).append(one)
        return {key: tuple(found) for key, found in out.items()}

    @cached_property
    def listed(self) -> tuple[Sign, ...]:
        """All signs in the order of an explanation: those on condition follow the others of their kind."""
        out: list[Sign] = []
        waiting = {key: [sign for one in found for sign in one.signs] for key, found in self.in_force.items()}
        last = {(sign.table, sign.kind): i for i, sign in enumerate(self.signs)}
        for i, sign in enumerate(self.signs):
            out.append(sign)
            if last[sign.table, sign.kind] == i:
                out += waiting.get((sign.table, sign.kind), [])
        return tuple(out)

    @cached_property
    def by_kind(self) -> Mapping[tuple[Table, str], tuple[Sign, ...]]:
        """The signs of each kind, in the order of the book."""
        out: dict[tuple[Table, str], list[Sign]] = {}
        for sign in self.signs:
            out.setdefault((sign.table, sign.kind), []).append(sign)
        return {key: tuple(signs) for key, signs in out.items()}

    def kind_title(self, table: Table, kind: str) -> str:
        """What a kind is called: what the titles of its signs have in common."""
        signs = self.by_kind.get((table, kind))
        return shared_title(signs) if signs else kind.replace("_", " ").capitalize()

    def kinds(self, table: Table) -> set[str]:
        """The kinds of feature that the book has signs for."""
        return {kind for of, kind in self.by_kind if of == table}

    def sign(
        self,
        table: Table,
        kind: str,
        certainty: str = "certain",
        inclination: float | None = None,
        fields: Mapping[str, Any] | None = None,
    ) -> Sign:
        """Which sign features of a kind take where no condition holds of them.

        The first that is made for its certainty, or for its value of an own list, and for its inclination; else the
        first that serves all; else, of lines and areas, the first of the kind. A kind that the book does not know
        takes a sign that is seen at once.
        """
        signs = self.by_kind.get((table, kind))
        if signs is None:
            return unknown(table, kind)
        own = self.own_kinds.get(kind)
        value = own.variant(fields or {}) if own is not None else certainty
        fitting = [sign for sign in signs if _holds(sign, inclination)]
        for wanted in (value, ""):
            for sign in fitting:
                if sign.certainty == wanted:
                    return sign
        if table == "points" and not fitting:
            return unknown(table, kind, f"{kind.replace('_', ' ').capitalize()} without a reading")
        return fitting[0] if fitting else signs[0]

    def sign_of(self, feature: Feature) -> Sign:
        """The sign of a feature as a whole; a line's stretches may have others."""
        values = {name: getattr(feature, name) for name in ATTRIBUTES}
        return self._decided(feature.table, feature.kind, feature.certainty, values, feature.fields)

    def row_sign(self, features: Features, row: int, certainty: str) -> Sign:
        """The sign that a part of one of many features takes, which has a certainty of its own."""
        columns = features.columns
        values = {name: columns[name][row] for name in ATTRIBUTES}
        return self._decided(features.table, columns["kind"][row], certainty, values, columns["fields"][row])

    def _decided(
        self, table: Table, kind: str, certainty: str, values: Mapping[str, Any], fields: Mapping[str, Any]
    ) -> Sign:
        """Which sign a feature takes: the one place where that is decided.

        That of the first condition that holds of it; else what its kind takes.
        """
        usual = self.sign(table, kind, certainty, values["inclination"], fields)
        for one in self.in_force.get((table, kind), ()):
            if one.rule.holds(certainty, {**values, **fields}):
                for sign in one.by_usual.get(usual.id, ()):
                    if _holds(sign, values["inclination"]):
                        return sign
        return usual

    def without_left_out(self, features: Features) -> Features:
        """Those of many features that are drawn here at all; a line of which a part is drawn is among them."""
        rules = [one.rule for found in self.in_force.values() for one in found]
        if not any(rule.look == "none" and rule.table == features.table for rule in rules):
            return features
        drawn = [
            not sign.left_out or self._partly_drawn(features, row) for row, sign in enumerate(self.signs_of(features))
        ]
        return features.select(np.array(drawn, dtype=bool))

    def _partly_drawn(self, features: Features, row: int) -> bool:
        """Whether a stretch of a line is drawn though the line as a whole is left out; a band is one thing."""
        if features.table != "lines" or features.columns["band"][row] is not None:
            return False
        stretches = [stretch for stretch in features.columns["stretches"][row] if stretch.side == "line"]
        return any(not self.row_sign(features, row, stretch.certainty).left_out for stretch in stretches)

    def certainties(self, feature: Feature) -> tuple[str, ...]:
        """The certainties that a feature may be given: those that its kind has signs for, and the one it has.

        Of a kind that the book does not know any; one for kinds that are not graded.
        """
        if feature.kind in self.own_kinds:
            return (feature.certainty,)
        signs = self.by_kind.get((feature.table, feature.kind))
        made = {sign.certainty or "certain" for sign in signs} if signs is not None else set(CERTAINTIES)
        if feature.table == "areas":
            return (feature.certainty,)
        return tuple(certainty for certainty in CERTAINTIES if certainty in made | {feature.certainty})

    def signs_of(self, features: Features) -> list[Sign]:
        """The sign of each of many features."""
        known: dict[Any, Sign] = {}
        graded = {kind for (table, kind), signs in self.by_kind.items() if any(s.inclination for s in signs)}
        columns = features.columns
        out = []
        rows = zip(columns["kind"], columns["certainty"], columns["inclination"], columns["fields"], strict=True)
        for row, (kind, certainty, inclination, fields) in enumerate(rows):
            if (features.table, kind) in self.in_force:
                out.append(self.row_sign(features, row, certainty))
                continue
            own = self.own_kinds.get(kind)
            reading = inclination if kind in graded else None
            key = (kind, own.variant(fields) if own is not None else certainty, reading)
            sign = known.get(key)
            if sign is None:
                sign = known[key] = self.sign(features.table, kind, certainty, reading, fields)
            out.append(sign)
        return out

    def table_of(self, kind: str) -> Table | None:
        """The table that features of a kind lie in; None for a kind that the book does not know."""
        return next((table for table in TABLES if (table, kind) in self.by_kind), None)

    def pattern(self, name: str) -> PatternSign | None:
        """A pattern by its id; None for one that the book does not hold."""
        return self.patterns.get(name)

    def pen(self, name: str) -> Pen:
        """A pen by its name."""
        for pen in self.pens:
            if pen.name == name:
                return pen
        raise SignMissing(f"There is no pen “{name}” in the tray.")


def _holds(sign: Sign, inclination: float | None) -> bool:
    if sign.inclination is None:
        return True
    return inclination is not None and sign.inclination[0] <= inclination <= sign.inclination[1]


def unknown(table: Table, kind: str, title: str = "") -> Sign:
    """The sign of what the book has none for."""
    title = title or f"Unknown kind “{kind[:40]}”"
    name = f"unknown-{kind}"
    if table == "lines":
        return Sign(name, table, kind, title, strokes=(LineStyle(0.3, UNKNOWN, (0.3, 0.7)),))
    if table == "points":
        return Sign(name, table, kind, title, stamp=stamp_of(title, _CROSS))
    return Sign(name, table, kind, title, tint=UNKNOWN)
