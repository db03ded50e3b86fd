"""Degrees from Greenwich for systems that count from Paris, Rome, Lisbon, Oslo, Ferro …, or in grads.

Systems on old meridians state longitudes from their own, some in grads (100 to a right angle). What is typed, searched,
drawn and printed here is degrees from Greenwich, so the geographic system beneath each is counted anew: the same datum,
the same latitudes, longitudes from Greenwich. Nothing is shifted by it.
"""

from __future__ import annotations

import math
from typing import Any

import pyproj

# What would name another datum than the one that is meant here.
_NAMED = ("prime_meridian", "id", "ids")
_DEGREES = {
    "subtype": "ellipsoidal",
    "axis": [
        {"name": "Geodetic latitude", "abbreviation": "Lat", "direction": "north", "unit": "degree"},
        {"name": "Geodetic longitude", "abbreviation": "Lon", "direction": "east", "unit": "degree"},
    ],
}


def meridian_degrees(system: pyproj.CRS) -> float:
    """Degrees from Greenwich to the prime meridian of a system, east positive.

    The meridian has a unit of its own, which is not always that of the axes: one Paris is 2.5969213 grads, the other
    2.33720833… degrees beneath axes in grads (EPSG 8903 and 8914).
    """
    meridian = system.prime_meridian
    return 0.0 if meridian is None else math.degrees(meridian.longitude * float(meridian.unit_conversion_factor))


def counts_from_greenwich(geographic: pyproj.CRS) -> bool:
    """Whether the figures of a geographic system are degrees from Greenwich as they stand."""
    degrees = all(abs(axis.unit_conversion_factor - math.radians(1)) < 1e-12 for axis in geographic.axis_info[:2])
    return degrees and meridian_degrees(geographic) == 0.0


def from_greenwich(geographic: pyproj.CRS) -> pyproj.CRS:
    """A geographic system on the same datum whose figures are degrees from Greenwich; itself where they are."""
    if counts_from_greenwich(geographic):
        return geographic
    stated: dict[str, Any] = geographic.to_json_dict()
    kind = "datum" if "datum" in stated else "datum_ensemble"
    datum = {key: value for key, value in stated[kind].items() if key not in _NAMED}
    return pyproj.CRS.from_json_dict(
        {
            "$schema": stated["$schema"],
            "type": "GeographicCRS",
            "name": f"{geographic.name}, degrees from Greenwich",
            kind: datum,
            "coordinate_system": _DEGREES,
        }
    )


def projected_from_greenwich(projected: pyproj.CRS) -> pyproj.CRS:
    """The same grid stated over degrees from Greenwich, for readers that know no other; itself where it is.

    Its longitudes of origin are counted from Greenwich, so that every place has the coordinates that it had.
    """
    base = projected.geodetic_crs
    if base is None or counts_from_greenwich(base):
        return projected
    moved = meridian_degrees(base)
    stated: dict[str, Any] = projected.to_json_dict()
    conversion = dict(stated["conversion"])
    conversion["parameters"] = [_moved(parameter, moved) for parameter in conversion["parameters"]]
    conversion.pop("id", None)
    beneath = from_greenwich(base).to_json_dict()
    beneath.pop("$schema", None)
    return pyproj.CRS.from_json_dict(
        {
            "$schema": stated["$schema"],
            "type": "ProjectedCRS",
            "name": stated["name"],
            "base_crs": beneath,
            "conversion": conversion,
            "coordinate_system": stated["coordinate_system"],
        }
    )


def _moved(parameter: dict[str, Any], degrees: float) -> dict[str, Any]:
    if not parameter["name"].startswith("Longitude"):
        return {key: value for key, value in parameter.items() if key != "id"}
    unit = parameter["unit"]
    factor = unit["conversion_factor"] if isinstance(unit, dict) else math.radians(1)
    value = math.degrees(parameter["value"] * factor) + degrees
    return {"name": parameter["name"], "value": value, "unit": "degree"}
