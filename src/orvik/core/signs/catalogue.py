"""The sign book: line, point and area signs and the pens that draw with them, read from a data file."""

from __future__ import annotations

import math
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from orvik.core.errors import SignMissing
from orvik.core.features.feature import Table
from orvik.core.features.own_kind import OwnKind
from orvik.core.ink import Fill, LineStyle, Stroke, Symbol
from orvik.core.paths import Paths

INK = "#22303C"
# What another program has left and the book has no sign for is seen at once, and is a finding.
UNKNOWN = "#A61B1B"
_TABLES: dict[str, Table] = {"line": "lines", "point": "points", "area": "areas"}


@dataclass(frozen=True)
class LineSign:
    """The sign of a kind of line at one certainty; ``fill`` is the tint of a band of this kind."""

    kind: str
    certainty: str
    label: str
    style: LineStyle
    meaning: str
    explained: bool
    fill: str = ""


@dataclass(frozen=True)
class PointSign:
    """The sign of a kind of point over a range of inclination.

    ``number`` is where the middle of the dip figure stands, in millimetres from the point in the
    symbol's own frame; None where no figure is written.
    """

    kind: str
    label: str
    symbol: Symbol
    inclination: tuple[float, float] | None
    number: tuple[float, float] | None
    turns: bool
    shows_unit: bool
    meaning: str
    explained: bool
    variant: str = ""


@dataclass(frozen=True)
class AreaSign:
    """The sign of a kind of area: the tint of its map unit, or a colour of its own."""

    kind: str
    label: str
    meaning: str
    colour: str = ""
    variant: str = ""


@dataclass(frozen=True)
class Pen:
    """A kind of feature, ready to draw."""

    key: str
    group: str
    table: Table
    kind: str
    certainty: str
    label: str
    meaning: str

    @property
    def name(self) -> str:
        """A name for addresses and messages: ``contact-approximate``."""
        return f"{self.kind}-{self.certainty}"


@dataclass(frozen=True)
class SignBook:
    """A set of signs and pens.

    ``own_kinds`` holds the kinds that a project has made for itself; their signs stand among the others, with the
    chosen value in the place of a certainty.
    """

    name: str
    lines: tuple[LineSign, ...]
    points: tuple[PointSign, ...]
    areas: tuple[AreaSign, ...]
    pens: tuple[Pen, ...]
    own_kinds: Mapping[str, OwnKind] = field(default_factory=dict)

    def kinds(self, table: Table) -> set[str]:
        """The kinds of feature that the book has signs for."""
        return {sign.kind for sign in getattr(self, table)}

    def needs_reading(self, table: Table, kind: str) -> bool:
        """Whether a kind is an attitude, which is nothing without strike and dip."""
        return table == "points" and any(s.inclination for s in self.points if s.kind == kind)

    def line(self, kind: str, certainty: str) -> LineSign:
        """The sign of a line; kinds with one sign for all certainties give that one."""
        for sign in self.lines:
            if sign.kind == kind and sign.certainty == certainty:
                return sign
        for sign in self.lines:
            if sign.kind == kind:
                return sign
        return LineSign(kind, certainty, unknown(kind), LineStyle(0.3, UNKNOWN, (0.3, 0.7)), "", True)

    def variant(self, kind: str, certainty: str, fields: Mapping[str, Any]) -> str:
        """Which of the signs of a kind a feature takes: by certainty, or by its own list."""
        return self.own_kinds[kind].variant(fields) if kind in self.own_kinds else certainty

    def area(self, kind: str, variant: str) -> AreaSign:
        """The sign of an area."""
        found = [sign for sign in self.areas if sign.kind == kind]
        if not found:
            return AreaSign(kind, unknown(kind), "", UNKNOWN)
        return next((sign for sign in found if sign.variant == variant), found[0])

    def point(self, kind: str, inclination: float | None, variant: str = "") -> PointSign:
        """The sign of a point at an inclination in degrees, or for the value of an own list."""
        for sign in self.points:
            if sign.kind == kind and kind in self.own_kinds and sign.variant == variant:
                return sign
        for sign in self.points:
            if sign.kind != kind:
                continue
            low, high = sign.inclination or (-math.inf, math.inf)
            if sign.inclination and inclination is None:
                continue
            if low <= (inclination or 0.0) <= high:
                return sign
        label = (
            unknown(kind)
            if kind not in self.kinds("points")
            else f"{kind.replace('_', ' ').capitalize()} without a reading"
        )
        cross = (Paths.of([(-1.0, -1.0), (1.0, 1.0)], [(-1.0, 1.0), (1.0, -1.0)]),)
        symbol = Symbol(label, tuple(Stroke(LineStyle(0.3, UNKNOWN), paths) for paths in cross))
        return PointSign(kind, label, symbol, None, None, False, False, "", True)

    def pen(self, name: str) -> Pen:
        """A pen by its name."""
        for pen in self.pens:
            if pen.name == name:
                return pen
        raise SignMissing(f"There is no pen “{name}” in the tray.")


def unknown(kind: str) -> str:
    """What a kind is called that the book has no sign for."""
    return f"Unknown kind “{kind[:40]}”"


@lru_cache(maxsize=1)
def standard() -> SignBook:
    """The sign book that ships with Orvik."""
    return load(Path(__file__).with_name("standard.toml"))


def load(path: Path) -> SignBook:
    """A sign book from its data file.

    Raises
    ------
    SignMissing
        A pen names a sign that the file does not hold.
    """
    data = tomllib.loads(path.read_text(encoding="utf-8"))
    lines = tuple(
        LineSign(
            kind=row["kind"],
            certainty=row["certainty"],
            label=row["label"],
            style=LineStyle(row["width"], row.get("colour", INK), tuple(row.get("dash", ())), row.get("cap", "butt")),
            meaning=row["meaning"],
            explained=row.get("explained", True),
            fill=row.get("fill", ""),
        )
        for row in data["line"]
    )
    points = tuple(_point(row) for row in data["point"])
    areas = tuple(AreaSign(row["kind"], row["label"], row["meaning"]) for row in data["area"])
    return SignBook(data["name"], lines, points, areas, tuple(_pens(data)))


def _point(row: dict[str, Any]) -> PointSign:
    items = tuple(_piece(s) for s in row["strokes"])
    dips = row.get("inclination")
    return PointSign(
        kind=row["kind"],
        label=row["label"],
        symbol=Symbol(row["label"], items),
        inclination=(dips[0], dips[1]) if dips else None,
        number=(row["number"][0], row["number"][1]) if "number" in row else None,
        turns=row.get("turns", True),
        shows_unit=row.get("shows_unit", False),
        meaning=row["meaning"],
        explained=row.get("explained", True),
    )


def _piece(stroke: dict[str, Any]) -> Stroke | Fill:
    colour = stroke.get("colour", INK)
    if stroke.get("fill"):
        path = _path(stroke)
        ring = Paths.of([*map(tuple, path.xy.tolist()), tuple(path.xy[0].tolist())])
        return Fill(colour, ring, np.array([0, 1]))
    return Stroke(LineStyle(stroke["width"], colour, (), "butt"), _path(stroke))


def _path(stroke: dict[str, Any]) -> Paths:
    if "circle" in stroke:
        angles = np.linspace(0, 2 * np.pi, 33)
        radius = stroke["circle"]
        return Paths.of([(radius * math.cos(a), radius * math.sin(a)) for a in angles])
    return Paths.of([(x, y) for x, y in stroke["path"]])


def _pens(data: dict[str, Any]) -> list[Pen]:
    signs: dict[str, tuple[Table, str, str]] = {}
    for family, table in _TABLES.items():
        for row in data[family]:
            name = f"{row['kind']}-{row.get('certainty', 'certain')}"
            signs.setdefault(name, (table, row["label"], row["meaning"]))
    pens = []
    for row in data["pen"]:
        name = f"{row['kind']}-{row['certainty']}"
        if name not in signs:
            raise SignMissing(f"The pen {row['key']} draws {name}, which has no sign in the book.")
        table, label, meaning = signs[name]
        pens.append(Pen(row["key"], row["group"], table, row["kind"], row["certainty"], label, meaning))
    return pens
