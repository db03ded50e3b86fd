"""The field notebook: stations brought in from a table or sent one by one, and removed."""

from __future__ import annotations

from collections.abc import Mapping

from orvik.core.errors import FeatureRefused, FileRefused, NotFound, Stale
from orvik.core.features.attitude import Attitude
from orvik.core.features.station_table import KINDS, NEAR_MM, Doubles, Station, Table, read_table
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


def read_stations(project: Reader, text: str, answers: Mapping[str, str]) -> Table:
    """What a table would bring in; nothing is kept.

    Parameters
    ----------
    answers
        The kind that each word of the table means which nobody knows.
    """
    return read_table(text, project.crs, project.stations(), near_of(project), answers)


def keep_stations(project: Project, text: str, name: str, answers: Mapping[str, str]) -> Entry:
    """Keep the new stations of a table, as one entry.

    Raises
    ------
    FileRefused
        A kind of reading is not known, or nothing in the table is new.
    """
    table = read_stations(project, text, answers)
    if table.asks:
        words = ", ".join(f"“{word}”" if word else "an empty kind" for word, _ in table.asks[:5])
        raise FileRefused(f"Say first what kind of reading {words} is, or leave these rows out.")
    if not table.new:
        raise FileRefused("There is no new station in this table.")
    label = f"bring in {len(table.new)} stations from {name[:60]}"
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
    if kind not in KINDS.values():
        raise FeatureRefused(f"“{kind}” is no kind of reading; send one of {', '.join(sorted(set(KINDS.values())))}.")
    if (azimuth is None) != (inclination is None):
        raise FeatureRefused("A reading is an azimuth and an inclination; send both or neither.")
    if azimuth is not None and inclination is not None:
        Attitude(azimuth, inclination)
    x, y = (float(v) for v in project.crs.from_geographic(longitude, latitude))
    project.crs.check_place(x, y)
    station = Station(name, x, y, kind, azimuth, inclination, note)
    twin = Doubles(project.stations(), near_of(project)).of(station)
    if twin:
        raise Stale(f"Station {station.name} was not taken: {twin}.")
    return project.apply(f"take station {station.name} from the field notebook", [rows.station_change(station)])


def remove_station(project: Project, station_id: int) -> Entry:
    """Take a station out of the notebook."""
    station = station_by_id(project, station_id)
    return project.apply(f"remove station {station.name}", [Change("stations", station_id, None)])
