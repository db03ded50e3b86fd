"""Form units: faces from the linework, and a unit for each from the tags; what that changes stands in ``plan``.

Faces are built from everything that bounds units, without what is concealed. Within the sheet border they
tile it. How few of them are built again after an edit is the matter of ``refacing``.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import cast

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Geometries, Ints
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_TAG
from orvik.core.features.stretch import certainties, runs
from orvik.core.geometry.nodes import NODE
from orvik.core.geometry.touching import with_ends_met

# How much ground overlaps may cover in all, as a share of the ground: the rounding of a sum.
ROUNDING = 1e-9
# The same for two areas, for each unit of the length of an edge: more of it lay over one another before.
OVER = 1e-4
# Ground, in square project units, that is not an area: lines all but on one another leave such between them.
SPECK = 2e-3


@dataclass(frozen=True)
class Pieces:
    """The parts of lines that bound units, in no order; ``owners`` are the ids of the lines."""

    lines: Geometries
    owners: Ints

    def patched(self, changed: Ints, now: Pieces) -> Pieces:
        """The pieces after an edit of some lines, with the pieces that these have now."""
        keep = ~np.isin(self.owners, changed)
        return Pieces(np.concatenate([self.lines[keep], now.lines]), np.concatenate([self.owners[keep], now.owners]))


@dataclass(frozen=True)
class Faces:
    """Faces of the linework with what the tags say of each.

    ``units`` holds the codes of all tags within a face; ``tags`` the ids of these points.
    """

    polygons: Geometries
    units: list[tuple[str, ...]] = field(default_factory=list)
    tags: list[tuple[int, ...]] = field(default_factory=list)

    def __len__(self) -> int:
        return len(self.polygons)

    def unit(self, i: int) -> str | None:
        """The unit of a face; None where its tags say nothing or do not agree."""
        return self.units[i][0] if len(self.units[i]) == 1 else None


def pieces_of(lines: Features, bounding: frozenset[str]) -> Pieces:
    """The parts of lines that bound units: all but what is concealed, of the kinds that bound."""
    kinds, whole = lines.columns["kind"], lines.columns["certainty"]
    stretched = lines.columns["stretches"]
    plain = np.array(
        [k in bounding and not s and c != "concealed" for k, c, s in zip(kinds, whole, stretched, strict=True)],
        dtype=bool,
    )
    geometries, owners = [lines.geometries[plain]], [lines.ids[plain]]
    for i, stretches in enumerate(stretched):
        if not stretches or kinds[i] not in bounding:
            continue
        parts = seen_parts(lines.geometries[i], whole[i], stretches)
        made = np.empty(len(parts), dtype=object)
        made[:] = parts
        geometries.append(made)
        owners.append(np.full(len(parts), lines.ids[i]))
    return Pieces(np.concatenate(geometries), np.concatenate(owners))


def seen_parts(line: shapely.LineString, certainty: str, stretches: tuple[object, ...]) -> list[shapely.LineString]:
    """The parts of a line that are not concealed."""
    xy = shapely.get_coordinates(line)
    by_segment = certainties(certainty, stretches, len(xy) - 1)  # type: ignore[arg-type]
    return [shapely.LineString(xy[a : b + 1]) for a, b, value in runs(by_segment) if value != "concealed"]


def faces_of(pieces: Geometries, frame: shapely.Polygon | None) -> Geometries:
    """The faces between lines, noded where they meet; within the frame where there is one.

    >>> square = np.array([shapely.LinearRing([(0, 0), (4, 0), (4, 4), (0, 4)]), shapely.LineString([(0, 2), (4, 2)])])
    >>> [face.area for face in faces_of(square, None)]
    [8.0, 8.0]

    Parameters
    ----------
    pieces
        Linestrings in any order.
    frame
        The ground within the sheet border.
    """
    if not len(pieces):
        return np.empty(0, dtype=object)
    polygons = polygonized(pieces)
    if frame is not None and len(polygons):
        shapely.prepare(frame)
        polygons = polygons[shapely.contains(frame, shapely.point_on_surface(polygons))]
    return polygons


def polygonized(pieces: Geometries, apart: Geometries | None = None) -> Geometries:
    """The polygons between lines; ``apart`` are closed lines that meet none of the others, which need no noding."""
    if len(pieces):
        pieces = with_ends_met(pieces)
        noded: BaseGeometry
        try:
            noded = cast(BaseGeometry, shapely.node(shapely.multilinestrings(pieces)))
        except shapely.GEOSException:
            # Lines that run along one another within the rounding of their vertices never come to rest when
            # noded pair by pair. Overlay snaps what is so near; it is slower, so it is not the first choice.
            noded = shapely.union_all(pieces)
        pieces = shapely.get_parts(noded)
    if apart is not None:
        pieces = np.concatenate([pieces, apart])
    polygons: Geometries = shapely.get_parts(shapely.polygonize(pieces))
    return oriented(polygons)


def oriented(polygons: Geometries) -> Geometries:
    """Polygons with outer rings counter-clockwise and holes clockwise (OGC 06-103r4, 6.1.11.1)."""
    out: Geometries = np.asarray(shapely.orient_polygons(polygons), dtype=object)
    return out


def tagged(polygons: Geometries, tags: Features) -> Faces:
    """Faces with the units of the tags that stand in each. A tag exactly on a line counts on both sides."""
    units: list[tuple[str, ...]] = [()] * len(polygons)
    holders: list[tuple[int, ...]] = [()] * len(polygons)
    codes = tags.columns["map_unit"]
    rows = np.flatnonzero([k == UNIT_TAG and bool(u) for k, u in zip(tags.columns["kind"], codes, strict=True)])
    if len(polygons) and len(rows):
        faces, points = shapely.STRtree(tags.geometries[rows]).query(polygons, predicate="intersects")
        for point, face in zip(rows[points].tolist(), faces.tolist(), strict=True):
            code = str(codes[point])
            holders[face] += (int(tags.ids[point]),)
            if code not in units[face]:
                units[face] += (code,)
    return Faces(polygons, units, holders)


def is_coverage(formed: Sequence[BaseGeometry], cut: Sequence[BaseGeometry]) -> bool:
    """Whether formed areas make a sound coverage, and each one that was cut makes one with those around it.

    Areas that were cut may lie over others, as they did before; that is told as a finding.
    """
    if not _sound(formed):
        return False
    tree = shapely.STRtree(formed)
    for rest in cut:
        beside = tree.query(rest, predicate="dwithin", distance=NODE).tolist()
        around = np.array([formed[i] for i in beside], dtype=object)
        over = shapely.area(shapely.intersection(around, rest)) > SPECK + OVER * shapely.length(around)
        if not _sound([rest, *around[~over]]):
            return False
    return True


def _sound(areas: Sequence[BaseGeometry]) -> bool:
    sound, over = proven(areas)
    return sound and over <= ROUNDING * sum(a.area for a in areas)


def proven(areas: Iterable[BaseGeometry]) -> tuple[bool, float]:
    """Whether areas make a valid coverage, and by how much their sum differs from the ground they cover.

    Coverage validity alone does not see a gap; the balance of areas alone does not see edges that part by
    less than its rounding. The sum of the holes that the areas leave is not an error by itself.
    """
    polygons = np.array(list(areas), dtype=object)
    if not len(polygons):
        return True, 0.0
    valid = bool(shapely.coverage_is_valid(polygons))
    union = shapely.union_all(polygons)
    return valid and bool(shapely.is_valid(polygons).all()), float(shapely.area(polygons).sum() - union.area)
