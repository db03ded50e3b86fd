"""The line being drawn: vertex by vertex, from the first click until it is finished or dropped."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
import shapely

from .errors import FeatureRefused
from .feature import Feature
from .signs.catalogue import Pen
from .snap import Target

Place = tuple[float, float]


@dataclass(frozen=True)
class Vertex:
    """One vertex as drawn: where, what it was snapped to, and at which scale."""

    x: float
    y: float
    capture_scale: int
    target: Target | None = None

    @property
    def place(self) -> Place:
        return (self.x, self.y)


@dataclass(frozen=True)
class Drawing:
    """What is being drawn with a pen; every step gives a new drawing."""

    pen: Pen
    vertices: tuple[Vertex, ...] = field(default_factory=tuple)

    @property
    def closes(self) -> bool:
        """Whether the pen draws a closed figure: an area, or the sheet border."""
        return self.pen.table == "areas" or self.pen.kind == "border"

    @property
    def least(self) -> int:
        """The fewest vertices that make a feature."""
        return 3 if self.closes else 2

    def pressed(self, vertex: Vertex) -> Drawing:
        """With one more vertex; one on the same place as the last is left out."""
        if self.vertices and self.vertices[-1].place == vertex.place:
            return self
        return replace(self, vertices=(*self.vertices, vertex))

    def back(self) -> Drawing:
        """Without the last vertex."""
        return replace(self, vertices=self.vertices[:-1])

    def crosses(self, pointer: Place | None = None) -> bool:
        """Whether the line as drawn, led on to ``pointer``, crosses itself.

        Meeting its own first vertex is no crossing: the figure closes there.
        """
        places = [v.place for v in self.vertices]
        if pointer is not None and places and places[-1] != pointer:
            places.append(pointer)
        if len(places) < 4:
            return len(places) == 3 and _doubles_back(places)
        return not shapely.LineString(places).is_simple

    def length(self, pointer: Place | None = None) -> float:
        """Length in project units, led on to ``pointer``."""
        places = [v.place for v in self.vertices] + ([pointer] if pointer is not None else [])
        xy = np.array(places).reshape(-1, 2)
        return float(np.hypot(*np.diff(xy, axis=0).T).sum()) if len(xy) > 1 else 0.0

    def finished(self, map_unit: str | None = None) -> Feature:
        """The feature that the drawing makes.

        Raises
        ------
        FeatureRefused
            Too few vertices, or it crosses itself.
        """
        places = [v.place for v in self.vertices]
        distinct = len(set(places))
        what = self.pen.label.lower()
        if distinct < self.least:
            missing = self.least - distinct
            more = f"{missing} more {'vertex' if missing == 1 else 'vertices'}"
            raise FeatureRefused(f"A {what} needs {more}; go on drawing, or press Escape to drop it.")
        if self.closes and places[0] != places[-1]:
            places.append(places[0])
        line = shapely.LineString(places)
        if not line.is_simple:
            closing = self.closes and shapely.LineString(places[:-1]).is_simple
            where = "The side that closes it" if closing else f"This {what}"
            raise FeatureRefused(f"{where} crosses what is drawn; take vertices back with Backspace.")
        geometry = shapely.Polygon(places) if self.pen.table == "areas" else line
        return Feature(
            self.pen.table,
            geometry,
            self.pen.kind,
            certainty=self.pen.certainty,
            map_unit=map_unit if self.pen.table == "areas" else None,
            capture_scale=max(v.capture_scale for v in self.vertices),
        )


def _doubles_back(places: list[Place]) -> bool:
    (ax, ay), (bx, by), (cx, cy) = places
    cross = (bx - ax) * (cy - by) - (by - ay) * (cx - bx)
    return cross == 0 and (bx - ax) * (cx - bx) + (by - ay) * (cy - by) < 0
