"""Stations of the notebook that stand there twice."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from orvik.core.features.station_table import Station
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.ground.scale import SEEN_MM, on_ground

rule(
    "doubled_station",
    "warning",
    "linework",
    "A station of the notebook stands there twice",
    why="its readings count twice in every net and mean",
    spoils="finish",
)

rule(
    "unlogged",
    "warning",
    "linework",
    "Stations of the notebook have not become readings of the map yet",
    why="what was measured there is missing from the map",
)


def unlogged(left: Sequence[Station]) -> list[Finding]:
    """Stations that no reading of the map logs, all in one."""
    left = [station for station in left if station.azimuth is not None]
    if not left:
        return []
    names = ", ".join(station.name for station in left[:5]) + (" and more" if len(left) > 5 else "")
    many = f"{len(left)} stations of the notebook are" if len(left) > 1 else "A station of the notebook is"
    message = f"{many} not logged yet: {names}. Their readings are not on the map."
    facts = tuple(station.name for station in left)
    return [Finding("unlogged", "warning", message, (left[0].x, left[0].y), about="stations", facts=facts)]


def doubled_stations(stations: Sequence[Station], publication: int, metres_per_unit: float) -> list[Finding]:
    """Stations of one name whose place or reading differs, and the same reading at one place under two names."""
    if len(stations) < 2:
        return []
    found: list[Finding] = []
    by_name: dict[str, list[Station]] = {}
    for station in stations:
        by_name.setdefault(station.name.strip().casefold(), []).append(station)
    for name, same in sorted(by_name.items()):
        one = same[0]
        others = [s for s in same[1:] if s.kind == one.kind]
        if name and others:
            message = f"Station {one.name} stands in the notebook {len(others) + 1} times; delete or rename one."
            facts = tuple(_said(station) for station in (one, *others))
            found.append(Finding("doubled_station", "warning", message, (one.x, one.y), about=one.name, facts=facts))
    points = shapely.points([(s.x, s.y) for s in stations])
    reach = on_ground(SEEN_MM, publication) / metres_per_unit
    hits, others_at = shapely.STRtree(points).query(points, predicate="dwithin", distance=reach)
    for i, j in np.column_stack([hits, others_at])[hits < others_at].tolist():
        a, b = stations[i], stations[j]
        reading = (a.kind, a.azimuth, a.inclination)
        if a.name.strip().casefold() != b.name.strip().casefold() and reading == (b.kind, b.azimuth, b.inclination):
            message = f"Stations {a.name} and {b.name} are the same reading at the same place; delete one."
            facts = (_said(a), _said(b))
            found.append(
                Finding("doubled_station", "warning", message, (a.x, a.y), about=f"{a.name}-{b.name}", facts=facts)
            )
    return found


def _said(station: Station) -> str:
    """Where a station stands and what was read at it."""
    return f"{station.x:.3f} {station.y:.3f} {station.kind} {station.azimuth} {station.inclination}"
