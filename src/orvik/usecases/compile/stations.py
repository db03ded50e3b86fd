"""The field notebook: stations imported from a table or sent one by one, and removed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.errors import FeatureRefused, FileRefused, NotFound, Stale
from orvik.core.features.attitude import Attitude
from orvik.core.features.feature import Features
from orvik.core.features.kind import NOTED
from orvik.core.features.station_table import (
    NEAR_MM,
    SENT_ON,
    DegreesOn,
    Doubles,
    Station,
    Table,
    logged,
    read_table,
)
from orvik.core.ground.crs_change import way_in
from orvik.core.ground.scale import on_ground
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader


def station_by_id(project: Reader, station_id: int) -> Station:
    """A station by its number; raises NotFound."""
    for station in project.stations():
        if station.id == station_id:
            return station
    raise NotFound("That station is no longer in the notebook.")


def near_of(project: Reader) -> float:
    """How near two places are the same, in project units."""
    return on_ground(NEAR_MM, project.scales.publication) / project.crs.metres_per_unit


@dataclass(frozen=True)
class TickedStation:
    """A station and the point that logs it, if there is one."""

    station: Station
    point: int | None


@dataclass(frozen=True)
class Notebook:
    """The field notebook as it is listed: some of its stations in order, how many wait, and how many there are."""

    shown: tuple[TickedStation, ...]
    waiting: int
    count: int


def notebook_of(project: Reader, most: int) -> Notebook:
    """Stations with what logs them on the map: all that wait first of all, and as many of the others as fit.

    Parameters
    ----------
    most
        How many are shown.
    """
    listed = ticked(project)
    waits = [row.point is None for row in listed]
    chosen = sorted(sorted(range(len(listed)), key=lambda i: not waits[i])[:most])
    return Notebook(tuple(listed[i] for i in chosen), sum(waits), len(listed))


def ticked(project: Reader, points: Features | None = None) -> list[TickedStation]:
    """All stations of the notebook, each with the point that logs it.

    Parameters
    ----------
    points
        Those of the project, where they are at hand; else they are read.
    """
    stations, near = project.stations(), near_of(project)
    if not stations:
        return []
    if points is None:
        points = project.features("points")
    places = shapely.points(np.array([(s.x, s.y) for s in stations], dtype=float).reshape(-1, 2))
    hits, rows_near = shapely.STRtree(points.geometries).query(places, predicate="dwithin", distance=near)
    around: dict[int, list[int]] = defaultdict(list)
    for hit, row in zip(hits.tolist(), rows_near.tolist(), strict=True):
        around[hit].append(row)
    row_of = {int(number): row for row, number in enumerate(points.ids)}
    out = []
    for i, station in enumerate(stations):
        kept_for = row_of.get(station.point_id) if station.point_id else None
        found = [*([] if kept_for is None else [kept_for]), *sorted(around[i])]
        out.append(TickedStation(station, logged(station, (points.feature(row) for row in found), near)))
    return out


def read_stations(project: Reader, text: str, answers: Mapping[str, str], degrees_on: str = SENT_ON) -> Table:
    """What a table would import; nothing is kept.

    Parameters
    ----------
    answers
        The kind that each word of the table means which nobody knows.
    degrees_on
        The system that longitudes and latitudes stand on, or ``OWN_DATUM``.
    """
    on = DegreesOn(degrees_on, project.middle())
    return read_table(text, project.crs, project.stations(), near_of(project), answers, on)


def keep_stations(
    project: Project, text: str, name: str, answers: Mapping[str, str], degrees_on: str = SENT_ON
) -> Entry:
    """Keep the new stations of a table, as one entry.

    Raises
    ------
    FileRefused
        A kind of reading is not known, or nothing in the table is new.
    """
    table = read_stations(project, text, answers, degrees_on)
    if table.asks:
        words = ", ".join(f"“{word}”" if word else "an empty kind" for word, _ in table.asks[:5])
        raise FileRefused(f"Say first what kind of reading {words} is, or leave these rows out.")
    if not table.new:
        raise FileRefused("There is no new station in this table.")
    label = f"import {len(table.new)} stations from {name[:60]}"
    return project.apply(label, [rows.station_change(station) for station in table.new])


def take_station(
    project: Project,
    name: str,
    longitude: float,
    latitude: float,
    kind: str,
    azimuth: float | None,
    inclination: float | None,
    note: str,
) -> Entry:
    """Keep one station that a field notebook sends.

    Parameters
    ----------
    longitude, latitude
        Degrees, WGS 84.
    azimuth, inclination
        Degrees, right-hand rule, from true north; both or neither.

    Raises
    ------
    FeatureRefused, ReadingRefused
        The kind or the reading cannot be.
    Stale
        The station is there already.
    """
    if kind not in NOTED:
        raise FeatureRefused(f"“{kind}” is not a kind of reading; send one of {', '.join(NOTED)}.")
    if (azimuth is None) != (inclination is None):
        raise FeatureRefused("A reading is an azimuth and an inclination; send both or neither.")
    if azimuth is not None and inclination is not None:
        Attitude(azimuth, inclination)
    x, y = way_in(SENT_ON, project.crs, project.middle(), np.array([[longitude, latitude]])).place(longitude, latitude)
    project.crs.check_place(x, y)
    station = Station(name, x, y, kind, azimuth, inclination, note)
    twin = Doubles(project.stations(), near_of(project)).of(station)
    if twin:
        raise Stale(f"Station {station.name} was not taken: {twin}.")
    return project.apply(f"remove station {station.name} of the field notebook", [rows.station_change(station)])


def remove_station(project: Project, station_id: int) -> Entry:
    """Take a station out of the notebook."""
    station = station_by_id(project, station_id)
    return project.apply(f"remove station {station.name}", [Change("stations", station_id, None)])
