"""Where the invented rock comes to the ground: contacts and faults over the relief, cut where they meet, and faces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Flags, Floats, Objects
from orvik.core.structure.plane import zero_lines
from orvik.demo.coast import Coast
from orvik.demo.landscape import Landscape
from orvik.demo.rock import Rock, in_strike

GRID = 0.01
# How far a line of the map may leave the model, in metres: 0.03 mm on the sheet.
FLAT = 0.8
# The smallest area that is mapped, in square metres: 6 mm2 on the sheet.
SMALLEST = 3_750.0
# Lines that may go where what they bound is too small; the first of them first.
LOOSE = ("contact", "drift", "alluvium")
# The narrowest, in metres: 0.4 mm on the sheet.
NARROWEST = 10.0
# Metres below the rim of drift within which a covered contact is not told from it: 0.4 mm on the sheet.
CLOSE = 10.0
# Metres over which the rock of a block is looked at beyond its faults.
BEYOND_FAULTS = 60.0
# How far alluvium reaches from the burn.
FLOOD = 75.0
# Metres within which the mouth of a stream is on another.
JOINS = 60.0


@dataclass(frozen=True)
class Line:
    """A line of the invented map."""

    kind: str
    certainty: str
    geometry: shapely.LineString
    questionable: bool = False


@dataclass(frozen=True)
class Face:
    """An area of the invented map."""

    unit: str
    geometry: shapely.Polygon


def traces(land: Landscape, values: Floats) -> list[shapely.LineString]:
    """The lines over the ground along which values at its cells are zero."""
    found = zero_lines(land.grid.east_of_middles, land.grid.north_of_middles, values)
    return [shapely.simplify(shapely.LineString(xy), FLAT) for xy in found]


def longest_trace(land: Landscape, values: Floats) -> shapely.LineString:
    """The longest of the lines over the ground along which values at its cells are zero, rounded to centimetres."""
    line = max(traces(land, values), key=shapely.length)
    return shapely.LineString(np.round(shapely.get_coordinates(line), 2))


def bedrock_map(coast: Coast, rock: Rock, land: Landscape, rng: np.random.Generator) -> tuple[list[Line], list[Face]]:
    """Contacts, faults, shore and drift as lines that share their vertices, and the faces between them."""
    x, y, z = land.places
    xy = np.stack([x, y], axis=-1)
    u, v = in_strike(xy)
    beyond = [fault.beyond(u, v, z) for fault in rock.faults]
    faults = [longest_trace(land, values) for values in beyond]
    blocks = _blocks(land, faults, coast.land)
    alluvium = _alluvium(coast, land)
    till = shapely.difference(coast.till, alluvium)
    sources: list[tuple[str, BaseGeometry]] = [("shoreline", coast.land.exterior)]
    for number, block in enumerate(blocks):
        near: Flags = z > -3.0
        if number:
            near &= beyond[number - 1] > -BEYOND_FAULTS
        if number < len(faults):
            near &= beyond[number] < BEYOND_FAULTS
        above = np.full(z.shape, np.nan)
        above[near] = rock.above_base(xy[near], z[near], number)
        for _, foot in rock.floors:
            lines = [line for line in traces(land, above - foot) if not _speck(line)]
            sources.append(("contact", shapely.intersection(shapely.union_all(lines), block)))
    sources += [("fault", shapely.intersection(fault, coast.land)) for fault in faults]
    sources += [("drift", shapely.boundary(till)), ("alluvium", shapely.boundary(alluvium))]
    named = _Named(rock, land, blocks, coast.land, till, alluvium)
    return _noded(rng, sources, named)


def _speck(line: shapely.LineString) -> bool:
    return line.is_closed and shapely.Polygon(line).area < SMALLEST


def _alluvium(coast: Coast, land: Landscape) -> BaseGeometry:
    """The flat ground along the stream that took the burn's way."""
    way = shapely.buffer(coast.burn, 250.0)
    stream = max(land.streams, key=lambda line: float(shapely.intersection(line, way).length))
    flat = shapely.buffer(shapely.simplify(_to_the_sea(stream, land), 12.0), FLOOD, quad_segs=4)
    return shapely.intersection(shapely.simplify(flat, 1.0), coast.land)


def _to_the_sea(stream: shapely.LineString, land: Landscape) -> shapely.LineString:
    """A stream with the lower courses of those that it joins, one after the other."""
    course = shapely.get_coordinates(stream)
    left = [other for other in land.streams if other is not stream]
    while left:
        mouth = shapely.Point(course[-1])
        joined = min(left, key=mouth.distance)
        if mouth.distance(joined) > JOINS:
            break
        left.remove(joined)
        xy = shapely.get_coordinates(joined)
        nearest = int(np.hypot(*(xy - course[-1]).T).argmin())
        course = np.vstack([course, xy[nearest:]])
    return shapely.LineString(course)


def _blocks(land: Landscape, faults: list[shapely.LineString], shore: shapely.Polygon) -> list[BaseGeometry]:
    """The ground between the faults, from the south-west to the north-east."""
    x, y = land.grid.east_of_middles, land.grid.north_of_middles
    cuts = shapely.union_all([shapely.box(x[0], y[-1], x[-1], y[0]).exterior, *faults])
    pieces = shapely.get_parts(shapely.polygonize([*shapely.get_parts(cuts)]))
    middles = [float(in_strike(shapely.get_coordinates(shapely.point_on_surface(p)))[0][0]) for p in pieces]
    order = [p for _, p in sorted(zip(middles, pieces, strict=True), key=lambda pair: pair[0])]
    return [shapely.intersection(p, shore) for p in order]


@dataclass(frozen=True)
class _Named:
    """Says what unit a face is of."""

    rock: Rock
    land: Landscape
    blocks: list[BaseGeometry]
    shore: shapely.Polygon
    till: BaseGeometry
    alluvium: BaseGeometry

    @property
    def cover(self) -> BaseGeometry:
        return shapely.union_all([self.till, self.alluvium])

    def unit(self, polygon: shapely.Polygon) -> str | None:
        """The unit at the place that is farthest from its edges; None at sea."""
        place = shapely.get_point(shapely.maximum_inscribed_circle(polygon, tolerance=2.0), 0)
        if not shapely.contains(self.shore, place):
            return None
        if shapely.contains(self.alluvium, place):
            return "Qal"
        if shapely.contains(self.till, place):
            return "Qt"
        block = int(np.argmin([shapely.distance(block, place) for block in self.blocks]))
        xy = shapely.get_coordinates(place)
        return str(self.rock.unit(xy, self.land.grid.at(xy), block)[0])


def _noded(
    rng: np.random.Generator, sources: list[tuple[str, BaseGeometry]], named: _Named
) -> tuple[list[Line], list[Face]]:
    """Cut all lines where they meet, name the pieces again, and build the faces between them."""
    sources = [(name, geometry) for name, geometry in sources if not geometry.is_empty]
    noded = shapely.union_all([g for _, g in sources], grid_size=GRID)
    edges = shapely.get_parts(noded)
    middles = shapely.line_interpolate_point(edges, 0.5, normalized=True)
    nearest = np.array([shapely.distance(middles, g) for _, g in sources]).argmin(axis=0)
    names = np.array([sources[n][0] for n in nearest])
    inner = shapely.buffer(named.cover, -0.5)
    shapely.prepare(inner)
    hidden = shapely.intersects(inner, middles) & np.isin(names, ("contact", "fault"))
    # What runs so close below the rim of the drift is not drawn beside it.
    close = hidden & ~shapely.intersects(edges, shapely.buffer(named.cover, -CLOSE))
    others = shapely.union_all(edges[~hidden & (names != "contact")])
    close |= (names == "contact") & shapely.covered_by(edges, shapely.buffer(others, CLOSE))
    there = _without_slivers(edges, names, hidden, ~close)
    faces, within = _named_faces(edges, there & ~hidden, named)
    within &= np.isin(names, LOOSE)
    if within.any():
        there &= ~within
        faces, _ = _named_faces(edges, there & ~hidden, named)
    lines: list[Line] = []
    for number, (name, _) in enumerate(sources):
        for covered in (False, True):
            part = edges[(nearest == number) & (hidden == covered) & there]
            if len(part):
                lines += _lines(rng, name, part, covered)
    return lines, faces


def _named_faces(edges: Objects, bounds: Flags, named: _Named) -> tuple[list[Face], Flags]:
    """The faces between edges, and which of these have the same unit on both sides."""
    polygons = shapely.get_parts(shapely.polygonize(edges[bounds]))
    faces = [Face(unit, polygon) for polygon in polygons if (unit := named.unit(polygon))]
    middles = shapely.line_interpolate_point(edges, 0.5, normalized=True)
    tree = shapely.STRtree([face.geometry for face in faces])
    edge, face = tree.query(middles, predicate="dwithin", distance=0.01)
    within = np.zeros(len(edges), dtype=bool)
    for number in np.flatnonzero(bounds).tolist():
        beside = [faces[i].unit for i in face[edge == number].tolist()]
        within[number] = len(beside) == 2 and beside[0] == beside[1]
    return faces, within


def _without_slivers(
    edges: Objects, names: np.ndarray[tuple[int, ...], np.dtype[np.str_]], hidden: Flags, there: Flags
) -> Flags:
    """Which edges stay once faces too small to be mapped are given to the neighbour they share most with."""
    there = there.copy()
    lengths = shapely.length(edges)
    for _ in range(40):
        polygons = shapely.get_parts(shapely.polygonize(edges[there & ~hidden]))
        broad = 2 * shapely.length(shapely.maximum_inscribed_circle(polygons, tolerance=0.5))
        small = polygons[(shapely.area(polygons) < SMALLEST) | (broad < NARROWEST)]
        taken = 0
        for face in small:
            rim = shapely.buffer(shapely.boundary(face), 0.02)
            bounds = there & ~hidden & shapely.covered_by(edges, rim)
            for name in LOOSE:
                mine = np.flatnonzero(bounds & (names == name))
                if len(mine):
                    there[mine[lengths[mine].argmax()]] = False
                    taken += 1
                    break
        if not taken:
            break
    return there & ~_hanging(edges, there, np.isin(names, LOOSE))


def _hanging(edges: Objects, there: Flags, loose: Flags) -> Flags:
    """Edges that hang on nothing at one end once others have gone, and those that hang on these."""
    ends = np.array([np.round(shapely.get_coordinates(edge)[[0, -1]], 2) for edge in edges])
    _, node = np.unique(ends.reshape(-1, 2), axis=0, return_inverse=True)
    node = node.reshape(-1, 2)
    hanging = np.zeros(len(edges), dtype=bool)
    while True:
        left = there & ~hanging
        degree = np.bincount(node[left].ravel(), minlength=int(node.max()) + 1)
        more = left & loose & (degree[node] == 1).any(axis=1)
        if not more.any():
            return hanging
        hanging |= more


def _lines(rng: np.random.Generator, name: str, edges: Objects, covered: bool) -> list[Line]:
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(edges)))
    out = []
    for line in merged:
        if name == "shoreline":
            out.append(Line("shoreline", "certain", line))
        elif name == "fault":
            out.append(Line("fault", "concealed" if covered else "certain", line))
        elif covered:
            out.append(Line("contact", "concealed", line))
        elif name in ("drift", "alluvium"):
            out.append(Line("contact", "approximate" if name == "drift" else "certain", line))
        else:
            certainty = str(rng.choice(["certain", "approximate", "inferred"], p=[0.6, 0.24, 0.16]))
            out.append(Line("contact", certainty, line, questionable=bool(rng.random() < 0.05)))
    return out
