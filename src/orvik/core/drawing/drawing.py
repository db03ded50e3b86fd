"""The line being drawn: vertex by vertex, from the first click until it is finished or dropped."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, replace
from itertools import pairwise

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import kind_of
from orvik.core.geometry.curve import flattened
from orvik.core.geometry.snapping import Target
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ground.crs import ProjectCrs
from orvik.core.symbols.pen import Pen
from orvik.core.wording import not_a

# How a span is led to a vertex: straight, on a smooth curve, by a free hand, or along an edge.
WAYS = ("straight", "curve", "free", "follow")
# A free hand keeps no vertex that is nearer to the line than this on the sheet.
FREE_MM = 0.1


@dataclass(frozen=True)
class Vertex:
    """One vertex as drawn: where, what it was snapped to, at which scale, and how the line came there."""

    x: float
    y: float
    capture_scale: int
    target: Target | None = None
    way: str = "straight"

    @property
    def place(self) -> GroundXY:
        return (self.x, self.y)


@dataclass(frozen=True)
class Drawing:
    """What is being drawn with a pen; every step gives a new drawing.

    ``tolerance`` is how far a chord may leave a curve, in project units.
    """

    pen: Pen
    vertices: tuple[Vertex, ...] = field(default_factory=tuple)
    tolerance: float = 1.0

    @property
    def closes(self) -> bool:
        """Whether the pen draws a closed figure: an area, or the sheet border."""
        return self.pen.table == "areas" or kind_of(self.pen.kind).closed

    @property
    def least(self) -> int:
        """The fewest vertices that make a feature."""
        return 3 if self.closes else 2

    def pressed(self, *vertices: Vertex) -> Drawing:
        """With more vertices; one on the same place as the one before is left out."""
        drawn = list(self.vertices)
        for vertex in vertices:
            if not drawn or drawn[-1].place != vertex.place:
                drawn.append(vertex)
        return replace(self, vertices=tuple(drawn))

    def back(self) -> Drawing:
        """Without the last click: a single vertex, or all that a free hand or an edge gave at once."""
        drawn = list(self.vertices[:-1])
        if self.vertices and self.vertices[-1].way in ("free", "follow"):
            while len(drawn) > 1 and drawn[-1].way == self.vertices[-1].way and drawn[-1].target is None:
                drawn.pop()
        return replace(self, vertices=tuple(drawn))

    def path(self, pointer: Vertex | None = None, close: bool = False) -> tuple[Floats, list[int], list[bool]]:
        """The line as it will be: its vertices, which of them are knots, and which spans are smooth."""
        drawn = self.pressed(pointer) if pointer is not None else self
        places = [v.place for v in drawn.vertices]
        smooth = [v.way == "curve" for v in drawn.vertices[1:]]
        if close and len(places) > 2 and places[0] != places[-1]:
            places.append(places[0])
            smooth.append(bool(smooth) and smooth[-1])
        xy = np.array(places, dtype=float).reshape(-1, 2)
        if len(xy) < 2:
            return xy, list(range(len(xy))), []
        line, knots = flattened(xy, smooth, self.tolerance)
        return line, knots, smooth

    def crosses(self, pointer: Vertex | None = None) -> bool:
        """Whether the line as drawn, led on to ``pointer``, crosses itself.

        Meeting its own first vertex is not a crossing: the figure closes there.
        """
        return crossing(self.path(pointer)[0])

    def finished(self, map_unit: str | None = None) -> Feature:
        """The feature that the drawing makes.

        Raises
        ------
        FeatureRefused
            Too few vertices, or it crosses itself.
        """
        distinct = len({v.place for v in self.vertices})
        what = self.pen.label.lower()
        if distinct < self.least:
            missing = self.least - distinct
            more = f"{missing} more {'vertex' if missing == 1 else 'vertices'}"
            raise FeatureRefused(f"A {what} needs {more}; go on drawing, or press Escape to discard it.")
        xy, knots, smooth = self.path(close=self.closes)
        line = shapely.LineString(xy)
        if not line.is_simple:
            closing = self.closes and shapely.LineString(self.path()[0]).is_simple
            where = "The side that closes it" if closing else f"This {what}"
            raise FeatureRefused(f"{where} crosses what is drawn; remove vertices with Backspace.")
        area = self.pen.table == "areas"
        return Feature(
            self.pen.table,
            shapely.Polygon(xy) if area else line,
            self.pen.kind,
            certainty=self.pen.certainty,
            map_unit=map_unit if area else None,
            capture_scale=max(v.capture_scale for v in self.vertices),
            knots=tuple(knots) if any(smooth) and not area else (),
        )

    def course(self) -> float | None:
        """The direction of the last straight span on the grid in degrees from north; None before there is one."""
        if len(self.vertices) < 2:
            return None
        a, b = self.vertices[-2], self.vertices[-1]
        return math.degrees(math.atan2(b.x - a.x, b.y - a.y)) % 360

    def aligned(self, x: float, y: float, courses: Sequence[float]) -> GroundXY:
        """The pointer brought onto the nearest of some directions from the last vertex, in degrees on the grid."""
        last = self.vertices[-1]
        best = max(
            ((x - last.x) * math.sin(math.radians(c)) + (y - last.y) * math.cos(math.radians(c)), c) for c in courses
        )
        far, course = max(best[0], 0.0), math.radians(best[1])
        return last.x + far * math.sin(course), last.y + far * math.cos(course)

    @property
    def text(self) -> str:
        """As the project file keeps it until it is finished."""
        return json.dumps({"pen": self.pen.name, "vertices": [asdict(v) for v in self.vertices]})


def vertices_of(text: str) -> tuple[str, tuple[Vertex, ...]]:
    """The name of the pen and the vertices of a drawing that was kept unfinished."""
    values = json.loads(text)
    vertices = []
    for row in map(dict, values["vertices"]):
        target = row.pop("target")
        if target is not None:
            other = target.pop("other", None)
            target = Target(**target, other=tuple(other) if other else None)
        vertices.append(Vertex(**row, target=target))
    return values["pen"], tuple(vertices)


def thinned_hand(places: Sequence[GroundXY], tolerance: float) -> list[GroundXY]:
    """What a free hand drew, without vertices that change nothing on the sheet (Douglas and Peucker 1973).

    >>> thinned_hand([(0, 0), (5, 0.1), (10, 0), (10, 10)], tolerance=0.5)
    [(0.0, 0.0), (10.0, 0.0), (10.0, 10.0)]
    """
    distinct = [places[0]] + [b for a, b in pairwise(places) if a != b]
    if len(distinct) < 2:
        return distinct
    thin = shapely.simplify(shapely.LineString(distinct), tolerance, preserve_topology=True)
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(thin)]


_STEP = re.compile(r"\s*(\d+(?:[.,]\d+)?)\s*°?\s*[/,;\s]\s*(\d+(?:[.,]\d+)?)\s*(m|mm|km)?\s*")


def parse_step(text: str, publication: int) -> tuple[float, float]:
    """A typed bearing and distance: degrees from true north, and metres on the ground.

    ``045/120`` is 120 m towards the north-east; ``045/3 mm`` is 3 mm on the sheet.

    Raises
    ------
    FeatureRefused
        It cannot be read or cannot be.
    """
    match = _STEP.fullmatch(text)
    if match is None:
        raise FeatureRefused(not_a(text, "bearing and distance", "045/120 for 120 m to the north-east"))
    bearing = parse_quantity(match[1], "bearing", FeatureRefused)
    distance = parse_quantity(match[2], "distance", FeatureRefused)
    if bearing > 360:
        raise FeatureRefused(f"A bearing of {bearing:g} is not a direction; bearings run from 000 to 360.")
    metres = distance * {"m": 1.0, None: 1.0, "km": 1000.0, "mm": publication / 1000}[match[3]]
    if not metres:
        raise FeatureRefused("A step of no length goes nowhere; type a distance.")
    return bearing, metres


def stepped(crs: ProjectCrs, start: GroundXY, bearing: float, metres: float) -> GroundXY:
    """The place at a bearing from true north and a distance on the grid from another.

    The bearing on the grid is the true one less the grid convergence at the start.
    """
    course = math.radians(bearing - float(crs.convergence(start[0], start[1])))
    far = metres / crs.metres_per_unit
    return start[0] + far * math.sin(course), start[1] + far * math.cos(course)


def length_of(line: Floats) -> float:
    """The length of a path of vertices, shape (n, 2), in their units."""
    return float(np.hypot(*np.diff(line, axis=0).T).sum()) if len(line) > 1 else 0.0


def crossing(line: Floats) -> bool:
    """Whether a path, (n, 2), crosses or doubles back upon itself."""
    if len(line) < 4:
        return len(line) == 3 and _doubles_back(line)
    return not shapely.LineString(line).is_simple


def _doubles_back(line: Floats) -> bool:
    (ax, ay), (bx, by), (cx, cy) = line.tolist()
    cross = (bx - ax) * (cy - by) - (by - ay) * (cx - bx)
    return bool(cross == 0 and (bx - ax) * (cx - bx) + (by - ay) * (cy - by) < 0)
