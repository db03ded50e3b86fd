"""The sign book: all signs and patterns, and which of them a feature takes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from orvik.core.errors import SignMissing
from orvik.core.features.feature import CERTAINTIES, TABLES, Feature, Features, Table
from orvik.core.features.own_kind import OwnKind
from orvik.core.ink import LineStyle
from orvik.core.signs.pen import Pen
from orvik.core.signs.piece import Piece
from orvik.core.signs.sign import PatternSign, Sign, symbol_of

# What another program has left and the book has no sign for is seen at once, and is a finding.
UNKNOWN = "#A61B1B"
_CROSS = (
    Piece("line", ((-1.0, -1.0), (1.0, 1.0)), width=0.3, outline=UNKNOWN),
    Piece("line", ((-1.0, 1.0), (1.0, -1.0)), width=0.3, outline=UNKNOWN),
)


@dataclass(frozen=True)
class SignBook:
    """A set of signs, patterns and pens.

    ``own_kinds`` holds the kinds that a project has made for itself; their signs stand among the others, with the
    value of their list in the place of a certainty. ``families`` are in the order of the plate.
    """

    name: str
    signs: tuple[Sign, ...]
    patterns: Mapping[str, PatternSign]
    pens: tuple[Pen, ...]
    families: tuple[str, ...] = ()
    own_kinds: Mapping[str, OwnKind] = field(default_factory=dict)

    @cached_property
    def by_kind(self) -> Mapping[tuple[Table, str], tuple[Sign, ...]]:
        """The signs of each kind, in the order of the book."""
        out: dict[tuple[Table, str], list[Sign]] = {}
        for sign in self.signs:
            out.setdefault((sign.table, sign.kind), []).append(sign)
        return {key: tuple(signs) for key, signs in out.items()}

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
        """Which sign a feature takes: the one place where that is decided.

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
        return self.sign(feature.table, feature.kind, feature.certainty, feature.inclination, feature.fields)

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
        for kind, certainty, inclination, fields in rows:
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
        return Sign(name, table, kind, title, symbol=symbol_of(title, _CROSS))
    return Sign(name, table, kind, title, tint=UNKNOWN)
