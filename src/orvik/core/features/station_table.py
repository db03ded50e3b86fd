"""The field notebook: stations from a table, doubles found, and which of them the map has already."""

from __future__ import annotations

import contextlib
import csv
import io
import math
import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.errors import FileRefused, OrvikError, ReadingRefused
from orvik.core.features.attitude import Attitude, apart
from orvik.core.features.feature import Feature
from orvik.core.features.kind import NOTED, USUAL_READING, kind_of
from orvik.core.features.phrases import KindNames
from orvik.core.features.reconciling import Stated, reconciled
from orvik.core.ground.coordinates import parse_angle, parse_number
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import CrsChange, way_in

# Columns by what tables commonly call them; only letters count.
COLUMNS: dict[str, tuple[str, ...]] = {
    "name": ("station", "name", "stop", "point", "id", "no", "number", "locality"),
    # English, then German, French and Spanish (common practice).
    "x": (
        *("x", "easting", "eastings", "east", "e", "xcoord", "coordx", "utme"),
        *("rechtswert", "rw", "ostwert", "abscisse", "este", "coordenadax"),
    ),
    "y": (
        *("y", "northing", "northings", "north", "n", "ycoord", "coordy", "utmn"),
        *("hochwert", "hw", "nordwert", "ordonnee", "norte", "coordenaday"),
    ),
    "longitude": ("longitude", "lon", "long", "lng", "laenge", "lange", "longitud"),
    "latitude": ("latitude", "lat", "breite", "latitud"),
    "kind": ("kind", "type", "feature", "structure"),
    "azimuth": ("strike", "azimuth", "trend"),
    "direction": ("dipdirection", "dipdir", "dipazimuth", "dipaz", "plungedirection"),
    "quadrant": ("dipquadrant", "dipquad", "quadrant", "quad", "dipside"),
    "inclination": ("dip", "inclination", "plunge"),
    "reading": ("reading", "attitude", "measurement"),
    "note": ("note", "notes", "remark", "remarks", "comment", "description", "lithology"),
}
# What a row of a kind that is asked for may become besides a kind.
LEFT_OUT = "-"
# A reading at a place is logged if the map has one of its kind so near on the sheet, and so like it.
NEAR_MM = 1.0
LIKE_DEGREES = 2.0
MOST_ROWS = 5000
# What a field notebook's degrees stand on.
SENT_ON = "EPSG:4326"
OWN_DATUM = "own"
_NAMES = KindNames.of(NOTED)


@dataclass(frozen=True)
class Station:
    """One reading of the notebook; ``id`` is None until it is kept."""

    name: str
    x: float
    y: float
    kind: str = USUAL_READING
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
        try:
            return Attitude(self.azimuth, self.inclination, kind_of(self.kind).linear).text
        except ReadingRefused:
            # What another program has left is shown as it is, and refused when it is logged.
            return f"{self.azimuth:g}/{self.inclination:g}"


@dataclass(frozen=True)
class Table:
    """What a notebook table holds: stations that are new, those that are there already, and rows that cannot be read.

    ``asks`` counts the rows of each word for a kind that is not known; they wait for an answer. ``degrees`` tells that
    places are longitudes and latitudes, ``shift`` what datum shift they were given.
    """

    new: tuple[Station, ...]
    doubles: tuple[tuple[Station, str], ...]
    refused: tuple[tuple[int, str], ...]
    asks: tuple[tuple[str, int], ...] = ()
    degrees: bool = False
    shift: str = ""


@dataclass(frozen=True)
class DegreesOn:
    """What the longitudes and latitudes of a table stand on: a system, or ``OWN_DATUM`` for that of the project.

    ``home`` is the middle of the project.
    """

    system: str = SENT_ON
    home: GroundXY | None = None

    def way(self, crs: ProjectCrs, given: Floats) -> CrsChange | None:
        """The way into a project's system; None where nothing is shifted."""
        if self.system not in (SENT_ON, OWN_DATUM):
            raise FileRefused("Say whether longitude and latitude are on WGS 84 or on the project's datum.")
        return None if self.system == OWN_DATUM else way_in(self.system, crs, self.home, given)


WGS84 = DegreesOn()


def read_table(
    text: str,
    crs: ProjectCrs,
    known: Sequence[Station],
    near: float,
    kinds: Mapping[str, str] | None = None,
    degrees_on: DegreesOn = WGS84,
) -> Table:
    """Stations from a table with a row of column names.

    Parameters
    ----------
    text
        Values with commas, semicolons or tabs between them.
    known
        Stations that the project has.
    near
        How near to one another two places are the same, in project units.
    kinds
        Answers: the kind that a word of the table means, or ``LEFT_OUT``.
    degrees_on
        What longitudes and latitudes stand on: field notebooks give WGS 84 (common practice).

    Raises
    ------
    FileRefused
        There is no table, or it has no columns for places.
    """
    rows = _rows(text)
    if len(rows) < 2:
        raise FileRefused("This is not a notebook table: it needs a row of column names and a row for each station.")
    where = _columns(rows[0])
    grid, degrees = {"x", "y"} <= set(where), {"longitude", "latitude"} <= set(where)
    if not grid and not degrees:
        raise FileRefused(
            "The table has no columns for places; name them easting and northing, or longitude and latitude."
        )
    # The row of names is not a station.
    if len(rows) - 1 > MOST_ROWS:
        raise FileRefused(f"The table has {len(rows) - 1} rows; import at most {MOST_ROWS} at a time.")
    new: list[Station] = []
    doubles: list[tuple[Station, str]] = []
    refused: list[tuple[int, str]] = []
    asks: Counter[str] = Counter()
    in_degrees = degrees and not grid
    way = degrees_on.way(crs, _given(rows[1:], where)) if in_degrees else None
    there = Doubles(known, near)
    for number, row in enumerate(rows[1:], 2):
        held = {key: row[i].strip() if i < len(row) else "" for key, i in where.items()}
        kind = _kind(held, kinds or {})
        if kind is None:
            asks[held["kind"]] += 1
            continue
        if kind == LEFT_OUT:
            continue
        try:
            station = _station(held, number, crs, in_degrees, way, kind)
        except OrvikError as refusal:
            refused.append((number, refusal.sentence))
            continue
        twin = there.of(station)
        if twin is None:
            new.append(station)
            there.add(station)
        else:
            doubles.append((station, twin))
    shift = way.shift.said if way is not None else ""
    return Table(tuple(new), tuple(doubles), tuple(refused), tuple(sorted(asks.items())), in_degrees, shift)


def _given(rows: Sequence[Sequence[str]], where: Mapping[str, int]) -> Floats:
    """The longitudes and latitudes of the rows that have both, (n, 2)."""
    found = []
    for row in rows:
        with contextlib.suppress(OrvikError, IndexError):
            found.append(
                (parse_angle(row[where["longitude"]], "longitude"), parse_angle(row[where["latitude"]], "latitude"))
            )
    return np.array(found, dtype=float).reshape(-1, 2)


class Doubles:
    """Stations by place and by name, to find those that are there already without comparing all with all."""

    def __init__(self, stations: Iterable[Station], near: float) -> None:
        self.near = near
        self._by_name: dict[tuple[str, str, str], Station] = {}
        self._by_cell: dict[tuple[int, int], list[Station]] = defaultdict(list)
        for station in stations:
            self.add(station)

    def add(self, station: Station) -> None:
        """Take a station in."""
        if station.name:
            self._by_name.setdefault((station.name, station.kind, station.reading), station)
        self._by_cell[self._cell(station)].append(station)

    def of(self, station: Station) -> str | None:
        """Why a station is one that is there already, in words; None where it is not."""
        column, row = self._cell(station)
        for i in (column - 1, column, column + 1):
            for j in (row - 1, row, row + 1):
                for other in self._by_cell.get((i, j), ()):
                    same = other.kind == station.kind and other.reading == station.reading
                    if same and math.hypot(other.x - station.x, other.y - station.y) <= self.near:
                        return f"the same reading as {other.name}, at the same place"
        if (station.name, station.kind, station.reading) in self._by_name:
            return f"station {station.name} with this reading is there already"
        return None

    def _cell(self, station: Station) -> tuple[int, int]:
        return math.floor(station.x / self.near), math.floor(station.y / self.near)


def _kind(held: Mapping[str, str], answers: Mapping[str, str]) -> str | None:
    """The kind of a row; None where its word asks.

    A table without a column for kinds holds bedding (common practice).
    """
    if "kind" not in held:
        return USUAL_READING
    written = held["kind"]
    if written in answers:
        return answers[written] or None
    if not written and not any(
        held.get(name) for name in ("reading", "azimuth", "inclination", "direction", "quadrant")
    ):
        # A station without a reading has no kind to be mistaken in.
        return USUAL_READING
    return _NAMES.read(written).kind


def logged(station: Station, points: Iterable[Feature], near: float) -> int | None:
    """The point of the map that logs a station: the one that was kept for it, or one like it at its place."""
    around = list(points)
    for point in around:
        if point.id == station.point_id:
            return point.id
    for point in around:
        if point.kind != station.kind or point.azimuth is None or point.inclination is None:
            continue
        if station.azimuth is None or station.inclination is None:
            continue
        ((x, y),) = point.geometry.coords
        if (
            math.hypot(x - station.x, y - station.y) <= near
            and apart(point.azimuth, station.azimuth) <= LIKE_DEGREES
            and abs(point.inclination - station.inclination) <= LIKE_DEGREES
        ):
            return point.id
    return None


def decoded(data: bytes) -> str:
    """The text of a table in whatever encoding it was written: UTF-8, UTF-16 with its mark, or Windows Latin-1."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace")
    for encoding in ("utf-8-sig", "cp1252"):
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue
    return data.decode("latin-1")


def _rows(text: str) -> list[list[str]]:
    text = re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]", "", text.lstrip("\ufeff"))
    first = text.splitlines()[0] if text.strip() else ""
    delimiter = max(",;\t|", key=first.count)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=None), delimiter=delimiter))
    except csv.Error as error:
        raise FileRefused(f"This table cannot be read ({error}); write it anew as CSV.") from error
    return [row for row in rows if any(v.strip() for v in row)]


def plain_name(name: str) -> str:
    """A column's name by its letters alone, without a unit in brackets: ``Easting (m)`` is ``easting``."""
    return re.sub(r"[^a-z]", "", re.sub(r"[(\[{].*?[)\]}]", "", name.lower()))


def _columns(names: Sequence[str]) -> dict[str, int]:
    plain = [plain_name(name) for name in names]
    found: dict[str, int] = {}
    for key, called in COLUMNS.items():
        for name in called:
            if name in plain and plain.index(name) not in found.values():
                found[key] = plain.index(name)
                break
    return found


def _station(
    held: dict[str, str], number: int, crs: ProjectCrs, degrees: bool, way: CrsChange | None, kind: str
) -> Station:
    if degrees:
        longitude = parse_angle(held["longitude"], "longitude")
        latitude = parse_angle(held["latitude"], "latitude")
        if way is None:
            x, y = (float(v) for v in crs.from_geographic(longitude, latitude))
        else:
            x, y = way.place(longitude, latitude)
    else:
        x, y = parse_number(held["x"]), parse_number(held["y"])
    crs.check_place(x, y)
    station = Station(held.get("name") or f"row {number}", x, y, kind, note=held.get("note", ""))
    stated = ("azimuth", "inclination", "direction", "quadrant", "reading")
    attitude = reconciled(Stated(*(held.get(name, "") for name in stated)), kind)
    return replace(station, azimuth=attitude.azimuth, inclination=attitude.inclination) if attitude else station
