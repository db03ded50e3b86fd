"""How the map meets its neighbours along the border."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np
import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.features.table import FeatureKey, Table
from orvik.core.findings.finding import Finding
from orvik.core.findings.joins import join_findings
from orvik.core.geometry.nodes import NODE
from orvik.core.ground.scale import on_ground
from orvik.core.joins.meeting import misfits, shared_border
from orvik.core.joins.neighbour import STRIP_MM, Edge, Neighbour, edge_of
from orvik.store.reader import Reader
from orvik.store.tables.neighbours import neighbours


def misfits_of(project: Reader, features: Mapping[Table, Features]) -> list[Finding]:
    """What does not meet the neighbouring sheets; nothing where there is no border, or no neighbour has been read."""
    known = [held for held in neighbours(project) if not held.edge.is_empty]
    line = project.border()
    if not known or line is None:
        return []
    border = shapely.Polygon(line)
    mm = on_ground(1.0, project.scales.publication) / project.crs.metres_per_unit
    near = border.exterior.buffer(STRIP_MM * mm)
    shapely.prepare(near)
    held: dict[Table, Features] = {"lines": _at(features["lines"], near), "areas": _at(features["areas"], near)}
    here = edge_of(_each(held["lines"]), _each(held["areas"]), None, border, STRIP_MM * mm)
    return [finding for neighbour in known for finding in _at_one(neighbour, border, here, held, mm)]


def joined_mm(project: Reader, neighbour: Neighbour) -> float:
    """Along how much of the border a neighbour has been read, in millimetres on the sheet."""
    line = project.border()
    if line is None:
        return 0.0
    mm = on_ground(1.0, project.scales.publication) / project.crs.metres_per_unit
    return shared_border(shapely.Polygon(line), neighbour.edge, mm).length_mm


def _at(features: Features, near: shapely.Polygon) -> Features:
    return features.select(shapely.intersects(near, features.geometries)) if len(features) else features


def _each(features: Features) -> Iterator[Feature]:
    return (features.feature(row) for row in range(len(features)))


def _at_one(
    neighbour: Neighbour, border: shapely.Polygon, here: Edge, held: Mapping[Table, Features], mm: float
) -> list[Finding]:
    shared = shared_border(border, neighbour.edge, mm)
    found = misfits(shared, here, neighbour.edge)
    at_ends: dict[int, list[FeatureKey]] = {}
    for misfit in found:
        if misfit.what == "offset" and misfit.number is not None:
            there = _with_vertex(held, misfit.at)
            mine: FeatureKey = ("lines", misfit.number)
            if mine in there:
                at_ends[misfit.number] = [mine, *(key for key in there if key != mine)]
    return join_findings(neighbour, found, at_ends)


def _with_vertex(held: Mapping[Table, Features], place: tuple[float, float]) -> list[FeatureKey]:
    """Lines that end at a place, and areas that have a vertex there."""
    at = shapely.Point(place)
    out: list[FeatureKey] = []
    for table, features in held.items():
        for row in np.flatnonzero(shapely.dwithin(features.geometries, at, NODE)).tolist() if len(features) else []:
            xy = shapely.get_coordinates(features.geometries[row])
            xy = xy[[0, -1]] if table == "lines" else xy
            if (np.hypot(*(xy - place).T) <= NODE).any():
                out.append((table, int(features.ids[row])))
    return out
