"""Own coordinate systems: from a few parameters to WKT2, and parameters proposed for a ground."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, fields

import numpy as np
import pyproj
from pyproj.crs import ProjectedCRS
from pyproj.crs.coordinate_operation import (
    AlbersEqualAreaConversion,
    HotineObliqueMercatorBConversion,
    LambertAzimuthalEqualAreaConversion,
    LambertConformalConic1SPConversion,
    LambertConformalConic2SPConversion,
    StereographicConversion,
    TransverseMercatorConversion,
)
from pyproj.crs.coordinate_system import Cartesian2DCS
from pyproj.exceptions import CRSError as PyprojCrsError

from orvik.core.coordinates import LonLat
from orvik.core.errors import CrsRefused
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.distortion import Geographic
from orvik.core.ground.greenwich import meridian_degrees

UNITS = {"metre": 1.0, "foot": 0.3048, "US survey foot": 1200 / 3937}
WGS84 = "EPSG:4326"


@dataclass(frozen=True)
class Method:
    """A projection that can be set by parameters; ``needs`` names the ones it takes."""

    name: str
    label: str
    needs: tuple[str, ...]
    suits: str


METHODS = {
    method.name: method
    for method in (
        Method(
            "lcc",
            "Lambert conformal, two parallels",
            ("parallel_1", "parallel_2", "latitude", "longitude"),
            "ground that runs east to west",
        ),
        Method(
            "lcc1",
            "Lambert conformal, one parallel",
            ("latitude", "longitude", "scale"),
            "a narrow belt along one parallel",
        ),
        Method(
            "albers",
            "Albers equal-area conic",
            ("parallel_1", "parallel_2", "latitude", "longitude"),
            "comparing areas on ground that runs east to west",
        ),
        Method("tm", "Transverse Mercator", ("latitude", "longitude", "scale"), "ground that runs north to south"),
        Method("stereographic", "Stereographic", ("latitude", "longitude", "scale"), "round ground, true angles"),
        Method("laea", "Azimuthal equal-area", ("latitude", "longitude"), "round ground, true areas"),
    )
}
LABELS = {
    "parallel_1": "First standard parallel",
    "parallel_2": "Second standard parallel",
    "latitude": "Latitude of origin",
    "longitude": "Central meridian",
    "scale": "Scale factor at the origin",
    "false_easting": "False easting",
    "false_northing": "False northing",
}


@dataclass(frozen=True)
class Parameters:
    """What makes a system: degrees from Greenwich, and false coordinates in its own unit.

    ``base`` is the geographic system beneath it, as a code, WKT or PROJ string.
    """

    method: str
    latitude: float
    longitude: float
    parallel_1: float = 0.0
    parallel_2: float = 0.0
    scale: float = 1.0
    false_easting: float = 0.0
    false_northing: float = 0.0
    base: str = WGS84
    unit: str = "metre"
    name: str = field(default="")

    def __post_init__(self) -> None:
        if self.method not in METHODS:
            raise CrsRefused(f"“{self.method}” is not a projection here; choose {', '.join(METHODS)}.")
        if self.unit not in UNITS:
            raise CrsRefused(f"“{self.unit}” is not a unit of length here; choose {', '.join(UNITS)}.")
        for number in fields(self):
            value = getattr(self, number.name)
            if isinstance(value, float | int) and not math.isfinite(value):
                raise CrsRefused(f"{LABELS[number.name]} is not a number; type plain digits.")
        needs = METHODS[self.method].needs
        for latitude in ("latitude", "parallel_1", "parallel_2"):
            if latitude in needs and not -90 <= getattr(self, latitude) <= 90:
                raise CrsRefused(f"{LABELS[latitude]} lies beyond a pole; latitudes run from −90 to 90.")
        if not -360 <= self.longitude <= 360:
            raise CrsRefused("The central meridian lies beyond 360°; type a longitude.")
        if not 0.5 <= self.scale <= 2:
            raise CrsRefused(f"A scale factor of {self.scale:g} is far from 1; type one such as 0.9996.")
        if "parallel_1" in needs and abs(self.parallel_1 + self.parallel_2) < 1e-9:
            raise CrsRefused(
                "The two standard parallels lie as far south as north, which makes no cone; choose others, "
                "or a transverse Mercator."
            )

    @property
    def title(self) -> str:
        """The name given, or one that says what it is."""
        if self.name.strip():
            return self.name.strip()
        if "parallel_1" in METHODS[self.method].needs:
            where = f"{self.parallel_1:.6g}° and {self.parallel_2:.6g}°, meridian {self.longitude:.6g}°"
        else:
            where = f"{self.latitude:.6g}°, {self.longitude:.6g}°"
        return f"{METHODS[self.method].label} at {where}"


def built(parameters: Parameters) -> ProjectCrs:
    """The system that parameters make.

    Raises
    ------
    CrsRefused
        The geographic system beneath is unknown, or PROJ cannot make the projection.
    """
    p = parameters
    metres = UNITS[p.unit]
    easting, northing = p.false_easting * metres, p.false_northing * metres
    try:
        base = pyproj.CRS.from_user_input(p.base)
        if not base.is_geographic:
            raise CrsRefused(f"{base.name} is not a geographic system; choose one in degrees, such as EPSG:4326.")
        meridian = p.longitude - meridian_degrees(base)
        conversion: object
        if p.method == "lcc":
            conversion = LambertConformalConic2SPConversion(
                p.parallel_1, p.parallel_2, p.latitude, meridian, easting, northing
            )
        elif p.method == "lcc1":
            conversion = LambertConformalConic1SPConversion(p.latitude, meridian, easting, northing, p.scale)
        elif p.method == "albers":
            conversion = AlbersEqualAreaConversion(p.parallel_1, p.parallel_2, p.latitude, meridian, easting, northing)
        elif p.method == "tm":
            conversion = TransverseMercatorConversion(p.latitude, meridian, easting, northing, p.scale)
        elif p.method == "stereographic":
            conversion = StereographicConversion(p.latitude, meridian, easting, northing, p.scale)
        else:
            conversion = LambertAzimuthalEqualAreaConversion(p.latitude, meridian, easting, northing)
        made = ProjectedCRS(conversion, name=p.title, cartesian_cs=_axes(p.unit), geodetic_crs=base)
    except PyprojCrsError as error:
        raise CrsRefused(f"These parameters make no system ({str(error)[:120]}); check them.") from error
    crs = project_crs(made.to_wkt("WKT2_2019"))
    x, y = crs.from_geographic(p.longitude, p.latitude)
    if not np.isfinite([float(x), float(y)]).all():
        raise CrsRefused("These parameters make a projection that cannot show its own origin; check them.")
    return crs


def upright_along(start: LonLat, end: LonLat, base: str, name: str) -> ProjectCrs:
    """A system whose central line runs along a line, and stands upright on a sheet: true to scale on it.

    An oblique Mercator (EPSG Guidance Note 7-2, method 9815) whose grid is turned onto its central line; a transverse
    Mercator where that is a meridian.

    Parameters
    ----------
    start, end
        Longitude and latitude of the ends of the line, in degrees from Greenwich: the one that lies further north is
        above.
    base
        The geographic system beneath.

    Raises
    ------
    CrsRefused
        The ends are one place, or PROJ cannot make the projection.
    """
    (lon, lat), (lon_2, lat_2) = sorted((start, end), key=lambda place: (place[1], place[0]))
    beneath = pyproj.CRS.from_user_input(base)
    geod = beneath.get_geod() or pyproj.Geod(ellps="WGS84")
    azimuth, _, length = geod.inv(lon, lat, lon_2, lat_2)
    if length < 1:
        raise CrsRefused("The ends of this line are one place; choose a line that runs somewhere.")
    middle_lon, middle_lat, back = geod.fwd(lon, lat, azimuth, length / 2)
    bearing = (back + 180 + 180) % 360 - 180
    meridian = middle_lon - meridian_degrees(beneath)
    conversion: object
    if abs(bearing) < 0.001:
        conversion = TransverseMercatorConversion(middle_lat, meridian)
    else:
        conversion = HotineObliqueMercatorBConversion(
            latitude_projection_centre=middle_lat,
            longitude_projection_centre=meridian,
            azimuth_projection_centre=bearing,
            angle_from_rectified_to_skew_grid=0.0,
        )
    try:
        made = ProjectedCRS(conversion, name=name, geodetic_crs=beneath)
    except PyprojCrsError as error:
        raise CrsRefused("No central line can be laid along this one; choose another.") from error
    return project_crs(made.to_wkt("WKT2_2019"))


def _axes(unit: str) -> Cartesian2DCS | dict[str, object]:
    if unit == "metre":
        return Cartesian2DCS()
    length = {"type": "LinearUnit", "name": unit, "conversion_factor": UNITS[unit]}
    return {
        "$schema": "https://proj.org/schemas/v0.7/projjson.schema.json",
        "type": "CoordinateSystem",
        "subtype": "Cartesian",
        "axis": [
            {"name": "Easting", "abbreviation": "E", "direction": "east", "unit": length},
            {"name": "Northing", "abbreviation": "N", "direction": "north", "unit": length},
        ],
    }


def proposed(method: str, ground: Geographic, base: str = WGS84) -> Parameters:
    """Parameters for a ground.

    Standard parallels lie a sixth of its height inside its south and north edges (the one-sixth rule, common
    practice); the meridian runs through its middle; a transverse Mercator or stereographic is scaled so that
    lengths in the middle are as much too short as those at the edge too long. The origin lies so that
    coordinates on the sheet are positive.

    Parameters
    ----------
    ground
        West, south, east and north in degrees.
    base
        The geographic system that the ground is given in.
    """
    west, south, east, north = ground
    height = north - south
    step = _minutes(min(height, east - west) / 12)
    middle = _rounded((south + north) / 2, step)
    meridian = _rounded((west + east) / 2, step)
    inset = height / 6
    parallels = (_rounded(south + inset, step / 5), _rounded(north - inset, step / 5))
    needs = METHODS[method].needs
    origin = float(math.floor(south - 0.5)) if "parallel_1" in needs or method == "tm" else middle
    half = math.radians(max((east - west) / 2 * math.cos(math.radians(middle)), 0.0))
    if method == "stereographic":
        half = math.hypot(half, math.radians(height / 2)) / math.sqrt(2)
    scale = round(1 - half**2 / 4, 6) if "scale" in needs and method != "lcc1" else 1.0
    return Parameters(
        method,
        latitude=middle if method == "lcc1" else origin,
        longitude=meridian,
        parallel_1=parallels[0] if "parallel_1" in needs else 0.0,
        parallel_2=parallels[1] if "parallel_1" in needs else 0.0,
        scale=scale,
        false_easting=500_000.0,
        false_northing=0.0 if origin < middle and method != "lcc1" else 500_000.0,
        base=base,
    )


def _minutes(degrees: float) -> float:
    """A round step in degrees, not above the given one: 1°, 30', 15', 5', 1' or 10"."""
    for step in (1.0, 0.5, 0.25, 1 / 12, 1 / 60):
        if step <= degrees:
            return step
    return 1 / 360


def _rounded(value: float, step: float) -> float:
    return round(round(value / step) * step, 9)
