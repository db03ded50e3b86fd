"""How thick beds of a section are, place by place: where one is much thicker here than there, something may be wrong.

A bed is measured at right angles to its base, up to its top, and only where both are what the column says: below it
the unit that is next older, above it the next younger. Where one of these is missing the bed has been cut off, and is
thinner for a reason.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints, Objects
from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_of

# An end this near to another line, in metres, ends on it: the rounding of a vertex on an edge.
ON = 0.01
# What is thicker by this factor is told: between places that lie in the middle of all that were measured (percentiles),
# so that a corner says nothing.
THICKENS, MIDDLE = 1.5, (10.0, 90.0)
# As many places of a line are measured, and so many measures make a bed.
PLACES, FEWEST = 60, 6
# Where the top of a bed runs at more than 25 degrees to its base, it is cut off (sine).
OBLIQUE = 0.42
# Rays begin this far beside a line and are no longer than so many metres; units are looked up this far beside it.
BESIDE, FARTHEST, WITHIN = 0.25, 5_000.0, 0.5


@dataclass(frozen=True)
class Thickening:
    """A bed that thickens.

    Attributes
    ----------
    unit
        Its code.
    thin, thick
        Metres at right angles to it.
    thin_at, thick_at
        Where it is about so thick: metres along and up.
    """

    unit: str
    thin: float
    thick: float
    thin_at: tuple[float, float]
    thick_at: tuple[float, float]


def thickenings(lines: Features, areas: Features, column: Sequence[str]) -> Iterator[Thickening]:
    """The beds of a section that thicken by more than ``THICKENS``.

    Parameters
    ----------
    lines, areas
        Of the section, in metres along and up.
    column
        Codes of the units, the youngest first.
    """
    rows = np.flatnonzero([kind_of(kind).parts_units for kind in lines.columns["kind"]])
    if len(rows) < 2 or not len(areas):
        return
    bounds = np.zeros(len(lines), dtype=bool)
    bounds[rows[~_cuts_off(lines.geometries[rows])]] = True
    beds, feet, thick = _measured(lines.geometries, bounds, areas, column)
    for bed in np.unique(beds).tolist():
        mine = beds == bed
        if mine.sum() < FEWEST:
            continue
        low, high = np.percentile(thick[mine], MIDDLE)
        if high > THICKENS * max(low, 1.0):
            here, away = feet[mine], thick[mine]
            places = [here[np.abs(away - value).argmin()].tolist() for value in (low, high)]
            code = str(areas.columns["map_unit"][bed])
            yield Thickening(code, float(low), float(high), (*places[0],), (*places[1],))


def _measured(lines: Objects, bounds: Flags, areas: Features, column: Sequence[str]) -> tuple[Ints, Floats, Floats]:
    """Rows of areas, places at their base, and how thick they are there."""
    feet, normals, owners = _feet(lines, bounds)
    starts, ends = feet + BESIDE * normals, feet + FARTHEST * normals
    rays: Objects = np.asarray(shapely.linestrings(np.stack([starts, ends], axis=1)))
    ray, line = shapely.STRtree(lines).query(rays, predicate="intersects")
    away = shapely.distance(shapely.points(feet[ray]), shapely.intersection(rays[ray], lines[line]))
    order = np.lexsort((away, ray))
    ray, line, away = ray[order], line[order], away[order]
    first = np.concatenate([[True], np.diff(ray) > 0]) if len(ray) else np.zeros(0, dtype=bool)
    ray, line, away = ray[first], line[first], away[first]
    keep = bounds[line] & (line != owners[ray])
    ray, line, away = ray[keep], line[keep], away[keep]
    tops = feet[ray] + away[:, None] * normals[ray]
    straight = np.abs((_runs(lines[line], tops) * normals[ray]).sum(axis=1)) < OBLIQUE
    ray, away, tops = ray[straight], away[straight], tops[straight]
    up = WITHIN * normals[ray]
    below, bed, above = (_rows_at(areas, places) for places in (feet[ray] - up, feet[ray] + up, tops + up))
    rank = {code: i for i, code in enumerate(column)}
    # One that nothing covers is a unit by itself, next to none.
    ranks = np.array([*(rank.get(str(code), -9) for code in areas.columns["map_unit"]), -99])
    conformable = (ranks[below] == ranks[bed] + 1) & (ranks[above] == ranks[bed] - 1)
    return bed[conformable], feet[ray][conformable], away[conformable]


def _feet(lines: Objects, bounds: Flags) -> tuple[Floats, Floats, Ints]:
    """Places along lines, upwards at right angles there, and the rows of the lines."""
    rows = np.flatnonzero(bounds)
    share = np.linspace(0.02, 0.98, PLACES)
    owners = np.repeat(rows, PLACES)
    shares = np.tile(share, len(rows))

    def at(step: float) -> Floats:
        places = shapely.line_interpolate_point(lines[owners], np.clip(shares + step, 0.0, 1.0), normalized=True)
        return np.asarray(shapely.get_coordinates(places))

    run = at(0.01) - at(-0.01)
    long = np.hypot(*run.T)
    good = long > 0
    normals = np.column_stack([-run[:, 1], run[:, 0]])[good] / long[good, None]
    normals *= np.where(normals[:, 1] < 0, -1.0, 1.0)[:, None]
    return at(0.0)[good], normals, owners[good]


def _rows_at(areas: Features, places: Floats) -> Ints:
    """The rows of the areas that places lie in; -1 where there is none."""
    out = np.full(len(places), -1, dtype=np.int64)
    place, row = shapely.STRtree(areas.geometries).query(shapely.points(places), predicate="intersects")
    out[place] = row
    return out


def _runs(lines: Objects, places: Floats) -> Floats:
    """Which way lines run at places on them, as vectors of length 1."""
    way = shapely.line_locate_point(lines, shapely.points(places))
    ends = [shapely.get_coordinates(shapely.line_interpolate_point(lines, np.maximum(way + s, 0.0))) for s in (-2, 2)]
    run = ends[1] - ends[0]
    return np.asarray(run / np.maximum(np.hypot(*run.T), 1e-9)[:, None])


def _cuts_off(courses: Objects) -> Flags:
    """Lines on which others end, beside their own ends: they cut these off."""
    places = np.concatenate([shapely.get_coordinates(line)[[0, -1]] for line in courses])
    ends: Objects = np.asarray(shapely.points(places))
    hit, row = shapely.STRtree(courses).query(ends, predicate="dwithin", distance=ON)
    inner = shapely.distance(shapely.boundary(courses)[row], ends[hit]) > ON
    out = np.zeros(len(courses), dtype=bool)
    out[row[inner & (row != hit // 2)]] = True
    return out
