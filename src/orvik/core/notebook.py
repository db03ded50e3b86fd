"""The field notebook: stations from a table, doubles found, and which of them the map has already."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from .attitude import LINEAR, Attitude, parse_reading
from .coordinates import parse_angle, parse_number
from .crs import ProjectCrs
from .errors import FileRefused, OrvikError
from .feature import Feature

# Columns by what tables commonly call them; only letters count.
COLUMNS: dict[str, tuple[str, ...]] = {
    "name": ("station", "name", "stop", "point", "id", "no", "number", "locality"),
    "x": ("x", "easting", "east", "e"),
    "y": ("y", "northing", "north", "n"),
    "longitude": ("longitude", "lon", "long", "lng"),
    "latitude": ("latitude", "lat"),
    "kind": ("kind", "type", "feature", "structure"),
    "azimuth": ("strike", "azimuth", "trend"),
    "direction": ("dipdirection", "dipdir", "dipazimuth"),
    "inclination": ("dip", "inclination", "plunge"),
    "reading": ("reading", "attitude", "measurement"),
    "note": ("note", "notes", "remark", "remarks", "comment", "description", "lithology"),
}
KINDS = {
    "bedding": "bedding", "bed": "bedding", "s0": "bedding", "overturned": "overturned_bedding",
    "overturnedbedding": "overturned_bedding", "foliation": "foliation", "cleavage": "foliation", "s1": "foliation",
    "joint": "joint", "faultplane": "fault_plane", "fault": "fault_plane", "lineation": "lineation", "l1": "lineation",
}  # fmt: skip
# A reading at a place is logged if the map has one of its kind so near on the sheet, and so like it.
NEAR_MM = 1.0
LIKE_DEGREES = 2.0
MOST = 5000


@dataclass(frozen=True)
class Station:
    """One reading of the notebook; ``id`` is None until it is kept."""

    name: str
    x: float
    y: float
    kind: str = "bedding"
    azimuth: float | None = None
    inclination: float | None = None
    note: str = ""
    id: int | None = None
    point_id: int | None = None

    @property
    def reading(self) -> str:
        """``350/60``, or nothing."""
        if self.azimuth is None or self.inclination is None:
            return ""
        return Attitude(self.azimuth, self.inclination, self.kind in LINEAR).text


@dataclass(frozen=True)
class Table:
    """What a notebook table holds: stations that are new, those that are there already, and rows that cannot be read."""

    new: tuple[Station, ...]
    doubles: tuple[tuple[Station, str], ...]
    refused: tuple[tuple[int, str], ...]


def read_table(text: str, crs: ProjectCrs, known: Sequence[Station], near: float) -> Table:
    """Stations from a table with a row of column names.

    Parameters
    ----------
    text
        Values with commas, semicolons or tabs between them.
    known
        Stations that the project has.
    near
        How near to one another two places are the same, in project units.

    Raises
    ------
    FileRefused
        There is no table, or it has no columns for places.
    """
    rows = _rows(text)
    if len(rows) < 2:
        raise FileRefused("This is no notebook table: it needs a row of column names and a row for each station.")
    where = _columns(rows[0])
    grid, degrees = {"x", "y"} <= set(where), {"longitude", "latitude"} <= set(where)
    if not grid and not degrees:
        raise FileRefused(
            "The table has no columns for places; name them easting and northing, or longitude and latitude."
        )
    if len(rows) > MOST:
        raise FileRefused(f"The table has {len(rows)} rows; bring in at most {MOST} at a time.")
    new: list[Station] = []
    doubles: list[tuple[Station, str]] = []
    refused: list[tuple[int, str]] = []
    for number, row in enumerate(rows[1:], 2):
        held = {key: row[i].strip() if i < len(row) else "" for key, i in where.items()}
        try:
            station = _station(held, number, crs, degrees and not grid)
        except OrvikError as refusal:
            refused.append((number, refusal.sentence))
            continue
        twin = double_of(station, [*known, *new], near)
        if twin is None:
            new.append(station)
        else:
            doubles.append((station, twin))
    return Table(tuple(new), tuple(doubles), tuple(refused))


def double_of(station: Station, others: Iterable[Station], near: float) -> str | None:
    """Why a station is one that is there already, in words; None where it is not."""
    for other in others:
        same_place = math.hypot(other.x - station.x, other.y - station.y) <= near
        if same_place and other.kind == station.kind and other.reading == station.reading:
            return f"the same reading as {other.name}, at the same place"
        if other.name and other.name == station.name and other.kind == station.kind and other.reading == station.reading:
            return f"station {other.name} with this reading is there already"
    return None


def logged(station: Station, points: Iterable[Feature], near: float) -> int | None:
    """The point of the map that logs a station: the one that was kept for it, or one like it at its place."""
    for point in points:
        if point.id == station.point_id:
            return point.id
    for point in points:
        if point.kind != station.kind or point.azimuth is None or point.inclination is None:
            continue
        if station.azimuth is None or station.inclination is None:
            continue
        apart = abs((point.azimuth - station.azimuth + 180) % 360 - 180)
        (x, y), = point.geometry.coords
        if (
            math.hypot(x - station.x, y - station.y) <= near
            and apart <= LIKE_DEGREES
            and abs(point.inclination - station.inclination) <= LIKE_DEGREES
        ):
            return point.id
    return None


def _rows(text: str) -> list[list[str]]:
    text = text.lstrip("\ufeff")
    first = text.splitlines()[0] if text.strip() else ""
    delimiter = max(",;\t", key=first.count)
    return [row for row in csv.reader(io.StringIO(text), delimiter=delimiter) if any(v.strip() for v in row)]


def _columns(names: Sequence[str]) -> dict[str, int]:
    plain = [re.sub(r"[^a-z]", "", name.lower()) for name in names]
    found: dict[str, int] = {}
    for key, called in COLUMNS.items():
        for name in called:
            if name in plain and plain.index(name) not in found.values():
                found[key] = plain.index(name)
                break
    return found


def _station(held: dict[str, str], number: int, crs: ProjectCrs, degrees: bool) -> Station:
    if degrees:
        longitude = parse_angle(held["longitude"], "longitude")
        latitude = parse_angle(held["latitude"], "latitude")
        x, y = (float(v) for v in crs.from_geographic(longitude, latitude))
    else:
        x, y = parse_number(held["x"]), parse_number(held["y"])
    crs.check_place(x, y)
    word = re.sub(r"[^a-z0-9]", "", held.get("kind", "").lower())
    kind = KINDS.get(word, "bedding") if word else "bedding"
    station = Station(held.get("name") or f"row {number}", x, y, kind, note=held.get("note", ""))
    if held.get("reading"):
        told = parse_reading(held["reading"], kind=kind)
    elif held.get("inclination") and held.get("azimuth"):
        told = parse_reading(f"{held['azimuth']}/{held['inclination']}", kind=kind)
    elif held.get("inclination") and held.get("direction"):
        told = parse_reading(f"{held['direction']}/{held['inclination']}", dip_direction=True, kind=kind)
    else:
        return station
    return replace(station, azimuth=told.azimuth, inclination=told.inclination)
