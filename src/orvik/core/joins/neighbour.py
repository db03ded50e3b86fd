"""Neighbouring sheets: each by its name, its number and its place around this one, with what it shows at the border."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.errors import NeighbourRefused
from orvik.core.features.by_certainty import pieces_by_certainty
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SECTION_LINE, SHEET_BORDER
from orvik.core.stored import Stored

# Where a neighbour lies, in reading order, with the middle left out.
PLACES: Mapping[str, str] = {
    "nw": "northwest",
    "n": "north",
    "ne": "northeast",
    "w": "west",
    "e": "east",
    "sw": "southwest",
    "s": "south",
    "se": "southeast",
}
LONGEST_NAME, LONGEST_NUMBER = 80, 30
# Lines of these kinds end at a border because it is one.
NOT_JOINED = frozenset({SHEET_BORDER, SECTION_LINE})
# So much of a neighbour is held, in millimetres on the sheet to both sides of the border.
STRIP_MM = 15.0
# Borders of two sheets that lie so near, in millimetres on the sheet, are one: each may be straight in its own system.
ONE_BORDER_MM = 1.0


@dataclass(frozen=True)
class EdgeLine:
    """A piece of a line at the border, of one certainty, in the system of the project that looks at it.

    Pieces of one line have its ``number``.
    """

    kind: str
    certainty: str
    questionable: bool
    geometry: shapely.LineString
    number: int = 0


@dataclass(frozen=True)
class EdgeArea:
    """A unit's ground at the border."""

    unit: str
    geometry: shapely.Polygon


@dataclass(frozen=True)
class Edge:
    """What a sheet shows along a border.

    Attributes
    ----------
    ring
        Its own border; None where it states none.
    """

    lines: tuple[EdgeLine, ...] = ()
    areas: tuple[EdgeArea, ...] = ()
    ring: shapely.Polygon | None = None

    @property
    def is_empty(self) -> bool:
        return not (self.lines or self.areas)

    @property
    def json(self) -> str:
        """As it is stored; coordinates keep their last bit."""
        return json.dumps(
            {
                "ring": shapely.to_wkb(self.ring, hex=True) if self.ring is not None else None,
                "lines": [
                    [a.kind, a.certainty, a.questionable, shapely.to_wkb(a.geometry, hex=True), a.number]
                    for a in self.lines
                ],
                "areas": [[a.unit, shapely.to_wkb(a.geometry, hex=True)] for a in self.areas],
            }
        )

    @staticmethod
    def of_json(text: str) -> Edge:
        """Raises NeighbourRefused where another program has left what is none."""
        try:
            held = json.loads(text)
            ring = _shape(held["ring"], "Polygon") if held["ring"] is not None else None
            lines = [
                EdgeLine(str(kind), str(certainty), bool(questionable), _shape(wkb, "LineString"), int(number))
                for kind, certainty, questionable, wkb, number in held["lines"]
            ]
            areas = [EdgeArea(str(unit), _shape(wkb, "Polygon")) for unit, wkb in held["areas"]]
        except (ValueError, TypeError, KeyError, shapely.errors.GEOSException) as error:
            raise NeighbourRefused("What is held of a neighbouring sheet is damaged; read its file again.") from error
        return Edge(tuple(lines), tuple(areas), ring)


def _shape(wkb: str, kind: str) -> Any:
    found = shapely.from_wkb(wkb)
    if found.geom_type != kind or found.is_empty or not all(math.isfinite(v) for v in found.bounds):
        raise ValueError(f"not a {kind}")
    return found


@dataclass(frozen=True)
class Neighbour(Stored):
    """A sheet beside this one.

    Attributes
    ----------
    place
        A name of ``PLACES``.
    file
        What the file was called that its edge was read from; empty where only its name is known.
    read
        The day on which that was, as ``2026-07-02``.
    """

    name: str
    sheet_number: str = ""
    place: str = "n"
    file: str = ""
    read: str = ""
    edge: Edge = Edge()
    id: int | None = None

    def __post_init__(self) -> None:
        if self.place not in PLACES:
            raise NeighbourRefused(f"“{self.place[:20]}” is no place around a sheet; choose one of the eight.")
        if not self.name.strip() and not self.sheet_number.strip():
            raise NeighbourRefused("A neighbouring sheet needs a name or a number, such as Sule or 12.")
        for words, longest, what in (
            (self.name, LONGEST_NAME, "name"),
            (self.sheet_number, LONGEST_NUMBER, "number"),
        ):
            if len(words) > longest:
                raise NeighbourRefused(f"The {what} of a neighbouring sheet has at most {longest} letters; shorten it.")

    @property
    def words(self) -> str:
        """How it is called in sentences: ``Sule (12)``."""
        if self.name and self.sheet_number:
            return f"{self.name} ({self.sheet_number})"
        return self.name or f"sheet {self.sheet_number}"


def edge_of(
    lines: Iterable[Feature], areas: Iterable[Feature], ring: BaseGeometry | None, border: shapely.Polygon, strip: float
) -> Edge:
    """What a sheet shows within a strip along a border, from its features.

    Parameters
    ----------
    border
        Of the sheet that looks at it, in the system of the features.
    strip
        How wide, in units of that system, to both sides.
    """
    near = border.exterior.buffer(strip)
    shapely.prepare(near)
    held = []
    for order, line in enumerate(lines, 1):
        if line.kind in NOT_JOINED or not near.intersects(line.geometry):
            continue
        for _, piece in pieces_by_certainty(line):
            parts = shapely.get_parts(shapely.intersection(piece.geometry, near))
            held += [
                EdgeLine(piece.kind, piece.certainty, piece.questionable, part, line.id or -order)
                for part in parts
                if part.geom_type == "LineString" and part.length > 0
            ]
    found = []
    for area in areas:
        if area.map_unit and near.intersects(area.geometry):
            parts = shapely.get_parts(shapely.intersection(shapely.make_valid(area.geometry), near))
            found += [EdgeArea(area.map_unit, part) for part in parts if part.geom_type == "Polygon" and part.area > 0]
    own = ring if isinstance(ring, shapely.Polygon) and not ring.is_empty else None
    return Edge(tuple(held), tuple(found), own)


def place_of(border: shapely.Polygon, ring: BaseGeometry) -> str:
    """Where another sheet lies around one: of two that share an edge, at which; else at which corner.

    >>> here, there = shapely.box(0, 0, 10, 10), shapely.box(10, 1, 18, 9)
    >>> place_of(here, there)
    'e'
    """
    west, south, east, north = border.bounds
    left, low, right, high = ring.bounds
    x, y = (left + right) / 2, (low + high) / 2
    # What reaches beyond a side by more than it shares with it lies at a corner.
    across = "w" if x < west else "e" if x > east else ""
    along = "s" if y < south else "n" if y > north else ""
    if across and along:
        shared_x = min(right, east) - max(left, west)
        shared_y = min(high, north) - max(low, south)
        if shared_x > 0.5 * min(right - left, east - west):
            return along
        if shared_y > 0.5 * min(high - low, north - south):
            return across
        return along + across
    if across or along:
        return along or across
    # The middle of the other lies within this one: the side that it is nearest to.
    sides = {"w": x - west, "e": east - x, "s": y - south, "n": north - y}
    return min(sides, key=lambda side: sides[side])
