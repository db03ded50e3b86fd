"""The project's coordinate system: what it is, whether it can serve, and how it bends the ground."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import pyproj
from pyproj.exceptions import CRSError as PyprojCrsError
from pyproj.exceptions import ProjError

from orvik.core.arrays import Flags, Floats
from orvik.core.errors import CoordinateRefused, CrsRefused
from orvik.core.ground.greenwich import from_greenwich, meridian_degrees
from orvik.core.ground.scale import spaced

Numbers = Floats | float

# How far outside its area of use a system may still be drawn in, in degrees. A neighbouring zone is
# common practice on sheets that straddle a zone's edge; more is a slip of the hand.
MARGIN_DEGREES = 3.0
# Further outside, by up to half of the shorter side of its area, a place counts if it comes back to so many metres,
# and if lengths there are off by no more than so large a share.
EXACT_METRES = 1e-3
MOST_OFF = 0.1


@dataclass(frozen=True)
class AreaOfUse:
    """Where a coordinate system is meant to be used, in degrees from Greenwich and the equator."""

    name: str
    west: float
    south: float
    east: float
    north: float

    @property
    def short_name(self) -> str:
        """The name up to its first clause, for sentences and lists."""
        first = self.name.split(". ")[0].split(" onshore and ")[0].rstrip(" .,-")
        return first if len(first) <= 80 else first[:79].rstrip() + "…"

    @property
    def half(self) -> float:
        """Half of its shorter side in degrees: no corner of a border around all of it lies further outside."""
        width = (self.east - self.west) % 360 or 360.0
        return min(width, self.north - self.south) / 2

    def holds(self, longitude: Numbers, latitude: Numbers, margin: float = 0.0) -> Flags:
        """Whether places lie inside, with ``margin`` degrees to spare; areas and margins may cross 180°."""
        east = np.asarray(longitude, dtype=float)
        north = np.asarray(latitude, dtype=float)
        tall = (self.south - margin <= north) & (north <= self.north + margin)
        width = self.east - self.west if self.east - self.west >= 360 else (self.east - self.west) % 360
        near_pole = max(abs(self.south), abs(self.north)) + margin >= 90
        if width + 2 * margin >= 360 or near_pole:
            # About a pole every longitude is a few steps away.
            return tall
        return np.asarray(tall & ((east - self.west + margin) % 360 <= width + 2 * margin))


@dataclass(frozen=True)
class ProjectCrs:
    """A projected coordinate system that can serve a map.

    Attributes
    ----------
    text
        ``EPSG:CODE`` where there is one, otherwise WKT2.
    metres_per_unit
        Length of one coordinate unit in metres.
    """

    text: str
    name: str
    unit: str
    metres_per_unit: float
    method: str
    datum: str
    area: AreaOfUse | None

    @property
    def ellipsoid(self) -> tuple[float, float]:
        """Semi-major axis in metres, and flattening."""
        ellipsoid = _crs(self.text).ellipsoid
        if ellipsoid is None:
            raise CrsRefused(f"{self.label} has no ellipsoid, so its scale cannot be known; choose another.")
        inverse = ellipsoid.inverse_flattening
        return float(ellipsoid.semi_major_metre), 1 / inverse if inverse else 0.0

    @property
    def geographic_name(self) -> str:
        """The name of the geographic system that it is projected from: ``WGS 84``."""
        geographic = _crs(self.text).geodetic_crs
        return str(geographic.name) if geographic is not None else self.datum

    @property
    def geographic_code(self) -> str:
        """The code of that, as ``EPSG:4326``; empty where it has none."""
        geographic = _crs(self.text).geodetic_crs
        code = geographic.to_epsg(100) if geographic is not None else None
        return f"EPSG:{code}" if code else ""

    @property
    def label(self) -> str:
        """The short form for strips and credit notes."""
        return self.text if self.text.startswith("EPSG:") else self.name

    @property
    def parameters(self) -> str:
        """What makes the projection, in words; zeros that go without saying are left out."""
        operation = _crs(self.text).coordinate_operation
        listed = []
        for parameter in operation.params if operation else ():
            value = float(parameter.value)
            if value == 0 and not parameter.name.startswith(("Latitude", "Longitude")):
                continue
            unit = {"degree": "°", "unity": "", "metre": " m"}.get(parameter.unit_name, f" {parameter.unit_name}")
            since = f" from {self.meridian}" if self.meridian and parameter.name.startswith("Longitude") else ""
            listed.append(f"{parameter.name[:1].lower()}{parameter.name[1:]} {_read(value)}{unit}{since}")
        return ", ".join(listed).replace("-", "−")

    @property
    def meridian(self) -> str:
        """The name of the prime meridian that its definition counts from; empty where that is Greenwich."""
        crs = _crs(self.text)
        return crs.prime_meridian.name if crs.prime_meridian is not None and meridian_degrees(crs) else ""

    def to_geographic(self, x: Numbers, y: Numbers) -> tuple[Floats, Floats]:
        """Longitude from Greenwich and latitude in degrees, on the system's own datum, of projected coordinates."""
        longitude, latitude = _transformers(self.text)[1].transform(x, y)
        return np.asarray(longitude, dtype=float), np.asarray(latitude, dtype=float)

    def from_geographic(self, longitude: Numbers, latitude: Numbers) -> tuple[Floats, Floats]:
        """Projected coordinates of longitude from Greenwich and latitude in degrees, on the system's own datum."""
        x, y = _transformers(self.text)[0].transform(longitude, latitude)
        return np.asarray(x, dtype=float), np.asarray(y, dtype=float)

    def area_bounds(self) -> tuple[float, float, float, float] | None:
        """West, south, east and north of the area of use in projected coordinates, where it is stated."""
        if self.area is None:
            return None
        area = (self.area.west, self.area.south, self.area.east, self.area.north)
        west, south, east, north = _transformers(self.text)[0].transform_bounds(*area, densify_pts=21)
        bounds = (float(west), float(south), float(east), float(north))
        return bounds if np.isfinite(bounds).all() else None

    def convergence(self, x: Numbers, y: Numbers) -> Floats:
        """Grid convergence in degrees: the true azimuth of grid north, clockwise positive.

        Found from the direction of a short piece of the meridian through each place, so that it holds
        for every projection alike. An azimuth on the grid is the true azimuth less the convergence.
        """
        longitude, latitude = self.to_geographic(x, y)
        step = 1e-4
        x0, y0 = self.from_geographic(longitude, latitude - step)
        x1, y1 = self.from_geographic(longitude, latitude + step)
        return np.asarray(-np.degrees(np.arctan2(x1 - x0, y1 - y0)))

    def check_place(self, x: float, y: float) -> None:
        """Refuse a coordinate that cannot lie on a sheet in this system; see ``check_places``."""
        if not self._lies_within(x, y):
            self.check_places(np.array([[x, y]], dtype=float))

    def _lies_within(self, x: float, y: float) -> bool:
        """Whether a place is beyond doubt: in the area of use, and there again when it comes back from degrees.

        Single numbers cost PROJ a tenth of arrays of one, and tables bring thousands of places.
        """
        to_projected, to_degrees = _transformers(self.text)
        longitude, latitude = to_degrees.transform(x, y)
        if self.area is None or not (math.isfinite(longitude) and math.isfinite(latitude)):
            return False
        back_x, back_y = to_projected.transform(longitude, latitude)
        apart = math.hypot(back_x - x, back_y - y) * self.metres_per_unit
        return apart < 1.0 and bool(self.area.holds(np.float64(longitude), np.float64(latitude)))

    def check_places(self, xy: Floats) -> None:
        """Refuse coordinates (n, 2) that cannot lie on a sheet in this system.

        Raises
        ------
        CoordinateRefused
            Not a number, degrees where the system's unit belongs, or far from the area of use.
        """
        if not np.isfinite(xy).all():
            raise CoordinateRefused("A coordinate is not a number; type it again as plain digits.")
        longitude, latitude = self.to_geographic(xy[:, 0], xy[:, 1])
        known = np.isfinite(longitude) & np.isfinite(latitude)
        longitude, latitude = (np.where(known, v, 0.0) for v in (longitude, latitude))
        back_x, back_y = self.from_geographic(longitude, latitude)
        with np.errstate(invalid="ignore"):
            known &= np.hypot(back_x - xy[:, 0], back_y - xy[:, 1]) * self.metres_per_unit < 1.0
        inside, near = known, known
        if self.area is not None:
            inside = known & self.area.holds(longitude, latitude)
            near = known & self.area.holds(longitude, latitude, MARGIN_DEGREES)
        degrees = (np.abs(xy[:, 0]) <= 360) & (np.abs(xy[:, 1]) <= 90) & ~inside
        if degrees.any():
            x, y = xy[np.flatnonzero(degrees)[0]]
            raise CoordinateRefused(
                f"{x:g}, {y:g} look like degrees, but {self.label} counts in {self.unit}. "
                "Choose geographic coordinates, or type grid coordinates."
            )
        far = np.flatnonzero(~near)
        if len(far):
            # What lies far outside may still be shown well: the corners of a border around a whole country do.
            off = self._lengths_off(longitude[far], latitude[far])
            away = np.hypot(back_x[far] - xy[far, 0], back_y[far] - xy[far, 1]) * self.metres_per_unit
            beside = np.ones(len(far), dtype=bool)
            if self.area is not None:
                beside = self.area.holds(longitude[far], latitude[far], self.area.half)
            far = far[~(known[far] & beside & (away < EXACT_METRES) & (off <= MOST_OFF))]
        if len(far):
            x, y = xy[far[0]]
            where = self.area.short_name if self.area else "the ground that the projection can show"
            raise CoordinateRefused(
                f"{x:.1f}, {y:.1f} lies far outside the area of use of {self.label} ({where}). "
                "Check the digits and their order: easting first, then northing."
            )

    def _lengths_off(self, longitude: Floats, latitude: Floats) -> Floats:
        """By how much lengths are off at places at worst, as a share; infinite where nothing can be said.

        Found from the lengths of short pieces of meridian and parallel on the ellipsoid (PROJ's geodesics).
        """
        semi_major, flattening = self.ellipsoid
        geod = pyproj.Geod(a=semi_major, f=flattening)
        worst = np.zeros(len(longitude))
        step = 1e-4
        for east, north in ((step, 0.0), (0.0, step), (step, step), (step, -step)):
            x0, y0 = self.from_geographic(longitude - east, np.clip(latitude - north, -90, 90))
            x1, y1 = self.from_geographic(longitude + east, np.clip(latitude + north, -90, 90))
            ends = (longitude - east, np.clip(latitude - north, -90, 90), longitude + east)
            _, _, there = geod.inv(*ends, np.clip(latitude + north, -90, 90))
            with np.errstate(all="ignore"):
                off = np.abs(np.hypot(x1 - x0, y1 - y0) * self.metres_per_unit / there - 1)
            worst = np.maximum(worst, np.where(np.isfinite(off), off, np.inf))
        return worst


def _read(value: float) -> str:
    """A parameter as it is read: metres by the hundred thousand with thin spaces, shares as they are."""
    return spaced(value) if value == round(value) and abs(value) >= 10_000 else f"{value:.10g}"


def project_crs(text: str) -> ProjectCrs:
    """The coordinate system named by an EPSG code, WKT or PROJ string, if it can serve a map.

    >>> crs = project_crs("EPSG:32628")
    >>> crs.label, crs.unit, crs.metres_per_unit
    ('EPSG:32628', 'metre', 1.0)

    Raises
    ------
    CrsRefused
        Unknown, geographic, not projected, or with axes to the west or south.
    """
    return _project_crs(text.strip())


@lru_cache(maxsize=512)
def _project_crs(text: str) -> ProjectCrs:
    crs = _crs(text)
    label = crs.name
    if crs.is_geographic:
        raise CrsRefused(
            f"{label} counts in degrees, which are not fit for measuring on a sheet; "
            "choose a projected system such as a UTM zone."
        )
    if crs.is_compound or crs.is_bound:
        raise CrsRefused(f"{label} joins several systems in one; choose its horizontal projected system alone.")
    if not crs.is_projected:
        raise CrsRefused(f"{label} is not a projected system; choose one that has eastings and northings.")
    axes = crs.axis_info
    _check_axes(text, crs)
    factor = float(axes[0].unit_conversion_factor)
    if not factor > 0 or any(axis.unit_conversion_factor != factor for axis in axes[:2]):
        raise CrsRefused(f"{label} has a unit of length that cannot be used; choose a system in metres or feet.")
    _transformers(text)
    authority = crs.to_authority(min_confidence=100)
    canonical = f"EPSG:{authority[1]}" if authority and authority[0] == "EPSG" else crs.to_wkt("WKT2_2019")
    area = crs.area_of_use
    return ProjectCrs(
        text=canonical,
        name=_name_of(crs),
        unit=axes[0].unit_name,
        metres_per_unit=factor,
        method=crs.coordinate_operation.method_name if crs.coordinate_operation else "unknown projection",
        datum=crs.datum.name.replace("Unknown based on", "a datum on the") if crs.datum else "unknown datum",
        area=AreaOfUse(area.name, *area.bounds) if area else None,
    )


def _name_of(crs: pyproj.CRS) -> str:
    """The name of a system; one that has none is called by its method."""
    if crs.name.strip().lower() not in ("", "unknown", "unnamed", "undefined"):
        return str(crs.name)
    method = crs.coordinate_operation.method_name if crs.coordinate_operation else "projection"
    return f"Custom {method}"


def _check_axes(text: str, crs: pyproj.CRS) -> None:
    """Refuse a system whose maps would be mirrored or stand on their heads.

    Names of axes do not tell: both axes of a polar system run "south", and its maps are as right-handed as any.
    What a step on the ground does to the coordinates tells.
    """
    directions = {axis.direction.lower() for axis in crs.axis_info[:2]}
    if not directions & {"west", "south"}:
        return
    label = crs.name
    area = crs.area_of_use
    if directions == {"south"} and area is not None:
        longitude = np.linspace(area.west, area.west + ((area.east - area.west) % 360 or 360), 9)[1:-1]
        latitude = np.full_like(longitude, (area.south + min(area.north, 89.0)) / 2)
        forward = _transformers(text)[0]
        x, y = forward.transform(longitude, latitude)
        east_x, east_y = forward.transform(longitude + 1e-3, latitude)
        north_x, north_y = forward.transform(longitude, latitude + 1e-3)
        turning = (east_x - x) * (north_y - y) - (east_y - y) * (north_x - x)
        if (turning > 0).all():
            return
    which = " and ".join(sorted(directions & {"west", "south"}))
    raise CrsRefused(
        f"{label} counts towards the {which}, so every map in it would be mirrored or turned; "
        "choose a system with eastings and northings."
    )


@lru_cache(maxsize=512)
def _crs(text: str) -> pyproj.CRS:
    if not text:
        raise CrsRefused("No coordinate system is given; type a code such as EPSG:32628, or search by words.")
    try:
        code = text.isascii() and text.isdigit() and len(text) < 9
        return pyproj.CRS.from_user_input(int(text) if code else text)
    except (PyprojCrsError, UnicodeError, ValueError):
        shown = text if len(text) < 40 else text[:37] + "…"
        raise CrsRefused(
            f"“{shown}” is not a coordinate system that is known here; "
            "type a code such as EPSG:32628, or search by words."
        ) from None


@lru_cache(maxsize=512)
def _transformers(text: str) -> tuple[pyproj.Transformer, pyproj.Transformer]:
    crs = _crs(text)
    geodetic = crs.geodetic_crs
    if geodetic is None:
        raise CrsRefused(f"{crs.name} has no geographic system beneath it; choose another.")
    try:
        degrees = from_greenwich(geodetic)
        forward = pyproj.Transformer.from_crs(degrees, crs, always_xy=True)
        inverse = pyproj.Transformer.from_crs(crs, degrees, always_xy=True)
    except ProjError:
        raise CrsRefused(f"{crs.name} uses a projection that cannot be computed here; choose another system.") from None
    return forward, inverse


def wkt_forms(text: str) -> tuple[str, str]:
    """The WKT1 and WKT2 definitions of a system; WKT1 is ``undefined`` where it cannot say it."""
    crs = _crs(text)
    try:
        one = crs.to_wkt("WKT1_GDAL")
    except PyprojCrsError:
        one = "undefined"
    return one or "undefined", crs.to_wkt("WKT2_2019")
